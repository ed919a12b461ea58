package readiness

import (
	"maestrale/core/drill"
	"maestrale/core/field"
)

// Next is the lowest cell of a ladder that is not held; of a ladder that is
// held whole its top, and the zero Cell where there is no rung.
func Next(p drill.Programme, cell func(drill.Cell) Cell) drill.Cell {
	var last drill.Cell
	for _, c := range p.Cells() {
		if cell(c).Standing != Held {
			return c
		}
		last = c
	}
	return last
}

// WeakerSide is the side of a drill that is flown first: the one that stands
// lower or, where they stand alike, has fewer passes; the left in a tie.
func WeakerSide(d drill.Drill, c drill.Cell, cell func(drill.Cell) Cell) field.Side {
	if !d.Sided {
		return field.NoSide
	}
	left, right := c, c
	left.Side, right.Side = field.LeftSide, field.RightSide
	l, r := cell(left), cell(right)
	if r.Standing < l.Standing || r.Standing == l.Standing && r.Passes < l.Passes {
		return field.RightSide
	}
	return field.LeftSide
}
