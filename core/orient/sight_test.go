package orient

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"
)

// walked is the field protocol with a caller of a known threshold.
func walked(t *testing.T, r *rand.Rand, at, slope float64, light Light, n int) (calls []Call) {
	t.Helper()
	truth, err := NewCallable(len(CalledAmong))
	if err != nil {
		t.Fatal(err)
	}
	stands := 0.0
	var shown []int
	for range n {
		mark, aspect, err := NextCall(0.2, light, calls, stands, shown, r)
		if err != nil || !slices.Contains(Marks, mark) || aspect < 0 || aspect >= len(CalledAmong) {
			t.Fatalf("%v %v %v", mark, aspect, err)
		}
		if stands > 0 && math.Abs(float64(slices.Index(Marks, mark)-slices.Index(Marks, stands))) > 2 {
			t.Fatalf("from %v m to %v m", stands, mark)
		}
		if k := len(shown); k >= 2 && shown[k-1] == shown[k-2] && shown[k-1] == aspect {
			t.Fatal("an aspect three times in a row")
		}
		stands, shown = mark, append(shown, aspect)
		calls = append(calls, Call{DistanceM: mark, Light: light, Right: r.Float64() < truth.chance(mark, at, slope, 0.02)})
	}
	return calls
}

// Walking mark by mark, as people can, the interval still holds the threshold as often as
// it says, and the distance told to is one at which calls are right.
func TestTheWalkFindsHowFarTheyTell(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 4))
	callers, off := 150, 0.09
	if testing.Short() {
		callers, off = 50, 0.15
	}
	in, right, enough := 0, 0.0, 0
	for range callers {
		at := 20 * math.Pow(8, r.Float64()) // 20 to 160 m
		slope := []float64{2.5, 4, 6, 9}[r.IntN(4)]
		s, err := SightOf(0.2, 1, Day, walked(t, r, at, slope, Day, 24))
		if err != nil || s.FromCue || s.Calls != 24 || s.TellM > s.HalfM {
			t.Fatalf("%+v, %v", s, err)
		}
		if at >= s.Low*0.98 && at <= s.High*1.02 {
			in++
		}
		if s.Enough {
			enough++
		}
		truth, _ := NewCallable(4)
		right += truth.chance(s.TellM, at, slope, 0.02)
	}
	share := float64(in) / float64(callers)
	t.Logf("held %.0f %%; told to where %.2f are right; enough for %d of %d", 100*share, right/float64(callers), enough,
		callers)
	if math.Abs(share-0.8) > off {
		t.Errorf("the interval holds %.0f %%", 100*share)
	}
	if mean := right / float64(callers); math.Abs(mean-tells) > 0.05 {
		t.Errorf("at the distance told to %.2f are right, not %.2f", mean, tells)
	}
}

// Few calls leave the cue; calls at dusk say as much of the day as the eye resolves more.
func TestSightByCueAndLight(t *testing.T) {
	s, err := SightOf(0.255, 1, Day, []Call{{DistanceM: 20, Right: false}})
	if err != nil || !s.FromCue || math.Abs(s.TellM-80.36) > 0.1 || s.HalfM != 0 || s.Enough {
		t.Errorf("%+v, %v", s, err)
	}
	r := rand.New(rand.NewPCG(5, 5))
	dusk := walked(t, r, 40, 6, Dusk, 30)
	a, err := SightOf(0.2, 1, Dusk, dusk)
	if err != nil {
		t.Fatal(err)
	}
	b, err := SightOf(0.2, 1, Day, dusk)
	if err != nil || math.Abs(b.HalfM/a.HalfM-2) > 0.05 {
		t.Errorf("dusk %.1f m, day %.1f m; expected twice as far, %v", a.HalfM, b.HalfM, err)
	}
	if math.Abs(math.Log(a.HalfM/40)) > 0.5 {
		t.Errorf("%.1f m for 40", a.HalfM)
	}
	for name, bad := range map[string]func() error{
		"light":      func() error { _, err := SightOf(0.2, 1, "night", nil); return err },
		"cue":        func() error { _, err := SightOf(0, 1, Day, nil); return err },
		"call":       func() error { _, err := SightOf(0.2, 1, Day, []Call{{DistanceM: -1}}); return err },
		"its light":  func() error { _, err := SightOf(0.2, 1, Day, []Call{{DistanceM: 9, Light: "moon"}}); return err },
		"its curve":  func() error { _, err := Curve(Day, []Call{{DistanceM: -1}}, 100, 5); return err },
		"the next's": func() error { _, _, err := NextCall(0, Day, nil, 0, nil, r); return err },
	} {
		if bad() == nil {
			t.Errorf("a wrong %s was taken", name)
		}
	}
	curve, err := Curve(Dusk, dusk, 200, 40)
	if err != nil || len(curve) != 40 || !slices.IsSortedFunc(curve,
		func(p, q [2]float64) int { return int(1e6 * (q[1] - p[1])) }) {
		t.Errorf("the chance does not fall with the distance: %v, %v", curve, err)
	}
	if LightOf("dusk") != Dusk || LightOf("x") != Day {
		t.Error("lights")
	}
}
