package score

import (
	"fmt"
	"math"
	"strings"

	"maestrale/core/drill"
	"maestrale/core/field"
)

const (
	arriveMost = 4.0  // s of a stay in which the craft may still be arriving
	arriveBy   = 0.03 // of a limit by which it has to come farther out again to have arrived
)

// landCriteria are the tolerances of a landing that are judged.
type landCriteria struct {
	offset, sink float64
	tilt, nose   field.Angle
	bounces      bool
}

// criteriaOf decides which tolerances of a step the log can judge, and says
// which it cannot. Where noise alone reaches farther than a limit, leaving the limit
// by less is no fault.
func (s *sampler) criteriaOf(i int) criteria {
	target := s.task.Steps[i]
	limits := s.res.Steps[i].Limits
	place, height := math.Max(s.noise.place, 0), s.noise.heights
	c := criteria{at: target.At, height: target.HeightM, rule: target.Heading, station: s.task.Station, own: target.Limits}
	judge := func(name string, limit float64, have bool, lack string) float64 {
		if limit <= 0 {
			return 0
		}
		limits[name] = limit
		if !have {
			s.unjudged(i, name, lack)
			return 0
		}
		return limit
	}
	// known judges a limit by an error that is known so well.
	known := func(name string, limit, sigma, reach float64, unit string) float64 {
		if limit = judge(name, limit, true, ""); limit > 0 && limit < 2*sigma {
			s.hidden(i, name, sigma, limit, unit)
			return 0
		}
		return math.Max(limit, math.Min(reach, limit*1e9))
	}
	flat := func(name string, limit float64) float64 { return known(name, limit, place, s.reach, "m") }
	high := func(name string, limit float64) float64 { return known(name, limit, height, s.reachZ, "m") }
	angle := func(name string, limit field.Angle, have bool, lack string) field.Angle {
		return field.Degrees(judge(name, limit.Deg(), have, lack))
	}
	// seen is as angle, of a nose that is held against the sight or a path: where the place is
	// uncertain, so is what the nose should be.
	seen := func(name string, limit field.Angle, have bool, lack string) field.Angle {
		if limit = angle(name, limit, have, lack); limit > 0 && s.noisy {
			limit = max(limit, s.noseReach(target))
		}
		return limit
	}
	const noHeading, noTilt = "the log has no heading", "the log has no roll and pitch"
	head, tilt := s.t.Heading != nil, s.t.Roll != nil && s.t.Pitch != nil
	lim := target.Limits
	switch target.Kind {
	case drill.Hold:
		c.radius, c.band = flat("radius_max_m", lim.Radius), high("height_max_m", lim.Height)
		c.nose = seen("nose_max_deg", lim.Nose, head, noHeading)
		limits["inside_s"] = target.Seconds
	case drill.Turn:
		c.radius, c.band = flat("drift_max_m", lim.Radius), high("height_max_m", lim.Height)
		angle("overshoot_deg", lim.Overshoot, head, noHeading)
		if target.RateDps[1] > 0 {
			limits["rate_min_dps"] = target.RateDps[0]
			judge("rate_max_dps", target.RateDps[1], head, noHeading)
		}
	case drill.Land:
		c.land.offset = flat("offset_m", lim.Offset)
		c.land.sink = known("sink_mps", lim.Sink, s.sink, 0, "m/s")
		c.land.tilt, c.land.nose = angle("tilt_deg", lim.Tilt, tilt, noTilt), seen("nose_deg", lim.Nose, head, noHeading)
		if c.land.bounces = grounded >= 2*height; !c.land.bounces {
			s.hidden(i, "bounces", height, grounded, "m")
		}
	case drill.GoTo, drill.Path:
		s.wayCriteria(&c.way, target, flat, high, seen, judge)
		c.way.rest = judge("rest_s", target.RestS, true, "")
		if c.way.speed = target.SpeedMps; c.way.speed[1] > 0 {
			limits["speed_min_mps"], limits["speed_max_mps"] = c.way.speed[0], c.way.speed[1]
		}
	case drill.Stop:
		c.way.seconds, c.way.distance = judge("stop_s", lim.Seconds, true, ""), flat("stop_m", lim.Distance)
	case drill.Return:
		c.homeOffset = flat("home_offset_m", lim.HomeOffset)
		if target.TakeOverS > 0 {
			judge("taken_over_s", target.TakeOverS, s.t.StickPitch != nil, "the log has no sticks")
		}
	case drill.Regain:
		c.seconds, c.lost = judge("home_s", lim.Seconds, true, ""), flat("lost_m", lim.Lost)
		if lim.WrongInputs >= 0 {
			limits["wrong_inputs"] = float64(lim.WrongInputs)
			if !s.hasSticks() {
				s.unjudged(i, "wrong_inputs", "the log has no sticks and heading")
			}
		}
	}
	if target.SecondsMax > 0 {
		limits["seconds_max"] = target.SecondsMax
	}
	c.know()
	return c
}

