package score

import (
	"math"

	"maestrale/core/drill"
	"maestrale/core/field"
)

// A landing has two halves: down to the first touch, whose place, sink rate,
// lean and nose are judged, and after it until the craft has stood for a
// second, in which leaving the ground again is a bounce. Both are cut by the
// height that counts as the ground, which a noisy log raises.

const (
	lastMetre  = 1.0  // m of height from which a landing begins
	sinkWindow = 0.3  // s before the first touch over which the sink rate is taken
	sinkFine   = 0.15 // m/s to which a sink rate has to be known to be looked at
	sinkSure   = 1.5  // standard deviations within which a sink rate is not told from its limit
	restWindow = 0.2  // s over which a speed is taken, at most
)

// landing is what is measured at the first touch: the offset from the pad in
// metres, the sink rate and the sideways speed in m/s, the lean of the thrust
// axis and the nose off its rule.
type landing struct {
	offset, sink, sideways float64
	sinkKnown              float64 // deviation of the sink rate's error
	tilt, nose             field.Angle
	place                  point
	bounces                int
}

// sinkLimit is the sink rate in m/s over which a landing is surely too hard:
// the limit, and sinkSure deviations of the rate's error. 0 is not judged.
func (c landCriteria) sinkLimit(l landing) float64 {
	if c.sink <= 0 {
		return 0
	}
	return c.sink + sinkSure*l.sinkKnown
}

