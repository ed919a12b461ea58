// Package standin holds devices that stand in for real ones and speak the same
// open interface: a wind meter and a position stream that send NMEA
// 0183 sentences over TCP.
package standin

import (
	"context"
	"errors"
	"fmt"
	"net"
	"sync"
	"time"

	"maestrale/core/air"
	"maestrale/core/field"
	"maestrale/core/track"
)

// Wind is a stand-in wind meter.
type Wind struct {
	Seed  uint64
	Every time.Duration // between sentences
	// Now gives the time of day that the breeze follows.
	Now func() time.Time
}

// Serve sends the wind to everyone who connects, until the context ends.
func (w Wind) Serve(ctx context.Context, l net.Listener) error {
	return broadcast(ctx, l, func(say func(string)) {
		tick := time.NewTicker(w.Every)
		defer tick.Stop()
		breeze := air.NewSeaBreeze(w.Seed)
		for {
			select {
			case <-ctx.Done():
				return
			case <-tick.C:
			}
			now := w.Now()
			y, m, d := now.Date()
			say(air.WriteMWV(breeze.Step(now.Sub(time.Date(y, m, d, 0, 0, 0, 0, now.Location())), w.Every)))
		}
	})
}

// Position is a stand-in position stream: a track, flown as the clock goes.
type Position struct {
	Track *track.Track
	Plane *field.Plane
	Speed float64 // times real time
	Loop  bool    // again and again
	Now   func() time.Time
}

// Serve sends NMEA 0183 sentences (RMC, HDT, GGA) to everyone who connects, until the
// track ends or the context does. Its times are of now.
func (p Position) Serve(ctx context.Context, l net.Listener) error {
	ctx, over := context.WithCancel(ctx)
	defer over()
	return broadcast(ctx, l, func(say func(string)) {
		defer over()
		for {
			begin := p.Now()
			lines, after := track.Stream(p.Track, p.Plane, begin)
			for i, line := range lines {
				due := time.NewTimer(time.Duration(float64(after[i])/p.Speed) - p.Now().Sub(begin))
				select {
				case <-ctx.Done():
					due.Stop()
					return
				case <-due.C:
				}
				say(line)
			}
			if !p.Loop {
				// What is still on the lines goes out first.
				select {
				case <-ctx.Done():
				case <-time.After(300 * time.Millisecond):
				}
				return
			}
		}
	})
}

// broadcast runs a device, and hands what it says to everyone who connects, until the
// context ends. Who does not listen misses it.
func broadcast(ctx context.Context, l net.Listener, device func(say func(string))) error {
	stop := context.AfterFunc(ctx, func() { _ = l.Close() })
	defer stop()
	var mu sync.Mutex
	listeners := map[net.Conn]chan string{}
	var wg sync.WaitGroup
	defer wg.Wait()
	wg.Go(func() {
		device(func(line string) {
			mu.Lock()
			defer mu.Unlock()
			for _, c := range listeners {
				select {
				case c <- line:
				default:
				}
			}
		})
	})
	for {
		conn, err := l.Accept()
		if err != nil {
			if ctx.Err() != nil || errors.Is(err, net.ErrClosed) {
				return nil
			}
			return fmt.Errorf("stand-in: %w", err)
		}
		lines := make(chan string, 64)
		mu.Lock()
		listeners[conn] = lines
		mu.Unlock()
		wg.Go(func() {
			defer func() {
				mu.Lock()
				delete(listeners, conn)
				mu.Unlock()
				_ = conn.Close()
			}()
			for {
				select {
				case <-ctx.Done():
					return
				case line := <-lines:
					_ = conn.SetWriteDeadline(time.Now().Add(5 * time.Second))
					if _, err := conn.Write([]byte(line)); err != nil {
						return
					}
				}
			}
		})
	}
}
