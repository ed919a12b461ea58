// Command ticks flies half a minute in gusts again and again and prints what a tick takes in ns: built for this machine,
// and for WebAssembly, which bench/ticks.mjs runs in Chromium (make bench-all).
package main

import (
	"fmt"
	"os"
	"slices"
	"time"

	"maestrale/core/craft"
	"maestrale/core/flight"
	"maestrale/core/rig"
)

const ticks, flights = 15_000, 15

func main() {
	ns, err := measure()
	if err != nil {
		fmt.Fprintln(os.Stderr, "ticks:", err)
		os.Exit(1)
	}
	fmt.Printf("%.1f\n", ns)
}

// measure is the median over the flights.
func measure() (float64, error) {
	c, err := rig.Craft(craft.Shipped()["poiana"])
	if err != nil {
		return 0, err
	}
	var took []float64
	for range flights {
		f, err := flight.New(flight.Config{Craft: c, Wind: flight.Vec{X: 4}, Gusts: flight.Moderate, Seed: 7,
			Start: flight.Vec{Y: 10, Z: 8}, Airborne: true})
		if err != nil {
			return 0, err
		}
		begun := time.Now()
		for range ticks {
			f.Step(flight.Sticks{Pitch: 0.2, Yaw: 0.1})
		}
		took = append(took, float64(time.Since(begun).Nanoseconds())/ticks)
		if f.Ended() {
			return 0, fmt.Errorf("the flight ended: %s", f.State.Cause)
		}
	}
	slices.Sort(took)
	return took[len(took)/2], nil
}
