package plan

import (
	"fmt"
	"math"
	"slices"
	"time"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/misread"
	"maestrale/core/readiness"
	"maestrale/core/record"
)

// LessonAsk is what a lesson has.
type LessonAsk struct {
	Class       craft.Class
	Type        *craft.Type // nil = any of the class
	Aids        craft.Aids  // the fewest that are flown in it
	Packs       int
	PackMinutes float64
	WindMps     float64  // under 0 = not known
	WindFrom    *float64 // field heading; nil = not known
	Tense       bool     // the student: blocks are short, and each pack is followed by a rest
	HandCatch   bool     // the school has switched it on
	Gap         float64  // days to the next lesson; 0 = a week
	// What the instructor has changed: blocks that stand, by their place, and drills that
	// are not to be flown.
	Keep  []Block
	Never []string
}

// Known is what is known of the student.
type Known struct {
	Catalogue *drill.Catalogue
	Programme drill.Programme
	Evidence  *readiness.Evidence
	At        time.Time
	Witnessed []record.Witnessed
	SignOffs  []record.SignOff
	Practice  []record.Practice
}

// Block is a part of a lesson: one drill and side on one pack.
type Block struct {
	Pack     int
	Cell     drill.Cell
	Minutes  float64 // at most
	Passes   int     // with so many it is enough for today; 0 = all the minutes are flown
	Rest     float64 // minutes before it
	Answer   bool    // fly it while answering questions
	Why      string
	Fallback string // the drill to go back to; empty = land and talk it through
	Kept     bool   // the instructor's
}

// LessonPlan is a planned lesson.
type LessonPlan struct {
	Blocks []Block
	Toward string // the gate, or the programme once every gate is met
	Gate   *readiness.GateResult
	Says   string // what the lesson is for, or why there is so little in it
}

// Limits of what is asked, and the shape of a lesson.
const (
	mostPacks    = 20
	leastBlock   = 2.0 // minutes: one attempt
	usualBlock   = 4.0 // of a drill that does not say
	tenseBlock   = 3.0
	attemptTakes = 2.0 // minutes
	restMinutes  = 10.0
	enjoyMinutes = 3.0
	enjoyFrom    = 12.0 // a lesson of so many minutes ends with what the student likes
	weekDays     = 7.0
)

// Check refuses a lesson that cannot be.
func (a LessonAsk) Check() error {
	switch {
	case !slices.Contains(craft.Classes, a.Class):
		return misread.At(0, "micro, light, medium or heavy", "the craft class is %q", string(a.Class))
	case a.Aids.Rank() < 0:
		return misread.At(0, "position-hold, height-hold, self-level, tumble or rate", "the aids are %q", string(a.Aids))
	case a.Type != nil && !a.Type.Has(a.Aids):
		return misread.At(0, "aids that the craft has", "%s has no %s", a.Type.Title, a.Aids.Words())
	case a.Packs < 1 || a.Packs > mostPacks:
		return misread.At(0, fmt.Sprintf("1 to %d", mostPacks), "%d packs", a.Packs)
	case !(a.PackMinutes >= 2 && a.PackMinutes <= 120):
		return misread.At(0, "2 to 120", "%v minutes a pack", a.PackMinutes)
	case a.WindMps > 40:
		return misread.At(0, "0 to 40 m/s", "a wind of %v m/s", a.WindMps)
	}
	return nil
}

// option is a cell that could be flown in the lesson.
type option struct {
	cell    drill.Cell
	now     readiness.Cell
	serves  float64 // expected progress an attempt: entries of the gate that it brings on, each as far as it keeps until the gate
	chance  float64
	useful  float64 // passes that are of use today
	planned float64 // passes that the plan expects already
	unlocks []string
	gate    string // the title of the gate that asks for it first, and how many of its cells are open
	open    int
	lapsed  bool
	wind    bool // meets the wind clause today
	answer  bool // meets the attention clause
	entry   bool // asked for itself, and not alone as what builds another
}

