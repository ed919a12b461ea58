package readiness

import (
	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
)

// Sector is one sector of a band of the aspect ring.
type Sector struct {
	// Without a drill the sector is left blank.
	Drills   bool     // some drill of the programme lies here
	Standing Standing // the worst of the cells whose drills lie here
	Worst    Cell     // one that stands so
	Seconds  float64  // flown here inside tolerance
}

// Ring is the aspect ring: what stands with position hold, and without it.
// Sectors go clockwise from tail-in.
type Ring struct{ With, Without [field.Sectors]Sector }

// RingOf draws together the cells of a programme by the sectors in which their
// drills lie; of several in one sector the worst is shown. lay makes a cell's
// task; cells that cannot be laid are left out.
func RingOf(cells []Cell, lay func(drill.Cell) (drill.Task, error)) Ring {
	var r Ring
	for _, c := range cells {
		task, err := lay(c.Cell)
		if err != nil {
			continue
		}
		band := &r.Without
		if c.Aids == craft.PositionHold {
			band = &r.With
		}
		for i, in := range task.Sectors() {
			if s := &band[i]; in && (!s.Drills || c.Standing < s.Standing) {
				s.Drills, s.Standing, s.Worst = true, c.Standing, c
			}
		}
	}
	return r
}

// Add counts seconds flown inside tolerance, by sector, with the given aids.
func (r *Ring) Add(aids craft.Aids, seconds []float32) {
	band := &r.Without
	if aids == craft.PositionHold {
		band = &r.With
	}
	for i, s := range seconds {
		if i < field.Sectors {
			band[i].Seconds += float64(s)
		}
	}
}

// SectorNames names the sectors as the pilot sees the nose, clockwise from
// tail-in.
var SectorNames = [field.Sectors]string{
	"tail-in", msg22RightOfTail, msg45RightOfTail, msg67RightOfTail, "nose right",
	msg67RightOfNose, msg45RightOfNose, msg22RightOfNose,
	"nose-in", msg22LeftOfNose, msg45LeftOfNose, msg67LeftOfNose, "nose left", msg67LeftOfTail,
	msg45LeftOfTail, msg22LeftOfTail,
}

// RungHalf is one half of a rung, or the whole of one without sides: the worst
// of its cells on that side.
type RungHalf struct {
	Side field.Side
	Cell Cell
}

// Lately returns how many of the three asked passes stand among the newest
// attempts; three where the cell is or was held.
func (c Cell) Lately() int {
	if c.Standing == Held || c.Standing == Lapsed {
		return wanted
	}
	return min(c.passedLately, wanted)
}

// Ladder judges a programme rung by rung, from the ground up. A rung has up to
// three halves: the cells without a side, on the left and on the right.
func Ladder(p drill.Programme, cell func(drill.Cell) Cell) [][]RungHalf {
	out := make([][]RungHalf, len(p.Rungs))
	for i, r := range p.Rungs {
		for _, side := range []field.Side{field.NoSide, field.LeftSide, field.RightSide} {
			var worst *Cell
			for _, dc := range r.Cells {
				if dc.Side != side {
					continue
				}
				if c := cell(dc); worst == nil || c.Standing < worst.Standing {
					worst = &c
				}
			}
			if worst != nil {
				out[i] = append(out[i], RungHalf{side, *worst})
			}
		}
	}
	return out
}
