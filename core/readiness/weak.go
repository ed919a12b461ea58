package readiness

import (
	"math"

	"maestrale/core/drill"
	"maestrale/core/field"
)

// SectorChance is the chance of passing where drills lie in a sector of the
// aspect ring.
type SectorChance struct {
	Estimate
	// Attempts are those at every cell whose drill lies in the sector.
	Attempts int
	Weak     bool // its whole interval lies under the mean of the ring
}

// leastTries is how many attempts a cell wants before a sector is judged by it.
const leastTries = 3

// Sectors judges the sectors of the aspect ring by the cells whose drills lie
// there: the mean of their chances of passing today in calm air, each weighted
// by one over its variance. lay makes a cell's task; cells that cannot be laid,
// or were flown less than leastTries times, are left out.
func (e *Evidence) Sectors(keys []Key, lay func(Key) (drill.Task, error)) (out [field.Sectors]SectorChance) {
	var weight, sum [field.Sectors]float64
	for _, k := range keys {
		tries := e.tries(k)
		if len(tries) < leastTries {
			continue
		}
		task, err := lay(k)
		if err != nil {
			continue
		}
		c := learn(bank()[:coarse], e.prior, tries, nil).Next(e.at, -1)
		// The interval's half width says how sure the chance is.
		sd := math.Max(0.02, (c.High-c.Low)/2/z80)
		for i, in := range task.Sectors() {
			if in {
				out[i].Attempts += len(tries)
				weight[i] += 1 / (sd * sd)
				sum[i] += c.Mean / (sd * sd)
			}
		}
	}
	all, n := 0.0, 0
	for i := range out {
		if weight[i] == 0 {
			continue
		}
		s, sd := &out[i], 1/math.Sqrt(weight[i])
		s.Mean = sum[i] / weight[i]
		s.Low, s.High = math.Max(0, s.Mean-z80*sd), math.Min(1, s.Mean+z80*sd)
		all += s.Mean
		n++
	}
	for i := range out {
		// A ring with one sector has nothing to be weaker than.
		out[i].Weak = weight[i] > 0 && n > 1 && out[i].High < all/float64(n)
	}
	return out
}

// z80 is the quantile of the normal distribution between whose two sides 80 % lie.
const z80 = 1.2816
