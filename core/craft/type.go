package craft

import (
	"fmt"
	"math"
	"slices"

	"maestrale/core/field"
)

// Chemistry is what a pack is made of.
type Chemistry string

// The chemistries.
const (
	LiPo  Chemistry = "lipo"   // lithium polymer, 4.2 V a cell when full
	LiHV  Chemistry = "lihv"   // lithium polymer for 4.35 V a cell
	LiIon Chemistry = "li-ion" // round cells, 4.2 V when full, emptier at the end
)

// Chemistries lists the chemistries.
var Chemistries = []Chemistry{LiPo, LiHV, LiIon}

// Words returns the chemistry as it is written on a pack.
func (c Chemistry) Words() string {
	return map[Chemistry]string{LiPo: "LiPo", LiHV: "LiHV", LiIon: "Li-ion"}[c]
}

// Type is a kind of craft, shipped or added by a school. What a file does not
// say is zero, and what needs it says that it is missing.
type Type struct {
	Key          string
	Title        string
	Kind         string
	SpanM        float64 // the largest distance between two rotor axes
	MassKg       float64 // as it flies, with its pack
	Aids         []Aids  // that it has
	OptionalAids []Aids  // that it may be fitted with

	Rotors          []Rotor
	RotorRadiusM    float64
	HoverRps        float64 // turns a second of every rotor in a hover at sea level
	FullThrust      float64 // thrust at full power on a full pack, over the weight
	FigureOfMerit   float64 // ideal over shaft power in a hover
	DriveEfficiency float64 // shaft power over what the pack gives
	RotorLagS       float64
	ElectronicsW    float64    // that the pack gives besides the rotors
	InertiaKgM2     [3]float64 // about the roll, pitch and yaw axes
	Drag            Drag
	Limits          map[Aids]Limits

	Lights     bool // red left, green right, white tail
	CueColour  string
	CueSpaceM  float64 // between the coloured arms, for legibility
	Battery    Battery
	Propeller  Propeller
	WindMps    float64 // mean wind limit
	GustMps    float64 // gust limit
	Sensors    Sensors
	Gimbal     bool
	Guards     bool // guards, or arms in ducts
	FoldingArm bool
	Goggles    bool // may be flown on goggles
	Screen     bool // has a screen on the ground
	Parts      []Part
}

// Rotor is one rotor: where its arm points, in degrees clockwise from the nose
// seen from above, and which way it turns seen from above.
type Rotor struct {
	ArmM     float64
	AngleDeg float64
	Spin     Spin
}

// Spin is the way a rotor turns, seen from above.
type Spin string

// The spins.
const (
	Clockwise        Spin = "cw"
	CounterClockwise Spin = "ccw"
)

// Words says the spin.
func (s Spin) Words() string {
	if s == Clockwise {
		return "clockwise"
	}
	return "counter-clockwise"
}

// Place says where the rotor sits as somebody behind the craft sees it.
func (r Rotor) Place() string {
	a := field.Degrees(r.AngleDeg).Compass()
	end := ""
	switch {
	case a < 80 || a > 280:
		end = "front "
	case a > 100 && a < 260:
		end = "rear "
	}
	switch {
	case a < 1 || a > 359:
		return "front"
	case math.Abs(a-180) < 1:
		return "rear"
	case a < 180:
		return end + "right"
	}
	return end + "left"
}

// Drag is how the air holds the craft back: a force of RotorPerS times mass
// times air speed from the rotors, and half the density times BodyM2 times the
// square of the air speed from the body.
type Drag struct {
	RotorPerS float64
	BodyM2    float64 // drag coefficient times area
}

// Limits are what the craft does at full stick with certain aids.
type Limits struct {
	LeanDeg, SpeedMps, ClimbMps, DescendMps, YawDps float64
	BrakeMps2                                       float64 // with the sticks let go
	Gains                                           Gains
}

