package readiness

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/record"
)

// A gate is judged anew each time from what the record has; only the sign-off
// itself is a decision of a person that stands in the record.

// State is where a gate stands.
type State string

// The states of a gate. Ready is what the rules say; signed is what a person
// has decided on top of it.
const (
	GateNotReady State = "not-ready"
	GateReady    State = "ready"
	GateSigned   State = "signed"
	GateLapsed   State = "lapsed"
)

// On is the craft that a gate is judged for.
type On struct {
	Class craft.Class
	Type  string       // key; empty = any of the class
	Has   []craft.Aids // aids that the craft has; nil = not known, every entry is flown as asked
}

// GateResult is a gate judged for a student on a craft class: where it stands,
// and everything that this rests on.
type GateResult struct {
	drill.Gate
	On
	// State is what the rules and the sign-off together come to.
	State  State
	NotFor string      // why the gate is not for this craft; empty = it is
	From   craft.Class // signed on that smaller class, so that only the transition is asked; empty = all is
	// Entries, Clauses and Acts are everything that is asked now, met or not.
	Entries  []Entry
	Missing  []Cell // entries' cells that are not held
	Clauses  []Clause
	Acts     []ActResult
	Familiar []Familiarity // drills flown on the type named in On
	// Sign is the newest sign-off for the class; nil without one.
	Sign *record.SignOff
	// Closing is the least that is still to be flown.
	Closing Closing
	at      time.Time
	zone    *time.Location
}

// Entry is a cell that a gate asks for, and the cell that the craft flies for
// it.
type Entry struct {
	// Asked is the cell as the gate names it; Cell is what is flown for it,
	// judged.
	Asked  drill.Cell
	Cell   Cell
	Cannot bool // the craft lacks the aids, and the gate names no substitute
	Waived bool
}

// Met tells whether the entry is met.
func (e Entry) Met() bool { return !e.Cannot && e.Cell.Standing == Held }

// ActResult is a witnessed act as it stands.
type ActResult struct {
	drill.Act
	// Valid is whether it was seen and still lasts.
	Valid  bool
	Waived bool
	Seen   *record.Witnessed // the newest, where there is one
	Until  time.Time         // zero where it lasts for good
}

// entryKey names an entry among those that were waived.
func entryKey(c drill.Cell) string {
	return fmt.Sprintf("cell:%s:%s:%s:%d", c.Drill, c.Side, c.Aids, c.Level)
}

// Familiarity is a drill that a new type of a class asks for once.
type Familiarity struct {
	Drill string
	Flown bool
}

// JudgeGate holds a gate to the evidence. It is ready when every entry is met,
// every act was witnessed and still lasts, and every clause is met; signed once
// somebody signed; lapsed when an entry lapses after that, or the sign-off has
// run out. What the chief waived with a reason is not asked for while that
// sign-off lasts. On a bigger class than one on which the gate stands signed,
// only its transition drills are asked for.
func JudgeGate(g drill.Gate, on On, e *Evidence, seen []record.Witnessed, signs []record.SignOff) GateResult {
	return judgeGate(g, on, e, seen, signs, true)
}

// judgeGate is JudgeGate; carry is whether a sign-off on a smaller class is
// looked for, which it is not while looking for one.
func judgeGate(g drill.Gate, on On, e *Evidence, seen []record.Witnessed, signs []record.SignOff,
	carry bool) GateResult {
	r := GateResult{Gate: g, On: on, at: e.at, zone: e.zone}
	// A gate of flights with position hold is not for a craft without it.
	if g.Hold && on.Has != nil && !slices.Contains(on.Has, craft.PositionHold) {
		r.NotFor = msgNoPositionHold
	}
	r.Sign = newestSign(g.Key, on.Class, signs, e.at)
	// A sign-off stands until it runs out or is withdrawn.
	stands := r.Sign != nil && !r.Sign.WithdrawnAt(e.at) && !e.at.After(r.Sign.Until)
	cells := g.Cells
	switch {
	// Signed by its transition: only that is looked at for as long as the
	// sign-off lasts.
	case stands && r.Sign.From != "":
		r.From = r.Sign.From
	// Not signed here, so a sign-off on a smaller class may do for all but the
	// transition drills.
	case !stands && carry && len(g.Transition) > 0:
		r.From = carried(g, on.Class, e, seen, signs)
	}
	if r.From != "" {
		cells = g.CellsOf(g.Transition)
	}
	// What was waived is asked for again once the sign-off no longer stands.
	waived := map[string]bool{}
	if stands {
		for _, k := range r.Sign.Waived {
			waived[k] = true
		}
	}
	met, all := true, true // with what was waived, and without
	note := func(ok, waived bool) {
		all = all && ok
		met = met && (ok || waived)
	}
	for _, c := range cells {
		n := r.entry(c, e)
		n.Waived = waived[entryKey(c)]
		note(n.Met(), n.Waived)
		r.Entries = append(r.Entries, n)
	}
	for _, a := range g.Witnessed {
		ar := e.actOf(a, seen)
		ar.Waived = waived["act:"+a.Key]
		note(ar.Valid, ar.Waived)
		r.Acts = append(r.Acts, ar)
	}
	for _, c := range e.clauses(g, cells, on) {
		c.Waived = waived[c.key()]
		note(c.Met(), c.Waived)
		r.Clauses = append(r.Clauses, c)
	}
	for _, d := range g.Familiar {
		r.Familiar = append(r.Familiar, Familiarity{d, on.Type == "" || e.flownOn(d, on)})
	}
	// A sign-off stands on what was waived, but a gate is never ready by it.
	r.State = r.stateOf(stands && met, all)
	r.Closing = r.close()
	return r
}

