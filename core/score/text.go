package score

import (
	"fmt"
	"math"

	"maestrale/core/drill"
)

// A fault is worded once, here and in the kinds of steps, and stored with the
// result: every screen, sheet and file says the same sentence.

// figures writes a value and its limit with as many places as show the
// difference, up to three.
func figures(v, limit float64) (string, string) {
	for places := 1; places < 3; places++ {
		a, b := fmt.Sprintf("%.*f", places, v), fmt.Sprintf("%.*f", places, limit)
		if a != b && math.Abs(round(limit, places)-limit) < 1e-9 {
			return a, b
		}
	}
	return fmt.Sprintf("%.3f", v), fmt.Sprintf("%.2f", limit)
}

// wayOf names a direction in which the craft went.
var wayOf = map[string]string{"left": "left", "right": "right", "toward": "toward you", "away": "away", "up": "up",
	"down": "down"}

// sideWords say on which side of a place something lies; the name of the place
// follows.
var sideWords = map[string]string{
	"left": msgToTheLeftOf, "right": msgToTheRightOf, "toward": msgTowardYouFrom, "away": "beyond",
	"up": "above", "down": "below",
}

// words says the fault as an instructor would, with its figure and its limit.
// The kind of the step has the first word, then what paths, ways and stops
// share, then what means the same everywhere.
func (f *Fault) words(s *drill.Target) string {
	at := fmt.Sprintf("at %.1f s", f.TS)
	if f.Code == Order && f.At != nil && s.Kind != drill.Return {
		return fmt.Sprintf(msgFlownBackwardsAt, at)
	}
	if f.Value == nil {
		return f.marked(at)
	}
	limit := 0.0
	if f.Limit != nil {
		limit = *f.Limit
	}
	v, l := figures(*f.Value, limit)
	if w := kindOf(s).faultWords(f, s, v, l, at); w != "" {
		return w
	}
	if w := f.ofWay(s, v, l, limit, at); w != "" {
		return w
	}
	switch f.Code {
	case LeftBox:
		place := "the marker"
		if !s.HasAt {
			place = msgWhereTurnBegan
		}
		return fmt.Sprintf(msgOutsideBox, v, sideWords[f.Toward], place, at, l)
	case Height:
		way := "high"
		if f.Toward == "down" {
			way = "low"
		}
		return fmt.Sprintf(msgTooHighOrLow, v, way, at, l)
	case Nose:
		return fmt.Sprintf(msgNoseOff, *f.Value, f.Toward, at, limit)
	case Speed:
		if *f.Value < limit {
			return fmt.Sprintf(msgTurnedTooSlowly, *f.Value, limit)
		}
		return fmt.Sprintf(msgTurnedTooQuickly, *f.Value, limit)
	case Overshoot:
		return fmt.Sprintf(msgTurnedPast, *f.Value, at, limit)
	case WrongWay:
		return fmt.Sprintf(msgNoseWrongWay, *f.Value, at)
	case Offset:
		return fmt.Sprintf(msgTouchedDownOff, v, sideWords[f.Toward], l)
	case Sink:
		return fmt.Sprintf(msgTouchedDownFast, v, l)
	case Tilt:
		return fmt.Sprintf(msgTouchedDownLeaningBy, *f.Value, limit)
	case Bounce:
		return fmt.Sprintf("bounced %.2f m %s", *f.Value, at)
	case TimeOut:
		return fmt.Sprintf(msgTookTooLongBy, stepWords[string(s.Kind)], *f.Value, limit)
	}
	return fmt.Sprintf("%s %s", f.Code, at)
}

// ofWay says a fault of a path, of the way to a place or of a stop; empty for
// another. v and l are the value and the limit as written.
func (f *Fault) ofWay(s *drill.Target, v, l string, limit float64, at string) string {
	switch f.Code {
	case CrossTrack:
		return fmt.Sprintf(msgOffLineBy, v, map[string]string{"left": msgToTheLeft,
			"right": msgToTheRight, "toward": "toward you", "away": msgAwayFromYou, "up": "too high",
			"down": "too low"}[f.Toward], at, l)
	case Rest:
		place := ""
		if f.At != nil {
			place = fmt.Sprintf(msgAtCornerUp, f.At.Z)
		}
		return fmt.Sprintf(msgRestedTooShortBy, v, place, l)
	case Uneven:
		what := "lobes"
		if s.Path != nil && s.Path.Shape == drill.Oval {
			what = "ends"
		}
		return fmt.Sprintf(msgHalfLarger, what,
			100*(*f.Value-1), 100*(limit-1))
	case Crossing:
		return fmt.Sprintf(msgCrossedOffBy, v, l)
	case AngleOff:
		if s.Path != nil && s.Path.Shape == drill.Slant {
			return fmt.Sprintf(msgSlantOffBy, *f.Value, limit)
		}
		return fmt.Sprintf(msgLegsClose, *f.Value, limit)
	case Lost:
		return fmt.Sprintf(msgFartherOff, v, at, l)
	case Late:
		return fmt.Sprintf(msgStoodLate, v, l)
	}
	return ""
}
