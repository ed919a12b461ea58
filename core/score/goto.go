package score

import (
	"math"

	"maestrale/core/drill"
	"maestrale/core/field"
)

// The way to a place and the stop have this in common: both end with a rest,
// which a log has to show and which noise may hide.

const leaveNear = 1.0 // m from its start within which a leg has not been left

// goTo follows a step to a place: a straight way, a stop near it, and a rest
// where one is asked for. What comes before the craft leaves, such as a turn of
// the nose, is not part of the leg. Every point is kept for the metrics, and
// held to the limits as it is flown.
func (s *sampler) goTo() {
	target, c, w := s.target(), s.judged[s.step].way, s.way()
	a := s.from()
	s.started(a.t)
	w.begun = true
	// "As it was" is the heading before the turn of the nose, if there was one.
	kept := a.heading
	far := target.At.Dist(field.Point{X: a.x, Y: a.y})
	// The craft is there once it is within the overshoot that is allowed, or
	// within what the log knows.
	within := math.Max(target.Limits.Past, s.reach)
	// Judged from where the craft left, and along the line from there: where it
	// stood before is the step before's.
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
		p := s.onLeg(b, start, course, far)
		p.nose = target.Heading.Deviation(b.heading, field.Bearing(at.Sub(s.task.Station)), kept)
		w.points = append(w.points, p)
		limits.see(s, a, b, p, far)
		// Near in place and in height; a rest is counted only there.
		inside := at.Dist(target.At) <= within && (c.height <= 0 || math.Abs(p.high) <= c.height)
		// near is when the place was first reached; settling is counted from
		// it.
		if inside && math.IsNaN(near) {
			near = reaches(a, b, target.At, within)
		}
		end := math.NaN()
		rest.see(a.t, b.t, p.speed, inside)
		if inside && target.RestS == 0 {
			end = math.Max(near, a.t)
		}
		// With a rest asked, the step is done when the rest may have been long
		// enough; where only noise says so, the result says that it does.
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

// onLeg is the craft at b, the newest sample, as a point of a leg from start along
// a course: how far along it and how far off it the craft is, in metres, and how
// high. far is how long the leg is.
func (s *sampler) onLeg(b point, start field.Point, course field.Angle, far float64) flownPoint {
	at := field.Point{X: b.x, Y: b.y}
	way := along(start, course, at)
	// Pythagoras: the distance from the start, the way along the line, and off
	// it. Rounding may take a little below zero.
	off := math.Sqrt(math.Max(0, at.Dist(start)*at.Dist(start)-way*way))
	// The marker is where the craft stands already: everything is off it.
	if far < 1e-6 {
		off, way = at.Dist(start), 0
	}
	p := flownPoint{point: b, way: way, off: off, high: b.z - s.target().HeightM}
	p.speed, _ = s.speed(s.i + 1)
	return p
}

// wayLimits are what a way to a place is held to, with the excursion from each
// that goes on.
type wayLimits struct {
	cross, high, nose, past excursion
	arrived                 bool // past the middle of the way: the height is held from there
}

// wayLimitsOf returns the limits of a step: those that the log can judge, from
// c, each with the step's own beside it for the words.
func wayLimitsOf(target *drill.Target, c *wayCriteria) wayLimits {
	own := target.Limits
	return wayLimits{
		cross: excursion{code: CrossTrack, limit: c.cross, own: own.Cross},
		high:  excursion{code: Height, limit: c.height, own: own.Height},
		nose:  excursion{code: Nose, limit: c.nose.Deg(), own: own.Nose.Deg()},
		past:  excursion{code: Overshoot, limit: c.past, own: own.Past},
	}
}

// see holds what was flown from sample a to sample b to the limits. p is b as a
// point of the way and far the length of the whole way, in metres.
func (l *wayLimits) see(s *sampler, a, b point, p flownPoint, far float64) {
	target, w := s.target(), s.way()
	toward := func() string { return field.Direction(field.Point{X: b.x, Y: b.y}.Sub(target.At)) }
	l.cross.see(s, a, b, p.off, toward)
	if l.arrived = l.arrived || p.way > 0.5*far; l.arrived { // the height may change on the way
		l.high.see(s, a, b, math.Abs(p.high), func() string { return upOrDown(p.high) })
		w.high = math.Max(w.high, math.Abs(p.high))
	}
	l.nose.see(s, a, b, p.nose.Abs().Deg(), func() string { return leftOrRight(p.nose) })
	w.past = math.Max(w.past, p.way-far)
	l.past.see(s, a, b, math.Max(0, p.way-far), toward)
}

// reaches returns the moment, in seconds, at which the craft came within a
// distance of a place between the samples a and b; b is within it. Where a was
// as well, that is the time of b.
func reaches(a, b point, place field.Point, within float64) float64 {
	at := field.Point{X: b.x, Y: b.y}
	u := 1.0
	if before := (field.Point{X: a.x, Y: a.y}).Dist(place); before > within {
		u = (before - within) / (before - at.Dist(place))
	}
	return a.t + (b.t-a.t)*math.Max(0, math.Min(1, u))
}

// leaves returns the sample at which the craft leaves the place where a leg
// begins: the last at which it was at rest, or had not gone anywhere, before it
// came farther along than leaveNear or a quarter of the way. It returns −1
// where the craft was under way already, never left, or the leg is shorter than
// 0.4 m.
func (s *sampler) leaves(to field.Point, far, within float64) int {
	reach := math.Min(leaveNear, far/4)
	if reach < 0.1 {
		return -1
	}
	first := max(0, s.t.At(s.ready))
	start := field.Point{X: s.t.X[first], Y: s.t.Y[first]}
	course := field.Bearing(to.Sub(start))
	// gone is the first sample that is surely on the way; from there it is
	// looked back.
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
	// From there back to the last rest, and in it back to where it had not
	// stirred yet.
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

// leftOrRight names the direction of a nose error; to the right is positive.
func leftOrRight(nose field.Angle) string {
	if nose > 0 {
		return "right"
	}
	return "left"
}

// upOrDown names the direction of a height error.
func upOrDown(v float64) string {
	if v > 0 {
		return "up"
	}
	return "down"
}

// stopping follows a stop. It begins at a call or so many seconds into the
// step, as the drill says, and is done when the craft has been at rest for
// settle seconds. Where the drill asks for a turn over it looks for that first.
// A call that never comes leaves the step undone.
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
	// Whether it was slow before the stop began says nothing about the stop.
	rest.sure.last, rest.may.last = math.NaN(), math.NaN()
	// over is whether the turn over has been flown, is not asked for, or cannot
	// be seen.
	over := !target.Over || s.t.Roll == nil || s.t.Pitch == nil // an eye sees it, a log without attitude does not
	if target.Over && over {
		s.unjudged(s.step, "turned over", msgLogNoAttitude)
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

// cameIn keeps how fast the craft was as a stop began, over the last runUp
// seconds; coming slower than the drill asks is a fault, since braking from
// nothing shows nothing. An uncertain place takes two deviations of that
// speed's error off the limit.
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

// stood keeps how a stop went that began at from and stood at resting, both in
// seconds, and notes what took too long or went too far. begin is the craft as
// the stop began.
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
