package students

import (
	"fmt"
	"slices"
	"strings"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/readiness"
	"maestrale/internal/knowledge"
	"maestrale/internal/web/frame"
)

// shownChances is of how many missing cells the chance is worked out on the student's page.
const shownChances = 4

// estimates puts the chances beside what is missing, and says which side and sectors are
// weak.
func (s Pages) estimates(m *studentModel, j *knowledge.Student) {
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
	for _, c := range j.Programme.Cells() {
		k := j.Cell(c)
		if k.Attempts == 0 {
			continue
		}
		keys = append(keys, readiness.Key{Cell: c, Class: j.On.Class})
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
		b, ok := j.Evidence.SideBias(readiness.Key{Cell: x.cell, Class: j.On.Class}, x.cell, right)
		if !ok {
			continue
		}
		title := s.Cat.TitleOf(x.cell.Drill, field.NoSide)
		switch {
		case b.LeftWeaker > 0.9:
			m.Lean = append(m.Lean, fmt.Sprintf(msgLeftWeakerPoints, title, -100*b.Mean,
				-100*b.High, -100*b.Low))
		case b.LeftWeaker < 0.1:
			m.Lean = append(m.Lean, fmt.Sprintf(msgRightWeakerPoints, title, 100*b.Mean,
				100*b.Low, 100*b.High))
		}
	}
	var weak []string
	if len(keys) > 12 {
		keys = keys[len(keys)-12:] // the highest rungs that were flown
	}
	for i, x := range j.Evidence.Sectors(keys, func(k readiness.Key) (drill.Task, error) {
		return s.Cat.Drills[k.Drill].Lay(k.Side, k.Level, j.On.Class, nil)
	}) {
		if x.Weak {
			weak = append(weak, readiness.SectorNames[i])
		}
	}
	if len(weak) > 0 {
		m.Lean = append(m.Lean, fmt.Sprintf(msgWeakWholeRange, frame.Listed(weak,
			4)))
	}
}

// stepUp says what flying a bigger class would ask: the transition where a gate stands
// signed on this one, and everything where none does.
func (s Pages) stepUp(j *knowledge.Student) string {
	goggles := ""
	for _, d := range s.Cat.InOrder() {
		if d.Closed == drill.ByLadder {
			held := !slices.ContainsFunc(j.Cells(), func(c readiness.Cell) bool { return c.Standing != readiness.Held })
			if goggles = msgGogglesTrackOpens; held {
				goggles = msgGogglesTrackOpen
			}
			break
		}
	}
	at := slices.Index(craft.Classes, j.On.Class)
	for _, bigger := range craft.Classes[at+1:] {
		for _, key := range s.Cat.Craft.Keys() {
			t := s.Cat.Craft[key]
			if t.Class() != bigger {
				continue
			}
			var says []string
			for _, g := range s.Cat.GateKeys() {
				gate := s.Cat.Gates[g]
				if len(gate.Transition) == 0 {
					continue
				}
				r := readiness.JudgeGate(gate, readiness.OnCraft(t), j.Evidence, j.Seen, j.Signs)
				if r.NotFor == "" && r.From != "" && r.State != readiness.GateSigned {
					says = append(says, fmt.Sprintf(msgAgainOnIt, gate.Title, strings.Join(s.titles(gate.Transition), ", ")))
				}
			}
			if len(says) > 0 {
				return fmt.Sprintf(msgSteppingUpWhat, t.Title, bigger, strings.Join(says, "; "), goggles)
			}
			return fmt.Sprintf(msgSteppingUpAsks, t.Title, bigger, goggles)
		}
	}
	return goggles
}
