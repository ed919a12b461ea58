package readiness

import (
	"math/rand/v2"
	"testing"
	"time"
)

func TestMondayOf(t *testing.T) {
	for _, c := range []struct{ at, want string }{
		{"2026-11-30T20:00:00Z", "2026-11-30"}, // a Monday
		{"2026-11-29T23:30:00Z", "2026-11-30"}, // Monday already in Rome
		{"2026-11-29T22:30:00Z", "2026-11-23"}, // still Sunday there
		{"2026-10-25T12:00:00Z", "2026-10-19"}, // the day on which the clocks go back
		{"2027-01-01T12:00:00Z", "2026-12-28"}, // over the new year
	} {
		at, err := time.Parse(time.RFC3339, c.at)
		if err != nil {
			t.Fatal(err)
		}
		if got := MondayOf(at, rome).Format("2006-01-02 15:04"); got != c.want+" 00:00" {
			t.Errorf("%s: %s; expected %s", c.at, got, c.want)
		}
	}
}

// Nothing is lost or counted twice, whatever the weeks hold; clocks that change in between move nothing.
func TestSeasonKeepsEveryAttemptOnce(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 1))
	order := []string{"hover", "turn"}
	for range 300 {
		monday := MondayOf(time.Date(2026, time.Month(1+r.IntN(12)), 1+r.IntN(28), 9, 0, 0, 0, rome), rome)
		weeks := 1 + r.IntN(30)
		want, inside := map[string]Share{}, map[string][]Share{}
		var list []DrillWeek
		for range r.IntN(60) {
			d, n := []string{"turn", "hover", "circle", "arc"}[r.IntN(4)], r.IntN(weeks+6)-3
			s := Share{Attempts: r.IntN(9)}
			s.Passes = r.IntN(s.Attempts + 1)
			y, m, day := monday.Date()
			list = append(list, DrillWeek{d, time.Date(y, m, day+7*n, 0, 0, 0, 0, rome), s})
			if n >= 0 && n < weeks && s.Attempts > 0 {
				want[d] = want[d].Add(s)
				if inside[d] == nil {
					inside[d] = make([]Share, weeks)
				}
				inside[d][n] = inside[d][n].Add(s)
			}
		}
		got := Season(list, order, monday, weeks)
		start, fewer := SeasonStart(list, monday, weeks)
		if later := Season(list, order, start, fewer); len(got) > 0 {
			kept, begins := Share{}, false
			for i := range later {
				kept, begins = kept.Add(later[i].All), begins || later[i].Weeks[0].Attempts > 0
			}
			all := Share{}
			for _, s := range want {
				all = all.Add(s)
			}
			if kept != all || !begins || MondayOf(start, rome) != start {
				t.Fatalf("from %v on %v of %v are kept, and it begins with an attempt: %v", start, kept, all, begins)
			}
		} else if fewer != weeks {
			t.Fatalf("%d weeks of %d without an attempt", fewer, weeks)
		}
		if len(got) != len(want) {
			t.Fatalf("%d drills; expected %d", len(got), len(want))
		}
		for i, row := range got {
			if row.All != want[row.Drill] {
				t.Fatalf("%s: %v; expected %v", row.Drill, row.All, want[row.Drill])
			}
			for n, s := range row.Weeks {
				if s != inside[row.Drill][n] {
					t.Fatalf("%s in week %d: %v; expected %v", row.Drill, n, s, inside[row.Drill][n])
				}
			}
			rank := map[string]int{"hover": 0, "turn": 1, "arc": 2, "circle": 3}
			if i > 0 && rank[got[i-1].Drill] > rank[row.Drill] {
				t.Fatalf("%s comes after %s", row.Drill, got[i-1].Drill)
			}
		}
	}
}

func TestRate(t *testing.T) {
	if _, ok := (Share{}).Rate(); ok {
		t.Error("no attempts have a rate")
	}
	if rate, ok := (Share{Attempts: 8, Passes: 6}).Rate(); !ok || rate != 0.75 {
		t.Errorf("%v %v", rate, ok)
	}
}
