package drill

import (
	"fmt"
	"slices"

	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/core/yamldoc"
)

// A gate is data like a drill: what it asks for is in its file, and a school
// may have its own. How a student stands to it is worked out in core/readiness.

// Gate is a named readiness level, with what it asks for: cells that have to be
// held, acts that have to be witnessed, and clauses that are met by a pass
// within currency. An instructor signs it; the program only says whether it may
// be signed.
type Gate struct {
	// Key identifies the gate; Title is what people read.
	Key     string
	Title   string
	Meaning string // what the student may do once it is signed
	// Alone and Hold say what is allowed once it is signed.
	Alone bool // without the instructor at the shoulder
	Hold  bool // with the craft holding its place by itself: not for a craft that cannot
	// What is asked: cells, acts and clauses.
	Cells     []Cell
	Witnessed []Act
	Clauses   Clauses
	// What a craft flies that lacks the aids.
	Instead []Instead
	// What has to be shown again on another craft.
	Transition []string // drills flown again on a bigger class
	Familiar   []string // drills flown once on a new type of the same class
	SignedDays int      // how long a sign-off lasts
	// Source is the file as it was read.
	Source []byte
}

// Act is something that an instructor sees the student do and then attests,
// such as a check of the craft.
type Act struct {
	// Key names the act in sign-offs and records.
	Key       string
	Title     string
	By        string // who may witness it
	ValidDays int    // 0 = for good
}

// Clauses are what a gate asks for besides its cells. The zero value asks for
// nothing.
type Clauses struct {
	// WindMps is a mean wind, in metres a second.
	WindMps   float64  // a pass in at least this mean wind in each of Wind
	Wind      []string // drills
	Places    int      // passes at so many sites, or in so many lights
	Attention []string // a pass of one of them while answering questions
}

// Instead is what a craft that lacks an aids level flies in the place of an
// entry: the same drill with other aids, where Drill is empty, or another cell
// for one drill. A craft without satellites can still come to a gate so.
type Instead struct {
	Drill string     // of the entry; empty = every drill
	Aids  craft.Aids // that the craft lacks; empty = any of the entry's
	// Use is what is flown instead.
	Use Cell // of which only the aids where Drill is empty
}

// usualSignedDays is how long a sign-off lasts, in days, where the gate does
// not say.
const usualSignedDays = 180

// For returns the cell that a craft with the aids has flies for an entry of the
// gate. ok is false where the craft lacks the aids and the gate names no
// substitute. A craft whose aids are not known (nil) flies what is asked.
func (g Gate) For(entry Cell, has []craft.Aids) (c Cell, ok bool) {
	if has == nil || slices.Contains(has, entry.Aids) {
		return entry, true
	}
	for _, s := range g.Instead {
		// A substitute for the very drill goes before one for its aids.
		if s.Drill == entry.Drill {
			c = s.Use
			if c.Side == "both" {
				c.Side = entry.Side
			}
			return c, slices.Contains(has, c.Aids)
		}
	}
	for _, s := range g.Instead {
		// One for the aids keeps the drill, the side and the level as they are
		// asked.
		if s.Drill == "" && s.Aids == entry.Aids && slices.Contains(has, s.Use.Aids) {
			c = entry
			c.Aids = s.Use.Aids
			return c, true
		}
	}
	return entry, false
}

// AidsOf is the easiest aids level on which the gate asks for a drill: that of
// its cells, or the level with the most aids where no cell names the drill.
func (g Gate) AidsOf(drill string) craft.Aids {
	aids := craft.Aids("")
	for _, c := range g.Cells {
		if c.Drill == drill && (aids == "" || c.Aids.Rank() < aids.Rank()) {
			aids = c.Aids
		}
	}
	if aids == "" {
		return craft.AidsOrder[0]
	}
	return aids
}

// CellsOf are the gate's cells of some drills: what is flown again on another
// craft.
func (g Gate) CellsOf(drills []string) (out []Cell) {
	for _, c := range g.Cells {
		if slices.Contains(drills, c.Drill) {
			out = append(out, c)
		}
	}
	return out
}

