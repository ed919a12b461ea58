package pack

import (
	"fmt"
	"math"
	"strings"

	"maestrale/core/air"
	"maestrale/core/craft"
	"maestrale/core/misread"
)

// Sketch is a craft type as an instructor can describe it without its maker's data.
type Sketch struct {
	Key, Title   string
	SpanM        float64 // largest distance between two rotor axes
	MassKg       float64 // ready to fly, with the pack
	Rotors       int
	Chemistry    craft.Chemistry
	Cells        int
	CapacityMah  float64
	HoverMinutes float64 // measured from a full pack to the reserve; 0 = not measured
	Aids         []craft.Aids
	Guards       bool
	Gimbal       bool
}

// What is assumed where only the class is known. The shares of span and mass
// are means of the shipped types, and a test keeps them within a third of each.
const (
	radiusShare   = 0.46  // of the distance between neighbouring rotors
	ductedShare   = 0.26  // the same, in the guards of a micro craft
	inertiaShare  = 0.058 // roll and pitch: of mass times span squared
	yawShare      = 0.105 // yaw: the same
	bodyShare     = 0.13  // body drag area: of span squared
	wattHoursKg   = 160   // of a pack, by its mass (lithium polymer packs hold 130 to 200)
	defaultMerit  = 0.58  // figure of merit of a small rotor where no hover time was measured
	leastMerit    = 0.2
	greatestMerit = 0.85
)

// byClass is what a class usually has.
type byClass struct {
	thrust        float64 // thrust coefficient C_T of T = C_T ρ n² D⁴
	fullThrust    float64 // over hover thrust
	lagS          float64
	electronicsW  float64
	windMps, gust float64
	speedMps      float64
	yawDps        float64
	ohm           float64 // of a cell, times its ampere hours
	rotorPerS     float64
	drive         float64 // efficiency of motor and controller
}

var usual = map[craft.Class]byClass{
	craft.Micro:  {0.2, 2.4, 0.03, 1.2, 2.5, 4, 6, 200, 0.018, 0.4, 0.58},
	craft.Light:  {0.085, 2.5, 0.045, 5, 7, 10, 10, 120, 0.02, 0.22, 0.7},
	craft.Medium: {0.075, 2.2, 0.06, 9, 8, 11, 10, 90, 0.022, 0.19, 0.76},
	craft.Heavy:  {0.064, 2, 0.09, 15, 9, 12, 10, 60, 0.025, 0.16, 0.78},
}

// Check refuses a sketch of what cannot be; the error says which figure, and
// what was expected.
func (s Sketch) Check() error {
	switch {
	case strings.TrimSpace(s.Title) == "":
		return misread.At(0, "a name", "the craft type has no name")
	case !(s.SpanM >= 0.04 && s.SpanM <= 3):
		return misread.At(0, "0.04 to 3 m", "the span is %g m", s.SpanM)
	case !(s.MassKg >= 0.01 && s.MassKg <= 60):
		return misread.At(0, "0.01 to 60 kg, ready to fly", "the mass is %g kg", s.MassKg)
	case s.Rotors != 4 && s.Rotors != 6 && s.Rotors != 8:
		return misread.At(0, "4, 6 or 8", "%d rotors", s.Rotors)
	case curves[s.Chemistry] == nil:
		return misread.At(0, "lipo, lihv or li-ion", "chemistry %q", string(s.Chemistry))
	case s.Cells < 1 || s.Cells > 24:
		return misread.At(0, "1 to 24", "%d cells in series", s.Cells)
	case !(s.CapacityMah >= 50 && s.CapacityMah <= 200_000):
		return misread.At(0, "50 to 200000 mAh", "the capacity is %g mAh", s.CapacityMah)
	case s.HoverMinutes != 0 && !(s.HoverMinutes >= 0.5 && s.HoverMinutes <= 240):
		return misread.At(0, "0.5 to 240 minutes, or nothing where it was not measured", "the hover time is %g minutes",
			s.HoverMinutes)
	case len(s.Aids) == 0:
		return misread.At(0, "at least one", "the craft type has no aids")
	}
	// A craft lighter than its pack was probably typed without it.
	if pack := s.battery().MassKg; pack > 0.8*s.MassKg {
		return misread.At(0, "a craft at least a quarter heavier than its pack",
			"a pack of %d cells and %g mAh weighs about "+
				"%.2f kg, and the craft with it %g kg", s.Cells, s.CapacityMah, pack, s.MassKg)
	}
	return nil
}

// battery is the pack, with the mass and the resistance that packs of its size
// usually have.
func (s Sketch) battery() craft.Battery {
	// Half charged, a pack has about its mean volts.
	volts := RestVolts(s.Chemistry, 0.5) * float64(s.Cells)
	c := usual[craft.ClassOf(s.SpanM)]
	return craft.Battery{Chemistry: s.Chemistry, Cells: s.Cells, CapacityMah: s.CapacityMah,
		OhmPerCell: round3(c.ohm / (s.CapacityMah / 1000)), MassKg: round3(volts * s.CapacityMah / 1000 / wattHoursKg),
		MaxChargeC: 1}
}

