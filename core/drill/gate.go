package drill

import (
	"fmt"
	"slices"

	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/core/yamldoc"
)

// Gate is a named readiness level: cells that have to be held, acts that have to be
// witnessed, and clauses that are met by a pass within currency.
type Gate struct {
	Key        string
	Title      string
	Meaning    string // what the student may do once it is signed
	Alone      bool   // without the instructor at the shoulder
	Hold       bool   // with the craft holding its place by itself: not for a craft that cannot
	Cells      []Cell
	Witnessed  []Act
	Clauses    Clauses
	Instead    []Instead
	Transition []string // drills flown again on a bigger class
	Familiar   []string // drills flown once on a new type of the same class
	SignedDays int      // how long a sign-off lasts
	Source     []byte
}

// Act is something that an instructor sees the student do.
type Act struct {
	Key       string
	Title     string
	By        string // who may witness it
	ValidDays int    // 0 = for good
}

// Clauses are what a gate asks for besides its cells; the zero value asks for nothing.
type Clauses struct {
	WindMps   float64  // a pass in at least this mean wind in each of Wind
	Wind      []string // drills
	Places    int      // passes at so many sites, or in so many lights
	Attention []string // a pass of one of them while answering questions
}

// Instead is what a craft that lacks an aids level flies in the place of an entry: the
// same drill with other aids (Drill empty), or another cell for one drill.
type Instead struct {
	Drill string     // of the entry; empty = every drill
	Aids  craft.Aids // that the craft lacks; empty = any of the entry's
	Use   Cell       // of which only the aids where Drill is empty
}

// usualSignedDays is how long a sign-off lasts where the gate does not say.
const usualSignedDays = 180

// For returns the cell that a craft with the given aids flies for an entry of the gate. ok
// is false where the craft lacks the aids and the gate names no substitute; a craft whose
// aids are not known (nil) flies what is asked.
func (g Gate) For(entry Cell, has []craft.Aids) (c Cell, ok bool) {
	if has == nil || slices.Contains(has, entry.Aids) {
		return entry, true
	}
	for _, s := range g.Instead {
		if s.Drill == entry.Drill {
			c = s.Use
			if c.Side == "both" {
				c.Side = entry.Side
			}
			return c, slices.Contains(has, c.Aids)
		}
	}
	for _, s := range g.Instead {
		if s.Drill == "" && s.Aids == entry.Aids && slices.Contains(has, s.Use.Aids) {
			c = entry
			c.Aids = s.Use.Aids
			return c, true
		}
	}
	return entry, false
}

// AidsOf is the easiest aids level on which the gate asks for a drill: that of its cells,
// or any (the most aids) where no cell names it.
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

// CellsOf are the gate's cells of some of its drills: what is flown again.
func (g Gate) CellsOf(drills []string) (out []Cell) {
	for _, c := range g.Cells {
		if slices.Contains(drills, c.Drill) {
			out = append(out, c)
		}
	}
	return out
}

// parseGate reads a maestrale-gate/1 file against the drills that are known.
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
		m.Node().Fail(msgGateAsksNothing, msgCellsOrWitnessed)
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
			k.Fail(fmt.Sprintf(msgDrillNotKnown, key), msgKeyDrill)
		case key != "" && !slices.ContainsFunc(g.Cells, func(c Cell) bool { return c.Drill == key }):
			k.Fail(fmt.Sprintf(msgDrillNoneGate, key), msgDrillCells)
		}
		out = append(out, key)
	}
	return out
}