// PlanLesson plans a lesson: within the minutes of its packs, what brings the student on
// most toward the next gate.
//
// The distance to a gate is the sum, over its entries that are not met, of the attempts
// that the learning curve expects until they are. An attempt at an entry shortens it by
// one, at a cell that serves two entries by two; but what is held too early lapses before
// the gate is reached and is flown again, so that an attempt is worth the share of the way
// over which its pass will keep: the currency that the cell will have, over the days that
// the rest of the way takes, at most one. So what takes longest is begun first, on many
// dates, and what three passes suffice for comes last; a cell that lapsed by its age comes
// back when one pass will last to the end. What builds an entry, and was never practised,
// is worth the entries that it opens. A pass that is not of use today, since another date
// is asked for, is worth a twentieth.
func PlanLesson(a LessonAsk, k Known) (LessonPlan, error) {
	if err := a.Check(); err != nil {
		return LessonPlan{}, err
	}
	if a.Gap <= 0 {
		a.Gap = weekDays
	}
	l := &lesson{ask: a, known: k, practised: map[string]bool{}, options: map[drill.Cell]*option{}, guesses: map[guessed][2]float64{}, cells: map[drill.Cell]readiness.Cell{}, byKey: map[string]*drill.Drill{}, steps: map[string][]step{}}
	l.readPractice()
	l.held = !slices.ContainsFunc(k.Programme.Cells(), func(c drill.Cell) bool { return l.cell(c).Standing != readiness.Held })
	l.aim()
	l.fill()
	return l.out, nil
}

// lesson is one being planned.
type lesson struct {
	ask       LessonAsk
	known     Known
	practised map[string]bool
	gate      *readiness.GateResult
	options   map[drill.Cell]*option
	order     []*option
	aimed     *readiness.GateResult // the gate for which options are listed now
	aimedOpen int
	held      bool // the whole ladder
	cells     map[drill.Cell]readiness.Cell
	byKey     map[string]*drill.Drill
	steps     map[string][]step
	guesses   map[guessed][2]float64
	out       LessonPlan
	used      map[string]bool // drills that are in the lesson
}

func (l *lesson) on() readiness.On {
	on := readiness.On{Class: l.ask.Class}
	if t := l.ask.Type; t != nil {
		on.Type, on.Has = t.Key, t.Aids
	}
	return on
}

func (l *lesson) cell(c drill.Cell) readiness.Cell {
	k, ok := l.cells[c]
	if !ok {
		k = l.known.Evidence.Plain(readiness.Key{Cell: c, Class: l.ask.Class})
		l.cells[c] = k
	}
	return k
}

// guess is the chance of a pass, and about how many attempts give so many. What was never
// flown is all alike.
func (l *lesson) guess(c drill.Cell, passes int) (chance, tries float64) {
	k := guessed{c, max(1, passes)}
	if l.cell(c).Attempts == 0 {
		k.cell = drill.Cell{}
	}
	g, ok := l.guesses[k]
	if !ok {
		g[0], g[1] = l.known.Evidence.Guess(readiness.Key{Cell: c, Class: l.ask.Class}, k.passes, l.ask.WindMps)
		l.guesses[k] = g
	}
	return g[0], g[1]
}

type guessed struct {
	cell   drill.Cell
	passes int
}

// readPractice finds the drills that were passed, here or in the simulator, or practised.
func (l *lesson) readPractice() {
	for _, k := range l.known.Evidence.Passed() {
		l.practised[k] = true
	}
	for _, p := range l.known.Practice {
		if p.Minutes > 0 && !p.At.After(l.known.At) {
			l.practised[p.Drill] = true
		}
	}
}

// aim finds the next gate, and lists what could be flown toward it: the first that was
// never signed, or that has lapsed once all of them were. What is left of the lesson goes
// to the gates that follow and to the ladder.
func (l *lesson) aim() {
	k := l.known
	var open []*readiness.GateResult
	for _, key := range k.Catalogue.GateKeys() {
		g := readiness.JudgeGate(k.Catalogue.Gates[key], l.on(), k.Evidence, k.Witnessed, k.SignOffs)
		if g.NotFor == "" && len(g.Entries) > 0 && g.State != readiness.GateSigned {
			open = append(open, &g)
		}
	}
	slices.SortStableFunc(open, func(a, b *readiness.GateResult) int {
		rank := func(g *readiness.GateResult) int {
			if g.State == readiness.GateLapsed || g.Met() {
				return 1
			}
			return 0
		}
		return rank(a) - rank(b)
	})
	share := 1.0
	for _, g := range open {
		if l.gate == nil {
			l.gate, l.out.Gate = g, g
		}
		l.towardGate(g, share)
		if l.out.Toward == "" && len(l.order) > 0 {
			l.out.Toward, l.gate, l.out.Gate = g.Key, g, g
		}
		share *= 0.2
	}
	l.aimed = nil
	if l.gate != nil && l.out.Toward != l.gate.Key {
		l.out.Says = fmt.Sprintf("nothing of %s can be flown with these aids in this wind; the ladder is flown on", l.gate.Title)
	}
	if l.out.Toward == "" {
		l.out.Toward = k.Programme.Key
	}
	for _, c := range k.Programme.Cells() {
		switch st := l.cell(c).Standing; {
		case l.options[c] != nil:
		case st != readiness.Held:
			l.want(c, 0.3*share)
		default:
			l.want(c, 0.02) // keeps it current
		}
	}
}