// wayCriteria fills in the tolerances of a path or of the way to a place.
func (s *sampler) wayCriteria(w *wayCriteria, target drill.Target, flat, high func(string, float64) float64,
	angle func(string, field.Angle, bool, string) field.Angle, judge func(string, float64, bool, string) float64) {
	const noHeading = "the log has no heading"
	lim, head := target.Limits, s.t.Heading != nil
	w.cross, w.height, w.past = flat("cross_max_m", lim.Cross), high("height_max_m", lim.Height), flat("overshoot_m", lim.Past)
	if target.Kind == drill.GoTo && w.cross > 0 { // between two places, each with its error
		w.cross = math.Max(w.cross, math.Sqrt2*s.reach)
	}
	w.nose, w.aim = angle("nose_max_deg", lim.Nose, head, noHeading), angle("aim_deg", lim.Aim, head, noHeading)
	w.crossing = flat("crossing_m", lim.Crossing)
	w.ratio, w.endRatio = judge("radius_ratio", lim.Ratio, true, ""), judge("end_ratio", lim.EndRatio, true, "")
	w.legs, w.slope = angle("legs_angle_deg", lim.Legs, true, ""), angle("angle_deg", lim.Slope, true, "")
	if target.Path == nil || s.reach < wanders*fine {
		return
	}
	if r := target.Path.Radius; r > 0 { // a slow error that changes on the way bends a figure
		w.ratio, w.endRatio = wider(w.ratio, 1+s.reach/r), wider(w.endRatio, 1+s.reach/r)
	}
	if l := target.Path.Legs; l > 0 {
		w.legs = field.Angle(wider(float64(w.legs), math.Atan(math.Sqrt2*s.reach/l)))
	}
}

// wider is a limit that is judged, or what noise alone may come to where that is more.
func wider(limit, noise float64) float64 {
	if limit <= 0 {
		return limit
	}
	return math.Max(limit, noise)
}

// noseSigma is the deviation, in degrees, that an uncertain place leaves in what a heading rule
// asks for; 0 in a log that is fine.
func (s *sampler) noseSigma(i int) float64 {
	if !s.noisy {
		return 0
	}
	return s.noseReach(s.task.Steps[i]).Deg() / wanders
}

// noseReach is as far as an uncertain place alone turns what a heading rule asks for.
func (s *sampler) noseReach(target drill.Target) field.Angle {
	far := math.Inf(1)
	switch target.Heading.Kind {
	case drill.Sight:
		if far = target.At.Dist(s.task.Station); target.Path != nil {
			far = target.Path.Centre.Dist(s.task.Station) - target.Path.Radius
		}
	case drill.Along, drill.Against:
		if target.Path != nil && target.Path.Radius > 0 {
			far = target.Path.Radius
		}
	case drill.Subject:
		if far = target.Path.Radius; far == 0 {
			_, far = target.Path.Nearest(drill.Spot{X: target.Subject.X, Y: target.Subject.Y}, 0, target.Path.Length)
		}
	}
	return field.Angle(math.Atan(s.reach / math.Max(far, 0.5)))
}

func (m *machine) unjudged(i int, name, why string) {
	m.res.Unjudged = append(m.res.Unjudged, fmt.Sprintf("step %d (%s) %s: %s", i, m.task.Steps[i].Kind, name, why))
}

// hidden says once that something of a step is too fine for this log, whose error there has the
// deviation sigma, and how well it would have to be known.
func (s *sampler) hidden(i int, name string, sigma, limit float64, unit string) {
	key := fmt.Sprint(i, name)
	if s.tooFine[key] {
		return
	}
	if s.tooFine == nil {
		s.tooFine = map[string]bool{}
	}
	s.tooFine[key] = true
	enough := math.Min(limit/wanders, sigma/2)
	if limit < 2*sigma {
		enough = limit / 2
	}
	s.unjudged(i, name, fmt.Sprintf("too fine for this log (noise %.2f %s, limit %.2f %s); an accuracy of %.2g %s would be enough", sigma, unit, limit, unit, enough, unit))
}

// share judges a figure against its limit, which is the one of the step or, where noise reaches
// farther, that. Between the two the log cannot tell.
func (s *sampler) share(i int, name string, v, limit, sigma float64) {
	if limit <= 0 {
		return
	}
	own, ok := s.res.Steps[i].Limits[name]
	if !ok || own > limit {
		own = limit
	}
	if v > own && v <= limit && s.noisy {
		s.hidden(i, name, sigma, own, unitOf(name))
		s.looks = append(s.looks, look{v, own, sigma})
		return
	}
	s.shares = append(s.shares, v/own)
	s.looks = append(s.looks, look{v, own, sigma})
}

