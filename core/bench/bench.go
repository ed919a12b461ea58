// Package bench is a craft on a stand, which shows what its rotors do to it,
// and the questions that a trainer asks about that. Thrusts, torques and the
// mixer are those of core/flight.
package bench

import (
	"errors"
	"fmt"
	"maestrale/core/field"
	"maestrale/core/flight"
	"math"
	"strings"
)

// Bench is a craft on a stand that shows what its rotors do to it: it may turn
// round, leans against a spring and slides up and down a rail, each held back,
// so that what a person sets shows and nothing tumbles. Thrusts, torques and
// the flight.Mixer are those of the flight; spring, rail and their damping
// belong to the stand.
type Bench struct {
	State State
	craft flight.Craft
	mix   flight.Mixer
	// Thrust and torque of a rotor over the square of its speed, and its speed in a
	// hover, rad/s.
	kThrust, kTorque, hover float64
	weight, arm             float64
	want                    [flight.MostRotors]float64 // shares of the hover's speed
}

// State is how a craft stands on its bench: m, rad, s, N and N m.
type State struct {
	Height, Climb    float64
	Heading, Turning float64                    // + nose right
	Roll, Rolling    float64                    // + right side down
	Pitch, Pitching  float64                    // + nose up
	Share            [flight.MostRotors]float64 // of the hover's speed
	// that each rotor puts on the craft about the vertical, + nose right
	Torque [flight.MostRotors]float64
	// of all: thrust over weight − 1; torques over what turns or leans it fully
	Lift, Yaw, Lean, Nodding float64
	Kept                     flight.Kept // of what the sticks asked
}

const (
	railM   = 1.5 // m up and down from the middle of the rail
	leanRad = 0.6 // rad that a torque of half the weight at the arm leans it
	steadyS = 0.9 // s in which turning and climbing die away
	tickS   = 0.002

	// What a stick at its end asks for, over the weight, the weight at the arm, and
	// the torque that the rotors of one way put on the craft in a hover.
	mostLift  = 0.4
	mostTilt  = 0.25
	mostTwist = 0.6
)

// New puts a craft on a bench.
func New(c flight.Craft) (*Bench, error) {
	if err := c.Check(); err != nil {
		return nil, err
	}
	n := float64(len(c.Rotors))
	b := &Bench{craft: c, weight: float64(c.Mass * flight.Gravity), hover: float64(2 * math.Pi * c.HoverRps)}
	b.kThrust = b.weight / float64(n*float64(b.hover*b.hover))
	disc := float64(float64(n*math.Pi) * float64(c.Radius*c.Radius))
	ideal := float64(b.weight * math.Sqrt(b.weight/float64(2*float64(flight.SeaLevelDensity*disc))))
	b.kTorque = ideal / c.Merit / float64(n*float64(b.hover*float64(b.hover*b.hover)))
	for _, r := range c.Rotors {
		b.arm += r.Arm / n
	}
	var err error
	if b.mix, err = flight.NewMixer(&c, b.kTorque/b.kThrust); err != nil {
		return nil, err
	}
	b.Level()
	return b, nil
}

// Level puts the craft back: in the middle, nose away, in a hover.
func (b *Bench) Level() {
	b.State = State{Kept: flight.Kept{Yaw: 1, Lean: 1}}
	for i := range b.mix.N {
		b.want[i], b.State.Share[i] = 1, 1
	}
}

// Fastest is the share of the hover's speed that a rotor reaches.
func (b *Bench) Fastest() float64 { return math.Sqrt(b.craft.FullThrust) }

// Rotors sets the speeds of the rotors, as shares of that in a hover.
func (b *Bench) Rotors(shares []float64) error {
	if len(shares) != b.mix.N {
		return fmt.Errorf("%d speeds; expected %d, one a rotor", len(shares), b.mix.N)
	}
	for i, v := range shares {
		if !(v >= 0 && v <= b.Fastest()+1e-9) {
			return fmt.Errorf("the speed of rotor %d is %v of the hover's; expected 0 to %.2f", i+1, v, b.Fastest())
		}
	}
	copy(b.want[:], shares)
	b.State.Kept = flight.Kept{Yaw: 1, Lean: 1}
	return nil
}

// Sticks lets the mixer set the speeds of the rotors for sticks, as a flight
// would.
func (b *Bench) Sticks(k flight.Sticks) {
	b.want, b.State.Kept = b.mixed(k)
}

// Set is what the rotors are set to: shares of the hover's speed.
func (b *Bench) Set() []float64 { return append([]float64(nil), b.want[:b.mix.N]...) }

