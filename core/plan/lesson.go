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
	TellM       float64  // how far the student tells the craft's nose; 0 = not known
	// What the instructor has changed: blocks that stand, by their place, and drills that
	// are not to be flown.
	Keep  []Block
	Never []string
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
	Says   string // what the lesson is for, or why there is so little in it
	// Drills that would have been of use, and go farther than the nose is told.
	TooFar []string
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
	case !(a.TellM >= 0 && a.TellM <= 2000):
		return misread.At(0, "0 to 2000 m", "the nose is told to %v m", a.TellM)
	case a.WindMps > 40:
		return misread.At(0, "0 to 40 m/s", "a wind of %v m/s", a.WindMps)
	}
	return nil
}

// option is a cell that could be flown in the lesson.
type option struct {
	cell drill.Cell
	now  readiness.Cell
	// expected progress an attempt: entries of the gate that it brings on, each as far as it keeps until the gate
	serves  float64
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
func PlanLesson(a LessonAsk, k *readiness.Known, practice []record.Practice) (LessonPlan, error) {
	if err := a.Check(); err != nil {
		return LessonPlan{}, err
	}
	if a.Gap <= 0 {
		a.Gap = weekDays
	}
	l := &lesson{ask: a, known: k, at: k.Evidence.At(), practised: map[string]bool{}, options: map[drill.Cell]*option{},
		guesses: map[guessed][2]float64{}, cells: map[drill.Cell]readiness.Cell{}, byKey: map[string]*drill.Drill{},
		steps: map[string][]step{}, reach: map[drill.Cell]float64{}}
	l.readPractice(practice)
	l.held = !slices.ContainsFunc(k.Programme.Cells(),
		func(c drill.Cell) bool { return l.cell(c).Standing != readiness.Held })
	l.aim()
	l.fill()
	return l.out, nil
}

// lesson is one being planned.
type lesson struct {
	ask       LessonAsk
	known     *readiness.Known
	at        time.Time // the moment that it is planned for, in the school's zone
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
	reach     map[drill.Cell]float64 // how far each goes, m
	out       LessonPlan
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
func (l *lesson) readPractice(practice []record.Practice) {
	for _, k := range l.known.Evidence.Passed() {
		l.practised[k] = true
	}
	for _, p := range practice {
		if p.Minutes > 0 && !p.At.After(l.at) {
			l.practised[p.Drill] = true
		}
	}
}