// Gains are those of the autopilot's loops, each in 1/s: from place to speed, from
// speed to acceleration, from lean to rate, from rate to angular acceleration, and
// the two of the height. What a file leaves out is 0 and follows from the rotors'
// lag.
type Gains struct{ Place, Speed, Lean, Rate, Height, Climb float64 }

// Battery is the pack that the type takes.
type Battery struct {
	Chemistry   Chemistry
	Cells       int
	CapacityMah float64
	OhmPerCell  float64 // internal resistance of a new cell
	MassKg      float64
	MaxChargeC  float64 // highest charging current over the capacity
}

// Propeller is the propeller set.
type Propeller struct {
	DiameterM, PitchM float64
	Blades            int
	// Thread tells that propellers tighten themselves by a thread, so that each
	// spin has its own.
	Thread bool
}

// Sensors says what the craft feels around it.
type Sensors struct {
	Down     bool
	Obstacle []string // front, rear, left, right, up
}

// Part is a part that is kept on the shelf.
type Part struct {
	Key, Title string
	PerCrash   float64 // how many of it a crash usually takes
}

// Class returns the size class of the type.
func (t Type) Class() Class { return ClassOf(t.SpanM) }

// Has tells whether the type flies with the given aids, fitted ones included.
func (t Type) Has(a Aids) bool {
	return slices.Contains(t.Aids, a) || slices.Contains(t.OptionalAids, a)
}

// The capabilities that checks ask for.
const (
	CanHold    = "position-hold"
	CanFilm    = "camera"
	IsHobby    = "hobby"
	IsMicro    = "micro"
	OnGoggles  = "goggles"
	HasScreen  = "screen"
	HasGuards  = "guards"
	HasGimbal  = "gimbal"
	FoldingArm = "folding-arms"
	HasSensors = "sensors"
	HasThread  = "threaded-propellers"
)

// Capabilities lists what the type can do, as far as checks ask for it.
func (t Type) Capabilities() []string {
	var out []string
	add := func(is bool, name string) {
		if is {
			out = append(out, name)
		}
	}
	add(t.Has(PositionHold), CanHold)
	add(t.Gimbal, CanFilm)
	add(t.Gimbal, HasGimbal)
	add(!t.Has(PositionHold), IsHobby)
	add(t.Class() == Micro, IsMicro)
	add(t.Goggles, OnGoggles)
	add(t.Screen, HasScreen)
	add(t.Guards, HasGuards)
	add(t.FoldingArm, FoldingArm)
	add(t.Sensors.Down || len(t.Sensors.Obstacle) > 0, HasSensors)
	add(t.Propeller.Thread, HasThread)
	return out
}

// DiscM2 is the area that the rotors sweep together.
func (t Type) DiscM2() float64 {
	return float64(len(t.Rotors)) * math.Pi * t.RotorRadiusM * t.RotorRadiusM
}

// Coefficients returns thrust and torque coefficients of one rotor, in N and
// N m over the square of the turning rate in rad/s, that follow from the hover
// speed and the figure of merit: in a hover each rotor lifts its share of the
// weight W, so k_T = W / (n Ω²), and the shaft power k_Q Ω³ is the ideal power of
// momentum theory over the figure of merit (Leishman, Principles of Helicopter
// Aerodynamics, 2nd ed., 2006, chapter 2, momentum theory in hover and figure of
// merit), at a density in kg/m³.
func (t Type) Coefficients(density float64) (thrust, torque float64, err error) {
	if len(t.Rotors) == 0 || t.RotorRadiusM == 0 || t.HoverRps == 0 || t.FigureOfMerit == 0 {
		return 0, 0, fmt.Errorf("the craft type %s says no rotors, rotor radius, hover speed or figure of merit", t.Key)
	}
	n, omega := float64(len(t.Rotors)), 2*math.Pi*t.HoverRps
	each := t.MassKg * gravity / n
	thrust = each / (omega * omega)
	ideal := each * math.Sqrt(each/(2*density*math.Pi*t.RotorRadiusM*t.RotorRadiusM))
	return thrust, ideal / t.FigureOfMerit / (omega * omega * omega), nil
}

const gravity = 9.80665
