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
	"left": "to the left of", "right": "to the right of", "toward": "toward you from", "away": "beyond",
	"up": "above", "down": "below",
}

// words says the fault as an instructor would.
func (f *Fault) words(s *drill.Target) string {
	at := fmt.Sprintf("at %.1f s", f.TS)
	if f.Code == Order && f.At != nil && s.Kind != drill.Return {
		return "flown in the wrong direction " + at
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
			place = "where the turn began"
		}
		return fmt.Sprintf("%s m %s %s %s; the box is %s m", v, sideWords[f.Toward], place, at, l)
	case Height:
		way := "high"
		if f.Toward == "down" {
			way = "low"
		}
		return fmt.Sprintf("%s m too %s %s; the limit is %s m", v, way, at, l)
	case Nose:
		return fmt.Sprintf("nose %.0f° off to the %s %s; the limit is %.0f°", *f.Value, f.Toward, at, limit)
	case Speed:
		if *f.Value < limit {
			return fmt.Sprintf("turned at %.0f° a second; the slowest is %.0f°", *f.Value, limit)
		}
		return fmt.Sprintf("turned at %.0f° a second; the quickest is %.0f°", *f.Value, limit)
	case Overshoot:
		return fmt.Sprintf("turned %.0f° too far %s; the limit is %.0f°", *f.Value, at, limit)
	case WrongWay:
		return fmt.Sprintf("the nose went %.0f° the wrong way %s", *f.Value, at)
	case Offset:
		return fmt.Sprintf("touched down %s m %s the pad; the limit is %s m", v, sideWords[f.Toward], l)
	case Sink:
		return fmt.Sprintf("touched down at %s m/s; the limit is %s m/s", v, l)
	case Tilt:
		return fmt.Sprintf("touched down leaning %.0f°; the limit is %.0f°", *f.Value, limit)
	case Bounce:
		return fmt.Sprintf("bounced %.2f m %s", *f.Value, at)
	case TimeOut:
		return fmt.Sprintf("the %s took %.0f s; the limit is %.0f s", stepWords[string(s.Kind)], *f.Value, limit)
	}
	return fmt.Sprintf("%s %s", f.Code, at)
}

// ofWay says a fault of a path, of the way to a place, or of a stop.
func (f *Fault) ofWay(s *drill.Target, v, l string, limit float64, at string) string {
	switch f.Code {
	case CrossTrack:
		return fmt.Sprintf("%s m off the line, %s %s; the limit is %s m", v, map[string]string{"left": "to the left",
			"right": "to the right", "toward": "toward you", "away": "away from you", "up": "too high",
			"down": "too low"}[f.Toward], at, l)
	case Rest:
		place := ""
		if f.At != nil {
			place = fmt.Sprintf(" at the corner %.1f m up", f.At.Z)
		}
		return fmt.Sprintf("rested %s s%s; %s s are needed", v, place, l)
	case Uneven:
		what := "lobes"
		if s.Path != nil && s.Path.Shape == drill.Oval {
			what = "ends"
		}
		return fmt.Sprintf("the larger of the %s is %.0f %% larger than the other; the limit is %.0f %%", what,
			100*(*f.Value-1), 100*(limit-1))
	case Crossing:
		return fmt.Sprintf("crossed %s m off the centre; the limit is %s m", v, l)
	case AngleOff:
		if s.Path != nil && s.Path.Shape == drill.Slant {
			return fmt.Sprintf("the slant was %.1f° off its angle; the limit is %.0f°", *f.Value, limit)
		}
		return fmt.Sprintf("the legs close by %.1f°; the limit is %.0f°", *f.Value, limit)
	case Lost:
		return fmt.Sprintf("%s m farther off than it was, %s; the limit is %s m", v, at, l)
	case Late:
		return fmt.Sprintf("stood after %s s; the limit is %s s", v, l)
	}
	return ""
}
