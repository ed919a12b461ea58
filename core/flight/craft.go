package flight

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"maestrale/core/flight/fmath"
)

// MostRotors is how many rotors a craft may have.
const MostRotors = 8

// Gravity in m/s² and the density of air in kg/m³ at sea level (ISO 2533).
const (
	Gravity         = 9.80665
	SeaLevelDensity = 1.225
)

// Aids is how much the craft flies itself, by rank: the fewer, the higher.
type Aids uint8

// The aids, most to least.
const (
	PositionHold Aids = iota
	HeightHold
	SelfLevel
	Tumble
	RateOnly
	aidsCount
)

// AidsNames are the words of the aids.
var AidsNames = [aidsCount]string{"position-hold", "height-hold", "self-level", "tumble", "rate"}

// String is the word for the aids.
func (a Aids) String() string { return AidsNames[a] }

// AidsOf returns the aids of a word.
func AidsOf(word string) (Aids, bool) { return ofWord[Aids](AidsNames[:], word) }

// ofWord is the number whose word it is.
func ofWord[T ~uint8](names []string, word string) (T, bool) {
	i := slices.Index(names, word)
	return T(max(i, 0)), i >= 0
}

// Limits are what the craft does at full stick with certain aids. Lean in
// radians, yaw in rad/s.
type Limits struct {
	Has                                 bool
	Lean, Speed, Climb, Descend, YawMax float64
	Brake                               float64 // m/s², with the sticks let go
	Gains                               Gains   // of the autopilot; what is 0 follows from the rotors' lag
}

// Gains are those of the autopilot's loops, each in 1/s: from place to speed, from
// speed to acceleration, from lean to rate, from rate to angular acceleration, and
// the two of the height.
type Gains struct{ Place, Speed, Lean, Rate, Height, Climb float64 }

// gainsOf fills in what is not given: each loop three times as slow as the one
// inside it, the innermost as fast as the rotors allow with their lag halved by a
// lead, which gives it a damping of 0.7.
func gainsOf(g Gains, lag float64) Gains {
	or := func(v *float64, else_ float64) {
		if *v == 0 {
			*v = else_
		}
	}
	or(&g.Rate, 1/lag)
	or(&g.Lean, g.Rate/3)
	or(&g.Speed, min(g.Lean/3, 2.5))
	or(&g.Place, g.Speed/4)
	or(&g.Climb, min(g.Lean/2, 4))
	or(&g.Height, g.Climb/3)
	return g
}

// Rotor is one rotor: where its arm points, radians clockwise from the nose, and
// whether it turns clockwise seen from above.
type Rotor struct {
	Arm, Angle float64
	Clockwise  bool
}

// Where says where a rotor stands, as the pilot behind the craft sees it.
func (r Rotor) Where() string {
	sin, cos := fmath.Sincos(r.Angle)
	lengthwise, side := "", ""
	switch {
	case cos > 0.3:
		lengthwise = "front"
	case cos < -0.3:
		lengthwise = "rear"
	}
	switch {
	case sin > 0.3:
		side = "right"
	case sin < -0.3:
		side = "left"
	}
	return strings.TrimSpace(lengthwise + " " + side)
}

// Craft is what the simulator has to know of a craft. Everything is SI.
type Craft struct {
	Mass     float64
	Span     float64
	Rotors   []Rotor
	Radius   float64
	HoverRps float64 // of every rotor at sea level
	// FullThrust is the thrust of all rotors at full power on a full pack, over the
	// weight.
	FullThrust  float64
	Merit       float64 // figure of merit of the rotors
	Drive       float64 // shaft power over what the pack gives
	Pitch       float64 // of the propeller, m a turn; 0 = not known
	Lag         float64 // of the rotors, s
	Electronics float64 // W
	Inertia     Vec     // about x (pitch), y (roll), z (yaw)
	RotorDrag   float64 // 1/s per unit mass
	BodyDrag    float64 // coefficient times area, m²
	Limits      [aidsCount]Limits
	Guards      bool
	Down        bool    // has a downward sensor
	Obstacle    [4]bool // senses obstacles: front, right, rear, left
	Gimbal      bool
	Cells       int
	CapacityAh  float64
	OhmPerCell  float64
	Curve       [11]float64 // rest volts of one cell at 0, 10, … 100 %
	EmptyVolts  float64     // of one cell under load, where the drive gives up
}

// Legs is how high the middle of the craft stands over its feet, in m.
func (c *Craft) Legs() float64 { return float64(0.3 * c.Span) }

