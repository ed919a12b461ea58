package score

import (
	"math"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/track"
)

// criterion names one of the tolerances that a craft is inside or outside of.
type criterion int

const (
	byNothing criterion = iota
	byRadius
	byHeight
	byNose
)

// criteria are the tolerances of a step that are judged; a limit of 0 is not.
type criteria struct {
	at      field.Point
	height  float64
	rule    drill.Rule
	station field.Point
	kept    field.Angle
	own     drill.Limits // as the step says them

	// Inside the circle the bearing differs from its centre's by slack at most,
	// so that a nose well inside its limit about sight needs no arctangent.
	sight, slack field.Angle

	radius, r2, band float64
	land             landCriteria
	way              wayCriteria
	nose             field.Angle

	homeOffset, seconds, lost float64 // of a return and a regain
}

// errs is how far the craft is from what the step asks.
type deviation struct {
	dx, dy, d2, dz float64
	dn             field.Angle
}

func (e deviation) size(by criterion) float64 {
	switch by {
	case byRadius:
		return math.Sqrt(e.d2)
	case byHeight:
		return math.Abs(e.dz)
	case byNose:
		return e.dn.Abs().Deg()
	}
	return 0
}

// from centres the criteria of a turn on the place where it began.
func (c *criteria) from(s drill.Target, p point) {
	if !s.HasAt {
		c.at = field.Point{X: p.x, Y: p.y}
	}
	c.height, c.kept = p.z, p.heading
}

// know prepares what insideAt uses.
func (c *criteria) know() {
	c.r2 = c.radius * c.radius
	to := c.at.Sub(c.station)
	if d := math.Hypot(to.X, to.Y); c.rule.Kind == drill.Sight && c.radius > 0 && c.radius < d {
		c.sight, c.slack = field.Bearing(to)+c.rule.Angle, field.Angle(math.Asin(c.radius/d))
	}
}

// judges tells whether anything is judged at all.
func (c *criteria) judges() bool { return c.r2 > 0 || c.band > 0 || c.nose > 0 }

// offPlace is how far a sample is off its place and its height; its nose is not looked at.
func (c *criteria) offPlace(p point) (e deviation) {
	e.dx, e.dy, e.dz = p.x-c.at.X, p.y-c.at.Y, p.z-c.height
	e.d2 = e.dx*e.dx + e.dy*e.dy
	return e
}

func (c *criteria) errors(p point) deviation {
	e := c.offPlace(p)
	if c.nose > 0 {
		e.dn = c.deviation(p.x, p.y, p.heading)
	}
	return e
}

// insideAt tells whether a sample is inside, without making its errors.
func (c *criteria) insideAt(t *track.Track, i int) bool {
	dx, dy := t.X[i]-c.at.X, t.Y[i]-c.at.Y
	if (c.r2 > 0 && dx*dx+dy*dy > c.r2) || (c.band > 0 && math.Abs(t.Z[i]-c.height) > c.band) {
		return false
	}
	if c.nose <= 0 || (c.slack > 0 && (t.Heading[i]-c.sight).Wrap().Abs()+c.slack <= c.nose) {
		return true
	}
	return c.deviation(t.X[i], t.Y[i], t.Heading[i]).Abs() <= c.nose
}

// errorsOver is errors of which the nose counts only where it is farther off than so much; else it may be left at 0. A
// rough bearing tells that of most samples.
func (c *criteria) errorsOver(p point, nose field.Angle) deviation {
	e := c.offPlace(p)
	if c.nose > 0 && !(c.rule.Kind == drill.Sight && c.rule.Deviation(p.heading,
		field.RoughBearing(field.Point{X: p.x - c.station.X, Y: p.y - c.station.Y}), c.kept).Abs()+2*field.Rough < nose) {
		e.dn = c.deviation(p.x, p.y, p.heading)
	}
	return e
}