// entry judges a cell that the gate asks for. One that is not held is among the
// missing, once however many entries it serves.
func (r *GateResult) entry(c drill.Cell, e *Evidence) Entry {
	flown, can := r.For(c, r.Has)
	n := Entry{Asked: c, Cell: e.Plain(Key{flown, r.Class}), Cannot: !can}
	if !n.Met() {
		n.Cell = e.Cell(Key{flown, r.Class}) // with its words
		if !slices.ContainsFunc(r.Missing, func(m Cell) bool { return m.Cell == n.Cell.Cell }) {
			r.Missing = append(r.Missing, n.Cell)
		}
	}
	return n
}

// newestSign is the newest sign-off of a gate for a class that was given by
// then; nil without one.
func newestSign(gate string, class craft.Class, signs []record.SignOff, at time.Time) (newest *record.SignOff) {
	for i := range signs {
		if s := &signs[i]; s.Gate == gate && s.CraftClass == class && !s.At.After(at) &&
			(newest == nil || s.At.After(newest.At)) {
			newest = s
		}
	}
	return newest
}

// stateOf is the state of a gate. signed is whether its sign-off stands and has
// what it asks for, all whether everything is met with nothing waived.
func (r *GateResult) stateOf(signed, all bool) State {
	switch {
	case signed:
		return GateSigned
	case r.Sign != nil && !r.Sign.WithdrawnAt(r.at):
		return GateLapsed
	case all:
		return GateReady
	}
	return GateNotReady
}

// carried is the biggest smaller class on which the gate stands signed; empty
// for none.
func carried(g drill.Gate, class craft.Class, e *Evidence, seen []record.Witnessed,
	signs []record.SignOff) craft.Class {
	at := slices.Index(craft.Classes, class)
	for i := at - 1; i >= 0; i-- {
		smaller := craft.Classes[i]
		// Judging a gate is dear, so it is done only where there is a sign-off
		// at all.
		has := slices.ContainsFunc(signs, func(s record.SignOff) bool { return s.Gate == g.Key && s.CraftClass == smaller })
		if has && judgeGate(g, On{Class: smaller}, e, seen, signs, false).State == GateSigned {
			return smaller
		}
	}
	return ""
}

// actOf is an act as it stands: the newest witness counts, for as many days as
// the gate says.
func (e *Evidence) actOf(a drill.Act, seen []record.Witnessed) ActResult {
	ar := ActResult{Act: a}
	for i := range seen {
		if w := &seen[i]; w.Act == a.Key && !w.At.After(e.at) && (ar.Seen == nil || w.At.After(ar.Seen.At)) {
			ar.Seen = w
		}
	}
	if ar.Seen != nil {
		ar.Valid = true
		if a.ValidDays > 0 {
			// Calendar days of the school, so that it ends at the same time of
			// day.
			ar.Until = ar.Seen.At.In(e.zone).AddDate(0, 0, a.ValidDays)
			ar.Valid = !e.at.After(ar.Until)
		}
	}
	return ar
}

// flownOn tells whether a drill was passed on the type itself, on either side.
func (e *Evidence) flownOn(d string, on On) bool {
	kind, known := e.words[on.Type]
	found := false
	e.lanesOf(d, on.Class, func(s *seen) { found = found || known && s.flies == kind && s.pass })
	return found
}

// Met tells whether all that the gate asks for is met, nothing waived.
func (r *GateResult) Met() bool {
	for _, n := range r.Entries {
		if !n.Met() {
			return false
		}
	}
	for _, a := range r.Acts {
		if !a.Valid {
			return false
		}
	}
	for _, c := range r.Clauses {
		if !c.Met() {
			return false
		}
	}
	return true
}