// land follows a landing until the craft has stood for settle seconds after its
// first touch. It begins in the last metre.
func (s *sampler) land() {
	step, a := s.step, s.from()
	if a.z < s.ground {
		// It was on the ground already as the step began.
		s.touchDown(a)
	}
	s.stands = s.newRest()
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

// descend looks for the last metre, where the landing begins, and for the first
// touch, between the samples a and b.
func (s *sampler) descend(a, b point) {
	if a.z > lastMetre && b.z <= lastMetre {
		s.started(a.t + (b.t-a.t)*(a.z-lastMetre)/(a.z-b.z))
	}
	if b.z < s.ground {
		p := b
		if a.z > s.ground {
			p = s.meets(a, b)
		}
		s.touchDown(p)
	}
}

// meets returns the craft where it meets the ground between the samples a, in
// the air, and b, on it. Interpolated straight that would be too late: the
// ground stops the craft within the interval. So the line of the descent before
// it, over the last sinkWindow of the log's own samples, is drawn on to the
// ground. A noisy log has no such line, and takes the interpolated place.
func (s *sampler) meets(a, b point) point {
	p := between(a, b, (a.z-s.ground)/(a.z-b.z))
	// The last sample of the log in the air, and one sinkWindow before it.
	i := s.raw.At(a.t + 1e-9)
	for i > 0 && s.raw.Z[i] < s.ground {
		i--
	}
	j := i
	for j > 0 && s.raw.T[i]-s.raw.T[j] < sinkWindow-1e-9 {
		j--
	}
	if s.noisy || j >= i || s.raw.Z[j] <= s.raw.Z[i] {
		return p
	}
	sink := (s.raw.Z[j] - s.raw.Z[i]) / (s.raw.T[i] - s.raw.T[j])
	if at := s.raw.T[i] + (s.raw.Z[i]-s.ground)/sink; at > a.t && at < p.t {
		p = between(a, b, (at-a.t)/(b.t-a.t))
		p.z = s.ground
	}
	return p
}

// touchDown measures the first touch, at p, and notes its faults.
func (s *sampler) touchDown(p point) {
	if math.IsNaN(s.start) {
		s.started(s.ready)
	}
	s.touched(p.t)
	l := landing{place: p}
	l.sink, l.sideways, l.sinkKnown = s.sinking(p)
	target := s.target()
	l.offset = target.At.Dist(field.Point{X: p.x, Y: p.y})
	if s.t.Roll != nil && s.t.Pitch != nil {
		i := max(0, s.t.At(p.t))
		// The thrust axis leans by acos(cos roll · cos pitch) off the vertical.
		l.tilt = field.Angle(math.Acos(math.Cos(float64(s.t.Roll[i])) * math.Cos(float64(s.t.Pitch[i]))))
	}
	seen := field.Bearing(field.Point{X: p.x - s.task.Station.X, Y: p.y - s.task.Station.Y})
	// A rule that asks for the heading "as it was" is met by any nose here.
	l.nose = target.Heading.Deviation(p.heading, seen, p.heading)
	if s.lands == nil {
		s.lands = map[int]landing{}
	}
	s.lands[s.step] = l
	s.landFaults(l)
}

// sinking returns the sink rate and the sideways speed in m/s over the last
// sinkWindow before a touch at p. In a noisy log the sink rate is the slope of
// the log's own heights before the touch, over a time in which it is known well
// enough. known is the standard deviation of its error, 0 in a fine log.
func (s *sampler) sinking(p point) (sink, sideways, known float64) {
	before := s.when(math.Max(s.t.T[0], p.t-sinkWindow))
	if dt := p.t - before.t; dt > 0 {
		sink, sideways = math.Max(0, (before.z-p.z)/dt), math.Hypot(p.x-before.x, p.y-before.y)/dt
		if i := s.raw.At(before.t); i >= 0 && i+1 < s.raw.Len() && !s.noisy { // straight between the log's own samples
			u := (before.t - s.raw.T[i]) / (s.raw.T[i+1] - s.raw.T[i])
			sink = math.Max(0, (s.raw.Z[i]+u*(s.raw.Z[i+1]-s.raw.Z[i])-p.z)/dt)
		}
	}
	if s.speeds == nil {
		return sink, sideways, 0
	}
	if s.own {
		return s.ownSink(p.t), sideways, s.sink
	}
	best := math.Inf(-1)
	for _, over := range []float64{0.3, 0.6, 0.8, 1, 1.2} {
		if over > math.Max(0.6, s.window)+1e-9 {
			break
		}
		// Longer windows know the slope better but reach into the time before
		// the last descent, which makes it less. Take the steepest slope of
		// which the log is sure.
		if v, sigma, ok := s.slope(p.t-over, p.t); ok && sigma <= math.Max(sinkFine, s.sink) && v-sinkSure*sigma > best {
			best, sink, known = v-sinkSure*sigma, math.Max(0, v), sigma
		}
	}
	return sink, sideways, known
}

// slope is the sink rate of the log's own heights between two moments, by least
// squares, and the standard deviation of its error: that of one height over
// √Σ(t − t̄)². ok is false for fewer than three samples.
func (s *sampler) slope(from, to float64) (v, sigma float64, ok bool) {
	var n, st, sz, stt, stz float64
	for i := s.raw.At(to); i >= 0 && s.raw.T[i] >= from; i-- {
		t, z := s.raw.T[i]-to, s.raw.Z[i]
		n, st, sz, stt, stz = n+1, st+t, sz+z, stt+t*t, stz+t*z
	}
	den := stt - st*st/math.Max(1, n)
	if n < 3 || den < 1e-9 {
		return 0, 0, false
	}
	return -(stz - st*sz/n) / den, s.noise.quickZ / math.Sqrt(den), true
}

// landFaults notes what was too much at the touch l.
func (s *sampler) landFaults(l landing) {
	target, j := s.target(), s.judged[s.step]
	at := &Place{l.place.x, l.place.y, l.place.z}
	// note makes a fault of v over limit, which says the step's own limit.
	note := func(code Code, v, limit, own float64, toward string) {
		if limit > 0 && v > limit {
			s.fault(Fault{TS: l.place.t, Code: code, Value: value(v), Limit: value(own), Toward: toward, At: at})
		}
	}
	off := field.Point{X: l.place.x, Y: l.place.y}.Sub(target.At)
	note(Offset, l.offset, j.land.offset, target.Limits.Offset, field.Direction(off))
	note(Sink, l.sink, j.land.sinkLimit(l), target.Limits.Sink, "down")
	note(Tilt, l.tilt.Deg(), j.land.tilt.Deg(), j.land.tilt.Deg(), "")
	side := "right"
	if l.nose < 0 {
		side = "left"
	}
	note(Nose, l.nose.Abs().Deg(), j.land.nose.Deg(), target.Limits.Nose.Deg(), side)
}

// ownSink is the mean sink rate that the log itself reports over the last
// sinkWindow before a moment, in m/s, never negative. It needs the column of
// vertical speeds.
func (s *sampler) ownSink(t float64) float64 {
	sum, n := 0.0, 0.0
	for i := max(0, s.raw.At(t)); i >= 0 && (n == 0 || s.raw.T[i] >= t-sinkWindow); i-- {
		sum, n = sum-s.raw.VZ[i], n+1
	}
	return math.Max(0, sum/n)
}

// stand looks, after the touch, for bounces and for the second of standing
// still, between the samples a and b.
func (s *sampler) stand(a, b point) {
	// A height over up is off the ground: in a fine log four deviations over
	// it, in a noisy one the ground level has been widened already.
	up := s.ground + s.noise.quickZ
	if !s.noisy {
		up = s.ground + 4*s.noise.quickZ
	}
	if b.z > up {
		// In the air it does not stand, whatever its speed.
		s.stands.see(a.t, b.t, math.Inf(1), false)
		if s.judged[s.step].land.bounces {
			if !s.aloft {
				l := s.lands[s.step]
				l.bounces++
				s.lands[s.step] = l
			}
			s.lifted(a.t + (b.t-a.t)*math.Max(0, (up-a.z)/(b.z-a.z)))
			s.outside(b.z)
		} else {
			s.clock.leave(b.t)
		}
		return
	}
	// On the ground again: the next time off it is another bounce.
	s.aloft = false
	speed, since := s.speed(s.i + 1)
	if s.speeds != nil {
		s.standNoisy(a, b, speed)
		return
	}
	// A rest that began before the touch was none on the ground.
	if speed < drill.RestMps {
		s.enter(math.Max(s.touch, since))
	} else {
		s.clock.leave(b.t)
	}
	s.advance(b.t)
}

// standNoisy looks for the second of standing still where noise looks like
// movement: speed is that of the fit.
func (s *sampler) standNoisy(a, b point, speed float64) {
	s.stands.see(a.t, b.t, speed, true)
	may, sure := s.enough(&s.stands, b.t, settle)
	if !may {
		s.timeOut(b.t)
		return
	}
	if !sure && !s.surely(s.stands, settle) {
		s.hidden(s.step, "rest", s.pace, drill.RestMps, "m/s")
	}
	s.enter(math.Max(s.touch, s.stands.since()))
	s.finish(math.Max(b.t, s.clock.since+settle))
}

// speed is the mean speed over the last restWindow seconds up to sample i, or
// over the last step where samples are rarer; since is when that time began. In
// a noisy log it is that of the fit at the sample itself, and since is the
// sample's time. The first sample of a fine log has the speed 0.
func (s *sampler) speed(i int) (speed, since float64) {
	if s.speeds != nil {
		return s.speeds[i], s.t.T[i]
	}
	if i < 1 {
		return 0, s.t.T[0]
	}
	j := i - 1
	for j > 0 && s.t.T[i]-s.t.T[j-1] <= restWindow+1e-9 {
		j--
	}
	dx, dy, dz := s.t.X[i]-s.t.X[j], s.t.Y[i]-s.t.Y[j], s.t.Z[i]-s.t.Z[j]
	return math.Sqrt(dx*dx+dy*dy+dz*dz) / (s.t.T[i] - s.t.T[j]), s.t.T[j]
}
