package score

import (
	"math"

	"maestrale/core/drill"
	"maestrale/core/field"
)

// The step machine knows when each step was flown; what it came to meanwhile is
// measured afterwards, over exactly that time. The worst share of a limit
// decides the margin.

// A stay begins as the craft comes inside, near the edge: what it still is from
// there to the middle is arriving and not holding.
const (
	arriveMost = 4.0  // s of a stay in which the craft may still be arriving
	arriveBy   = 0.03 // of a limit by which it has to come farther out again to have arrived
)

// landCriteria are the tolerances of a landing that the log can judge: metres,
// m/s and angles, 0 where not judged. bounces is whether the log knows heights
// well enough to tell a bounce.
type landCriteria struct {
	offset, sink float64
	tilt, nose   field.Angle
	bounces      bool
}

// measure fills in the metrics of every step that began, and judges them
// against their limits. A hold counts from where it could begin, since it
// begins only with a second inside.
func (s *sampler) measure() {
	for i := range s.task.Steps {
		sp, target := s.spans[i], &s.task.Steps[i]
		if math.IsNaN(sp.to) || (math.IsNaN(sp.from) && target.Kind != drill.Hold) {
			continue
		}
		kindOf(target).measure(s, i)
	}
	for i := range s.ways {
		s.smoothness(i)
	}
	for i := range s.replies {
		s.measureAnswers(i)
	}
	s.aspects()
}

// measureHold measures the longest stay of the hold that is step i, from where
// the craft had arrived. Where it was never inside for long enough, it says by
// how much it was outside for most of the time. scratch is overwritten.
func (s *sampler) measureHold(i int, scratch []float64) {
	target, c, met, stay := s.task.Steps[i], s.judged[i], s.res.Steps[i].Metrics, s.stays[i]
	met["inside_s"] = stay.length()
	c.kept = s.when(s.readies[i]).heading
	if stay.length() <= 0 {
		s.measureOutside(i, &c, scratch)
		return
	}
	w := s.stretchOf(span{s.arrives(stay, &c), stay.to}, &c, scratch)
	met["radius_rms_m"], met["radius_p95_m"], met["radius_max_m"] = w.rms, w.p95, w.radius
	met["drift_mps"] = s.driftOf(stay)
	s.share(i, "radius_max_m", w.radius, c.radius, s.sigma)
	met["height_max_m"] = w.height
	s.share(i, "height_max_m", w.height, c.band, s.sigmaZ)
	if c.nose > 0 {
		met["nose_max_deg"] = w.nose.Deg()
		s.share(i, "nose_max_deg", w.nose.Deg(), c.nose.Deg(), s.noseSigma(i))
	}
	// A stay that was too short counts by what it lacks, unless the log or an
	// answer cut it.
	if !s.res.Steps[i].Done && !asksResponse(target) && !s.cutIn(i) {
		s.shares = append(s.shares, target.Seconds/stay.length())
	}
}

// arrives is the moment of a stay from which the craft is no longer on its way
// into the middle: as long as its worst share of a limit falls, but for no more
// than a third of the stay or arriveMost seconds.
func (s *sampler) arrives(stay span, c *criteria) float64 {
	// share is the worst share of a limit at a place: 1 is on the edge.
	share := func(p point) float64 {
		e, worst := c.errors(p), 0.0
		if c.radius > 0 {
			worst = math.Sqrt(e.d2) / c.radius
		}
		if c.band > 0 {
			worst = math.Max(worst, math.Abs(e.dz)/c.band)
		}
		if c.nose > 0 {
			worst = math.Max(worst, float64(e.dn.Abs()/c.nose))
		}
		return worst
	}
	least := share(s.when(stay.from))
	at, mark := stay.from, least
	// Only a fall that is worth the name moves the moment on, so that noise
	// does not.
	until := stay.from + math.Min(arriveMost, stay.length()/3)
	for i := s.t.At(stay.from) + 1; i < s.t.Len() && s.t.T[i] < until; i++ {
		v := share(s.sample(i))
		if v > least+arriveBy {
			break
		}
		if v < mark-arriveBy/3 {
			at, mark = s.t.T[i], v
		}
		least = math.Min(least, v)
	}
	return at
}

