package score

import (
	"math"

	"maestrale/core/drill"
	"maestrale/core/field"
)

const leaveNear = 1.0 // m from its start within which a leg has not been left

// goTo flies to the next place: a straight way, a stop near it, a rest where one is
// asked for. What comes before the craft leaves, as a turn of the nose there, is not
// part of the leg.
func (s *sampler) goTo() {
	target, c, w := s.target(), s.judged[s.step].way, s.way()
	a := s.from()
	s.started(a.t)
	w.begun = true
	kept := a.heading
	far := target.At.Dist(field.Point{X: a.x, Y: a.y})
	within := math.Max(target.Limits.Past, s.reach)
	if i := s.leaves(target.At, far, within); i >= 0 {
		s.i, a = i, s.sample(i)
	}
	start := field.Point{X: a.x, Y: a.y}
	course := field.Bearing(target.At.Sub(start))
	far = target.At.Dist(start)
	limits := wayLimitsOf(target, &c)
	near := math.NaN()
	rest := s.newRest()
	for ; s.i < s.t.Len()-1; s.i++ {
		b := s.sample(s.i + 1)
		at := field.Point{X: b.x, Y: b.y}
		way := along(start, course, at)
		off := math.Sqrt(math.Max(0, at.Dist(start)*at.Dist(start)-way*way))
		if far < 1e-6 {
			off, way = at.Dist(start), 0
		}
		p := flownPoint{point: b, way: way, off: off, high: b.z - target.HeightM}
		p.speed, _ = s.speed(s.i + 1)
		p.nose = target.Heading.Deviation(b.heading, field.Bearing(field.Point{X: b.x - s.task.Station.X,
			Y: b.y - s.task.Station.Y}), kept)
		w.points = append(w.points, p)
		limits.see(s, a, b, p, far)
		inside := at.Dist(target.At) <= within && (c.height <= 0 || math.Abs(p.high) <= c.height)
		if inside && math.IsNaN(near) {
			near = reaches(a, b, target.At, within)
		}
		end := math.NaN()
		rest.see(a.t, b.t, p.speed, inside)
		if inside && target.RestS == 0 {
			end = math.Max(near, a.t)
		}
		if may, sure := s.enough(&rest, b.t, target.RestS); may && inside && target.RestS > 0 {
			if end = b.t; sure {
				end = rest.sure.since + target.RestS
			} else if !s.surely(rest, target.RestS) {
				s.hidden(s.step, "rest_s", s.pace, drill.RestMps, "m/s")
			}
			w.settled = math.Max(0, rest.since()-near)
		}
		if s.timeOut(b.t); !math.IsNaN(end) {
			w.done = true
			s.finish(math.Max(end, a.t))
			return
		}
		a = b
	}
}

// wayLimits are what a way to a place is held to, with how far it has gone beyond each.
type wayLimits struct {
	cross, high, nose, past excursion
	arrived                 bool // past the middle of the way: the height is held from there
}

// wayLimitsOf are the limits of a step, as the log can judge them.
func wayLimitsOf(target *drill.Target, c *wayCriteria) wayLimits {
	own := target.Limits
	return wayLimits{
		cross: excursion{code: CrossTrack, limit: c.cross, own: own.Cross},
		high:  excursion{code: Height, limit: c.height, own: own.Height},
		nose:  excursion{code: Nose, limit: c.nose.Deg(), own: own.Nose.Deg()},
		past:  excursion{code: Overshoot, limit: c.past, own: own.Past},
	}
}

// see holds what was flown from one sample to the next to the limits, on a way that is so far.
func (l *wayLimits) see(s *sampler, a, b point, p flownPoint, far float64) {
	target, w := s.target(), s.way()
	toward := func() string { return field.Direction(field.Point{X: b.x, Y: b.y}.Sub(target.At)) }
	l.cross.see(s, a, b, p.off, toward)
	if l.arrived = l.arrived || p.way > 0.5*far; l.arrived { // the height may change on the way
		l.high.see(s, a, b, math.Abs(p.high), func() string { return upOrDown(p.high) })
		w.high = math.Max(w.high, math.Abs(p.high))
	}
	l.nose.see(s, a, b, p.nose.Abs().Deg(), func() string {
		return map[bool]string{true: "right", false: "left"}[p.nose > 0]
	})
	w.past = math.Max(w.past, p.way-far)
	l.past.see(s, a, b, math.Max(0, p.way-far), toward)
}

// reaches is the moment at which the craft came within so far of a place, between two samples, the second of which is.
func reaches(a, b point, place field.Point, within float64) float64 {
	at := field.Point{X: b.x, Y: b.y}
	u := 1.0
	if before := (field.Point{X: a.x, Y: a.y}).Dist(place); before > within {
		u = (before - within) / (before - at.Dist(place))
	}
	return a.t + (b.t-a.t)*math.Max(0, math.Min(1, u))
}

