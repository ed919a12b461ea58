package readiness

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/record"
	"maestrale/core/score"
)

// pupil is a student whose attempts, acts and sign-offs are put together for a test.
type pupil struct {
	cat   *drill.Catalogue
	class craft.Class
	kind  string
	list  []record.Attempt
	seen  []record.Witnessed
	signs []record.SignOff
}

var shipped = drill.Shipped()

func newPupil() *pupil {
	return &pupil{cat: shipped, class: craft.Light, kind: "poiana"}
}

// fly adds an attempt; change says what is unusual about it.
func (p *pupil) fly(c drill.Cell, at time.Time, v score.Verdict, change ...func(*record.Attempt)) {
	a := record.Attempt{ID: fmt.Sprintf("%05d", len(p.list)), At: at, Drill: c.Drill, Side: c.Side, Aids: c.Aids,
		Level: max(1, c.Level), CraftClass: p.class, CraftType: p.kind, Source: score.Observed,
		Verdict: v, Counts: true, Frame: "nose", Eyes: "craft", Site: "meadow", Light: "day"}
	for _, f := range change {
		f(&a)
	}
	p.list = append(p.list, a)
}

func (p *pupil) see(g drill.Gate, at time.Time) {
	for _, a := range g.Witnessed {
		p.seen = append(p.seen, record.Witnessed{Act: a.Key, At: at, By: "I"})
	}
}

func (p *pupil) gate(key string, at time.Time) GateResult {
	on := On{Class: p.class, Type: p.kind, Has: p.cat.Craft[p.kind].Aids}
	return JudgeGate(p.cat.Gates[key], on, Sort(p.list, p.cat.Drills, at, rome), p.seen, p.signs)
}

func (p *pupil) sign(key string, at time.Time, days int) {
	g := p.gate(key, at)
	p.signs = append(p.signs, record.SignOff{Gate: key, CraftClass: p.class, At: at, By: "I", Until: at.AddDate(0, 0,
		days), From: g.From})
}

func inWind(mps float64) func(*record.Attempt) { return func(a *record.Attempt) { a.WindMps = &mps } }
func at(site string) func(*record.Attempt)     { return func(a *record.Attempt) { a.Site = site } }
func asked(a *record.Attempt)                  { a.Answering = true }
func inSim(a *record.Attempt)                  { a.Source = score.Sim }

// passAll holds every cell of a gate on a craft: two passes on a day and one on the next.
func (p *pupil) passAll(key string, day time.Time) {
	t := p.cat.Craft[p.kind]
	for _, c := range p.cat.Gates[key].Cells {
		if c, ok := p.cat.Gates[key].For(c, t.Aids); ok {
			for _, d := range []int{0, 0, 1} {
				p.fly(c, day.AddDate(0, 0, d), score.Pass)
			}
		}
	}
}

