package score

import (
	"math"
	"strconv"
	"strings"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/units"
)

// A turn is measured by the angle that the nose has turned since the beginning,
// in the asked direction, summed over the samples so that several full turns
// count. It is done when that angle has stayed within the tolerance for a
// second.

// wrongWay is how far the nose may turn against the asked direction before that
// is a fault: some swing back before they turn.
const wrongWay = field.Angle(20 * math.Pi / 180)

// turn follows the nose through a turn; its angles grow in the asked direction.
type turn struct {
	// asked is how far the nose should turn, without its direction, and within
	// how far off it may come to rest.
	asked, within field.Angle
	begins        field.Angle // the turn begins when the nose has left its first value by this
	// turned is how far it has turned by the newest sample, and furthest the
	// largest of these.
	turned         field.Angle
	furthest       field.Angle
	tenth, nineTen float64 // when a tenth and nine tenths of the turn were passed
	wrong, beyond  int     // faults, −1
}

// newTurn returns a turn that has not begun, by the angle asked, of which the
// nose may be off by within.
func newTurn(asked, within field.Angle) *turn {
	return &turn{asked: asked, within: within, begins: field.Degrees(5), tenth: math.NaN(), nineTen: math.NaN(), wrong: -1,
		beyond: -1}
}

// pass notes when the nose passes a tenth and nine tenths of the turn, between
// was and now; at gives the moment of an angle in that segment.
func (t *turn) pass(was, now field.Angle, at func(field.Angle) float64) {
	if a := t.asked * 0.1; math.IsNaN(t.tenth) && was < a && now >= a {
		t.tenth = at(a)
	}
	if a := t.asked * 0.9; math.IsNaN(t.nineTen) && was < a && now >= a {
		t.nineTen = at(a)
	}
	t.furthest = max(t.furthest, now)
	t.turned = now
}

// rate returns the mean rate over the middle eight tenths of the turn in
// radians a second, so that starting and stopping are left out. ok is false
// where the turn did not come that far.
func (t *turn) rate() (float64, bool) {
	if math.IsNaN(t.tenth) || math.IsNaN(t.nineTen) || t.nineTen <= t.tenth {
		return 0, false
	}
	return float64(t.asked) * 0.8 / (t.nineTen - t.tenth), true
}

// calledAngle sets a turn by what a call of the log says, such as "turn left
// 135", and returns when that was called; NaN where nothing was. A number under
// 10 or over 3600 is no angle of a turn. Without a side in the call, the task's
// side holds.
func (s *sampler) calledAngle(target *drill.Target) float64 {
	for _, c := range s.t.Calls {
		begin, end, called := units.FirstNumber(c.Text)
		if c.T < s.ready-1e-9 || !called {
			continue
		}
		deg, err := strconv.ParseFloat(c.Text[begin:end], 64)
		if err != nil || deg < 10 || deg > 3600 {
			continue
		}
		if target.By = field.Degrees(deg); target.By < target.Before {
			target.By += target.Before // the call says how far beyond the full turns
		}
		left := s.task.Side == field.LeftSide
		switch {
		case strings.Contains(c.Text, "left"):
			left = true
		case strings.Contains(c.Text, "right"):
			left = false
		}
		if left {
			target.By = -target.By
		}
		return c.T
	}
	return math.NaN()
}

// turn follows a turn until the nose has been at the asked angle for settle
// seconds. A log without a heading, or without the call that says the angle,
// leaves the step undone.
func (s *sampler) turn() {
	if s.t.Heading == nil {
		s.i = s.t.Len()
		return
	}
	step, target, a := s.step, s.target(), s.from()
	if target.RandomTurn && target.By == 0 {
		if a.t = s.calledAngle(target); math.IsNaN(a.t) {
			s.i = s.t.Len()
			return
		}
		a = s.when(a.t)
		s.i = max(0, s.t.At(a.t))
	}
	dir := field.Angle(1)
	if target.By < 0 {
		dir = -1
	}
	asked := target.By.Abs()
	tr := newTurn(asked, target.Limits.Overshoot)
	c := s.judged[s.step]
	ea, left, boxed := deviation{}, byNothing, clock{}
	for ; s.i < s.t.Len()-1; s.i++ {
		b := s.sample(s.i + 1)
		was := tr.turned
		// The nose turns the short way between samples, so that angles over
		// 180° add up.
		now := was + dir*(b.heading-a.heading).Wrap()
		at := func(angle field.Angle) float64 {
			return a.t + (b.t-a.t)*float64((angle-was)/(now-was))
		}
		if math.IsNaN(s.start) {
			// Not begun: follow the nose, judge nothing.
			if now.Abs() < tr.begins {
				tr.turned, a = now, b
				continue
			}
			begin := at(field.Angle(math.Copysign(float64(tr.begins), float64(now))))
			p := between(a, b, (begin-a.t)/(b.t-a.t))
			ea, left = s.beginTurn(&c, &boxed, p, begin)
			// The rest of the segment goes on from there.
			a, was = p, field.Angle(math.Copysign(float64(tr.begins), float64(now)))
		}
		// The segment may begin, pass and end the turn; the order of these
		// calls is that of time.
		tr.pass(was, now, at)
		if s.turning(tr, was, now, at, b.t) {
			break
		}
		eb := c.errors(b)
		left = s.box(&c, &boxed, a, b, ea, eb, left)
		tr.turned, a, ea = now, b, eb
	}
	if s.step != step {
		s.turnsOn(step, tr, dir)
	}
	s.keepTurn(step, tr)
}

