package flight

import (
	"math"

	"maestrale/core/flight/fmath"
)

// Vec is a vector: in the field frame x to the pilot's right, y away, z up; in
// the craft's own frame x to its right, y to its nose, z up through its rotors.
type Vec struct{ X, Y, Z float64 }

// add is a + b.
func (a Vec) add(b Vec) Vec { return Vec{a.X + b.X, a.Y + b.Y, a.Z + b.Z} }

// sub is a − b.
func (a Vec) sub(b Vec) Vec { return Vec{a.X - b.X, a.Y - b.Y, a.Z - b.Z} }

// times is k·a.
func (a Vec) times(k float64) Vec {
	return Vec{float64(k * a.X), float64(k * a.Y), float64(k * a.Z)}
}

// dot is the scalar product.
func (a Vec) dot(b Vec) float64 {
	return float64(a.X*b.X) + float64(a.Y*b.Y) + float64(a.Z*b.Z)
}

// cross is the vector product.
func (a Vec) cross(b Vec) Vec {
	return Vec{float64(a.Y*b.Z) - float64(a.Z*b.Y), float64(a.Z*b.X) - float64(a.X*b.Z),
		float64(a.X*b.Y) - float64(a.Y*b.X)}
}

// length is the Euclidean length.
func (a Vec) length() float64 { return math.Sqrt(a.dot(a)) }

// flat is the length over the ground.
func (a Vec) flat() float64 { return math.Sqrt(float64(a.X*a.X) + float64(a.Y*a.Y)) }

// atMost shortens the part over the ground to a length.
func (a Vec) atMost(most float64) Vec {
	if l := a.flat(); l > most {
		k := most / l
		a.X, a.Y = float64(a.X*k), float64(a.Y*k)
	}
	return a
}

// ahead is the vector over the ground that is so far ahead and so far to the
// right of a heading, clockwise from away.
func ahead(heading, forward, right float64) Vec {
	if forward == 0 && right == 0 {
		return Vec{}
	}
	sin, cos := fmath.Sincos(heading)
	return Vec{float64(forward*sin) + float64(right*cos), float64(forward*cos) - float64(right*sin), 0}
}

// Quat is an attitude: it turns the craft's own frame into the field's.
type Quat struct{ W, X, Y, Z float64 }

// facing is level with the nose at a heading.
func facing(heading float64) Quat {
	sin, cos := fmath.Sincos(float64(0.5 * heading))
	return Quat{W: cos, Z: -sin}
}

// mat is a rotation: its columns are the craft's axes in the field frame.
type mat struct{ x, y, z Vec }

// mat is the rotation as a matrix.
func (q Quat) mat() (m mat) {
	q.fill(&m)
	return m
}

// fill sets a rotation to that of the attitude.
func (q Quat) fill(m *mat) {
	xx, yy, zz := float64(q.X*q.X), float64(q.Y*q.Y), float64(q.Z*q.Z)
	xy, xz, yz := float64(q.X*q.Y), float64(q.X*q.Z), float64(q.Y*q.Z)
	wx, wy, wz := float64(q.W*q.X), float64(q.W*q.Y), float64(q.W*q.Z)
	m.x = Vec{1 - float64(2*(yy+zz)), float64(2 * (xy + wz)), float64(2 * (xz - wy))}
	m.y = Vec{float64(2 * (xy - wz)), 1 - float64(2*(xx+zz)), float64(2 * (yz + wx))}
	m.z = Vec{float64(2 * (xz + wy)), float64(2 * (yz - wx)), 1 - float64(2*(xx+yy))}
}

// out turns a vector of the craft's frame into the field's.
func (m *mat) out(v Vec) Vec { return m.x.times(v.X).add(m.y.times(v.Y)).add(m.z.times(v.Z)) }

// in turns a vector of the field's frame into the craft's.
func (m *mat) in(v Vec) Vec { return Vec{m.x.dot(v), m.y.dot(v), m.z.dot(v)} }

// turned is the attitude after turning at rates about the craft's own axes for a
// time: the exponential of half the turn, to its fourth order, made unit again.
func (q Quat) turned(rate Vec, dt float64) Quat {
	h := rate.times(float64(0.5 * dt))
	s := h.dot(h)
	w := 1 - float64(0.5*s) + float64(float64(s*s)/24)
	v := h.times(1 - s/6 + float64(float64(s*s)/120))
	n := Quat{
		float64(q.W*w) - float64(q.X*v.X) - float64(q.Y*v.Y) - float64(q.Z*v.Z),
		float64(q.W*v.X) + float64(q.X*w) + float64(q.Y*v.Z) - float64(q.Z*v.Y),
		float64(q.W*v.Y) - float64(q.X*v.Z) + float64(q.Y*w) + float64(q.Z*v.X),
		float64(q.W*v.Z) + float64(q.X*v.Y) - float64(q.Y*v.X) + float64(q.Z*w),
	}
	k := 1 / math.Sqrt(float64(n.W*n.W)+float64(n.X*n.X)+float64(n.Y*n.Y)+float64(n.Z*n.Z))
	return Quat{float64(n.W * k), float64(n.X * k), float64(n.Y * k), float64(n.Z * k)}
}

// heading is where the nose points, clockwise from away; for a nose straight up
// or down, where the belly or the back does.
func (m *mat) heading() float64 {
	if math.Abs(m.y.X)+math.Abs(m.y.Y) < 1e-9 {
		return fmath.Atan2(-m.z.X, -m.z.Y)
	}
	return fmath.Atan2(m.y.X, m.y.Y)
}

// wrap brings an angle into (−π, π].
func wrap(a float64) float64 {
	if a > -math.Pi && a <= math.Pi {
		return a
	}
	a -= float64(2 * math.Pi * math.Floor((a+math.Pi)/(2*math.Pi)))
	if a <= -math.Pi {
		a += 2 * math.Pi
	}
	return a
}

// lesser and greater are min and max without their care for NaN and for the
// sign of zero: no place and no speed is NaN, and where one of the two is 0 it
// is named first. The built-in ones are function calls in WebAssembly.
func lesser(a, b float64) float64 {
	if b < a {
		return b
	}
	return a
}

// greater is the larger of two numbers; b only where it is surely larger, so
// that a NaN of b changes nothing.
func greater(a, b float64) float64 {
	if b > a {
		return b
	}
	return a
}

// clamp is v, but no less than low and no more than high.
func clamp(v, low, high float64) float64 {
	if v < low {
		return low
	}
	if v > high {
		return high
	}
	return v
}
