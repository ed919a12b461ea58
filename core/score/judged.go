package score

import (
	"fmt"
	"math"
	"strings"

	"maestrale/core/drill"
	"maestrale/core/field"
)

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
	w.cross, w.height, w.past = flat("cross_max_m", lim.Cross), high("height_max_m", lim.Height), flat("overshoot_m",
		lim.Past)
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
	s.unjudged(i, name, fmt.Sprintf("too fine for this log (noise %.2f %s, limit %.2f %s); an accuracy of %.2g %s would "+
		"be enough", sigma, unit, limit, unit, enough, unit))
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
