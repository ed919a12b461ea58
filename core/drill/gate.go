package drill

import (
	"maestrale/core/yamldoc"
)

// Gate is a named readiness level: cells that have to be held, and acts that
// have to be witnessed.
type Gate struct {
	Key        string
	Title      string
	Meaning    string // what the student may do once it is signed
	Cells      []Cell
	Witnessed  []Act
	SignedDays int // how long a sign-off lasts
}

// Act is something that an instructor sees the student do.
type Act struct {
	Key       string
	Title     string
	By        string // who may witness it
	ValidDays int    // 0 = for good
}

// usualSignedDays is how long a sign-off lasts where the gate does not say.
const usualSignedDays = 180

// parseGate reads a maestrale-gate/1 file. Clauses, substitutes and transition
// drills are not judged yet and are refused as unknown keys, rather than read
// and let be.
func parseGate(data []byte, drills map[string]Drill) (Gate, error) {
	doc, top := yamldoc.Read(data)
	m := top.Map()
	m.Need("format").Word("maestrale-gate/1")
	g := Gate{Key: readKey(m.Need("key")), Title: m.Need("title").Text(), Meaning: m.Get("meaning").Text(), SignedDays: usualSignedDays}
	if n := m.Get("signed_days"); n.Present() {
		g.SignedDays = n.Int(1, 3650)
	}
	for _, n := range m.Get("cells").List() {
		g.Cells = append(g.Cells, readCells(n, drills)...)
	}
	for _, n := range m.Get("witnessed").List() {
		am := n.Map()
		a := Act{Key: readKey(am.Need("act")), Title: am.Get("title").Text(), By: "instructor", ValidDays: am.Get("valid_days").Int(0, 3650)}
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
		m.Node().Fail("the gate asks for nothing", "cells or witnessed acts")
	}
	m.Done()
	if doc.Err() != nil {
		return Gate{}, doc.Err()
	}
	return g, nil
}

// GateKeys lists the gates by key.
func (c *Catalogue) GateKeys() []string { return sortedKeys(c.Gates) }