// Signable tells whether the gate may be signed now: when it is ready, or has
// run out while everything that it asks for still stands.
func (r *GateResult) Signable() bool { return r.NotFor == "" && r.State != GateSigned && r.Met() }

// Unmet names what is not met now, as a sign-off against the rule keeps it.
func (r *GateResult) Unmet() (keys []string) {
	for _, n := range r.Entries {
		if !n.Met() {
			keys = append(keys, entryKey(n.Asked))
		}
	}
	for _, a := range r.Acts {
		if !a.Valid {
			keys = append(keys, "act:"+a.Key)
		}
	}
	for _, c := range r.Clauses {
		if !c.Met() {
			keys = append(keys, c.key())
		}
	}
	return keys
}

// NewType lists the drills that the type asks for before it is flown under the
// sign-off.
func (r *GateResult) NewType() (drills []string) {
	for _, f := range r.Familiar {
		if !f.Flown {
			drills = append(drills, f.Drill)
		}
	}
	return drills
}

// Ends is when what stands now first stops to stand if nothing more is flown,
// and what that is: an entry, an act, a clause or the sign-off itself. It is
// zero where nothing ends.
func (r *GateResult) Ends() (at time.Time, what string) {
	// Each date is held to the earliest so far; the zero time never ends.
	see := func(t time.Time, words string) {
		if !t.IsZero() && (at.IsZero() || t.Before(at)) {
			at, what = t, words
		}
	}
	for _, n := range r.Entries {
		if n.Met() && !n.Waived {
			see(n.Cell.CurrentUntil, n.Cell.Drill)
		}
	}
	for _, a := range r.Acts {
		if a.Valid && !a.Waived {
			see(a.Until, a.Title)
		}
	}
	for _, c := range r.Clauses {
		if c.Met() && !c.Waived {
			see(c.Until, c.Words())
		}
	}
	if r.State == GateSigned {
		see(r.Sign.Until, msgSignOff)
	}
	return at, what
}

// Until is when a sign-off of the gate at a moment runs out, in calendar days
// of the school.
func (r *GateResult) Until(at time.Time, zone *time.Location) time.Time {
	return at.In(zone).AddDate(0, 0, r.SignedDays)
}

// Why says the state in words: what is missing, who signed or withdrew, and
// what can be done.
func (r *GateResult) Why() string {
	const day = "2 Jan 2006"
	if r.NotFor != "" {
		return r.NotFor
	}
	var parts []string
	// Counted, since a list of every cell would be longer than anybody reads.
	missing, cannot := 0, 0
	for _, n := range r.Entries {
		if n.Cannot {
			cannot++
		} else if !n.Met() {
			missing++
		}
	}
	if missing > 0 {
		parts = append(parts, fmt.Sprintf(msgDrillsNotHeld, missing, len(r.Entries)))
	}
	if cannot > 0 {
		parts = append(parts, fmt.Sprintf(msgDrillsNeedAids, cannot, len(r.Entries)))
	}
	for _, a := range r.Acts {
		switch {
		case a.Seen == nil:
			parts = append(parts, "not witnessed: "+a.Title)
		case !a.Valid:
			parts = append(parts, fmt.Sprintf(msgWitnessedLongAgo, a.Title))
		}
	}
	for _, c := range r.Clauses {
		if !c.Met() {
			parts = append(parts, fmt.Sprintf(msgNotFlownLately, c.Words()))
		}
	}
	switch s := r.Sign; {
	case r.State == GateSigned:
		says := fmt.Sprintf(msgSignedUntil, s.By, s.At.In(r.zone).Format(day), s.Until.In(r.zone).Format(day))
		if s.Reason != "" {
			says += fmt.Sprintf(msgOverride, s.Reason)
		}
		return says
	case s != nil && s.WithdrawnAt(r.at):
		parts = append([]string{fmt.Sprintf(msgWithdrawn, s.WithdrawnBy, s.Withdrawn.In(r.zone).Format(day),
			cmp.Or(s.WithdrawnWhy, msgNoReasonGiven))}, parts...)
	case s != nil && r.at.After(s.Until):
		parts = append([]string{fmt.Sprintf(msgSignOffRanOut, s.Until.In(r.zone).Format(day))}, parts...)
	}
	if r.Met() {
		parts = append(parts, msgEverythingStands)
		if r.State == GateReady {
			parts = append(parts, msgCanBeSigned)
		}
	}
	return strings.Join(parts, "; ")
}
