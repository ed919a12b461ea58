package readiness

import (
	"testing"
	"time"

	"maestrale/core/drill"
	"maestrale/core/field"
)

func TestAttend(t *testing.T) {
	cat := drill.Shipped()
	zone := time.FixedZone("field", 2*3600)
	now := time.Date(2026, 5, 20, 23, 30, 0, 0, zone)
	ago := func(days int) time.Time { return now.Add(-time.Duration(days) * 24 * time.Hour) }
	next := &OverCell{Cell: drill.Cell{Drill: "nose-in-hover", Side: field.NoSide}}
	gate := func(key string, state State, attempts int, ends time.Time) OverviewGate {
		return OverviewGate{Key: key, State: state, Attempts: attempts, Ends: ends}
	}
	first, second := cat.GateKeys()[0], cat.GateKeys()[1]
	title := func(key string) string { return "The gate “" + cat.Gates[key].Title + "”" }
	nose := cat.TitleOf("nose-in-hover", field.NoSide)
	for what, k := range map[string]struct {
		o     Overview
		last  time.Time
		need  Need
		words string
	}{
		"comes along": {Overview{Next: next, Tries: 4}, ago(3), NeedNothing, ""},
		"never flew":  {Overview{}, time.Time{}, NeedFirst, "Has not flown yet."},
		"absent":      {Overview{Next: next}, ago(40), NeedAbsent, "Has not flown for 40 days."},
		"stuck":       {Overview{Next: next, Tries: 12}, ago(40), NeedStuck, nose + " is still not held after 12 attempts."},
		"ready before absent": {Overview{Gates: []OverviewGate{gate(first, GateReady, 0, time.Time{})}}, ago(40), NeedReady,
			title(first) + " can be signed."},
		"the nearer gate": {Overview{Gates: []OverviewGate{gate(first, "", 5, time.Time{}), gate(second, "", 1,
			time.Time{})}},
			ago(1), NeedReady, title(second) + " needs at least one more attempt."},
		"not near": {Overview{Gates: []OverviewGate{gate(first, "", 7, time.Time{})}}, ago(1), NeedNothing, ""},
		"lapses first, on the field's date": {Overview{Next: next, Tries: 30, Gates: []OverviewGate{
			gate(first, GateSigned, 0, ago(-13)), gate(second, GateSigned, 0, ago(-2))}}, ago(40), NeedLapsing,
			"The sign-off “" + cat.Gates[second].Title + "” ends on 22 May."},
		"lapses later": {Overview{Gates: []OverviewGate{gate(first, GateSigned, 0, ago(-15))}}, ago(1), NeedNothing, ""},
		"not for this craft": {Overview{Gates: []OverviewGate{{Key: first, State: GateSigned, NotFor: true, Ends: ago(-1)}}},
			ago(1), NeedNothing, ""},
	} {
		got := k.o.Attend(cat, k.last, now)
		if got.Need != k.need || got.Words != k.words {
			t.Errorf("%s: %d %q; expected %d %q", what, got.Need, got.Words, k.need, k.words)
		}
	}
}
