package pack

import (
	"fmt"
	"math"

	"maestrale/core/air"
	"maestrale/core/craft"
)

// Lifter is what has to be known of a craft to say what its flight costs.
type Lifter struct {
	// MassKg is that of the craft ready to fly.
	MassKg float64
	DiscM2 float64 // area of all rotors
	Merit  float64 // ideal power over what the pack gives to the rotors in a hover
	// Electronics is the power in W besides the rotors.
	Electronics float64
	// RotorPerS and BodyM2 are the drag of the rotors, in 1/s, and of the body,
	// as an area in m² (craft.Drag).
	RotorPerS float64
	BodyM2    float64
	Density   float64 // kg/m³
}

// NewLifter takes a craft type into air of a density.
func NewLifter(t craft.Type, density float64) (Lifter, error) {
	l := Lifter{t.MassKg, t.DiscM2(), t.FigureOfMerit * t.DriveEfficiency, t.ElectronicsW, t.Drag.RotorPerS, t.Drag.BodyM2,
		density}
	if l.DiscM2 == 0 || l.Merit == 0 {
		return l, fmt.Errorf("the craft type %s says no rotors, rotor radius, figure of merit or drive efficiency; "+
			"expected them in its file", t.Key)
	}
	if t.Battery.Cells == 0 {
		return l, fmt.Errorf("the craft type %s says no battery; expected it in its file", t.Key)
	}
	return l, nil
}

// HoverInduced is the induced velocity in a hover in m/s, v_h = √(T / 2ρA)
// (Leishman, Principles of Helicopter Aerodynamics, 2nd ed., 2006, chapter 2,
// momentum analysis in hovering flight).
func (l Lifter) HoverInduced() float64 {
	return math.Sqrt(l.MassKg * air.Gravity / (2 * l.Density * l.DiscM2))
}

// IdealHover is the power in W that momentum theory asks for a hover,
// P = T v_h = T^{3/2} / √(2ρA) (the same).
func (l Lifter) IdealHover() float64 { return l.MassKg * air.Gravity * l.HoverInduced() }

// Hover is the power in W that a hover takes out of the pack.
func (l Lifter) Hover() float64 { return l.IdealHover()/l.Merit + l.Electronics }

// induced solves v_i = v_h² / √(V² cos²α + (V sin α + v_i)²) for the induced
// velocity in forward flight at air speed v with the disc leaned α forward
// (Glauert 1926; Leishman 2006, chapter 2, momentum analysis in forward flight),
// by Newton's method.
func induced(vh, v, lean float64) float64 {
	// The air speed along the disc, and through it.
	across, through := v*math.Cos(lean), v*math.Sin(lean)
	vi := vh
	for range 40 {
		u := through + vi
		root := math.Sqrt(across*across + u*u)
		// The root of f is looked for; its slope stands below the line.
		f := vi*root - vh*vh
		next := vi - f/(root+vi*u/root)
		if math.Abs(next-vi) < 1e-12 {
			return next
		}
		// Newton's step may overshoot; the velocity stays over 0.
		vi = math.Max(next, 1e-9)
	}
	return vi
}

// drag is the force in N against the craft at an air speed.
func (l Lifter) drag(v float64) float64 {
	return l.MassKg*l.RotorPerS*v + 0.5*l.Density*l.BodyM2*v*v
}

// Lean is the lean that holds an air speed, tan α = drag / weight.
func (l Lifter) Lean(v float64) float64 { return math.Atan2(l.drag(v), l.MassKg*air.Gravity) }

// How a hover's power is shared: what of it moves air, and how much more than
// the ideal that takes (Leishman 2006, chapter 2, non-ideal effects; the share is
// the middle of the 60 to 85 % that he gives).
const (
	inducedShare = 0.72
	kappa        = 1.15
)

// Level is the power in W that level flight at an air speed in m/s takes out of
// the pack. In a hover a fixed share of it moves the air; that part falls as the
// rotor meets more air. The drag has to be dragged, through the same losses. The
// rest, the blades' own drag, stays as it is. At no speed it is Hover.
func (l Lifter) Level(v float64) float64 {
	lean := l.Lean(v)
	// Leaned, the rotors carry the weight and hold against the drag.
	thrust := l.MassKg * air.Gravity / math.Cos(lean)
	vh := math.Sqrt(thrust / (2 * l.Density * l.DiscM2))
	through := kappa * l.Merit / inducedShare // of the pack's power, what reaches the air
	// The blades' own drag, the same as in a hover.
	own := (1 - inducedShare) * l.IdealHover() / l.Merit
	return (kappa*thrust*induced(vh, v, lean)+l.drag(v)*v)/through + own + l.Electronics
}

// Climb is the power in W of a steady vertical climb in m/s: the thrust moves
// the air at V/2 + √(V²/4 + v_h²) (Leishman 2006, chapter 2, axial climb).
func (l Lifter) Climb(v float64) float64 {
	vh := l.HoverInduced()
	return l.MassKg*air.Gravity*(v/2+math.Sqrt(v*v/4+vh*vh))/l.Merit + l.Electronics
}

// WindFromLean is the wind in m/s in which a craft that keeps its place leans so
// much, and how much more power that takes than a hover in still air, in W.
func (l Lifter) WindFromLean(lean float64) (mps, extraW float64) {
	// The drag of the wind is what the lean holds against: a v² + b v = force.
	force := l.MassKg * air.Gravity * math.Tan(math.Abs(lean))
	a, b := 0.5*l.Density*l.BodyM2, l.MassKg*l.RotorPerS
	switch {
	case a > 0:
		mps = (-b + math.Sqrt(b*b+4*a*force)) / (2 * a)
	case b > 0:
		mps = force / b
	}
	return mps, l.Level(mps) - l.Level(0)
}

// Flown is a hover that was measured: what the pack gave, in how long.
type Flown struct {
	UsedMah, MeanVolts, Minutes float64
}

// Corrected returns the lifter with its merit corrected by measured hovers. The
// type's own merit counts as one measurement with 15 % error, each flight as one
// with 10 %: the mean of the logarithms, weighted by one over the variance. The
// number of flights that were of use is returned too.
func (l Lifter) Corrected(flights []Flown) (Lifter, int) {
	const prior, each = 0.15, 0.10
	sum, weight, n := math.Log(l.Merit)/(prior*prior), 1/(prior*prior), 0
	for _, f := range flights {
		if f.Minutes <= 0 || f.UsedMah <= 0 || f.MeanVolts <= 0 {
			continue
		}
		// Ampere hours times volts over hours.
		watts := f.UsedMah / 1000 * f.MeanVolts / (f.Minutes / 60)
		merit := l.IdealHover() / (watts - l.Electronics)
		if watts <= l.Electronics || merit > 1 || merit < 0.05 {
			continue // not a hover, or not of this craft
		}
		sum += math.Log(merit) / (each * each)
		weight += 1 / (each * each)
		n++
	}
	l.Merit = math.Exp(sum / weight)
	return l, n
}
