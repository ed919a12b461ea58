// Package field holds the frame in which everything at the field is measured.
//
// The origin is at the pilot's feet; x points to the pilot's right, y away
// from the pilot, z up; lengths are metres. Headings and bearings are turned
// clockwise seen from above: 0 is away from the pilot (+y), 90° is the
// pilot's right (+x). Angles are radians inside the program and degrees at its
// edges.
package field

import "math"

// Angle is an angle in radians. As a heading or a bearing it grows clockwise
// seen from above, as an aspect it is positive with the nose to the right.
type Angle float64

// Right angles that the heading rules use.
const (
	Away   Angle = 0
	Right  Angle = math.Pi / 2
	Toward Angle = math.Pi
	Left   Angle = -math.Pi / 2
)

// Degrees makes an Angle from degrees.
func Degrees(d float64) Angle { return Angle(d * (math.Pi / 180)) }

// Deg returns the angle in degrees.
func (a Angle) Deg() float64 { return float64(a) * (180 / math.Pi) }

// Wrap returns the same direction in (−π, π].
func (a Angle) Wrap() Angle {
	if a > -math.Pi && a <= math.Pi {
		return a
	}
	w := math.Mod(float64(a), 2*math.Pi)
	switch {
	case w <= -math.Pi:
		w += 2 * math.Pi
	case w > math.Pi:
		w -= 2 * math.Pi
	}
	return Angle(w)
}

// Abs returns the size of the angle.
func (a Angle) Abs() Angle { return Angle(math.Abs(float64(a))) }

// Compass returns the direction in degrees from 0 up to, not including, 360.
func (a Angle) Compass() float64 {
	d := math.Mod(a.Deg(), 360)
	if d < 0 {
		d += 360
	}
	if d >= 360 { // −1e-17 rounds up to 360
		d = 0
	}
	return d
}

// Point is a place over the ground in the field frame, in metres.
type Point struct{ X, Y float64 }

// Sub returns the vector from q to p.
func (p Point) Sub(q Point) Point { return Point{p.X - q.X, p.Y - q.Y} }

// Dist returns the distance between two places in metres.
func (p Point) Dist(q Point) float64 { return math.Hypot(p.X-q.X, p.Y-q.Y) }

// Mirror returns the place on the other side of the pilot's sight line (x → −x).
func (p Point) Mirror() Point { return Point{-p.X, p.Y} }

// Bearing returns the direction from the pilot to the craft, atan2(x, y).
func Bearing(p Point) Angle { return Angle(math.Atan2(p.X, p.Y)) }

// Aspect returns what the pilot's eye has to solve: heading − bearing in
// (−π, π]. 0 is tail-in, ±π nose-in, +π/2 nose right, −π/2 nose left.
func Aspect(heading Angle, at Point) Angle { return (heading - Bearing(at)).Wrap() }

// Sectors is the number of sectors of the aspect ring.
const Sectors = 16

// Sector returns the aspect ring's sector, 0 to 15 clockwise from tail-in;
// each spans 22.5° and is centred on its direction.
func Sector(aspect Angle) int {
	const width = 2 * math.Pi / Sectors
	s := int(math.Floor(float64(aspect.Wrap())/width + 0.5))
	return (s + Sectors) % Sectors
}

// SectorAt is Sector(Aspect(heading, at)) in a third of the time: a rough
// bearing tells the sector, but for a direction that lies within half a degree
// of a border.
func SectorAt(heading Angle, at Point) int {
	const width, near = 2 * math.Pi / Sectors, 0.02 // near as a part of a sector
	turned := float64(heading-RoughBearing(at))/width + 0.5
	whole := math.Floor(turned)
	if part := turned - whole; part > near && part < 1-near && math.Abs(turned) < 1000 {
		return (int(whole)%Sectors + Sectors) % Sectors
	}
	return Sector(Aspect(heading, at))
}

// Rough is how far a rough bearing is off, at most, rad.
const Rough = 2e-5

// RoughBearing is Bearing to Rough, by the polynomial for the arctangent of
// Abramowitz and Stegun, Handbook of Mathematical Functions, 4.4.49. It is not
// a number at the pilot.
func RoughBearing(p Point) Angle {
	x, y := math.Abs(p.X), math.Abs(p.Y)
	t := x / y
	if x > y {
		t = y / x
	}
	q := t * t
	a := t * (0.9998660 + q*(-0.3302995+q*(0.1801410+q*(-0.0851330+q*0.0208351))))
	if x > y {
		a = math.Pi/2 - a
	}
	if p.Y < 0 {
		a = math.Pi - a
	}
	return Angle(math.Copysign(a, p.X))
}

// Side names a version of a drill.
type Side string

// The sides: none for a drill that has no left and right version.
const (
	NoSide    Side = "none"
	LeftSide  Side = "left"
	RightSide Side = "right"
)

// Other returns the opposite side; a drill without sides has none.
func (s Side) Other() Side {
	switch s {
	case LeftSide:
		return RightSide
	case RightSide:
		return LeftSide
	}
	return NoSide
}

// Direction names where a vector leads as the pilot sees it: left, right,
// toward or away, whichever part is the larger; left and right win a tie.
func Direction(v Point) string {
	if math.Abs(v.X) >= math.Abs(v.Y) {
		if v.X < 0 {
			return "left"
		}
		return "right"
	}
	if v.Y < 0 {
		return "toward"
	}
	return "away"
}

// Way is the unit vector of left, right, toward or away as the pilot sees it; ok is
// false for another word.
func Way(word string) (v Point, ok bool) {
	v, ok = map[string]Point{"left": {X: -1}, "right": {X: 1}, "toward": {Y: -1}, "away": {Y: 1}}[word]
	return v, ok
}
