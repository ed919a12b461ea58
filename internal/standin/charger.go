package standin

import (
	"context"
	"net"
	"sync"
	"time"

	"maestrale/core/pack"
)

// Charger is a stand-in for a table of chargers: it says what each slot does, and is told
// which pack was put in or taken out.
type Charger struct {
	Chargers []*pack.Slots
	Every    time.Duration
	Speed    float64 // times real time
	Log      func(string)
}

// Serve says what the slots do to everyone who connects, until the context ends.
func (k Charger) Serve(ctx context.Context, l net.Listener) error {
	var mu sync.Mutex
	hear := func(line string) {
		o, err := pack.ReadOrder(line)
		if err != nil {
			k.Log("not understood: " + err.Error())
			return
		}
		mu.Lock()
		defer mu.Unlock()
		for _, c := range k.Chargers {
			switch {
			case o.Do == "take" && c.Name == o.Charger:
				c.Take(o.Pack)
			case o.Do == "put" && c.Name == o.Charger:
				if err := c.Put(o.Pack, o.Filling); err != nil {
					k.Log(err.Error())
				}
			case o.Do == "put":
				c.Take(o.Pack) // it lies in one slot alone
			}
		}
	}
	return broadcast(ctx, l, hear, func(say func(string)) {
		tick := time.NewTicker(k.Every)
		defer tick.Stop()
		for {
			select {
			case <-ctx.Done():
				return
			case <-tick.C:
			}
			mu.Lock()
			for _, c := range k.Chargers {
				c.Step(time.Duration(float64(k.Every) * k.Speed))
				for _, t := range c.Tell() {
					t.Seconds /= k.Speed // as the clock on the wall goes
					say(t.Line())
				}
			}
			mu.Unlock()
		}
	})
}
