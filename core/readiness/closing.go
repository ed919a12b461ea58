package readiness

import (
	"cmp"
	"slices"

	"maestrale/core/drill"
	"maestrale/core/field"
)

// A student who is near a gate wants to know what is left. It is the least that
// could do, and not what it will take, which is an estimate.

// Want is attempts at one cell that are still to be passed for a gate.
type Want struct {
	drill.Cell
	// Passes is how many in a row, from now.
	Passes    int
	Dates     int     // on how many different dates at least
	WindMps   float64 // one of them in at least this mean wind; 0 = any
	Elsewhere int     // so many of them at a site (NewSite) or in a light (NewLight) that was not flown lately
	NewSite   bool
	NewLight  bool
	Answering bool // one of them while answering questions
}

// Closing is the shortest set of attempts that could close a gate; empty where
// all is met.
type Closing struct {
	Attempts int
	Dates    int // on how many different dates at least
	// Set is in the order of drill, side and aids.
	Set []Want
}

// close finds the shortest set of attempts that meets every entry and clause. A
// pass at a drill and side serves the missing cells with more aids and at lower
// levels as well. So for each drill and side the hardest aids and level that
// are asked for are flown, as often as the cell that needs most: no set is
// shorter, for that cell alone needs so many, and no attempt bears on two
// drills or sides. What clauses ask for is asked of passes that are flown
// anyway, where there are any.
func (r *GateResult) close() Closing {
	type drillSide struct {
		drill string
		side  field.Side
	}
	var out Closing
	at := map[drillSide]int{}
	for _, n := range r.Entries {
		if n.Met() || n.Cannot {
			continue
		}
		c := n.Cell
		// Nothing passed yet has to be passed on two dates.
		days := 1
		if c.Dates == 0 {
			days = wantedDates
		}
		k := drillSide{c.Drill, c.Side}
		// One set of passes for each drill and side.
		i, ok := at[k]
		if !ok {
			at[k] = len(out.Set)
			out.Set = append(out.Set, Want{Cell: c.Cell, Passes: c.Needs, Dates: min(days, c.Needs)})
			continue
		}
		w := &out.Set[i]
		if c.Aids.Rank() > w.Aids.Rank() {
			w.Aids = c.Aids
		}
		w.Level, w.Passes = max(w.Level, c.Level), max(w.Passes, c.Needs)
		w.Dates = max(w.Dates, min(days, c.Needs))
	}
	for _, c := range r.Clauses {
		if !c.Met() {
			out.meet(r, c)
		}
	}
	slices.SortStableFunc(out.Set, func(a, b Want) int {
		return cmp.Or(cmp.Compare(a.Drill, b.Drill), cmp.Compare(a.Side, b.Side), cmp.Compare(a.Aids.Rank(), b.Aids.Rank()))
	})
	for _, w := range out.Set {
		out.Attempts += w.Passes
		out.Dates = max(out.Dates, w.Dates)
	}
	return out
}

// meet adds what a clause asks for to the set: to an attempt that is in it, or
// as one more.
func (k *Closing) meet(r *GateResult, c Clause) {
	for left := c.Want - c.Have; left > 0; left-- {
		// A pass that is flown anyway, if there is one; one pass can meet wind
		// and attention at once, but a place each.
		i := slices.IndexFunc(k.Set, func(w Want) bool {
			switch {
			case !slices.Contains(c.Drills, w.Drill):
				return false
			case c.Kind == PlacesClause:
				return w.Elsewhere < w.Passes
			}
			return true
		})
		if i < 0 {
			i = len(k.Set)
			k.Set = append(k.Set, Want{Cell: r.easiest(c.Drills[0]), Passes: 1, Dates: 1})
		}
		switch w := &k.Set[i]; c.Kind {
		case WindClause:
			w.WindMps = c.Mps
		case PlacesClause:
			w.Elsewhere++
			w.NewSite, w.NewLight = c.NewSite, c.NewLight
		case AttentionClause:
			w.Answering = true
		}
	}
}

// easiest is the cell of a drill at which a clause is flown: the gate's own
// with the most aids, on its left where it has sides.
func (r *GateResult) easiest(d string) (best drill.Cell) {
	for _, asked := range r.Cells {
		if c, _ := r.For(asked, r.Has); c.Drill == d && (best.Drill == "" || c.Aids.Rank() < best.Aids.Rank()) {
			best = c
		}
	}
	return best
}
