package readiness

import (
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"maestrale/core/record"
	"maestrale/core/score"
)

func kinds(list []Advice) string {
	var out []string
	for _, a := range list {
		out = append(out, a.Kind)
		if a.Words == "" || a.Rule == "" {
			out = append(out, "EMPTY")
		}
	}
	return strings.Join(out, " ")
}

func TestAdvice(t *testing.T) {
	side := func(list []record.Attempt, drill string) []record.Attempt {
		for i := range list {
			list[i].Drill, list[i].Side = drill, "left"
		}
		return list
	}
	margins := func(m ...float64) []record.Attempt {
		list := flights(strings.Repeat("P", len(m)))
		for i := range list {
			list[i].Margin = &m[i]
		}
		return list
	}
	for name, c := range map[string]struct {
		flown []record.Attempt
		feels Feeling
		want  string
	}{
		"nothing flown":                 {nil, Calm, ""},
		"two fails":                     {flights("FF"), Calm, ""},
		"three fails":                   {flights("FFF"), Calm, "stuck"},
		"three fails and a pass":        {flights("FFFP"), Calm, ""},
		"incomplete counts":             {flights("FIF"), Calm, "stuck"},
		"void does not":                 {flights("FVF"), Calm, ""},
		"nor does the simulator":        {flights("sFsFsF"), Calm, ""},
		"at another level":              {flights("FF2F"), Calm, ""},
		"shaken":                        {flights("P"), Shaken, "shaken"},
		"tense":                         {nil, Tense, "tense"},
		"margins fall":                  {margins(0.6, 0.5, 0.42, 0.3, 0.2), Calm, "tired"},
		"they fall a little":            {margins(0.50, 0.49, 0.48, 0.47, 0.46), Calm, ""},
		"they go up and down":           {margins(0.6, 0.2, 0.5, 0.1, 0.4, 0.3), Calm, ""},
		"four are too few":              {margins(0.6, 0.4, 0.2, 0.0), Calm, ""},
		"they fell and have risen":      {margins(0.9, 0.6, 0.3, 0.1, 0.2, 0.4, 0.6, 0.8), Calm, ""},
		"four on one side":              {side(flights("PPPP"), "yaw-quarter"), Calm, "side"},
		"three on one side":             {side(flights("PPP"), "yaw-quarter"), Calm, ""},
		"stuck on a side, and it is so": {side(flights("FFFF"), "yaw-quarter"), Calm, "stuck side"},
	} {
		if got := kinds(Advise(c.flown, c.feels, shipped.Drills)); got != c.want {
			t.Errorf("%s: %q, want %q", name, got, c.want)
		}
	}
	if a := Advise(flights("FFF"), Calm, shipped.Drills)[0]; a.Drill != "ground-effect-hover" || !strings.Contains(a.Words,
		"Ground-effect hover") {
		t.Errorf("back to %q: %s", a.Drill, a.Words)
	}
}

// The chance of Mann's test by trying every order.
func TestFallsByChance(t *testing.T) {
	for n := 3; n <= 7; n++ {
		order := make([]int, n)
		for i := range order {
			order[i] = i
		}
		count, all := map[int]int{}, 0
		var try func(k int)
		try = func(k int) {
			if k == n {
				s := 0
				for i := range order {
					for j := i + 1; j < n; j++ {
						if order[j] < order[i] {
							s++
						} else {
							s--
						}
					}
				}
				count[s]++
				all++
				return
			}
			for i := k; i < n; i++ {
				order[k], order[i] = order[i], order[k]
				try(k + 1)
				order[k], order[i] = order[i], order[k]
			}
		}
		try(0)
		for s := -n * n; s <= n*n; s++ {
			want := 0
			for k, c := range count {
				if k >= s {
					want += c
				}
			}
			if got := fallsByChance(n, s); math.Abs(got-float64(want)/float64(all)) > 1e-12 {
				t.Fatalf("n %d, s %d: %v, want %d of %d", n, s, got, want, all)
			}
		}
	}
}

func TestSessionIsOneDate(t *testing.T) {
	list := flights("PF P")
	list = append(list, record.Attempt{ID: "c", Corrects: list[0].ID, At: list[0].At, Verdict: score.Void})
	got := Session(list, day0.Add(2*time.Hour), rome)
	if len(got) != 2 || slices.ContainsFunc(got, func(a record.Attempt) bool { return a.ID == list[0].ID }) {
		t.Errorf("%+v", got)
	}
}
