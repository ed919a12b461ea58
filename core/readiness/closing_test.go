package readiness

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/record"
	"maestrale/core/score"
)

// someAttempts makes attempts at a few cells that bear on one another.
func someAttempts(r *rand.Rand, n int) []record.Attempt {
	p := newPupil()
	for range n {
		c := drill.Cell{Drill: []string{"hover-tail-in", "square-kept"}[r.IntN(2)], Aids: craft.AidsOrder[r.IntN(3)],
			Level: 1 + r.IntN(2)}
		if c.Side = field.NoSide; c.Drill == "square-kept" {
			c.Side = []field.Side{field.LeftSide, field.RightSide}[r.IntN(2)]
		}
		v := []score.Verdict{score.Pass, score.Pass, score.Pass, score.Fail, score.Incomplete}[r.IntN(5)]
		p.fly(c, day0.Add(time.Duration(r.IntN(40*24))*time.Hour), v, inWind(5*r.Float64()),
			at([]string{"meadow", "shore", ""}[r.IntN(3)]), func(a *record.Attempt) { a.Answering = r.IntN(5) == 0 })
	}
	return p.list
}

// Adding a pass never lowers a standing, an entry or a clause, and the order in which
// attempts arrive makes no difference.
func TestAPassNeverLowersAndOrderDoesNotMatter(t *testing.T) {
	cat := shipped
	g := drill.Gate{Cells: []drill.Cell{cell, {Drill: "square-kept", Side: field.LeftSide, Aids: craft.PositionHold,
		Level: 1}, {Drill: "square-kept", Side: field.RightSide, Aids: craft.SelfLevel, Level: 2}},
		Clauses: drill.Clauses{WindMps: 3, Wind: []string{"square-kept"}, Places: 2, Attention: []string{"hover-tail-in"}}}
	for seed := range uint64(400) {
		r := rand.New(rand.NewPCG(seed, 3))
		list := someAttempts(r, 1+r.IntN(25))
		when := day0.AddDate(0, 0, 30+r.IntN(40))
		one := Sort(list, cat.Drills, when, rome)
		keys := one.Keys()
		before := JudgeGate(g, On{Class: craft.Light}, one, nil, nil)
		mixed := slices.Clone(list)
		r.Shuffle(len(mixed), func(i, j int) { mixed[i], mixed[j] = mixed[j], mixed[i] })
		other := Sort(mixed, cat.Drills, when, rome)
		for _, k := range keys {
			if a, b := one.Cell(k), other.Cell(k); a != b {
				t.Fatalf("seed %d: %+v in one order, %+v in another", seed, a, b)
			}
		}
		more := someAttempts(r, 1)[0]
		more.ID, more.Verdict = "zzz", score.Pass
		after := Sort(append(slices.Clone(list), more), cat.Drills, when, rome)
		for _, k := range keys {
			if a, b := one.Cell(k), after.Cell(k); b.Standing < a.Standing || b.Needs > a.Needs {
				t.Fatalf("seed %d: a pass at %v lowers %v from %v to %v", seed, more.At, k, a.Standing, b.Standing)
			}
		}
		got := JudgeGate(g, On{Class: craft.Light}, after, nil, nil)
		for i, c := range got.Clauses {
			if c.Have < before.Clauses[i].Have {
				t.Fatalf("seed %d: a pass lowers %s", seed, c.Words())
			}
		}
		if got.Closing.Attempts > before.Closing.Attempts {
			t.Fatalf("seed %d: a pass makes the shortest set longer: %d, %d", seed, before.Closing.Attempts,
				got.Closing.Attempts)
		}
	}
}

