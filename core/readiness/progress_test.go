package readiness

import (
	"fmt"
	"math/rand/v2"
	"testing"
	"time"

	"maestrale/core/drill"
	"maestrale/core/record"
	"maestrale/core/score"
)

// What a picture of progress says of a day is what the rules said on its evening, however the attempts come, and a
// correction that came later counts from the beginning.
func TestProgressIsWhatTheRulesSaidEachEvening(t *testing.T) {
	cat := drill.Shipped()
	zone := time.FixedZone("field", 2*3600)
	programme := "position-hold-first"
	cells := cat.Programmes[programme].Cells()
	for seed := range uint64(5) {
		r := rand.New(rand.NewPCG(seed, 4))
		var list []record.Attempt
		start := time.Date(2026, 4, 1, 7, 0, 0, 0, time.UTC)
		for i := range 120 {
			c := cells[r.IntN(8)]
			a := record.Attempt{ID: fmt.Sprint(i), At: start.Add(time.Duration(r.IntN(40*24)) * time.Hour), Drill: c.Drill,
				Side: c.Side, Aids: c.Aids, Level: 1, CraftClass: "light", Source: score.Observed, Verdict: score.Pass,
				Counts: true}
			if r.IntN(4) == 0 {
				a.Verdict = score.Fail
			}
			if r.IntN(6) == 0 {
				a.Source = score.Sim
			}
			list = append(list, a)
		}
		days := ProgressOf(cat, programme, "poiana", list, zone)
		flown := 0
		for _, d := range days {
			if d.Before != flown {
				t.Errorf("seed %d, %s: %d attempts before it, and not %d", seed, d.Date, flown, d.Before)
			}
			flown += d.Flown
			evening := d.Date.AddDate(0, 0, 1).Add(-time.Second)
			held := 0
			for _, c := range Know(cat, programme, "poiana", Sort(list, nil, evening, zone), nil, nil).Cells() {
				if c.Standing == Held {
					held++
				}
			}
			if held != d.Held {
				t.Errorf("seed %d, %s: %d held, and not %d", seed, d.Date, d.Held, held)
			}
		}
		sim := 0
		for _, a := range list {
			if a.Source == score.Sim {
				sim++
			}
		}
		if flown+sim != len(list) {
			t.Errorf("seed %d: %d attempts of %d", seed, flown+sim, len(list))
		}
	}
	if got := ProgressOf(cat, programme, "poiana", nil, zone); got != nil {
		t.Errorf("of nothing: %v", got)
	}
}

func TestGateLinesRise(t *testing.T) {
	for key, p := range drill.Shipped().Programmes {
		last := 0
		for _, l := range GateLines(p) {
			if l.Above < last || l.Above > len(p.Cells()) {
				t.Errorf("%s: %s above %d items", key, l.Key, l.Above)
			}
			last = l.Above
		}
		if last == 0 {
			t.Errorf("%s draws no gate", key)
		}
	}
}

func TestDotsOfADrill(t *testing.T) {
	monday := time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)
	margin := func(v float64) *float64 { return &v }
	var list []record.Attempt
	for i := range 12 {
		list = append(list, record.Attempt{ID: fmt.Sprint(i), At: monday.Add(time.Duration(i) * time.Hour),
			Drill: "hover-tail-in",
			Side:  "none", Aids: "position-hold", Level: 1, CraftClass: "light", Source: score.Observed, Verdict: score.Pass,
			Counts: true, Margin: margin(0.1 * float64(i))})
	}
	list[3].Source, list[4].Margin, list[5].Verdict = score.Sim, nil, score.Void
	list[6].Drill = "landing-pad"
	list[8].Corrects = "7"
	e := Sort(list, nil, monday.AddDate(0, 0, 1), time.UTC)
	dots := DotsOf(e, list, "hover-tail-in")
	if len(dots) != 8 { // without the one that was not measured, the void, the other drill and the one replaced
		t.Fatalf("%d dots: %+v", len(dots), dots)
	}
	for i, d := range dots {
		if (d.Chance < 0) != (i == 0 || d.Sim) || d.Chance > 1 {
			t.Errorf("dot %d: %+v", i, d)
		}
	}
	if dots[len(dots)-1].Chance <= dots[1].Chance {
		t.Error("passes do not raise the chance that is foretold")
	}
}
