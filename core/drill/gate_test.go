package drill

import (
	"strings"
	"testing"

	"maestrale/core/craft"
)

func TestShippedGates(t *testing.T) {
	c := Shipped()
	if got := strings.Join(c.GateKeys(), " "); got != "supervised unassisted-aids-on unassisted-aids-off range" {
		t.Errorf("%s", got)
	}
	for _, k := range c.GateKeys() {
		g := c.Gates[k]
		for _, cell := range g.Cells {
			d := c.Drills[cell.Drill]
			if len(d.Aids) > 0 && !strings.Contains(joinAids(d.Aids), string(cell.Aids)) {
				t.Errorf("%s asks for %s with %s, which the drill does not take", k, cell.Drill, cell.Aids)
			}
			for _, key := range []string{"poiana", "airone", "gheppio", "rondine"} {
				if g.Hold && !c.Craft[key].Has(craft.PositionHold) {
					continue
				}
				f, ok := g.For(cell, c.Craft[key].Aids)
				if fd := c.Drills[f.Drill]; !ok || fd.Sided != (f.Side != "none") || len(fd.Aids) > 0 &&
					!strings.Contains(joinAids(fd.Aids), string(f.Aids)) {
					t.Errorf("%s on %s: %+v is flown as %+v, %v", k, key, cell, f, ok)
				}
			}
		}
	}
}

func joinAids(list []craft.Aids) (s string) {
	for _, a := range list {
		s += " " + string(a)
	}
	return s
}

const ownGate = `format: maestrale-gate/1
key: own
title: Own
cells:
  - {drill: hover-tail-in, aids: position-hold}
  - {drill: landing-pad, aids: position-hold}
`

func TestGatesThatCannotBe(t *testing.T) {
	drills := Shipped().Drills
	for _, c := range []struct{ from, to, want string }{
		{"drill: landing-pad", "drill: loop", `drill "loop" is not known`},
		{"aids: position-hold}", "aids: magic}", "position-hold, height-hold"},
		{"title: Own\n", "title: Own\nsigned_days: 0\n", "signed_days"},
		{"title: Own\n", "title: Own\nclauses: {wind: {mps: 9, drills: [hover-tail-in]}}\n",
			"is not counted in more than 6 m/s"},
		{"title: Own\n", "title: Own\nclauses: {wind: {mps: 3, drills: [square-kept]}}\n", "in none of the gate's cells"},
		{"title: Own\n", "title: Own\nclauses: {places: 1}\n", "places"},
		{"title: Own\n", "title: Own\nclauses: {rain: 1}\n", "rain"},
		{"title: Own\n", "title: Own\ntransition: [loop]\n", "not known"},
		{"title: Own\n", "title: Own\nsubstitutes: [{aids: self-level, use: position-hold}]\n", "is no harder"},
		{"title: Own\n", "title: Own\nsubstitutes: [{drill: loop, use: {drill: landing-pad, aids: rate}}]\n", "not known"},
	} {
		if _, err := parseGate([]byte(strings.Replace(ownGate, c.from, c.to, 1)), drills); err == nil ||
			!strings.Contains(err.Error(), c.want) {
			t.Errorf("%q: %v, want %q", c.to, err, c.want)
		}
	}
	if _, err := parseGate([]byte(ownGate), drills); err != nil {
		t.Error(err)
	}
}

func TestLoosened(t *testing.T) {
	c := Shipped()
	g := c.Gates["unassisted-aids-on"]
	if got := Loosened(g, g); got != nil {
		t.Errorf("itself: %q", got)
	}
	own := g
	own.Cells = own.Cells[1:]
	own.Witnessed = own.Witnessed[1:]
	own.Clauses.WindMps, own.Clauses.Places, own.Clauses.Attention = 2, 0, nil
	own.SignedDays, own.Familiar = 365, nil
	if got := strings.Join(Loosened(g, own), "; "); !strings.Contains(got, "not asked: hover-tail-in") ||
		!strings.Contains(got, "not witnessed") || !strings.Contains(got, "2 m/s of wind instead of 3") ||
		!strings.Contains(got, "1 places instead of 2") || !strings.Contains(got, "answering") || !strings.Contains(got,
		"365 days instead of 90") || !strings.Contains(got, "new type: hover-tail-in") {
		t.Errorf("%s", got)
	}
	strict := g
	strict.Cells = append([]Cell{}, g.Cells...)
	strict.Cells[0].Aids, strict.Cells[0].Level = craft.HeightHold, 2
	strict.Clauses.WindMps, strict.SignedDays = 5, 30
	if got := Loosened(g, strict); got != nil {
		t.Errorf("a stricter one: %q", got)
	}
}

func FuzzParseGate(f *testing.F) {
	c := Shipped()
	for _, k := range c.GateKeys() {
		f.Add(c.Gates[k].Source)
	}
	f.Add([]byte(ownGate))
	f.Fuzz(func(t *testing.T, data []byte) {
		if g, err := parseGate(data, c.Drills); err == nil && len(g.Cells)+len(g.Witnessed) == 0 {
			t.Error("a gate that asks for nothing")
		}
	})
}

// An act has the title that it is given, and its key in the place of one.
func TestTheTitlesOfActs(t *testing.T) {
	text := ownGate + "witnessed:\n  - {act: short-brief, title: Says what comes}\n  - {act: walk-round}\n"
	g, err := parseGate([]byte(text), Shipped().Drills)
	if err != nil {
		t.Fatal(err)
	}
	if len(g.Witnessed) != 2 || g.Witnessed[0].Title != "Says what comes" || g.Witnessed[1].Title != "walk-round" {
		t.Errorf("%+v", g.Witnessed)
	}
}

// A school's own gate is said to be loosened where it asks for less than the shipped one, and not where it asks for
// more.
func TestLoosenedAtItsEdges(t *testing.T) {
	act := func(by string, days int) Gate {
		return Gate{Witnessed: []Act{{Key: "brief", Title: "Brief", By: by,
			ValidDays: days}}}
	}
	again := func(drills ...string) Gate { return Gate{Transition: drills} }
	for _, c := range []struct {
		what         string
		shipped, own Gate
		loosened     bool
	}{
		{"the chief's act by an instructor", act("chief", 90), act("instructor", 90), true},
		{"the chief's act by the chief", act("chief", 90), act("chief", 90), false},
		{"an instructor's act by the chief", act("instructor", 90), act("chief", 90), false},
		{"an act that is valid for longer", act("chief", 90), act("chief", 91), true},
		{"an act that is valid for ever", act("chief", 90), act("chief", 0), true},
		{"an act that is valid for less", act("chief", 90), act("chief", 89), false},
		{"no act", act("chief", 90), Gate{}, true},
		{"a drill less on a bigger class", again("a", "b"), again("a"), true},
		{"the same on a bigger class", again("a", "b"), again("b", "a"), false},
		{"all of it on a bigger class", again("a", "b"), Gate{}, false},
		{"a place less", Gate{Clauses: Clauses{Places: 3}}, Gate{Clauses: Clauses{Places: 2}}, true},
		{"a place more", Gate{Clauses: Clauses{Places: 2}}, Gate{Clauses: Clauses{Places: 3}}, false},
		{"signed for longer", Gate{SignedDays: 180}, Gate{SignedDays: 181}, true},
		{"signed for less", Gate{SignedDays: 180}, Gate{SignedDays: 179}, false},
	} {
		if got := Loosened(c.shipped, c.own); (len(got) > 0) != c.loosened {
			t.Errorf("%s: %q", c.what, got)
		}
	}
}
