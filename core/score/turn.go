package score

import (
	"math"
	"regexp"
	"strconv"
	"strings"

	"maestrale/core/drill"
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

var angleCalled = regexp.MustCompile(`\d+(\.\d+)?`)

// calledAngle sets a turn by what a call of the log says, as "turn left 135", and
// returns when it was called; NaN where nothing was.
func (s *sampler) calledAngle(target *drill.Target) float64 {
	for _, c := range s.t.Calls {
		n := angleCalled.FindString(c.Text)
		if c.T < s.ready-1e-9 || n == "" {
			continue
		}
		deg, err := strconv.ParseFloat(n, 64)
		if err != nil || deg < 10 || deg > 3600 {
			continue
		}
		target.By = field.Degrees(deg)
		left := s.task.Side == field.LeftSide
		switch {
		case strings.Contains(c.Text, "left"):
			left = true
		case strings.Contains(c.Text, "right"):
			left = false
		}
		if left {
			target.By = -target.By
		}
		return c.T
	}
	return math.NaN()
}