// beginTurn begins the current turn at p, at the moment begin, and centres its
// criteria there. It returns the deviation there and the criterion that the craft
// is outside of already, which is a fault.
func (s *sampler) beginTurn(c *criteria, boxed *clock, p point, begin float64) (deviation, criterion) {
	s.started(begin)
	c.from(*s.target(), p)
	e := c.errors(p)
	if c.inside(e) || !c.judges() {
		boxed.enter(begin)
		return e, byNothing
	}
	left := c.firstOut(e)
	s.openFault = s.fault(with(c.leaving(left, p), begin))
	return e, left
}

const (
	turnStops = field.Angle(5 * math.Pi / 180) // a second under which the nose has come to rest
	turnLooks = 0.2                            // s over which that is taken
	turnMost  = 3.0                            // s for which a nose that turns on is followed
)

// turnsOn follows a nose that is still turning when the turn is done: how far
// it went past the angle shows only when it comes to rest. dir is 1 for a turn
// to the right, −1 to the left.
func (s *sampler) turnsOn(step int, tr *turn, dir field.Angle) {
	from := s.spans[step].to
	was, at := s.when(from), from
	now := tr.turned
	for i := max(0, s.t.At(from)) + 1; i < s.t.Len() && s.t.T[i] < from+turnMost; i++ {
		b := s.sample(i)
		by := dir * (b.heading - was.heading).Wrap()
		if b.t-at >= turnLooks {
			if by < turnStops*field.Angle(b.t-at) {
				return
			}
			now, was, at = now+by, b, b.t
			by = 0
		}
		if now+by <= tr.furthest {
			continue
		}
		tr.furthest = now + by
		if past := tr.furthest - tr.asked; past > tr.within {
			if tr.beyond < 0 {
				s.res.Faults = append(s.res.Faults, Fault{TS: b.t, Step: step, Code: Overshoot, Value: value(0),
					Limit: value(tr.within.Deg())})
				tr.beyond = len(s.res.Faults) - 1
			}
			f := &s.res.Faults[tr.beyond]
			*f.Value = math.Max(*f.Value, past.Deg())
		}
	}
}

// turning tells the machine what the nose did between two samples, the second
// at t. It returns true when that completes the turn.
func (s *sampler) turning(tr *turn, was, now field.Angle, at func(field.Angle) float64, t float64) bool {
	in := (now - tr.asked).Abs() <= tr.within
	if in != s.clock.on {
		// It came to the angle from below, or overshot and came back from
		// above.
		edge := tr.asked - tr.within
		if (in && was > now) || (!in && now > was) {
			edge = tr.asked + tr.within
		}
		moment := t
		if (was-edge)*(now-edge) < 0 {
			moment = at(edge)
		}
		if s.advance(moment) {
			return true
		}
		if in {
			s.enter(moment)
		} else {
			s.clock.leave(moment)
		}
	}
	if s.advance(t) {
		return true
	}
	s.turnFaults(tr, now, t)
	return false
}

// turnFaults notes a nose that went the wrong way, or past the angle; each is
// one fault, with its largest value.
func (s *sampler) turnFaults(tr *turn, now field.Angle, t float64) {
	if now < -wrongWay {
		if tr.wrong < 0 {
			tr.wrong = s.fault(Fault{TS: t, Code: WrongWay, Value: value(0), Limit: value(wrongWay.Deg())})
		}
		f := &s.res.Faults[tr.wrong]
		*f.Value = math.Max(*f.Value, (-now).Deg())
	}
	if past := now - tr.asked; past > tr.within {
		if tr.beyond < 0 {
			tr.beyond = s.fault(Fault{TS: t, Code: Overshoot, Value: value(0), Limit: value(tr.within.Deg())})
		}
		f := &s.res.Faults[tr.beyond]
		*f.Value = math.Max(*f.Value, past.Deg())
	}
}

// box watches place and height during a turn, between a and b; every time
// outside is one fault. boxed is the clock of being inside. It returns the
// criterion that was last left.
func (s *sampler) box(c *criteria, boxed *clock, a, b point, ea, eb deviation, left criterion) criterion {
	if in := c.inside(eb); (in && boxed.on) || !c.judges() {
		return left
	}
	from, to, by := c.stretch(ea, eb)
	if !boxed.on && from < to {
		boxed.enter(a.t + (b.t-a.t)*from)
		s.openFault = -1
	}
	if boxed.on && to < 1 {
		t := a.t + (b.t-a.t)*to
		boxed.leave(t)
		left = by
		s.openFault = s.fault(with(c.leaving(by, between(a, b, to)), t))
	}
	if !boxed.on {
		s.outside(eb.size(left))
	}
	return left
}

// with is the fault f at time t.
func with(f Fault, t float64) Fault {
	f.TS = t
	return f
}

// keepTurn keeps what the turn of step i leaves behind: its rate, how far past
// the angle, and how far it turned.
func (s *sampler) keepTurn(i int, tr *turn) {
	if s.rates == nil {
		s.rates, s.beyond = map[int]float64{}, map[int]float64{}
	}
	// A turn that did not come to nine tenths has no rate.
	if r, ok := tr.rate(); ok {
		s.rates[i] = r
	}
	s.beyond[i] = math.Max(0, float64(tr.furthest-tr.asked))
	s.res.Steps[i].Metrics["turned_deg"] = tr.turned.Deg()
}
