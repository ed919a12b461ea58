package score

import (
	"fmt"
	"math"

	"maestrale/core/drill"
)

// stopKind is a stop on a call or after a time.
type stopKind struct{ plainKind }

func (stopKind) criteria(j *judging) {
	j.c.way.seconds = j.judge("stop_s", j.lim.Seconds, true, "")
	j.c.way.distance = j.flat("stop_m", j.lim.Distance)
	// Two places a run apart give the speed: each is as uncertain as the log.
	j.c.way.from = j.known("from_mps", j.target.FromMps, math.Sqrt2*math.Max(j.s.noise.place, 0)/runUp, 0, "m/s")
}

// runUp is the time in s over which the speed before a stop is taken.
const runUp = 0.6

func (stopKind) fly(s *sampler) { s.stopping() }

func (stopKind) measure(s *sampler, i int) { s.wayShares(i) }

// A stop runs from call to rest; a second later it is done.
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

func (stopKind) measureSeen(e *byEye) {
	took, seen := e.o.stops[e.i]
	e.limit("stop_s", e.lim.Seconds, seen)
	e.limit("stop_m", e.lim.Distance, false)
	e.limit("from_mps", e.target.FromMps, false)
	if seen {
		e.measured("stop_s", took, e.lim.Seconds)
	}
}

func (stopKind) waiting(t *drill.Target, begun, _ bool) string {
	if !begun {
		return "a call"
	}
	if t.Over {
		return msgTurnOverSecond
	}
	return msgSecondRest
}

func (stopKind) faultWords(f *Fault, _ *drill.Target, value, limit, _ string) string {
	switch f.Code {
	case Speed:
		return fmt.Sprintf(msgCameLeastAsked, value, limit)
	case Overshoot:
		return fmt.Sprintf(msgStoodFromCall, value, limit)
	}
	return ""
}

func (stopKind) ask(o *observer, _ float64) Ask {
	switch {
	case o.target().OnCall && math.IsNaN(o.start):
		return Ask{Big: "call", Small: msgTapYouCall, Tap: "call"}
	case o.clock.on:
		return Ask{Big: "stands", Small: msgSecondSure, Tap: "moving", SinceS: o.clock.since, NeedS: settle}
	}
	return Ask{Big: "stops", Small: msgTapWhenItStands, Tap: "rest"}
}