// feet is how far the feet stand apart from the middle, to either side.
func (c *Craft) feet() float64 { return float64(0.3 * c.Span) }

// reach is how far the craft reaches from its middle: to the rim of its rotors.
func (c *Craft) reach() float64 { return float64(0.5*c.Span) + c.Radius }

// Check refuses a craft that cannot be flown: one clear sentence.
func (c *Craft) Check() error {
	if err := c.checkNumbers(); err != nil {
		return err
	}
	if c.FullThrust <= 1 {
		return fmt.Errorf("the craft cannot lift itself: full thrust is %.2f of its weight; expected over 1", c.FullThrust)
	}
	if n := len(c.Rotors); n < 3 || n > MostRotors {
		return fmt.Errorf("the craft has %d rotors; expected 3 to %d", n, MostRotors)
	}
	if c.Cells < 1 || c.Cells > 24 {
		return fmt.Errorf("the craft's pack has %d cells; expected 1 to 24", c.Cells)
	}
	for i, r := range c.Rotors {
		if !(r.Arm > 0 && r.Arm <= 10) || !(math.Abs(r.Angle) <= 7) {
			return fmt.Errorf("rotor %d stands %v m out at %v rad; expected an arm over 0 m and an angle within a turn", i+1,
				r.Arm, r.Angle)
		}
	}
	last := 0.0
	for i, v := range c.Curve {
		if !(v >= last && v > 0 && v < 6) {
			return fmt.Errorf("a cell rests at %v V at %d0 %% charge; expected rest volts that rise with the charge", v, i)
		}
		last = v
	}
	return c.checkAids()
}

// checkNumbers refuses a number that no craft has.
func (c *Craft) checkNumbers() error {
	type number struct {
		name           string
		v, over, under float64
	}
	for _, n := range []number{
		{msgMass, c.Mass, 0, 200}, {"span in m", c.Span, 0, 10}, {msgRotorRadius, c.Radius, 0, 3},
		{msgHoverTurns, c.HoverRps, 0, 3000},
		{msgFigureOfMerit, c.Merit, 0, 1}, {"drive efficiency", c.Drive, 0, 1}, {msgRotorLag, c.Lag, 0.004, 1},
		{msgInertiaPitch, c.Inertia.X, 0, 1000}, {msgInertiaRoll, c.Inertia.Y, 0, 1000},
		{msgInertiaYaw, c.Inertia.Z, 0, 1000},
		{msgCapacity, c.CapacityAh, 0, 1000}, {msgThrustToWeight, c.FullThrust, 0, 50},
	} {
		if !(n.v > n.over && n.v <= n.under) {
			return fmt.Errorf("the craft's %s is %v; expected over %v and %v at most", n.name, n.v, n.over, n.under)
		}
	}
	for _, n := range []number{{"electronics in W", c.Electronics, 0, 1000}, {"rotor drag", c.RotorDrag, 0, 10},
		{msgBodyDrag, c.BodyDrag, 0, 10}, {msgCellResistance, c.OhmPerCell, 0, 1}, {msgPropellerPitch,
			c.Pitch, 0, 3}} {
		if !(n.v >= n.over && n.v <= n.under) {
			return fmt.Errorf("the craft's %s is %v; expected %v to %v", n.name, n.v, n.over, n.under)
		}
	}
	return nil
}

// checkAids refuses gains and limits that no autopilot has, and a craft that has none.
func (c *Craft) checkAids() error {
	any := false
	for a, l := range c.Limits {
		if !l.Has {
			continue
		}
		any = true
		for _, g := range []float64{l.Gains.Place, l.Gains.Speed, l.Gains.Lean, l.Gains.Rate, l.Gains.Height, l.Gains.Climb} {
			if !(g >= 0 && g <= 60) {
				return fmt.Errorf("a gain of the craft with %s is %v 1/s; expected 0 to 60", Aids(a), g)
			}
		}
		if !(l.Lean > 0 && l.Speed > 0 && l.Climb > 0 && l.Descend > 0 && l.YawMax > 0 && l.Lean < 4 && l.Speed < 100 &&
			l.Climb < 50 && l.Descend < 50 && l.YawMax < 50) {
			return fmt.Errorf("the craft's limits with %s are %+v; expected lean, speed, climb, descent and yaw over 0", Aids(a),
				l)
		}
	}
	if !any {
		return fmt.Errorf("the craft has no aids with limits; expected one at least")
	}
	return nil
}

// Most is the most aids that the craft has.
func (c *Craft) Most() Aids {
	for a, l := range c.Limits {
		if l.Has {
			return Aids(a)
		}
	}
	return RateOnly
}
