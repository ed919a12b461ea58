package readiness

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
)

// Estimates are worth something only while they fit. Each attempt is foretold
// from those before it, and the passes that were foretold are held against
// those that came.

// Foretold is the chance that was given to an attempt before it was flown, and
// what came of it.
type Foretold struct {
	Chance float64
	Pass   bool
}

// Foretell goes through the evidence cell by cell and tells take what would
// have been foretold of each attempt from those before it. The first attempt at
// a cell is foretold by the prior alone and left out.
func (e *Evidence) Foretell(take func(Foretold)) {
	for _, run := range e.Runs() {
		foretell(run, e.prior, take)
	}
}

// ForetellOf does the same for one cell.
func (e *Evidence) ForetellOf(k Key, take func(Foretold)) { foretell(e.tries(k), e.prior, take) }

// foretell does the same for one run of attempts.
func foretell(run []Try, prior Prior, take func(Foretold)) {
	first := true
	Learn(run, prior, func(p float64, pass bool) {
		if !first {
			take(Foretold{p, pass})
		}
		first = false
	})
}

// Calibration compares what was foretold with what came.
type Calibration struct {
	// Predicted of Attempts were foretold to pass; Seen did.
	Attempts  int
	Predicted float64 // passes
	Variance  float64 // of their number, where the chances are right
	Seen      int
	PIT       []float64 // of pass counts over blocks of attempts, randomised; even over 0 to 1 where the chances are right
	Off       float64   // the largest distance of their distribution from an even one (Kolmogorov)
	OffLimit  float64   // 5 % of right models are off by more
}

// Calibrate makes blocks of so many foretold attempts, and looks where in the
// distribution of each block's pass count (Poisson-binomial) the count that
// came lies: the randomised probability integral transform (Czado, Gneiting and
// Held, Biometrics 65 (2009) 1254). Attempts that fill no block are counted but
// not placed. The same seed gives the same answer.
func Calibrate(list []Foretold, block int, seed uint64) Calibration {
	random := rand.New(rand.NewPCG(seed, 0x9e3779b97f4a7c15))
	c := Calibration{Attempts: len(list)}
	for _, f := range list {
		c.Predicted += f.Chance
		c.Variance += f.Chance * (1 - f.Chance)
		if f.Pass {
			c.Seen++
		}
	}
	for b := range slices.Chunk(list, block) {
		if len(b) < block {
			break
		}
		dist, seen := make([]float64, len(b)+1), 0
		dist[0] = 1
		for i, f := range b {
			// Each attempt is a pass or none: the distribution of the count
			// grows by one.
			for k := i + 1; k > 0; k-- {
				dist[k] = dist[k]*(1-f.Chance) + dist[k-1]*f.Chance
			}
			dist[0] *= 1 - f.Chance
			if f.Pass {
				seen++
			}
		}
		// A count has a whole step of the distribution: where on it is drawn,
		// so that right models come out even.
		u := random.Float64() * dist[seen]
		for _, p := range dist[:seen] {
			u += p
		}
		c.PIT = append(c.PIT, u)
	}
	c.Off = evenness(c.PIT)
	if n := float64(len(c.PIT)); n > 0 {
		// The limit of Kolmogorov's statistic for a sample of this size, at 5
		// %.
		c.OffLimit = 1.358 / (math.Sqrt(n) + 0.12 + 0.11/math.Sqrt(n)) // Stephens, JASA 69 (1974) 730
	}
	return c
}

// Misses tells whether what was foretold does not fit what came: by the spread
// of the counts, or by how many passes there were, each by more than one right
// model in twenty. Nothing foretold misses nothing.
func (c Calibration) Misses() bool {
	return c.Attempts > 0 && (len(c.PIT) > 0 && c.Off > c.OffLimit ||
		// Half a pass is granted, since passes come whole.
		math.Abs(c.Predicted-float64(c.Seen)) > 1.96*math.Sqrt(c.Variance)+0.5)
}

// Words say whether the estimates of a record can be relied on; under 20
// attempts they say that it is too early.
func (c Calibration) Words() string {
	switch {
	case c.Attempts < 20:
		return fmt.Sprintf(msgEstimatesUnchecked, c.Attempts)
	case c.Misses():
		return fmt.Sprintf(msgEstimatesOff, c.Attempts, c.Predicted, c.Seen)
	}
	return fmt.Sprintf(msgEstimatesFit, c.Attempts,
		c.Predicted, c.Seen)
}

// evenness is the largest distance between how values are spread and an even
// spread over 0 to 1 (Kolmogorov's statistic); 0 for no values.
func evenness(list []float64) (off float64) {
	s := slices.Sorted(slices.Values(list))
	n := float64(len(s))
	for i, v := range s {
		off = math.Max(off, math.Max(float64(i+1)/n-v, v-float64(i)/n))
	}
	return off
}
