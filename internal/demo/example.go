package demo

import (
	"math"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/track"
)

// The shipped example log: a steady tail-in hover, once blown out to the
// pilot's right.
const (
	ExampleDrill  = "hover-tail-in"
	exampleGustAt = 14.0 // s
	exampleGustM  = 1.45 // m to the right, at the most
)

// Example makes the shipped example log.
func Example(cat *drill.Catalogue) (*track.Track, error) {
	d, err := cat.Drill(ExampleDrill)
	if err != nil {
		return nil, err
	}
	task, err := d.Lay(field.NoSide, 1, craft.Light, nil)
	if err != nil {
		return nil, err
	}
	task.Steps[1].Seconds = 34 // long enough for the clock to run out after the gust
	t := Fly(task, Hand{PlaceM: 0.1, HeightM: 0.06, Nose: 0.06, SinkMps: 0.5}, 3)
	for i, s := range t.T {
		u := (s - exampleGustAt) / 1.3
		t.X[i] = math.Round((t.X[i]+exampleGustM*math.Exp(-u*u))*1000) / 1000
	}
	return t, nil
}
