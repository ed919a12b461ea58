package score

import (
	"fmt"
	"math"
	"strings"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/flight"
	"maestrale/core/track"
)

const (
	firstMove   = 0.5  // m that show which way was taken first
	answerAtAll = 30.0 // s in which an answer is looked for
)

// answer is what came of something that happened during a step.
type answer struct {
	due  drill.Due
	at   float64 // when it happened, +Inf where it did not
	to   float64 // when it was answered, +Inf where it was not
	took float64
	far  float64 // m from where the craft was, at most
}

// isCall tells whether the text of a call is a call to the pilot, and not the name
// of what befell the craft.
func isCall(text string) bool {
	e, err := flight.ParseEvent(text)
	return err != nil || e.Kind == flight.CallOut
}

// happened finds when an event happened, from a moment on: by its name, or for a
// call by any text that names no other event.
func happened(calls []track.Call, d drill.Due, from float64) float64 {
	for _, c := range calls {
		if c.T < from-1e-9 {
			continue
		}
		if (d.Call() && isCall(c.Text)) || (!d.Call() && strings.TrimSpace(c.Text) == d.Event) {
			return c.T
		}
	}
	return math.Inf(1)
}

// answers finds what happened during the current step from a moment on, and how it
// was answered; what was too late, too far or the wrong way is a fault.
func (s *sampler) answers(from float64) []answer {
	var out []answer
	for _, d := range s.target().During {
		a := answer{due: d, at: happened(s.t.Calls, d, from), to: math.Inf(1)}
		if !math.IsInf(a.at, 1) {
			s.answered(&a)
		}
		out = append(out, a)
		from = a.at
		if !math.IsInf(a.to, 1) {
			from = a.to
		}
	}
	if s.replies == nil {
		s.replies = map[int][]answer{}
	}
	s.replies[s.step] = out
	return out
}

// answered follows the craft from what happened to its answer: at rest for a
// second, or as far as it had to go.
func (s *sampler) answered(a *answer) {
	d := a.due
	if d.Seconds == 0 && d.Distance == 0 {
		a.to = a.at
		return
	}
	begin := s.when(a.at)
	way, flat := field.Way(d.FirstWay)
	along := func(p point) float64 {
		switch {
		case flat:
			return (p.x-begin.x)*way.X + (p.y-begin.y)*way.Y
		case d.FirstWay == "up":
			return p.z - begin.z
		}
		return begin.z - p.z
	}
	rest, wrong := s.newRest(), false
	before := begin
	last := a.at
	for i := max(0, s.t.At(a.at)) + 1; i < s.t.Len(); i++ {
		b := s.sample(i)
		last = b.t
		if b.t > a.at+answerAtAll {
			break
		}
		far := math.Sqrt((b.x-begin.x)*(b.x-begin.x) + (b.y-begin.y)*(b.y-begin.y) + (b.z-begin.z)*(b.z-begin.z))
		a.far = math.Max(a.far, far)
		if d.FirstWay != "" {
			g, was := along(b), along(before)
			if !wrong && g < -firstMove-math.Sqrt2*s.reach {
				wrong = true
				s.fault(Fault{TS: b.t, Code: WrongWay, Value: value(-g), Limit: value(firstMove), Toward: d.FirstWay,
					At: &Place{b.x, b.y, b.z}})
			}
			far := d.Distance
			if s.noisy { // both places have their errors; under a third of the way nothing is an answer
				far = math.Max(far/3, far-math.Sqrt2*s.reach)
			}
			if g >= far {
				if s.noisy && s.reach > wanders*fine && g < d.Distance {
					s.hidden(s.step, "answer_m", s.sigma, d.Distance, "m")
				}
				u := 1.0
				if g > was {
					u = math.Max(0, math.Min(1, (far-was)/(g-was)))
				}
				a.to = before.t + (b.t-before.t)*u
				break
			}
		} else {
			if s.standsAgain(a, &rest, i, before.t, b.t) {
				break
			}
		}
		before = b
	}
	s.judgeAnswer(a, begin, last)
}

// standsAgain looks whether the craft has stood for a second by sample i, at t; the sample before it was at beforeT.
func (s *sampler) standsAgain(a *answer, rest *rests, i int, beforeT, t float64) bool {
	speed, since := s.speed(i)
	from := beforeT
	if s.speeds == nil {
		from = math.Min(t, math.Max(a.at, since))
		rest.sure.last, rest.may.last = 0, 0
	}
	rest.see(from, from, speed, true)
	if may, sure := s.enough(rest, t, settle); may {
		if !sure && !s.surely(*rest, settle) {
			s.hidden(s.step, "rest", s.pace, drill.RestMps, "m/s")
		}
		a.to = math.Max(a.at, rest.since()) + settle
		return true
	}
	return false
}

// judgeAnswer notes how long the answer took, and what was too late or too far.
func (s *sampler) judgeAnswer(a *answer, begin point, last float64) {
	d := a.due
	a.took = math.Min(a.to, last) - a.at
	if d.FirstWay == "" && !math.IsInf(a.to, 1) {
		a.took -= settle // until it stood
	}
	p := s.when(a.at + a.took)
	at := &Place{p.x, p.y, p.z}
	if d.Seconds > 0 && a.took > d.Seconds {
		s.fault(Fault{TS: a.at + d.Seconds, Code: Late, Value: value(a.took), Limit: value(d.Seconds), At: at})
	}
	if d.FirstWay == "" && d.Distance > 0 && a.far > d.Distance {
		s.fault(Fault{TS: a.at + a.took, Code: Overshoot, Value: value(a.far), Limit: value(d.Distance), At: at,
			Toward: field.Direction(field.Point{X: p.x - begin.x, Y: p.y - begin.y})})
	}
}

// measureAnswers fills in how long the answers took and how far the craft was carried.
func (s *sampler) measureAnswers(i int) {
	met, limits := s.res.Steps[i].Metrics, s.res.Steps[i].Limits
	for _, a := range s.replies[i] {
		if math.IsInf(a.at, 1) || (a.due.Seconds == 0 && a.due.Distance == 0) {
			continue
		}
		met["answer_s"] = math.Max(met["answer_s"], a.took)
		if a.due.Seconds > 0 {
			limits["answer_s"] = a.due.Seconds
			s.share(i, "answer_s", a.took, a.due.Seconds, 0)
		}
		if a.due.FirstWay == "" && a.due.Distance > 0 {
			met["answer_m"] = math.Max(met["answer_m"], a.far)
			limits["answer_m"] = a.due.Distance
			s.share(i, "answer_m", a.far, a.due.Distance, s.sigma)
		}
	}
}

// owes tells whether a step waits for something to happen before it can be done.
func asksResponse(s drill.Target) bool {
	return len(s.During) > 0 && (s.Kind == drill.Hold || s.Kind == drill.Path)
}

// waitsFor says what a step waits for that is to happen in it.
func waitsFor(s drill.Target) string {
	d := s.During[0]
	if d.Call() {
		return msgCallAnswer
	}
	return fmt.Sprintf(msgWhatHappenAnswer, d.What())
}