// driftOf is the speed in m/s at which the craft drifted over a span: the slope
// of its place against time by least squares, so that swaying about the marker
// is no drift. It is 0 for a span with fewer than two samples.
func (s *sampler) driftOf(sp span) float64 {
	var n, t, tt, x, y, tx, ty float64
	for i := max(0, s.t.At(sp.from)); i < s.t.Len() && s.t.T[i] <= sp.to; i++ {
		if s.t.T[i] < sp.from {
			continue
		}
		at := s.t.T[i] - sp.from // from the beginning, so that the sums stay small
		n, t, tt = n+1, t+at, tt+float64(at*at)
		x, tx = x+s.t.X[i], tx+float64(at*s.t.X[i])
		y, ty = y+s.t.Y[i], ty+float64(at*s.t.Y[i])
	}
	spread := float64(n*tt) - float64(t*t)
	if n < 2 || spread <= 0 {
		return 0
	}
	vx, vy := (float64(n*tx)-float64(t*x))/spread, (float64(n*ty)-float64(t*y))/spread
	return math.Hypot(vx, vy)
}

// measureOutside measures a hold that was never inside for a second. It takes
// the median of the errors over the whole step: the way there and the way out
// are less than half of it. Only what lies outside its limit is kept, since
// that is what kept the craft from counting. scratch is overwritten.
func (s *sampler) measureOutside(i int, c *criteria, scratch []float64) {
	from, to := max(0, s.t.At(s.readies[i])), s.t.At(s.spans[i].to)
	if to-from < 8 || s.t.T[to]-s.t.T[from] < settle || s.cutIn(i) {
		return
	}
	middle := func(size func(e deviation) float64) float64 {
		scratch = scratch[:0]
		for k := from; k <= to; k++ {
			scratch = append(scratch, size(c.errors(s.sample(k))))
		}
		return nth(scratch, len(scratch)/2)
	}
	for _, j := range []struct {
		name  string
		by    criterion
		limit float64
	}{{"radius_max_m", byRadius, c.radius}, {"height_max_m", byHeight, c.band}, {"nose_max_deg", byNose, c.nose.Deg()}} {
		if j.limit <= 0 {
			continue
		}
		if v := middle(func(e deviation) float64 { return e.size(j.by) }); v > j.limit {
			s.res.Steps[i].Metrics[j.name] = v
			s.share(i, j.name, v, j.limit, s.sigma)
		}
	}
}

// measureLanding fills in what was measured at the touch of step i. A step that
// never touched has nothing.
func (s *sampler) measureLanding(i int) {
	l, ok := s.lands[i]
	if !ok {
		return
	}
	c, met := s.judged[i], s.res.Steps[i].Metrics
	met["offset_m"], met["sink_mps"], met["sideways_mps"] = l.offset, l.sink, l.sideways
	s.share(i, "offset_m", l.offset, c.land.offset, s.sigma)
	s.share(i, "sink_mps", l.sink, c.land.sinkLimit(l), math.Max(l.sinkKnown, 1e-9))
	if s.t.Roll != nil && s.t.Pitch != nil {
		met["tilt_deg"] = l.tilt.Deg()
		s.share(i, "tilt_deg", l.tilt.Deg(), c.land.tilt.Deg(), 0)
	}
	if c.land.nose > 0 {
		met["nose_deg"] = l.nose.Abs().Deg()
		s.share(i, "nose_deg", l.nose.Abs().Deg(), c.land.nose.Deg(), s.noseSigma(i))
	}
	if c.land.bounces {
		met["bounces"] = float64(l.bounces)
	}
}

