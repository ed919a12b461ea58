package flight

import (
	"math"
)

// GroundEffect is the thrust of a rotor at a height of its plane over the
// ground over its thrust far from it at the same power: 1/(1 − (R/4z)²)
// (Cheeseman and Bennett, "The effect of the ground on a helicopter rotor in
// forward flight", ARC R&M 3021, 1955). It is held at its value of half a
// radius below that, since it is singular at a quarter, and fades out between
// three radii and six.
func GroundEffect(height, radius float64) float64 {
	z := height / radius
	if z >= 6 {
		return 1
	}
	q := 0.25 / greater(0.5, z)
	g := 1/(1-float64(q*q)) - 1
	return 1 + float64(g*clamp((6-z)/3, 0, 1))
}

// Settling is the share of its thrust that a rotor loses in its own wash, for a
// descent rate and a speed along the disc, both over the induced velocity of the
// hover: nothing up to 0.4 down, two fifths at 1.1, nothing at 2; and nothing from
// 1.2 along (Leishman, Principles of Helicopter Aerodynamics, 2nd ed., 2006, section
// 2.13.6, for where the ring stands and that it is left along; Betzina, "Tiltrotor
// descent aerodynamics", AHS 57th Forum, 2001, for the size of the loss).
func Settling(down, along float64) float64 {
	loss := 0.0
	switch {
	case down <= 0.4 || down >= 2:
		return 0
	case down < 1.1:
		t := (down - 0.4) / 0.7
		loss = float64(t*t) * (3 - float64(2*t))
	default:
		t := (2 - down) / 0.9
		loss = float64(t*t) * (3 - float64(2*t))
	}
	return float64(float64(0.4*loss) * clamp((1.2-along)/0.7, 0, 1))
}

// inflow is the induced velocity that momentum theory asks for: v_i = T/2ρA over
// √(V_along² + (v_i + climb)²) (Glauert 1926; Leishman 2006, section 2.14.2), one step
// from the value before; in a descent the branch of the working rotor is kept.
func inflow(before, loading, along, climb float64) float64 {
	through := before + greater(float64(-0.5*before), climb)
	return loading / greater(0.05, math.Sqrt(float64(along*along)+float64(through*through)))
}

// rotors turns the rotors toward what is asked, and returns the force and torque
// on the craft in its own frame and the power at the shafts.
func (f *Flight) rotors(want *[MostRotors]float64, air Vec, m *mat) (force, torque Vec, shaft float64) {
	s, c := &f.State, f.craft
	along := math.Sqrt(float64(air.X*air.X) + float64(air.Y*air.Y))
	climb := air.Z // through the rotors from above
	hover := f.hoverInflow
	feet := f.feetHeight()
	cushion := GroundEffect(float64(greater(0, feet)*greater(0.2, m.z.Z))+c.Legs(), c.Radius)
	if f.ceilingNear > 0 {
		cushion = greater(cushion, GroundEffect(f.ceilingNear, c.Radius))
	}
	if m.z.Z < 0.3 {
		cushion = 1
	}
	loss := Settling(-climb/hover, along/hover)
	total := 0.0
	spin := 0.0
	step := f.fixed.lagStep
	answer, slope := f.propeller(climb)
	thrust, drag := f.fixed.thrust, f.fixed.drag
	kept := float64(cushion * (1 - loss))
	inertia, done, spun := f.fixed.inertiaStep, s.Energy.Rotor, s.Energy.Spin
	for i := range min(f.mix.N, MostRotors) {
		before := s.Rotor[i]
		w := before + float64(step*(want[i]-before))
		s.Rotor[i] = w
		ww := float64(w * w)
		bend := 1.0
		if w > 1 {
			// A craft that leans over carries its rotors up and down: each
			// meets its own air.
			own := float64(s.Rate.X*f.mix.Y[i]) - float64(s.Rate.Y*f.mix.X[i])
			bend = clamp(1+(answer-float64(slope*own))/w, 0.3, 1.6)
		}
		t := float64(float64(thrust*ww) * float64(float64(bend*kept)*s.weak[i]))
		q := float64(drag * ww)
		total += t
		force.Z += t
		torque.X += float64(f.mix.Y[i] * t)
		torque.Y -= float64(f.mix.X[i] * t)
		change := float64(inertia * (w - before))
		sign := f.fixed.clockwise[i] // the craft is turned the other way
		torque.Z += float64(sign * (q + change))
		spin -= float64(sign * float64(f.rotorInertia*w))
		aero := float64(q * w)
		shaft += greater(0, aero+float64(change*w))
		done += float64(f.dt * aero)
		spun += float64(f.dt * greater(float64(change*w), -aero))
	}
	s.Energy.Rotor, s.Energy.Spin = done, spun
	// Turning, the rotors are dragged round through the air at the ends of their arms.
	torque.Z -= float64(f.fixed.draw * s.Rate.Z)
	// The gyroscopic torque of what the rotors carry: −ω × H.
	torque.X -= float64(s.Rate.Y * spin)
	torque.Y += float64(s.Rate.X * spin)
	target := inflow(greater(0.05, s.inflow), total/f.fixed.throughput, along, climb)
	s.inflow += float64(f.fixed.inflowStep * (clamp(target, 0, float64(3*hover)+1) - s.inflow))
	return force, torque, shaft
}

// propeller is how the propellers answer to air that comes through them at
// climb m/s: they give less the faster it is, more as the wash is blown away
// along it: linear up to the pitch speed (Leishman 2006, section 3.3.3), with
// half the slope, since the wash answers. Both are speeds of a rotor, in rad/s,
// and rad/s for each m/s; 0 for propellers without a pitch.
func (f *Flight) propeller(climb float64) (answer, slope float64) {
	if c := f.craft; c.Pitch > 0 {
		slope = (0.5 * 2 * math.Pi / 1.25) / c.Pitch
		answer = float64((f.hoverInflow - f.State.inflow - climb) * slope)
	}
	return answer, slope
}

// drag is the force of the moving air in the craft's frame: what the rotors hold
// back in their plane, and the body (Faessler et al., "Differential flatness of
// quadrotor dynamics subject to rotor drag", IEEE RA-L 3 (2018), eq. 3, for the
// first; the drag equation for the second).
func (f *Flight) drag(air Vec) Vec {
	k := float64(f.craft.Mass * f.craft.RotorDrag)
	b := float64(0.5 * float64(f.density*float64(f.craft.BodyDrag*air.length())))
	return Vec{-float64((k + b) * air.X), -float64((k + b) * air.Y), -float64(b * air.Z)}
}
