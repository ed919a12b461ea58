package score

import (
	"fmt"
	"math"

	"maestrale/core/drill"
	"maestrale/core/field"
)

// landCriteria are the tolerances of a landing that are judged.
type landCriteria struct {
	offset, sink float64
	tilt, nose   field.Angle
	bounces      bool
}

// criteriaOf decides which tolerances of a step the log can judge, and says
// which it cannot.
func (s *sampler) criteriaOf(i int, q LogQuality) criteria {
	target := s.task.Steps[i]
	limits := s.res.Steps[i].Limits
	c := criteria{at: target.At, height: target.HeightM, rule: target.Heading, station: s.task.Station}
	judge := func(name string, limit, noise float64, have bool, lack string) float64 {
		if limit <= 0 {
			return 0
		}
		limits[name] = limit
		switch {
		case !have:
			s.unjudged(i, name, lack)
		case limit < 2*noise:
			s.unjudged(i, name, fmt.Sprintf("too fine for this log (noise %.2f m, limit %.2f m)", noise, limit))
		default:
			return limit
		}
		return 0
	}
	const noHeading, noTilt = "the log has no heading", "the log has no roll and pitch"
	head, tilt := s.t.Heading != nil, s.t.Roll != nil && s.t.Pitch != nil
	switch lim := target.Limits; target.Kind {
	case drill.Hold:
		c.radius = judge("radius_max_m", lim.Radius, q.PlaceM, true, "")
		c.band = judge("height_max_m", lim.Height, q.HeightM, true, "")
		c.nose = field.Degrees(judge("nose_max_deg", lim.Nose.Deg(), 0, head, noHeading))
		limits["inside_s"] = target.Seconds
	case drill.Turn:
		c.radius = judge("drift_max_m", lim.Radius, q.PlaceM, true, "")
		c.band = judge("height_max_m", lim.Height, q.HeightM, true, "")
		judge("overshoot_deg", lim.Overshoot.Deg(), 0, head, noHeading)
		if target.RateDps[1] > 0 {
			limits["rate_min_dps"] = target.RateDps[0]
			judge("rate_max_dps", target.RateDps[1], 0, head, noHeading)
		}
	case drill.Land:
		c.land.offset = judge("offset_m", lim.Offset, q.PlaceM, true, "")
		// Two heights 0.3 s apart, each with its noise.
		c.land.sink = judge("sink_mps", lim.Sink, math.Sqrt2*q.HeightM/sinkWindow, true, "")
		c.land.tilt = field.Degrees(judge("tilt_deg", lim.Tilt.Deg(), 0, tilt, noTilt))
		c.land.nose = field.Degrees(judge("nose_deg", lim.Nose.Deg(), 0, head, noHeading))
		c.land.bounces = grounded >= 2*q.HeightM
		if !c.land.bounces {
			s.unjudged(i, "bounces", fmt.Sprintf("too fine for this log (noise %.2f m, limit %.2f m)", q.HeightM, grounded))
		}
	}
	switch w, lim := &c.way, target.Limits; target.Kind {
	case drill.GoTo, drill.Path:
		w.cross = judge("cross_max_m", lim.Cross, q.PlaceM, true, "")
		w.height = judge("height_max_m", lim.Height, q.HeightM, true, "")
		w.nose = field.Degrees(judge("nose_max_deg", lim.Nose.Deg(), 0, head, noHeading))
		w.aim = field.Degrees(judge("aim_deg", lim.Aim.Deg(), 0, head, noHeading))
		w.past = judge("overshoot_m", lim.Past, q.PlaceM, true, "")
		w.crossing = judge("crossing_m", lim.Crossing, q.PlaceM, true, "")
		w.ratio, w.endRatio = judge("radius_ratio", lim.Ratio, 0, true, ""), judge("end_ratio", lim.EndRatio, 0, true, "")
		w.legs, w.slope = field.Degrees(judge("legs_angle_deg", lim.Legs.Deg(), 0, true, "")), field.Degrees(judge("angle_deg", lim.Slope.Deg(), 0, true, ""))
		w.rest = judge("rest_s", target.RestS, 0, true, "")
		if w.speed = target.SpeedMps; w.speed[1] > 0 {
			limits["speed_min_mps"], limits["speed_max_mps"] = w.speed[0], w.speed[1]
		}
	case drill.Stop:
		w.seconds, w.distance = judge("stop_s", lim.Seconds, 0, true, ""), judge("stop_m", lim.Distance, q.PlaceM, true, "")
	}
	switch lim := target.Limits; target.Kind {
	case drill.Return:
		c.homeOffset = judge("home_offset_m", lim.HomeOffset, q.PlaceM, true, "")
		if target.TakeOverS > 0 {
			judge("taken_over_s", target.TakeOverS, 0, s.t.StickPitch != nil, "the log has no sticks")
		}
	case drill.Regain:
		c.seconds, c.lost = judge("home_s", lim.Seconds, 0, true, ""), judge("lost_m", lim.Lost, q.PlaceM, true, "")
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

func (m *machine) unjudged(i int, name, why string) {
	m.res.Unjudged = append(m.res.Unjudged, fmt.Sprintf("step %d (%s) %s: %s", i, m.task.Steps[i].Kind, name, why))
}

// measure fills in the metrics of every step that began, and returns the
// shares of the limits that were judged.
func (s *sampler) measure() []float64 {
	var shares []float64
	var scratch []float64
	for i, target := range s.task.Steps {
		sp, c, met := s.spans[i], s.judged[i], s.res.Steps[i].Metrics
		if math.IsNaN(sp.to) || (math.IsNaN(sp.from) && target.Kind != drill.Hold) {
			continue
		}
		share := func(v, limit float64) {
			if limit > 0 {
				shares = append(shares, v/limit)
			}
		}
		switch target.Kind {
		case drill.Return, drill.Regain:
			s.measureRecovery(i, share)
		case drill.Path, drill.GoTo, drill.Stop:
			if target.Kind == drill.Path && s.ways[i] != nil && s.ways[i].begun && len(met) == 0 {
				s.measurePath(i)
			}
			s.wayShares(i, share)
		case drill.TakeOff:
			met["takeoff_s"] = sp.length()
		case drill.Hold:
			stay := s.stays[i]
			met["inside_s"] = stay.length()
			if stay.length() <= 0 {
				continue
			}
			if scratch == nil {
				scratch = make([]float64, 0, s.t.Len()+2)
			}
			c.kept = s.when(s.readies[i]).heading
			w := s.stretchOf(stay, &c, scratch)
			met["radius_rms_m"], met["radius_p95_m"], met["radius_max_m"] = w.rms, w.p95, w.radius
			share(w.radius, c.radius)
			met["height_max_m"] = w.height
			share(w.height, c.band)
			if c.nose > 0 {
				met["nose_max_deg"] = w.nose.Deg()
				share(float64(w.nose), float64(c.nose))
			}
			if !s.res.Steps[i].Done && !owes(target) {
				shares = append(shares, target.Seconds/stay.length())
			}
		case drill.Turn:
			s.measureTurn(i, target, &c, share)
			if mid, half := (target.RateDps[0]+target.RateDps[1])/2, (target.RateDps[1]-target.RateDps[0])/2; half > 0 {
				if rate, ok := met["rate_dps"]; ok {
					shares = append(shares, math.Abs(rate-mid)/half)
				}
			}
		case drill.Land:
			l, ok := s.lands[i]
			if !ok {
				continue
			}
			met["offset_m"], met["sink_mps"], met["sideways_mps"] = l.offset, l.sink, l.sideways
			share(l.offset, c.land.offset)
			share(l.sink, c.land.sink)
			if s.t.Roll != nil && s.t.Pitch != nil {
				met["tilt_deg"] = l.tilt.Deg()
				share(float64(l.tilt), float64(c.land.tilt))
			}
			if c.land.nose > 0 {
				met["nose_deg"] = l.nose.Abs().Deg()
				share(float64(l.nose.Abs()), float64(c.land.nose))
			}
			if c.land.bounces {
				met["bounces"] = float64(l.bounces)
			}
		}
	}
	for i := range s.ways {
		s.smoothness(i)
	}
	for i := range s.replies {
		s.measureAnswers(i, func(v, limit float64) { shares = append(shares, v/limit) })
	}
	s.aspects()
	return shares
}

func (s *sampler) measureTurn(i int, target drill.Target, c *criteria, share func(v, limit float64)) {
	sp, met := s.spans[i], s.res.Steps[i].Metrics
	c.from(target, s.when(sp.from))
	w := s.stretchOf(sp, c, nil)
	met["drift_max_m"], met["height_max_m"] = w.radius, w.height
	share(w.radius, c.radius)
	share(w.height, c.band)
	met["overshoot_deg"] = field.Angle(s.beyond[i]).Deg()
	share(s.beyond[i], float64(target.Limits.Overshoot))
	rate, ok := s.rates[i]
	if !ok {
		return
	}
	rate = field.Angle(rate).Deg()
	met["rate_dps"] = rate
	if low, high := target.RateDps[0], target.RateDps[1]; high > 0 && (rate < low || rate > high) {
		limit := low
		if rate > high {
			limit = high
		}
		s.res.Faults = append(s.res.Faults, Fault{TS: sp.to, Step: i, Code: Speed, Value: value(rate), Limit: value(limit)})
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
