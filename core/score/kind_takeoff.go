package score

import (
	"fmt"
	"math"

	"maestrale/core/drill"
	"maestrale/core/field"
)

// takeOffKind is a take-off to a height. It has no limits of its own but its
// longest time.
type takeOffKind struct{ plainKind }

// fly follows the climb (samples.go).
func (takeOffKind) fly(s *sampler) { s.takeOff() }

// measure writes down how long the take-off took.
func (takeOffKind) measure(s *sampler, i int) {
	s.res.Steps[i].Metrics["takeoff_s"] = s.spans[i].length()
}

// see takes "in" as the end. An eye marks when the craft is in position, which
// may be a while after it is at its height, so that the time is kept but not
// judged (timeOut).
func (takeOffKind) see(o *observer, m Mark) bool {
	switch m.Mark {
	case "start":
		o.started(m.TS)
	case "in":
		o.in = true
		if math.IsNaN(o.start) {
			o.started(m.TS)
		}
		o.reached(m.TS)
		o.enterIfIn()
	default:
		return false
	}
	return true
}

// measureSeen keeps the time until the craft was in position.
func (takeOffKind) measureSeen(e *byEye) {
	if sp := e.o.spans[e.i]; !math.IsNaN(sp.from) {
		e.res.Metrics["takeoff_s"] = sp.length()
	}
}

// due is never: the height completes a take-off, and no clock does.
func (takeOffKind) due(*machine) float64 { return math.Inf(1) }

// waiting is for a moment on the ground, from which the take-off begins, and
// then for the height.
func (takeOffKind) waiting(_ *drill.Target, begun, _ bool) string {
	if !begun {
		return msgWaitsOnGround
	}
	return "the height"
}

// stands says how far up the craft is. One that is up already would pass at
// once, and is told to begin on the ground.
func (takeOffKind) stands(t *drill.Target, _ field.Point, z float64) (string, bool, bool) {
	if z > t.ToHeightM-drill.ReachedM { // it would be done
		return msgAlreadyUp, false, true
	}
	return fmt.Sprintf("%.1f of %.1f m up", math.Max(0, z), t.ToHeightM), false, true
}

// ask has one question: tap when in position.
func (takeOffKind) ask(*observer, float64) Ask {
	return Ask{Big: "climbing", Small: msgTapInPosition, Tap: "in"}
}
