package main

import (
	"net"
	"sync"
)

// line carries connections from one address on loopback to another, and can be cut and frozen.
type line struct {
	listener net.Listener
	to       string
	mu       sync.Mutex
	open     map[net.Conn]bool
	thaw     chan struct{} // closed while bytes flow
}

func newLine(to string) (*line, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	flowing := make(chan struct{})
	close(flowing)
	w := &line{listener: l, to: to, open: map[net.Conn]bool{}, thaw: flowing}
	go func() {
		for {
			c, err := l.Accept()
			if err != nil {
				return
			}
			go w.carry(c)
		}
	}()
	return w, nil
}

func (w *line) addr() string { return w.listener.Addr().String() }

func (w *line) carry(in net.Conn) {
	out, err := net.Dial("tcp", w.to)
	if err != nil {
		_ = in.Close()
		return
	}
	w.mu.Lock()
	w.open[in], w.open[out] = true, true
	w.mu.Unlock()
	var both sync.WaitGroup
	for _, way := range [][2]net.Conn{{in, out}, {out, in}} {
		both.Go(func() {
			buf := make([]byte, 16<<10)
			for {
				n, err := way[0].Read(buf)
				w.mu.Lock()
				flowing := w.thaw
				w.mu.Unlock()
				<-flowing
				if n > 0 {
					if _, err := way[1].Write(buf[:n]); err != nil {
						break
					}
				}
				if err != nil {
					break
				}
			}
			_, _ = in.Close(), out.Close()
		})
	}
	both.Wait()
	w.mu.Lock()
	delete(w.open, in)
	delete(w.open, out)
	w.mu.Unlock()
}

// cut ends every connection, with a reset where it can.
func (w *line) cut() {
	w.mu.Lock()
	defer w.mu.Unlock()
	for c := range w.open {
		if t, ok := c.(*net.TCPConn); ok {
			_ = t.SetLinger(0)
		}
		_ = c.Close()
	}
}

// freeze stops the bytes until the returned function is called; nobody is told.
func (w *line) freeze() (thaw func()) {
	w.mu.Lock()
	defer w.mu.Unlock()
	frozen := make(chan struct{})
	w.thaw = frozen
	return func() { close(frozen) }
}

func (w *line) close() { _ = w.listener.Close() }
