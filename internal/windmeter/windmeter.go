// Package windmeter listens to the schools' wind meters: NMEA 0183 wind
// sentences over TCP. A meter that stops is heard of no more and asked again; one
// that floods is slowed down; what is no sound sentence is counted and dropped.
package windmeter

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"sync"
	"time"

	"maestrale/core/air"
	"maestrale/core/field"
	"maestrale/internal/device"
	"maestrale/internal/store"
)

const (
	writeEvery = 3 * time.Second  // the wind of now
	keepEvery  = time.Minute      // a reading for the record
	silence    = 15 * time.Second // after which the line is taken for dead
	mostLines  = 200              // a second; what comes beyond waits
)

// Listener listens to every school's meter.
type Listener struct {
	Store *store.Store
	Log   *slog.Logger
}

// Run listens until the context ends.
func (l Listener) Run(ctx context.Context) {
	device.Watch(ctx, l.Log, "wind meter", l.Store.Meters, func(m store.MeterOf) (string, func(context.Context) error) {
		h := &hearing{meter: &air.Meter{}, zero: field.Degrees(m.ZeroDeg)}
		return m.Addr, func(ctx context.Context) error { return l.connect(ctx, m, h) }
	})
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
	conn, err := device.Dial(ctx, m.Addr)
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
		line, err := device.ReadLine(in, air.MaxSentence)
		if err != nil && !errors.Is(err, device.ErrLong) {
			return fmt.Errorf("read: %w", err)
		}
		h.hear(string(line), err, time.Now())
	}
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
		return store.WindNow{Dropped: int64(h.meter.Dropped), Flooded: int64(h.meter.Flooded), Why: h.meter.Why}, false,
			h.meter.Dropped > 0
	}
	short, long := h.meter.Over(air.ShortSpan, last), h.meter.Over(air.LongSpan, last)
	from := func(a field.Angle) float64 { return (a + h.zero).Compass() }
	w = store.WindNow{At: last, Mps: short.Mean, Gust: short.Gust, From: from(short.From), LongMps: long.Mean,
		LongGust: long.Gust, LongFrom: from(long.From), Steady: short.Steady,
		Sound: int64(h.meter.Sound), Dropped: int64(h.meter.Dropped), Flooded: int64(h.meter.Flooded), Stuck: h.meter.Stuck(),
		Why: h.meter.Why}
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
