package readiness

import (
	"math"
	"slices"
	"sync"
	"time"

	"maestrale/core/drill"
)

// A learner's chance of passing grows with practice along an exponential curve (Heathcote,
// Brown and Mewhort, Psychonomic Bulletin & Review 7 (2000) 185: the law of practice of one
// learner is exponential, not a power):
//
//	p = ceiling − (ceiling − start) exp(−rate x)
//
// x is the practice that is left of the attempts so far: each adds one, and between two
// days it fades by exp(−days / fade). Wind over 2 m/s multiplies the odds by
// exp(−windage (wind − 2)). What is not known of a learner, the five numbers, is a
// distribution over Learners: drawn once from the prior, spread evenly (Halton, Numerische
// Mathematik 2 (1960) 84), and weighted by how well each explains what was seen (Bayes).
// Attempts that failed at one cell say nothing here of another.
type curve struct {
	start, ceiling, rate, fade, windage float64
}

const (
	drawn    = 1024
	calm     = 2.0 // m/s up to which the wind costs nothing
	lookBack = 60  // newest attempts that are weighed
	practice = 20  // attempts before those that are taken for practice alone; older ones have faded or changed nothing
	coarse   = 256 // learners with which many cells are compared at once
	fewTries = 5   // attempts under which nothing is forecast
)

// The prior: a first try is passed one time in five or so and seldom more than every
// second; nobody becomes perfect; it takes some eight attempts to go most of the way; what
// was learned fades over months.
func priorCurve(u [5]float64) curve {
	n := func(q float64) float64 { return math.Sqrt2 * math.Erfinv(2*q-1) } // quantile of the normal distribution
	return curve{
		start:   0.02 + 0.58*u[0]*u[0],
		ceiling: 0.75 + 0.24*u[1],
		rate:    math.Exp(math.Log(0.13) + 0.7*n(u[2])),
		fade:    math.Exp(math.Log(120) + 0.8*n(u[3])),
		windage: 0.05 + 0.25*u[4],
	}
}

var curves = sync.OnceValue(func() []curve {
	out := make([]curve, drawn)
	for i := range out {
		var u [5]float64
		for d, base := range []int{2, 3, 5, 7, 11} {
			u[d] = halton(i+20, base) // the first points of the higher bases lie on a line
		}
		out[i] = priorCurve(u)
	}
	return out
})

// halton is the i-th number, from 1, of the sequence of a base: its digits mirrored at the
// point.
func halton(i, base int) float64 {
	f, r := 1.0, 0.0
	for ; i > 0; i /= base {
		f /= float64(base)
		r += f * float64(i%base)
	}
	return r
}

// chance is that of a learner with so much practice left, in a wind.
func (c curve) chance(x, wind float64) float64 {
	p := c.ceiling - (c.ceiling-c.start)*math.Exp(-c.rate*x)
	if wind > calm {
		odds := p / (1 - p) * math.Exp(-c.windage*(wind-calm))
		p = odds / (1 + odds)
	}
	return p
}

// Try is one attempt as the learning curve sees it.
type Try struct {
	At   time.Time
	Wind float64 // mean in m/s; under 0 = not known, taken for calm
	Pass bool
}

// Posterior is what a run of attempts at one cell says of the learner.
type Posterior struct {
	n      int
	newest time.Time
	weight []float64
	left   []float64 // practice left after the newest attempt
}

// Learn weighs the learners by a run of attempts in order of time. ahead, where it is not
// nil, is told the chance that was given to each attempt before it was flown.
func Learn(tries []Try, ahead func(p float64, pass bool)) *Posterior {
	return learn(curves(), tries, ahead)
}

// few is how many learners a rough guess is made with; the first of them are spread
// evenly as well.
const few = 64

// Guess is Learn with fewer learners, for plans: the chance at a moment in a wind, and
// about how many more attempts give so many passes.
func (e *Evidence) Guess(k Key, passes int, wind float64) (chance, attempts float64) {
	p := learn(curves()[:few], e.tries(k), nil)
	for _, x := range p.chances(e.at, wind) {
		chance += x.v * x.w
	}
	const learners = 8
	for _, i := range p.pick(learners) {
		c, left, got := curves()[i], p.left[i], 0.0
		n := 0.0
		for ; got < float64(passes) && n < Most; n++ {
			got += c.chance(left+n, wind)
		}
		attempts += n / learners
	}
	return chance, attempts
}

