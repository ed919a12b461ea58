package readiness

import (
	"slices"
	"time"

	"maestrale/core/drill"
	"maestrale/core/record"
)

// A list of students shows little of each, and must be quick. What it shows is
// worked out with the date until which it holds.

// Overview is what a student's record comes to: where the ladder and the gates
// stand, what holds the student up, and what lapses soon. It is good until
// Until, as long as nothing is recorded; so it can be kept
// (internal/knowledge).
type Overview struct {
	// Held of Cells items of the ladder are held.
	Held   int            `json:"held"`
	Cells  int            `json:"cells"`
	Rungs  int            `json:"rungs"`   // from the ground up that are held without a gap
	ByRung []int          `json:"by_rung"` // how many items of each rung are held
	Next   *OverCell      `json:"next"`    // the lowest cell that is not held
	Tries  int            `json:"tries"`   // attempts at it
	Lapses []OverCell     `json:"lapses"`  // held cells of gates and ladder that lapse first
	Gates  []OverviewGate `json:"gates"`
	Flown  int            `json:"flown"`
	Sim    int            `json:"sim,omitempty"`    // of them in the simulator
	Judged int            `json:"judged,omitempty"` // at the field, that count
	Passes int            `json:"passes"`           // of those
	Last   time.Time      `json:"last"`
	// Until is the moment until which all of this holds if nothing is recorded.
	Until time.Time `json:"until"`
}

// OverCell is a cell of an overview.
type OverCell struct {
	drill.Cell
	Until time.Time `json:",omitzero"`
}

// OverviewGate is a gate of an overview.
type OverviewGate struct {
	Key      string    `json:"key"`
	State    State     `json:"state"`
	NotFor   bool      `json:"not_for,omitempty"`
	Missing  int       `json:"missing"`  // entries, acts and clauses
	Attempts int       `json:"attempts"` // of the shortest set that closes it
	Ends     time.Time `json:"ends,omitzero"`
	What     string    `json:"what,omitempty"` // what ends first
	SignedTo time.Time `json:"signed_to,omitzero"`
}

// far is how long an overview is good where nothing lapses.
const far = 365 * 24 * time.Hour

// Oversee makes the overview of a student who follows a programme on a craft;
// gates are those of the school.
func Oversee(p drill.Programme, gates []drill.Gate, on On, e *Evidence, seen []record.Witnessed,
	signs []record.SignOff) Overview {
	o := Overview{Flown: e.Count(), Sim: e.SimCount(), Last: e.Last(), Until: e.at.Add(far)}
	whole := true
	for _, r := range p.Rungs {
		held, before := true, o.Held
		for _, dc := range r.Cells {
			c := e.Plain(Key{dc, on.Class})
			o.Cells++
			if c.Standing == Held {
				o.Held++
			} else {
				held = false
				if o.Next == nil {
					o.Next, o.Tries = &OverCell{Cell: dc}, c.Attempts
				}
			}
			o.lapse(c, e)
		}
		o.ByRung = append(o.ByRung, o.Held-before)
		// Rungs count from the ground up, as far as there is no gap.
		if whole = whole && held; whole {
			o.Rungs++
		}
	}
	for _, s := range signs { // what is yet to count
		if s.At.After(e.at) {
			o.holdsTo(s.At, e)
		}
	}
	for _, g := range gates {
		r := JudgeGate(g, on, e, seen, signs)
		o.gate(r, e)
	}
	for _, list := range e.field {
		o.Judged += len(*list)
		for i := range *list {
			if (*list)[i].pass {
				o.Passes++
			}
		}
	}
	sortLapses(o.Lapses)
	// A list shows the next few.
	if len(o.Lapses) > 4 {
		o.Lapses = o.Lapses[:4]
	}
	return o
}

// holdsTo notes that what is said changes at a moment: it holds through the
// minute in which that is.
func (o *Overview) holdsTo(t time.Time, e *Evidence) {
	if t = t.Truncate(time.Minute).Add(time.Minute); t.After(e.at) && t.Before(o.Until) {
		o.Until = t
	}
}

// lapse notes when an item that is held will not be current any more, once.
func (o *Overview) lapse(c Cell, e *Evidence) {
	if c.Standing != Held {
		return
	}
	o.holdsTo(c.CurrentUntil, e)
	if !slices.ContainsFunc(o.Lapses, func(x OverCell) bool { return x.Cell == c.Cell }) {
		o.Lapses = append(o.Lapses, OverCell{c.Cell, c.CurrentUntil})
	}
}

// gate adds a gate, with what of it lapses.
func (o *Overview) gate(r GateResult, e *Evidence) {
	og := OverviewGate{Key: r.Gate.Key, State: r.State, NotFor: r.NotFor != "", Missing: len(r.Unmet()),
		Attempts: r.Closing.Attempts}
	og.Ends, og.What = r.Ends()
	if r.State == GateSigned {
		og.SignedTo = r.Sign.Until
	}
	if !og.Ends.IsZero() {
		o.holdsTo(og.Ends, e)
	}
	for _, n := range r.Entries {
		o.lapse(n.Cell, e)
	}
	o.Gates = append(o.Gates, og)
}

// sortLapses puts what lapses first in front.
func sortLapses(list []OverCell) {
	slices.SortStableFunc(list, func(a, b OverCell) int { return a.Until.Compare(b.Until) })
}
