// Package standin holds devices that stand in for real ones and speak the same
// open interface: a wind meter and a position stream that send NMEA
// 0183 sentences over TCP, and a charger that sends lines of JSON.
package standin

import (
	"context"
	"net"
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
	return broadcast(ctx, l, nil, func(say func(string)) {
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
