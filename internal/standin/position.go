package standin

import (
	"context"
	"net"
	"time"

	"maestrale/core/field"
	"maestrale/core/track"
)

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
	return broadcast(ctx, l, nil, func(say func(string)) {
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
