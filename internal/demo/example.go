package demo

import (
	"maestrale/core/drill"
	"maestrale/core/flight/trace"
	"maestrale/core/track"
	"maestrale/internal/demo/pilot"
	"maestrale/internal/demo/weeks"
)

// The shipped example log: a steady tail-in hover in height hold that a gust blows
// out to the pilot's right, once.
const (
	ExampleDrill  = "hover-tail-in"
	exampleGustAt = 14.0 // s
	exampleGust   = "gust=9"
	exampleShare  = 0.12
	exampleSeed   = 0
)

// Example makes the shipped example log.
func Example(cat *drill.Catalogue) (*track.Track, error) {
	spec := trace.Spec{Craft: "poiana", Drill: ExampleDrill, Side: "none", Level: 1, Aids: "height-hold", WindMps: 0.5,
		WindFromDeg: 270, Gusts: "none", Seed: exampleSeed}
	f, err := pilot.Fly(spec, cat, pilot.Of(exampleShare, 1), exampleSeed, pilot.Event{AtS: exampleGustAt,
		Text: exampleGust})
	if err != nil {
		return nil, err
	}
	return weeks.Log(f.Track), nil
}
