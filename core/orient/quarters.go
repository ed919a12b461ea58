package orient

import (
	"fmt"
	"math"

	"maestrale/core/field"
)

// Lean is an end to which the stick is pushed: forward, back, left or right, as
// the craft sees them.
type Lean string

// The ends of the stick.
const (
	LeanForward Lean = "forward"
	LeanBack    Lean = "back"
	LeanLeft    Lean = "left"
	LeanRight   Lean = "right"
)

// Leans lists them.
var Leans = []Lean{LeanForward, LeanBack, LeanLeft, LeanRight}

// Goes is where an end of the stick takes a craft with its nose at a heading,
// in the pilot's eyes: x to the right, y away, a unit vector.
func Goes(heading field.Angle, l Lean) field.Point {
	k := map[Lean]Stick{LeanForward: {Pitch: 1}, LeanBack: {Pitch: -1}, LeanRight: {Roll: 1}, LeanLeft: {Roll: -1}}[l]
	toward, _ := Moves(Stance{Heading: heading, Frame: NoseFrame}, k)
	sin, cos := math.Sincos(float64(toward))
	return field.Point{X: sin, Y: cos}
}

// Quarter names the quarter in which a nose points, as the pilot sees it.
func Quarter(heading field.Angle) string {
	switch deg := heading.Wrap().Deg(); {
	case math.Abs(deg) <= 45:
		return msgTailTowardYou
	case math.Abs(deg) >= 135:
		return msgNoseTowardYou
	case deg > 0:
		return msgNoseToYourRight
	}
	return msgNoseToYourLeft
}

// NoseIn tells whether a nose points to the pilot's half; straight across it
// does not.
func NoseIn(heading field.Angle) bool { return math.Cos(float64(heading)) < -1e-9 }

// WayWords say a direction as the pilot sees it: one of eight. They are empty
// for no direction.
func WayWords(v field.Point) string {
	const part = 0.3827 // the sine of an eighth of a right angle and a half: 22.5°
	away, side := "", ""
	switch {
	case v.Y > part:
		away = msgAwayFromYou
	case v.Y < -part:
		away = "toward you"
	}
	switch {
	case v.X > part:
		side = msgToYourRight
	case v.X < -part:
		side = msgToYourLeft
	}
	switch {
	case away == "":
		return side
	case side == "":
		return away
	}
	return away + " and " + side
}

// Against returns the end of the stick that goes most against a drift, and
// whether that is the side to which the craft drifts, as it is nose-in.
func Against(heading field.Angle, drift field.Point) (l Lean, sameSide bool) {
	// The push whose way has the least in common with the drift.
	best := math.Inf(1)
	for _, k := range []Lean{LeanLeft, LeanRight, LeanForward, LeanBack} { // where two are as good, to the side
		g := Goes(heading, k)
		if d := g.X*drift.X + g.Y*drift.Y; d < best-1e-9 {
			best, l = d, k
		}
	}
	return l, l == LeanLeft && drift.X < 0 || l == LeanRight && drift.X > 0
}

// DriftRule says what to do with a drift to the side at a heading.
func DriftRule(heading field.Angle) string {
	p, same := Against(heading, field.Point{X: -1})
	switch {
	case same:
		return msgStopDriftNoseIn
	case p == LeanRight:
		return msgStopDriftTailIn
	}
	return fmt.Sprintf(msgStopDriftSideOn, p)
}
