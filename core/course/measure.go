package course

import (
	"math"
	"sort"

	"maestrale/core/field"
)

// Leg is how to find a marker from the station: straight, by paces, and by two
// tapes.
type Leg struct {
	Marker   string
	At       field.Point
	DistM    float64
	Bearing  field.Angle
	Paces    float64
	FromPad  float64 // m; 0 for the pad
	SideM    float64 // along the line in front of the pilot, + right
	ForwardM float64
}

// Legs lists the markers with their distances. A pace is the instructor's own,
// in metres.
func (c *Course) Legs(paceM float64) []Leg {
	var out []Leg
	pad, hasPad := c.Markers["pad"]
	for _, name := range c.MarkerNames() {
		p := c.Markers[name]
		d := p.Sub(c.Station)
		l := Leg{Marker: name, At: p, DistM: math.Hypot(d.X, d.Y), Bearing: field.Bearing(d), SideM: d.X, ForwardM: d.Y}
		if paceM > 0 {
			l.Paces = l.DistM / paceM
		}
		if hasPad {
			l.FromPad = p.Dist(pad)
		}
		out = append(out, l)
	}
	return out
}

// Tape is a length between two markers that proves the course square.
type Tape struct {
	A, B     string
	LengthM  float64
	Diagonal bool
}

// Tapes lists the sides and diagonals of the four corners, in the order in which
// they are taped: with the four sides right, equal diagonals make the corners
// square. Without four corners it is every pair of neighbouring markers.
func (c *Course) Tapes() []Tape {
	length := func(a, b string) (Tape, bool) {
		p, ok1 := c.Markers[a]
		q, ok2 := c.Markers[b]
		return Tape{A: a, B: b, LengthM: p.Dist(q)}, ok1 && ok2
	}
	var out []Tape
	for i, pair := range [][2]string{{"near-left", "near-right"}, {"near-right", "far-right"}, {"far-right", "far-left"},
		{"far-left", "near-left"}, {"near-left", "far-right"}, {"near-right", "far-left"}} {
		t, ok := length(pair[0], pair[1])
		if !ok {
			return c.pairs()
		}
		t.Diagonal = i >= 4
		out = append(out, t)
	}
	return out
}

// pairs are the tapes between every two markers, by their names.
func (c *Course) pairs() []Tape {
	names := c.MarkerNames()
	var out []Tape
	for i, a := range names {
		best, d := "", math.Inf(1)
		for _, b := range names[:i] {
			if l := c.Markers[a].Dist(c.Markers[b]); l < d && l > 0 {
				best, d = b, l
			}
		}
		if best != "" {
			out = append(out, Tape{A: best, B: a, LengthM: d})
		}
	}
	sort.SliceStable(out, func(i, j int) bool { return out[i].LengthM < out[j].LengthM })
	return out
}

// Square tells how far the diagonals of the four corners differ, in m; ok is
// false where there are no four corners.
func (c *Course) Square() (differ float64, ok bool) {
	var d []float64
	for _, t := range c.Tapes() {
		if t.Diagonal {
			d = append(d, t.LengthM)
		}
	}
	if len(d) != 2 {
		return 0, false
	}
	return math.Abs(d[0] - d[1]), true
}
