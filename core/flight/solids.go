package flight

import (
	"fmt"
	"math"
)

// SolidKind is the shape of a thing that stands on the course.
type SolidKind uint8

// The shapes.
const (
	Column  SolidKind = iota // upright and round: a post, a tree, a person
	Wall                     // upright and straight, from A to B
	Strand                   // level from A to B at its height: a wire
	Ceiling                  // overhead, between A and B as corners of its box
	Water                    // on the ground, between A and B as corners of its box
)

// Solid is a thing that a craft can meet.
type Solid struct {
	Kind   SolidKind
	Name   string
	A, B   Vec     // Z is not used
	Radius float64 // of a column
	Height float64
}

// MostSolids is how many things a flight looks out for.
const MostSolids = 256

const (
	bounceMost = 1.5  // m/s that guards bear
	rebound    = 0.3  // share of the speed that comes back
	lookEvery  = 2    // ticks between looking for things
	clearance  = 2.0  // m that the obstacle sensors keep
	senses     = 15.0 // m that they reach
)

// nearest is the place on a solid that is nearest over the ground.
func (o *Solid) nearest(p Vec) Vec {
	d := o.B.sub(o.A)
	l := float64(d.X*d.X) + float64(d.Y*d.Y)
	if o.Kind == Column || l == 0 {
		return o.A
	}
	t := clamp((float64((p.X-o.A.X)*d.X)+float64((p.Y-o.A.Y)*d.Y))/l, 0, 1)
	return Vec{o.A.X + float64(t*d.X), o.A.Y + float64(t*d.Y), 0}
}

// over tells whether a place lies in the box of a ceiling or of water.
func (o *Solid) over(p Vec) bool {
	return p.X >= min(o.A.X, o.B.X) && p.X <= max(o.A.X, o.B.X) && p.Y >= min(o.A.Y, o.B.Y) && p.Y <= max(o.A.Y, o.B.Y)
}

// meet looks for what the craft touches: guards bounce off at a walking pace,
// everything else ends the flight with its cause.
func (f *Flight) meet() {
	s, c := &f.State, f.craft
	f.ceilingNear = 0
	f.walled()
	top := s.Pos.Z + 0.03
	feet := f.feetHeight()
	for i := range f.cfg.Solids {
		o := &f.cfg.Solids[i]
		switch o.Kind {
		case Water:
			if feet < 0.02 && o.over(s.Pos) {
				f.crash(fmt.Sprintf(msgCameDown, o.Name))
			}
			continue
		case Ceiling:
			if !o.over(s.Pos) {
				continue
			}
			room := o.Height - top
			if room < float64(6*c.Radius) {
				f.ceilingNear = max(room, float64(0.5*c.Radius))
			}
			if room < 0 {
				f.touch(o, Vec{0, 0, -1}, s.Vel.Z)
			}
			continue
		}
		if o.Kind == Strand {
			if top < o.Height-0.02 || feet > o.Height+0.02 {
				continue
			}
		} else if feet > o.Height {
			continue
		}
		at := o.nearest(s.Pos)
		away := Vec{s.Pos.X - at.X, s.Pos.Y - at.Y, 0}
		far := away.flat()
		if far > c.reach()+o.Radius {
			continue
		}
		if far > 0 {
			away = away.times(1 / far)
		} else {
			away = Vec{0, -1, 0}
		}
		f.touch(o, away, -s.Vel.dot(away))
	}
}

// touch is a meeting with a solid, away from it and at a speed toward it.
func (f *Flight) touch(o *Solid, away Vec, speed float64) {
	s := &f.State
	if speed <= 0 {
		return
	}
	if !f.craft.Guards || speed > bounceMost || o.Kind == Strand {
		f.crash(fmt.Sprintf("struck %s at %.1f m/s", o.Name, speed))
		return
	}
	s.Vel = s.Vel.add(away.times(float64((1 + rebound) * speed)))
}

// heldBack takes from a wanted velocity what leads toward things on the sides
// that the obstacle sensors cover, so that the craft stands clear of them with the
// brake that it has. Wires are too thin to be seen.
func (f *Flight) heldBack(want Vec, brake, heading float64) Vec {
	if !f.State.sensorsOn || f.craft.Obstacle == [4]bool{} {
		return want
	}
	feet := f.feetHeight()
	for i := range f.cfg.Solids {
		o := &f.cfg.Solids[i]
		if o.Kind > Wall || feet > o.Height {
			continue
		}
		at := o.nearest(f.State.Pos)
		to := Vec{at.X - f.State.Pos.X, at.Y - f.State.Pos.Y, 0}
		far := to.flat()
		room := far - o.Radius - f.craft.reach()
		if far == 0 || room > senses {
			continue
		}
		to = to.times(1 / far)
		side := wrap(headingOf(to) - heading)
		quarter := int(math.Floor(side/(math.Pi/2)+0.5)) & 3
		if !f.craft.Obstacle[quarter] {
			continue
		}
		most := f.stopsWithin(room-clearance, f.State.Vel.dot(to), brake)
		if v := want.dot(to); v > most {
			want = want.sub(to.times(v - most))
		}
	}
	return want
}

// stopsWithin is the speed toward something from which the craft stands within a
// room, with half its brake and the time that its speed takes to follow.
func (f *Flight) stopsWithin(room, speed, brake float64) float64 {
	room -= max(0, speed) / f.gains().Speed
	return math.Sqrt(max(0, float64(brake*room)))
}
