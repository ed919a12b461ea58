package orient

import (
	"math"
	"math/rand/v2"
	"os"
	"testing"
)

// A cue of 0.255 m spans four times half a cycle of colour at 80 m, by hand: 0.255 /
// tan(2/11°).
func TestTellDistance(t *testing.T) {
	d, err := TellDistance(0.255, 1, Day)
	if err != nil || math.Abs(d-80.36) > 0.1 {
		t.Errorf("%.1f m, %v", d, err)
	}
	half, _ := TellDistance(0.255, 0.5, Day)
	dusk, _ := TellDistance(0.255, 1, Dusk)
	if math.Abs(half-d/2) > 0.1 || math.Abs(dusk-d/2) > 0.1 {
		t.Errorf("half the acuity %.1f m, dusk %.1f m", half, dusk)
	}
	for _, c := range []struct {
		s, a float64
		l    Light
	}{{0, 1, Day}, {1, 0, Day}, {1, 1, "night"}, {math.NaN(), 1, Day}} {
		if _, err := TellDistance(c.s, c.a, c.l); err == nil {
			t.Errorf("%+v was taken", c)
		}
	}
}

// Callers whose threshold is known: the 80 % interval holds it 80 % of the time, and 24
// calls at distances that are chosen are better than a plain average with twice as many.
func TestTheFitRecoversKnownThresholds(t *testing.T) {
	if testing.Short() {
		t.Skip("a cohort; make test flies it")
	}
	r := rand.New(rand.NewPCG(2, 2))
	callers, off := 200, 0.06
	if testing.Short() {
		callers, off = 60, 0.13
	}
	in, fitOff, plainOff := 0, 0.0, 0.0
	for range callers {
		at := nearest * math.Pow(farthest/nearest, 0.1+0.75*r.Float64())
		slope := []float64{2.5, 4, 6, 9}[r.IntN(4)]
		c, err := NewCallable(8)
		if err != nil {
			t.Fatal(err)
		}
		call := func(d float64) bool { return r.Float64() < c.chance(d, at, slope, 0.02) }
		for range 24 {
			d := c.Next(Marks)
			if err := c.Called(Call{DistanceM: d, Right: call(d)}); err != nil {
				t.Fatal(err)
			}
		}
		m, low, high, ok := c.Threshold()
		if !ok || low > m || high < low {
			t.Fatalf("%v %v %v %v", m, low, high, ok)
		}
		if at >= low*0.98 && at <= high*1.02 { // half a step of the grid
			in++
		}
		fitOff += math.Pow(math.Log(m/at), 2)
		// The plain average: walk out mark by mark, again and again, four calls at each, and
		// take the mean of the last mark of the walk at which all were right.
		sum, walks, calls := 0.0, 0.0, 0
		for calls < 48 {
			last := Marks[0]
			for _, d := range Marks {
				right := 0
				for range 2 {
					calls++
					if call(d) {
						right++
					}
				}
				if right < 2 {
					break
				}
				last = d
			}
			sum += math.Log(last)
			walks++
		}
		plainOff += math.Pow(sum/walks-math.Log(at), 2)
	}
	share := float64(in) / float64(callers)
	t.Logf("held %.1f %%; error %.3f with 24 calls, a plain average %.3f with 48 or more", 100*share,
		math.Sqrt(fitOff/float64(callers)), math.Sqrt(plainOff/float64(callers)))
	if math.Abs(share-0.8) > off {
		t.Errorf("the interval holds %.1f %%", 100*share)
	}
	if fitOff > plainOff {
		t.Errorf("the fit is off by %.3f, a plain average with twice the calls by %.3f", fitOff, plainOff)
	}
}

// The interval holds the threshold for callers whose curve is logistic or normal, who are wrong at any
// distance in none to eight of a hundred calls, after few calls and after many.
func TestTheIntervalHoldsForOtherCallers(t *testing.T) {
	if testing.Short() {
		t.Skip("a cohort; make test flies it")
	}
	callers, seed := 40, uint64(3)
	switch {
	case os.Getenv("MAESTRALE_NIGHTLY") != "":
		callers, seed = 600, 4
	case testing.Short():
		callers = 15
	}
	r := rand.New(rand.NewPCG(seed, 15))
	chance := func(n int) float64 { return 2 * math.Sqrt(0.8*0.2/float64(n)) } // what a cohort of n is off by itself
	held := 0
	for _, probit := range []bool{false, true} {
		for _, calls := range []int{12, 24, 48} {
			in := 0
			for range callers {
				at, slope, lapse := nearest*math.Pow(farthest/nearest, 0.15+0.7*r.Float64()), 2+7*r.Float64(), 0.08*r.Float64()
				c, err := NewCallable(4)
				if err != nil {
					t.Fatal(err)
				}
				tells := func(d float64) float64 {
					if probit { // as steep in its middle
						return 0.5 * math.Erfc(math.Log(d/at)*slope*math.Sqrt(math.Pi/8)/math.Sqrt2)
					}
					return 1 / (1 + math.Pow(d/at, slope))
				}
				for range calls {
					d := c.Next(Marks)
					if err := c.Called(Call{DistanceM: d, Right: r.Float64() < 0.25+(0.75-lapse)*tells(d)}); err != nil {
						t.Fatal(err)
					}
				}
				if _, low, high, _ := c.Threshold(); at >= low && at <= high {
					in++
				}
			}
			share := float64(in) / float64(callers)
			t.Logf("probit %v, %d calls: held %.1f %%", probit, calls, 100*share)
			if slack := chance(callers); share < 0.76-slack || share > 0.84+slack {
				t.Errorf("probit %v, %d calls: the interval holds %.1f %%", probit, calls, 100*share)
			}
			held += in
		}
	}
	if share := float64(held) / float64(6*callers); math.Abs(share-0.8) > 0.02+chance(6*callers) {
		t.Errorf("the interval holds %.1f %% of all", 100*share)
	}
}

func TestFewCallsTellNothing(t *testing.T) {
	c, err := NewCallable(4)
	if err != nil {
		t.Fatal(err)
	}
	for i := range leastCalls {
		if _, _, _, ok := c.Threshold(); ok {
			t.Fatalf("a threshold of %d calls", i)
		}
		if err := c.Called(Call{DistanceM: 30, Right: true}); err != nil {
			t.Fatal(err)
		}
	}
	if _, _, _, ok := c.Threshold(); !ok {
		t.Error("no threshold")
	}
	for _, d := range []float64{0, -3, 1e6, math.NaN()} {
		if c.Called(Call{DistanceM: d, Right: true}) == nil {
			t.Errorf("a call at %v m was taken", d)
		}
	}
	if _, err := NewCallable(1); err == nil {
		t.Error("a call among one was taken")
	}
}
