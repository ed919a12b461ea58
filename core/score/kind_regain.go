package score

import (
	"fmt"
	"math"

	"maestrale/core/drill"
)

// regainKind is a lost orientation: the pilot finds the nose and brings the craft home.
type regainKind struct{ plainKind }

func (regainKind) criteria(j *judging) {
	j.c.seconds, j.c.lost = j.judge("home_s", j.lim.Seconds, true, ""), j.flat("lost_m", j.lim.Lost)
	if j.lim.WrongInputs >= 0 {
		j.sets("wrong_inputs", float64(j.lim.WrongInputs))
		if !j.s.hasSticks() {
			j.s.unjudged(j.i, "wrong_inputs", msgLogNoSticks)
		}
	}
}

func (regainKind) fly(s *sampler) { s.regaining() }

func (regainKind) measure(s *sampler, i int) { s.measureRegain(i) }

// It is begun by a call and found again with in.
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

func (regainKind) waiting(*drill.Target, bool, bool) string { return msgCraftComeHome }

func (regainKind) faultWords(f *Fault, _ *drill.Target, value, limit, at string) string {
	switch f.Code {
	case WrongWay:
		return fmt.Sprintf(msgPushesWrongWay,
			*f.Value, at, *f.Limit)
	case Late:
		return fmt.Sprintf(msgNotWayHome, value, limit)
	}
	return ""
}

func (regainKind) ask(o *observer, _ float64) Ask {
	if math.IsNaN(o.start) {
		return Ask{Big: "lost", Small: msgTapYouSay, Tap: "call"}
	}
	return Ask{Small: msgTapComesHome, Tap: "in", Clock: true, SinceS: o.start}
}
