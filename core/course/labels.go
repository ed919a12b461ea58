package course

import "math"

// Label is a word beside a mark of a drawing: where the mark stands, and how
// wide and high the word is, in the drawing's own units with y downward.
type Label struct{ X, Y, Wide, High float64 }

// labelRounds is how many rings of places round a mark are tried.
const labelRounds = 12

// PlaceLabels finds a place for each word, the middle of its left edge, so that
// no two overlap and none covers a mark: right of its mark where there is room,
// else left, below, above, and farther out. gap is how far a word keeps from
// its mark. A word for which there is no place stands at the right of its mark
// all the same.
func PlaceLabels(list []Label, gap, left, right float64) (at [][2]float64) {
	type box struct{ x0, y0, x1, y1 float64 }
	var taken []box
	for _, l := range list {
		taken = append(taken, box{l.X - gap/2, l.Y - gap/2, l.X + gap/2, l.Y + gap/2})
	}
	free := func(b box) bool {
		if b.x0 < left || b.x1 > right {
			return false
		}
		for _, t := range taken {
			if b.x0 < t.x1 && t.x0 < b.x1 && b.y0 < t.y1 && t.y0 < b.y1 {
				return false
			}
		}
		return true
	}
	for _, l := range list {
		best := box{l.X + gap, l.Y - l.High/2, l.X + gap + l.Wide, l.Y + l.High/2}
		found := false
		for ring := 0; ring < labelRounds && !found; ring++ {
			far := gap + float64(ring)*l.High*0.6
			for _, x := range [...]float64{l.X + gap, l.X - gap - l.Wide, l.X - l.Wide/2} {
				for _, dy := range [...]float64{0, far, -far} {
					if math.Abs(dy) < gap && x == l.X-l.Wide/2 {
						continue // across its mark
					}
					if b := (box{x, l.Y + dy - l.High/2, x + l.Wide, l.Y + dy + l.High/2}); !found && free(b) {
						best, found = b, true
					}
				}
			}
		}
		taken = append(taken, best)
		at = append(at, [2]float64{best.x0, (best.y0 + best.y1) / 2})
	}
	return at
}
