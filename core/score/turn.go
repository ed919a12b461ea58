package score

import (
	"math"

	"maestrale/core/field"
)

const wrongWay = field.Angle(20 * math.Pi / 180)

// turn follows the nose through a turn; angles grow the asked way.
type turn struct {
	asked, within  field.Angle
	begins         field.Angle // the turn begins when the nose has left its first value by this
	turned         field.Angle
	furthest       field.Angle
	tenth, nineTen float64 // when a tenth and nine tenths of the turn were passed
	wrong, beyond  int     // faults, −1
}

func newTurn(asked, within field.Angle) *turn {
	return &turn{asked: asked, within: within, begins: field.Degrees(5), tenth: math.NaN(), nineTen: math.NaN(), wrong: -1, beyond: -1}
}

// pass notes when the nose passes a tenth and nine tenths of the turn.
func (t *turn) pass(was, now field.Angle, at func(field.Angle) float64) {
	if a := t.asked * 0.1; math.IsNaN(t.tenth) && was < a && now >= a {
		t.tenth = at(a)
	}
	if a := t.asked * 0.9; math.IsNaN(t.nineTen) && was < a && now >= a {
		t.nineTen = at(a)
	}
	t.furthest = max(t.furthest, now)
	t.turned = now
}

// rate returns the mean rate over the middle eight tenths of the turn, where
// the starting and the stopping are left out.
func (t *turn) rate() (float64, bool) {
	if math.IsNaN(t.tenth) || math.IsNaN(t.nineTen) || t.nineTen <= t.tenth {
		return 0, false
	}
	return float64(t.asked) * 0.8 / (t.nineTen - t.tenth), true
}
