package readiness

import (
	"math"
	"strings"
	"testing"
)

// Welch's interval against its formula by hand, on two samples of fifteen: 27 or 28 degrees of freedom.
func TestWelchByHand(t *testing.T) {
	a := []float64{27.5, 21.0, 19.0, 23.6, 17.0, 17.9, 16.9, 20.1, 21.9, 22.6, 23.1, 19.6, 19.0, 21.7, 21.4}
	b := []float64{27.1, 22.0, 20.8, 23.4, 23.4, 23.5, 25.8, 22.0, 24.8, 20.2, 21.9, 22.1, 22.9, 30.5, 24.4}
	d, half := welch(b, a)
	n := 15.0
	dev := func(list []float64) (s float64) {
		for _, v := range list {
			s += (v - mean(list)) * (v - mean(list))
		}
		return s / (n - 1)
	}
	se := math.Sqrt(dev(a)/n + dev(b)/n)
	if math.Abs(d-(mean(b)-mean(a))) > 1e-12 || math.Abs(half/se-2.05) > 0.02 { // 27 or 28 degrees of freedom
		t.Errorf("%v ± %v, standard error %v", d, half, se)
	}
	// Equal shares on both sides leave no doubt and no difference; two students would leave any.
	if d, half := welch([]float64{0.5, 0.5, 0.5}, []float64{0.5, 0.5, 0.5}); d != 0 || half != 0 {
		t.Errorf("%v %v", d, half)
	}
	if student(1) < student(2) || student(31) > student(20) {
		t.Error("fewer degrees of freedom give a narrower interval")
	}
}

func TestGripsAreComparedWhereThereIsEnough(t *testing.T) {
	some := func(shares ...int) (out []Share) {
		for _, s := range shares {
			out = append(out, Share{100, s})
		}
		return out
	}
	for want, k := range map[string][2][]Share{
		"":                      {some(50, 60), some(50, 60, 70)},
		"may be chance":         {some(40, 50, 60), some(45, 60, 70)},
		"need not be the cause": {some(40, 42, 44, 41), some(70, 72, 69, 74)},
	} {
		if got := CompareGrips(k[0], k[1]); !strings.Contains(got, want) || (got == "") != (want == "") {
			t.Errorf("%v: %s", k, got)
		}
	}
	// Thousands of attempts by two students say no more than two students do.
	if got := CompareGrips([]Share{{9000, 4000}, {9000, 3000}}, some(70, 72, 69, 74)); got != "" {
		t.Error(got)
	}
	if got := CompareGrips(append(some(50, 60), Share{9, 9}), some(70, 72, 69)); got != "" {
		t.Errorf("one who has hardly flown counts: %s", got)
	}
}
