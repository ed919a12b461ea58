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
		{"nothing", aloft(-2, 10, 8), next(20, 8, true), 3, 4, nil},
		{"lands soon", aloft(-8, 10, 0), nil, 3, 4, []Call{{Says: "Ada lands poiana-2 in 2 min."}}},
		{"overdue", aloft(-14, 10, 0), nil, 0, 0,
			[]Call{{Says: "Ada should have landed poiana-2 4 min ago.", Urgent: true, Do: Land}}},
		{"mean over", aloft(-1, 10, 6), nil, 6.1, 9, []Call{{Urgent: true, Do: Land,
			Says: "The wind is over the limit of poiana-2: 6.1 of 6.0 m/s. Ada must land now."}}},
		// All about one craft is one call.
		{"overdue in too much wind", aloft(-14, 10, 6), nil, 6.1, 9, []Call{{Urgent: true, Do: Land,
			Says: "Ada should have landed poiana-2 4 min ago. The wind is over the limit of poiana-2: 6.1 of 6.0 m/s. " +
				"Ada must land now."}}},
		// Gusts are held to the limit of gusts: 7.8 m/s is not near a mean limit of 8.
		{"gust over the mean's limit", aloft(-1, 10, 8), nil, 4, 7.8, nil},
		{"gust over", aloft(-1, 10, 6), nil, 4, 9.5, []Call{{Urgent: true, Do: Land,
			Says: "Gusts are over the limit of poiana-2: 9.5 of 9.0 m/s. Ada must land now."}}},
		{"gust near", aloft(-1, 10, 6), nil, 4, 8,
			[]Call{{Says: "Gusts are near the limit of poiana-2, which Ada flies: 8.0 of 9.0 m/s."}}},
		{"near", aloft(-1, 10, 6), nil, 5, 6,
			[]Call{{Says: "The wind is near the limit of poiana-2, which Ada flies: 5.0 of 6.0 m/s."}}},
		{"flies soon", nil, next(4, 8, true), 3, 4, []Call{{Says: "Bruno flies in 4 min: gheppio-1 with pack P4."}}},
		{"not full", nil, next(4, 8, false), 3, 4, []Call{{Urgent: true, Do: PlanAgain,
			Says: "Bruno flies gheppio-1 next, and pack P4 is not full. Plan the rest of the day again."}}},
		{"late", nil, next(-5, 8, true), 3, 4, []Call{{Do: PlanAgain,
			Says: "Bruno should have taken off 5 min ago with gheppio-1. Plan the rest of the day again."}}},
		{"late together", nil, append(next(-5, 8, true), next(-125, 8, true)...), 3, 4, []Call{{Do: PlanAgain,
			Says: "2 flights are late. The first, by Bruno, should have begun 2.1 h ago. Plan the rest of the day again."}}},
		{"too windy to begin", nil, next(1, 4, true), 5, 6, []Call{{Urgent: true, Do: PlanAgain,
			Says: "Bruno flies next, and the wind is over the limit: 5.0 of 4.0 m/s. Plan the rest of the day again."}}},
		{"the air before the ground", aloft(-14, 10, 0), next(2, 4, true), 5, 6,
			[]Call{{Says: "Ada should have landed poiana-2 4 min ago.", Urgent: true, Do: Land},
				{Urgent: true, Do: PlanAgain,
					Says: "Bruno flies next, and the wind is over the limit: 5.0 of 4.0 m/s. Plan the rest of the day again."}}},
		{"what cannot wait first", aloft(-9, 10, 0), next(2, 4, true), 5, 6,
			[]Call{{Urgent: true, Do: PlanAgain,
				Says: "Bruno flies next, and the wind is over the limit: 5.0 of 4.0 m/s. Plan the rest of the day again."},
				{Says: "Ada lands poiana-2 in 1 min."}}},
	} {
		if got := Calls(now, k.aloft, k.next, k.wind, k.gust); !slices.Equal(got, k.want) {
			t.Errorf("%s: %+v", k.what, got)
		}
	}
}

// A day is abandoned when its flights are long late and nobody flies, and finished when nothing is left or its end has
// passed; a flight in the air keeps it running.
func TestPhaseOfADay(t *testing.T) {
	now := time.Date(2026, 5, 1, 10, 0, 0, 0, time.UTC)
	next := func(minutes ...int) (out []Next) {
		for _, m := range minutes {
			out = append(out, Next{Start: now.Add(time.Duration(m) * time.Minute)})
		}
		return out
	}
	for what, k := range map[string]struct {
		ends         time.Duration
		aloft, flown int
		next         []Next
		want         Phase
	}{
		"before its first flight":  {time.Hour, 0, 0, next(10), Running},
		"a little late":            {time.Hour, 0, 3, next(20, -44), Running},
		"nobody came back":         {time.Hour, 0, 3, next(20, -46), Abandoned},
		"late, and somebody flies": {time.Hour, 1, 3, next(-90), Running},
		"all flown":                {time.Hour, 0, 3, nil, Finished},
		"nothing planned yet":      {time.Hour, 0, 0, nil, Running},
		"past its end":             {-time.Minute, 0, 3, next(-90), Finished},
		"the last one flies on":    {-time.Minute, 1, 3, nil, Running},
	} {
		if got := PhaseOf(now, now.Add(k.ends), k.aloft, k.flown, k.next); got != k.want {
			t.Errorf("%s: %s", what, got)
		}
	}
}
