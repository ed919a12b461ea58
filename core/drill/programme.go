package drill

import (
	"fmt"

	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/core/yamldoc"
)

// A programme is the way that a school teaches: rungs in an order, each with a
// reason. Which cell comes next for a student is worked out in core/plan; a
// programme only says what stands above what.

// Cell is the smallest thing that a student can hold or not hold: a drill on a
// side, with some aids, at a level. It is always meant for one craft class,
// which the cell does not name.
type Cell struct {
	// Drill is a key; the zero Cell is none.
	Drill string
	Side  field.Side
	Aids  craft.Aids
	Level int
}

// Serves tells whether a pass at the cell is one at another: the same drill and
// side, with as few aids or fewer, at the same level or a higher one. A cell
// serves itself.
func (c Cell) Serves(o Cell) bool {
	return c.Drill == o.Drill && c.Side == o.Side && c.Aids.Rank() >= o.Aids.Rank() && c.Level >= o.Level
}

// Rung is one step of a programme's ladder: the cells that are trained
// together.
type Rung struct {
	Key   string
	Title string
	Why   string // why it stands here on the ladder; empty where the file does not say
	// Cells are trained together, in any order.
	Cells []Cell
	Packs [2]int // usual number of packs, a range; 0, 0 where not said
}

// Programme is an ordered ladder of rungs, from the ground up, and the gates
// that it leads to.
type Programme struct {
	Key    string
	Title  string
	Rungs  []Rung
	Lines  []GateLine // the gates that it leads to, from the ground up
	Source []byte
}

// Cells lists every cell of the ladder, from the ground up.
func (p Programme) Cells() []Cell {
	var out []Cell
	for _, r := range p.Rungs {
		out = append(out, r.Cells...)
	}
	return out
}

// parseProgramme reads a maestrale-programme/1 file against the drills that are
// known. A cell with side "both" stands for left and right. What the gates ask
// for is checked later (checkLeads).
func parseProgramme(data []byte, drills map[string]Drill) (Programme, error) {
	doc, top := yamldoc.Read(data)
	m := top.Map()
	m.Need("format").Word("maestrale-programme/1")
	p := Programme{Key: readKey(m.Need("key")), Title: m.Need("title").Text(), Source: data}
	seen := map[string]bool{}
	for _, n := range m.Need("rungs").List() {
		rm := n.Map()
		r := Rung{Key: readKey(rm.Need("key")), Title: rm.Need("title").Text(), Why: rm.Get("why").Text()}
		if seen[r.Key] {
			n.Fail(fmt.Sprintf("a second rung %q", r.Key), msgWantKeyOnce)
		}
		seen[r.Key] = true
		for _, c := range rm.Need("cells").List() {
			r.Cells = append(r.Cells, readCells(c, drills)...)
		}
		if u := rm.Get("packs_usual"); u.Present() {
			b := readBand(u, 0, 200)
			r.Packs = [2]int{int(b[0]), int(b[1])}
		}
		rm.Done()
		p.Rungs = append(p.Rungs, r)
	}
	p.readLines(m.Get("gates"))
	m.Done()
	if doc.Err() != nil {
		return Programme{}, doc.Err()
	}
	return p, nil
}

// readCells reads one entry of a list of cells: one cell, or two for a drill
// that is asked on both sides. A sided drill without a side is asked on both.
func readCells(n yamldoc.Node, drills map[string]Drill) []Cell {
	m := n.Map()
	key := m.Need("drill")
	c := Cell{Drill: readKey(key), Aids: craft.ReadAids(m.Need("aids")), Level: 1, Side: field.NoSide}
	d, known := drills[c.Drill]
	if c.Drill != "" && !known {
		key.Fail(fmt.Sprintf(msgUnknownDrill, c.Drill), msgWantDrillKey)
	}
	side := field.NoSide
	if s := m.Get("side"); s.Present() {
		side = field.Side(s.Word("left", "right", "both", "none"))
	} else if d.Sided {
		side = "both"
	}
	// A side for a drill without, or none for one with sides.
	if known && d.Sided == (side == field.NoSide) {
		m.Node().Fail(fmt.Sprintf(msgSideDoesNotFit, side),
			msgWantSide)
	}
	if l := m.Get("level"); l.Present() {
		c.Level = l.Int(1, max(1, len(d.Levels)))
	}
	m.Done()
	if side != "both" {
		c.Side = side
		return []Cell{c}
	}
	left, right := c, c
	left.Side, right.Side = field.LeftSide, field.RightSide
	return []Cell{left, right}
}
