// Package device keeps connections to the schools' devices in the field: on this machine or
// on the school's own network, again and again while the school wants them.
package device

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/netip"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"
)

const (
	lookEvery = 3 * time.Second // for devices that were set or changed
	retryMost = 30 * time.Second
)

// Watch keeps listening to every device of a list, which is asked for anew every few
// seconds, until the context ends. open gives a device's address and what listens to it
// once; when that ends it is called again, after a while that grows while it fails.
func Watch[D comparable](ctx context.Context, log *slog.Logger, what string, list func(context.Context) ([]D, error),
	open func(D) (addr string, listen func(context.Context) error)) {
	running := map[D]context.CancelFunc{}
	var wg sync.WaitGroup
	defer wg.Wait()
	tick := time.NewTicker(lookEvery)
	defer tick.Stop()
	for {
		all, err := list(ctx)
		if err != nil && ctx.Err() == nil {
			log.WarnContext(ctx, what, "error", err)
		} else if err == nil {
			wanted := map[D]bool{}
			for _, d := range all {
				wanted[d] = true
				if running[d] == nil {
					one, cancel := context.WithCancel(ctx)
					running[d] = cancel
					addr, listen := open(d)
					wg.Go(func() { again(one, log.With("device", what, "addr", addr), listen) })
				}
			}
			for d, cancel := range running {
				if !wanted[d] {
					cancel()
					delete(running, d)
				}
			}
		}
		select {
		case <-ctx.Done():
			for _, cancel := range running {
				cancel()
			}
			return
		case <-tick.C:
		}
	}
}

// again listens to one device again and again.
func again(ctx context.Context, log *slog.Logger, listen func(context.Context) error) {
	wait := time.Second
	for ctx.Err() == nil {
		begun := time.Now()
		err := listen(ctx)
		if ctx.Err() != nil {
			return
		}
		if time.Since(begun) > retryMost {
			wait = time.Second
		}
		log.InfoContext(ctx, "not heard", "error", err, "again_s", wait.Seconds())
		select {
		case <-ctx.Done():
			return
		case <-time.After(wait):
		}
		wait = min(2*wait, retryMost)
	}
}

// ErrLong is a line longer than anything that a device says.
var ErrLong = errors.New("a line longer than a sentence")

// ReadLine reads one line of so many bytes at most; it throws away what is longer, with
// ErrLong, in no more memory than the reader has.
func ReadLine(in *bufio.Reader, most int) ([]byte, error) {
	line, err := in.ReadSlice('\n')
	if err == nil && len(line) <= most {
		return line, nil
	}
	for errors.Is(err, bufio.ErrBufferFull) {
		_, err = in.ReadSlice('\n')
		if err == nil {
			return nil, ErrLong
		}
	}
	if err == nil {
		return nil, ErrLong
	}
	if errors.Is(err, io.EOF) && len(line) > 0 {
		return nil, io.ErrUnexpectedEOF
	}
	return nil, err
}

// Dial connects to a device of the school: on this machine or on its own network.
func Dial(ctx context.Context, addr string) (net.Conn, error) {
	d := net.Dialer{Timeout: 5 * time.Second, Control: onlyNear}
	conn, err := d.DialContext(ctx, "tcp", addr)
	if err != nil {
		return nil, fmt.Errorf("connect: %w", err)
	}
	return conn, nil
}

// onlyNear lets a device stand on this machine or on the school's own network and nowhere else: its address is typed by
// a person, and a name may lead anywhere.
func onlyNear(_, address string, _ syscall.RawConn) error {
	ap, err := netip.ParseAddrPort(address)
	if err != nil {
		return fmt.Errorf("address %q: %w", address, err)
	}
	return allowed(ap)
}

// allowed refuses what is no device of the school's.
func allowed(ap netip.AddrPort) error {
	if !Near(ap.Addr()) {
		return fmt.Errorf("%s is on no network of the school's own; expected a loopback or private address", ap.Addr())
	}
	if isDenied(ap) {
		return fmt.Errorf("%s is the school's database; expected the address of a device", ap)
	}
	return nil
}

// Near tells whether an address is of this machine or a private network. Link-local addresses are not: services of the
// machine itself answer there, and no device that is reached through a name or a router.
func Near(a netip.Addr) bool {
	a = a.Unmap()
	return (a.IsLoopback() || a.IsPrivate()) && !a.IsLinkLocalUnicast()
}

// CheckAddr refuses an address that is no HOST:PORT, a number elsewhere, or the database's own.
func CheckAddr(addr string) error {
	host, port, err := net.SplitHostPort(addr)
	n, nerr := strconv.ParseUint(port, 10, 16)
	if err != nil || host == "" || nerr != nil || n == 0 {
		return fmt.Errorf("the address %q; expected HOST:PORT", addr)
	}
	a, err := netip.ParseAddr(host)
	if err != nil {
		if !strings.EqualFold(host, "localhost") {
			return nil // a name: it is looked at when it is connected to
		}
		a = netip.AddrFrom4([4]byte{127, 0, 0, 1})
	}
	return allowed(netip.AddrPortFrom(a, uint16(n)))
}

// denied are addresses at which no device is listened to.
var denied sync.Map // netip.AddrPort to nothing

// Deny makes it known that a host and port are the database's, and no device's.
func Deny(ctx context.Context, host string, port uint16) {
	all, err := net.DefaultResolver.LookupNetIP(ctx, "ip", host)
	if err != nil {
		return // the database cannot be reached there either
	}
	for _, a := range all {
		denied.Store(netip.AddrPortFrom(a.Unmap(), port), struct{}{})
	}
}

// isDenied tells whether an address leads to the database: a database on this machine is reached at each of its
// addresses.
func isDenied(ap netip.AddrPort) (is bool) {
	ap = netip.AddrPortFrom(ap.Addr().Unmap().WithZone(""), ap.Port())
	denied.Range(func(k, _ any) bool {
		d := k.(netip.AddrPort)
		is = d == ap || d.Port() == ap.Port() && ours(d.Addr()) && ours(ap.Addr())
		return !is
	})
	return is
}

// ours tells whether an address is one of this machine's.
func ours(a netip.Addr) bool {
	if a.IsLoopback() {
		return true
	}
	all, err := net.InterfaceAddrs()
	if err != nil {
		return false
	}
	for _, x := range all {
		if p, err := netip.ParsePrefix(x.String()); err == nil && p.Addr().Unmap() == a {
			return true
		}
	}
	return false
}