// measureTurn fills in what was measured of a turn, step i: drift and height
// over the whole turn, how far past the angle the nose went, and the mean rate
// in °/s. A rate outside its band is a fault, and its share counts from the
// middle of the band.
func (s *sampler) measureTurn(i int, target drill.Target, c *criteria) {
	sp, met := s.spans[i], s.res.Steps[i].Metrics
	c.from(target, s.when(sp.from))
	w := s.stretchOf(sp, c, nil)
	met["drift_max_m"], met["height_max_m"] = w.radius, w.height
	s.share(i, "drift_max_m", w.radius, c.radius, s.sigma)
	s.share(i, "height_max_m", w.height, c.band, s.sigmaZ)
	met["overshoot_deg"] = field.Angle(s.beyond[i]).Deg()
	s.share(i, "overshoot_deg", met["overshoot_deg"], target.Limits.Overshoot.Deg(), 0)
	rate, ok := s.rates[i]
	if !ok {
		return
	}
	rate = field.Angle(rate).Deg()
	met["rate_dps"] = rate
	// A band has no single limit: the share is the distance from its middle
	// over half of its width.
	low, high := target.RateDps[0], target.RateDps[1]
	if high > 0 && (rate < low || rate > high) {
		limit := low
		if rate > high {
			limit = high
		}
		s.res.Faults = append(s.res.Faults, Fault{TS: sp.to, Step: i, Code: Speed, Value: value(rate), Limit: value(limit)})
	}
	if mid, half := (low+high)/2, (high-low)/2; half > 0 {
		s.share(i, "rate_dps", math.Abs(rate-mid), half, 0)
	}
}

// worst is what a stretch of the flight came to against criteria: the root mean
// square, the 95 % value and the largest distance over the ground, the largest
// height error, all in metres, and the largest nose error.
type worst struct {
	radius, rms, p95, height float64
	nose                     field.Angle
}

// stretchOf measures a stretch of the flight, with its ends interpolated. The
// root mean square is over time; the 95 % value is over the samples and needs
// scratch with room for their number: without, p95 is the largest.
func (s *sampler) stretchOf(sp span, c *criteria, scratch []float64) (w worst) {
	a := s.when(sp.from)
	ea := c.errors(a)
	r2max, sum := 0.0, 0.0
	see := func(e deviation) {
		r2max = max(r2max, e.d2)
		w.height = max(w.height, math.Abs(e.dz))
		w.nose = max(w.nose, e.dn.Abs())
	}
	see(ea)
	scratch = scratch[:0]
	step := func(b point) {
		eb := c.errorsOver(b, w.nose)
		see(eb)
		// The square along a straight line is a parabola: Simpson is exact.
		mx, my := (ea.dx+eb.dx)/2, (ea.dy+eb.dy)/2
		sum += (b.t - a.t) * (ea.d2 + 4*(mx*mx+my*my) + eb.d2) / 6
		a, ea = b, eb
	}
	for i := s.t.At(sp.from) + 1; i < s.t.Len() && s.t.T[i] < sp.to; i++ {
		step(s.sample(i))
		if cap(scratch) > 0 {
			scratch = append(scratch, ea.d2)
		}
	}
	step(s.when(sp.to))
	w.radius = math.Sqrt(r2max)
	if sp.length() > 0 {
		w.rms = math.Sqrt(sum / sp.length())
	}
	w.p95 = w.radius
	if n := len(scratch); n > 0 {
		w.p95 = math.Sqrt(nth(scratch, min(n-1, int(0.95*float64(n)))))
	}
	return w
}

// aspectStep is the time in seconds over which one aspect is taken. A nose that
// turns at 200°/s turns 20° in it, and still counts in every sector of 45° that
// it passes.
const aspectStep = 0.1

// aspects adds up the seconds that were flown inside tolerance by sector of the
// aspect ring: every stay of a hold that counted, and every turn that was done.
// A log without a heading counts nothing.
func (s *sampler) aspects() {
	if s.t.Heading == nil {
		return
	}
	times := s.inTime
	for i, target := range s.task.Steps {
		if target.Kind == drill.Turn && s.res.Steps[i].Done {
			times = append(times, flown{i, s.spans[i]})
		}
	}
	for _, f := range times {
		a := s.when(f.from)
		for i := max(0, s.t.At(f.from)) + 1; a.t < f.to && i < s.t.Len(); i++ {
			if s.t.T[i] < f.to && s.t.T[i] < a.t+aspectStep && i < s.t.Len()-1 {
				continue
			}
			b := s.sample(i)
			if b.t > f.to {
				b = s.when(f.to)
				// The aspect of a piece is that at its middle.
			}
			at := field.Point{X: (a.x+b.x)/2 - s.task.Station.X, Y: (a.y+b.y)/2 - s.task.Station.Y}
			heading := a.heading + (b.heading-a.heading).Wrap()/2
			s.res.AspectS[field.SectorAt(heading, at)] += b.t - a.t
			a = b
		}
	}
}
