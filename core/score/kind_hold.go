package score

import (
	"fmt"
	"math"

	"maestrale/core/drill"
)

// holdKind is a place that is held for a time, and what may happen meanwhile.
type holdKind struct{ plainKind }

func (holdKind) criteria(j *judging) {
	j.c.radius, j.c.band = j.flat("radius_max_m", j.lim.Radius), j.high("height_max_m", j.lim.Height)
	j.c.nose = j.nose("nose_max_deg", j.lim.Nose)
	j.sets("inside_s", j.target.Seconds)
}

func (holdKind) fly(s *sampler) { s.hold() }

func (holdKind) measure(s *sampler, i int) {
	if s.scratch == nil {
		s.scratch = make([]float64, 0, s.t.Len()+2)
	}
	s.measureHold(i, s.scratch)
}

func (holdKind) see(o *observer, m Mark) bool {
	if m.Mark != "in" {
		return false
	}
	o.in = true
	o.enter(m.TS)
	return true
}

func (holdKind) left(o *observer, t float64, f Fault, _ bool) { o.leave(t, f) }

func (holdKind) measureSeen(e *byEye) {
	e.limit("radius_max_m", e.lim.Radius, false)
	e.limit("height_max_m", e.lim.Height, false)
	e.limit("nose_max_deg", e.lim.Nose.Deg(), false)
	e.limit("inside_s", e.target.Seconds, true)
	if in := e.o.stays[e.i].length(); !math.IsNaN(e.o.spans[e.i].to) {
		e.res.Metrics["inside_s"] = in
		if !e.res.Done && in > 0 && !asksResponse(*e.target) {
			e.shares = append(e.shares, e.target.Seconds/in)
		}
	}
}

func (holdKind) due(m *machine) float64 {
	if m.awaitingResponse {
		return math.Inf(1)
	}
	return m.clock.runs() + m.target().Seconds
}

func (holdKind) waiting(*drill.Target, bool, bool) string { return msgUnbrokenStayInside }

func (holdKind) faultWords(f *Fault, _ *drill.Target, value, limit, at string) string {
	return answerWords(f, value, limit, at)
}

func (holdKind) summary(r *StepResult) string {
	out := fmt.Sprintf("%.0f s inside", r.Metrics["inside_s"])
	if v, ok := r.Metrics["radius_max_m"]; ok {
		out += fmt.Sprintf(msgOutMost, v)
	}
	return out
}

func (holdKind) ask(o *observer, _ float64) Ask {
	t := o.target()
	switch {
	case !o.in:
		return Ask{Big: "out", Small: msgTapWhenIn, Tap: "in"}
	case o.awaitingResponse:
		return Ask{Big: "in", Small: msgCallWhenYou, Tap: "out", Out: true}
	}
	return Ask{Small: fmt.Sprintf("of %g s inside", t.Seconds), Tap: "out", Out: true, Clock: true,
		SinceS: o.clock.runs(), NeedS: t.Seconds}
}

// answerWords say a fault of what happens in a step and its answer; they are empty for another fault.
func answerWords(f *Fault, value, limit, at string) string {
	switch f.Code {
	case WrongWay:
		return fmt.Sprintf(msgWentWrongWay, value, at, wayOf[f.Toward])
	case Late:
		return fmt.Sprintf(msgAnsweredAfterLimit, value, limit)
	case Overshoot:
		return fmt.Sprintf(msgCarriedBeforeStood, value, limit)
	}
	return ""
}