// mixed is what the mixer makes of the sticks: shares of the hover's speed.
func (b *Bench) mixed(k flight.Sticks) (out [flight.MostRotors]float64, kept flight.Kept) {
	one := b.weight / float64(b.mix.N)
	thrust := float64(b.weight * (1 + float64(mostLift*clamp(k.Throttle, -1, 1))))
	tilt := float64(float64(mostTilt*b.weight) * b.arm)
	twist := float64(float64(float64(0.5*mostTwist)*b.weight) * (b.kTorque / b.kThrust))
	shares, kept := b.mix.Share(thrust, flight.Vec{X: -float64(tilt * clamp(k.Pitch, -1, 1)),
		Y: float64(tilt * clamp(k.Roll, -1, 1)), Z: -float64(twist * clamp(k.Yaw, -1,
			1))}, float64(0.0625*one), float64(b.craft.FullThrust*one))
	for i := range b.mix.N {
		out[i] = math.Sqrt(shares[i] / one)
	}
	return out, kept
}

// pulls is what rotors at shares of the hover's speed do: thrust over weight − 1,
// and the torques over what a stick at its end asks.
func (b *Bench) pulls(shares *[flight.MostRotors]float64) (lift, yaw, lean, nod float64) {
	one := b.weight / float64(b.mix.N)
	for i := range b.mix.N {
		t := float64(one * float64(shares[i]*shares[i]))
		lift += t / b.weight
		lean -= float64(b.mix.X[i] * t)
		nod += float64(b.mix.Y[i] * t)
		yaw -= float64(b.mix.Turn[i] * t)
	}
	tilt := float64(float64(mostTilt*b.weight) * b.arm)
	return lift - 1, yaw / float64(float64(float64(0.5*mostTwist)*b.weight)*(b.kTorque/b.kThrust)), lean / tilt, nod / tilt
}

// Step moves the bench on by some seconds, a tenth at most.
func (b *Bench) Step(seconds float64) {
	s := &b.State
	settle := clamp(tickS/b.craft.Lag, 0, 1)
	for range int(clamp(seconds, 0, 0.1)/tickS + 0.5) {
		for i := range b.mix.N {
			s.Share[i] += float64(settle * (b.want[i] - s.Share[i]))
		}
		s.Lift, s.Yaw, s.Lean, s.Nodding = b.pulls(&s.Share)
		s.Climb += float64(tickS * (float64(flight.Gravity*s.Lift) - s.Climb/steadyS))
		s.Height += float64(tickS * s.Climb)
		if math.Abs(s.Height) > railM {
			s.Height, s.Climb = math.Copysign(railM, s.Height), 0
		}
		// A stick at its end turns it at half a turn a second in the end.
		s.Turning += float64(tickS * (float64(math.Pi/steadyS*s.Yaw) - s.Turning/steadyS))
		s.Heading = float64(field.Angle(s.Heading + float64(tickS*s.Turning)).Wrap())
		// The spring of the stand, with its damping critical, 5 rad/s.
		full := float64(leanRad * 2 * mostTilt)
		s.Rolling += float64(tickS * (float64(25*(float64(full*s.Lean)-s.Roll)) - float64(10*s.Rolling)))
		s.Roll = clamp(s.Roll+float64(tickS*s.Rolling), -1.2, 1.2)
		s.Pitching += float64(tickS * (float64(25*(float64(full*s.Nodding)-s.Pitch)) - float64(10*s.Pitching)))
		s.Pitch = clamp(s.Pitch+float64(tickS*s.Pitching), -1.2, 1.2)
	}
	for i := range b.mix.N {
		w := float64(s.Share[i] * b.hover)
		s.Torque[i] = float64(float64(b.kTorque*w) * w)
		if b.craft.Rotors[i].Clockwise {
			s.Torque[i] = -s.Torque[i]
		}
	}
}

// Motion is which way a craft goes: −1, 0 or 1 about and along each axis.
type Motion struct {
	Turn, // + nose right
	Right, // + right side down: it goes right
	Ahead, // + nose down: it goes ahead
	Climb int
}

// some is how much of a full stick counts as meant.
const some = 0.15

// sign is −1, 0 or 1; small values have none.
func sign(v float64) int {
	switch {
	case v > some:
		return 1
	case v < -some:
		return -1
	}
	return 0
}

// MotionOf is which way rotors at shares of the hover's speed take the craft.
func (b *Bench) MotionOf(shares *[flight.MostRotors]float64) Motion {
	lift, yaw, lean, nod := b.pulls(shares)
	return Motion{sign(yaw), sign(lean), sign(-nod), sign(lift / mostLift)}
}

// Motion is which way it is set to go now.
func (b *Bench) Motion() Motion { return b.MotionOf(&b.want) }

