package plan

import (
	"slices"
	"testing"
	"time"
)

func TestCalls(t *testing.T) {
	now := time.Date(2026, 5, 1, 10, 0, 0, 0, time.UTC)
	at := func(min float64) time.Time { return now.Add(time.Duration(min * float64(time.Minute))) }
	aloft := func(begun, flight, limit float64) []Aloft {
		return []Aloft{{"Ada", "poiana-2", at(begun), time.Duration(flight) * time.Minute, limit, 1.5 * limit}}
	}
	next := func(start, limit float64, full bool) []Next {
		return []Next{{"Bruno", "gheppio-1", "P4", at(start), limit, full}}
	}
	for _, k := range []struct {
		what       string
		aloft      []Aloft
		next       []Next
		wind, gust float64
		want       []Call
	}{
		{"nothing", aloft(-2, 10, 8), next(20, 8, false), 3, 4, nil},
		{"lands soon", aloft(-8, 10, 0), nil, 3, 4, []Call{{"poiana-2 lands in 2 min", false}}},
		{"overdue", aloft(-14, 10, 0), nil, 0, 0, []Call{{"poiana-2 with Ada should have landed 4 min ago", true}}},
		{"mean over", aloft(-1, 10, 6), nil, 6.1, 9,
			[]Call{{"wind over the limit of poiana-2 with Ada: 6.1 of 6.0 m/s; land it", true}}},
		// Gusts are held to the limit of gusts: 7.8 m/s is not near a mean limit of 8.
		{"gust over the mean's limit", aloft(-1, 10, 8), nil, 4, 7.8, nil},
		{"gust over", aloft(-1, 10, 6), nil, 4, 9.5,
			[]Call{{"gusts over the gust limit of poiana-2 with Ada: 9.5 of 9.0 m/s; land it", true}}},
		{"gust near", aloft(-1, 10, 6), nil, 4, 8,
			[]Call{{"gusts near the gust limit of poiana-2 with Ada: 8.0 of 9.0 m/s", false}}},
		{"near", aloft(-1, 10, 6), nil, 5, 6, []Call{{"wind near the limit of poiana-2 with Ada: 5.0 of 6.0 m/s", false}}},
		{"flies soon", nil, next(4, 8, true), 3, 4, []Call{{"Bruno flies in 4 min: gheppio-1 with P4", false}}},
		{"not full", nil, next(4, 8, false), 3, 4, []Call{{"Bruno is next on gheppio-1, and P4 is not full; plan again",
			true}}},
		{"late", nil, next(-5, 8, true), 3, 4, []Call{{"Bruno should have begun on gheppio-1 5 min ago; plan again", false}}},
		{"too windy to begin", nil, next(1, 4, true), 5, 6,
			[]Call{{"Bruno is next, and the wind is over the limit: 5.0 of 4.0 m/s; plan again", true}}},
		{"what cannot wait first", aloft(-9, 10, 0), next(2, 4, true), 5, 6,
			[]Call{{"Bruno is next, and the wind is over the limit: 5.0 of 4.0 m/s; plan again", true},
				{"poiana-2 lands in 1 min", false}}},
	} {
		if got := Calls(now, k.aloft, k.next, k.wind, k.gust); !slices.Equal(got, k.want) {
			t.Errorf("%s: %+v", k.what, got)
		}
	}
}
