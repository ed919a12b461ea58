package web

import (
	"fmt"
	"slices"
	"strings"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/readiness"
	"maestrale/core/record"
)

// shownChances is of how many missing cells the chance is worked out on the student's page.
const shownChances = 4

// estimates puts the chances beside what is missing, and says which side and sectors are
// weak.
func (s *Server) estimates(m *studentModel, j *judged) {
	for i := range m.Missing {
		if i == shownChances {
			break
		}
		m.Missing[i].Chance, _ = s.chanceOf(j, m.Missing[i].Cell)
	}
	type side struct {
		cell drill.Cell
		n    int
	}
	var sided []side
	var keys []readiness.Key
	for _, c := range j.programme.Cells() {
		k := j.cell(c)
		if k.Attempts == 0 {
			continue
		}
		keys = append(keys, readiness.Key{Cell: c, Class: j.class})
		if c.Side == field.LeftSide {
			sided = append(sided, side{c, k.Attempts})
		}
	}
	slices.SortStableFunc(sided, func(a, b side) int { return b.n - a.n })
	for i, x := range sided {
		if i == 3 {
			break
		}
		right := x.cell
		right.Side = field.RightSide
		b, ok := j.evidence.SideBias(readiness.Key{Cell: x.cell, Class: j.class}, x.cell, right)
		if !ok {
			continue
		}
		title := s.titleOf(x.cell.Drill, field.NoSide)
		switch {
		case b.LeftWeaker > 0.9:
			m.Lean = append(m.Lean, fmt.Sprintf("%s: the left is weaker, by %.0f points (%.0f to %.0f)", title, -100*b.Mean, -100*b.High, -100*b.Low))
		case b.LeftWeaker < 0.1:
			m.Lean = append(m.Lean, fmt.Sprintf("%s: the right is weaker, by %.0f points (%.0f to %.0f)", title, 100*b.Mean, 100*b.Low, 100*b.High))
		}
	}
	var weak []string
	if len(keys) > 12 {
		keys = keys[len(keys)-12:] // the highest rungs that were flown
	}
	for i, x := range j.evidence.Sectors(keys, func(k readiness.Key) (drill.Task, error) {
		return s.cat.Drills[k.Drill].Lay(k.Side, k.Level, j.class, nil)
	}) {
		if x.Weak {
			weak = append(weak, readiness.SectorNames[i])
		}
	}
	if len(weak) > 0 {
		m.Lean = append(m.Lean, "Weak at "+listed(weak, 4)+": the whole range of the chance lies under the mean of the ring")
	}
}

// stepUp says what flying a bigger class would ask: the transition where a gate stands
// signed on this one, and everything where none does.
func (s *Server) stepUp(j *judged, seen []record.Witnessed, signs []record.SignOff) string {
	goggles := ""
	for _, d := range s.cat.InOrder() {
		if d.Closed == drill.ByLadder {
			held := !slices.ContainsFunc(j.cells(), func(c readiness.Cell) bool { return c.Standing != readiness.Held })
			if goggles = "The goggles track opens when the whole ladder is held."; held {
				goggles = "The goggles track is open: the whole ladder is held. It begins seated, with a spotter, and counts for itself alone."
			}
			break
		}
	}
	at := slices.Index(craft.Classes, j.class)
	for _, bigger := range craft.Classes[at+1:] {
		for _, key := range s.cat.Craft.Keys() {
			t := s.cat.Craft[key]
			if t.Class() != bigger {
				continue
			}
			var says []string
			for _, g := range s.cat.GateKeys() {
				gate := s.cat.Gates[g]
				if len(gate.Transition) == 0 {
					continue
				}
				r := readiness.JudgeGate(gate, readiness.On{Class: bigger, Type: key, Has: t.Aids}, j.evidence, seen, signs)
				if r.NotFor == "" && r.From != "" && r.State != readiness.GateSigned {
					says = append(says, fmt.Sprintf("%s: %s again on it", gate.Title, strings.Join(s.titles(gate.Transition), ", ")))
				}
			}
			if len(says) > 0 {
				return fmt.Sprintf("Stepping up to %s (%s): %s. What is held on this class carries over as that; nothing else does. %s", t.Title, bigger, strings.Join(says, "; "), goggles)
			}
			return fmt.Sprintf("Stepping up to %s (%s) asks for a gate that stands signed on this class first; then its transition drills alone. %s", t.Title, bigger, goggles)
		}
	}
	return goggles
}
