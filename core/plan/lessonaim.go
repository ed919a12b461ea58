package plan

import (
	"fmt"
	"math"
	"slices"
	"time"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/readiness"
)

// What a lesson is for is decided before what is flown in it: the gate that
// comes next, and the cells that bring it nearer, each with what a pass at it
// is worth today.

// aim finds the next gate, and lists what could be flown toward it: the first
// gate that was never signed, or the first that has lapsed once all were. What
// is left of the lesson goes to the gates that follow and to the ladder.
func (l *lesson) aim() {
	k := l.known
	var open []*readiness.GateResult
	for _, key := range k.Catalogue.GateKeys() {
		g := readiness.JudgeGate(k.Catalogue.Gates[key], l.on(), k.Evidence, k.Seen, k.Signs)
		if g.NotFor == "" && len(g.Entries) > 0 && g.State != readiness.GateSigned {
			open = append(open, &g)
		}
	}
	slices.SortStableFunc(open, func(a, b *readiness.GateResult) int {
		// Gates that were never signed come first; those that have lapsed, or
		// only wait to be signed, after them.
		rank := func(g *readiness.GateResult) int {
			if g.State == readiness.GateLapsed || g.Met() {
				return 1
			}
			return 0
		}
		return rank(a) - rank(b)
	})
	// Each gate that follows is worth a fifth of the one before.
	share := 1.0
	l.nearing = true
	for _, g := range open {
		// The first is named even where nothing can be flown toward it today.
		if l.gate == nil {
			l.gate = g
		}
		l.towardGate(g, share)
		// The first gate toward which something can be flown today is the aim.
		if l.out.Toward == "" && len(l.order) > 0 {
			l.out.Toward, l.gate = g.Key, g
			l.nearing = false
		}
		share *= 0.2
	}
	l.aimed = nil
	// Say so where the gate that comes first has to wait.
	if l.gate != nil && l.out.Toward != l.gate.Key {
		l.out.Says = fmt.Sprintf(msgGateHasToWait,
			l.gate.Title)
	}
	if l.out.Toward == "" {
		l.out.Toward = k.Programme.Key
	}
	l.towardLadder(share)
}

// towardLadder lists the cells of the ladder that no gate has asked for, each worth
// less than a share, and what is held so that it stays current. Whoever has flown
// nothing begins on the lowest rung.
func (l *lesson) towardLadder(share float64) {
	k := l.known
	if k.Evidence.Count() == 0 && len(k.Programme.Rungs) > 0 { // the first flight of all is for the lowest rung
		l.nearing = true
		for _, c := range k.Programme.Rungs[0].Cells {
			l.want(c, firstOfAll)
			if o := l.options[c]; o != nil {
				o.useful = 1
			}
		}
	}
	l.nearing = l.out.Toward == k.Programme.Key
	for _, r := range k.Programme.Rungs {
		for _, c := range r.Cells {
			switch st := l.cell(c).Standing; {
			// It is listed already, for a gate.
			case l.options[c] != nil:
			case st != readiness.Held:
				l.want(c, 0.3*share)
			default:
				l.want(c, 0.02) // keeps it current
			}
		}
	}
}

// towardGate lists the cells that bring a gate nearer, each worth a share.
func (l *lesson) towardGate(g *readiness.GateResult, share float64) {
	type target struct {
		cell  drill.Cell
		now   readiness.Cell
		tries float64
	}
	var list []target
	total := 0.0
	l.aimed, l.aimedOpen = g, 0
	for _, e := range g.Entries {
		if e.Met() || e.Cannot {
			continue
		}
		l.aimedOpen++
		// What has to wait for another day counts for the length of the way as
		// well.
		c, ok := l.flownAs(e.Cell.Cell)
		_, tries := l.guess(c, e.Cell.Needs)
		total += tries
		if ok {
			list = append(list, target{c, e.Cell, tries})
		}
	}
	// As many attempts as fit into a lesson like this one.
	perDay := math.Max(1, float64(l.ask.Packs)*l.ask.PackMinutes/attemptTakes)
	way := total / perDay * l.ask.Gap // days that the rest of the way takes
	for _, t := range list {
		l.want(l.withAids(t.cell, t.now.Cell), share*l.worthNow(g, t.now, way))
	}
	for _, c := range g.Clauses {
		if !c.Met() {
			l.forClause(g, c, share)
		}
	}
}

