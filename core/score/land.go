package score

import (
	"math"

	"maestrale/core/field"
)

const (
	lastMetre  = 1.0 // m of height from which a landing begins
	sinkWindow = 0.3 // s before the first touch over which the sink rate is taken
	restSpeed  = 0.3 // m/s under which the craft is at rest
	restWindow = 0.2 // s over which a speed is taken, at most
)

// landing is what is measured at the first touch.
type landing struct {
	offset, sink, sideways float64
	tilt, nose             field.Angle
	place                  point
	bounces                int
}

// land runs until the craft has stood for a second.
func (s *sampler) land() {
	step, a := s.step, s.from()
	if a.z < grounded {
		s.touchDown(a, a)
	}
	for ; s.i < s.t.Len()-1; s.i++ {
		b := s.sample(s.i + 1)
		if math.IsNaN(s.touch) {
			s.descend(a, b)
		} else if s.stand(a, b); s.step != step {
			return
		}
		a = b
	}
}

// descend looks for the last metre and for the first touch.
func (s *sampler) descend(a, b point) {
	if a.z > lastMetre && b.z <= lastMetre {
		s.started(a.t + (b.t-a.t)*(a.z-lastMetre)/(a.z-b.z))
	}
	if b.z < grounded {
		f := 1.0
		if a.z > grounded {
			f = (a.z - grounded) / (a.z - b.z)
		}
		s.touchDown(between(a, b, f), b)
	}
}

// touchDown measures the first touch, at p; after is the sample that follows.
func (s *sampler) touchDown(p, after point) {
	if math.IsNaN(s.start) {
		s.started(s.ready)
	}
	s.touched(p.t)
	before := s.when(math.Max(s.t.T[0], p.t-sinkWindow))
	l := landing{place: p}
	if dt := p.t - before.t; dt > 0 {
		l.sink = math.Max(0, (before.z-p.z)/dt)
		l.sideways = math.Hypot(p.x-before.x, p.y-before.y) / dt
	}
	target := s.target()
	l.offset = target.At.Dist(field.Point{X: p.x, Y: p.y})
	if s.t.Roll != nil && s.t.Pitch != nil {
		i := max(0, s.t.At(p.t))
		// The thrust axis leans by acos(cos roll · cos pitch).
		l.tilt = field.Angle(math.Acos(math.Cos(float64(s.t.Roll[i])) * math.Cos(float64(s.t.Pitch[i]))))
	}
	seen := field.Bearing(field.Point{X: p.x - s.task.Station.X, Y: p.y - s.task.Station.Y})
	l.nose = target.Heading.Deviation(p.heading, seen, p.heading)
	if s.lands == nil {
		s.lands = map[int]landing{}
	}
	s.lands[s.step] = l
	s.landFaults(l)
}

func (s *sampler) landFaults(l landing) {
	target, j := s.target(), s.judged[s.step]
	at := &Place{l.place.x, l.place.y, l.place.z}
	note := func(code Code, v, limit float64, toward string) {
		if limit > 0 && v > limit {
			s.fault(Fault{TS: l.place.t, Code: code, Value: value(v), Limit: value(limit), Toward: toward, At: at})
		}
	}
	off := field.Point{X: l.place.x, Y: l.place.y}.Sub(target.At)
	note(Offset, l.offset, j.land.offset, field.Direction(off))
	note(Sink, l.sink, j.land.sink, "down")
	note(Tilt, l.tilt.Deg(), j.land.tilt.Deg(), "")
	side := "right"
	if l.nose < 0 {
		side = "left"
	}
	note(Nose, l.nose.Abs().Deg(), j.land.nose.Deg(), side)
}

// stand looks for bounces and for the second of standing still.
func (s *sampler) stand(a, b point) {
	if b.z > grounded {
		if s.judged[s.step].land.bounces {
			if !s.aloft {
				l := s.lands[s.step]
				l.bounces++
				s.lands[s.step] = l
			}
			s.lifted(a.t + (b.t-a.t)*math.Max(0, (grounded-a.z)/(b.z-a.z)))
			s.outside(b.z)
		} else {
			s.clock.leave(b.t)
		}
		return
	}
	s.aloft = false
	if speed, since := s.speed(s.i + 1); b.z < grounded && speed < restSpeed {
		s.enter(math.Max(s.touch, since))
	} else {
		s.clock.leave(b.t)
	}
	s.advance(b.t)
}

// speed is the mean speed over the last restWindow seconds up to sample i, or
// over the last step where samples are rarer; since is when that began.
func (s *sampler) speed(i int) (speed, since float64) {
	j := i - 1
	for j > 0 && s.t.T[i]-s.t.T[j-1] <= restWindow+1e-9 {
		j--
	}
	dx, dy, dz := s.t.X[i]-s.t.X[j], s.t.Y[i]-s.t.Y[j], s.t.Z[i]-s.t.Z[j]
	return math.Sqrt(dx*dx+dy*dy+dz*dz) / (s.t.T[i] - s.t.T[j]), s.t.T[j]
}