// A student walks from the first hour to both gates, with each rule at its edge.
func TestFromTheFirstHourToBothGates(t *testing.T) {
	p := newPupil()
	on, off := "unassisted-aids-on", "unassisted-aids-off"
	hover := drill.Cell{Drill: "hover-tail-in", Side: field.NoSide, Aids: craft.PositionHold, Level: 1}
	want := func(name, key string, when time.Time, state State, missing int, says string) GateResult {
		t.Helper()
		g := p.gate(key, when)
		if g.State != state || len(g.Missing) != missing || !strings.Contains(g.Why(), says) {
			t.Errorf("%s: %s with %d missing: %s\nwant %s, %d, %q", name, g.State, len(g.Missing), g.Why(), state, missing, says)
		}
		return g
	}
	all := len(p.cat.Gates[on].Cells)
	g := want("the first hour", on, day0, GateNotReady, all, "not witnessed")
	if g.Signable() || g.Closing.Attempts < 3*all || g.Closing.Dates != 2 {
		t.Errorf("the first hour: %+v", g.Closing)
	}
	p.see(p.cat.Gates[on], day0)
	// The third pass on the same date.
	for range 3 {
		p.fly(hover, day0, score.Pass)
	}
	if c := want("three passes on one date", on, day0, GateNotReady, all, "not held").Missing; c[slices.IndexFunc(c,
		func(c Cell) bool { return c.Cell == hover })].OtherDates != 1 {
		t.Error("another date is not asked for")
	}
	// The newest is a fail.
	p.fly(hover, day0.AddDate(0, 0, 1), score.Fail)
	want("the newest is a fail", on, day0.AddDate(0, 0, 1), GateNotReady, all, "not held")
	p.fly(hover, day0.AddDate(0, 0, 1).Add(time.Minute), score.Pass)
	want("and a pass on another date", on, day0.AddDate(0, 0, 1).Add(time.Hour), GateNotReady, all-1, "not held")
	// A pass in the simulator closes nothing.
	for i := range 6 {
		for _, c := range p.cat.Gates[on].Cells {
			p.fly(c, day0.AddDate(0, 0, i%2), score.Pass, inSim)
		}
	}
	want("the simulator", on, day0.AddDate(0, 0, 1).Add(time.Hour), GateNotReady, all-1, "not held")
	if c := Sort(p.list, p.cat.Drills, day0.AddDate(0, 0, 1), rome).Cell(Key{p.cat.Gates[on].Cells[3],
		craft.Light}); c.SimStanding != Held || c.Standing != Untried {
		t.Errorf("in the simulator %v, in the field %v", c.SimStanding, c.Standing)
	}
	// Every cell with fewer aids serves the gate with more.
	day := day0.AddDate(0, 0, 2)
	p.passAll(off, day)
	g = want("flown without position hold", on, day.AddDate(0, 0, 1), GateNotReady, 1, "wind")
	p.passAll(on, day)
	g = want("all cells, no clause", on, day.AddDate(0, 0, 1), GateNotReady, 0, "not flown lately: hover-tail-in in 3 m/s")
	if g.Closing.Attempts != 1 || len(g.Closing.Set) != 1 || g.Closing.Set[0].WindMps != 3 ||
		!g.Closing.Set[0].Answering || g.Closing.Set[0].Elsewhere != 1 {
		t.Errorf("one attempt closes it all: %+v", g.Closing)
	}
	p.fly(hover, day.AddDate(0, 0, 1), score.Pass, inWind(2.9), asked, at("shore"))
	want("in 2.9 m/s", on, day.AddDate(0, 0, 1), GateNotReady, 0, "in 3 m/s")
	p.fly(hover, day.AddDate(0, 0, 1), score.Pass, inWind(3))
	ready := day.AddDate(0, 0, 1)
	g = want("in 3 m/s", on, ready, GateReady, 0, "it can be signed")
	if !g.Signable() || g.Closing.Attempts != 0 {
		t.Errorf("%+v", g.Closing)
	}
	p.sign(on, ready, 90)
	want("signed", on, ready.Add(time.Hour), GateSigned, 0, "signed by I")
	// The other gate is not signed with it: alone is not the same as without the aid.
	want("the other gate", off, ready.Add(time.Hour), GateNotReady, 0, "in 4 m/s")
	for _, d := range []string{"hover-tail-in", "landing-pad"} {
		p.fly(drill.Cell{Drill: d, Side: field.NoSide, Aids: craft.HeightHold, Level: 1}, ready, score.Pass, inWind(4.2))
	}
	p.fly(drill.Cell{Drill: "square-kept", Side: field.LeftSide, Aids: craft.HeightHold, Level: 1}, ready, score.Pass,
		asked, at("shore"))
	want("both", off, ready.Add(time.Hour), GateReady, 0, "")
	p.sign(off, ready, 90)
	want("both signed", off, ready.Add(time.Hour), GateSigned, 0, "")
	// An entry lapses: passes on two dates are current for 14 days, to the minute.
	g = p.gate(off, ready)
	ends, what := g.Ends()
	if ends.IsZero() || what == "" {
		t.Fatal("nothing ends")
	}
	want("in its last minute", off, ends, GateSigned, 0, "")
	g = p.gate(off, ends.Add(time.Minute))
	if g.State != GateLapsed || g.Signable() {
		t.Errorf("a minute later: %s", g.State)
	}
	// A heavier craft asks for the transition alone.
	p.class, p.kind = craft.Heavy, "airone"
	g = p.gate(on, ready.Add(time.Hour))
	if g.From != craft.Light || len(g.Entries) != len(p.cat.Gates[on].CellsOf(p.cat.Gates[on].Transition)) ||
		g.State != GateNotReady {
		t.Errorf("a bigger class: from %q, %d entries, %s", g.From, len(g.Entries), g.State)
	}
	for _, c := range p.cat.Gates[on].CellsOf(p.cat.Gates[on].Transition) {
		for _, d := range []int{0, 0, 1} {
			p.fly(c, ready.AddDate(0, 0, 1+d), score.Pass, inWind(3.5), asked, at([]string{"meadow", "shore"}[d]))
		}
	}
	g = want("the transition flown", on, ready.AddDate(0, 0, 2).Add(time.Hour), GateReady, 0, "")
	p.sign(on, ready.AddDate(0, 0, 2).Add(time.Hour), 90)
	// That sign-off stands by the transition also when the lighter one has lapsed.
	late := ready.AddDate(0, 0, 14).Add(30 * time.Minute)
	p.class, p.kind = craft.Light, "poiana"
	if g := p.gate(on, late); g.State != GateLapsed {
		t.Errorf("the lighter craft: %s", g.State)
	}
	p.class, p.kind = craft.Heavy, "airone"
	want("the heavier one", on, late, GateSigned, 0, "")
	// And a smaller one asks for everything.
	p.class, p.kind = craft.Micro, "rondine"
	if g := p.gate(off, ready); g.From != "" || g.State != GateNotReady {
		t.Errorf("a smaller class: %+v", g.State)
	}
}

