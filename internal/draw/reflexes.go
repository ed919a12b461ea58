package draw

import (
	"fmt"
	"html/template"
	"math"

	"maestrale/core/field"
	"maestrale/core/orient"
)

// Reflexes draws the aspect ring of reflexes: tail-in at the top, the pilot at the bottom.
// A sector is filled from the middle by its share of right answers; a weak one is hatched.
func Reflexes(sectors [field.Sectors]orient.SectorReflex) template.HTML {
	const c, inner, outer = 150.0, 50.0, 116.0
	var s svg
	s.open(300, 318, "reflex-ring", msgReflexesWhereNose)
	step := 2 * math.Pi / field.Sectors
	arc := func(i int, r float64, class string) {
		a, b := float64(i)*step-step/2+0.015, float64(i)*step+step/2-0.015
		p := func(r, a float64) string { return n(c+r*math.Sin(a)) + " " + n(c-r*math.Cos(a)) }
		s.add(`<path class="%s" d="M%sL%sA%s %s 0 0 1 %sL%sA%s %s 0 0 0 %sZ"/>`, class, p(inner, a), p(r, a), n(r), n(r),
			p(r, b), p(inner, b), n(inner), n(inner), p(inner, a))
	}
	for i, x := range sectors {
		arc(i, outer, "reflex-all")
		if x.Asked > 0 {
			class := "reflex-right"
			if x.Weak {
				class = "reflex-weak"
			}
			arc(i, inner+(outer-inner)*math.Max(0.04, x.Share), class)
		}
	}
	for _, t := range []struct {
		x, y float64
		w    string
	}{{c, 26, "tail-in"}, {c, 284, "nose-in"}, {16, c + 4, "left"}, {285, c + 4, "right"}} {
		s.text(t.x, t.y, "small", "middle", t.w)
	}
	s.add(`<g class="pilot" transform="translate(%s 308)"><circle cy="-6" r="4"/><path d="M-9 8Q0 -6 9 8Z"/></g>`, n(c))
	total := 0
	for _, x := range sectors {
		total += x.Asked
	}
	s.text(c, c+5, "small", "middle", fmt.Sprintf("%d asked", total))
	return s.done()
}
