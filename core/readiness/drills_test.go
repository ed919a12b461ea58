package readiness

import (
	"testing"
	"time"

	"maestrale/core/drill"
)

// What may be chosen follows the ladder, holds no drill twice, and leaves out what is closed; hand catches come in
// where the school has them on.
func TestDrillsToChooseFromFollowTheLadder(t *testing.T) {
	cat := drill.Shipped()
	now := time.Date(2026, 5, 1, 9, 0, 0, 0, time.UTC)
	for _, programme := range append(cat.ProgrammeKeys(), "") {
		k := Know(cat, programme, "poiana", Sort(nil, nil, now, time.UTC), nil, nil)
		list := k.Drills(false)
		at := map[string]int{}
		for i, d := range list {
			if _, twice := at[d.Key]; twice || k.Shut(d, false) != "" {
				t.Errorf("%s: %s stands twice or is closed", programme, d.Key)
			}
			at[d.Key] = i
		}
		last := -1
		seen := map[string]bool{}
		for _, c := range k.Programme.Cells() {
			if i, ok := at[c.Drill]; ok && !seen[c.Drill] {
				if i != last+1 {
					t.Errorf("%s: %s stands at %d, after %d", programme, c.Drill, i, last)
				}
				last, seen[c.Drill] = i, true
			}
		}
		for _, d := range cat.InOrder() {
			if _, ok := at[d.Key]; ok == (k.Shut(d, false) != "") {
				t.Errorf("%s: %s is listed: %v", programme, d.Key, ok)
			}
		}
		grouped := 0
		for _, f := range ByFamily(list) {
			for i, d := range f.Drills {
				if drill.FamilyTitle(d.Family) != f.Title || i > 0 && at[d.Key] < at[f.Drills[i-1].Key] {
					t.Errorf("%s: %s stands in %q, or out of order", programme, d.Key, f.Title)
				}
				grouped++
			}
		}
		if grouped != len(list) {
			t.Errorf("%s: %d drills in families, of %d", programme, grouped, len(list))
		}
		if with := k.Drills(true); len(with) <= len(list) {
			t.Errorf("%s: hand catches are on, and no drill comes with them", programme)
		}
	}
}
