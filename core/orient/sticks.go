package orient

import (
	"fmt"
	"math"

	"maestrale/core/field"
)

// Frame is what "forward" on the stick refers to.
type Frame string

// The stick frames.
const (
	NoseFrame   Frame = "nose"
	FrozenFrame Frame = "frozen" // a direction captured on request
	PilotFrame  Frame = "pilot"  // pull back always comes closer
)

// Stance is how a craft stands to its pilot.
type Stance struct {
	Heading  field.Angle // where the nose points
	Bearing  field.Angle // from the pilot to the craft
	Frame    Frame
	Captured field.Angle // the heading of the frozen frame
}

// Aspect is what the pilot's eye has to solve: 0 tail-in, 180° nose-in, +90°
// nose right.
func (s Stance) Aspect() field.Angle { return (s.Heading - s.Bearing).Wrap() }

// Toward is a direction in the pilot's eyes: 0 away, 90° to the right, 180°
// toward, −90° to the left.
type Toward = field.Angle

// Directions in the pilot's eyes.
var (
	Away    = field.Degrees(0)
	Right   = field.Degrees(90)
	Nearer  = field.Degrees(180)
	Left    = field.Degrees(-90)
	forward = map[Frame]func(Stance) field.Angle{
		NoseFrame:   func(s Stance) field.Angle { return s.Heading },
		FrozenFrame: func(s Stance) field.Angle { return s.Captured },
		PilotFrame:  func(s Stance) field.Angle { return s.Bearing },
	}
)

// Stick is where the right hand's stick goes: forward and right are positive.
type Stick struct{ Pitch, Roll float64 }

// Push is the stick that moves a craft in a direction in the pilot's eyes. The
// direction lies at bearing + toward in the field; forward lies where the frame
// says; the stick is the difference, at full length.
func Push(s Stance, toward Toward) (Stick, error) {
	ref, ok := forward[s.Frame]
	if !ok {
		return Stick{}, fmt.Errorf("the stick frame is %q; expected nose, frozen or pilot", string(s.Frame))
	}
	a := float64(s.Bearing + toward - ref(s))
	return Stick{math.Cos(a), math.Sin(a)}, nil
}

// Moves is the direction in the pilot's eyes in which a stick moves the craft:
// the inverse of Push. It is not ok for a stick in the middle.
func Moves(s Stance, k Stick) (toward Toward, ok bool) {
	ref, known := forward[s.Frame]
	if !known || math.Hypot(k.Pitch, k.Roll) < 1e-9 {
		return 0, false
	}
	return (field.Angle(math.Atan2(k.Roll, k.Pitch)) + ref(s) - s.Bearing).Wrap(), true
}

// Stop is the stick that stops a drift that is seen: against it. Nose-in it is a push
// toward the side to which the craft drifts.
func Stop(s Stance, drift Toward) (Stick, error) { return Push(s, drift+math.Pi) }

// TailToYou is which way to yaw so that the tail comes to the pilot the short
// way: −1 left, +1 right; 0 where it is there, within a degree.
func TailToYou(s Stance) int {
	switch a := s.Aspect().Deg(); {
	case math.Abs(a) < 1:
		return 0
	case a > 0:
		return -1
	}
	return 1
}
