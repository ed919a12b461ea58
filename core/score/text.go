package score

import (
	"fmt"
	"math"

	"maestrale/core/drill"
)

// figures writes a value and its limit so that the difference can be seen.
func figures(v, limit float64) (string, string) {
	for places := 1; places < 3; places++ {
		a, b := fmt.Sprintf("%.*f", places, v), fmt.Sprintf("%.*f", places, limit)
		if a != b && math.Abs(round(limit, places)-limit) < 1e-9 {
			return a, b
		}
	}
	return fmt.Sprintf("%.3f", v), fmt.Sprintf("%.2f", limit)
}

var wayOf = map[string]string{"left": "left", "right": "right", "toward": "toward you", "away": "away", "up": "up",
	"down": "down"}

var sideWords = map[string]string{
	"left": msgToTheLeftOf, "right": msgToTheRightOf, "toward": msgTowardYouFrom, "away": "beyond",
	"up": "above", "down": "below",
}

// words says the fault as an instructor would.
func (f *Fault) words(s *drill.Target) string {
	at := fmt.Sprintf("at %.1f s", f.TS)
	if f.Code == Order && f.At != nil && s.Kind != drill.Return {
		return fmt.Sprintf(msgFlownWrongDirectionAt, at)
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
		return fmt.Sprintf(msgTheBoxIs, v, sideWords[f.Toward], place, at, l)
	case Height:
		way := "high"
		if f.Toward == "down" {
			way = "low"
		}
		return fmt.Sprintf(msgTooLimit, v, way, at, l)
	case Nose:
		return fmt.Sprintf(msgNoseOffLimit, *f.Value, f.Toward, at, limit)
	case Speed:
		if *f.Value < limit {
			return fmt.Sprintf(msgTurnedSecondSlowest, *f.Value, limit)
		}
		return fmt.Sprintf(msgTurnedSecondQuickest, *f.Value, limit)
	case Overshoot:
		return fmt.Sprintf(msgTurnedTooFarLimit, *f.Value, at, limit)
	case WrongWay:
		return fmt.Sprintf(msgNoseWentWrong, *f.Value, at)
	case Offset:
		return fmt.Sprintf(msgTouchedDownPad, v, sideWords[f.Toward], l)
	case Sink:
		return fmt.Sprintf(msgTouchedDownLimit, v, l)
	case Tilt:
		return fmt.Sprintf(msgTouchedDownLeaningLimit, *f.Value, limit)
	case Bounce:
		return fmt.Sprintf("bounced %.2f m %s", *f.Value, at)
	case TimeOut:
		return fmt.Sprintf(msgTookLimit, stepWords[string(s.Kind)], *f.Value, limit)
	}
	return fmt.Sprintf("%s %s", f.Code, at)
}

// ofWay says a fault of a path, of the way to a place, or of a stop.
func (f *Fault) ofWay(s *drill.Target, v, l string, limit float64, at string) string {
	switch f.Code {
	case CrossTrack:
		return fmt.Sprintf(msgOffLineLimit, v, map[string]string{"left": msgToTheLeft,
			"right": msgToTheRight, "toward": "toward you", "away": msgAwayFromYou, "up": "too high",
			"down": "too low"}[f.Toward], at, l)
	case Rest:
		place := ""
		if f.At != nil {
			place = fmt.Sprintf(msgCornerUp, f.At.Z)
		}
		return fmt.Sprintf(msgRestedNeeded, v, place, l)
	case Uneven:
		what := "lobes"
		if s.Path != nil && s.Path.Shape == drill.Oval {
			what = "ends"
		}
		return fmt.Sprintf(msgLargerLargerOther, what,
			100*(*f.Value-1), 100*(limit-1))
	case Crossing:
		return fmt.Sprintf(msgCrossedOffCentreLimit, v, l)
	case AngleOff:
		if s.Path != nil && s.Path.Shape == drill.Slant {
			return fmt.Sprintf(msgSlantOffAngle, *f.Value, limit)
		}
		return fmt.Sprintf(msgLegsCloseLimit, *f.Value, limit)
	case Lost:
		return fmt.Sprintf(msgFartherOffLimit, v, at, l)
	case Late:
		return fmt.Sprintf(msgStoodAfterLimit, v, l)
	}
	return ""
}
