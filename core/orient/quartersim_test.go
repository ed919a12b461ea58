package orient_test

import (
	"math"
	"testing"

	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/core/flight"
	"maestrale/core/orient"
	"maestrale/core/rig"
)

// The simulator flies where the page says that a push goes.
func TestTheSimulatorGoesWhereAPushGoes(t *testing.T) {
	cfg, err := rig.Base(craft.Shipped()["poiana"], nil)
	if err != nil {
		t.Fatal(err)
	}
	for deg := -180.0; deg < 180; deg += 45 {
		for _, p := range orient.Leans {
			c := cfg
			c.Aids, c.Airborne, c.Start.Z, c.Heading = flight.PositionHold, true, 5, float64(field.Degrees(deg))
			f, err := flight.New(c)
			if err != nil {
				t.Fatal(err)
			}
			k := flight.Sticks{Aids: flight.PositionHold}
			switch p {
			case orient.LeanForward:
				k.Pitch = 0.5
			case orient.LeanBack:
				k.Pitch = -0.5
			case orient.LeanRight:
				k.Roll = 0.5
			case orient.LeanLeft:
				k.Roll = -0.5
			}
			from := f.State.Pos
			for range 400 {
				f.Step(k)
			}
			way := field.Point{X: f.State.Pos.X - from.X, Y: f.State.Pos.Y - from.Y}
			want := orient.Goes(field.Degrees(deg), p)
			if far := math.Hypot(way.X, way.Y); far < 0.1 || (way.X*want.X+way.Y*want.Y)/far < 0.97 {
				t.Errorf("%v°, %s: it goes %v, and %v is said", deg, p, way, want)
			}
		}
	}
}