func learn(all []curve, tries []Try, ahead func(p float64, pass bool)) *Posterior {
	p := &Posterior{weight: make([]float64, len(all)), left: make([]float64, len(all))}
	for i := range p.weight {
		p.weight[i] = 1 / float64(len(all))
	}
	for k, t := range tries {
		gap := days(p.newest, t.At, k)
		weigh := k >= len(tries)-lookBack
		sum, mean := 0.0, 0.0
		for i, c := range all {
			if gap > 0 {
				p.left[i] *= math.Exp(-gap / c.fade)
			}
			if weigh {
				q := c.chance(p.left[i], t.Wind)
				mean += p.weight[i] * q
				if !t.Pass {
					q = 1 - q
				}
				p.weight[i] *= q
				sum += p.weight[i]
			}
			p.left[i]++
		}
		if weigh {
			for i := range p.weight {
				p.weight[i] /= sum
			}
			if ahead != nil {
				ahead(mean, t.Pass)
			}
		}
		p.n, p.newest = k+1, t.At
	}
	return p
}

// days is what the memory fades over between two attempts; nothing within a day.
func days(last, at time.Time, k int) float64 {
	if k == 0 {
		return 0
	}
	if d := at.Sub(last).Hours() / 24; d > 0.5 {
		return d
	}
	return 0
}

// Estimate is a chance with its 80 % interval.
type Estimate struct {
	Mean float64 `json:"mean"`
	Low  float64 `json:"low"`
	High float64 `json:"high"`
}

// weighted is a value with its weight.
type weighted struct{ v, w float64 }

// spread is the mean and the middle 80 % of weighted values, which it sorts.
func spread(list []weighted) Estimate {
	slices.SortFunc(list, func(a, b weighted) int {
		switch {
		case a.v < b.v:
			return -1
		case a.v > b.v:
			return 1
		}
		return 0
	})
	e, sum := Estimate{Low: math.NaN()}, 0.0
	for _, x := range list {
		e.Mean += x.v * x.w
		sum += x.w
		if math.IsNaN(e.Low) && sum >= 0.1 {
			e.Low = x.v
		}
		if sum <= 0.9 || e.High == 0 {
			e.High = x.v
		}
	}
	return e
}

// Next is the chance of passing at a moment in a wind.
func (p *Posterior) Next(at time.Time, wind float64) Estimate {
	return spread(p.chances(at, wind))
}

func (p *Posterior) chances(at time.Time, wind float64) []weighted {
	gap := days(p.newest, at, p.n)
	list := make([]weighted, len(p.weight))
	for i, c := range curves()[:len(p.weight)] {
		left := p.left[i]
		if gap > 0 {
			left *= math.Exp(-gap / c.fade)
		}
		list[i] = weighted{c.chance(left, wind), p.weight[i]}
	}
	return list
}

// Span is a number of attempts or packs with its 80 % interval; Most is where the forecast
// ends: a High of Most means that many or more.
type Span struct {
	Median, Low, High int
}

// Most is the farthest number of attempts that is forecast.
const Most = 60

// Pace is how a student trains: attempts at the cell on one day, and days between.
type Pace struct {
	PerDay int
	Gap    float64
}

// ToGo forecasts how many more attempts make a cell held. It is not ok for fewer than 5
// attempts, from which no curve can be told, or for a cell that is held.
func (p *Posterior) ToGo(c Cell, wind float64, pace Pace) (s Span, ok bool) {
	if p.n < fewTries || c.Standing == Held {
		return s, false
	}
	const learners = 40
	var ends [Most + 1]float64 // chance that it is held after so many
	at := p.pick(learners)
	for _, i := range at {
		ends2 := heldAfter(curves()[i], p.left[i], c, wind, pace)
		for k := range ends {
			ends[k] += ends2[k] / learners
		}
	}
	s = Span{Median: Most, Low: Most, High: Most}
	sum := 0.0
	for k := range ends {
		sum += ends[k]
		for _, q := range []struct {
			at  float64
			set *int
		}{{0.1, &s.Low}, {0.5, &s.Median}, {0.9, &s.High}} {
			if sum >= q.at && *q.set == Most {
				*q.set = k
			}
		}
	}
	return s, true
}

