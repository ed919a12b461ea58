package orient

import (
	"math"
	"strings"
	"testing"

	"maestrale/core/field"
)

// What is said of each quarter, by hand.
func TestTheFourQuarters(t *testing.T) {
	for _, k := range []struct {
		deg                        float64
		quarter                    string
		forward, right, left, rule string
	}{
		{0, "tail toward you", "away from you", "to your right", "to your left", "Tail in"},
		{90, "nose to your right", "to your right", "toward you", "away from you", "Side on"},
		{-90, "nose to your left", "to your left", "away from you", "toward you", "Side on"},
		{180, "nose toward you", "toward you", "to your left", "to your right", "Nose in"},
		{135, "nose toward you", "toward you and to your right", "toward you and to your left",
			"away from you and to your right", "Nose in"},
		{-45, "tail toward you", "away from you and to your left", "away from you and to your right",
			"toward you and to your left", ""},
	} {
		h := field.Degrees(k.deg)
		if got := Quarter(h); got != k.quarter {
			t.Errorf("%v°: %s", k.deg, got)
		}
		for p, want := range map[Lean]string{LeanForward: k.forward, LeanRight: k.right, LeanLeft: k.left} {
			if got := WayWords(Goes(h, p)); got != want {
				t.Errorf("%v°, %s: %q, want %q", k.deg, p, got, want)
			}
		}
		if got := DriftRule(h); !strings.HasPrefix(got, k.rule) {
			t.Errorf("%v°: %s", k.deg, got)
		}
	}
	for deg := -180.0; deg <= 180; deg += 5 {
		if NoseIn(field.Degrees(deg)) != (math.Abs(deg) > 90) {
			t.Errorf("%v°: nose in %v", deg, NoseIn(field.Degrees(deg)))
		}
		// Whatever the heading, the push that is named goes against the drift by 45° at least.
		for _, drift := range []field.Point{{X: -1}, {X: 1}, {Y: 1}, {Y: -1}} {
			p, _ := Against(field.Degrees(deg), drift)
			if g := Goes(field.Degrees(deg), p); g.X*drift.X+g.Y*drift.Y > -0.7 {
				t.Errorf("%v°: %s against %v", deg, p, drift)
			}
		}
	}
}
