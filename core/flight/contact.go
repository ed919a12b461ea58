package flight

import (
	"fmt"
	"math"
)

// Surface is what the craft stands on.
type Surface uint8

// The surfaces.
const (
	Hardstanding Surface = iota
	ShortGrass
	LongGrass
	Sand
	Gravel
	Indoors
	surfaceCount
)

// SurfaceNames are the words of the surfaces, as courses name them.
var SurfaceNames = [surfaceCount]string{"hardstanding", "short grass", "long grass", "sand", "gravel", "indoors"}

// SurfaceOf returns the surface of a word; hardstanding where it is empty.
func SurfaceOf(word string) (Surface, bool) {
	if word == "" {
		return Hardstanding, true
	}
	return ofWord[Surface](SurfaceNames[:], word)
}

// ground is how a surface holds: friction, and the share of critical damping of
// the feet on it. Rubber on concrete slides at some 0.6 of the weight, grass holds
// a skid more than sand does: reckonings of our own.
var ground = [surfaceCount]struct{ friction, damping float64 }{{0.6, 0.5}, {0.9, 0.8}, {1.2, 1}, {0.7, 1.2}, {0.6, 0.7},
	{0.5, 0.5}}

const (
	footGives   = 0.004 // how far the feet give under the weight, m
	creep       = 0.02  // m/s under which friction grows with the speed
	hardLanding = 3.0   // m/s down that legs do not bear
	grassHeight = 0.15  // of long grass, m
)

// feetHeight is how high the feet stand over the ground while the craft is level.
func (f *Flight) feetHeight() float64 { return f.State.Pos.Z - f.craft.Legs() }

// stand returns the force of the ground in the field frame and its torque in the
// craft's own, on four feet that give as springs with dampers and rub.
func (f *Flight) stand(m *mat) (force, torque Vec) {
	s, c := &f.State, f.craft
	s.onGround = false
	low := s.Pos.Z - c.Legs() - c.feet()
	if low > 0.02 {
		return force, torque
	}
	stiff := float64(c.Mass*Gravity) / float64(4*footGives)
	damp := float64(2*ground[f.cfg.Surface].damping) * math.Sqrt(float64(stiff*c.Mass)/4)
	for _, corner := range [4]Vec{{1, 1, 0}, {-1, 1, 0}, {-1, -1, 0}, {1, -1, 0}} {
		at := Vec{float64(corner.X * c.feet()), float64(corner.Y * c.feet()), -c.Legs()}
		arm := m.out(at)
		deep := -(s.Pos.Z + arm.Z)
		if deep <= 0 {
			continue
		}
		v := s.Vel.add(m.out(s.Rate.cross(at)))
		if !s.touching && v.Z < -hardLanding {
			f.crash(fmt.Sprintf(msgHitGround, -v.Z))
		}
		push := max(0, float64(stiff*deep)-float64(damp*v.Z))
		slide := v.flat()
		rub := float64(ground[f.cfg.Surface].friction*push) / max(slide, creep)
		on := Vec{-float64(rub * v.X), -float64(rub * v.Y), push}
		force = force.add(on)
		torque = torque.add(at.cross(m.in(on)))
		s.onGround = true
	}
	return force, torque
}

// strikes ends the flight where a rotor of a craft within its own reach of the
// ground meets it, or the craft lies over.
func (f *Flight) strikes(m *mat) {
	s, c := &f.State, f.craft
	if s.onGround && m.z.Z < 0.35 {
		f.crash("turned over")
		return
	}
	lean := math.Sqrt(max(0, 1-float64(m.z.Z*m.z.Z)))
	for i := range f.mix.N {
		hub := m.out(Vec{f.mix.X[i], f.mix.Y[i], 0})
		if s.Pos.Z+hub.Z-float64(c.Radius*lean) < 0 {
			if c.Guards && s.Vel.length() < hardLanding {
				continue
			}
			f.crash(msgRotorStruckGround)
			return
		}
	}
	if f.cfg.Surface == LongGrass && s.Pos.Z < grassHeight && s.armed && s.Rotor[0] > float64(1.5*f.idle) {
		f.crash(msgGrassStoppedRotor)
	}
}