// pick draws learners in proportion to their weights, evenly: one from each equal share
// of the weight.
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

// heldAfter is the chance that a cell becomes held with exactly so many more attempts: a
// chain over the newest results, the dates with a pass and whether today is one of them.
func heldAfter(c curve, left float64, cell Cell, wind float64, pace Pace) (out [Most + 1]float64) {
	type state struct {
		last  uint8 // newest results, a bit each, newest in bit 0
		dates uint8
		today bool
	}
	now := map[state]float64{{last: cell.lastBits, dates: uint8(min(cell.Dates, wantedDates))}: 1}
	for k := 1; k <= Most; k++ {
		if fresh := (k-1)%max(1, pace.PerDay) == 0 && k > 1; fresh {
			left *= math.Exp(-pace.Gap / c.fade)
		}
		next := map[state]float64{}
		q := c.chance(left, wind)
		for s, w := range now {
			if (k-1)%max(1, pace.PerDay) == 0 {
				s.today = false
			}
			for _, pass := range []bool{true, false} {
				n, share := s, w*(1-q)
				n.last = s.last << 1 & (1<<window - 1)
				if pass {
					share = w * q
					n.last |= 1
					if !s.today && n.dates < wantedDates {
						n.dates++
					}
					n.today = true
				}
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

func bits(b uint8) (n int) {
	for ; b > 0; b >>= 1 {
		n += int(b & 1)
	}
	return n
}

// tries are the field attempts that were flown just as a cell says.
func (e *Evidence) tries(k Key) (out []Try) {
	e.sort()
	for _, s := range e.field.of(lane{k.Drill, k.Side, k.Class}) {
		if int(s.rank) == k.Aids.Rank() && int(s.level) == k.Level {
			out = append(out, Try{s.at(), float64(s.wind), s.pass})
		}
	}
	return out[max(0, len(out)-lookBack-practice):]
}

// Posterior is what the attempts at a cell say of the learner; nil where there are none.
func (e *Evidence) Posterior(k Key) *Posterior {
	tries := e.tries(k)
	if len(tries) == 0 {
		return nil
	}
	return Learn(tries, nil)
}

// Pace is how often the student has flown the cell: attempts a day, and days between, from
// the evidence; three a day and a week where there is too little.
func (e *Evidence) Pace(k Key) Pace {
	on, first, last := map[int]bool{}, 0, 0
	list := e.tries(k)
	for i, t := range list {
		d := dayNumber(t.At, e.zone)
		if on[d] = true; i == 0 {
			first = d
		}
		last = d
	}
	p := Pace{3, 7}
	if len(on) >= 2 {
		p = Pace{max(1, int(math.Round(float64(len(list))/float64(len(on))))), math.Max(1, float64(last-first)/float64(len(on)-1))}
	}
	return p
}

// Bias is how much the chance on the left is over that on the right.
type Bias struct {
	Drill string
	Estimate
	LeftWeaker float64 // the chance that the left is the weaker side
}

// SideBias compares the sides of a sided cell; it is not ok where a side was flown less
// than 3 times.
func (e *Evidence) SideBias(k Key, left, right drill.Cell) (Bias, bool) {
	const least, cells = 3, 64
	hist := func(c drill.Cell) (h [cells]float64, ok bool) {
		tries := e.tries(Key{c, k.Class})
		if len(tries) < least {
			return h, false
		}
		for _, x := range learn(curves()[:coarse], tries, nil).chances(e.at, -1) {
			h[min(cells-1, int(x.v*cells))] += x.w
		}
		return h, true
	}
	l, okl := hist(left)
	r, okr := hist(right)
	if !okl || !okr {
		return Bias{}, false
	}
	list := make([]weighted, 0, 2*cells)
	byDiff := [2*cells - 1]float64{}
	for i, a := range l {
		for j, b := range r {
			byDiff[i-j+cells-1] += a * b
		}
	}
	b := Bias{Drill: k.Drill}
	for d, w := range byDiff {
		v := float64(d-cells+1) / cells
		list = append(list, weighted{v, w})
		if v < 0 {
			b.LeftWeaker += w
		} else if v == 0 {
			b.LeftWeaker += w / 2
		}
	}
	b.Estimate = spread(list)
	return b, true
}
