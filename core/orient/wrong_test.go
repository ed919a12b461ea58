package orient

import (
	"math"
	"testing"

	"maestrale/core/field"
)

func TestClosing(t *testing.T) {
	var known Posterior
	known[180] = 1 // the nose points at the pilot
	for push, want := range map[float64]float64{0: 1, 180: -1, 90: 0, -60: 0.5} {
		if got := known.Closing(field.Degrees(push)); math.Abs(got-want) > 1e-9 {
			t.Errorf("nose-in, pushed at %v°: %v, want %v", push, got, want)
		}
	}
	nothing := Anything()
	if got := nothing.Closing(1); math.Abs(got) > 1e-9 {
		t.Errorf("nothing is known: %v", got)
	}
}

// Each threshold of a wrong input, with a case on each side.
func TestWrongInputs(t *testing.T) {
	push := func(from, to, off, closing float64) Stretch {
		return Stretch{From: from, To: to, Pushed: true, Push: field.Degrees(off), Closing: closing}
	}
	rest := func(from, to float64) Stretch { return Stretch{From: from, To: to} }
	for _, c := range []struct {
		name  string
		list  []Stretch
		count int
		first float64
	}{
		{"nothing", nil, 0, 0},
		{"toward home", []Stretch{push(1, 2, 0, 0.5)}, 0, 0},
		{"hardly away", []Stretch{push(1, 2, 0, -0.2)}, 0, 0},
		{"away", []Stretch{push(1, 2, 0, -0.21)}, 1, 1},
		{"too short", []Stretch{push(1, 1.39, 0, -1)}, 0, 0},
		{"long enough", []Stretch{push(1, 1.41, 0, -1)}, 1, 1},
		{"two seconds are one", []Stretch{push(1, 2, 0, -1), push(2, 3, 0, -1)}, 1, 1},
		{"more are two", []Stretch{push(1, 2, 0, -1), push(2, 3, 0, -1), push(3, 4, 0, -1)}, 2, 1},
		{"as it was found wrong, it was let go", []Stretch{push(1, 2, 0, 0), push(2, 3, 0, -1)}, 0, 0},
		{"the same way within 40°", []Stretch{push(1, 2, 0, -1), push(2, 3, 40, -1)}, 1, 1},
		{"another way", []Stretch{push(1, 2, 0, -1), push(2, 3, 41, -1)}, 2, 1},
		{"again after a rest", []Stretch{rest(0, 1), push(1, 2, 0, -1), rest(2, 3), push(3, 4, 0, -1)}, 2, 1},
	} {
		if n, first := WrongInputs(c.list); n != c.count || first != c.first {
			t.Errorf("%s: %d from %v s, want %d from %v s", c.name, n, first, c.count, c.first)
		}
	}
}
