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

// A drill may let something happen while a hold or a path is flown: a call to
// the pilot, or a failure. What is judged then is the answer, and how far the
// craft was carried before it came.

// These bound how an answer is looked for in a log: a shorter move says nothing
// of the direction that was meant, and a later one belongs to something else.
const (
	firstMove   = 0.5  // m that show which way was taken first
	answerAtAll = 30.0 // s in which an answer is looked for
)

// answer is how the pilot answered one thing that happened during a step: a
// call, or a failure that was let happen. The sampler fills it in from the log;
// it is judged in judgeAnswer and measured in measureAnswers.
type answer struct {
	// due is what the drill lets happen, with the limits of its answer.
	due drill.Due
	at  float64 // when it happened, +Inf where it did not
	to  float64 // when it was answered, +Inf where it was not
	// took is to − at in seconds, without the second for which the craft has to
	// stand; where there was no answer it runs to the end of what was looked
	// at.
	took float64
	// far is the largest distance from where the craft was at the moment, in
	// all three axes.
	far float64 // m from where the craft was, at most
}

// isCall tells whether the text of a call is a call to the pilot. False means
// that it names an event of the simulator, such as a loss of position hold, and
// so befell the craft.
func isCall(text string) bool {
	e, err := flight.ParseEvent(text)
	return err != nil || e.Kind == flight.CallOut
}

// happened returns the time in seconds of the first call, at or after from,
// that is what d waits for. An event is found by its name; a call to the pilot
// by any text that names no event, since instructors word their calls as they
// like. It returns +Inf where there is none.
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

// answers finds everything that is to happen during the current step, from a
// moment on, and how each was answered. The order of the drill holds: the
// second is looked for only after the answer to the first. Faults of the
// answers are noted on the way; the list has one entry for each During of the
// step, in its order, and is kept for measuring.
func (s *sampler) answers(from float64) []answer {
	var out []answer
	for _, d := range s.target().During {
		a := answer{due: d, at: happened(s.t.Calls, d, from), to: math.Inf(1)}
		if !math.IsInf(a.at, 1) {
			s.answered(&a)
		}
		out = append(out, a)
		// The next one can only come after this one and, where there was one,
		// after its answer. Where this never happened, a.at is +Inf and nothing
		// later is found.
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

// answered follows the craft from the moment a.at to its answer. Where the
// drill names a direction, the answer is having gone the asked distance that
// way; else it is having been at rest for settle seconds. It fills in to, took
// and far, and notes the faults.
func (s *sampler) answered(a *answer) {
	d := a.due
	// Without a limit of time or distance there is nothing to answer: the next
	// thing follows at once.
	if d.Seconds == 0 && d.Distance == 0 {
		a.to = a.at
		return
	}
	begin := s.when(a.at)
	way, flat := field.Way(d.FirstWay)
	// along is how far the craft has gone in the asked direction, in metres.
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
		if d.FirstWay == "" {
			if s.standsAgain(a, &rest, i, before.t, b.t) {
				break
			}
		} else if s.goesTheWay(a, before, b, along(before), along(b), &wrong) {
			break
		}
		before = b
	}
	s.judgeAnswer(a, begin, last)
}

// goesTheWay tells whether the craft has gone as far in the asked direction as it
// has to by b, the sample after before; was and g are how far it had gone at
// these. It then fills in a.to. The first move the wrong way is one fault, however
// long it goes on, and wrong says that it has been noted.
func (s *sampler) goesTheWay(a *answer, before, b point, was, g float64, wrong *bool) bool {
	d := a.due
	// Both places are uncertain, so their difference is √2 times as uncertain as
	// one of them.
	if !*wrong && g < -firstMove-math.Sqrt2*s.reach {
		*wrong = true
		s.fault(Fault{TS: b.t, Code: WrongWay, Value: value(-g), Limit: value(firstMove), Toward: d.FirstWay,
			At: &Place{b.x, b.y, b.z}})
	}
	far := d.Distance
	if s.noisy { // under a third of the way nothing is an answer
		far = math.Max(far/3, far-math.Sqrt2*s.reach)
	}
	if g < far {
		return false
	}
	if s.noisy && s.reach > wanders*fine && g < d.Distance {
		s.hidden(s.step, "answer_m", s.sigma, d.Distance, "m")
	}
	// The place was reached between the two samples: interpolate, straight.
	u := 1.0
	if g > was {
		u = math.Max(0, math.Min(1, (far-was)/(g-was)))
	}
	a.to = before.t + (b.t-before.t)*u
	return true
}

// standsAgain tells whether the craft has been at rest for settle seconds by
// sample i, at time t; the sample before was at beforeT. It then fills in a.to.
func (s *sampler) standsAgain(a *answer, rest *rests, i int, beforeT, t float64) bool {
	speed, since := s.speed(i)
	from := beforeT
	// A fine log has the mean speed since the moment since, so that rest is
	// dated back to there.
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

// judgeAnswer works out how long the answer took and notes the faults of being
// too late or carried too far. begin is the craft at the moment itself and last
// the time of the last sample that was looked at.
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

// measureAnswers writes the longest answer and the farthest that the craft was
// carried into the metrics of step i, with their limits. Things that did not
// happen, or ask for no answer, leave nothing.
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

// asksResponse tells whether a step cannot be done before something has
// happened in it and was answered. Only a hold and a path can let something
// happen.
func asksResponse(s drill.Target) bool {
	return len(s.During) > 0 && (s.Kind == drill.Hold || s.Kind == drill.Path)
}

// waitsFor says, for a step that is not done, what was still to happen in it.
// The step must have something in During.
func waitsFor(s drill.Target) string {
	d := s.During[0]
	if d.Call() {
		return msgWaitsForCall
	}
	return fmt.Sprintf(msgWaitsForEvent, d.What())
}
