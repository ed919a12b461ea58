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

var sideWords = map[string]string{
	"left": "to the left of", "right": "to the right of", "toward": "toward you from", "away": "beyond",
	"up": "above", "down": "below",
}

// words says the fault as an instructor would.
func (f Fault) words(s drill.Target) string {
	at := fmt.Sprintf("at %.1f s", f.TS)
	if f.Value == nil {
		return f.marked(at)
	}
	limit := 0.0
	if f.Limit != nil {
		limit = *f.Limit
	}
	v, l := figures(*f.Value, limit)
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
		return fmt.Sprintf("%s took %.0f s; %.0f s at most", s.Kind, *f.Value, limit)
	}
	return fmt.Sprintf("%s %s", f.Code, at)
}

// marked says a fault that an eye saw, without a figure.
func (f Fault) marked(at string) string {
	way := map[string]string{"left": " to the left", "right": " to the right", "toward": " toward you", "away": " away from you", "up": " upward", "down": " downward"}[f.Toward]
	switch f.Code {
	case LeftBox:
		return "left the box" + way + " " + at
	case Height:
		return "lost the height" + way + " " + at
	case Nose:
		return "nose off" + way + " " + at
	case Overshoot:
		return "turned too far " + at
	case WrongWay:
		return "turned the wrong way " + at
	case Sink:
		return "touched down hard " + at
	case Bounce:
		return "bounced " + at
	case Tilt:
		return "touched down leaning " + at
	}
	return string(f.Code) + way + " " + at
}
