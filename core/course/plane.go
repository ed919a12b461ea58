package course

import (
	"math"

	"maestrale/core/field"
)

// seg is a straight piece from A to B; both may be the same place.
type seg struct{ A, B field.Point }

// nearest returns the place on the piece that is nearest to p.
func (s seg) nearest(p field.Point) field.Point {
	d := s.B.Sub(s.A)
	l2 := d.X*d.X + d.Y*d.Y
	if l2 == 0 {
		return s.A
	}
	t := ((p.X-s.A.X)*d.X + (p.Y-s.A.Y)*d.Y) / l2
	t = math.Max(0, math.Min(1, t))
	return field.Point{X: s.A.X + t*d.X, Y: s.A.Y + t*d.Y}
}

// cross is the z component of the cross product: positive where b lies to the
// left of a.
func cross(a, b field.Point) float64 { return a.X*b.Y - a.Y*b.X }

// crosses returns where two pieces cross or touch.
func (s seg) crosses(o seg) (field.Point, bool) {
	d, e := s.B.Sub(s.A), o.B.Sub(o.A)
	den := cross(d, e)
	if den == 0 {
		return field.Point{}, false // parallel; where they overlap the ends are near
	}
	t := cross(o.A.Sub(s.A), e) / den
	u := cross(o.A.Sub(s.A), d) / den
	if t < 0 || t > 1 || u < 0 || u > 1 {
		return field.Point{}, false
	}
	return field.Point{X: s.A.X + t*d.X, Y: s.A.Y + t*d.Y}, true
}

// dist returns the distance between two pieces, and where on the other it is.
func (s seg) dist(o seg) (float64, field.Point) {
	if p, ok := s.crosses(o); ok {
		return 0, p
	}
	best, at := math.Inf(1), o.A
	try := func(p, q field.Point) { // p on s, q on o
		v := p.Sub(q)
		if d2 := v.X*v.X + v.Y*v.Y; d2 < best {
			best, at = d2, q
		}
	}
	try(s.A, o.nearest(s.A))
	try(s.B, o.nearest(s.B))
	try(s.nearest(o.A), o.A)
	try(s.nearest(o.B), o.B)
	return math.Sqrt(best), at
}

// pieces are the straight pieces of a hazard.
func pieces(at []field.Point, closed bool) []seg {
	if len(at) == 1 {
		return []seg{{at[0], at[0]}}
	}
	var out []seg
	for i := 1; i < len(at); i++ {
		out = append(out, seg{at[i-1], at[i]})
	}
	if closed && len(at) > 2 {
		out = append(out, seg{at[len(at)-1], at[0]})
	}
	return out
}

// within tells whether a place lies in a ring, by the number of its sides that
// a ray crosses.
func within(p field.Point, ring []field.Point) bool {
	in := false
	for i, j := 0, len(ring)-1; i < len(ring); j, i = i, i+1 {
		a, b := ring[i], ring[j]
		if (a.Y > p.Y) != (b.Y > p.Y) && p.X < (b.X-a.X)*(p.Y-a.Y)/(b.Y-a.Y)+a.X {
			in = !in
		}
	}
	return in
}

// distanceTo is the distance from pieces to a hazard, 0 inside a ring, and the
// place of the hazard that is nearest.
func distanceTo(from []seg, at []field.Point, closed bool) (float64, field.Point) {
	best, where := math.Inf(1), field.Point{}
	for _, s := range from {
		if closed && len(at) > 2 && within(s.A, at) {
			return 0, s.A
		}
		for i := range at {
			var o seg
			switch {
			case i > 0:
				o = seg{at[i-1], at[i]}
			case len(at) == 1:
				o = seg{at[0], at[0]}
			case closed:
				o = seg{at[len(at)-1], at[0]}
			default:
				continue
			}
			if d, p := s.dist(o); d < best {
				best, where = d, p
			}
		}
	}
	return best, where
}

// turned turns a place about another, clockwise seen from above.
func turned(p, about field.Point, by field.Angle) field.Point {
	sin, cos := math.Sincos(float64(by))
	d := p.Sub(about)
	return field.Point{X: about.X + d.X*cos + d.Y*sin, Y: about.Y - d.X*sin + d.Y*cos}
}

// NamedAt is where on a hazard its name is written on a plan: at its first place
// where that can be seen, else on the part of it that can be seen and is nearest to
// the pilot. It is false where nothing of it can be seen.
func (h Hazard) NamedAt(inside func(field.Point) bool, pilot field.Point) (field.Point, bool) {
	if len(h.At) == 0 {
		return field.Point{}, false
	}
	if inside(h.At[0]) {
		return h.At[0], true
	}
	best, far := field.Point{}, math.Inf(1)
	for _, s := range pieces(h.At, h.Closed) {
		const steps = 60
		for i := range steps + 1 {
			f := float64(i) / steps
			q := field.Point{X: s.A.X + f*(s.B.X-s.A.X), Y: s.A.Y + f*(s.B.Y-s.A.Y)}
			if d := q.Dist(pilot); inside(q) && d < far {
				best, far = q, d
			}
		}
	}
	return best, !math.IsInf(far, 1)
}
