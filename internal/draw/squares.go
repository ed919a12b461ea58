package draw

import (
	"html/template"
	"image"
)

// Squares draws a picture of black and white squares, one a pixel, with four free squares
// round it as codes of that kind want.
func Squares(m image.Image, label string) template.HTML {
	const quiet = 4
	b := m.Bounds()
	var s svg
	s.open(float64(b.Dx()+2*quiet), float64(b.Dy()+2*quiet), "squares", label)
	s.add(`<rect class="squares-ground" width="%d" height="%d"/><path class="squares-ink" d="`, b.Dx()+2*quiet,
		b.Dy()+2*quiet)
	for y := b.Min.Y; y < b.Max.Y; y++ {
		for x := b.Min.X; x < b.Max.X; x++ {
			if r, _, _, _ := m.At(x, y).RGBA(); r == 0 {
				s.add("M%d %dh1v1h-1z", x-b.Min.X+quiet, y-b.Min.Y+quiet)
			}
		}
	}
	s.add(`"/>`)
	return s.done()
}
