package score

import (
	"fmt"
	"math"

	"maestrale/core/drill"
	"maestrale/core/field"
)

// takeOffKind is a take-off to a height.
type takeOffKind struct{ plainKind }

func (takeOffKind) fly(s *sampler) { s.takeOff() }

func (takeOffKind) measure(s *sampler, i int) {
	s.res.Steps[i].Metrics["takeoff_s"] = s.spans[i].length()
}

// The eye marks when the craft is in position, which may be a while after it is at its height.
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

func (takeOffKind) measureSeen(e *byEye) {
	if sp := e.o.spans[e.i]; !math.IsNaN(sp.from) {
		e.res.Metrics["takeoff_s"] = sp.length()
	}
}

func (takeOffKind) due(*machine) float64 { return math.Inf(1) }

func (takeOffKind) waiting(_ *drill.Target, begun, _ bool) string {
	if !begun {
		return msgMomentGroundFeet
	}
	return "the height"
}

func (takeOffKind) stands(t *drill.Target, _ field.Point, z float64) (string, bool, bool) {
	if z > t.ToHeightM-drill.ReachedM { // it would be done
		return msgUpAlreadyDrill, false, true
	}
	return fmt.Sprintf("%.1f of %.1f m up", math.Max(0, z), t.ToHeightM), false, true
}

func (takeOffKind) ask(*observer, float64) Ask {
	return Ask{Big: "climbing", Small: msgTapWhenPosition, Tap: "in"}
}
