package backup

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
	"time"
)

// Whatever was made and taken out over two years of days with and without a backup: each of the last seven days that
// have one, of the last four weeks and of the last twelve months keeps one, and the number stays small.
func TestWhatIsKept(t *testing.T) {
	rome, err := time.LoadLocation("Europe/Rome")
	if err != nil {
		t.Fatal(err)
	}
	for seed := range uint64(20) {
		r := rand.New(rand.NewPCG(seed, 4))
		var have, ever []Kept
		day := time.Date(2026, 1, 1, 21, 0, 0, 0, time.UTC)
		for n := range 760 {
			day = day.AddDate(0, 0, 1)
			if r.IntN(4) == 0 {
				continue // the laptop stayed at home
			}
			for range 1 + r.IntN(2) {
				b := Kept{fmt.Sprint(n, r.Uint64()), day.Add(time.Duration(r.IntN(7200)) * time.Second), Daily}
				if r.IntN(60) == 0 {
					b.Why = BeforeMigration
				}
				have, ever = append(have, b), append(ever, b)
			}
			gone := Surplus(have, rome)
			have = slices.DeleteFunc(have, func(k Kept) bool {
				return slices.ContainsFunc(gone, func(g Kept) bool { return g.File == k.File })
			})
			if len(have) > keepDays+keepWeeks+keepMonths+keepBefore {
				t.Fatalf("seed %d, day %d: %d are kept", seed, n, len(have))
			}
		}
		for what, p := range map[string]struct {
			many int
			of   func(time.Time) string
		}{
			"days":   {7, func(t time.Time) string { return t.In(rome).Format("2006-01-02") }},
			"weeks":  {4, func(t time.Time) string { y, w := t.In(rome).ISOWeek(); return fmt.Sprintf("%d-%02d", y, w) }},
			"months": {12, func(t time.Time) string { return t.In(rome).Format("2006-01") }},
		} {
			count := func(list []Kept) []string {
				var out []string
				for _, k := range list {
					if s := p.of(k.At); !slices.Contains(out, s) {
						out = append(out, s)
					}
				}
				slices.Sort(out)
				return out[max(0, len(out)-p.many):]
			}
			if got, want := count(have), count(ever); !slices.Equal(got, want) {
				t.Errorf("seed %d: %s kept %v, made in %v", seed, what, got, want)
			}
		}
	}
}

func TestSurplusOfNothing(t *testing.T) {
	if got := Surplus(nil, time.UTC); len(got) != 0 {
		t.Error(got)
	}
	one := []Kept{{"a", time.Now(), Daily}}
	if got := Surplus(one, time.UTC); len(got) != 0 {
		t.Errorf("the only one is taken out: %v", got)
	}
}