// parseGate reads a maestrale-gate/1 file against the drills that are known. A
// gate that asks for nothing is refused: it would be passed by anybody.
func parseGate(data []byte, drills map[string]Drill) (Gate, error) {
	doc, top := yamldoc.Read(data)
	m := top.Map()
	m.Need("format").Word("maestrale-gate/1")
	g := Gate{Key: readKey(m.Need("key")), Title: m.Need("title").Text(), Meaning: m.Get("meaning").Text(),
		SignedDays: usualSignedDays, Source: data}
	if n := m.Get("signed_days"); n.Present() {
		g.SignedDays = n.Int(1, 3650)
	}
	if n := m.Get("alone"); n.Present() {
		g.Alone = n.Bool()
	}
	if n := m.Get("holds_place"); n.Present() {
		g.Hold = n.Bool()
	}
	for _, n := range m.Get("cells").List() {
		g.Cells = append(g.Cells, readCells(n, drills)...)
	}
	for _, n := range m.Get("witnessed").List() {
		am := n.Map()
		a := Act{Key: readKey(am.Need("act")), Title: am.Get("title").Text(), By: "instructor",
			ValidDays: am.Get("valid_days").Int(0, 3650)}
		if by := am.Get("by"); by.Present() {
			a.By = by.Word("instructor", "chief")
		}
		if a.Title == "" {
			a.Title = a.Key
		}
		am.Done()
		g.Witnessed = append(g.Witnessed, a)
	}
	if len(g.Cells)+len(g.Witnessed) == 0 && m.Node().Present() {
		m.Node().Fail(msgGateAsksNothing, msgWantCellsOrActs)
	}
	if n := m.Get("clauses"); n.Present() {
		g.readClauses(n, drills)
	}
	for _, n := range m.Get("substitutes").List() {
		g.Instead = append(g.Instead, readInstead(n, drills))
	}
	g.Transition = g.readDrills(m.Get("transition"), drills)
	g.Familiar = g.readDrills(m.Get("familiarisation"), drills)
	m.Done()
	if doc.Err() != nil {
		return Gate{}, doc.Err()
	}
	return g, nil
}

// readDrills reads a list of drills that are known and among the gate's cells.
func (g *Gate) readDrills(n yamldoc.Node, drills map[string]Drill) (out []string) {
	for _, k := range n.List() {
		key := readKey(k)
		switch _, known := drills[key]; {
		case key != "" && !known:
			k.Fail(fmt.Sprintf(msgUnknownDrill, key), msgWantDrillKey)
		case key != "" && !slices.ContainsFunc(g.Cells, func(c Cell) bool { return c.Drill == key }):
			k.Fail(fmt.Sprintf(msgDrillNotInGate, key), msgWantGateDrill)
		}
		out = append(out, key)
	}
	return out
}

// readClauses reads the clauses. A wind in which a drill is not counted is
// refused, since nobody could ever meet the clause.
func (g *Gate) readClauses(n yamldoc.Node, drills map[string]Drill) {
	m := n.Map()
	if w := m.Get("wind"); w.Present() {
		wm := w.Map()
		g.Clauses.WindMps = wm.Need("mps").Number(0.5, 20)
		list := wm.Need("drills")
		g.Clauses.Wind = g.readDrills(list, drills)
		for i, k := range list.List() {
			// A drill without a limit of the wind has 0, and counts in any.
			if d := drills[g.Clauses.Wind[i]]; d.Wind.MaxMps > 0 && d.Wind.MaxMps < g.Clauses.WindMps {
				k.Fail(fmt.Sprintf(msgWindNotCounted, d.Key, d.Wind.MaxMps),
					msgWantWindyDrill)
			}
		}
		wm.Done()
	}
	if p := m.Get("places"); p.Present() {
		g.Clauses.Places = p.Int(2, 10)
	}
	g.Clauses.Attention = g.readDrills(m.Get("attention"), drills)
	m.Done()
}

// readInstead reads one substitute: a drill with the cell that is flown for it,
// or aids with those that are flown instead. Aids that make it easier are
// refused.
func readInstead(n yamldoc.Node, drills map[string]Drill) (s Instead) {
	m := n.Map()
	// With a drill, one cell takes the place of its entries; without, aids take
	// the place of aids everywhere.
	if d := m.Get("drill"); d.Present() {
		s.Drill = readKey(d)
		if _, known := drills[s.Drill]; !known {
			d.Fail(fmt.Sprintf(msgUnknownDrill, s.Drill), msgWantDrillKey)
		}
		use := m.Need("use")
		if cells := readCells(use, drills); len(cells) > 0 {
			s.Use = cells[0]
			if len(cells) > 1 {
				// The cell names a drill with two sides: each side stands for
				// the same side of a sided drill, and the left one for a drill
				// without.
				if s.Use.Side = field.NoSide; drills[s.Drill].Sided {
					s.Use.Side = "both"
				} else {
					s.Use.Side = field.LeftSide
				}
			}
		}
	} else {
		s.Aids = craft.ReadAids(m.Need("aids"))
		s.Use.Aids = craft.ReadAids(m.Need("use"))
		if s.Aids != "" && s.Use.Aids.Rank() <= s.Aids.Rank() {
			n.Fail(fmt.Sprintf(msgSubstituteEasier, s.Use.Aids, s.Aids), msgWantFewerAids)
		}
	}
	m.Done()
	return s
}

