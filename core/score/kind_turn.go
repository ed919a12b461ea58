package score

import (
	"math"

	"maestrale/core/drill"
)

// turnKind is a turn of the nose by an angle, on the spot.
type turnKind struct{ plainKind }

func (turnKind) criteria(j *judging) {
	head := j.s.t.Heading != nil
	j.c.radius, j.c.band = j.flat("drift_max_m", j.lim.Radius), j.high("height_max_m", j.lim.Height)
	j.angle("overshoot_deg", j.lim.Overshoot, head, noHeading)
	if rate := j.target.RateDps; rate[1] > 0 {
		j.sets("rate_min_dps", rate[0])
		j.judge("rate_max_dps", rate[1], head, noHeading)
	}
}

func (turnKind) fly(s *sampler) { s.turn() }

func (turnKind) measure(s *sampler, i int) {
	c := s.judged[i]
	s.measureTurn(i, s.task.Steps[i], &c)
}

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

func (turnKind) left(o *observer, t float64, f Fault, was bool) {
	if was {
		o.fault(with(f, t))
	}
}

func (turnKind) measureSeen(e *byEye) {
	e.limit("drift_max_m", e.lim.Radius, false)
	e.limit("height_max_m", e.lim.Height, false)
	e.limit("overshoot_deg", e.lim.Overshoot.Deg(), false)
	e.limit("rate_max_dps", e.target.RateDps[1], false)
}

func (turnKind) waiting(t *drill.Target, begun, _ bool) string {
	if !begun {
		return msgNoseTurn
	}
	if t.RandomTurn && t.By == 0 {
		return msgCallSaysAngle
	}
	return msgSecondAskedAngle
}

func (turnKind) ask(o *observer, _ float64) Ask {
	switch {
	case math.IsNaN(o.start):
		return Ask{Big: "turn", Small: msgTapWhenTurns, Tap: "moving"}
	case o.clock.on:
		return Ask{Big: "standing", Small: msgSecondSure, Tap: "moving", SinceS: o.clock.since, NeedS: settle}
	}
	return Ask{Big: "turning", Small: msgTapWhenItStands, Tap: "rest"}
}