// unitOf is the unit that a metric's name ends with.
func unitOf(name string) string {
	switch {
	case strings.HasSuffix(name, "_mps"):
		return "m/s"
	case strings.HasSuffix(name, "_m"):
		return "m"
	case strings.HasSuffix(name, "_deg"):
		return "°"
	case strings.HasSuffix(name, "_s"):
		return "s"
	}
	return ""
}

// cutIn tells whether a step was cut off by a gap in the log: what it lacks is then the log's.
func (s *sampler) cutIn(i int) bool { return s.cut && !s.res.Steps[i].Done }

// measure fills in the metrics of every step that began, and judges them.
func (s *sampler) measure() {
	var scratch []float64
	for i, target := range s.task.Steps {
		sp, c, met := s.spans[i], s.judged[i], s.res.Steps[i].Metrics
		if math.IsNaN(sp.to) || (math.IsNaN(sp.from) && target.Kind != drill.Hold) {
			continue
		}
		switch target.Kind {
		case drill.Return, drill.Regain:
			s.measureRecovery(i)
		case drill.Path, drill.GoTo, drill.Stop:
			if target.Kind == drill.Path && s.ways[i] != nil && s.ways[i].begun && len(met) == 0 {
				s.measurePath(i)
			}
			s.wayShares(i)
		case drill.TakeOff:
			met["takeoff_s"] = sp.length()
		case drill.Hold:
			if scratch == nil {
				scratch = make([]float64, 0, s.t.Len()+2)
			}
			s.measureHold(i, scratch)
		case drill.Turn:
			s.measureTurn(i, target, &c)
		case drill.Land:
			s.measureLanding(i)
		}
	}
	for i := range s.ways {
		s.smoothness(i)
	}
	for i := range s.replies {
		s.measureAnswers(i)
	}
	s.aspects()
}

// measureHold measures the longest stay of a hold. Where the craft was never inside for long
// enough, it says by how much it was outside for most of the time.
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
	s.share(i, "radius_max_m", w.radius, c.radius, s.sigma)
	met["height_max_m"] = w.height
	s.share(i, "height_max_m", w.height, c.band, s.sigmaZ)
	if c.nose > 0 {
		met["nose_max_deg"] = w.nose.Deg()
		s.share(i, "nose_max_deg", w.nose.Deg(), c.nose.Deg(), s.noseSigma(i))
	}
	if !s.res.Steps[i].Done && !owes(target) && !s.cutIn(i) {
		s.shares = append(s.shares, target.Seconds/stay.length())
	}
}

// arrives is the moment of a stay from which the craft is no longer on its way into the middle:
// as long as its worst share of a limit falls, for a third of the stay or arriveMost at most.
func (s *sampler) arrives(stay span, c *criteria) float64 {
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

// measureOutside takes the middle of the errors of a hold that never was inside for a second; the
// way there and the way out are less than half of it.
func (s *sampler) measureOutside(i int, c *criteria, scratch []float64) {
	from, to := max(0, s.t.At(s.readies[i])), s.t.At(s.spans[i].to)
	if to-from < 8 || s.t.T[to]-s.t.T[from] < settle || s.cutIn(i) {
		return
	}
	middle := func(size func(e errs) float64) float64 {
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
		if v := middle(func(e errs) float64 { return e.size(j.by) }); v > j.limit {
			s.res.Steps[i].Metrics[j.name] = v
			s.share(i, j.name, v, j.limit, s.sigma)
		}
	}
}

// measureLanding fills in what was measured at the touch.
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

// worst is what a stretch of the flight measured against criteria.
type worst struct {
	radius, rms, p95, height float64
	nose                     field.Angle
}

// stretchOf measures a stretch, its ends interpolated. The root mean square is over
// time; the 95 % value, over the samples, needs scratch of their number.
func (s *sampler) stretchOf(sp span, c *criteria, scratch []float64) (w worst) {
	a := s.when(sp.from)
	ea := c.errors(a)
	r2max, sum := 0.0, 0.0
	see := func(e errs) {
		r2max = math.Max(r2max, e.d2)
		w.height = math.Max(w.height, math.Abs(e.dz))
		w.nose = max(w.nose, e.dn.Abs())
	}
	see(ea)
	scratch = scratch[:0]
	step := func(b point) {
		eb := c.errors(b)
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

// aspectStep is the time over which one aspect is taken, in seconds; a nose that
// turns at 200°/s still counts in every sector that it passes.
const aspectStep = 0.1

// aspects adds up the seconds inside tolerance by sector of the aspect ring.
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
			}
			at := field.Point{X: (a.x+b.x)/2 - s.task.Station.X, Y: (a.y+b.y)/2 - s.task.Station.Y}
			heading := a.heading + (b.heading-a.heading).Wrap()/2
			s.res.AspectS[field.Sector(field.Aspect(heading, at))] += b.t - a.t
			a = b
		}
	}
}
