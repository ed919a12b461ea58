package plan

import (
	"fmt"
	"slices"
	"time"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/misread"
	"maestrale/core/readiness"
	"maestrale/core/record"
)

// LessonAsk is what a lesson has: craft, aids, packs, wind, and what the
// instructor has decided.
type LessonAsk struct {
	Class craft.Class
	// Type is the craft itself; nil for any of the class.
	Type *craft.Type
	// Aids are the fewest that are flown in the lesson.
	Aids        craft.Aids
	Packs       int
	PackMinutes float64
	WindMps     float64 // under 0 = not known
	// WindFrom is the field heading from which the wind blows; nil where it is
	// not known.
	WindFrom *float64
	// Tense is whether the student is: blocks are then short, and each pack is
	// followed by a rest.
	Tense bool
	// HandCatch is whether the school has switched that on.
	HandCatch bool
	// Gap is the days to the next lesson; 0 means a week.
	Gap float64
	// TellM is up to how many metres the student tells the craft's nose; 0
	// where it is not known.
	TellM float64
	// What the instructor has changed: blocks that stand, by their place, and
	// drills that are not to be flown.
	Keep  []Block
	Never []string
}

// Block is a part of a lesson: one drill and side on one pack.
type Block struct {
	Pack    int
	Cell    drill.Cell
	Minutes float64 // at most
	// Passes are enough for today; with 0 all the minutes are flown.
	Passes int
	Rest   float64 // minutes before it
	// Answer asks that it is flown while answering questions.
	Answer bool
	Why    string
	// Fallback is the key of the drill to go back to; empty means to land and
	// talk it through.
	Fallback string
	Kept     bool // the instructor's
	Role     Role
	// Chance is that of a pass; 0 where it was not estimated.
	Chance float64
}

// Role is what a block is in a lesson.
type Role string

// The roles.
const (
	Renew   Role = "renew"   // it has lapsed
	Back    Role = "back"    // what builds an item that was given up today
	Due     Role = "due"     // what the ladder and the gate ask for next
	Stretch Role = "stretch" // beyond what is due, one a lesson
	Finish  Role = "finish"  // something that goes well
)

// LessonPlan is a planned lesson.
type LessonPlan struct {
	Blocks []Block
	// Toward is the key of the gate, or of the programme once every gate is
	// met.
	Toward string
	// Says is what the lesson is for, or why there is so little in it.
	Says string
	// Drills that would have been of use, and go farther than the nose is told.
	TooFar []string
}

// Limits of what is asked, and the shape of a lesson.
const (
	// A lesson has no more packs than that.
	mostPacks  = 20
	leastBlock = 2.0 // minutes: one attempt
	// Minutes of a drill that does not say; of somebody who is tense fewer.
	usualBlock = 4.0
	tenseBlock = 3.0
	// Minutes of an attempt, of the rest before a pack, and of what is flown for
	// its own sake at the end.
	attemptTakes = 2.0
	restMinutes  = 10.0
	enjoyMinutes = 3.0
	// A lesson of so many minutes ends with what the student likes.
	enjoyFrom = 12.0
	weekDays  = 7.0
	// Minutes at most of what will hardly be passed.
	hardBlock = 4.0
	// A chance under which nothing is flown while something else is open.
	leastChance = 0.35
	// What a pass with the lesson's aids is worth, that serves the next gate as
	// well.
	servesMore = 1.8
	// A worth under which an item is put off: it would lapse before the gate is
	// reached.
	worthToday = 0.8
	// What an item is worth whose first pass is there: it is brought to where
	// it waits for its date.
	begun = 3.0
	// What the lowest rung is worth to who has flown nothing.
	firstOfAll = 1e3
	// What an entry is worth that has lapsed under a signed gate.
	lapsedFirst = 4.0
	// Chance from which something goes well.
	goesWell = 0.5
	// The share of its worth that an item loses for each rung below it.
	orderly = 0.01
	// The share of a lesson that one drill may take, and that one may take that
	// will hardly be passed.
	mostOfOne  = 0.5
	mostOfHard = 0.34
)

// Check refuses a lesson that cannot be, and says what was expected.
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
	case !(a.TellM >= 0 && a.TellM <= 2000):
		return misread.At(0, "0 to 2000 m", "the nose is told to %v m", a.TellM)
	case a.WindMps > 40:
		return misread.At(0, "0 to 40 m/s", "a wind of %v m/s", a.WindMps)
	}
	return nil
}

// option is a cell that could be flown in the lesson, with what speaks for it.
type option struct {
	cell drill.Cell
	now  readiness.Cell
	// serves is the expected progress of an attempt: the entries of the gate
	// that it brings on, each as far as it keeps until the gate.
	serves float64
	chance float64
	// useful counts the passes that are of use today, and planned those that
	// the plan expects already.
	useful  float64
	planned float64
	unlocks []string
	// The title of the gate that asks for it first, and how many of its cells
	// are open.
	gate   string
	open   int
	lapsed bool
	// wind is whether a pass today meets the wind clause, and answer whether it
	// meets the one of attention.
	wind   bool
	answer bool
	// rests is whether it was given up lately.
	rests bool
	// near is whether it brings on the gate that is aimed at, or what builds
	// toward it.
	near bool
	// entry is whether it is asked for itself, and not alone as what builds
	// another.
	entry bool
}

