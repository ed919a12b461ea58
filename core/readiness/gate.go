package readiness

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/record"
)

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

// GateResult is a gate judged for a student on a craft class.
type GateResult struct {
	drill.Gate
	On
	State    State
	NotFor   string      // why the gate is not for this craft; empty = it is
	From     craft.Class // signed on that smaller class, so that only the transition is asked; empty = all is
	Entries  []Entry
	Missing  []Cell // entries' cells that are not held
	Clauses  []Clause
	Acts     []ActResult
	Familiar []Familiarity // drills flown on the type named in On
	Sign     *record.SignOff
	Closing  Closing
	at       time.Time
	zone     *time.Location
}

// Entry is a cell that a gate asks for, and the cell that the craft flies for it.
type Entry struct {
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
	Valid  bool
	Waived bool
	Seen   *record.Witnessed // the newest, where there is one
	Until  time.Time         // zero where it lasts for good
}

// ClauseKind is what a clause asks for.
type ClauseKind string

// The clauses.
const (
	WindClause      ClauseKind = "wind"
	PlacesClause    ClauseKind = "places"
	AttentionClause ClauseKind = "attention"
)

// Clause is a clause of a gate as it stands; it is met by a pass within currency, which
// is that of a cell with passes on as many dates.
type Clause struct {
	Kind   ClauseKind
	Drills []string // any of which meets it; of places, those of the gate
	Mps    float64
	Want   int // passes: 1, or the places
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

func entryKey(c drill.Cell) string {
	return fmt.Sprintf("cell:%s:%s:%s:%d", c.Drill, c.Side, c.Aids, c.Level)
}

// Familiarity is a drill that a new type of a class asks for once.
type Familiarity struct {
	Drill string
	Flown bool
}

// JudgeGate holds a gate to the evidence: it is ready when every entry is met, every act
// was witnessed and still lasts, and every clause is met; signed once somebody signed;
// lapsed when an entry lapses after that, or the sign-off has run out. What the chief
// waived with a reason is not asked for while that sign-off lasts. On a bigger class than
// one on which the gate stands signed only its transition drills are asked for.
func JudgeGate(g drill.Gate, on On, e *Evidence, seen []record.Witnessed, signs []record.SignOff) GateResult {
	return judgeGate(g, on, e, seen, signs, true)
}

func judgeGate(g drill.Gate, on On, e *Evidence, seen []record.Witnessed, signs []record.SignOff, carry bool) GateResult {
	r := GateResult{Gate: g, On: on, at: e.at, zone: e.zone}
	if g.Hold && on.Has != nil && !slices.Contains(on.Has, craft.PositionHold) {
		r.NotFor = "this craft does not hold its place by itself"
	}
	for i := range signs {
		if s := &signs[i]; s.Gate == g.Key && s.CraftClass == on.Class && !s.At.After(e.at) && (r.Sign == nil || s.At.After(r.Sign.At)) {
			r.Sign = s
		}
	}
	stands := r.Sign != nil && !r.Sign.WithdrawnAt(e.at) && !e.at.After(r.Sign.Until)
	cells := g.Cells
	switch {
	case stands && r.Sign.From != "":
		r.From = r.Sign.From
	case !stands && carry && len(g.Transition) > 0:
		r.From = carried(g, on.Class, e, seen, signs)
	}
	if r.From != "" {
		cells = g.CellsOf(g.Transition)
	}
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
		flown, can := g.For(c, on.Has)
		n := Entry{Asked: c, Cell: e.Plain(Key{flown, on.Class}), Cannot: !can, Waived: waived[entryKey(c)]}
		if !n.Met() {
			n.Cell = e.Cell(Key{flown, on.Class}) // with its words
			if !slices.ContainsFunc(r.Missing, func(m Cell) bool { return m.Cell == n.Cell.Cell }) {
				r.Missing = append(r.Missing, n.Cell)
			}
		}
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
	switch {
	case stands && met:
		r.State = GateSigned
	case r.Sign != nil && !r.Sign.WithdrawnAt(e.at):
		r.State = GateLapsed
	case all:
		r.State = GateReady
	default:
		r.State = GateNotReady
	}
	r.Closing = r.close()
	return r
}

// carried is the biggest smaller class on which the gate stands signed.
func carried(g drill.Gate, class craft.Class, e *Evidence, seen []record.Witnessed, signs []record.SignOff) craft.Class {
	at := slices.Index(craft.Classes, class)
	for i := at - 1; i >= 0; i-- {
		smaller := craft.Classes[i]
		has := slices.ContainsFunc(signs, func(s record.SignOff) bool { return s.Gate == g.Key && s.CraftClass == smaller })
		if has && judgeGate(g, On{Class: smaller}, e, seen, signs, false).State == GateSigned {
			return smaller
		}
	}
	return ""
}

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
			ar.Until = ar.Seen.At.In(e.zone).AddDate(0, 0, a.ValidDays)
			ar.Valid = !e.at.After(ar.Until)
		}
	}
	return ar
}

