// Package rig makes what the simulator flies from what a school has: a craft from
// its type, the things that stand in the way from a course.
package rig

import (
	"fmt"
	"math"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/core/flight"
	"maestrale/core/pack"
)

// usualThrust is the full thrust over the weight of a craft whose file does not
// say it.
const usualThrust = 2

// Craft returns a type as the simulator flies it, with the optional aids that it
// is fitted with. A type that says too little to be flown is an error that names
// what is missing.
func Craft(t craft.Type, fitted ...craft.Aids) (flight.Craft, error) {
	c := flight.Craft{Mass: t.MassKg, Span: t.SpanM, Radius: t.RotorRadiusM, HoverRps: t.HoverRps,
		FullThrust: t.FullThrust, Merit: t.FigureOfMerit, Drive: t.DriveEfficiency,
		Pitch: t.Propeller.PitchM, Lag: t.RotorLagS, Electronics: t.ElectronicsW, Inertia: flight.Vec{X: t.InertiaKgM2[1],
			Y: t.InertiaKgM2[0], Z: t.InertiaKgM2[2]},
		RotorDrag: t.Drag.RotorPerS, BodyDrag: t.Drag.BodyM2, Guards: t.Guards, Down: t.Sensors.Down, Gimbal: t.Gimbal,
		Cells: t.Battery.Cells, CapacityAh: t.Battery.CapacityMah / 1000, OhmPerCell: t.Battery.OhmPerCell}
	if c.FullThrust == 0 {
		c.FullThrust = usualThrust
	}
	for _, r := range t.Rotors {
		c.Rotors = append(c.Rotors, flight.Rotor{Arm: r.ArmM, Angle: float64(field.Degrees(r.AngleDeg)),
			Clockwise: r.Spin == craft.Clockwise})
	}
	for _, side := range t.Sensors.Obstacle {
		for i, name := range []string{"front", "right", "rear", "left"} {
			if name == side {
				c.Obstacle[i] = true
			}
		}
	}
	has := append(append([]craft.Aids(nil), t.Aids...), fitted...)
	for _, a := range has {
		l, ok := t.Limits[a]
		to, known := flight.AidsOf(string(a))
		if !ok || !known {
			return c, fmt.Errorf("the craft type %s says no limits with %s; expected them in its file", t.Key, a.Words())
		}
		rad := func(deg float64) float64 { return deg * math.Pi / 180 }
		c.Limits[to] = flight.Limits{Has: true, Lean: rad(l.LeanDeg), Speed: l.SpeedMps, Climb: l.ClimbMps,
			Descend: l.DescendMps, YawMax: rad(l.YawDps), Brake: l.BrakeMps2, Gains: flight.Gains(l.Gains)}
	}
	if t.Battery.Cells == 0 {
		return c, fmt.Errorf("the craft type %s says no battery; expected it in its file", t.Key)
	}
	for i := range c.Curve {
		c.Curve[i] = pack.RestVolts(t.Battery.Chemistry, float64(i)/10)
	}
	c.EmptyVolts = 3.0
	if t.Battery.Chemistry == craft.LiIon {
		c.EmptyVolts = 2.6
	}
	if err := c.Check(); err != nil {
		return c, fmt.Errorf("the craft type %s: %w", t.Key, err)
	}
	return c, nil
}

// Radii of things that a course gives as one place, in m; a tree's crown is a
// fifth of its height.
const (
	postRadius   = 0.1
	personRadius = 0.3
	personHeight = 1.8
	crown        = 0.2
)

// Solids returns the things on a course that a craft can meet: each straight
// piece of a wall or a wire is one, water and ceilings are the boxes round their
// rings.
func Solids(c *course.Course) []flight.Solid {
	vec := func(p field.Point) flight.Vec { return flight.Vec{X: p.X, Y: p.Y} }
	out := []flight.Solid{{Name: "the pilot", Radius: personRadius, Height: personHeight, A: vec(c.Station),
		B: vec(c.Station)}}
	for _, h := range c.Hazards {
		s := flight.Solid{Name: h.Words(), Height: h.HeightM}
		switch h.Kind {
		case "tree":
			s.Radius = crown * h.HeightM
		case "post":
			s.Radius = postRadius
		case course.Bystanders, course.Instructor, course.Spotter:
			s.Radius, s.Height = personRadius, max(h.HeightM, personHeight)
		case "wire":
			s.Kind = flight.Strand
		case "wall":
			s.Kind = flight.Wall
		case "ceiling", "water":
			s.Kind = map[string]flight.SolidKind{"ceiling": flight.Ceiling, "water": flight.Water}[h.Kind]
			s.A, s.B = box(h.At)
			out = append(out, s)
			continue
		}
		for i := range h.At {
			one := s
			one.A, one.B = vec(h.At[i]), vec(h.At[i])
			if len(h.At) > 1 {
				next := i + 1
				if next == len(h.At) {
					if !h.Closed {
						break
					}
					next = 0
				}
				one.B = vec(h.At[next])
				if one.Kind == flight.Column { // a row of trees, a fence of people
					one.Kind = flight.Wall
				}
			}
			out = append(out, one)
		}
	}
	return out
}

// box is the box around places, over the ground.
func box(at []field.Point) (low, high flight.Vec) {
	low, high = flight.Vec{X: math.Inf(1), Y: math.Inf(1)}, flight.Vec{X: math.Inf(-1), Y: math.Inf(-1)}
	for _, p := range at {
		low.X, low.Y = math.Min(low.X, p.X), math.Min(low.Y, p.Y)
		high.X, high.Y = math.Max(high.X, p.X), math.Max(high.Y, p.Y)
	}
	return low, high
}