// towardGate lists the cells that bring a gate nearer.
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
		c, ok := l.flownAs(e.Cell.Cell)
		_, tries := l.guess(c, e.Cell.Needs)
		total += tries
		if ok {
			list = append(list, target{c, e.Cell, tries})
		}
	}
	perDay := math.Max(1, float64(l.ask.Packs)*l.ask.PackMinutes/attemptTakes)
	way := total / perDay * l.ask.Gap // days that the rest of the way takes
	for _, t := range list {
		dates := t.now.Dates + max(1, int(math.Round(t.tries/3)))
		keeps := float64(readiness.CurrencyDays(max(2, dates)))
		keep := math.Min(1, keeps/math.Max(1, way)) // share of the way over which it stays current
		worth := 1 - 0.5*(1-keep)
		if t.now.Standing == readiness.Lapsed && t.now.Needs == 1 && keep < 1 {
			worth = 0.2 // one pass will renew it when the rest is near
		}
		l.want(t.cell, share*worth)
		if easy := t.now.Cell; easy != t.cell {
			// With the entry's own aids a pass comes sooner, and serves fewer.
			l.want(easy, share*worth)
			if o, h := l.options[easy], l.options[t.cell]; o != nil && h != nil {
				h.serves -= share * worth * (1 - math.Min(1, h.chance/math.Max(0.05, o.chance)))
			}
		}
	}
	for _, c := range g.Clauses {
		if !c.Met() {
			l.forClause(g, c, share)
		}
	}
}

// forClause marks the options that would meet a clause today, and adds one where none is
// wanted anyway.
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

// flownAs is the cell that is flown in this lesson for an entry: with the lesson's aids
// where they serve it and the drill takes them, else with the entry's own where those are
// no harder; not ok where the entry wants fewer aids than the lesson has.
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

// want lists a cell, or, where what builds its drill was never practised, that.
func (l *lesson) want(c drill.Cell, worth float64) {
	steps := l.first(c.Drill, 0)
	if len(steps) == 1 && steps[0].drill == c.Drill {
		l.add(c, worth, "")
		return
	}
	for _, s := range steps {
		d := l.drills(s.drill)
		bc := drill.Cell{Drill: s.drill, Aids: c.Aids, Level: 1}
		if len(d.Aids) > 0 && !slices.Contains(d.Aids, bc.Aids) {
			bc.Aids = d.Aids[0]
		}
		for _, bc.Side = range d.Sides() { // both: a side alone is half of a drill
			l.add(bc, worth*0.9/float64(len(d.Sides())), s.opens)
		}
	}
}

// step is a drill that can be flown now, and the drill that it opens.
type step struct{ drill, opens string }

// first is what can be flown now toward a drill: itself where all that builds it was
// practised, else the first steps toward what was not.
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

func (l *lesson) add(c drill.Cell, worth float64, opens string) {
	d := l.drills(c.Drill)
	if d == nil || l.barred(d, c) {
		return
	}
	o := l.options[c]
	if o == nil {
		now := l.cell(c)
		o = &option{cell: c, now: now, lapsed: now.Standing == readiness.Lapsed}
		if o.useful = math.Max(1, float64(now.Needs-now.OtherDates)); now.OtherDates > 0 && now.Needs <= now.OtherDates && sameDate(now.Newest, l.known.At) {
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
	o.entry = o.entry || opens == ""
	if !o.entry {
		o.useful = math.Min(o.useful, 1) // then it is practised
	}
	if opens != "" && !slices.Contains(o.unlocks, opens) {
		o.unlocks = append(o.unlocks, opens)
	}
}

// sameDate tells whether two moments are on one date, in the zone of the second.
func sameDate(a, b time.Time) bool {
	y, m, d := a.In(b.Location()).Date()
	y2, m2, d2 := b.Date()
	return y == y2 && m == m2 && d == d2
}

// barred tells whether a drill is not flown in this lesson: it is closed, the instructor
// does not want it, or the wind is not the one that it wants. Nose-in is flown only with
// the wind behind until it is held.
func (l *lesson) barred(d *drill.Drill, c drill.Cell) bool {
	if slices.Contains(l.ask.Never, d.Key) || d.Shut(l.held, l.ask.HandCatch) != "" || len(d.Aids) > 0 && !slices.Contains(d.Aids, c.Aids) {
		return true
	}
	if t := l.ask.Type; t != nil && !t.Has(c.Aids) || c.Aids.Rank() > l.ask.Aids.Rank() {
		return true
	}
	if l.ask.WindMps < 0 {
		return false
	}
	ok, _ := d.Counts(drill.Flown{WindMps: &l.ask.WindMps, WindFromDeg: l.ask.WindFrom})
	return !ok
}
