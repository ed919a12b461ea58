package score

import (
	"fmt"
	"math"
	"math/rand/v2"

	"maestrale/core/drill"
	"maestrale/core/track"
)

// A verdict on a noisy log may be wrong. How likely the true flight would have
// got the same one is worked out from the figures that were judged, each with
// the standard deviation of its error, and for logs that wander by trying again
// with other made-up errors.

// The tries are few, since each scores the whole flight: sixteen tell a
// likelihood to about an eighth, enough to call a verdict close.
const (
	repeats   = 15     // times that a verdict is tried again
	repeatSum = 0x7261 // of the seeds of those
)

// look is a figure v that was judged against a limit, and the standard
// deviation sigma of its error, all in one unit.
type look struct{ v, limit, sigma float64 }

// within is the probability that the true figure is inside the limit, with a
// normal error about what was measured. What was measured is the largest of
// many noisy values and so stands about one deviation over the true one, which
// is taken off. Without an error it is 0 or 1.
func (l look) within() float64 {
	if l.sigma <= 0 {
		if l.v <= l.limit {
			return 1
		}
		return 0
	}
	return normalBelow((l.limit - l.v + l.sigma) / l.sigma)
}

// likelihood is the probability that the true flight would get the same
// verdict. A pass wants every figure inside its limit; the slow errors are
// common to all figures, so the least of their probabilities stands for them
// together. A fail wants one fault of which the log is sure. An incomplete
// attempt wants that its first undone step was not done.
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

// repeats is the share of tries in which the verdict stays what it is when a
// made-up slow error of the reported size is added to the log. Where a place is
// known worse than a step's own tolerance, the error decides to which step a
// moment belongs, and no single figure says how sure that is. The error is a
// first-order Gauss-Markov process that forgets in wanderTime; its seeds are
// fixed, so that the same log always gives the same likelihood.
func (s *sampler) repeats(task drill.Task, t *track.Track, src Source) float64 {
	// The verdict itself counts as half a try, so that the share is never 0 or
	// 1.
	same := 0.5
	for k := range repeats {
		r := rand.New(rand.NewPCG(uint64(k), repeatSum)) //nolint:gosec // made-up errors, not secrets
		c := *t
		c.X, c.Y, c.Z = make([]float64, t.Len()), make([]float64, t.Len()), make([]float64, t.Len())
		size := s.noise.wander
		dx, dy, dz := size*r.NormFloat64(), size*r.NormFloat64(), 0.0
		for i := range t.T {
			if i > 0 {
				keep := math.Exp(-(t.T[i] - t.T[i-1]) / wanderTime)
				// What is kept and what is new add up to the same size at every
				// sample.
				new := size * math.Sqrt(1-keep*keep)
				dx, dy, dz = dx*keep+new*r.NormFloat64(), dy*keep+new*r.NormFloat64(), dz*keep+new*r.NormFloat64()
			}
			c.X[i], c.Y[i], c.Z[i] = t.X[i]+dx, t.Y[i]+dy, t.Z[i]+dz
		}
		// The heights are drawn back to the ground at the end, where levelled
		// would find it.
		for i := range t.T {
			c.Z[i] -= dz * (t.T[i] - t.T[0]) / t.Duration()
		}
		again, err := scoredTrack(task, &c, src)
		if err == nil && again.res.Verdict == s.res.Verdict {
			same++
		}
	}
	return same / (repeats + 1)
}

// faultExcused is the probability that a fault is only the noise's. A fault
// without a figure is never excused.
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
	case Nose:
		l.sigma = s.noseReach(s.task.Steps[f.Step]).Deg() / wanders
	// A rest is too short when its value is under its limit, and its error is
	// that of the two moments that bound it.
	case Rest:
		return normalBelow((l.v - l.limit) / math.Max(s.blur, 0.05))
	case Late:
		l.sigma = s.blur / 2
	}
	return l.within()
}

// wouldBeDone is the probability that the true flight would have done step i,
// which the log leaves undone: by how near it came to the step's place. A step
// without a place gives 0.
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

// normalBelow is the standard normal distribution function Φ(z).
func normalBelow(z float64) float64 { return 0.5 * math.Erfc(-z/math.Sqrt2) }

// CloseUnder is the likelihood under which a verdict is called close: less than
// four in five.
const CloseUnder = 0.8

// CloseWords say how sure the log is of a close verdict; empty where it is not
// close.
func (r Result) CloseWords() string {
	if !r.Close() {
		return ""
	}
	return fmt.Sprintf(msgCloseVerdict, 100**r.Likelihood)
}

// Close tells whether the log leaves it open which verdict the true flight
// would get. Marks and simulator runs have no likelihood and are never close.
func (r Result) Close() bool { return r.Likelihood != nil && *r.Likelihood < CloseUnder }
