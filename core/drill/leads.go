package drill

import (
	"fmt"
	"slices"

	"maestrale/core/craft"
	"maestrale/core/yamldoc"
)

// A student who climbs a ladder must come to the gates that are drawn on it.
// That a programme leads there is checked when it is read, not hoped for.

// GateLine is where a programme draws a gate: above a rung, counted from the
// ground up from 0. Every cell that the gate asks for is on that rung or on one
// under it.
type GateLine struct {
	// Gate is the key of the gate.
	Gate string
	Rung int // place among the rungs, from the ground up
}

// readLines reads where a programme draws its gates. The rungs must have been
// read.
func (p *Programme) readLines(list yamldoc.Node) {
	for _, n := range list.List() {
		m := n.Map()
		l := GateLine{Gate: readKey(m.Need("gate"))}
		above := m.Need("above")
		l.Rung = slices.IndexFunc(p.Rungs, func(r Rung) bool { return r.Key == above.Text() })
		if l.Rung < 0 && above.Present() {
			above.Fail(fmt.Sprintf(msgNoRung, above.Text()), msgWantRungKey)
		}
		if slices.ContainsFunc(p.Lines, func(o GateLine) bool { return o.Gate == l.Gate }) {
			n.Fail(fmt.Sprintf(msgGateTwice, l.Gate), msgWantGateOnce)
		}
		m.Done()
		p.Lines = append(p.Lines, l)
	}
	slices.SortStableFunc(p.Lines, func(a, b GateLine) int { return a.Rung - b.Rung })
}

// LinesAbove are the keys of the gates that are drawn above a rung; nil for
// none.
func (p Programme) LinesAbove(rung int) (gates []string) {
	for _, l := range p.Lines {
		if l.Rung == rung {
			gates = append(gates, l.Gate)
		}
	}
	return gates
}

// aids are the aids with which anything on the ladder is flown: what a student
// on it is taken to have.
func (p Programme) aids() (out []craft.Aids) {
	for _, c := range p.Cells() {
		if !slices.Contains(out, c.Aids) {
			out = append(out, c.Aids)
		}
	}
	return out
}

// Leads is an error unless the programme leads to each gate that it draws:
// every cell that the gate asks for, or what is flown in its place with the
// aids of the ladder, is on a rung under the gate's line, with aids and at a
// level that serve it. The error names the first cell that is on none.
func (p Programme) Leads(gates map[string]Gate) error {
	aids := p.aids()
	for _, l := range p.Lines {
		g, ok := gates[l.Gate]
		if !ok {
			return fmt.Errorf("the programme %s draws the gate %q, which is not known; expected the key of a gate", p.Key,
				l.Gate)
		}
		// under is everything on the rungs below the line.
		var under []Cell
		for _, r := range p.Rungs[:l.Rung+1] {
			under = append(under, r.Cells...)
		}
		for _, asked := range g.Cells {
			// What is asked, or what this ladder flies in its place.
			c, can := g.For(asked, aids)
			if !can || !slices.ContainsFunc(under, func(o Cell) bool { return o.Serves(c) }) {
				return fmt.Errorf("the programme %s does not lead to the gate %s: %s %s, %s is on no rung under its line; "+
					"expected every cell of the gate there", p.Key, g.Key, c.Drill, sideWord(c.Side), c.Aids.Words())
			}
		}
	}
	return nil
}

// checkLeads holds every programme to the gates that it draws. files names the
// file of each programme and gate that is new ("programme KEY", "gate KEY");
// the error begins with one of them where there is one, since that is the file
// to mend.
func (c *Catalogue) checkLeads(files map[string]string) error {
	for _, key := range c.ProgrammeKeys() {
		p := c.Programmes[key]
		err := p.Leads(c.Gates)
		if err == nil {
			continue
		}
		// The file that was laid over is the one that does not fit.
		if name := files["programme "+key]; name != "" {
			return fmt.Errorf("%s: %w", name, err)
		}
		for _, l := range p.Lines {
			if name := files["gate "+l.Gate]; name != "" {
				return fmt.Errorf("%s: %w", name, err)
			}
		}
		return err
	}
	return nil
}
