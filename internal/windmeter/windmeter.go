// Package windmeter listens to the schools' wind meters: NMEA 0183 wind
// sentences over TCP. A meter that stops is heard of no more and asked again; one
// that floods is slowed down; what is no sound sentence is counted and dropped.
package windmeter

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/netip"
	"sync"
	"syscall"
	"time"

	"maestrale/core/air"
	"maestrale/core/field"
	"maestrale/internal/store"
)

const (
	lookEvery  = 3 * time.Second  // for meters that were set or changed
	writeEvery = 3 * time.Second  // the wind of now
	keepEvery  = time.Minute      // a reading for the record
	silence    = 15 * time.Second // after which the line is taken for dead
	retryMost  = 30 * time.Second
	mostLines  = 200 // a second; what comes beyond waits
)

// Listener listens to every school's meter.
type Listener struct {
	Store *store.Store
	Log   *slog.Logger
}

// Run listens until the context ends.
func (l Listener) Run(ctx context.Context) {
	running := map[store.MeterOf]context.CancelFunc{}
	var wg sync.WaitGroup
	defer wg.Wait()
	tick := time.NewTicker(lookEvery)
	defer tick.Stop()
	for {
		list, err := l.Store.Meters(ctx)
		if err != nil && ctx.Err() == nil {
			l.Log.WarnContext(ctx, "wind meters", "error", err)
		} else if err == nil {
			wanted := map[store.MeterOf]bool{}
			for _, m := range list {
				wanted[m] = true
				if running[m] == nil {
					one, cancel := context.WithCancel(ctx)
					running[m] = cancel
					wg.Go(func() { l.listen(one, m) })
				}
			}
			for m, cancel := range running {
				if !wanted[m] {
					cancel()
					delete(running, m)
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

// listen connects to one meter again and again.
func (l Listener) listen(ctx context.Context, m store.MeterOf) {
	h := &hearing{meter: &air.Meter{}, zero: field.Degrees(m.ZeroDeg)}
	wait := time.Second
	for ctx.Err() == nil {
		begun := time.Now()
		err := l.connect(ctx, m, h)
		if ctx.Err() != nil {
			return
		}
		if time.Since(begun) > retryMost {
			wait = time.Second
		}
		l.Log.InfoContext(ctx, "wind meter", "addr", m.Addr, "error", err, "again_s", wait.Seconds())
		select {
		case <-ctx.Done():
			return
		case <-time.After(wait):
		}
		wait = min(2*wait, retryMost)
	}
}

// hearing is what was heard of one meter, over its connections.
type hearing struct {
	mu     sync.Mutex
	meter  *air.Meter
	zero   field.Angle
	kept   time.Time
	second int64
	lines  int
}

func (l Listener) connect(ctx context.Context, m store.MeterOf, h *hearing) error {
	conn, err := Dial(ctx, m.Addr)
	if err != nil {
		return err
	}
	stop := context.AfterFunc(ctx, func() { _ = conn.Close() })
	defer stop()
	defer func() { _ = conn.Close() }()
	done := make(chan struct{})
	defer close(done)
	go l.write(ctx, m, h, done)
	in := bufio.NewReaderSize(conn, 256)
	for {
		_ = conn.SetReadDeadline(time.Now().Add(silence))
		line, err := readLine(in)
		if err != nil && !errors.Is(err, errLong) {
			return fmt.Errorf("read: %w", err)
		}
		h.hear(string(line), err, time.Now())
	}
}

var errLong = errors.New("a line longer than a sentence")

// readLine reads one line and throws away what is too long for a sentence, in
// no more memory than the reader has.
func readLine(in *bufio.Reader) ([]byte, error) {
	line, err := in.ReadSlice('\n')
	if err == nil && len(line) <= air.MaxSentence {
		return line, nil
	}
	for errors.Is(err, bufio.ErrBufferFull) {
		_, err = in.ReadSlice('\n')
		if err == nil {
			return nil, errLong
		}
	}
	if err == nil {
		return nil, errLong
	}
	if errors.Is(err, io.EOF) && len(line) > 0 {
		return nil, io.ErrUnexpectedEOF
	}
	return nil, err
}

func (h *hearing) hear(line string, long error, now time.Time) {
	h.mu.Lock()
	if s := now.Unix(); s != h.second {
		h.second, h.lines = s, 0
	}
	h.lines++
	slow := h.lines > mostLines
	if long != nil {
		h.meter.Drop(long.Error())
	} else {
		h.meter.Hear(line, now)
	}
	h.mu.Unlock()
	if slow { // the line fills up, and the meter has to wait
		time.Sleep(time.Until(time.Unix(now.Unix()+1, 0)))
	}
}

// now is the wind as it stands, and whether it is time to keep a reading; ok is
// false where nothing was heard. Where nothing sound was, it has the counts alone.
func (h *hearing) now(at time.Time) (w store.WindNow, keep, ok bool) {
	h.mu.Lock()
	defer h.mu.Unlock()
	last := h.meter.Last()
	if last.IsZero() {
		return store.WindNow{Dropped: int64(h.meter.Dropped), Flooded: int64(h.meter.Flooded), Why: h.meter.Why}, false, h.meter.Dropped > 0
	}
	short, long := h.meter.Over(air.ShortSpan, last), h.meter.Over(air.LongSpan, last)
	from := func(a field.Angle) float64 { return (a + h.zero).Compass() }
	w = store.WindNow{At: last, Mps: short.Mean, Gust: short.Gust, From: from(short.From), LongMps: long.Mean, LongGust: long.Gust, LongFrom: from(long.From), Steady: short.Steady,
		Sound: int64(h.meter.Sound), Dropped: int64(h.meter.Dropped), Flooded: int64(h.meter.Flooded), Stuck: h.meter.Stuck(), Why: h.meter.Why}
	if at.Sub(h.kept) >= keepEvery && air.Fresh(at.Sub(last), true) {
		h.kept, keep = at, true
	}
	return w, keep, true
}

func (l Listener) write(ctx context.Context, m store.MeterOf, h *hearing, done <-chan struct{}) {
	tick := time.NewTicker(writeEvery)
	defer tick.Stop()
	first := time.NewTimer(1200 * time.Millisecond) // soon after the first sentences
	defer first.Stop()
	for {
		select {
		case <-done:
			return
		case <-ctx.Done():
			return
		case <-tick.C:
		case <-first.C:
		}
		if err := l.keep(ctx, m, h, time.Now()); err != nil && ctx.Err() == nil {
			l.Log.WarnContext(ctx, "wind meter", "error", err)
		}
	}
}

// keep writes the wind of a moment, unless the school has taken the meter away.
func (l Listener) keep(ctx context.Context, m store.MeterOf, h *hearing, at time.Time) error {
	w, keep, ok := h.now(at)
	if !ok {
		return nil
	}
	return l.Store.InSchool(ctx, m.School, func(tx store.Tx) error {
		if has, err := tx.HasMeter(ctx, m); err != nil || !has {
			return err
		}
		if err := tx.SetWindNow(ctx, w); err != nil || !keep {
			return err
		}
		return tx.KeepWindNow(ctx, w)
	})
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

// onlyNear lets a meter stand on this machine or on the school's own network
// and nowhere else: its address is typed by a person.
func onlyNear(_, address string, _ syscall.RawConn) error {
	ap, err := netip.ParseAddrPort(address)
	if err != nil {
		return fmt.Errorf("address %q: %w", address, err)
	}
	if !Near(ap.Addr()) {
		return fmt.Errorf("%s is on no network of the school's own; expected a loopback, private or link-local address", ap.Addr())
	}
	return nil
}

// Near tells whether an address is of this machine or a private network.
func Near(a netip.Addr) bool {
	a = a.Unmap()
	return a.IsLoopback() || a.IsPrivate() || a.IsLinkLocalUnicast()
}

// CheckAddr refuses an address that is no HOST:PORT, or a number elsewhere.
func CheckAddr(addr string) error {
	host, port, err := net.SplitHostPort(addr)
	if err != nil || host == "" || port == "" {
		return fmt.Errorf("the address %q; expected HOST:PORT", addr)
	}
	if a, err := netip.ParseAddr(host); err == nil && !Near(a) {
		return fmt.Errorf("the address %q is on no network of the school's own; expected a loopback, private or link-local address", addr)
	}
	return nil
}