// worthNow is what a pass at an open entry of a gate is worth today. What
// lapsed under a gate that was signed comes first: without it nobody flies
// alone. A pass that makes an entry held is worth the share of the way over
// which it stays current: what is finished too early lapses, and is flown
// again. All others are worth one. way is how many days the rest of the way
// takes.
func (l *lesson) worthNow(g *readiness.GateResult, now readiness.Cell, way float64) float64 {
	switch {
	case g.State == readiness.GateLapsed && now.Standing == readiness.Lapsed:
		return lapsedFirst
	case now.Needs > 1:
		return 1
	}
	dates := now.Dates
	if !sameDate(now.NewestPass, l.at) {
		dates++
	}
	// As currency comes with two dates at least, no fewer are counted here.
	keep := math.Min(1, float64(readiness.CurrencyDays(max(2, dates)))/math.Max(1, way))
	return keep * keep
}

// withAids chooses the aids for an entry: the lesson's, which serve the gates
// that follow as well, where a pass with them is likely enough; else those that
// the entry asks for.
func (l *lesson) withAids(hard, easy drill.Cell) drill.Cell {
	if hard == easy {
		return hard
	}
	h, _ := l.guess(hard, 1)
	e, _ := l.guess(easy, 1)
	// The harder aids serve more gates, so they may be somewhat less likely.
	if h >= leastChance && h*servesMore >= e {
		return hard
	}
	return easy
}

// forClause marks the options that would meet a clause today, and adds one
// where none is wanted anyway. Places are not for a lesson to choose, and a
// wind that does not blow cannot be flown in.
func (l *lesson) forClause(g *readiness.GateResult, c readiness.Clause, share float64) {
	if c.Kind == readiness.PlacesClause || c.Kind == readiness.WindClause && l.ask.WindMps < c.Mps {
		return
	}
	found := false
	for _, o := range l.order {
		if slices.Contains(c.Drills, o.cell.Drill) {
			o.wind = o.wind || c.Kind == readiness.WindClause
			o.answer = o.answer || c.Kind == readiness.AttentionClause
			o.serves += 0.5 * share
			found = true
		}
	}
	if found {
		return
	}
	for _, e := range g.Entries {
		if c2, ok := l.flownAs(e.Cell.Cell); ok && slices.Contains(c.Drills, c2.Drill) {
			l.want(c2, share)
			if o := l.options[c2]; o != nil {
				o.wind, o.answer, o.useful = c.Kind == readiness.WindClause, c.Kind == readiness.AttentionClause, 1
			}
			return
		}
	}
}

// flownAs is the cell that is flown in this lesson for an entry: with the
// lesson's aids where they serve it and the drill takes them, else with the
// entry's own where those are no harder. ok is false where the entry wants
// fewer aids than the lesson has.
func (l *lesson) flownAs(c drill.Cell) (drill.Cell, bool) {
	if l.ask.Aids.Rank() < c.Aids.Rank() {
		return c, false
	}
	d := l.drills(c.Drill)
	if d == nil || len(d.Aids) == 0 || slices.Contains(d.Aids, l.ask.Aids) {
		c.Aids = l.ask.Aids
	}
	return c, true
}

// want lists a cell with its worth or, where what builds its drill was never
// practised, that.
func (l *lesson) want(c drill.Cell, worth float64) {
	steps := l.first(c.Drill, 0)
	// Nothing has to be practised before it.
	if len(steps) == 1 && steps[0].drill == c.Drill {
		l.add(c, worth, "")
		return
	}
	for _, s := range steps {
		d := l.drills(s.drill)
		bc := drill.Cell{Drill: s.drill, Aids: c.Aids, Level: 1}
		// A drill that is not flown with these aids is flown with the first of
		// its own.
		if len(d.Aids) > 0 && !slices.Contains(d.Aids, bc.Aids) {
			bc.Aids = d.Aids[0]
		}
		// One pass on one side opens the next drill; the side that is flown is
		// the one that is asked for.
		if bc.Side = field.NoSide; d.Sided {
			if bc.Side = c.Side; c.Side == field.NoSide {
				bc.Side = readiness.WeakerSide(*d, bc, l.cell)
			}
		}
		l.add(bc, worth*0.95, s.opens)
	}
}

// step is a drill that can be flown now, and the drill that it opens.
type step struct{ drill, opens string }

