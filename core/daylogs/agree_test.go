package daylogs

import (
	"math"
	"math/rand/v2"
	"testing"

	"maestrale/core/score"
)

// The table is of Newcombe, Statistics in Medicine 17 (1998) 857, method 3.
func TestWilson(t *testing.T) {
	for _, c := range []struct {
		k, n      int
		low, high float64
	}{
		{81, 263, 0.2553, 0.3662}, {15, 148, 0.0624, 0.1605}, {0, 20, 0, 0.1611}, {1, 29, 0.0061, 0.1718},
	} {
		low, high := Wilson(c.k, c.n)
		if math.Abs(low-c.low) > 5e-5 || math.Abs(high-c.high) > 5e-5 {
			t.Errorf("%d of %d: %.4f to %.4f, not %.4f to %.4f", c.k, c.n, low, high, c.low, c.high)
		}
	}
	if low, high := Wilson(0, 0); low != 0 || high != 1 {
		t.Errorf("of nothing: %v to %v", low, high)
	}
}

// judged is an instructor with a bias who sees n flights.
func judged(r *rand.Rand, n int, bias, eye float64) (list []Pair) {
	for range n {
		s := 0.4 * r.NormFloat64()
		p := Pair{By: "a", Drill: "d", Eye: score.Fail, Log: score.Fail, SlackM: &s}
		if s >= 0 {
			p.Log = score.Pass
		}
		if s+bias+eye*r.NormFloat64() >= 0 {
			p.Eye = score.Pass
		}
		list = append(list, p)
	}
	return list
}

// An instructor with a bias is found out, and one without is left alone.
func TestBiasIsFound(t *testing.T) {
	r := rand.New(rand.NewPCG(19, 1927))
	for _, bias := range []float64{-0.4, -0.15, 0, 0.25, 0.6} {
		leans := map[Leaning]int{}
		for range 60 {
			leans[Agreements(judged(r, 40, bias, 0.12))[0].Leans]++
		}
		want, wrong := NotShown, Leaning("")
		switch {
		case bias > 0:
			want, wrong = Lenient, Strict
		case bias < 0:
			want, wrong = Strict, Lenient
		}
		if leans[want] < 40 || bias != 0 && leans[wrong] > 0 {
			t.Errorf("bias %.2f: %v", bias, leans)
		}
	}
}

// Over instructors as they are taken to be before anything is known of them, the interval holds the truth as often as
// it says.
func TestBiasIntervalHoldsWhatItSays(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 90))
	inside, n := 0, 300
	for range n {
		bias := biasPrior * r.NormFloat64()
		eye := finestEye * math.Pow(coarsestEye/finestEye, r.Float64())
		b := Agreements(judged(r, 5+r.IntN(40), bias, eye))[0].Bias
		if b.Low <= bias && bias <= b.High {
			inside++
		}
	}
	if inside < 254 || inside > 286 { // 270 ± 5 of 300, three deviations either way
		t.Errorf("the interval of 90 %% holds the truth in %d of %d", inside, n)
	}
}

// What is computed of few attempts is wide or nothing; whatever the verdicts are, it is finite.
func TestFewPairs(t *testing.T) {
	s := 0.2
	pass := Pair{By: "a", Drill: "d", Eye: score.Pass, Log: score.Pass, SlackM: &s}
	if a := Agreements([]Pair{pass, pass})[0]; a.Bias != nil || a.N != 2 || a.Same != 2 {
		t.Errorf("%+v", a)
	}
	a := Agreements([]Pair{pass, pass, pass, pass, pass, pass})[0]
	if a.Bias == nil || a.Leans != NotShown || math.IsNaN(a.Bias.Low) || math.IsInf(a.Bias.High, 0) ||
		a.Bias.High-a.Bias.Low < 1 {
		t.Errorf("six passes of the same flight: %+v", a.Bias)
	}
	unfinished := Pair{By: "a", Drill: "d", Eye: score.Pass, Log: score.Incomplete}
	if out := Agreements([]Pair{unfinished}); len(out) != 0 {
		t.Errorf("what the log did not see is compared: %+v", out)
	}
}

// The slack of a result is that of its tightest distance.
func TestSlack(t *testing.T) {
	r := &score.Result{Steps: []score.StepResult{
		{Metrics: map[string]float64{"radius_max_m": 0.8, "inside_s": 9}, Limits: map[string]float64{"radius_max_m": 1,
			"inside_s": 10}},
		{Metrics: map[string]float64{"offset_m": 0.45}, Limits: map[string]float64{"offset_m": 0.4}},
	}}
	if s := Slack(r); s == nil || math.Abs(*s+0.05) > 1e-9 {
		t.Errorf("%v", s)
	}
	if s := Slack(&score.Result{}); s != nil {
		t.Errorf("nothing was measured: %v", *s)
	}
}
