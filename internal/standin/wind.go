// Package standin holds devices that stand in for real ones and speak the same
// open interface: a wind meter that sends NMEA 0183 sentences over TCP.
package standin

import (
	"context"
	"errors"
	"fmt"
	"net"
	"sync"
	"time"

	"maestrale/core/air"
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
	stop := context.AfterFunc(ctx, func() { _ = l.Close() })
	defer stop()
	var mu sync.Mutex
	listeners := map[net.Conn]chan string{}
	var wg sync.WaitGroup
	defer wg.Wait()
	wg.Go(func() {
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
			line := air.WriteMWV(breeze.Step(now.Sub(time.Date(y, m, d, 0, 0, 0, 0, now.Location())), w.Every))
			mu.Lock()
			for _, c := range listeners {
				select {
				case c <- line:
				default: // who does not listen misses it
				}
			}
			mu.Unlock()
		}
	})
	for {
		conn, err := l.Accept()
		if err != nil {
			if ctx.Err() != nil || errors.Is(err, net.ErrClosed) {
				return nil
			}
			return fmt.Errorf("stand-in wind meter: %w", err)
		}
		lines := make(chan string, 16)
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
