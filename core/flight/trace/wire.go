package trace

import (
	"errors"

	"maestrale/core/flight"
)

// Flatten writes a configuration as numbers and names, for the simulator in the
// browser: JSON keeps every bit of a number, so that it flies the same.
func Flatten(c *flight.Config) (numbers []float64, names []string) {
	w := &wire{out: true}
	w.config(c)
	return w.numbers, w.names
}

// Unflatten reads what Flatten wrote.
func Unflatten(numbers []float64, names []string) (flight.Config, error) {
	w := &wire{numbers: numbers, names: names}
	var c flight.Config
	w.config(&c)
	return c, w.end()
}

// end refuses what was too short or too long.
func (w *wire) end() error {
	if w.short || len(w.numbers) > 0 || len(w.names) > 0 {
		return errors.New("the configuration has another length; expected one of the same version")
	}
	return nil
}

// wire goes through a configuration one way or the other: what is written and
// what is read cannot differ.
type wire struct {
	out, short bool
	numbers    []float64
	names      []string
}

// f writes or reads a number.
func (w *wire) f(p *float64) {
	if w.out {
		w.numbers = append(w.numbers, *p)
	} else if len(w.numbers) == 0 {
		w.short = true
	} else {
		*p, w.numbers = w.numbers[0], w.numbers[1:]
	}
}

// b writes or reads a truth as a number.
func (w *wire) b(p *bool) {
	v := 0.0
	if *p {
		v = 1
	}
	w.f(&v)
	*p = v != 0
}

// v writes or reads a vector.
func (w *wire) v(p *flight.Vec) { w.f(&p.X); w.f(&p.Y); w.f(&p.Z) }

// n writes or reads a count, of 4096 at most.
func (w *wire) n(p *int) {
	v := float64(*p)
	w.f(&v)
	if !w.out && (v < 0 || v > 4096) {
		w.short, v = true, 0
	}
	*p = int(v)
}

// name writes or reads a text.
func (w *wire) name(p *string) {
	if w.out {
		w.names = append(w.names, *p)
	} else if len(w.names) == 0 {
		w.short = true
	} else {
		*p, w.names = w.names[0], w.names[1:]
	}
}

// small writes or reads a small number of its own type.
func small[T ~uint8](w *wire, p *T) {
	v := int(*p)
	w.n(&v)
	*p = T(v)
}

// list passes how many there are, and each.
func list[T any](w *wire, all *[]T, each func(*T)) {
	n := len(*all)
	w.n(&n)
	if !w.out && !w.short {
		*all = make([]T, n)
	}
	for i := range *all {
		each(&(*all)[i])
	}
}

// config writes or reads the configuration of a flight.
func (w *wire) config(c *flight.Config) {
	w.craft(&c.Craft)
	w.v(&c.Wind)
	small(w, &c.Gusts)
	for _, p := range []*float64{&c.Roughness, &c.Density, &c.Heading, &c.Charge, &c.ReturnM} {
		w.f(p)
	}
	seed := float64(c.Seed) // of 53 bits at most
	w.f(&seed)
	c.Seed = uint64(max(0, seed))
	small(w, &c.Surface)
	w.v(&c.Station)
	w.v(&c.Start)
	small(w, &c.Aids)
	w.b(&c.Airborne)
	w.b(&c.PoorFix)
	w.b(&c.Still)
	list(w, &c.Solids, func(s *flight.Solid) {
		small(w, &s.Kind)
		w.name(&s.Name)
		w.v(&s.A)
		w.v(&s.B)
		w.f(&s.Radius)
		w.f(&s.Height)
	})
}

// craft writes or reads a craft.
func (w *wire) craft(c *flight.Craft) {
	for _, p := range []*float64{&c.Mass, &c.Span, &c.Radius, &c.HoverRps, &c.FullThrust, &c.Merit, &c.Drive, &c.Pitch,
		&c.Lag, &c.Electronics, &c.RotorDrag, &c.BodyDrag, &c.CapacityAh, &c.OhmPerCell, &c.EmptyVolts} {
		w.f(p)
	}
	w.v(&c.Inertia)
	list(w, &c.Rotors, func(r *flight.Rotor) {
		w.f(&r.Arm)
		w.f(&r.Angle)
		w.b(&r.Clockwise)
	})
	for i := range c.Limits {
		l := &c.Limits[i]
		w.b(&l.Has)
		for _, p := range []*float64{&l.Lean, &l.Speed, &l.Climb, &l.Descend, &l.YawMax, &l.Brake, &l.Gains.Place,
			&l.Gains.Speed, &l.Gains.Lean, &l.Gains.Rate, &l.Gains.Height, &l.Gains.Climb} {
			w.f(p)
		}
	}
	w.b(&c.Guards)
	w.b(&c.Down)
	w.b(&c.Gimbal)
	for i := range c.Obstacle {
		w.b(&c.Obstacle[i])
	}
	w.n(&c.Cells)
	for i := range c.Curve {
		w.f(&c.Curve[i])
	}
}