func (g *Gate) readClauses(n yamldoc.Node, drills map[string]Drill) {
	m := n.Map()
	if w := m.Get("wind"); w.Present() {
		wm := w.Map()
		g.Clauses.WindMps = wm.Need("mps").Number(0.5, 20)
		list := wm.Need("drills")
		g.Clauses.Wind = g.readDrills(list, drills)
		for i, k := range list.List() {
			if d := drills[g.Clauses.Wind[i]]; d.Wind.MaxMps > 0 && d.Wind.MaxMps < g.Clauses.WindMps {
				k.Fail(fmt.Sprintf(msgNotCountedMore, d.Key, d.Wind.MaxMps),
					msgDrillMayFlown)
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

func readInstead(n yamldoc.Node, drills map[string]Drill) (s Instead) {
	m := n.Map()
	if d := m.Get("drill"); d.Present() {
		s.Drill = readKey(d)
		if _, known := drills[s.Drill]; !known {
			d.Fail(fmt.Sprintf(msgDrillNotKnown, s.Drill), msgKeyDrill)
		}
		use := m.Need("use")
		if cells := readCells(use, drills); len(cells) > 0 {
			s.Use = cells[0]
			if len(cells) > 1 {
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
			n.Fail(fmt.Sprintf(msgPlaceNoHarder, s.Use.Aids, s.Aids), msgAidsFlyLess)
		}
	}
	m.Done()
	return s
}

// Loosened lists in words what a school's own version of a gate asks less strictly than
// the one that it stands in the place of; nothing where it is as strict or stricter.
func Loosened(shipped, own Gate) (out []string) {
	say := func(format string, args ...any) { out = append(out, fmt.Sprintf(format, args...)) }
	for _, c := range shipped.Cells {
		if !slices.ContainsFunc(own.Cells, func(o Cell) bool { return o.Serves(c) }) {
			say("not asked: %s %s, %s", c.Drill, sideWord(c.Side), c.Aids.Words())
		}
	}
	for _, a := range shipped.Witnessed {
		i := slices.IndexFunc(own.Witnessed, func(o Act) bool { return o.Key == a.Key })
		switch {
		case i < 0:
			say("not witnessed: %s", a.Title)
		case a.ValidDays > 0 && (own.Witnessed[i].ValidDays == 0 || own.Witnessed[i].ValidDays > a.ValidDays):
			say(msgWitnessedLongerDays, a.ValidDays, a.Title)
		case a.By == "chief" && own.Witnessed[i].By != "chief":
			say(msgWitnessedInstructorNot, a.Title)
		}
	}
	k, o := shipped.Clauses, own.Clauses
	for _, d := range k.Wind {
		switch {
		case !slices.Contains(o.Wind, d):
			say(msgNotAskedWind, d)
		case o.WindMps < k.WindMps:
			say(msgWindInstead, o.WindMps, k.WindMps, d)
		}
	}
	if o.Places < k.Places {
		say(msgPassesPlacesInstead, max(1, o.Places), k.Places)
	}
	if len(k.Attention) > 0 && len(o.Attention) == 0 {
		say(msgNothingWhileAnswering)
	}
	for _, d := range shipped.Transition {
		if !slices.Contains(own.Transition, d) && len(own.Transition) > 0 {
			say(msgNotFlownAgain, d)
		}
	}
	for _, d := range shipped.Familiar {
		if !slices.Contains(own.Familiar, d) {
			say(msgNotFlownNew, d)
		}
	}
	if own.SignedDays > shipped.SignedDays {
		say(msgSignedDaysInstead, own.SignedDays, shipped.SignedDays)
	}
	return out
}

func sideWord(s field.Side) string {
	if s == field.NoSide {
		return ""
	}
	return string(s)
}

// GateKeys lists the gates in the order in which they are passed: first those with the
// instructor at the shoulder, then by what they ask for.
func (c *Catalogue) GateKeys() []string {
	keys := sortedKeys(c.Gates)
	order := map[string]int{"supervised": 1, "unassisted-aids-on": 2, "unassisted-aids-off": 3, "range": 4}
	slices.SortStableFunc(keys, func(a, b string) int {
		oa, ob := order[a], order[b]
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

// WitnessOf tells who has to see an act that a gate asks for: "chief" or "instructor". It is false for an act that no
// gate
// asks for.
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
