package readiness

import (
	"math"
	"strconv"

	"maestrale/core/craft"
	"maestrale/core/drill"
)

const (
	fitLeast  = 4    // attempts at a cell from which it says anything of its learner's kind
	fitRounds = 60   // rounds of the fit
	fitFirm   = 60.0 // cells that the usual weights are worth
)

// FitPrior fits how common the kinds of learners are to a school's own records:
// the runs of attempts at each cell of each student. Each run is explained by
// every kind; the weights are those under which all runs together are likeliest
// (expectation and maximisation, Dempster, Laird and Rubin, J. Royal Stat. Soc.
// B 39 (1977) 1), held to the usual ones by a Dirichlet distribution that is
// worth fitFirm cells, so that a small school changes them little. cells and
// attempts say what it rests on; without any, the weights are the usual ones.
func FitPrior(runs [][]Try) (p Prior, cells, attempts int) {
	var likely [][groups]float64
	for _, run := range runs {
		if len(run) < fitLeast {
			continue
		}
		run = run[max(0, len(run)-lookBack-practice):]
		cells, attempts = cells+1, attempts+len(run)
		post := learn(bank()[:coarse], Prior{}, run, nil)
		var l [groups]float64
		for i, w := range post.weight {
			// How likely the run is under each kind: its weight after the run
			// over that before it.
			l[i%groups] += w / usual[i%groups]
		}
		likely = append(likely, l)
	}
	w := usual
	for range fitRounds {
		var next [groups]float64
		for g := range next {
			// As if so many cells had been seen already, spread as usual.
			next[g] = fitFirm * usual[g]
		}
		for _, l := range likely {
			sum := 0.0
			for g := range l {
				sum += w[g] * l[g]
			}
			for g := range l {
				next[g] += w[g] * l[g] / sum
			}
		}
		for g := range w {
			w[g] = next[g] / (fitFirm + float64(len(likely)))
		}
	}
	p.Weights = append([]float64(nil), w[:]...)
	return p, cells, attempts
}

// Sound tells whether the weights are a distribution over the kinds of the
// bank: those of another version are not.
func (p Prior) Sound() bool {
	sum := 0.0
	for _, w := range p.Weights {
		if !(w >= 0 && w <= 1) {
			return false
		}
		sum += w
	}
	return len(p.Weights) == groups && math.Abs(sum-1) < 1e-6
}

// Runs are the attempts at the field at each cell, in order of time; the cells
// in the order of SortKeys.
func (e *Evidence) Runs() (out [][]Try) {
	e.sort()
	type at struct {
		l           lane
		rank, level int
	}
	cells := map[at]bool{}
	for l, list := range e.field {
		for _, s := range *list {
			cells[at{l, int(s.rank), int(s.level)}] = true
		}
	}
	keys := make([]Key, 0, len(cells))
	for c := range cells {
		keys = append(keys, Key{drill.Cell{Drill: c.l.drill, Side: c.l.side, Aids: craft.AidsOrder[c.rank], Level: c.level},
			c.l.class})
	}
	SortKeys(keys)
	for _, k := range keys {
		out = append(out, e.tries(k))
	}
	return out
}

// unsure is how wide an interval is from which a chance is said in words.
const unsure = 0.35

// Words say a chance: as a percentage with its interval where that is known
// well enough, in words where it is not.
func (e Estimate) Words() string {
	if e.High-e.Low <= unsure {
		return percent(e.Mean) + " % (" + percent(e.Low) + " to " + percent(e.High) + ")"
	}
	switch {
	case e.Mean < 0.2:
		return "unlikely"
	case e.Mean < 0.4:
		return msgLessLikely
	case e.Mean < 0.6:
		return "about even"
	case e.Mean < 0.8:
		return msgMoreLikely
	}
	return "likely"
}

// percent is a share in whole per cent.
func percent(v float64) string { return strconv.Itoa(int(math.Round(100 * v))) }
