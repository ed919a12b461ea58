package readiness

import (
	"slices"
	"time"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/record"
	"maestrale/core/score"
)

// ProgressDay is how a student stood at the end of a day of practice.
type ProgressDay struct {
	Date   time.Time // midnight at its beginning
	Flown  int       // attempts at the field on that day
	Before int       // attempts at the field before it
	Held   int       // items of the ladder that were held at its end
	Sim    int       // attempts in the simulator on that day
}

// ProgressOf is how a student came along a programme on a craft, day by day of
// practice: what was held at the end of each date as the rules judge it then,
// so that an item that lapsed is not held any more. Attempts may come in any
// order; days without any are left out.
func ProgressOf(cat *drill.Catalogue, programme, craftType string, attempts []record.Attempt, zone *time.Location) (
	out []ProgressDay,
) {
	list := slices.Clone(attempts)
	slices.SortStableFunc(list, func(a, b record.Attempt) int { return a.At.Compare(b.At) })
	before := 0
	for i := 0; i < len(list); {
		y, m, d := list[i].At.In(zone).Date()
		day := ProgressDay{Date: time.Date(y, m, d, 0, 0, 0, 0, zone), Before: before}
		next := time.Date(y, m, d+1, 0, 0, 0, 0, zone)
		for ; i < len(list) && list[i].At.Before(next); i++ {
			switch {
			case list[i].Source == score.Sim:
				day.Sim++
			case list[i].Verdict != score.Void:
				day.Flown++
			}
		}
		before += day.Flown
		// All attempts are given, so that those corrected later give way; what
		// is later than the evening is left out.
		e := Sort(attempts, nil, next.Add(-time.Second), zone)
		for _, c := range Know(cat, programme, craftType, e, nil, nil).Cells() {
			if c.Standing == Held {
				day.Held++
			}
		}
		out = append(out, day)
	}
	return out
}

// GateLine is where a programme draws a gate: above so many items.
type GateLine struct {
	Key   string
	Above int
}

// GateLines are the gates of a programme from the ground up, by how many items
// lie below each.
func GateLines(p drill.Programme) (out []GateLine) {
	items := map[drill.Cell]bool{}
	for i, r := range p.Rungs {
		for _, c := range r.Cells {
			items[c] = true
		}
		for _, key := range p.LinesAbove(i) {
			out = append(out, GateLine{key, len(items)})
		}
	}
	return out
}

// Dot is an attempt in the picture of a drill.
type Dot struct {
	At     time.Time
	Side   field.Side
	Margin float64
	Pass   bool
	Sim    bool
	Chance float64 // of a pass as it was foretold from the attempts before it; −1 where nothing was
}

// DotsOf are the attempts at a drill that were measured, in order of time. The
// chance is that of the item that was flown, on the class of craft that it was
// flown with. The first attempt at an item has none, nor has one in the
// simulator.
func DotsOf(e *Evidence, attempts []record.Attempt, d string) (out []Dot) {
	list := slices.Clone(attempts)
	slices.SortStableFunc(list, func(a, b record.Attempt) int { return a.At.Compare(b.At) })
	// A corrected attempt gives way to its correction, as it does in the
	// evidence.
	replaced := map[string]bool{}
	for i := range list {
		replaced[list[i].Corrects] = true
	}
	told, nth := map[Key][]Foretold{}, map[Key]int{}
	for i := range list {
		a := &list[i]
		if a.Drill != d || a.Verdict == score.Void || replaced[a.ID] {
			continue
		}
		dot := Dot{At: a.At, Side: a.Side, Pass: a.Verdict == score.Pass, Sim: a.Source == score.Sim, Chance: -1}
		if !dot.Sim && a.Counts {
			k := Key{Cell: drill.Cell{Drill: a.Drill, Side: a.Side, Aids: a.Aids, Level: a.Level}, Class: a.CraftClass}
			if told[k] == nil {
				told[k] = []Foretold{{Chance: -1}}
				e.ForetellOf(k, func(f Foretold) { told[k] = append(told[k], f) })
			}
			// The n-th attempt at an item has the n-th foretelling.
			if n := nth[k]; n < len(told[k]) {
				dot.Chance = told[k][n].Chance
			}
			nth[k]++
		}
		if a.Margin != nil {
			dot.Margin = *a.Margin
			out = append(out, dot)
		}
	}
	return out
}

// Takes is how many more attempts a gate is likely to take: the sums of the
// ends of each open item's 80 % interval, so that it holds in four cases of
// five at least, and no less than the shortest set that closes the gate. known
// is false where some open item was flown too seldom to tell, and for a gate
// without one.
func (k *Known) Takes(g GateResult) (low, high int, known bool) {
	for _, cell := range g.Missing {
		of := Key{Cell: cell.Cell, Class: k.On.Class}
		// The wind of those attempts is not known, so calm air is taken.
		learnt := k.Evidence.Posterior(of)
		if learnt == nil { // before the first attempt
			return 0, 0, false
		}
		span, ok := learnt.ToGo(cell, -1, k.Evidence.Pace(of))
		if !ok {
			return 0, 0, false
		}
		low, high = low+span.Low, high+span.High
	}
	return max(low, g.Closing.Attempts), max(high, g.Closing.Attempts), len(g.Missing) > 0
}