func (c *criteria) deviation(x, y float64, heading field.Angle) field.Angle {
	var seen field.Angle
	if c.rule.Kind == drill.Sight {
		seen = field.Bearing(field.Point{X: x - c.station.X, Y: y - c.station.Y})
	}
	return c.rule.Deviation(heading, seen, c.kept)
}

func (c *criteria) inside(e deviation) bool {
	return c.firstOut(e) == byNothing && c.judges()
}

// firstOut returns a tolerance that the craft is outside of.
func (c *criteria) firstOut(e deviation) criterion {
	switch {
	case c.r2 > 0 && e.d2 > c.r2:
		return byRadius
	case c.band > 0 && math.Abs(e.dz) > c.band:
		return byHeight
	case c.nose > 0 && e.dn.Abs() > c.nose:
		return byNose
	}
	return byNothing
}

// stretch returns the part of a segment, as shares from 0 to 1, in which the
// craft is inside every tolerance, and the tolerance that ends it. Each of
// them is convex along a straight line, so that there is one such part at
// most; where there is none, in is over out.
func (c *criteria) stretch(a, b deviation) (in, out float64, by criterion) {
	if !c.judges() {
		return 1, 0, byNothing
	}
	in, out = 0, 1
	take := func(from, to float64, who criterion) {
		in = math.Max(in, from)
		if to < out {
			out, by = to, who
		}
	}
	if c.r2 > 0 {
		from, to := circleStretch(a, b, c.r2)
		take(from, to, byRadius)
	}
	if c.band > 0 {
		from, to := bandStretch(a.dz, b.dz, c.band)
		take(from, to, byHeight)
	}
	if c.nose > 0 {
		from, to := bandStretch(float64(a.dn), float64(a.dn+(b.dn-a.dn).Wrap()), float64(c.nose))
		take(from, to, byNose)
	}
	// The ends are known exactly; the roots are not.
	if c.inside(a) {
		in = 0
	}
	if c.inside(b) {
		out = 1
	} else if out >= 1 {
		out, by = math.Nextafter(1, 0), c.firstOut(b)
	}
	return in, out, by
}

// circleStretch solves |a + f(b−a)|² ≤ r² for f in [0, 1].
func circleStretch(a, b deviation, r2 float64) (float64, float64) {
	vx, vy := b.dx-a.dx, b.dy-a.dy
	qa, qb, qc := vx*vx+vy*vy, a.dx*vx+a.dy*vy, a.d2-r2
	if qa == 0 {
		if qc <= 0 {
			return 0, 1
		}
		return 1, 0
	}
	disc := qb*qb - qa*qc
	if disc < 0 {
		return 1, 0
	}
	root := math.Sqrt(disc)
	return math.Max(0, (-qb-root)/qa), math.Min(1, (-qb+root)/qa)
}

// bandStretch solves |a + f(b−a)| ≤ lim for f in [0, 1].
func bandStretch(a, b, lim float64) (float64, float64) {
	if a == b {
		if math.Abs(a) <= lim {
			return 0, 1
		}
		return 1, 0
	}
	f, g := (-lim-a)/(b-a), (lim-a)/(b-a)
	return math.Max(0, math.Min(f, g)), math.Min(1, math.Max(f, g))
}

// leaving describes the fault of leaving a tolerance at p.
func (c *criteria) leaving(by criterion, p point) Fault {
	e := c.errors(p)
	f := Fault{Value: value(e.size(by)), At: &Place{p.x, p.y, p.z}}
	switch by {
	case byRadius:
		f.Code, f.Limit, f.Toward = LeftBox, value(c.own.Radius), field.Direction(field.Point{X: e.dx, Y: e.dy})
	case byHeight:
		f.Code, f.Limit, f.Toward = Height, value(c.own.Height), "up"
		if e.dz < 0 {
			f.Toward = "down"
		}
	default:
		f.Code, f.Limit, f.Toward = Nose, value(c.own.Nose.Deg()), "right"
		if e.dn < 0 {
			f.Toward = "left"
		}
	}
	return f
}