// lanesOf calls take with every field attempt at a drill on a class, by side, each side in
// the order of time.
func (e *Evidence) lanesOf(d string, class craft.Class, take func(*seen)) {
	for _, side := range []field.Side{field.NoSide, field.LeftSide, field.RightSide} {
		list := e.field.of(lane{d, side, class})
		for i := range list {
			take(&list[i])
		}
	}
}

// current is a run of passes that meet a clause: their newest, and on how many dates.
type current struct {
	newest time.Time
	days   map[int]bool
}

func (c *current) add(s *seen) {
	if c.days == nil {
		c.days = map[int]bool{}
	}
	c.days[int(s.day)] = true
	if at := s.at(); at.After(c.newest) {
		c.newest = at
	}
}

// until is when it stops to be current; ok while it is.
func (c *current) until(e *Evidence) (time.Time, bool) {
	if len(c.days) == 0 {
		return time.Time{}, false
	}
	return Until(c.newest, len(c.days), e.zone), Current(c.newest, len(c.days), e.at, e.zone)
}

func (e *Evidence) clauses(g drill.Gate, cells []drill.Cell, on On) (out []Clause) {
	e.sort()
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

// placesOf counts the sites, or the lights where those are more, in which cells of the
// gate were passed within currency.
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
// run out while everything it asks for still stands.
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

// NewType lists the drills that the type asks for before it is flown under the sign-off.
func (r *GateResult) NewType() (drills []string) {
	for _, f := range r.Familiar {
		if !f.Flown {
			drills = append(drills, f.Drill)
		}
	}
	return drills
}

// Ends is when what stands now first stops to stand if nothing more is flown, and what
// that is: an entry, an act, a clause or the sign-off itself; zero where nothing does.
func (r *GateResult) Ends() (at time.Time, what string) {
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
		see(r.Sign.Until, "the sign-off")
	}
	return at, what
}

// Until is when a sign-off of the gate at a moment runs out, in calendar days
// of the school.
func (r *GateResult) Until(at time.Time, zone *time.Location) time.Time {
	return at.In(zone).AddDate(0, 0, r.SignedDays)
}

// Words says what a clause asks for.
func (c Clause) Words() string {
	switch c.Kind {
	case WindClause:
		return fmt.Sprintf("%s in %g m/s of wind or more", c.Drills[0], c.Mps)
	case PlacesClause:
		return fmt.Sprintf("passes at %d sites, or in %d lights", c.Want, c.Want)
	}
	return strings.Join(c.Drills, " or ") + " while answering questions"
}

// Why says the state in words.
func (r *GateResult) Why() string {
	const day = "2 Jan 2006"
	if r.NotFor != "" {
		return r.NotFor
	}
	var parts []string
	missing, cannot := 0, 0
	for _, n := range r.Entries {
		if n.Cannot {
			cannot++
		} else if !n.Met() {
			missing++
		}
	}
	if missing > 0 {
		parts = append(parts, fmt.Sprintf("%d of %d cells are not held", missing, len(r.Entries)))
	}
	if cannot > 0 {
		parts = append(parts, fmt.Sprintf("%d of %d cells want aids that this craft lacks", cannot, len(r.Entries)))
	}
	for _, a := range r.Acts {
		switch {
		case a.Seen == nil:
			parts = append(parts, "not witnessed: "+a.Title)
		case !a.Valid:
			parts = append(parts, "witnessed too long ago: "+a.Title)
		}
	}
	for _, c := range r.Clauses {
		if !c.Met() {
			parts = append(parts, "not flown lately: "+c.Words())
		}
	}
	switch s := r.Sign; {
	case r.State == GateSigned:
		says := fmt.Sprintf("signed by %s on %s, until %s", s.By, s.At.In(r.zone).Format(day), s.Until.In(r.zone).Format(day))
		if s.Reason != "" {
			says += ", against the rule: " + s.Reason
		}
		return says
	case s != nil && s.WithdrawnAt(r.at):
		parts = append([]string{fmt.Sprintf("withdrawn by %s on %s: %s", s.WithdrawnBy, s.Withdrawn.In(r.zone).Format(day), cmp.Or(s.WithdrawnWhy, "no reason given"))}, parts...)
	case s != nil && r.at.After(s.Until):
		parts = append([]string{"the sign-off ran out on " + s.Until.In(r.zone).Format(day)}, parts...)
	}
	if r.Met() {
		parts = append(parts, "everything it asks for stands")
		if r.State == GateReady {
			parts = append(parts, "it can be signed")
		}
	}
	return strings.Join(parts, "; ")
}
