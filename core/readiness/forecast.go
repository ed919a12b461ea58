package readiness

import (
	"math"
)

// How many attempts are still to go follows from two things: how the chance
// rises with practice, which the learners say, and when the rule of a held cell
// is met, which is a chain over the newest results.

// Span is a number of attempts or packs with its 80 % interval. Most is where
// the forecast ends: a High of Most means that many or more.
type Span struct {
	// Half of the cases end by Median, a tenth by Low, nine tenths by High.
	Median, Low, High int
}

// Most is the farthest number of attempts that is forecast.
const Most = 60

// Pace is how a student trains: attempts at the cell on one day, and days between.
type Pace struct {
	// Gap is in days.
	PerDay int
	Gap    float64
}

// ToGo forecasts how many more attempts make a cell held, in a wind, at a pace.
// ok is false under fewTries attempts, from which no curve can be told, and for
// a cell that is held.
func (p *Posterior) ToGo(c Cell, wind float64, pace Pace) (s Span, ok bool) {
	if p.n < fewTries || c.Standing == Held {
		return s, false
	}
	// Forty of the bank take a twentieth of the time, and what is told is whole
	// attempts.
	const learners = 40
	var ends [Most + 1]float64 // chance that it is held after so many
	// Forty learners stand for the bank, each for an equal share of the weight.
	at := p.pick(learners)
	for _, i := range at {
		ends2 := heldAfter(&bank()[i], p.left[i], c, wind, pace)
		for k := range ends {
			ends[k] += ends2[k] / learners
		}
	}
	// What is not reached within the forecast stays at its end.
	s = Span{Median: Most, Low: Most, High: Most}
	sum := 0.0
	for k := range ends {
		sum += ends[k]
		for _, q := range []struct {
			at  float64
			set *int
		}{{0.1, &s.Low}, {0.5, &s.Median}, {0.9, &s.High}} {
			// The first number at which so large a share is held.
			if sum >= q.at && *q.set == Most {
				*q.set = k
			}
		}
	}
	return s, true
}

// pick draws n learners in proportion to their weights, evenly: one from each
// equal share of the weight.
func (p *Posterior) pick(n int) (out []int) {
	sum, next := 0.0, 0.5/float64(n)
	for i, w := range p.weight {
		for sum += w; sum > next && len(out) < n; next += 1 / float64(n) {
			out = append(out, i)
		}
	}
	for len(out) < n {
		out = append(out, len(p.weight)-1)
	}
	return out
}

// heldAfter is the chance that a cell becomes held with exactly so many more
// attempts, by their number: a chain over the newest results, the dates with a
// pass, and whether today is one of them. left is the practice that the learner
// has left now. What is missing to 1 lies beyond Most.
func heldAfter(c *learner, left float64, cell Cell, wind float64, pace Pace) (out [Most + 1]float64) {
	type state struct {
		last  uint8 // newest results, a bit each, newest in bit 0
		dates uint8
		today bool
	}
	// The chain begins with what the cell has: its newest results, and its
	// dates with a pass.
	now := map[state]float64{{last: cell.lastBits, dates: uint8(min(cell.Dates, wantedDates))}: 1}
	for k := 1; k <= Most; k++ {
		// A new day: what was learned has faded since the last one.
		if fresh := (k-1)%max(1, pace.PerDay) == 0 && k > 1; fresh {
			left *= math.Exp(-pace.Gap / c.fade)
		}
		next := map[state]float64{}
		// The chance is the mean over the days' forms in each attempt; that the
		// attempts of a day share their form is left out, or each state would
		// have to hold it.
		q := c.chance(left, wind)
		for s, w := range now {
			if (k-1)%max(1, pace.PerDay) == 0 {
				s.today = false
			}
			for _, pass := range []bool{true, false} {
				n, share := s, w*(1-q)
				// The newest result goes in at bit 0, and the oldest falls out.
				n.last = s.last << 1 & (1<<window - 1)
				if pass {
					share = w * q
					n.last |= 1
					// More dates than the rule asks for make no difference
					// here, so they are not told apart.
					if !s.today && n.dates < wantedDates {
						n.dates++
					}
					n.today = true
				}
				// The rule of a held cell: then this chain ends.
				if pass && bits(n.last) >= wanted && n.dates >= wantedDates {
					out[k] += share
				} else {
					next[n] += share
				}
			}
		}
		now = next
		left++
	}
	return out
}

// bits counts the bits of b that are set.
func bits(b uint8) (n int) {
	for ; b > 0; b >>= 1 {
		n += int(b & 1)
	}
	return n
}