// Loosened lists in words what a school's own version of a gate asks less
// strictly than the shipped one that it stands in the place of; nil where it is
// as strict or stricter. A school may do so, and everybody who signs sees it.
func Loosened(shipped, own Gate) (out []string) {
	say := func(format string, args ...any) { out = append(out, fmt.Sprintf(format, args...)) }
	for _, c := range shipped.Cells {
		if !slices.ContainsFunc(own.Cells, func(o Cell) bool { return o.Serves(c) }) {
			say("not asked: %s %s, %s", c.Drill, sideWord(c.Side), c.Aids.Words())
		}
	}
	for _, a := range shipped.Witnessed {
		// Acts are compared by their keys, whatever they are called.
		i := slices.IndexFunc(own.Witnessed, func(o Act) bool { return o.Key == a.Key })
		switch {
		case i < 0:
			say("not witnessed: %s", a.Title)
		// 0 days lasts for good, which is looser than any number.
		case a.ValidDays > 0 && (own.Witnessed[i].ValidDays == 0 || own.Witnessed[i].ValidDays > a.ValidDays):
			say(msgLooserWitnessDays, a.ValidDays, a.Title)
		case a.By == "chief" && own.Witnessed[i].By != "chief":
			say(msgLooserWitness, a.Title)
		}
	}
	// k is the shipped gate's, o the school's own.
	k, o := shipped.Clauses, own.Clauses
	for _, d := range k.Wind {
		switch {
		case !slices.Contains(o.Wind, d):
			say(msgLooserNoWind, d)
		case o.WindMps < k.WindMps:
			say(msgLooserLessWind, o.WindMps, k.WindMps, d)
		}
	}
	// No clause asks for one place, as any pass has.
	if o.Places < k.Places {
		say(msgLooserFewerPlaces, max(1, o.Places), k.Places)
	}
	// Any other drill under questions will do, so the two lists are not
	// compared.
	if len(k.Attention) > 0 && len(o.Attention) == 0 {
		say(msgLooserNoQuestions)
	}
	for _, d := range shipped.Transition {
		// A gate without transition drills asks for everything again on a
		// bigger class, which is stricter.
		if !slices.Contains(own.Transition, d) && len(own.Transition) > 0 {
			say(msgLooserNoTransition, d)
		}
	}
	for _, d := range shipped.Familiar {
		if !slices.Contains(own.Familiar, d) {
			say(msgLooserNoFamiliar, d)
		}
	}
	if own.SignedDays > shipped.SignedDays {
		say(msgLooserSignedDays, own.SignedDays, shipped.SignedDays)
	}
	return out
}

// sideWord is a side as a sentence names it; empty for none.
func sideWord(s field.Side) string {
	if s == field.NoSide {
		return ""
	}
	return string(s)
}

// GateKeys lists the gates in the order in which they are passed: those that
// ship from the instructor at the shoulder to flight out of reach, then a
// school's own by key.
func (c *Catalogue) GateKeys() []string {
	keys := sortedKeys(c.Gates)
	order := map[string]int{"supervised": 1, "unassisted-aids-on": 2, "unassisted-aids-off": 3, "range": 4}
	slices.SortStableFunc(keys, func(a, b string) int {
		oa, ob := order[a], order[b]
		// A school's own gates come last.
		if oa == 0 {
			oa = 9
		}
		if ob == 0 {
			ob = 9
		}
		return oa - ob
	})
	return keys
}

// WitnessOf returns who has to see an act that a gate asks for: "chief" or
// "instructor". asked is false for an act that no gate asks for.
func (c *Catalogue) WitnessOf(act string) (by string, asked bool) {
	for _, key := range c.GateKeys() {
		for _, a := range c.Gates[key].Witnessed {
			if a.Key == act {
				by, asked = a.By, true
			}
		}
	}
	return by, asked
}