// PlanLesson plans a lesson: what to fly next with these aids, in this wind,
// within the minutes of its packs, toward the next gate. It is the one answer
// to "what next": WhatNext, and with it every screen, reads it.
//
// It begins with the gate's own list in the order of the ladder, and departs
// from it for these reasons alone:
//
//   - What lapsed under a signed gate comes first.
//   - What builds an item and was never passed comes before it.
//   - With fewer aids a pass serves the gates that follow as well, and is worth
//     it while it is likely enough.
//   - An item that was passed once is brought to where it waits for another
//     date. The pass that makes it held is put off for as long as it would
//     lapse before the gate is reached.
//   - What failed three times in a row goes back to the drill that builds it,
//     and rests until the second lesson after. It comes back earlier where
//     nothing else toward the gate is open.
//   - Nothing under a chance of 35 % is flown while something else toward the
//     gate is open, and no drill for more than half of the lesson. Of two sides
//     the other comes next, unless it is under 35 % by itself. The end is
//     something that goes well.
//
// Cohorts of made-up learners decide whether that is worth it
// (docs/tables/what-next.md).
func PlanLesson(a LessonAsk, k *readiness.Known, practice []record.Practice) (LessonPlan, error) {
	if err := a.Check(); err != nil {
		return LessonPlan{}, err
	}
	l := newLesson(a, k, practice)
	l.aim()
	l.fill()
	return l.out, nil
}

// newLesson begins a lesson: what is known is read, and nothing is planned yet.
func newLesson(a LessonAsk, k *readiness.Known, practice []record.Practice) *lesson {
	if a.Gap <= 0 {
		a.Gap = weekDays
	}
	// Every screen that asks within five minutes gets the same answer.
	k = k.AsOf(k.Evidence.At().Truncate(Steps))
	l := &lesson{ask: a, known: k, at: k.Evidence.At(), practised: map[string]bool{}, options: map[drill.Cell]*option{},
		guesses: map[guessed][2]float64{}, owns: map[guessed][2]float64{}, cells: map[drill.Cell]readiness.Cell{},
		byKey: map[string]*drill.Drill{}, steps: map[string][]step{}, rungs: map[drill.Cell]int{},
		reach: map[drill.Cell]float64{}}
	l.readPractice(practice)
	l.held = !slices.ContainsFunc(k.Programme.Cells(),
		func(c drill.Cell) bool { return l.cell(c).Standing != readiness.Held })
	// A cell that is on several rungs is trained on its lowest.
	for i, r := range k.Programme.Rungs {
		for _, c := range r.Cells {
			if _, ok := l.rungs[c]; !ok {
				l.rungs[c] = i
			}
		}
	}
	return l
}

// lesson is one being planned.
type lesson struct {
	ask   LessonAsk
	known *readiness.Known
	// at is the moment that the lesson is planned for, in the school's zone.
	at time.Time
	// practised are the drills that were passed, in the field or in the
	// simulator, or practised otherwise.
	practised map[string]bool
	// gate is the one that the lesson is for; nil once every gate is met.
	gate *readiness.GateResult
	// options are what could be flown, and order the same in the order in which
	// they were listed.
	options map[drill.Cell]*option
	order   []*option
	// nearing is whether what is listed now is near the aim.
	nearing bool
	// aimed is the gate for which options are listed now, nil for the ladder,
	// and aimedOpen how many of its entries are open.
	aimed     *readiness.GateResult
	aimedOpen int
	// held is whether the whole ladder is held.
	held bool
	// What was looked up once: cells as they stand, drills by key (nil for one
	// that is not known), and the first steps toward a drill.
	cells map[drill.Cell]readiness.Cell
	byKey map[string]*drill.Drill
	steps map[string][]step
	// rungs is the lowest rung of each cell of the ladder, from 0 at the
	// ground.
	rungs map[drill.Cell]int
	// guesses are chances and attempts as guess gives them; owns are those from
	// an item's own attempts alone, and first3 the log odds of a first try, nil
	// until it is asked for.
	guesses map[guessed][2]float64
	first3  *float64
	// From an item's own attempts alone.
	owns map[guessed][2]float64
	// reach is how far each cell goes from the pilot, in metres.
	reach map[drill.Cell]float64
	out   LessonPlan
}

// on is the craft of the lesson, as gates ask about it.
func (l *lesson) on() readiness.On {
	on := readiness.On{Class: l.ask.Class}
	if t := l.ask.Type; t != nil {
		on.Type, on.Has = t.Key, t.Aids
	}
	return on
}

// cell judges a cell for the lesson's class, once.
func (l *lesson) cell(c drill.Cell) readiness.Cell {
	k, ok := l.cells[c]
	if !ok {
		// Without its words, which most cells are never asked for.
		k = l.known.Evidence.Plain(readiness.Key{Cell: c, Class: l.ask.Class})
		l.cells[c] = k
	}
	return k
}

// readPractice finds the drills that were passed, here or in the simulator, or
// practised.
func (l *lesson) readPractice(practice []record.Practice) {
	for _, k := range l.known.Evidence.Passed() {
		l.practised[k] = true
	}
	for _, p := range practice {
		// Practice of no minutes is a note, and what is dated later has not
		// been.
		if p.Minutes > 0 && !p.At.After(l.at) {
			l.practised[p.Drill] = true
		}
	}
}