// leaves returns the sample at which the craft leaves the place where a leg begins: the last at
// which it was at rest, or had not gone anywhere, before it came farther along than leaveNear or
// a quarter of the way. It is −1 where it was under way already, or never left.
func (s *sampler) leaves(to field.Point, far, within float64) int {
	reach := math.Min(leaveNear, far/4)
	if reach < 0.1 {
		return -1
	}
	first := max(0, s.t.At(s.ready))
	start := field.Point{X: s.t.X[first], Y: s.t.Y[first]}
	course := field.Bearing(to.Sub(start))
	gone := -1
	for i := first; i < s.t.Len(); i++ {
		at := field.Point{X: s.t.X[i], Y: s.t.Y[i]}
		if at.Dist(to) <= within { // it is there already
			return -1
		}
		if along(start, course, at) > reach {
			gone = i
			break
		}
	}
	for i := gone; i > first+1; i-- {
		v, _ := s.speed(i)
		if v >= drill.RestMps {
			continue
		}
		for ; i > first+1; i-- { // back to where it had not stirred yet
			before, _ := s.speed(i - 1)
			if before >= v-1e-3 {
				break
			}
			v = before
		}
		return i
	}
	return -1
}

func upOrDown(v float64) string {
	if v > 0 {
		return "up"
	}
	return "down"
}

// stopping begins at a call, or so many seconds into the step, and is done when the
// craft has been at rest for a second.
func (s *sampler) stopping() {
	target, c, w := s.target(), s.judged[s.step].way, s.way()
	from := s.ready + target.AfterS
	if target.OnCall {
		from = math.NaN()
		for _, call := range s.t.Calls {
			if call.T >= s.ready-1e-9 {
				from = call.T
				break
			}
		}
		if math.IsNaN(from) {
			s.i = s.t.Len() - 1
			return
		}
	}
	begin := s.when(from)
	s.i = max(0, s.t.At(from))
	s.started(from)
	w.begun = true
	s.cameIn(w, c, begin)
	a := begin
	rest := s.newRest()
	rest.sure.last, rest.may.last = math.NaN(), math.NaN()
	over := !target.Over || s.t.Roll == nil || s.t.Pitch == nil // an eye sees it, a log without attitude does not
	if target.Over && over {
		s.unjudged(s.step, "turned over", msgLogNoRoll)
	}
	for ; s.i < s.t.Len()-1; s.i++ {
		b := s.sample(s.i + 1)
		speed, _ := s.speed(s.i + 1)
		if !over { // upside down the craft's own up points to the ground
			over = math.Cos(float64(s.t.Roll[s.i+1]))*math.Cos(float64(s.t.Pitch[s.i+1])) < 0
			s.timeOut(b.t)
			rest.sure.last, rest.may.last = speed, speed
			a = b
			continue
		}
		rest.see(a.t, b.t, speed, true)
		if may, sure := s.enough(&rest, b.t, settle); may {
			if !sure && !s.surely(rest, settle) {
				s.hidden(s.step, "rest", s.pace, drill.RestMps, "m/s")
			}
			s.stood(w, c, from, math.Max(from, rest.since()), begin)
			s.finish(math.Max(b.t, math.Max(from, rest.since())+settle))
			return
		}
		s.timeOut(b.t)
		a = b
	}
}

// cameIn keeps how fast the craft was as a stop began, which is a fault where it was slower than asked.
func (s *sampler) cameIn(w *flownWay, c wayCriteria, begin point) {
	p := s.when(math.Max(s.t.T[0], begin.t-runUp))
	if begin.t > p.t {
		w.came = math.Hypot(begin.x-p.x, begin.y-p.y) / (begin.t - p.t)
	}
	if c.from > 0 && w.came < c.from-2*math.Sqrt2*math.Max(s.noise.place, 0)/runUp {
		s.fault(Fault{TS: begin.t, Code: Speed, Value: value(w.came), Limit: value(s.target().FromMps),
			At: &Place{begin.x, begin.y, begin.z}})
	}
}

// stood keeps how a stop went that began at from and stood at resting.
func (s *sampler) stood(w *flownWay, c wayCriteria, from, resting float64, begin point) {
	p := s.when(resting)
	w.stopS, w.far, w.done = resting-from,
		math.Sqrt((p.x-begin.x)*(p.x-begin.x)+(p.y-begin.y)*(p.y-begin.y)+(p.z-begin.z)*(p.z-begin.z)), true
	at := &Place{p.x, p.y, p.z}
	if c.seconds > 0 && w.stopS > c.seconds {
		s.fault(Fault{TS: from + c.seconds, Code: Late, Value: value(w.stopS), Limit: value(c.seconds), At: at})
	}
	if c.distance > 0 && w.far > c.distance {
		s.fault(Fault{TS: resting, Code: Overshoot, Value: value(w.far), Limit: value(s.target().Limits.Distance), At: at,
			Toward: field.Direction(field.Point{X: p.x - begin.x, Y: p.y - begin.y})})
	}
}
