package course

import (
	"math"

	"maestrale/core/air"
	"maestrale/core/field"
)

// Falling is what decides how a craft without power falls: its mass, and its
// drag as coefficient times area, tumbling.
type Falling struct {
	MassKg  float64
	DragM2  float64
	Density float64 // kg/m³
}

// Tumbling is how much more a tumbling craft is held by the air than a level
// one in forward flight, by the area that it shows: a reckoning of our own.
const Tumbling = 2.0

// Landing is where a falling craft ends, from below where it lost its power.
type Landing struct {
	Offset  field.Point // m
	Seconds float64
	Mps     float64 // at the ground
}

// Fall returns where a craft ends that loses all power at a height in m, moving
// over the ground with a velocity in m/s, in a steady wind (a velocity, to
// where it blows): m dv/dt = m g − ½ ρ C_d A |v − w| (v − w), by the
// Runge–Kutta method of fourth order in steps of 10 ms. Without drag it is the
// parabola of √(2h/g) s.
func (f Falling) Fall(heightM float64, velocity, wind field.Point) Landing {
	const dt = 0.01
	k := 0.5 * f.Density * f.DragM2 / f.MassKg
	type state struct{ x, y, z, vx, vy, vz float64 }
	rate := func(s state) state {
		ax, ay, az := s.vx-wind.X, s.vy-wind.Y, s.vz
		v := k * math.Sqrt(ax*ax+ay*ay+az*az)
		return state{s.vx, s.vy, s.vz, -v * ax, -v * ay, -air.Gravity - v*az}
	}
	add := func(s, d state, h float64) state {
		return state{s.x + h*d.x, s.y + h*d.y, s.z + h*d.z, s.vx + h*d.vx, s.vy + h*d.vy, s.vz + h*d.vz}
	}
	s := state{z: math.Max(0, heightM), vx: velocity.X, vy: velocity.Y}
	t := 0.0
	for s.z > 0 && t < 600 {
		a := rate(s)
		b := rate(add(s, a, dt/2))
		c := rate(add(s, b, dt/2))
		d := rate(add(s, c, dt))
		next := s
		for _, p := range []struct {
			r state
			w float64
		}{{a, 1}, {b, 2}, {c, 2}, {d, 1}} {
			next = add(next, p.r, dt*p.w/6)
		}
		if next.z < 0 { // the last step ends at the ground
			part := s.z / (s.z - next.z)
			next = state{s.x + part*(next.x-s.x), s.y + part*(next.y-s.y), 0, next.vx, next.vy, next.vz}
			t += part * dt
		} else {
			t += dt
		}
		s = next
	}
	return Landing{field.Point{X: s.x, Y: s.y}, t, math.Sqrt(s.vx*s.vx + s.vy*s.vy + s.vz*s.vz)}
}

// Area returns the outline of where a craft can fall that loses its power at a
// height, flying over the ground at a speed in any direction, as offsets from
// below it; and the farthest of them in m.
func (f Falling) Area(heightM, speedMps float64, wind field.Point) (outline []field.Point, reachM float64) {
	for i := range 24 {
		sin, cos := math.Sincos(2 * math.Pi * float64(i) / 24)
		l := f.Fall(heightM, field.Point{X: speedMps * sin, Y: speedMps * cos}, wind)
		outline = append(outline, l.Offset)
		reachM = math.Max(reachM, math.Hypot(l.Offset.X, l.Offset.Y))
	}
	return outline, reachM
}
