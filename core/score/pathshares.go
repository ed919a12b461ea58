package score

import (
	"math"

	"maestrale/core/drill"
	"maestrale/core/field"
)

// chord is the time in seconds over which a speed along a figure is taken. From
// sample to sample the noise of a log would lengthen the way.
const chord = 0.5

// wayShares fills in what was measured of step i, a path, a way to a place or a
// stop, and judges it against its limits. A step that never began has nothing.
func (s *sampler) wayShares(i int) {
	target, c, w, met := s.task.Steps[i], s.judged[i].way, s.ways[i], s.res.Steps[i].Metrics
	if w == nil || !w.begun {
		return
	}
	switch target.Kind {
	case drill.Stop:
		if w.done {
			met["stop_s"], met["stop_m"] = w.stopS, w.far
			if target.FromMps > 0 {
				met["from_mps"] = w.came
			}
			s.share(i, "stop_s", w.stopS, c.seconds, s.blur)
			s.share(i, "stop_m", w.far, c.distance, s.place)
		}
		return
	case drill.GoTo:
		s.goToShares(i)
		return
	}
	s.share(i, "cross_max_m", met["cross_max_m"], c.cross, s.sigma)
	s.share(i, "height_max_m", met["height_max_m"], c.height, s.sigmaZ)
	s.share(i, "nose_max_deg", met["nose_max_deg"], c.nose.Deg(), s.noseSigma(i))
	s.share(i, "aim_deg", met["aim_deg"], c.aim.Deg(), s.noseSigma(i))
	// A band is judged from its middle, so that both of its edges are a share
	// of 1; a ratio by what it has over 1.
	if v, ok := met["speed_mean_mps"]; ok && c.speed[1] > 0 && !w.speedHidden {
		mid, half := (c.speed[0]+c.speed[1])/2, (c.speed[1]-c.speed[0])/2
		s.share(i, "speed_mean_mps", math.Abs(v-mid), half, 0)
	}
	if v, ok := met["radius_ratio"]; ok && c.ratio > 1 {
		s.share(i, "radius_ratio", v-1, c.ratio-1, 0)
	}
	if v, ok := met["end_ratio"]; ok && c.endRatio > 1 {
		s.share(i, "end_ratio", v-1, c.endRatio-1, 0)
	}
	s.share(i, "crossing_m", met["crossing_m"], c.crossing, s.sigma)
	s.share(i, "legs_angle_deg", met["legs_angle_deg"], c.legs.Deg(), 0)
	s.share(i, "angle_deg", met["angle_deg"], c.slope.Deg(), 0)
	if v, ok := met["rest_s"]; ok && c.rest > 0 && v < c.rest && !w.restHidden && !s.cutIn(i) {
		s.share(i, "rest_s", c.rest, math.Max(v, 0.01), 0)
	}
}

// goToShares fills in what was measured of step i, the way to a place, and
// judges it.
func (s *sampler) goToShares(i int) {
	target, c, w, met := s.task.Steps[i], s.judged[i].way, s.ways[i], s.res.Steps[i].Metrics
	sum, time, farthest, nose := 0.0, 0.0, 0.0, field.Angle(0)
	for k := range w.points {
		p := &w.points[k]
		farthest, nose = math.Max(farthest, p.off), max(nose, p.nose.Abs())
		if k > 0 {
			dt := p.t - w.points[k-1].t
			sum, time = sum+dt*p.off*p.off, time+dt
		}
	}
	if time > 0 {
		met["cross_rms_m"], met["cross_max_m"] = math.Sqrt(sum/time), farthest
	}
	met["overshoot_m"], met["height_max_m"] = w.past, w.high
	if target.RestS > 0 && w.done {
		met["settle_s"] = w.settled
	}
	if c.nose > 0 {
		met["nose_max_deg"] = nose.Deg()
	}
	s.share(i, "cross_max_m", farthest, c.cross, s.sigma)
	s.share(i, "overshoot_m", w.past, c.past, s.sigma)
	s.share(i, "height_max_m", w.high, c.height, s.sigmaZ)
	s.share(i, "nose_max_deg", nose.Deg(), c.nose.Deg(), s.noseSigma(i))
}
