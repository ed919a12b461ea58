package score

import (
	"fmt"
	"math"

	"maestrale/core/drill"
	"maestrale/core/field"
)

// returnKind is a flight home by itself, which is watched to the ground or taken over.
type returnKind struct{ plainKind }

func (returnKind) criteria(j *judging) {
	j.c.homeOffset = j.flat("home_offset_m", j.lim.HomeOffset)
	if j.target.TakeOverS > 0 {
		j.judge("taken_over_s", j.target.TakeOverS, j.s.t.StickPitch != nil, noSticks)
	}
}

func (returnKind) fly(s *sampler) { s.returning() }

func (returnKind) measure(s *sampler, i int) { s.measureReturn(i) }

// It is set off by a call, and taken over with rest or landed by itself with touch.
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

// homeTouched takes that the craft has landed at home by itself.
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

func (returnKind) waiting(t *drill.Target, begun, _ bool) string {
	if !begun {
		return msgWhatSetsOff
	}
	if t.TakeOverS > 0 {
		return msgPilotTakeOver
	}
	return msgSecondStandingHome
}

func (returnKind) faultWords(f *Fault, _ *drill.Target, value, limit, _ string) string {
	switch f.Code {
	case Offset:
		return fmt.Sprintf(msgLandedHomeLimit, value, sideWords[f.Toward], limit)
	case Order:
		return fmt.Sprintf(msgTakenOverAfter, value, limit)
	}
	return ""
}

func (returnKind) ask(o *observer, _ float64) Ask {
	switch {
	case math.IsNaN(o.start):
		return Ask{Big: "call", Small: msgTapSetsOffHome, Tap: "call"}
	case o.target().TakeOverS == 0:
		return Ask{Big: "watch", Small: msgTapTouch, Tap: "touch"}
	}
	return Ask{Big: "watch", Small: msgTapWhenStands, Tap: "rest"}
}
