package score

import "math"

// look is a figure that was judged against a limit, and the deviation of its error.
type look struct{ v, limit, sigma float64 }

// within is the probability that the true figure is inside the limit: a normal error about what
// was measured. The largest of many noisy values stands about a deviation over the true one.
func (l look) within() float64 {
	if l.sigma <= 0 {
		if l.v <= l.limit {
			return 1
		}
		return 0
	}
	return normalBelow((l.limit - l.v + l.sigma) / l.sigma)
}

// likelihood is the probability that the true flight would get the same verdict. A pass wants
// every figure inside its limit; slow errors are common to all of them, so that the least of the
// probabilities stands for them. A fail wants one fault of which the log is sure.
func (s *sampler) likelihood() float64 {
	p := 1.0
	switch s.res.Verdict {
	case Pass:
		for _, l := range s.looks {
			p = math.Min(p, l.within())
		}
	case Fail:
		inside := 1.0
		for i := range s.res.Faults {
			inside = math.Min(inside, s.faultExcused(&s.res.Faults[i]))
		}
		p = 1 - inside
	case Incomplete:
		for i, step := range s.res.Steps {
			if !step.Done {
				return 1 - s.wouldBeDone(i)
			}
		}
	}
	return p
}

// faultExcused is the probability that a fault is the noise's.
func (s *sampler) faultExcused(f *Fault) float64 {
	if f.Value == nil || f.Limit == nil {
		return 0
	}
	l := look{v: *f.Value, limit: *f.Limit}
	switch f.Code {
	case LeftBox, CrossTrack, Overshoot, Offset, Crossing, Lost:
		l.sigma = s.sigma
	case Height:
		l.sigma = s.sigmaZ
	case Sink:
		l.sigma = s.sink
	case Rest:
		return normalBelow((l.v - l.limit) / math.Max(s.blur, 0.05))
	case Late:
		l.sigma = s.blur / 2
	}
	return l.within()
}

// wouldBeDone is the probability that the true flight would have done a step that the log leaves
// undone, by how near it came to the step's place.
func (s *sampler) wouldBeDone(i int) float64 {
	target := s.task.Steps[i]
	limit := math.Max(target.Limits.Radius, target.Limits.Past)
	if !target.HasAt || limit <= 0 || s.sigma <= 0 {
		return 0
	}
	nearest := math.Inf(1)
	for k := max(0, s.t.At(s.readies[i])); k < s.t.Len(); k++ {
		nearest = math.Min(nearest, math.Hypot(s.t.X[k]-target.At.X, s.t.Y[k]-target.At.Y))
	}
	if nearest <= limit {
		return 0 // it was there: what it lacks is time
	}
	return normalBelow((limit - nearest) / s.sigma)
}

// normalBelow is the standard normal distribution function.
func normalBelow(z float64) float64 { return 0.5 * math.Erfc(-z/math.Sqrt2) }
