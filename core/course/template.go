package course

import (
	"math"

	"maestrale/core/craft"
	"maestrale/core/field"
)

// Template is a course that is laid by name.
type Template struct{ Key, Title, For string }

// Templates lists the courses that can be laid.
var Templates = []Template{
	{"box", "Box", msgTemplateHover},
	{"five-markers", "Five markers",
		msgTemplateTours},
	{"oval", "Oval", msgTemplateCircuits},
	{"eight", "Eight", msgTemplateEight},
	{"pads", "Landing pads", msgTemplateLandings},
}

// TemplateTitle is what a template is called; a key that is none is its own title.
func TemplateTitle(key string) string {
	for _, t := range Templates {
		if t.Key == key {
			return t.Title
		}
	}
	return key
}

// size is how a class spreads a course: how far off its centre stands, and half
// the side of its box.
type size struct{ dist, half float64 }

// sizes by class. The centre stands far enough off that the near corners keep
// three times the widest tolerance of the class from the pilot, and near enough
// that the aspect of a craft of that size is seen without effort; the sides are
// four tolerances of the corner drills, so that neighbouring corners never overlap.
var sizes = map[craft.Class]size{craft.Micro: {3, 1}, craft.Light: {6, 2}, craft.Medium: {8, 2.5}, craft.Heavy: {12, 4}}

// Lay returns a template laid for the craft class, with the pilot's station at
// the origin.
func Lay(template string, class craft.Class) (*Course, bool) {
	s, ok := sizes[class]
	if !ok {
		s = sizes[craft.Light]
	}
	at := func(x, y float64) field.Point { return field.Point{X: x, Y: y} }
	corners := func(m map[string]field.Point, y, half float64) map[string]field.Point {
		m["near-left"], m["near-right"] = at(-half, y-half), at(half, y-half)
		m["far-left"], m["far-right"] = at(-half, y+half), at(half, y+half)
		return m
	}
	var m map[string]field.Point
	switch template {
	case "box":
		m = corners(map[string]field.Point{"pad": at(0, s.dist), "centre": at(0, s.dist)}, s.dist, s.half)
	case "five-markers":
		// Half as far again, so that the pad has room before the near corners.
		y, half := 1.5*s.dist, 1.5*s.half
		m = corners(map[string]field.Point{"pad": at(0, 0.6*s.dist), "centre": at(0, y)}, y, half)
	case "oval":
		// Straight legs of three box sides, ends as wide as a side and a half.
		y, leg, r := 2*s.dist, 3*s.half, 1.5*s.half
		m = map[string]field.Point{"pad": at(0, 0.8*s.dist), "centre": at(0, y), "near-leg": at(0, y-r),
			"far-leg":  at(0, y+r),
			"left-end": at(-leg-r, y), "right-end": at(leg+r, y)}
	case "eight":
		y, r := 2*s.dist, 2*s.half
		m = map[string]field.Point{"pad": at(0, 0.8*s.dist), "centre": at(0, y), "left-lobe": at(-r, y), "right-lobe": at(r,
			y),
			"left-end": at(-2*r, y), "right-end": at(2*r, y)}
	case "pads":
		y, half := 1.5*s.dist, 2*s.half
		m = map[string]field.Point{"pad": at(0, s.dist), "centre": at(0, y), "pad-left": at(-half, y), "pad-right": at(half,
			y), "pad-far": at(0, 2.5*s.dist)}
	default:
		return nil, false
	}
	return &Course{Markers: m, Class: class}, true
}

// TemplateKeys lists the templates by key.
func TemplateKeys() []string {
	var out []string
	for _, t := range Templates {
		out = append(out, t.Key)
	}
	return out
}

// Turn turns the pilot, and with the pilot everything that is laid from the
// station, clockwise by an angle: markers keep their places in the pilot's eyes,
// hazards and crowd keep theirs on the ground. It is what one does to bring the
// wind behind.
func (c *Course) Turn(by field.Angle) error {
	next := c.Clone()
	for i := range next.Hazards {
		for j, p := range next.Hazards[i].At {
			next.Hazards[i].At[j] = turned(p, c.Station, -by)
		}
	}
	for i := range next.Crowd {
		for j, p := range next.Crowd[i] {
			next.Crowd[i][j] = turned(p, c.Station, -by)
		}
	}
	if c.Plane != nil {
		// The frame turns about the station, which may not be its origin.
		at := c.Plane.ToGeo(c.Station, 0)
		p, err := field.NewPlane(at, math.Mod(c.Plane.AwayDeg()+by.Deg()+720, 360))
		if err != nil {
			return err
		}
		next.Plane = p
		next.shift(field.Point{X: -c.Station.X, Y: -c.Station.Y})
	}
	return c.become(next)
}

// shift moves everything by a vector.
func (c *Course) shift(by field.Point) {
	move := func(p field.Point) field.Point { return field.Point{X: p.X + by.X, Y: p.Y + by.Y} }
	c.Station = move(c.Station)
	for k, p := range c.Markers {
		c.Markers[k] = move(p)
	}
	for i := range c.Crowd {
		for j, p := range c.Crowd[i] {
			c.Crowd[i][j] = move(p)
		}
	}
	for i := range c.Hazards {
		for j, p := range c.Hazards[i].At {
			c.Hazards[i].At[j] = move(p)
		}
	}
}

// Scale spreads the markers from the station by a factor; hazards stay.
func (c *Course) Scale(by float64) error {
	next := c.Clone()
	for k, p := range next.Markers {
		d := p.Sub(c.Station)
		next.Markers[k] = field.Point{X: c.Station.X + by*d.X, Y: c.Station.Y + by*d.Y}
	}
	return c.become(next)
}

// LayOver replaces the markers by those of a template, laid from the station.
func (c *Course) LayOver(template string, class craft.Class) bool {
	laid, ok := Lay(template, class)
	if !ok {
		return false
	}
	c.Markers = map[string]field.Point{}
	for k, p := range laid.Markers {
		c.Markers[k] = field.Point{X: c.Station.X + p.X, Y: c.Station.Y + p.Y}
	}
	return true
}

// become takes the place of the course where the next one is sound.
func (c *Course) become(next *Course) error {
	if err := next.Check(); err != nil {
		return err
	}
	*c = *next
	return nil
}

// Change applies a change and keeps it only where the course stays sound.
func (c *Course) Change(f func(*Course)) error {
	next := c.Clone()
	f(next)
	return c.become(next)
}