// The sign-off ends, is withdrawn, and is given against the rule.
func TestSignOffs(t *testing.T) {
	p := newPupil()
	key := "supervised"
	p.see(p.cat.Gates[key], day0)
	p.sign(key, day0, 180)
	until := p.signs[0].Until
	for _, c := range []struct {
		name string
		at   time.Time
		want State
	}{
		{"before", day0.Add(-time.Second), GateNotReady},
		{"in its last moment", until, GateSigned},
		{"after it", until.Add(time.Second), GateLapsed},
	} {
		if g := p.gate(key, c.at); g.State != c.want {
			t.Errorf("%s: %s (%s)", c.name, g.State, g.Why())
		}
	}
	gone := day0.AddDate(0, 0, 10)
	p.signs[0].Withdrawn, p.signs[0].WithdrawnBy, p.signs[0].WithdrawnWhy = &gone, "The chief", "flew over people"
	if g := p.gate(key, gone.Add(-time.Second)); g.State != GateSigned {
		t.Errorf("before it was withdrawn: %s", g.State)
	}
	if g := p.gate(key, gone); g.State != GateReady || !strings.Contains(g.Why(), "flew over people") || !g.Signable() {
		t.Errorf("withdrawn: %s: %s", g.State, g.Why())
	}
	// Against the rule: what was not met then is not asked for while it lasts.
	q := newPupil()
	g := q.gate("range", day0)
	if g.Signable() {
		t.Error("an empty record can be signed")
	}
	q.signs = append(q.signs, record.SignOff{Gate: "range", CraftClass: q.class, At: day0, By: "The chief",
		Until: day0.AddDate(0, 0, 30), Reason: "flew for years elsewhere", Waived: g.Unmet()})
	if g := q.gate("range", day0.AddDate(0, 0, 29)); g.State != GateSigned || !strings.Contains(g.Why(),
		"overriding the rule: flew for years elsewhere") || g.Met() {
		t.Errorf("against the rule: %s: %s", g.State, g.Why())
	}
	q.signs[0].Waived = q.signs[0].Waived[1:]
	if g := q.gate("range", day0.AddDate(0, 0, 29)); g.State != GateLapsed {
		t.Errorf("one entry was not waived: %s", g.State)
	}
}

