package readiness

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
)

// Cells say what a student can do; clauses ask that it was also done in wind,
// elsewhere, and with the mind on something else.

// ClauseKind is what a clause asks for.
type ClauseKind string

// The clauses.
const (
	WindClause      ClauseKind = "wind"
	PlacesClause    ClauseKind = "places"
	AttentionClause ClauseKind = "attention"
)

// Clause is a clause of a gate as it stands. It is met by a pass within
// currency, which lasts as that of a cell with passes on as many dates.
type Clause struct {
	Kind   ClauseKind
	Drills []string // any of which meets it; of places, those of the gate
	Mps    float64
	Want   int // passes: 1, or the places
	// Have counts up to Want.
	Have   int
	Until  time.Time // while it is met
	Waived bool
	// NewSite and NewLight say what one more place is, of places: another site, another
	// light, or either.
	NewSite, NewLight bool
}

// Met tells whether the clause is met.
func (c Clause) Met() bool { return c.Have >= c.Want }

// key names the clause among those that were waived.
func (c Clause) key() string { return "clause:" + string(c.Kind) + ":" + strings.Join(c.Drills, "+") }

// Words say what a clause asks for.
func (c Clause) Words() string {
	switch c.Kind {
	case WindClause:
		return fmt.Sprintf(msgClauseWind, c.Drills[0], c.Mps)
	case PlacesClause:
		return fmt.Sprintf(msgClausePlaces, c.Want, c.Want)
	}
	return fmt.Sprintf(msgClauseAttention, strings.Join(c.Drills, " or "))
}

// lanesOf calls take with every field attempt at a drill on a class, by side,
// each side in the order of time.
func (e *Evidence) lanesOf(d string, class craft.Class, take func(*seen)) {
	for _, side := range []field.Side{field.NoSide, field.LeftSide, field.RightSide} {
		list := e.field.of(lane{d, side, class})
		for i := range list {
			take(&list[i])
		}
	}
}

// current is a run of passes that meet a clause: the newest of them, and on
// which dates they were flown.
type current struct {
	newest time.Time
	days   map[int]bool
}

// add takes in a pass.
func (c *current) add(s *seen) {
	if c.days == nil {
		c.days = map[int]bool{}
	}
	c.days[int(s.day)] = true
	if at := s.at(); at.After(c.newest) {
		c.newest = at
	}
}

// until is when the run stops to be current; ok is false where it is not, or
// there is no pass.
func (c *current) until(e *Evidence) (time.Time, bool) {
	if len(c.days) == 0 {
		return time.Time{}, false
	}
	return Until(c.newest, len(c.days), e.zone), Current(c.newest, len(c.days), e.at, e.zone)
}

// clauses are the clauses of a gate as they stand, in the order wind, places,
// attention. cells are the entries that are asked for now. A pass serves where
// it was flown with as few aids as the gate asks of that drill, or fewer.
func (e *Evidence) clauses(g drill.Gate, cells []drill.Cell, on On) (out []Clause) {
	e.sort()
	// rank is the rank of the fewest aids that the gate asks of a drill, or of
	// what the craft flies in their place.
	rank := func(d string) int {
		c := drill.Cell{Drill: d, Aids: g.AidsOf(d), Level: 1}
		if f, ok := g.For(c, on.Has); ok && f.Drill == d {
			c = f
		}
		return c.Aids.Rank()
	}
	for _, d := range g.Clauses.Wind {
		c, least := Clause{Kind: WindClause, Drills: []string{d}, Mps: g.Clauses.WindMps, Want: 1}, rank(d)
		var run current
		e.lanesOf(d, on.Class, func(s *seen) {
			// With as few aids as the gate asks, or fewer, in the wind that it
			// asks for.
			if s.pass && int(s.rank) >= least && float64(s.wind) >= g.Clauses.WindMps {
				run.add(s)
			}
		})
		if until, ok := run.until(e); ok {
			c.Have, c.Until = 1, until
		}
		out = append(out, c)
	}
	if g.Clauses.Places > 0 {
		out = append(out, e.placesOf(g, cells, on))
	}
	if len(g.Clauses.Attention) > 0 {
		c := Clause{Kind: AttentionClause, Drills: g.Clauses.Attention, Want: 1}
		var run current
		for _, d := range g.Clauses.Attention {
			least := rank(d)
			e.lanesOf(d, on.Class, func(s *seen) {
				if s.pass && s.asked && int(s.rank) >= least {
					run.add(s)
				}
			})
		}
		if until, ok := run.until(e); ok {
			c.Have, c.Until = 1, until
		}
		out = append(out, c)
	}
	return out
}

// placesOf counts the sites, or the lights where those are more, in which cells
// of the gate were passed within currency, up to as many as are wanted. An
// attempt of which the place was not said counts for none.
func (e *Evidence) placesOf(g drill.Gate, cells []drill.Cell, on On) Clause {
	c := Clause{Kind: PlacesClause, Want: g.Clauses.Places}
	sites, lights := map[int32]*current{}, map[int32]*current{}
	add := func(m map[int32]*current, at int32, s *seen) {
		if at == 0 {
			return
		}
		if m[at] == nil {
			m[at] = &current{}
		}
		m[at].add(s)
	}
	// A lane serves with the easiest aids that any of its entries asks for.
	least := map[lane]int{}
	var lanes []lane
	for _, asked := range cells {
		flown, _ := g.For(asked, on.Has)
		if !slices.Contains(c.Drills, flown.Drill) {
			c.Drills = append(c.Drills, flown.Drill)
		}
		l := lane{flown.Drill, flown.Side, on.Class}
		if r, ok := least[l]; !ok || flown.Aids.Rank() < r {
			least[l] = flown.Aids.Rank()
		}
		if !slices.Contains(lanes, l) {
			lanes = append(lanes, l)
		}
	}
	for _, l := range lanes {
		list := e.field.of(l)
		for i := range list {
			if s := &list[i]; s.pass && int(s.rank) >= least[l] {
				add(sites, s.site, s)
				add(lights, s.light, s)
			}
		}
	}
	var have [2]int
	for i, m := range []map[int32]*current{sites, lights} {
		var ends []time.Time
		for _, run := range m {
			if until, ok := run.until(e); ok {
				ends = append(ends, until)
			}
		}
		// Those that last longest: the clause is met until the last of as many
		// as are wanted ends.
		slices.SortFunc(ends, func(a, b time.Time) int { return b.Compare(a) })
		n := min(len(ends), c.Want)
		have[i] = n
		if n > c.Have || n == c.Have && n == c.Want && ends[n-1].After(c.Until) {
			c.Have = n
			if n == c.Want {
				c.Until = ends[n-1]
			}
		}
	}
	c.NewSite, c.NewLight = have[0] == c.Have, have[1] == c.Have
	return c
}
