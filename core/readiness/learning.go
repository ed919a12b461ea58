package readiness

import (
	"math"
	"time"

	"maestrale/core/drill"
)

// What a run of attempts says of whoever flew it is worked out by weighing
// made-up learners: those who would likely have had these results count more.
// Their chances, weighted, are the estimate.

// Try is one attempt as the learning curve sees it.
type Try struct {
	At   time.Time
	Wind float64 // mean in m/s; under 0 = not known, taken for calm
	Pass bool
}

// Prior is how common the kinds of learners are at a school: a weight for each
// law, without and with a day's form, that sum to one. The zero value is what
// is taken where nothing is known.
type Prior struct {
	Weights []float64
}

// usual is how common the kinds are taken to be before a school has records of
// its own. Days' forms are common: a record of some dozen attempts hardly shows
// one, and where there is one, a chance that leaves it out is too sure of
// itself.
var usual = [groups]float64{0.03, 0.22, 0.02, 0.14, 0.03, 0.15, 0.04, 0.24, 0.02, 0.11}

// intervalTail is what is left out at either end of an interval that is said to
// hold 80 %. It is more than a tenth: learners of laws that the bank does not
// have were flown, and it holds four in five of their chances
// (docs/tables/chances.md); a tenth would hold nine in ten.
const intervalTail = 0.155

// of is the weight of a kind; the usual one where the weights are of another
// version.
func (p Prior) of(group int) float64 {
	if len(p.Weights) == groups {
		return p.Weights[group]
	}
	return usual[group]
}

// Posterior is what a run of attempts at one cell says of the learner: a weight
// for each learner of the bank, and for those with days' forms one for each
// form that today may have.
type Posterior struct {
	// n is how many attempts were weighed.
	n      int
	newest time.Time
	began  time.Time // of the day of the newest attempt
	// weight sums to 1 over the learners.
	weight []float64
	left   []float64            // practice left after the newest attempt
	form   [][formNodes]float64 // chances of today's form
}

// Learn weighs the learners by a run of attempts in order of time (Bayes).
// ahead, where it is not nil, is told the chance that was given to each attempt
// before it was flown. Attempts that failed at one cell say nothing here of
// another. Without attempts the weights are the prior's.
func Learn(tries []Try, prior Prior, ahead func(p float64, pass bool)) *Posterior {
	return learn(bank(), prior, tries, ahead)
}

// blockTries is over how many attempts the chance of a block is taken: who
// flies a block learns in it.
const blockTries = 3

// Guess is Learn with fewer learners, for plans: the chance of an attempt in a
// block that is flown now in a wind, and about how many more attempts give so
// many passes.
func (e *Evidence) Guess(k Key, passes int, wind float64) (chance, attempts float64) {
	p := learn(bank()[:few], e.prior, e.tries(k), nil)
	gap := days(p.newest, e.at, p.n)
	for i := range p.weight {
		l := &bank()[i]
		left := p.faded(i, gap)
		for n := range blockTries {
			chance += p.weight[i] * l.chance(left+float64(n), wind) / blockTries
		}
	}
	const learners = 8
	for _, i := range p.pick(learners) {
		c, left, got := &bank()[i], p.left[i], 0.0
		n := 0.0
		for ; got < float64(passes) && n < Most; n++ {
			got += c.chance(left+n, wind)
		}
		attempts += n / learners
	}
	return chance, attempts
}

