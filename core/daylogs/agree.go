package daylogs

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"maestrale/core/score"
)

// Pair is one attempt that an instructor and a log both judged.
type Pair struct {
	By    string        `json:"by"`
	Drill string        `json:"drill"`
	Eye   score.Verdict `json:"eye"`
	Log   score.Verdict `json:"log"`
	// SlackM is how far inside the tightest of the drill's distances the flight
	// stayed by the log, m; negative outside it, nil where no distance was
	// measured.
	SlackM *float64 `json:"slack_m,omitempty"`
}

// Bias is by how much an instructor's limit lies outside the drill's, m: what
// the eye allows more (positive) or less (negative) than the drill. Low and
// High hold it with a probability of 90 %.
type Bias struct {
	M    float64 `json:"m"`
	Low  float64 `json:"low"`
	High float64 `json:"high"`
}

// PairsOf are the attempts of a folder that somebody marked too.
func PairsOf(f *Found) (out []Pair) {
	for _, it := range f.Items {
		if it.Mark != nil && it.Result != nil {
			out = append(out, Pair{By: it.Mark.By, Drill: it.Cell.Drill, Eye: it.Mark.Verdict, Log: it.Result.Verdict,
				SlackM: Slack(it.Result)})
		}
	}
	return out
}

// Agreement is how one instructor judges one drill, compared with the log. Low
// and High are the interval of Same / N at 95 %.
type Agreement struct {
	By      string  `json:"by"`
	Drill   string  `json:"drill"`
	N       int     `json:"n"`
	Same    int     `json:"same"`
	Low     float64 `json:"low"`
	High    float64 `json:"high"`
	Lenient int     `json:"lenient"` // passed by eye, failed by the log
	Strict  int     `json:"strict"`  // failed by eye, passed by the log
	Bias    *Bias   `json:"bias,omitempty"`
	Leans   Leaning `json:"leans"`
}

// Leaning is what is shown of an instructor's judgement.
type Leaning string

// The leanings.
const (
	NotShown Leaning = "" // neither is shown: too few, or as the log says
	Strict   Leaning = "strict"
	Lenient  Leaning = "lenient"
)

// Agreements compares each instructor with the log, drill by drill. Only passes
// and fails are compared: what one of the two did not see to its end says
// nothing about its limit.
func Agreements(pairs []Pair) (out []Agreement) {
	by := map[[2]string][]Pair{}
	for _, p := range pairs {
		if decided(p.Eye) && decided(p.Log) {
			k := [2]string{p.By, p.Drill}
			by[k] = append(by[k], p)
		}
	}
	for k, list := range by {
		a := Agreement{By: k[0], Drill: k[1], N: len(list)}
		for _, p := range list {
			switch {
			case p.Eye == p.Log:
				a.Same++
			case p.Eye == score.Pass:
				a.Lenient++
			default:
				a.Strict++
			}
		}
		a.Low, a.High = Wilson(a.Same, a.N)
		if a.Bias = biasOf(list); a.Bias != nil {
			switch {
			case a.Bias.Low > 0:
				a.Leans = Lenient
			case a.Bias.High < 0:
				a.Leans = Strict
			}
		}
		out = append(out, a)
	}
	slices.SortFunc(out, func(a, b Agreement) int {
		return cmp.Or(cmp.Compare(a.By, b.By), cmp.Compare(a.Drill, b.Drill))
	})
	return out
}

// decided tells whether a verdict is a pass or a fail, so that two can agree.
func decided(v score.Verdict) bool { return v == score.Pass || v == score.Fail }

// Wilson is the interval of a share at 95 % (Wilson, J. Am. Stat. Assoc. 22
// (1927) 209): of k in n, between 0 and 1.
func Wilson(k, n int) (low, high float64) {
	if n == 0 {
		return 0, 1
	}
	const z = 1.959964
	p, m := float64(k)/float64(n), float64(n)
	centre := (p + z*z/(2*m)) / (1 + z*z/m)
	half := z / (1 + z*z/m) * math.Sqrt(p*(1-p)/m+z*z/(4*m*m))
	return max(0, centre-half), min(1, centre+half)
}

const (
	fewest      = 5    // pairs with a distance from which a bias is computed
	widestBias  = 3.0  // m of the grid, either way
	biasPrior   = 1.0  // m, standard deviation of the bias of instructors before anything is known of one
	finestEye   = 0.03 // m, the finest that an eye is taken to see
	coarsestEye = 1.5  // m
	biasSteps   = 81
	eyeSteps    = 20
	slips       = 0.01 // share of taps that are a slip, and say nothing
)

