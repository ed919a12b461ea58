package score

import (
	"strings"
	"testing"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/track"
)

// While it is flown, a hover is told how it stands: climbing, out and where, too high, in,
// and down; and in the end it is what the scorer says of the whole.
func TestAFlightAsItGoesOn(t *testing.T) {
	d := drill.Shipped().Drills["hover-tail-in"]
	task, err := d.Lay(field.NoSide, 1, craft.Light, nil)
	if err != nil {
		t.Fatal(err)
	}
	tr := &track.Track{}
	at := 0.0
	stay := func(seconds, x, z float64) Live {
		t.Helper()
		var l Live
		for range int(seconds * 10) {
			tr.T, tr.X, tr.Y, tr.Z, tr.Heading = append(tr.T, at), append(tr.X, x), append(tr.Y, 6), append(tr.Z,
				z), append(tr.Heading, 0)
			at += 0.1
		}
		if l, err = LiveOf(task, tr); err != nil {
			t.Fatal(err)
		}
		return l
	}
	says := func(l Live, step int, inside bool, words string) {
		t.Helper()
		if l.Step != step || l.Inside != inside || !strings.Contains(l.Words, words) {
			t.Errorf("%+v; expected step %d, %q", l, step, words)
		}
	}
	says(stay(1, 0, 0), 0, false, "0.0 of 1.5 m up")
	says(stay(0.5, 0, 0.8), 0, false, "0.8 of 1.5 m up")
	says(stay(1, 1.9, 1.5), 1, false, "1.9 m to the right")
	says(stay(1, -1.4, 1.5), 1, false, "1.4 m to the left")
	says(stay(1, 0, 2.4), 1, false, "0.9 m too high")
	says(stay(5, 0.1, 1.5), 1, true, "in")
	says(stay(2, 1.6, 1.5), 1, false, "1.6 m to the right")
	if l := stay(24, 0.1, 1.5); len(l.Faults) != 1 {
		t.Errorf("%+v", l)
	} else {
		says(l, 2, true, "land: 1.5 m up, over the place")
	}
	says(stay(0.3, 0.1, 0.6), 2, true, "over the place")
	if l := stay(3, 0.1, 0); !l.Done || l.Words != "all steps done" {
		t.Errorf("%+v", l)
	}
	// A path says how far off it is.
	eight, err := drill.Shipped().Drills["eight-kept"].Lay(field.LeftSide, 1, craft.Light, nil)
	if err != nil {
		t.Fatal(err)
	}
	for i := range eight.Steps {
		if s := &eight.Steps[i]; s.Path != nil {
			p, _ := s.Path.At(1)
			if w, in := stands(s, p.Flat(), p.Z); !in || w != "on the way" {
				t.Errorf("%q", w)
			}
			if w, in := stands(s, field.Point{X: 40, Y: 40}, p.Z); in || !strings.Contains(w, "off the line") {
				t.Errorf("%q", w)
			}
		}
	}
}