// Words says a motion.
func (m Motion) Words() string {
	var out []string
	for _, p := range []struct {
		v         int
		low, high string
	}{{m.Turn, msgTurnsNoseLeft, msgTurnsNoseRight}, {m.Right, "leans left", "leans right"}, {m.Ahead,
		"leans back", "leans ahead"}, {m.Climb, "sinks", "climbs"}} {
		if p.v < 0 {
			out = append(out, p.low)
		} else if p.v > 0 {
			out = append(out, p.high)
		}
	}
	if len(out) == 0 {
		return "hangs still"
	}
	return listed(out)
}

// listed joins words as a sentence does.
func listed(words []string) string {
	if n := len(words); n > 1 {
		return strings.Join(words[:n-1], ", ") + " and " + words[n-1]
	}
	return strings.Join(words, "")
}

// sticks is the stick that makes a motion.
func (m Motion) sticks() flight.Sticks {
	return flight.Sticks{Throttle: float64(m.Climb), Yaw: float64(m.Turn), Pitch: float64(m.Ahead), Roll: float64(m.Right)}
}

// Question is one of the trainer's: a motion that is asked for and made with the
// rotors, or rotors that are shown and answered with the stick that does that.
type Question struct {
	Key    string
	Ask    string
	Rotors bool // it is answered with the rotors
	Want   Motion
	Shown  []float64 // shares of the hover's speed, where it is answered with the sticks
}

// Questions are those of a craft: each motion once each way.
func (b *Bench) Questions() []Question {
	var out []Question
	for _, m := range []struct {
		key, ask string
		want     Motion
	}{
		{"left", msgAskYawLeft, Motion{Turn: -1}},
		{"right", msgAskYawRight, Motion{Turn: 1}},
		{"lean-left", msgAskRollLeft, Motion{Right: -1}},
		{"lean-right", msgAskRollRight, Motion{Right: 1}},
		{"ahead", msgAskPitchAhead, Motion{Ahead: 1}},
		{"back", msgAskPitchBack, Motion{Ahead: -1}},
		{"up", msgAskClimb, Motion{Climb: 1}},
		{"down", msgAskSink, Motion{Climb: -1}},
	} {
		k := m.want.sticks()
		shares, _ := b.mixed(flight.Sticks{Throttle: float64(0.8 * k.Throttle), Yaw: float64(0.8 * k.Yaw),
			Pitch: float64(0.8 * k.Pitch), Roll: float64(0.8 * k.Roll)})
		out = append(out,
			Question{Key: m.key + "-rotors", Ask: m.ask, Rotors: true, Want: m.want},
			Question{Key: m.key + "-sticks", Ask: msgAskWhichStick, Want: m.want,
				Shown: shares[:b.mix.N]})
	}
	return out
}

// ErrQuestion is a question that is not known.
var ErrQuestion = errors.New("the question is not known")

// Answer judges what is set now against a question: whether it is right, and why
// the craft does what it does.
func (b *Bench) Answer(key string) (right bool, why string, err error) {
	for _, q := range b.Questions() {
		if q.Key != key {
			continue
		}
		m := b.Motion()
		why = fmt.Sprintf(msgAsItIs, m.Words())
		if m != (Motion{}) {
			why += ": " + b.because(m)
		}
		return m == q.Want, why + ".", nil
	}
	return false, "", ErrQuestion
}

// because says which rotors turn faster than the rest, and what that does.
func (b *Bench) because(m Motion) string {
	mean := 0.0
	for i := range b.mix.N {
		mean += b.want[i] / float64(b.mix.N)
	}
	var fast []string
	for i := range b.mix.N {
		if b.want[i] > mean+0.01 {
			fast = append(fast, fmt.Sprint(i+1))
		}
	}
	list := listed(fast)
	var out []string
	switch {
	case len(fast) == 0 && m.Climb > 0:
		out = append(out, msgWhyClimbs)
	case len(fast) == 0 && m.Climb < 0:
		out = append(out, msgWhySinks)
	}
	if m.Turn != 0 {
		way, back := "counter-clockwise", msgClockwiseNoseRight
		if m.Turn < 0 {
			way, back = "clockwise", msgCounterClockwiseNose
		}
		out = append(out, fmt.Sprintf(msgWhyYaws, way, back))
	}
	if m.Right != 0 || m.Ahead != 0 {
		out = append(out, fmt.Sprintf(msgWhyLeans, list))
	}
	if len(out) == 0 {
		out = append(out, fmt.Sprintf(msgFasterThanTheRest, list))
	}
	return strings.Join(out, "; ")
}

// clamp keeps a value within two others.
func clamp(v, low, high float64) float64 { return min(max(v, low), high) }
