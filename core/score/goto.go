package score

import (
	"math"

	"maestrale/core/field"
)

// goTo flies to the next place: a straight way, a stop near it, a rest where one is
// asked for.
func (s *sampler) goTo() {
	target, c, w := s.target(), s.judged[s.step].way, s.way()
	a := s.from()
	start := field.Point{X: a.x, Y: a.y}
	s.started(a.t)
	w.begun = true
	course := field.Bearing(target.At.Sub(start))
	far := target.At.Dist(start)
	kept := a.heading
	cross, high, nose, past := excursion{code: "cross-track", limit: c.cross}, excursion{code: Height, limit: c.height}, excursion{code: Nose, limit: c.nose.Deg()}, excursion{code: Overshoot, limit: c.past}
	near, last := math.NaN(), 0.0
	resting := math.NaN()
	arrived := false
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
		p.nose = target.Heading.Deviation(b.heading, field.Bearing(field.Point{X: b.x - s.task.Station.X, Y: b.y - s.task.Station.Y}), kept)
		w.points = append(w.points, p)
		toward := func() string { return field.Direction(at.Sub(target.At)) }
		cross.see(s, a, b, off, toward)
		if arrived = arrived || way > 0.5*far; arrived { // the height may change on the way
			high.see(s, a, b, math.Abs(p.high), func() string { return map[bool]string{true: "up", false: "down"}[p.high > 0] })
		}
		nose.see(s, a, b, p.nose.Abs().Deg(), func() string { return map[bool]string{true: "right", false: "left"}[p.nose > 0] })
		w.past = math.Max(w.past, way-far)
		past.see(s, a, b, math.Max(0, way-far), toward)
		within := target.Limits.Past
		inside := at.Dist(target.At) <= within && (c.height <= 0 || math.Abs(p.high) <= c.height)
		if inside && math.IsNaN(near) {
			u := 1.0
			if before := (field.Point{X: a.x, Y: a.y}).Dist(target.At); before > within {
				u = (before - within) / (before - at.Dist(target.At))
			}
			near = a.t + (b.t-a.t)*math.Max(0, math.Min(1, u))
		}
		end := math.NaN()
		switch rests := inside && p.speed < restSpeed; {
		case inside && target.RestS == 0:
			end = math.Max(near, a.t)
		case rests && math.IsNaN(resting):
			u := 1.0
			if last > restSpeed {
				u = (last - restSpeed) / (last - p.speed)
			}
			resting = a.t + (b.t-a.t)*u
		case !rests:
			resting = math.NaN()
		}
		if !math.IsNaN(resting) && b.t-resting >= target.RestS && target.RestS > 0 {
			end = resting + target.RestS
			w.settled = math.Max(0, resting-near)
		}
		last = p.speed
		if s.timeOut(b.t); !math.IsNaN(end) {
			w.done = true
			s.finish(math.Max(end, a.t))
			return
		}
		a = b
	}
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
	a, last := begin, math.NaN()
	resting := math.NaN()
	over := !target.Over || s.t.Roll == nil || s.t.Pitch == nil // an eye sees it, a log without attitude does not
	if target.Over && over {
		s.unjudged(s.step, "turned over", "the log has no roll and pitch")
	}
	for ; s.i < s.t.Len()-1; s.i++ {
		b := s.sample(s.i + 1)
		speed, _ := s.speed(s.i + 1)
		if !over { // upside down the craft's own up points to the ground
			over = math.Cos(float64(s.t.Roll[s.i+1]))*math.Cos(float64(s.t.Pitch[s.i+1])) < 0
			s.timeOut(b.t)
			a, last = b, speed
			continue
		}
		switch {
		case speed < restSpeed && math.IsNaN(resting):
			u := 1.0
			if last > restSpeed {
				u = (last - restSpeed) / (last - speed)
			}
			resting = math.Max(from, a.t+(b.t-a.t)*u)
		case speed >= restSpeed:
			resting = math.NaN()
		}
		last = speed
		if !math.IsNaN(resting) && b.t-resting >= settle {
			p := s.when(resting)
			w.stopS, w.far, w.done = resting-from, math.Sqrt((p.x-begin.x)*(p.x-begin.x)+(p.y-begin.y)*(p.y-begin.y)+(p.z-begin.z)*(p.z-begin.z)), true
			at := &Place{p.x, p.y, p.z}
			if c.seconds > 0 && w.stopS > c.seconds {
				s.fault(Fault{TS: from + c.seconds, Code: "late", Value: value(w.stopS), Limit: value(c.seconds), At: at})
			}
			if c.distance > 0 && w.far > c.distance {
				s.fault(Fault{TS: resting, Code: Overshoot, Value: value(w.far), Limit: value(c.distance), At: at, Toward: field.Direction(field.Point{X: p.x - begin.x, Y: p.y - begin.y})})
			}
			s.finish(resting + settle)
			return
		}
		s.timeOut(b.t)
		a = b
	}
}
