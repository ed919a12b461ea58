package reach

import (
	"bufio"
	"net"
	"sync"
	"time"
)

// firstByte of a connection that begins with TLS: a handshake record (RFC 8446, 5.1).
const firstByte = 0x16

// divide makes two listeners of one: connections that begin with TLS, and the others. Nobody waits for a connection
// that says nothing.
func divide(l net.Listener) (secure, plain net.Listener) {
	a := &part{from: l, conns: make(chan net.Conn), closed: make(chan struct{})}
	b := &part{from: l, conns: make(chan net.Conn), closed: a.closed}
	a.once, b.once = &sync.Once{}, nil
	b.once = a.once
	go func() {
		for {
			c, err := l.Accept()
			if err != nil {
				if t, ok := err.(interface{ Temporary() bool }); ok && t.Temporary() {
					time.Sleep(50 * time.Millisecond)
					continue
				}
				_ = a.Close()
				return
			}
			go func() {
				_ = c.SetReadDeadline(time.Now().Add(10 * time.Second))
				r := bufio.NewReaderSize(c, 4096)
				first, err := r.Peek(1)
				if err != nil {
					_ = c.Close()
					return
				}
				_ = c.SetReadDeadline(time.Time{})
				to := b
				if first[0] == firstByte {
					to = a
				}
				select {
				case to.conns <- &peeked{c, r}:
				case <-to.closed:
					_ = c.Close()
				}
			}()
		}
	}()
	return a, b
}

type part struct {
	from   net.Listener
	conns  chan net.Conn
	closed chan struct{}
	once   *sync.Once
}

func (p *part) Accept() (net.Conn, error) {
	select {
	case c := <-p.conns:
		return c, nil
	case <-p.closed:
		return nil, net.ErrClosed
	}
}

func (p *part) Close() (err error) {
	p.once.Do(func() {
		close(p.closed)
		err = p.from.Close()
	})
	return err
}

func (p *part) Addr() net.Addr { return p.from.Addr() }

// peeked is a connection whose first bytes were looked at.
type peeked struct {
	net.Conn
	r *bufio.Reader
}

func (p *peeked) Read(b []byte) (int, error) { return p.r.Read(b) }
