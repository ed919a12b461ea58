package readiness

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
)

// looked are attempts of some drills of different difficulty, watched more often at the difficult ones.
func looked(r *rand.Rand, effect float64) (list []Looked) {
	draw := func(n int, p float64) (s Share) {
		for range n {
			if s.Attempts++; r.Float64() < p {
				s.Passes++
			}
		}
		return s
	}
	for k := range 6 {
		p := 0.85 - 0.1*float64(k)
		list = append(list, Looked{draw(3+2*k, p+effect), draw(14-k, p)})
	}
	return list
}

func between(t *testing.T, says string) (low, high float64) {
	t.Helper()
	i := strings.Index(says, "lies between ")
	if i < 0 {
		t.Fatalf("%q", says)
	}
	if _, err := fmt.Sscanf(says[i:], "lies between %f and %f", &low, &high); err != nil {
		t.Fatal(err)
	}
	return low / 100, high / 100
}

// Difficult drills are watched more often here. That alone is no effect of onlookers, and one that is there is found;
// the interval holds it about as often as it says.
func TestOnlookersAreComparedDrillByDrill(t *testing.T) {
	r := rand.New(rand.NewPCG(1985, 55))
	for _, effect := range []float64{0, -0.25, 0.1} {
		inside, n, spoken := 0, 600, 0
		for range n {
			says := CompareOnlookers(looked(r, effect))
			low, high := between(t, says)
			if low-0.005 <= effect && effect <= high+0.005 {
				inside++
			}
			if !strings.Contains(says, "may be chance") {
				spoken++
			}
		}
		if inside < 550 || inside > 596 { // 570 are 95 %
			t.Errorf("effect %.2f: the interval holds it in %d of %d", effect, inside, n)
		}
		if effect == 0 && spoken > 48 || effect == -0.25 && spoken < 400 {
			t.Errorf("effect %.2f: said in %d of %d", effect, spoken, n)
		}
	}
}

// Too little, or nothing to compare with, says nothing.
func TestOnlookersNeedBothWays(t *testing.T) {
	for _, list := range [][]Looked{nil, {{Share{30, 10}, Share{}}}, {{Share{9, 3}, Share{50, 20}}},
		{{Share{30, 10}, Share{}}, {Share{}, Share{30, 20}}}} {
		if says := CompareOnlookers(list); says != "" {
			t.Errorf("%v: %s", list, says)
		}
	}
	// One drill is the plain difference of two shares.
	low, high := between(t, CompareOnlookers([]Looked{{Share{40, 10}, Share{40, 30}}}))
	if mid := (low + high) / 2; mid < -0.51 || mid > -0.49 {
		t.Errorf("a half of the passes is lost: %v to %v", low, high)
	}
}
