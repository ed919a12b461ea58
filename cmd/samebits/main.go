// Samebits flies every shipped craft for a minute in gusts and prints the hash of
// each flight. Built for several platforms it has to print the same: the test
// beside core/flight compares.
package main

import (
	"fmt"
	"os"

	"maestrale/core/craft"
	"maestrale/core/flight"
	"maestrale/core/rig"
)

func main() {
	types := craft.Shipped()
	for _, key := range types.Keys() {
		c, err := rig.Craft(types[key])
		if err != nil {
			fmt.Fprintln(os.Stderr, err)
			os.Exit(2)
		}
		for _, aids := range []flight.Aids{flight.PositionHold, flight.HeightHold, flight.SelfLevel, flight.RateOnly} {
			if !c.Limits[aids].Has {
				continue
			}
			f, err := flight.New(flight.Config{Craft: c, Aids: aids, Airborne: true, Start: flight.Vec{Y: 10, Z: 300},
				Wind: flight.Vec{X: 3, Y: -2}, Gusts: flight.Moderate, Seed: 42})
			if err != nil {
				fmt.Fprintln(os.Stderr, err)
				os.Exit(2)
			}
			var rows []flight.Row
			for i := range 60 {
				x := float64(i%7-3) / 4
				rows = append(rows, flight.Row{T: float64(i), Sticks: flight.Sticks{Aids: aids, Throttle: x / 5, Yaw: -x,
					Pitch: x / 2, Roll: float64(i%5-2) / 6, Frame: flight.Frame(i / 20)}})
			}
			rows[30].Events = []flight.Event{{Kind: flight.Gust, Value: 8}, {Kind: flight.CompassError, Value: 20}}
			o, err := f.Run(rows, 60, nil)
			if err != nil {
				fmt.Fprintln(os.Stderr, err)
				os.Exit(2)
			}
			fmt.Println(key, aids, o.Ticks, o.Ended, o.Hash)
		}
	}
}