// The closing set closes the gate, and no shorter one does: every way of flying one
// attempt less, over all cells and conditions, leaves it open.
func TestTheClosingSetIsTheShortest(t *testing.T) {
	cat := shipped
	tried := 0
	for seed := range uint64(60) {
		r := rand.New(rand.NewPCG(seed, 4))
		list := someAttempts(r, 14)
		when := day0.AddDate(0, 0, 42)
		g := drill.Gate{Cells: []drill.Cell{cell, {Drill: "hover-tail-in", Side: field.NoSide, Aids: craft.PositionHold,
			Level: 2}, {Drill: "square-kept", Side: field.LeftSide, Aids: craft.PositionHold, Level: 1}},
			Clauses: drill.Clauses{WindMps: 3, Wind: []string{"hover-tail-in"}, Places: 2, Attention: []string{"square-kept"}}}
		judge := func(more []record.Attempt) GateResult {
			return JudgeGate(g, On{Class: craft.Light}, Sort(append(slices.Clone(list), more...), cat.Drills, when.AddDate(0, 0,
				1), rome), nil, nil)
		}
		now := judge(nil)
		// Flown as it says: the passes of a cell over today and tomorrow.
		p := newPupil()
		for _, w := range now.Closing.Set {
			for i := range w.Passes {
				p.fly(w.Cell, when.AddDate(0, 0, i%2).Add(-time.Hour), score.Pass, func(a *record.Attempt) {
					if i == 0 && w.WindMps > 0 {
						inWind(w.WindMps)(a)
					}
					a.Answering = i == 0 && w.Answering
					a.Site, a.Light = "", ""
					switch fresh := fmt.Sprint("new", w.Drill, i); {
					case i >= w.Elsewhere:
					case w.NewSite:
						a.Site = fresh
					default:
						a.Light = fresh
					}
				})
			}
		}
		if got := judge(relabel(p.list)); !got.Met() {
			t.Fatalf("seed %d: the set %+v does not close it: %s", seed, now.Closing, got.Why())
		}
		n := now.Closing.Attempts
		if n == 0 || n > 3 {
			continue // too many ways
		}
		tried++
		// Every attempt that could help: each cell of the two drills, with all conditions met.
		var ways []record.Attempt
		q := newPupil()
		for _, c := range []drill.Cell{{Drill: "hover-tail-in", Side: field.NoSide}, {Drill: "square-kept",
			Side: field.LeftSide}, {Drill: "square-kept", Side: field.RightSide}} {
			for _, a := range craft.AidsOrder[:3] {
				for level := 1; level <= 2; level++ {
					for d := range 2 {
						c.Aids, c.Level = a, level
						q.fly(c, when.AddDate(0, 0, d).Add(-time.Hour), score.Pass, inWind(3.5), asked,
							at(fmt.Sprint("new", len(q.list))))
					}
				}
			}
		}
		ways = q.list
		var search func(picked []record.Attempt, from int) bool
		search = func(picked []record.Attempt, from int) bool {
			if len(picked) == n-1 {
				got := judge(relabel(picked))
				return got.Met()
			}
			for i := from; i < len(ways); i++ {
				if search(append(slices.Clone(picked), ways[i]), i) {
					return true
				}
			}
			return false
		}
		if search(nil, 0) {
			t.Fatalf("seed %d: %d attempts close it, and %d were said: %+v", seed, n-1, n, now.Closing)
		}
	}
	if tried < 10 {
		t.Errorf("only %d gates were searched", tried)
	}
}

func relabel(list []record.Attempt) []record.Attempt {
	list = slices.Clone(list)
	for i := range list {
		list[i].ID = fmt.Sprintf("zz%03d", i)
	}
	return list
}

// The report holds its own estimates to what came.
func TestTheReportIsCalibrated(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 5))
	rec := &record.Record{TimeZone: "Europe/Rome", Attempts: someAttempts(r, 200)}
	rep, err := Ready(rec, shipped, Options{Estimates: true})
	if err != nil || rep.Calibration == nil || rep.Calibration.Attempts < 150 || rep.Calibration.Predicted <= 0 ||
		rep.Calibration.Blocks < 15 {
		t.Errorf("%+v %v", rep.Calibration, err)
	}
	rec.Attempts = rec.Attempts[:10]
	if rep, err := Ready(rec, shipped, Options{Estimates: true}); err != nil || rep.Calibration != nil {
		t.Errorf("of ten attempts: %+v %v", rep.Calibration, err)
	}
}
