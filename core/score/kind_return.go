package score

import (
	"fmt"
	"math"

	"maestrale/core/drill"
	"maestrale/core/field"
)

// returnKind is a flight home by itself, set off by the pilot, a lost link or
// an empty pack. The pilot watches it to the ground or, where TakeOverS is set,
// takes over after that time and not before.
type returnKind struct{ plainKind }

// criteria judges where the craft landed or, where the pilot takes over, that
// this was not too early, which only the sticks can tell.
func (returnKind) criteria(j *judging) {
	j.c.homeOffset = j.flat("home_offset_m", j.lim.HomeOffset)
	if j.target.TakeOverS > 0 {
		j.judge("taken_over_s", j.target.TakeOverS, j.s.t.StickPitch != nil, noSticks)
	}
}

// fly follows the flight home (recover.go).
func (returnKind) fly(s *sampler) { s.returning() }

// measure writes down what fly kept.
func (returnKind) measure(s *sampler, i int) { s.measureReturn(i) }

// see begins the step at "call". A flight that is taken over ends with "rest"
// or "in", one that is watched with "touch".
func (returnKind) see(o *observer, m Mark) bool {
	begun, watched := !math.IsNaN(o.start), o.target().TakeOverS == 0
	switch {
	case m.Mark == "call":
		if !begun {
			o.started(m.TS)
		}
	case !watched && (m.Mark == "in" || m.Mark == "rest"):
		if begun {
			o.stops[o.step] = m.TS - o.start
			o.timeOut(m.TS)
			o.finish(m.TS)
		}
	case watched && m.Mark == "touch":
		o.homeTouched(m, begun)
	default:
		return false
	}
	return true
}

// homeTouched takes that the craft has landed at home by itself, with the
// distance from home where it was marked: away and right of it, in metres.
func (o *observer) homeTouched(m Mark, begun bool) {
	if !begun {
		o.started(o.ready)
	}
	if m.AwayM != nil {
		off := math.Hypot(*m.AwayM, *m.RightM)
		o.offsets[o.step] = off
		if limit := o.target().Limits.HomeOffset; limit > 0 && off > limit {
			o.fault(Fault{TS: m.TS, Code: Offset, Value: value(off), Limit: value(limit),
				Toward: field.Direction(field.Point{X: *m.RightM, Y: *m.AwayM})})
		}
	}
	o.timeOut(m.TS)
	o.finish(m.TS)
	o.in = false
}

// measureSeen keeps where the craft landed, if that was marked with the touch,
// and when it was taken over.
func (returnKind) measureSeen(e *byEye) {
	d, seen := e.o.offsets[e.i]
	e.limit("home_offset_m", e.lim.HomeOffset, seen)
	if took, ok := e.o.stops[e.i]; ok {
		e.res.Metrics["taken_over_s"] = took
	}
	if seen {
		e.measured("home_offset_m", d, e.lim.HomeOffset)
	}
}

// waiting is for what sets off the flight and then for its end, which the drill
// decides: a second of standing at home, or the pilot taking over.
func (returnKind) waiting(t *drill.Target, begun, _ bool) string {
	if !begun {
		return msgWaitsForTrigger
	}
	if t.TakeOverS > 0 {
		return msgWaitsForTakeOver
	}
	return msgWaitsForStandingHome
}

// faultWords says how far from home the craft landed, and a take-over that came
// too early.
func (returnKind) faultWords(f *Fault, _ *drill.Target, value, limit, _ string) string {
	switch f.Code {
	case Offset:
		return fmt.Sprintf(msgLandedOffHome, value, sideWords[f.Toward], limit)
	case Order:
		return fmt.Sprintf(msgTakenOverEarly, value, limit)
	}
	return ""
}

// ask says "tap as it sets off home", and then asks for the touch or for the
// moment at which the craft stands in hand.
func (returnKind) ask(o *observer, _ float64) Ask {
	switch {
	case math.IsNaN(o.start):
		return Ask{Big: "call", Small: msgTapFlightHome, Tap: "call"}
	case o.target().TakeOverS == 0:
		return Ask{Big: "watch", Small: msgTapTouch, Tap: "touch"}
	}
	return Ask{Big: "watch", Small: msgTapTakenOver, Tap: "rest"}
}
