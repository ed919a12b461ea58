package readiness

import (
	"testing"

	"maestrale/core/drill"
	"maestrale/core/field"
)

func TestNextIsTheLowestThatIsNotHeld(t *testing.T) {
	p := drill.Shipped().Programmes["position-hold-first"]
	cells := p.Cells()
	for lowest := range len(cells) + 1 {
		got := Next(p, func(c drill.Cell) Cell {
			for i, k := range cells {
				if k == c && i < lowest {
					return Cell{Standing: Held}
				}
			}
			return Cell{Standing: Lapsed}
		})
		if want := cells[min(lowest, len(cells)-1)]; got != want {
			t.Errorf("%d held from the ground up: %+v, want %+v", lowest, got, want)
		}
	}
	if got := Next(drill.Programme{}, nil); got != (drill.Cell{}) {
		t.Errorf("a ladder without rungs: %+v", got)
	}
}

func TestWeakerSide(t *testing.T) {
	sided := drill.Drill{Sided: true}
	for _, c := range []struct {
		left, right Cell
		want        field.Side
	}{
		{Cell{Standing: Held}, Cell{Standing: Building}, field.RightSide},
		{Cell{Standing: Building}, Cell{Standing: Held}, field.LeftSide},
		{Cell{Standing: Building, Passes: 2}, Cell{Standing: Building, Passes: 1}, field.RightSide},
		{Cell{Standing: Building, Passes: 1}, Cell{Standing: Building, Passes: 1}, field.LeftSide},
		{Cell{Standing: Building, Passes: 9}, Cell{Standing: Lapsed}, field.LeftSide},
	} {
		cell := func(k drill.Cell) Cell {
			if k.Side == field.LeftSide {
				return c.left
			}
			return c.right
		}
		if got := WeakerSide(sided, drill.Cell{}, cell); got != c.want {
			t.Errorf("left %v, right %v: %s, want %s", c.left.Standing, c.right.Standing, got, c.want)
		}
		if got := WeakerSide(drill.Drill{}, drill.Cell{}, cell); got != field.NoSide {
			t.Errorf("a drill without sides: %s", got)
		}
	}
}
