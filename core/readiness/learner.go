package readiness

import (
	"math"
	"sync"
)

// law is how a learner's chance of a pass depends on practice.
//
// People do not learn by one law. A learner of the bank follows one of these,
// in the practice x that is left of the attempts so far: each attempt adds one,
// and between two days x fades by exp(−days / fade).
//
//	exponential  p = c − (c − s) exp(−r x)     Heathcote, Brown and Mewhort, Psychonomic Bulletin & Review 7 (2000) 185
//	power        p = c − (c − s) (1 + x)^−a    Newell and Rosenbloom, in Anderson (ed.), Cognitive Skills (1981) 1
//	sudden       p = s, and c from some x on   Estes, "Toward a statistical theory of learning", Psych. Rev. 57 (1950) 94
//	plateaus     p rises from s to c in steps  Bryan and Harter, Psych. Review 4 (1897) 27
//	steady       p stays where it is           nothing is learned, or all was
//
// Half of the learners of each law are better on some days than on others: the
// day's form multiplies the odds, by a lognormal factor that is the same all
// day. Wind over 2 m/s multiplies them by exp(−windage (wind − 2)).
type law int

const (
	exponential law = iota
	power
	sudden
	plateaus
	steady
	lawCount
)

// LawNames are the names of the laws, in the order of a Prior's weights: each
// without and with a day's form.
var LawNames = []string{"exponential", "power", "sudden", "plateaus", "steady"}

// groups is how many kinds of learners there are: each law without and with a
// day's form.
const groups = 2 * int(lawCount)

// learner is one of the bank: a law, with the figures that it needs.
type learner struct {
	// law says how the chance goes from start to ceiling.
	law law
	// start and ceiling are the chances of the first attempt and after endless
	// practice.
	start, ceiling float64
	rate           float64            // of the exponential, or the power's exponent
	steps          [3]float64         // practice at which a plateau ends; a sudden learner has one
	levels         [2]float64         // of the plateaus between, as shares of the way
	fade, windage  float64            // days; per m/s
	form           float64            // standard deviation of a day's form, in log odds
	odds           [formNodes]float64 // by which a day's form multiplies the odds
}

// formNodes are the days' forms that are weighed: the nodes of Gauss and
// Hermite's rule for a normal distribution (Abramowitz and Stegun, table
// 25.10).
const formNodes = 5

// formAt and formWeight are the nodes of that rule, in standard deviations, and
// their weights.
var (
	formAt     = [formNodes]float64{-2.8569700138728, -1.3556261799743, 0, 1.3556261799743, 2.8569700138728}
	formWeight = [formNodes]float64{0.0112574113277, 0.2220759220057, 0.5333333333333, 0.2220759220057, 0.0112574113277}
)

const (
	drawn    = 800 // learners of the bank
	calm     = 2.0 // m/s up to which the wind costs nothing
	lookBack = 60  // newest attempts that are weighed
	practice = 20  // Older attempts: they add practice but no likelihood.
	coarse   = 320 // learners with which many cells are compared at once
	few      = 80  // learners of a rough guess; the first of the bank are spread evenly as well
	fewTries = 5   // attempts under which nothing is forecast
)

// drawLearner draws a learner of a group from the prior; u are even over 0 to
// 1. A first try is passed one time in five or so; few become perfect; it takes
// some eight attempts to go most of the way; what was learned fades over
// months.
func drawLearner(group int, u [8]float64) learner {
	n := func(q float64) float64 { return math.Sqrt2 * math.Erfinv(2*q-1) } // quantile of the normal distribution
	l := learner{law: law(group / 2), start: 0.04 + 0.6*math.Pow(u[0], 1.5), ceiling: 0.95 - 0.32*u[1]*u[1],
		windage: 0.05 + 0.25*u[4],
		fade:    math.Exp(math.Log(160) + 0.8*n(u[3]))}
	switch l.law {
	case exponential:
		l.rate = math.Exp(math.Log(0.14) + 0.8*n(u[2]))
	case power:
		l.rate = math.Exp(math.Log(0.62) + 0.6*n(u[2]))
	case sudden:
		l.steps[0] = 28 * u[2]
		// A sudden learner whose two chances lie close together would be a
		// steady one.
		if l.start > l.ceiling-0.2 {
			l.start = l.ceiling - 0.2
		}
	case plateaus:
		l.steps[0] = 15 * u[2]
		l.steps[1] = l.steps[0] + 1 + 15*u[5]
		l.steps[2] = l.steps[1] + 1 + 15*u[6]
		// The two between never cross: the first ends at 0.5 of the way, the
		// second begins at 0.55.
		l.levels = [2]float64{0.2 + 0.3*u[7], 0.55 + 0.3*u[5]}
	case steady:
		// Anything from hardly ever to nearly always, as it does not change.
		l.start = 0.04 + 0.92*u[0]
		l.ceiling = l.start
	}
	for k := range l.odds {
		l.odds[k] = 1
	}
	// Odd groups have a day's form.
	if group%2 == 1 {
		l.form = 0.35 + 1.05*u[6]
		for k, z := range formAt {
			// Odds, so that a chance stays between 0 and 1 on every day.
			l.odds[k] = math.Exp(l.form * z)
		}
	}
	return l
}

// bank are the learners that are weighed, evenly spread over the prior of each
// group (Halton, Numerische Mathematik 2 (1960) 84). The groups take turns, so
// that the first few are a bank too.
var bank = sync.OnceValue(func() []learner {
	out := make([]learner, drawn)
	for i := range out {
		var u [8]float64
		for d, base := range []int{2, 3, 5, 7, 11, 13, 17, 19} {
			u[d] = halton(i/groups+20+7*(i%groups), base) // the first points of the higher bases lie on a line
		}
		out[i] = drawLearner(i%groups, u)
	}
	return out
})

// halton is the i-th number, from 1, of the sequence of a base: its digits
// mirrored at the point.
func halton(i, base int) float64 {
	f, r := 1.0, 0.0
	for ; i > 0; i /= base {
		f /= float64(base)
		r += f * float64(i%base)
	}
	return r
}

// skill is the chance with so much practice left, on a usual day in calm air.
func (l *learner) skill(x float64) float64 {
	switch l.law {
	case exponential:
		return l.ceiling - (l.ceiling-l.start)*math.Exp(-l.rate*x)
	case power:
		return l.ceiling - (l.ceiling-l.start)*math.Exp(-l.rate*math.Log1p(x))
	case sudden:
		if x < l.steps[0] {
			return l.start
		}
		return l.ceiling
	case plateaus:
		switch {
		case x < l.steps[0]:
			return l.start
		case x < l.steps[1]:
			return l.start + l.levels[0]*(l.ceiling-l.start)
		case x < l.steps[2]:
			return l.start + l.levels[1]*(l.ceiling-l.start)
		}
		return l.ceiling
	}
	return l.start
}

// inWind is the odds of a learner in a wind in m/s; one that is not known,
// under 0, is calm.
func (l *learner) inWind(x, wind float64) float64 {
	p := l.skill(x)
	// No learner's chance is 0 or 1 (drawLearner), so the odds are finite.
	odds := p / (1 - p)
	if wind > calm {
		odds *= math.Exp(-l.windage * (wind - calm))
	}
	return odds
}

// chance is that with so much practice left, in a wind, in the mean over the
// days' forms.
func (l *learner) chance(x, wind float64) (p float64) {
	odds := l.inWind(x, wind)
	if l.form == 0 {
		return odds / (1 + odds)
	}
	for k, w := range formWeight {
		o := odds * l.odds[k]
		p += w * o / (1 + o)
	}
	return p
}