// Type works out the whole craft type: what was measured is kept, the rest is
// what craft of the class usually have. The measured hover time gives the
// figure of merit: the power that empties the pack to the reserve in that time,
// against the ideal power of momentum theory (Leishman 2006, chapter 2). A time
// that no rotor could reach is refused.
func (s Sketch) Type() (craft.Type, error) {
	if err := s.Check(); err != nil {
		return craft.Type{}, err
	}
	class := craft.ClassOf(s.SpanM)
	c := usual[class]
	arm := s.SpanM / 2
	share := radiusShare
	if class == craft.Micro && s.Guards {
		share = ductedShare
	}
	// Neighbouring rotors are so far apart on a circle of the arm's length.
	radius := round4(share * 2 * arm * math.Sin(math.Pi/float64(s.Rotors)))
	// Inertia grows with the mass and the square of the size.
	mr2 := s.MassKg * s.SpanM * s.SpanM
	t := craft.Type{Key: s.Key, Title: s.Title, Kind: fmt.Sprintf(msgOwnType, s.Rotors), SpanM: s.SpanM,
		MassKg: s.MassKg, Aids: s.Aids, RotorRadiusM: radius, FullThrust: c.fullThrust, FigureOfMerit: defaultMerit,
		DriveEfficiency: c.drive, RotorLagS: c.lagS, ElectronicsW: math.Min(c.electronicsW, 40*s.MassKg),
		InertiaKgM2: [3]float64{round9(inertiaShare * mr2), round9(inertiaShare * mr2), round9(yawShare * mr2)},
		Drag:        craft.Drag{RotorPerS: c.rotorPerS, BodyM2: round4(bodyShare * s.SpanM * s.SpanM)}, Battery: s.battery(),
		Propeller: craft.Propeller{DiameterM: 2 * radius, PitchM: round3(0.9 * radius), Blades: 2}, WindMps: c.windMps,
		GustMps: c.gust, Guards: s.Guards, Gimbal: s.Gimbal, CueColour: msgTypeAsItIs, CueSpaceM: round3(0.7 * s.SpanM)}
	for i := range s.Rotors {
		spin := craft.Spin("ccw")
		// Neighbours turn against one another.
		if i%2 == 1 {
			spin = "cw"
		}
		t.Rotors = append(t.Rotors, craft.Rotor{ArmM: arm, AngleDeg: (float64(i) + 0.5) * 360 / float64(s.Rotors),
			Spin: spin})
	}
	// In a hover each rotor carries its share, which gives its turns a second.
	each := s.MassKg * air.Gravity / float64(s.Rotors)
	t.HoverRps = round1(math.Sqrt(each / (c.thrust * air.SeaLevelDensity * math.Pow(2*radius, 4))))
	t.Limits = s.limits(c)
	t.Parts = []craft.Part{{Key: "propeller", Title: "propeller", PerCrash: 1}, {Key: "arm", Title: "arm", PerCrash: 0.2}}
	if s.HoverMinutes > 0 {
		merit, err := s.merit(t)
		if err != nil {
			return craft.Type{}, err
		}
		t.FigureOfMerit = merit
	}
	data, err := t.YAML()
	if err != nil {
		return craft.Type{}, err
	}
	return craft.Parse(data) // what it says is what the file says
}

// limits are those that a class usually flies with, by aids.
func (s Sketch) limits(c byClass) map[craft.Aids]craft.Limits {
	out := map[craft.Aids]craft.Limits{}
	for _, a := range s.Aids {
		l := craft.Limits{LeanDeg: 30, SpeedMps: c.speedMps, ClimbMps: 3, DescendMps: 2, YawDps: c.yawDps, BrakeMps2: 2}
		switch a {
		case craft.PositionHold:
			l.LeanDeg, l.BrakeMps2 = 25, 3
		case craft.HeightHold:
			l.BrakeMps2 = 1.2
		// Without levelling there is no lean that it keeps to.
		case craft.Tumble, craft.Rate:
			l.LeanDeg, l.SpeedMps, l.ClimbMps, l.DescendMps, l.YawDps = 180, 1.6*c.speedMps, 8, 6, 2.5*c.yawDps
		}
		out[a] = l
	}
	return out
}

// merit is the figure of merit with which a type hovers as long as was
// measured. The time falls as the power grows, so the power is found by
// halving.
func (s Sketch) merit(t craft.Type) (float64, error) {
	l, err := NewLifter(t, air.SeaLevelDensity)
	if err != nil {
		return 0, err
	}
	f, err := NewFilling(t.Battery, 0)
	if err != nil {
		return 0, err
	}
	minutes := func(merit float64) float64 {
		return f.Seconds(l.IdealHover()/(merit*t.DriveEfficiency)+t.ElectronicsW, Reserve) / 60
	}
	// A time outside these was measured wrongly, or the mass or the pack is
	// another.
	low, high := minutes(leastMerit), minutes(greatestMerit)
	if s.HoverMinutes < low || s.HoverMinutes > high {
		return 0, misread.At(0, fmt.Sprintf("%.0f to %.0f minutes for this mass, span and pack", math.Ceil(low),
			math.Floor(high)), "the hover time is %g minutes", s.HoverMinutes)
	}
	a, b := leastMerit, greatestMerit
	// Halving forty times is finer than three places.
	for range 40 {
		if m := (a + b) / 2; minutes(m) < s.HoverMinutes {
			a = m
		} else {
			b = m
		}
	}
	return round3((a + b) / 2), nil
}

// roundTo is v in steps of 1/scale.
func roundTo(v, scale float64) float64 { return math.Round(v*scale) / scale }

// round1 keeps one place.
func round1(v float64) float64 { return roundTo(v, 10) }

// round3 keeps three places, and is never 0.
func round3(v float64) float64 { return math.Max(roundTo(v, 1e3), 0.001) }

// round4 keeps four places, and is never 0.
func round4(v float64) float64 { return math.Max(roundTo(v, 1e4), 0.0001) }

// round9 keeps nine places, and is never 0.
func round9(v float64) float64 { return math.Max(roundTo(v, 1e9), 1e-8) }
