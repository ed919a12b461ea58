package draw

import (
	"fmt"
	"html/template"
	"strings"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/readiness"
)

const (
	ladderMid  = 107.0 // where left and right part
	ladderHalf = 101.0 // length of a half
	ladderPart = 34.0  // one of three parts of a half
)

// Ladder draws a programme from the ground up: each sided rung is a bar split
// in the middle, its parts filled from there outward; a rung without sides is
// one bar across. A gate is a line above the highest rung that it asks for, with its title.
func Ladder(p drill.Programme, halves [][]readiness.RungHalf, gates map[string]drill.Gate) template.HTML {
	row, bar := 25.0, 17.0
	if len(p.Rungs) > tallLadder {
		row, bar = 19, 13
	}
	var s svg
	h := row*float64(len(p.Rungs)+len(p.Lines)) + 2
	s.open(440, h, "ladder", fmt.Sprintf(msgLadderOf, p.Title))
	y := h - 2
	for i, r := range p.Rungs {
		y -= row
		for _, half := range halves[i] {
			s.rung(y, bar, half, r.Title)
		}
		s.text(ladderMid+ladderHalf+16, y+bar-4, "rung", "start", r.Title)
		for _, key := range p.LinesAbove(i) {
			y -= row
			s.line(2, y+bar-4, ladderMid+ladderHalf+10, y+bar-4, "gate-line")
			s.text(ladderMid+ladderHalf+16, y+bar-2, "gate-name", "start", gates[key].Title)
		}
	}
	s.line(ladderMid, 0, ladderMid, h-6, "middle")
	return s.done()
}

// tallLadder is how many rungs are drawn with room between; more are drawn closer.
const tallLadder = 26

// MiniLadder draws the ladder small, for a table's row, without words: what has the same standing is one path, so that
// a page with fifty of them stays small.
func MiniLadder(p drill.Programme, halves [][]readiness.RungHalf) template.HTML {
	var s svg
	row, bar := 7.0, 5.0
	if len(p.Rungs) > tallLadder {
		row, bar = 3.2, 2.4
	}
	s.open(2*ladderMid, row*float64(len(p.Rungs))+1, "ladder mini", fmt.Sprintf("ladder, %d rungs", len(p.Rungs)))
	paths, order := map[string]*strings.Builder{}, []string{}
	for i := range p.Rungs {
		y := row * float64(len(p.Rungs)-1-i)
		for _, half := range halves[i] {
			for _, part := range partsOf(half) {
				path := paths[part.class]
				if path == nil {
					path = &strings.Builder{}
					paths[part.class] = path
					order = append(order, part.class)
				}
				fmt.Fprintf(path, "M%s %sh%sv%sh-%sz", n(part.x), n(y), n(part.w), n(bar), n(part.w))
			}
		}
	}
	for _, class := range order {
		s.add(`<path class="%s" d="%s"/>`, class, paths[class])
	}
	return s.done()
}

// part is one of three parts of a half of a rung.
type part struct {
	x, w  float64
	class string
}

// partsOf are the parts of a half, from the middle outward, filled by its standing.
func partsOf(half readiness.RungHalf) (out [3]part) {
	c := half.Cell
	for k := range out {
		class := "untried"
		switch {
		case c.Standing == readiness.Held || c.Standing == readiness.Lapsed:
			class = c.Standing.String()
		case k < c.Lately():
			class = "building"
		case c.Standing == readiness.Building:
			class = "untried begun"
		}
		x, w := ladderMid+3+ladderPart*float64(k), ladderPart-3
		switch half.Side {
		case field.LeftSide:
			x = ladderMid - ladderPart*float64(k+1)
		case field.NoSide:
			w = (2*3*ladderPart - 6) / 3 // as wide as both halves together
			x = ladderMid - 3*ladderPart + (w+3)*float64(k)
		}
		out[k] = part{x, w, class}
	}
	return out
}

func (s *svg) rung(y, height float64, half readiness.RungHalf, title string) {
	side := ""
	if half.Side != field.NoSide {
		side = ", " + string(half.Side)
	}
	title = fmt.Sprintf("%s%s: %s; %s", title, side, half.Cell.Standing, half.Cell.Why)
	for _, p := range partsOf(half) {
		s.rect(p.x, y, p.w, height, p.class, title)
	}
}