// first is what can be flown now toward a drill: itself where all that builds
// it was practised, else the first steps toward what was not. deep guards
// against a circle.
func (l *lesson) first(key string, deep int) []step {
	if out, ok := l.steps[key]; ok {
		return out
	}
	var out []step
	d := l.drills(key)
	if d == nil || deep > 40 {
		return nil
	}
	for _, b := range d.Builds {
		if l.practised[b] {
			continue
		}
		for _, s := range l.first(b, deep+1) {
			// The drill that a step opens is the next one above it, not the one
			// that was asked for.
			if s.opens == "" {
				s.opens = key
			}
			out = append(out, s)
		}
	}
	if len(out) == 0 {
		out = []step{{drill: key}}
	}
	l.steps[key] = out
	return out
}

// drills finds a drill; nil where it is not known.
func (l *lesson) drills(key string) *drill.Drill {
	d, ok := l.byKey[key]
	if !ok {
		if k, known := l.known.Catalogue.Drills[key]; known {
			d = &k
		}
		l.byKey[key] = d
	}
	return d
}

// add makes a cell an option, or adds to what it is worth. opens is the drill
// that it opens; empty where it is asked for itself. What is barred, or goes
// too far for the student's eyes, is left out.
func (l *lesson) add(c drill.Cell, worth float64, opens string) {
	d := l.drills(c.Drill)
	if d == nil || l.barred(d, c) {
		return
	}
	if l.tooFar(d, c) {
		// It is named, so that the student is told what waits for better sight.
		if !slices.Contains(l.out.TooFar, d.Key) {
			l.out.TooFar = append(l.out.TooFar, d.Key)
		}
		return
	}
	o := l.options[c]
	if o == nil {
		now := l.cell(c)
		o = &option{cell: c, now: now, rests: l.known.Evidence.Resting(readiness.Key{Cell: c, Class: l.ask.Class}),
			lapsed: now.Standing == readiness.Lapsed}
		if o.useful = math.Max(1, float64(now.Needs-now.OtherDates)); now.OtherDates > 0 && now.Needs <= now.OtherDates &&
			sameDate(now.NewestPass, l.at) {
			o.useful = 0 // it waits for another date
		}
		o.chance, _ = l.guess(c, now.Needs)
		if l.aimed != nil {
			o.gate, o.open = l.aimed.Title, l.aimedOpen
		}
		l.options[c] = o
		l.order = append(l.order, o)
	}
	o.serves += worth
	o.near = o.near || l.nearing
	// Asked for itself once, it is no mere step any more.
	o.entry = o.entry || opens == ""
	if !o.entry {
		o.useful = math.Min(o.useful, 1) // then it is practised
	}
	if opens != "" && !slices.Contains(o.unlocks, opens) {
		o.unlocks = append(o.unlocks, opens)
	}
}

// sameDate tells whether two moments are on one date, in the zone of the
// second.
func sameDate(a, b time.Time) bool {
	y, m, d := a.In(b.Location()).Date()
	y2, m2, d2 := b.Date()
	return y == y2 && m == m2 && d == d2
}

// tooFar tells whether a cell goes farther than the student tells the nose.
func (l *lesson) tooFar(d *drill.Drill, c drill.Cell) bool {
	if l.ask.TellM <= 0 {
		return false
	}
	// Laying a drill is dear, and the answer is the same all lesson.
	far, ok := l.reach[c]
	if !ok {
		if t, err := d.Lay(c.Side, max(1, c.Level), l.ask.Class, nil); err == nil {
			far = t.ReachM()
		}
		l.reach[c] = far
	}
	return far > l.ask.TellM
}

// barred tells whether a drill is not flown in this lesson: it is closed, the
// instructor does not want it, the aids do not fit, or the wind is not the one
// that it wants. An unknown wind bars nothing.
func (l *lesson) barred(d *drill.Drill, c drill.Cell) bool {
	if slices.Contains(l.ask.Never, d.Key) || d.Shut(l.held, l.ask.HandCatch) != "" || len(d.Aids) > 0 &&
		!slices.Contains(d.Aids, c.Aids) {
		return true
	}
	if t := l.ask.Type; t != nil && !t.Has(c.Aids) || c.Aids.Rank() > l.ask.Aids.Rank() {
		return true
	}
	if l.ask.WindMps < 0 {
		return false
	}
	ok, _ := d.Counts(drill.Flown{WindMps: &l.ask.WindMps, WindFromDeg: l.ask.WindFrom, Side: c.Side})
	return !ok
}
