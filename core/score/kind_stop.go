package score

import (
	"fmt"
	"math"

	"maestrale/core/drill"
)

// stopKind is a stop on a call or after a time: how long it takes, how far it
// goes and, where the drill says so, from which speed.
type stopKind struct{ plainKind }

// criteria judges time, distance and the speed before. That speed is taken from
// two places runUp apart, each as uncertain as the log.
func (stopKind) criteria(j *judging) {
	j.c.way.seconds = j.judge("stop_s", j.lim.Seconds, true, "")
	j.c.way.distance = j.flat("stop_m", j.lim.Distance)
	// Both ends of that difference err, so the speed's deviation is √2 times a
	// place's over the time.
	j.c.way.from = j.known("from_mps", j.target.FromMps, math.Sqrt2*math.Max(j.s.noise.place, 0)/runUp, 0, "m/s")
}

// runUp is the time in s over which the speed before a stop is taken.
const runUp = 0.6

// fly follows the stop (goto.go).
func (stopKind) fly(s *sampler) { s.stopping() }

// measure is that of every way; a stop keeps its figures there.
func (stopKind) measure(s *sampler, i int) { s.wayShares(i) }

// see runs a stop from "call" to "rest"; settle seconds later it is done,
// unless the craft moves again.
func (stopKind) see(o *observer, m Mark) bool {
	begun := !math.IsNaN(o.start)
	switch m.Mark {
	case "call":
		if !begun {
			o.started(m.TS)
		}
	case "rest":
		if !begun {
			o.started(o.ready + o.target().AfterS)
		}
		o.stood(m.TS)
	case "moving":
		o.clock.leave(m.TS)
	default:
		return false
	}
	return true
}

// measureSeen keeps the time from the call to standing. Distance and speed are
// not measured by eye.
func (stopKind) measureSeen(e *byEye) {
	took, seen := e.o.stops[e.i]
	e.limit("stop_s", e.lim.Seconds, seen)
	e.limit("stop_m", e.lim.Distance, false)
	e.limit("from_mps", e.target.FromMps, false)
	if seen {
		e.measured("stop_s", took, e.lim.Seconds)
	}
}

// waiting is for the call, then for the second at rest, with the turn over
// before it where the drill asks for one.
func (stopKind) waiting(t *drill.Target, begun, _ bool) string {
	if !begun {
		return "a call"
	}
	if t.Over {
		return msgWaitsForTurnOver
	}
	return msgWaitsForSecondAtRest
}

// faultWords says that the craft came in too slowly, or stood too far on.
func (stopKind) faultWords(f *Fault, _ *drill.Target, value, limit, _ string) string {
	switch f.Code {
	case Speed:
		return fmt.Sprintf(msgCameTooSlowly, value, limit)
	case Overshoot:
		return fmt.Sprintf(msgStoodTooFar, value, limit)
	}
	return ""
}

// ask says "tap as you call" where the stop begins with a call, then "tap when
// it stands". While the second at rest runs a tap says that the craft moves
// again.
func (stopKind) ask(o *observer, _ float64) Ask {
	switch {
	case o.target().OnCall && math.IsNaN(o.start):
		return Ask{Big: "call", Small: msgTapYouCall, Tap: "call"}
	case o.clock.on:
		return Ask{Big: "stands", Small: msgSecondToBeSure, Tap: "moving", SinceS: o.clock.since, NeedS: settle}
	}
	return Ask{Big: "stops", Small: msgTapStands, Tap: "rest"}
}
