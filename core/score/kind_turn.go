package score

import (
	"math"

	"maestrale/core/drill"
)

// turnKind is a turn of the nose by an angle, on the spot: how far the craft
// drifted meanwhile, how far the nose went past the angle, and how fast it
// turned.
type turnKind struct{ plainKind }

// criteria needs a heading in the log for the angle and the rate, but not for
// drift and height.
func (turnKind) criteria(j *judging) {
	head := j.s.t.Heading != nil
	j.c.radius, j.c.band = j.flat("drift_max_m", j.lim.Radius), j.high("height_max_m", j.lim.Height)
	j.angle("overshoot_deg", j.lim.Overshoot, head, noHeading)
	if rate := j.target.RateDps; rate[1] > 0 {
		j.sets("rate_min_dps", rate[0])
		j.judge("rate_max_dps", rate[1], head, noHeading)
	}
}

// fly follows the nose (turn.go).
func (turnKind) fly(s *sampler) { s.turn() }

// measure measures the turn against the criteria that a log can judge; a copy
// of them is centred on where it began.
func (turnKind) measure(s *sampler, i int) {
	c := s.judged[i]
	s.measureTurn(i, s.task.Steps[i], &c)
}

// see takes "moving", which begins the turn or goes on with it, and "rest",
// which says that the nose stands and completes the turn settle seconds later.
func (turnKind) see(o *observer, m Mark) bool {
	switch m.Mark {
	case "moving":
		if math.IsNaN(o.start) {
			o.started(m.TS)
		}
		o.clock.leave(m.TS)
	case "rest":
		if math.IsNaN(o.start) {
			o.started(o.ready)
		}
		o.enter(m.TS)
	default:
		return false
	}
	return true
}

// left makes leaving the spot a fault only where the eye had seen the craft in.
func (turnKind) left(o *observer, t float64, f Fault, was bool) {
	if was {
		o.fault(with(f, t))
	}
}

// measureSeen lists the limits as not judged: whether the turn was done, and in
// which time, is all that an eye measures.
func (turnKind) measureSeen(e *byEye) {
	e.limit("drift_max_m", e.lim.Radius, false)
	e.limit("height_max_m", e.lim.Height, false)
	e.limit("overshoot_deg", e.lim.Overshoot.Deg(), false)
	e.limit("rate_max_dps", e.target.RateDps[1], false)
}

// waiting is for the nose to turn or, when it does, for the second at the asked
// angle; where a call says the angle, for that.
func (turnKind) waiting(t *drill.Target, begun, _ bool) string {
	if !begun {
		return msgWaitsForNose
	}
	if t.RandomTurn && t.By == 0 {
		return msgWaitsForAngleCalled
	}
	return msgWaitsAtAngle
}

// ask says "tap when it turns", then "tap when it stands". While the second of
// standing runs, a tap says that the nose moves again.
func (turnKind) ask(o *observer, _ float64) Ask {
	switch {
	case math.IsNaN(o.start):
		return Ask{Big: "turn", Small: msgTapTurns, Tap: "moving"}
	case o.clock.on:
		return Ask{Big: "standing", Small: msgSecondToBeSure, Tap: "moving", SinceS: o.clock.since, NeedS: settle}
	}
	return Ask{Big: "turning", Small: msgTapStands, Tap: "rest"}
}
