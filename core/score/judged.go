package score

import (
	"fmt"
	"math"
	"strings"

	"maestrale/core/drill"
	"maestrale/core/field"
)

// A log that is known to a metre cannot say whether the craft was out by a
// decimetre. A limit is therefore held at what the log can tell; between the
// step's own limit and that, the result says that it does not know.

// wayCriteria fills in the tolerances of a path, or of the way to a place, as
// the log can judge them: each is the step's own limit, or what noise alone may
// come to where that is more.
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
	// A fine log, or a step without a figure, needs no wider form.
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

// wider is limit, or what noise alone may come to where that is more. A limit
// of 0 is not judged and stays 0.
func wider(limit, noise float64) float64 {
	if limit <= 0 {
		return limit
	}
	return math.Max(limit, noise)
}

// noseSigma is the standard deviation, in degrees, that an uncertain place
// leaves in the heading that step i asks for. It is 0 in a fine log.
func (s *sampler) noseSigma(i int) float64 {
	if !s.noisy {
		return 0
	}
	return s.noseReach(s.task.Steps[i]).Deg() / wanders
}

// noseReach is as far as an uncertain place alone can turn the heading that a
// step asks for: atan(reach ÷ distance), where the distance is to what the nose
// is held against. The nearer the pilot or the subject, the more a metre turns
// it. A rule that no place enters gives 0.
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

// unjudged lists the limit name of step i as one that this evidence cannot
// judge, with the reason in words. UnjudgedWords takes the entry apart again.
func (m *machine) unjudged(i int, name, why string) {
	m.res.Unjudged = append(m.res.Unjudged, fmt.Sprintf("step %d (%s) %s: %s", i, m.task.Steps[i].Kind, name, why))
}

// hidden says, once for each name and step, that the log is too coarse for
// something: its error there has the standard deviation sigma, the limit is
// limit, and so well the log would have to know it. sigma and limit are in
// unit.
func (s *sampler) hidden(i int, name string, sigma, limit float64, unit string) {
	key := fmt.Sprint(i, name)
	if s.tooFine[key] {
		return
	}
	if s.tooFine == nil {
		s.tooFine = map[string]bool{}
	}
	s.tooFine[key] = true
	// Known to a quarter of the limit, as wanders says, or twice as well as
	// now: less would not change the answer.
	enough := math.Min(limit/wanders, sigma/2)
	if limit < 2*sigma {
		enough = limit / 2
	}
	s.unjudged(i, name, fmt.Sprintf(msgLogTooCoarse, sigma, unit, limit, unit, enough, unit))
}

// share judges the figure v of step i against limit. limit is what the log can
// judge, the step's own limit or the reach of noise where that is more; sigma
// is the deviation of v's error. Between the two limits the log cannot tell:
// the figure is listed as hidden and takes nothing off the margin. A limit of 0
// judges nothing.
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

// unitOf is the unit that a metric's key ends with, as it is written; empty for
// a count or a share. "_mps" is looked for before "_m" and "_s".
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

// cutIn tells whether step i was cut off by a gap in the log. What it lacks is
// then the log's and not the pilot's.
func (s *sampler) cutIn(i int) bool { return s.cut && !s.res.Steps[i].Done }
