package score

import (
	"fmt"
	"math"

	"maestrale/core/drill"
)

// regainKind is a lost orientation: the pilot has to find the nose and bring
// the craft back toward the station. Wrong inputs are counted on the watch of
// what could be known (lost.go).
type regainKind struct{ plainKind }

// criteria counts wrong inputs only where the log has sticks. Their limit may
// be 0; −1 says that the drill does not count them.
func (regainKind) criteria(j *judging) {
	j.c.seconds, j.c.lost = j.judge("home_s", j.lim.Seconds, true, ""), j.flat("lost_m", j.lim.Lost)
	if j.lim.WrongInputs >= 0 {
		j.sets("wrong_inputs", float64(j.lim.WrongInputs))
		if !j.s.hasSticks() {
			j.s.unjudged(j.i, "wrong_inputs", msgLogNoSticks)
		}
	}
}

// fly follows the craft until it is on its way home (recover.go).
func (regainKind) fly(s *sampler) { s.regaining() }

// measure writes down what fly kept.
func (regainKind) measure(s *sampler, i int) { s.measureRegain(i) }

// see begins the step at "call" and ends it at "in", when the craft comes home.
// Marked later than the drill allows, it is a fault.
func (regainKind) see(o *observer, m Mark) bool {
	begun := !math.IsNaN(o.start)
	switch m.Mark {
	case "call":
		if !begun {
			o.started(m.TS)
		}
	case "in":
		if !begun {
			o.started(o.ready)
		}
		took := m.TS - o.start
		o.stops[o.step] = took
		if limit := o.target().Limits.Seconds; limit > 0 && took > limit {
			o.fault(Fault{TS: o.start + limit, Code: Late, Value: value(took), Limit: value(limit)})
		}
		o.in = true
		o.finish(m.TS)
		o.enterIfIn()
	default:
		return false
	}
	return true
}

// measureSeen keeps the time until the craft came home. Distances and inputs
// are not measured by eye.
func (regainKind) measureSeen(e *byEye) {
	took, seen := e.o.stops[e.i]
	e.limit("home_s", e.lim.Seconds, seen)
	e.limit("lost_m", e.lim.Lost, false)
	if e.lim.WrongInputs >= 0 {
		e.res.Limits["wrong_inputs"] = float64(e.lim.WrongInputs)
		e.o.unjudged(e.i, "wrong_inputs", notByEye)
	}
	if seen {
		e.measured("home_s", took, e.lim.Seconds)
	}
}

// waiting is for the craft to come home, begun or not.
func (regainKind) waiting(*drill.Target, bool, bool) string { return msgWaitsForCraftHome }

// faultWords says pushes the wrong way and a late return; every other fault is
// said as in every step.
func (regainKind) faultWords(f *Fault, _ *drill.Target, value, limit, at string) string {
	switch f.Code {
	case WrongWay:
		return fmt.Sprintf(msgWrongPushes,
			*f.Value, at, *f.Limit)
	case Late:
		return fmt.Sprintf(msgNotComingHome, value, limit)
	}
	return ""
}

// ask says "tap as you say so" to begin; then the ring counts until the craft
// comes home.
func (regainKind) ask(o *observer, _ float64) Ask {
	if math.IsNaN(o.start) {
		return Ask{Big: "lost", Small: msgTapAsYouSay, Tap: "call"}
	}
	return Ask{Small: msgTapComingHome, Tap: "in", Clock: true, SinceS: o.start}
}
