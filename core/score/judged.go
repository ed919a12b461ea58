package score

import (
	"fmt"
	"math"
	"strings"

	"maestrale/core/drill"
	"maestrale/core/field"
)

// wayCriteria fills in the tolerances of a path or of the way to a place.
func (s *sampler) wayCriteria(w *wayCriteria, j *judging) {
	lim, target := j.lim, j.target
	w.cross, w.height = j.flat("cross_max_m", lim.Cross), j.high("height_max_m", lim.Height)
	w.past = j.flat("overshoot_m", lim.Past)
	if target.Kind == drill.GoTo && w.cross > 0 { // between two places, each with its error
		w.cross = math.Max(w.cross, math.Sqrt2*s.reach)
	}
	w.nose, w.aim = j.nose("nose_max_deg", lim.Nose), j.nose("aim_deg", lim.Aim)
	w.crossing = j.flat("crossing_m", lim.Crossing)
	w.ratio, w.endRatio = j.judge("radius_ratio", lim.Ratio, true, ""), j.judge("end_ratio", lim.EndRatio, true, "")
	w.legs, w.slope = j.turned("legs_angle_deg", lim.Legs), j.turned("angle_deg", lim.Slope)
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
	s.unjudged(i, name, fmt.Sprintf(msgTooFineLog, sigma, unit, limit, unit, enough, unit))
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
