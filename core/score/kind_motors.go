package score

import (
	"fmt"
	"math"

	"maestrale/core/drill"
	"maestrale/core/field"
)

// motorsKind starts the motors on the ground, lets them idle for a time, and
// stops them. The craft does not leave the ground; a log has to say when it was
// armed.
type motorsKind struct{ plainKind }

const noMotors = msgLogNoMotors

// criteria needs two things of the log: whether the craft is armed, for the
// time, and heights that are fine enough, for leaving the ground.
func (motorsKind) criteria(j *judging) {
	j.judge("running_s", j.target.Seconds, j.s.t.Armed != nil, noMotors)
	j.c.band = j.high("height_max_m", j.lim.Height)
}

// fly looks for a run of the motors that lasts long enough. The step begins
// when they start; a run that is stopped too early is forgotten, and the next
// start begins the step anew. Leaving the ground is one fault for the whole
// run, with the greatest height.
func (motorsKind) fly(s *sampler) {
	if len(s.t.Armed) == 0 {
		s.i = s.t.Len()
		return
	}
	t, most, left := s.target(), 0.0, -1
	reach := s.judged[s.step].band // 0 where the log is too coarse for it
	for ; s.i < s.t.Len()-1; s.i++ {
		at, running := s.t.T[s.i+1], s.t.Armed[s.i+1]
		begun := !math.IsNaN(s.start)
		if begun {
			most = math.Max(most, s.t.Z[s.i+1])
		}
		switch {
		case running && !begun:
			s.started(at)
		case running && reach > 0 && most > reach && left < 0:
			p := s.sample(s.i + 1)
			left = s.fault(Fault{TS: at, Code: Height, Value: value(most), Limit: value(t.Limits.Height), Toward: "up",
				At: &Place{p.x, p.y, p.z}})
		case left >= 0:
			s.res.Faults[left].Value = value(most)
		}
		switch {
		case running || !begun:
		case at-s.start < t.Seconds: // too early
			s.start = math.NaN()
		default:
			s.res.Steps[s.step].Metrics["height_max_m"] = most
			s.i++
			s.reached(at)
			return
		}
	}
}

// measure writes down for how long the motors ran and how high the craft came
// meanwhile.
func (motorsKind) measure(s *sampler, i int) {
	r := &s.res.Steps[i]
	if sp := s.spans[i]; s.t.Armed != nil && r.Done {
		r.Metrics["running_s"] = sp.length()
		s.share(i, "height_max_m", r.Metrics["height_max_m"], s.judged[i].band, s.noise.heights)
	}
}

// due is never: the motors stop the step, and no clock does.
func (motorsKind) due(*machine) float64 { return math.Inf(1) }

// see takes what the eye marks: "moving" when the motors run and "rest" when
// they have stopped.
func (motorsKind) see(o *observer, m Mark) bool {
	switch m.Mark {
	case "start", "in":
	case "moving":
		if math.IsNaN(o.start) {
			o.started(m.TS)
		}
	case "rest":
		if math.IsNaN(o.start) {
			o.started(o.ready)
		}
		o.reached(m.TS)
		o.in = false
	default:
		return false
	}
	return true
}

// measureSeen measures nothing. An eye sees that the motors ran, but not for
// how long, nor whether the craft stirred.
func (motorsKind) measureSeen(e *byEye) {
	e.limit("running_s", e.target.Seconds, false)
	e.limit("height_max_m", e.lim.Height, false)
}

// waiting is for the start of the motors or, when they run, for their end.
func (motorsKind) waiting(_ *drill.Target, begun, _ bool) string {
	if !begun {
		return msgWaitsForMotors
	}
	return msgWaitsForMotorsToStop
}

// faultWords says how far the craft left the ground.
func (motorsKind) faultWords(f *Fault, _ *drill.Target, value, limit, _ string) string {
	if f.Code == Height {
		return fmt.Sprintf(msgLeftGroundIdling, value, limit)
	}
	return ""
}

// stands says what the step asks; a place means nothing to it.
func (motorsKind) stands(*drill.Target, field.Point, float64) (string, bool, bool) {
	return msgMotorsOnGround, false, true
}

// ask says "tap when they run"; when they do the ring counts, and the next tap
// says that they have stopped.
func (motorsKind) ask(o *observer, _ float64) Ask {
	if math.IsNaN(o.start) {
		return Ask{Big: "motors", Small: msgTapMotorsRun, Tap: "moving"}
	}
	return Ask{Big: "running", Small: msgTapMotorsStopped, Tap: "rest", Clock: true, SinceS: o.start,
		NeedS: o.target().Seconds}
}