// What a craft lacks is flown by the substitute that the gate names; a gate for craft that
// hold their place is not for one that does not.
func TestSubstitutes(t *testing.T) {
	p := newPupil()
	p.kind = "gheppio"
	g := p.gate("unassisted-aids-off", day0)
	for _, n := range g.Entries {
		if n.Cannot || n.Cell.Aids != craft.SelfLevel {
			t.Errorf("%+v flown as %+v", n.Asked, n.Cell.Cell)
		}
	}
	if !slices.ContainsFunc(g.Missing, func(c Cell) bool { return c.Drill == "hands-off-check" }) ||
		slices.ContainsFunc(g.Missing, func(c Cell) bool { return c.Drill == "fix-lost" }) {
		t.Error("losing the position hold is asked of a craft that has none")
	}
	if g := p.gate("unassisted-aids-on", day0); g.NotFor == "" || g.Signable() {
		t.Errorf("%q", g.NotFor)
	}
	p.passAll("unassisted-aids-off", day0)
	if g := p.gate("unassisted-aids-off", day0.AddDate(0, 0, 1)); len(g.Missing) != 0 {
		t.Errorf("missing: %+v", g.Missing)
	}
	g2 := drill.Gate{Cells: []drill.Cell{{Drill: "hover-tail-in", Side: field.NoSide, Aids: craft.PositionHold, Level: 1}}}
	r := JudgeGate(g2, On{Class: craft.Light, Has: []craft.Aids{craft.SelfLevel}}, NewEvidence(nil, day0, rome), nil, nil)
	if !r.Entries[0].Cannot || r.Signable() || !strings.Contains(r.Why(), "lacks") {
		t.Errorf("%+v: %s", r.Entries, r.Why())
	}
}

// A new type of a class that is signed asks for a short familiarisation on itself.
func TestANewType(t *testing.T) {
	p := newPupil()
	p.fly(drill.Cell{Drill: "hover-tail-in", Side: field.NoSide, Aids: craft.HeightHold, Level: 1}, day0, score.Pass)
	g := p.gate("unassisted-aids-off", day0)
	if got := g.NewType(); len(got) != 1 || got[0] != "landing-pad" {
		t.Errorf("%v", got)
	}
	p.kind = "gheppio"
	g = p.gate("unassisted-aids-off", day0)
	if got := g.NewType(); len(got) != 2 {
		t.Errorf("another type: %v", got)
	}
}

// The currency of 14, 28, 56 and 90 days ends with its minute, also over a change of
// summer time, in a gate as in a cell.
func TestGatesLapseToTheMinute(t *testing.T) {
	for dates, want := range map[int]int{2: 14, 3: 28, 4: 56, 5: 90, 6: 90} {
		for _, begin := range []time.Time{day0, time.Date(2026, 3, 10, 10, 0, 0, 0, rome), time.Date(2026, 10, 1, 10, 0, 0, 0,
			rome)} {
			p := newPupil()
			g := drill.Gate{Key: "g", Title: "G", Cells: []drill.Cell{cell}}
			p.cat.Gates["g"] = g
			for d := range dates {
				p.fly(cell, begin.AddDate(0, 0, d), score.Pass)
			}
			p.fly(cell, begin.AddDate(0, 0, dates-1).Add(time.Minute), score.Pass)
			last := begin.AddDate(0, 0, dates-1).Add(time.Minute)
			p.signs = []record.SignOff{{Gate: "g", CraftClass: p.class, At: last, Until: last.AddDate(1, 0, 0)}}
			ends := last.AddDate(0, 0, want) // the same time on the clock
			if s := p.gate("g", ends.Add(59*time.Second)).State; s != GateSigned {
				t.Errorf("%d dates from %v: %s in its last minute", dates, begin, s)
			}
			if s := p.gate("g", ends.Add(time.Minute)).State; s != GateLapsed {
				t.Errorf("%d dates from %v: %s a minute later", dates, begin, s)
			}
			delete(p.cat.Gates, "g")
		}
	}
}
