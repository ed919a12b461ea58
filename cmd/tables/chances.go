package main

import (
	"fmt"
	"io"
	"math"
	"math/rand/v2"
	"time"

	"maestrale/core/readiness"
)

// pupil is a made-up learner: the chance of the next attempt after so many, on a day.
type pupil struct {
	law    string
	chance func(attempts, day int) float64
}

// pupils draws one of each law, with numbers of their own.
func pupils(r *rand.Rand) []pupil {
	logistic := func(z float64) float64 { return 1 / (1 + math.Exp(-z)) }
	start, top := 0.05+0.4*r.Float64(), 0.7+0.27*r.Float64()
	half, power := 3+12*r.Float64(), 0.35+0.6*r.Float64()
	jump, width := 2+28*r.Float64(), 0.3+0.5*r.Float64()
	hazard, learned := 0.03+0.12*r.Float64(), 0
	for r.Float64() > hazard && learned < 60 {
		learned++
	}
	var rises []float64
	at := 0.0
	for range 2 + r.IntN(3) {
		at += 3 + 14*r.Float64()
		rises = append(rises, at)
	}
	slope, level, sd := 0.05+0.1*r.Float64(), -2+2*r.Float64(), 0.5+0.7*r.Float64()
	var form []float64
	return []pupil{
		{"exponential", func(n, _ int) float64 { return top - (top-start)*math.Pow(0.5, float64(n)/half) }},
		{"power", func(n, _ int) float64 { return top - (top-start)*math.Pow(1+0.7*float64(n), -power) }},
		{"two states", func(n, _ int) float64 {
			if n >= learned {
				return 0.95 * top
			}
			return start
		}},
		{"sudden", func(n, _ int) float64 { return start + (top-start)*logistic((float64(n)-jump)/width) }},
		{"plateaus", func(n, _ int) float64 {
			p := start
			for _, x := range rises {
				p += (top - start) / float64(len(rises)) * logistic((float64(n)-x)/0.5)
			}
			return p
		}},
		{"form of the day", func(n, day int) float64 {
			for len(form) <= day {
				form = append(form, sd*r.NormFloat64())
			}
			return logistic(math.Min(2.5, level+2*slope*float64(n)) + form[day])
		}},
	}
}

// chancesTable flies learners of many laws and holds what the estimates say to what is true.
func chancesTable(w io.Writer, seed uint64) error {
	r := rand.New(rand.NewPCG(seed, 15)) //nolint:gosec // made-up learners, not secrets
	laws := map[string]*sums{}
	var order []string
	var deciles [10]decile
	all := &sums{}
	const rounds = 1200
	for range rounds {
		for _, p := range pupils(r) {
			n := 3 + r.IntN(43)
			tries, next, truth := flown(r, p, n)
			e := readiness.Learn(tries, readiness.Prior{}, nil).Next(next, -1)
			band := "12 and more"
			if n < 12 {
				band = "under 12"
			}
			last, moving, beta := readiness.Baselines(tries)
			for _, key := range []string{p.law + " | all", p.law + " | " + band} {
				if laws[key] == nil {
					laws[key] = &sums{}
					order = append(order, key)
				}
			}
			for _, s := range []*sums{laws[p.law+" | all"], laws[p.law+" | "+band], all} {
				s.n, s.width = s.n+1, s.width+e.High-e.Low
				if truth >= e.Low && truth <= e.High {
					s.in++
				}
				// The Brier score, of which truth (1 − truth) is the chance's own.
				own := truth * (1 - truth)
				s.model, s.last = s.model+own+sq(e.Mean-truth), s.last+own+sq(last-truth)
				s.moving, s.beta = s.moving+own+sq(moving-truth), s.beta+own+sq(beta-truth)
			}
			d := &deciles[min(9, int(10*e.Mean))]
			d.n, d.given, d.came = d.n+1, d.given+e.Mean, d.came+truth
		}
	}
	fmt.Fprint(w, `# Chances of passing, for learners whose law is not known

Made by `+"`make tables`"+` (cmd/tables, seed `, seed, `). `, rounds, ` learners of each of six laws fly 3 to 45
attempts; then the chance of the next one is
estimated with the usual weights (core/readiness). The laws are not the bank's own: the numbers and forms differ.
"Held" is the share of true
chances that lie in the interval that is said to hold 80 %. Whether a learner has forms of the day can hardly be told
from some dozen
attempts, so that one width has to serve those who have and those who have not.

| law | attempts | held | width | Brier score | last five | moving average | Beta mean |
|---|---|---|---|---|---|---|---|
`)
	laws["all | all"] = all
	printChances(w, append(order, "all | all"), laws, deciles)
	return nil
}

// sums are added up over the learners of a law: how many, and of each way of guessing its Brier score.
type sums struct{ n, in, width, model, last, moving, beta float64 }

// decile adds up what was given and what came, of chances that are alike.
type decile struct{ n, given, came float64 }

// printChances prints a line for each law in their order, and one for each tenth.
func printChances(w io.Writer, order []string, laws map[string]*sums, deciles [10]decile) {
	for _, key := range order {
		s := laws[key]
		fmt.Fprintf(w, "| %s | %.1f %% | %.2f | %.4f | %.4f | %.4f | %.4f |\n", key, 100*s.in/s.n, s.width/s.n, s.model/s.n,
			s.last/s.n, s.moving/s.n, s.beta/s.n)
	}
	fmt.Fprint(w, "\n## What was given, and what is true\n\n| given, in the mean | true, in the mean | attempts "+
		"|\n|---|---|---|\n")
	for _, d := range deciles {
		if d.n >= 50 {
			fmt.Fprintf(w, "| %.3f | %.3f | %.0f |\n", d.given/d.n, d.came/d.n, d.n)
		}
	}
}

func sq(v float64) float64 { return v * v }

// flown is a run of attempts, two to five a day, days apart, and the true chance of the one after.
func flown(r *rand.Rand, p pupil, n int) (tries []readiness.Try, at time.Time, truth float64) {
	at, day, today := time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC), 0, 2+r.IntN(4)
	for k := range n + 1 {
		if today--; today < 0 {
			at, day, today = at.AddDate(0, 0, 1+r.IntN(9)), day+1, 2+r.IntN(4)
		} else {
			at = at.Add(7 * time.Minute)
		}
		if truth = p.chance(k, day); k < n {
			tries = append(tries, readiness.Try{At: at, Wind: -1, Pass: r.Float64() < truth})
		}
	}
	return tries, at, truth
}
