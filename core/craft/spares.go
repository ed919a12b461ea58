//go:build !js

package craft

import (
	"math"
	"strings"

	"gonum.org/v1/gonum/stat/distuv"
)

// Seen is what has been seen of a type: flights, crashes in them, and the parts
// that they took.
type Seen struct {
	Flights, Crashes int
	Used             map[string]int
}

// CrashPrior is what is believed of the crash rate before anything is seen, as
// so many flights that held so many crashes.
type CrashPrior struct{ Crashes, Flights float64 }

// BeginnersPrior is the prior for a type that beginners fly, a reckoning of our
// own and worth twenty flights: one crash in five flights for a micro craft
// between walls, in twelve for a craft that the hand alone holds, in forty for
// one that holds its place.
func BeginnersPrior(t Type) CrashPrior {
	switch {
	case t.Class() == Micro:
		return CrashPrior{4, 20}
	case t.Has(PositionHold):
		return CrashPrior{0.5, 20}
	}
	return CrashPrior{20.0 / 12, 20}
}

// crashesWorth is how many crashes the prior of the parts that a crash takes is
// worth.
const crashesWorth = 4

// Need is how many of a part to bring, and how many lie on the shelf.
type Need struct {
	Part
	Bring int
	Shelf int
}

// Short is how many are missing on the shelf.
func (n Need) Short() int { return max(0, n.Bring-n.Shelf) }

// Advice is what to bring to a day.
type Advice struct {
	Needs   []Need
	Rate    float64 // crashes a flight, mean of the posterior
	Chance  float64 // that no part runs out with what is to be brought
	AsItIs  float64 // that no part runs out with what lies on the shelf
	Flights int
}

// Spares says how many of each part to bring so that with the given certainty
// no part runs out in so many flights.
//
// Crashes come as a Poisson process whose rate has a gamma prior; with k
// crashes seen in n flights the number in m more flights is negative binomial
// with shape a + k and success probability (b + n) / (b + n + m) (Gelman et
// al., Bayesian Data Analysis, 3rd ed., 2013, section 2.6). Each crash takes a
// Poisson number of each part, its mean learnt from the parts used. One crash
// takes several parts at once, so the chance is summed over the number of
// crashes and not multiplied part by part. The part that helps most is added
// until it suffices, beginning with one of each propeller of a craft with so
// many rotors: nobody goes to a field without one set.
func Spares(parts []Part, rotors int, seen Seen, prior CrashPrior, shelf map[string]int, flights int,
	certainty float64) Advice {
	shape, rate := prior.Crashes+float64(seen.Crashes), prior.Flights+float64(seen.Flights)
	certainty = min(certainty, 0.999)
	d := day{chance: negativeBinomial(shape, rate/(rate+float64(flights)))}
	for _, p := range parts {
		d.each = append(d.each, (p.PerCrash*crashesWorth+float64(seen.Used[p.Key]))/(crashesWorth+float64(seen.Crashes)))
	}
	have := make([]int, len(parts))
	for i, p := range parts {
		have[i] = shelf[p.Key]
	}
	out := Advice{Rate: shape / rate, AsItIs: d.lasts(have), Flights: flights}
	bring := oneSet(parts, rotors)
	for out.Chance = d.lasts(bring); out.Chance < certainty && len(parts) > 0; out.Chance = d.lasts(bring) {
		best, at := -1.0, 0
		for i := range bring {
			bring[i]++
			if c := d.lasts(bring); c > best {
				best, at = c, i
			}
			bring[i]--
		}
		bring[at]++
	}
	for i, p := range parts {
		out.Needs = append(out.Needs, Need{p, bring[i], have[i]})
	}
	return out
}

// oneSet is one set of propellers: one for each rotor, shared out among the
// kinds of propellers that the craft takes.
func oneSet(parts []Part, rotors int) []int {
	bring, kinds := make([]int, len(parts)), 0
	for _, p := range parts {
		if p.IsPropeller() {
			kinds++
		}
	}
	for i, p := range parts {
		if p.IsPropeller() {
			bring[i] = (rotors + kinds - 1) / kinds
		}
	}
	return bring
}

// IsPropeller tells whether a part is a propeller, of whatever turn.
func (p Part) IsPropeller() bool {
	return p.Key == "propeller" || strings.HasPrefix(p.Key, "propeller-")
}

// day is the chance of each number of crashes, and how many of each part one
// crash takes.
type day struct {
	chance []float64
	each   []float64
}

// lasts is the chance that with so many of each part none runs out.
func (d day) lasts(have []int) float64 {
	sum := 0.0
	for n, p := range d.chance {
		for i, mean := range d.each {
			if n > 0 && mean > 0 {
				p *= distuv.Poisson{Lambda: float64(n) * mean}.CDF(float64(have[i]))
			}
		}
		sum += p
	}
	return sum
}

// negativeBinomial lists the probabilities of 0, 1, 2… until less than a
// millionth is left, normalised.
func negativeBinomial(shape, success float64) []float64 {
	if success >= 1 {
		return []float64{1}
	}
	var out []float64
	sum := 0.0
	base, _ := math.Lgamma(shape)
	for k := 0; k < 10000 && sum < 1-1e-6; k++ {
		a, _ := math.Lgamma(shape + float64(k))
		b, _ := math.Lgamma(float64(k) + 1)
		p := math.Exp(a - base - b + shape*math.Log(success) + float64(k)*math.Log1p(-success))
		out = append(out, p)
		sum += p
	}
	for i := range out {
		out[i] /= sum
	}
	return out
}