// learn is Learn over some of the bank. Attempts before the newest lookBack add
// practice only.
func learn(all []learner, prior Prior, tries []Try, ahead func(p float64, pass bool)) *Posterior {
	p := &Posterior{weight: make([]float64, len(all)), left: make([]float64, len(all)), form: make([][formNodes]float64,
		len(all))}
	// Every group has as many learners, so that each has this share of its
	// group's weight.
	share := float64(groups) / float64(len(all))
	for i := range p.weight {
		p.weight[i], p.form[i] = share*prior.of(i%groups), formWeight
	}
	for k, t := range tries {
		gap, fresh := days(p.newest, t.At, k), p.otherDay(t.At)
		if fresh {
			p.began = t.At
		}
		weigh := k >= len(tries)-lookBack
		// mean is what was foretold of what came, over all learners.
		sum, mean := 0.0, 0.0
		for i := range all {
			l := &all[i]
			if gap > 0 {
				p.left[i] *= math.Exp(-gap / l.fade)
			}
			if fresh {
				p.form[i] = formWeight
			}
			if weigh {
				q := p.see(i, l, t)
				if t.Pass {
					mean += p.weight[i] * q
				} else {
					mean += p.weight[i] * (1 - q)
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

// see returns the probability that a learner's attempt went as it did. What it
// says of the day's form is kept.
func (p *Posterior) see(i int, l *learner, t Try) (q float64) {
	odds := l.inWind(p.left[i], t.Wind)
	if l.form == 0 {
		if q = odds / (1 + odds); !t.Pass {
			q = 1 - q
		}
		return q
	}
	f := &p.form[i]
	for k := range f {
		o := odds * l.odds[k]
		v := o / (1 + o)
		if !t.Pass {
			v = 1 - v
		}
		f[k] *= v
		q += f[k]
	}
	for k := range f {
		f[k] /= q
	}
	return q
}

// faded is the practice that learner i has left after a gap of days.
func (p *Posterior) faded(i int, gap float64) float64 {
	if gap > 0 {
		return p.left[i] * math.Exp(-gap/bank()[i].fade)
	}
	return p.left[i]
}

// dayLasts is how long a day of flying is at most; a form lasts as long.
const dayLasts = 14 * time.Hour

// otherDay tells whether a moment lies on another day than the newest attempt.
func (p *Posterior) otherDay(at time.Time) bool { return p.n == 0 || at.Sub(p.began) > dayLasts }

// days is over how many days the memory fades from one attempt to the next, the
// k-th; 0 within a day and before the first.
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

// cellsOf is how finely a distribution of chances is kept.
const cellsOf = 400

// histogram is a distribution of values between two ends.
type histogram struct {
	low, high float64
	w         [cellsOf]float64
	sum, mean float64
}

// add adds a value with a weight; one beyond the ends goes into the outermost
// cell.
func (h *histogram) add(v, w float64) {
	k := int((v - h.low) / (h.high - h.low) * cellsOf)
	h.w[max(0, min(cellsOf-1, k))] += w
	h.sum, h.mean = h.sum+w, h.mean+w*v
}

// spread is the mean of a distribution and its middle, without a tail at either
// end. The mean is always inside.
func (h *histogram) spread(tail float64) Estimate {
	e := Estimate{Mean: h.mean / h.sum, Low: h.quantile(tail), High: h.quantile(1 - tail)}
	e.Low, e.High = math.Min(e.Low, e.Mean), math.Max(e.High, e.Mean)
	return e
}

// quantile is the value under which a share of the distribution lies,
// interpolated within a cell.
func (h *histogram) quantile(q float64) float64 {
	want, below := q*h.sum, 0.0
	for k, w := range h.w {
		if below+w >= want && w > 0 {
			return h.low + (float64(k)+(want-below)/w)/cellsOf*(h.high-h.low)
		}
		below += w
	}
	return h.high
}

// Next is the chance of passing at a moment in a wind.
func (p *Posterior) Next(at time.Time, wind float64) Estimate {
	h := p.chances(at, wind)
	return h.spread(intervalTail)
}

// chances is the distribution of the chance at a moment in a wind: on the day
// of the newest attempt with what is known of its form, on another with any.
func (p *Posterior) chances(at time.Time, wind float64) *histogram {
	gap, fresh := days(p.newest, at, p.n), p.otherDay(at)
	h := &histogram{high: 1}
	for i := range p.weight {
		l := &bank()[i]
		odds := l.inWind(p.faded(i, gap), wind)
		if l.form == 0 {
			h.add(odds/(1+odds), p.weight[i])
			continue
		}
		// The form of today is known a little from today's attempts; that of
		// another day is not.
		forms := &p.form[i]
		if fresh {
			forms = &formWeight
		}
		for k, w := range forms {
			o := odds * l.odds[k]
			h.add(o/(1+o), p.weight[i]*w)
		}
	}
	return h
}

// usual is the distribution of the chance at a moment, in calm air, on a day of
// usual form.
func (p *Posterior) usual(at time.Time) *histogram {
	gap := days(p.newest, at, p.n)
	h := &histogram{high: 1}
	for i, w := range p.weight {
		h.add(bank()[i].skill(p.faded(i, gap)), w)
	}
	return h
}

// tries are the field attempts that were flown just as a cell says, in order of
// time; no more than can change an estimate.
func (e *Evidence) tries(k Key) (out []Try) {
	e.sort()
	for _, s := range e.field.of(lane{k.Drill, k.Side, k.Class}) {
		if int(s.rank) == k.Aids.Rank() && int(s.level) == k.Level {
			out = append(out, Try{s.at(), float64(s.wind), s.pass})
		}
	}
	return out[max(0, len(out)-lookBack-practice):]
}

// Tries are the field attempts that were flown just as a cell says, in order of
// time, the newest lookBack + practice.
func (e *Evidence) Tries(k Key) []Try { return e.tries(k) }

// Posterior is what the attempts at a cell say of the learner; nil where there
// are none.
func (e *Evidence) Posterior(k Key) *Posterior {
	tries := e.tries(k)
	if len(tries) == 0 {
		return nil
	}
	return Learn(tries, e.prior, nil)
}

// Pace is how often the student has flown the cell: attempts a day and days
// between, from the evidence; three a day and a week between where there are
// fewer than two dates.
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
		p = Pace{max(1, int(math.Round(float64(len(list))/float64(len(on))))),
			math.Max(1, float64(last-first)/float64(len(on)-1))}
	}
	return p
}

// Bias is by how much the chance on the left is over that on the right.
type Bias struct {
	Drill string
	Estimate
	LeftWeaker float64 // the chance that the left is the weaker side
}

// SideBias compares the sides of a sided cell, as independent of each other. ok
// is false where a side was flown less than three times.
func (e *Evidence) SideBias(k Key, left, right drill.Cell) (Bias, bool) {
	const least, cells = 3, 64
	hist := func(c drill.Cell) (h [cells]float64, ok bool) {
		tries := e.tries(Key{c, k.Class})
		if len(tries) < least {
			return h, false
		}
		all := learn(bank()[:coarse], e.prior, tries, nil).usual(e.at)
		for i, w := range all.w {
			h[i*cells/cellsOf] += w / all.sum
		}
		return h, true
	}
	l, okl := hist(left)
	r, okr := hist(right)
	if !okl || !okr {
		return Bias{}, false
	}
	// The distribution of the difference: every chance of the left against
	// every chance of the right.
	byDiff := [2*cells - 1]float64{}
	for i, a := range l {
		for j, b := range r {
			byDiff[i-j+cells-1] += a * b
		}
	}
	b := Bias{Drill: k.Drill}
	diff := histogram{low: -1, high: 1}
	for d, w := range byDiff {
		v := float64(d-cells+1) / cells
		diff.add(v, w)
		if v < 0 {
			b.LeftWeaker += w
		} else if v == 0 {
			b.LeftWeaker += w / 2
		}
	}
	b.Estimate = diff.spread(0.1)
	return b, true
}
