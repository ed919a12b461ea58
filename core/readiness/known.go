package readiness

import (
	"slices"
	"time"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/record"
)

// Known is what is known about one student at one moment: the evidence, held to
// the rules of the programme that the student follows and of the craft that the
// student flies. Every screen, sheet and command that says where a student
// stands asks a Known, so that they cannot differ. It is not safe for use by
// several goroutines at once.
type Known struct {
	Catalogue *drill.Catalogue
	// Programme and Craft are what the student follows and flies.
	Programme drill.Programme // without rungs if the student follows none
	Craft     craft.Type
	On        On
	Evidence  *Evidence
	// Seen and Signs are what people attested.
	Seen  []record.Witnessed
	Signs []record.SignOff
	// Both are worked out once.
	cells  map[drill.Cell]Cell
	ladder [][]RungHalf
}

// Know puts together what is known. The keys are those of the student's
// programme and craft type; a key that the catalogue does not have gives a
// programme without rungs, or a craft without a class.
func Know(
	cat *drill.Catalogue, programme, craftType string, e *Evidence, seen []record.Witnessed, signs []record.SignOff,
) *Known {
	t := cat.Craft[craftType]
	return &Known{Catalogue: cat, Programme: cat.Programmes[programme], Craft: t, On: OnCraft(t), Evidence: e, Seen: seen,
		Signs: signs, cells: map[drill.Cell]Cell{}}
}

// AsOf is what was known at an earlier moment, but not before the newest
// attempt.
func (k *Known) AsOf(at time.Time) *Known {
	e := k.Evidence.AsOf(at)
	if e == k.Evidence {
		return k
	}
	was := *k
	was.Evidence, was.cells, was.ladder = e, map[drill.Cell]Cell{}, nil
	return &was
}

// OnCraft is the craft type as gates ask about it.
func OnCraft(t craft.Type) On { return On{Class: t.Class(), Type: t.Key, Has: t.Aids} }

// Cell judges an item of the ladder for the class that the student flies. Each
// is judged once and kept.
func (k *Known) Cell(c drill.Cell) Cell {
	x, ok := k.cells[c]
	if !ok {
		x = k.Evidence.Cell(Key{Cell: c, Class: k.On.Class})
		k.cells[c] = x
	}
	return x
}

// Cells are the items of the programme in the order of its ladder; none without
// a programme.
func (k *Known) Cells() []Cell {
	var out []Cell
	for _, c := range k.Programme.Cells() {
		out = append(out, k.Cell(c))
	}
	return out
}

// Ladder is the programme's ladder, rung by rung, as it is drawn.
func (k *Known) Ladder() [][]RungHalf {
	if k.ladder == nil {
		k.ladder = Ladder(k.Programme, k.Cell)
	}
	return k.ladder
}

// Lay lays an item out for the class that the student flies, on the drill's own
// course.
func (k *Known) Lay(c drill.Cell) (drill.Task, error) {
	return k.Catalogue.Drills[c.Drill].Lay(c.Side, c.Level, k.On.Class, nil)
}

// Gate judges a gate for the student's craft.
func (k *Known) Gate(g drill.Gate) GateResult { return JudgeGate(g, k.On, k.Evidence, k.Seen, k.Signs) }

// Gates judges every gate that is for the student's craft, in the order of their keys.
func (k *Known) Gates() []GateResult {
	var out []GateResult
	for _, key := range k.Catalogue.GateKeys() {
		if g := k.Gate(k.Catalogue.Gates[key]); g.NotFor == "" {
			out = append(out, g)
		}
	}
	return out
}

// Choose fills in what was not said of an item: the first aids of the craft for
// aids that it does not have, level 1 for a level that the drill does not have,
// and the weaker side for no side. A drill that is not in the catalogue is an
// error. What comes next, where no drill is said, is for plan.WhatNext to say.
func (k *Known) Choose(asked drill.Cell) (drill.Cell, error) {
	c := asked
	d, err := k.Catalogue.Drill(c.Drill)
	if err != nil {
		return c, err //nolint:wrapcheck // it says which drill, and what was expected
	}
	if !k.Craft.Has(c.Aids) {
		c.Aids = k.Craft.Aids[0]
	}
	if c.Level < 1 || c.Level > len(d.Levels) {
		c.Level = 1
	}
	if !d.Sided {
		c.Side = field.NoSide
	} else if c.Side != field.LeftSide && c.Side != field.RightSide {
		c.Side = WeakerSide(d, c, k.Cell)
	}
	return c, nil
}

// Shut says why a drill is closed to the student; it is empty for one that is
// open. handCatch is whether the school has switched hand catches on.
func (k *Known) Shut(d drill.Drill, handCatch bool) string {
	if d.Closed == drill.Open {
		return ""
	}
	held := true
	for _, c := range k.Programme.Cells() {
		held = held && k.Cell(c).Standing == Held
	}
	why := d.Shut(held, handCatch)
	if why == "" {
		return ""
	}
	return d.Title + " is closed: " + why
}

// Drills are the drills that the student may choose, in the order of
// InLadderOrder, without those that are closed to the student.
func (k *Known) Drills(handCatch bool) []drill.Drill {
	return slices.DeleteFunc(InLadderOrder(k.Catalogue, k.Programme), func(d drill.Drill) bool {
		return k.Shut(d, handCatch) != ""
	})
}

// InLadderOrder are all drills: those of the ladder in its order, then all
// others in that of the catalogue.
func InLadderOrder(cat *drill.Catalogue, p drill.Programme) (out []drill.Drill) {
	taken := map[string]bool{}
	take := func(d drill.Drill) {
		if !taken[d.Key] {
			taken[d.Key] = true
			out = append(out, d)
		}
	}
	for _, c := range p.Cells() {
		if d, ok := cat.Drills[c.Drill]; ok {
			take(d)
		}
	}
	for _, d := range cat.InOrder() {
		take(d)
	}
	return out
}

// Family is a group of drills that train one thing, as lists show them.
type Family struct {
	Title  string
	Drills []drill.Drill
}

// ByFamily groups drills by family. Families, and the drills of each, keep the
// order of the list.
func ByFamily(list []drill.Drill) (out []Family) {
	at := map[string]int{}
	for _, d := range list {
		i, known := at[d.Family]
		if !known {
			i = len(out)
			at[d.Family] = i
			out = append(out, Family{Title: drill.FamilyTitle(d.Family)})
		}
		out[i].Drills = append(out[i].Drills, d)
	}
	return out
}
