package score

import (
	"fmt"
	"math"

	"maestrale/core/drill"
)

// holdKind is a place that is held for a time: inside a circle, a band of
// height and a limit of the nose, without a break. Things may happen meanwhile
// (During), and have to be answered first.
type holdKind struct{ plainKind }

// criteria takes the three tolerances that a hold is judged by, sample by
// sample; the time inside is counted by the step machine.
func (holdKind) criteria(j *judging) {
	j.c.radius, j.c.band = j.flat("radius_max_m", j.lim.Radius), j.high("height_max_m", j.lim.Height)
	j.c.nose = j.nose("nose_max_deg", j.lim.Nose)
	j.sets("inside_s", j.target.Seconds)
}

// fly follows the stays of the hold (samples.go).
func (holdKind) fly(s *sampler) { s.hold() }

// measure measures the longest stay. Its 95 % value needs a copy of the errors,
// for which one slice serves all holds.
func (holdKind) measure(s *sampler, i int) {
	if s.scratch == nil {
		s.scratch = make([]float64, 0, s.t.Len()+2)
	}
	s.measureHold(i, s.scratch)
}

// see takes "in" alone. "out" means the same in every step and comes to left.
func (holdKind) see(o *observer, m Mark) bool {
	if m.Mark != "in" {
		return false
	}
	o.in = true
	o.enter(m.TS)
	return true
}

// left makes leaving a fault once the clock has run, whatever the eye had said
// of the place before.
func (holdKind) left(o *observer, t float64, f Fault, _ bool) { o.leave(t, f) }

// measureSeen keeps the stay, since an eye sees time. Of the place it sees only
// that the craft is in or out, so no distance is measured. A stay that was too
// short takes what it lacks off the margin.
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

// due is when the stay is long enough, but never while something has yet to
// happen or to be answered.
func (holdKind) due(m *machine) float64 {
	if m.awaitingResponse {
		return math.Inf(1)
	}
	return m.clock.runs() + m.target().Seconds
}

// waiting is for the stay, whether the craft came near or not.
func (holdKind) waiting(*drill.Target, bool, bool) string { return msgWaitsForStay }

// faultWords says the faults of answers; leaving is said as in every step.
func (holdKind) faultWords(f *Fault, _ *drill.Target, value, limit, at string) string {
	return answerWords(f, value, limit, at)
}

// summary is the time inside and how far out the craft was at most.
func (holdKind) summary(r *StepResult) string {
	out := fmt.Sprintf("%.0f s inside", r.Metrics["inside_s"])
	if v, ok := r.Metrics["radius_max_m"]; ok {
		out += fmt.Sprintf(msgFarthestOut, v)
	}
	return out
}

// ask says "tap when it is in" outside. Inside the ring counts the stay, and
// the next tap says that the craft is out; while a call is due, it says that
// first.
func (holdKind) ask(o *observer, _ float64) Ask {
	t := o.target()
	switch {
	case !o.in:
		return Ask{Big: "out", Small: msgTapIn, Tap: "in"}
	case o.awaitingResponse:
		return Ask{Big: "in", Small: msgCallWhenReady, Tap: "out", Out: true}
	}
	return Ask{Small: fmt.Sprintf("of %g s inside", t.Seconds), Tap: "out", Out: true, Clock: true,
		SinceS: o.clock.runs(), NeedS: t.Seconds}
}

// answerWords put a fault of an answer into words: the wrong way, too late, or
// carried too far. They are empty for another fault, which is then said as in
// every step.
func answerWords(f *Fault, value, limit, at string) string {
	switch f.Code {
	case WrongWay:
		return fmt.Sprintf(msgAnsweredWrongWay, value, at, wayOf[f.Toward])
	case Late:
		return fmt.Sprintf(msgAnsweredLate, value, limit)
	case Overshoot:
		return fmt.Sprintf(msgCarriedTooFar, value, limit)
	}
	return ""
}
