package score

import (
	"math"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/track"
)

// Between two samples the craft is taken to move straight, so the moments at
// which it leaves a circle, a band or a limit of the nose, and comes back, are
// the roots of a quadratic or of straight lines. Verdicts therefore hardly
// depend on how often a log is written.

// criterion names the tolerance that a craft is outside of. Only these three
// are held against every sample; other limits are judged once per step.
type criterion int

const (
	byNothing criterion = iota
	byRadius
	byHeight
	byNose
)

// criteria are the tolerances of one step as the log at hand can judge them. A
// limit of 0 is not judged: the step sets none, or the log is too coarse for
// it. Where noise alone reaches farther than a limit of the step, the limit
// here is the wider one, and own has what the step says.
type criteria struct {
	// Where the craft should be: at over the ground and height, both in metres
	// in the field frame, and rule for the nose. kept is the heading in which
	// the step began, for rules that say "as it was".
	at      field.Point
	height  float64
	rule    drill.Rule
	station field.Point
	kept    field.Angle
	own     drill.Limits // as the step says them

	// sight is the heading that the rule asks for at the centre of the circle,
	// and slack the largest change of the bearing inside it: asin(radius ÷
	// distance of the station). A nose that is inside its limit by more than
	// slack is inside everywhere in the circle, without an arctangent.
	sight, slack field.Angle

	// radius is the circle over the ground and r2 its square, band half the
	// height of the band, both in metres.
	radius, r2, band float64
	land             landCriteria
	way              wayCriteria
	nose             field.Angle

	// homeOffset is in metres, seconds in seconds, lost in metres farther away.
	homeOffset, seconds, lost float64 // of a return and a regain
}

// deviation is how far the craft is from what a step asks, at one moment: dx,
// dy and dz in metres, d2 = dx² + dy², dn the nose off its rule, positive to
// the right.
type deviation struct {
	dx, dy, d2, dz float64
	dn             field.Angle
}

// size returns the deviation by one criterion: metres for a place or a height,
// degrees for the nose.
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

// from centres the criteria of a turn on p, where it began: a turn without a
// marker of its own is held to the place, height and heading that it was begun
// with.
func (c *criteria) from(s drill.Target, p point) {
	if !s.HasAt {
		c.at = field.Point{X: p.x, Y: p.y}
	}
	c.height, c.kept = p.z, p.heading
}

// know works out the fields that insideAt uses from the others. sight and slack
// stay 0, and are not used, where the station lies inside the circle or the
// rule is not about the line of sight.
func (c *criteria) know() {
	c.r2 = c.radius * c.radius
	to := c.at.Sub(c.station)
	if d := math.Hypot(to.X, to.Y); c.rule.Kind == drill.Sight && c.radius > 0 && c.radius < d {
		c.sight, c.slack = field.Bearing(to)+c.rule.Angle, field.Angle(math.Asin(c.radius/d))
	}
}

// judges tells whether any tolerance is held against the samples. Where none
// is, the craft is never inside, so that a hold needs at least one.
func (c *criteria) judges() bool { return c.r2 > 0 || c.band > 0 || c.nose > 0 }

// offPlace returns how far p is off its place and its height. The nose is left
// at 0, which costs no arctangent.
func (c *criteria) offPlace(p point) (e deviation) {
	e.dx, e.dy, e.dz = p.x-c.at.X, p.y-c.at.Y, p.z-c.height
	e.d2 = e.dx*e.dx + e.dy*e.dy
	return e
}

// errors returns the deviation of p from everything that is judged. dn is 0
// where the nose is not.
func (c *criteria) errors(p point) deviation {
	e := c.offPlace(p)
	if c.nose > 0 {
		e.dn = c.deviation(p.x, p.y, p.heading)
	}
	return e
}

// insideAt tells the same as inside(errors(sample i)) without working out the
// deviation. It is asked for every sample of every hold, so it takes the cheap
// comparisons first.
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

// errorsOver is errors for a search of the worst nose: where the nose is off by
// less than nose, dn may be left at 0. A rough bearing, whose error is at most
// field.Rough, tells that of most samples without an exact arctangent.
func (c *criteria) errorsOver(p point, nose field.Angle) deviation {
	e := c.offPlace(p)
	if c.nose > 0 && !(c.rule.Kind == drill.Sight && c.rule.Deviation(p.heading,
		field.RoughBearing(field.Point{X: p.x - c.station.X, Y: p.y - c.station.Y}), c.kept).Abs()+2*field.Rough < nose) {
		e.dn = c.deviation(p.x, p.y, p.heading)
	}
	return e
}

// deviation is the nose off its rule for a craft at (x, y) with a heading,
// positive to the right, in (−π, π].
func (c *criteria) deviation(x, y float64, heading field.Angle) field.Angle {
	var seen field.Angle
	if c.rule.Kind == drill.Sight {
		seen = field.Bearing(field.Point{X: x - c.station.X, Y: y - c.station.Y})
	}
	return c.rule.Deviation(heading, seen, c.kept)
}

// inside tells whether the deviation e is within every tolerance. Criteria that
// judge nothing have no inside.
func (c *criteria) inside(e deviation) bool {
	return c.firstOut(e) == byNothing && c.judges()
}

// firstOut returns one tolerance that e is outside of, or byNothing. Place
// comes before height and height before the nose, so that one excursion is
// named alike everywhere.
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

// stretch returns the part of the segment from a to b in which the craft is
// inside every tolerance, as shares in and out from 0 to 1, and the tolerance
// that ends it. Each tolerance is a convex set and the craft moves straight
// between samples, so there is at most one such part. Where there is none, in
// is greater than out.
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

// circleStretch solves |a + f(b−a)|² ≤ r² for f in [0, 1], a quadratic in f. It
// returns (1, 0), an empty stretch, where no f fits.
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

// bandStretch solves |a + f(b−a)| ≤ lim for f in [0, 1]. It serves heights, and
// angles that were unwrapped before. Empty is (1, 0), as in circleStretch.
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

// leaving describes the fault of leaving a tolerance at p: its code, the value
// there and the limit as the step says it. Value goes on growing while the
// craft is outside (machine.outside).
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