// biasOf is the bias of an instructor. The eye passes a flight that the log has
// inside by s with the probability Φ((s + b) / e), where b is the bias and e
// how finely the eye sees: a psychometric function whose point of equal chance
// is the eye's own limit (Finney, Probit Analysis, 1947). b is normal about 0
// before anything is known, and e even in its logarithm; both are summed over a
// grid, so that a few attempts give a wide interval and never an infinite one.
// It is nil for fewer than five attempts with a distance.
func biasOf(list []Pair) *Bias {
	var slack []float64
	var passed []bool
	for _, p := range list {
		if p.SlackM != nil {
			slack, passed = append(slack, *p.SlackM), append(passed, p.Eye == score.Pass)
		}
	}
	if len(slack) < fewest {
		return nil
	}
	low, high := -widestBias, widestBias
	g := weigh(slack, passed, low, high)
	if low, high = g.where(); low < high { // the grid is drawn again where the weight lies, so that it is fine enough
		g = weigh(slack, passed, low, high)
	}
	return &Bias{M: g.mean(), Low: g.below(0.05), High: g.below(0.95)}
}

// grid is how likely each bias is, at even steps.
type grid struct {
	low, step float64
	weight    []float64 // sums to 1
}

// weigh is how likely each bias between low and high is, given by how much each
// flight was inside its limits, and whether the eye passed it. Both lists have
// one entry for each flight.
func weigh(slack []float64, passed []bool, low, high float64) grid {
	g := grid{low, (high - low) / (biasSteps - 1), make([]float64, biasSteps)}
	most := math.Inf(-1)
	logs := make([]float64, 0, biasSteps*eyeSteps)
	for k := range biasSteps {
		b := g.at(k)
		for j := range eyeSteps {
			e := finestEye * math.Pow(coarsestEye/finestEye, float64(j)/(eyeSteps-1))
			l := -b * b / (2 * biasPrior * biasPrior)
			for i := range slack {
				z := (slack[i] + b) / e
				if !passed[i] {
					z = -z
				}
				l += math.Log(slips/2 + (1-slips)*0.5*math.Erfc(-z/math.Sqrt2))
			}
			logs = append(logs, l)
			most = max(most, l)
		}
	}
	sum := 0.0
	for n, l := range logs {
		w := math.Exp(l - most)
		g.weight[n/eyeSteps] += w
		sum += w
	}
	for k := range g.weight {
		g.weight[k] /= sum
	}
	return g
}

// at is the value of the k-th step.
func (g grid) at(k int) float64 { return g.low + g.step*float64(k) }

// mean is the mean of the distribution.
func (g grid) mean() (m float64) {
	for k, w := range g.weight {
		m += w * g.at(k)
	}
	return m
}

// below is under which value a share of the weight lies.
func (g grid) below(share float64) float64 {
	sum := 0.0
	for k, w := range g.weight {
		if sum+w >= share {
			return g.at(k) + g.step*((share-sum)/w-0.5)
		}
		sum += w
	}
	return g.at(len(g.weight) - 1)
}

// where is the range outside which hardly any weight lies.
func (g grid) where() (low, high float64) {
	first, last := len(g.weight), 0
	for k, w := range g.weight {
		if w > 1e-6 {
			first, last = min(first, k), k
		}
	}
	return g.at(max(0, first-1)), g.at(min(len(g.weight)-1, last+1))
}

// Slack is how far inside the tightest of its distances a flight stayed, m; nil
// where no distance was measured against a limit.
func Slack(r *score.Result) *float64 {
	var least *float64
	for _, st := range r.Steps {
		for key, v := range st.Metrics {
			m, ok := score.MetricOf(key)
			if !ok || m.Unit != "m" || m.Most == "" {
				continue
			}
			limit, set := st.Limits[m.Most]
			if s := limit - v; set && limit > 0 && (least == nil || s < *least) {
				least = &s
			}
		}
	}
	return least
}

// Words say what is shown, in a sentence.
func (a Agreement) Words() string {
	if a.Bias == nil {
		return fmt.Sprintf(msgTooFewToAgree, fewest)
	}
	switch a.Leans {
	case Lenient:
		return fmt.Sprintf(msgLenient, a.Bias.M)
	case Strict:
		return fmt.Sprintf(msgStrict, -a.Bias.M)
	}
	return msgNeitherStrictNorLenient
}
