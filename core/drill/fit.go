package drill

import (
	"fmt"
	"math"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/field"
)

// Fields are smaller than courses. A drill may shrink to fit, as long as its
// tolerances stay in proportion.

// SmallestScale is how far a drill shrinks to come onto a smaller course. The
// sides of the corner drills are four tolerances (course.Lay); at 0.6 they are
// still 2.4, so that the places of two corners do not overlap, and an eight of
// the light class is still flown at a walking pace.
const SmallestScale = 0.6

// ScaleOn returns the share of its size at which the drill is flown on a
// course: 1, or less where the course is smaller than the drill's own template
// laid for the class. What is compared is how wide and how deep the markers lie
// that both have; the pad and the centre say where and not how large, and are
// left out. Tolerances stay as they are: they come from the craft and its
// position noise. It fails under SmallestScale.
func (d Drill) ScaleOn(class craft.Class, c *course.Course) (float64, error) {
	own, ok := course.Lay(d.Template, class)
	if !ok || !d.takesRoom() {
		return 1, nil
	}
	// The markers that both have, as they lie here and in the template.
	var has, wants []field.Point
	for name, w := range own.Markers {
		if h, ok := c.Markers[name]; ok && name != "pad" && name != "centre" {
			has, wants = append(has, h), append(wants, w)
		}
	}
	scale := 1.0
	// The narrower of the two decides, since a figure cannot be squeezed one
	// way only.
	wide, deep := spread(has)
	wantWide, wantDeep := spread(wants)
	if wantWide > 0 {
		scale = math.Min(scale, wide/wantWide)
	}
	if wantDeep > 0 {
		scale = math.Min(scale, deep/wantDeep)
	}
	// A larger course does not make the drill larger.
	if scale > 1-1e-9 {
		return 1, nil
	}
	if scale < SmallestScale {
		return 0, fmt.Errorf("%s does not fit: the course is %.0f %% of the size that it has for class %s, and it shrinks "+
			"to %.0f %% at most", d.Key, 100*scale, class, 100*SmallestScale)
	}
	return scale, nil
}

// takesRoom tells whether the size of the course changes the drill: it names
// markers besides the pad and the centre, places in metres, or a figure's size.
func (d Drill) takesRoom() bool {
	far := func(p *Place) bool { return p != nil && p.Marker != "pad" && p.Marker != "centre" }
	for _, s := range d.Steps {
		if far(s.At) || far(s.To) || s.Figure != nil {
			return true
		}
	}
	return false
}

// spread is how wide and how deep places lie, in metres; 0 for none.
func spread(list []field.Point) (wide, deep float64) {
	if len(list) == 0 {
		return 0, 0
	}
	low, high := list[0], list[0]
	for _, p := range list {
		low = field.Point{X: math.Min(low.X, p.X), Y: math.Min(low.Y, p.Y)}
		high = field.Point{X: math.Max(high.X, p.X), Y: math.Max(high.Y, p.Y)}
	}
	return high.X - low.X, high.Y - low.Y
}
