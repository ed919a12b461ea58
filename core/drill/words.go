package drill

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"maestrale/core/field"
)

// Words says what the step asks, with its limits: "20 s inside 1 m, height
// 1.5 ± 0.5 m, tail-in ± 25°".
func (s Target) Words() string {
	num := func(v float64) string { return strconv.FormatFloat(math.Round(v*100)/100, 'f', -1, 64) }
	deg := func(a field.Angle) string { return num(a.Deg()) + "°" }
	var parts []string
	add := func(format string, a ...any) { parts = append(parts, fmt.Sprintf(format, a...)) }
	some := func(limit float64, format string) { // where a limit is set
		if limit > 0 {
			add(format, num(limit))
		}
	}
	switch s.Kind {
	case TakeOff:
		add("take off to %s m", num(s.ToHeightM))
	case Hold:
		head := num(s.Seconds) + " s"
		if s.Limits.Radius > 0 {
			head += " inside " + num(s.Limits.Radius) + " m"
		}
		parts = append(parts, head)
		if s.Limits.Height > 0 {
			add("height %s ± %s m", num(s.HeightM), num(s.Limits.Height))
		}
		if s.Heading.Kind != Free {
			rule := s.Heading.Words()
			if s.Limits.Nose > 0 {
				rule += " ± " + deg(s.Limits.Nose)
			}
			parts = append(parts, rule)
		}
	case Turn:
		side := "right"
		if s.By < 0 {
			side = "left"
		}
		if s.RandomTurn { // nobody is told before
			add("turn the nose by the angle that is called")
		} else {
			add("turn the nose %s by %s", side, deg(s.By.Abs()))
		}
		if s.Limits.Overshoot > 0 {
			add("stop within %s", deg(s.Limits.Overshoot))
		}
		some(s.Limits.Radius, "stay inside %s m")
		some(s.Limits.Height, "height kept within %s m")
	case GoTo:
		add("go to the next place, height %s m", num(s.HeightM))
		some(s.Limits.Past, "stop within %s m of it")
		some(s.Limits.Cross, "at most %s m off the straight way")
		some(s.RestS, "rest %s s")
		s.addNose(&parts, deg)
	case Path:
		parts = append(parts, s.pathWords(num))
		some(s.Limits.Cross, "at most %s m off it")
		some(s.Limits.Height, "height within %s m")
		some(s.RestS, "%s s at rest at each corner")
		s.addNose(&parts, deg)
		if s.Limits.Ratio > 0 {
			add("lobes alike within %s %%", num(100*(s.Limits.Ratio-1)))
		}
		some(s.Limits.Crossing, "crossing within %s m of the centre")
		if s.Limits.Slope > 0 {
			add("angle within %s", deg(s.Limits.Slope))
		}
		if s.Limits.Aim > 0 {
			add("aim within %s", deg(s.Limits.Aim))
		}
		if s.Limits.Legs > 0 {
			add("legs parallel within %s", deg(s.Limits.Legs))
		}
		if s.Limits.EndRatio > 0 {
			add("ends alike within %s %%", num(100*(s.Limits.EndRatio-1)))
		}
	case Stop:
		head := "stop on the call"
		if !s.OnCall {
			head = "stop after " + num(s.AfterS) + " s"
		}
		if s.Over {
			head = "turn over once on the call, and stand again"
		}
		parts = append(parts, head)
		some(s.Limits.Seconds, "in %s s")
		some(s.Limits.Distance, "within %s m")
	case Return:
		head := map[string]string{"asked": "ask for the flight home", "link": "the link is lost and it flies home",
			"pack": "the pack runs low and it flies home"}[s.Trigger]
		parts = append(parts, head)
		if s.TakeOverS > 0 {
			add("watch it for %s s, then take over and stand", num(s.TakeOverS))
		} else {
			add("watch it land, within %s m of home", num(s.Limits.HomeOffset))
		}
	case Regain:
		add("find the nose again at %s m and bring it home", num(s.FromM))
		some(s.Limits.Seconds, "in %s s")
		some(s.Limits.Lost, "lost by %s m at most")
		if s.Limits.WrongInputs >= 0 {
			add("%d wrong inputs at most", s.Limits.WrongInputs)
		}
	case Land:
		head := "land"
		if s.Limits.Offset > 0 {
			head += " within " + num(s.Limits.Offset) + " m of the pad"
		}
		parts = append(parts, head)
		some(s.Limits.Sink, "under %s m/s")
		if s.Limits.Tilt > 0 {
			add("level within %s", deg(s.Limits.Tilt))
		}
	}
	for _, d := range s.During {
		parts = append(parts, d.Words())
	}
	if s.SecondsMax > 0 {
		add("in %s s at most", num(s.SecondsMax))
	}
	return strings.Join(parts, ", ")
}

func (s Target) addNose(parts *[]string, deg func(field.Angle) string) {
	if s.Heading.Kind == Free {
		return
	}
	rule := s.Heading.Words()
	if s.Limits.Nose > 0 {
		rule += " ± " + deg(s.Limits.Nose)
	}
	*parts = append(*parts, rule)
}

// pathWords says the figure: "circle of 6 m, turning left, 2 laps".
func (s Target) pathWords(num func(float64) string) string {
	f := s.Path
	side := func() string {
		for _, p := range f.pieces {
			if p.r > 0 {
				if p.by < 0 {
					return ", turning left"
				}
				return ", turning right"
			}
		}
		return ""
	}
	var w string
	switch f.Shape {
	case Circle:
		w = "circle of " + num(f.Radius) + " m" + side()
	case Orbit:
		w = "orbit of " + num(f.Radius) + " m round the subject" + side()
	case Oval:
		w = "oval of " + num(f.Legs) + " by " + num(2*f.Radius) + " m" + side()
	case Eight:
		first := "left"
		if at, _ := f.At(f.Parts[0] / 2); at.X > f.Centre.X {
			first = "right"
		}
		w = "eight of " + num(f.Radius) + " m, the " + first + " lobe first"
	case Spiral:
		w = "spiral"
	case Slant:
		a, _ := f.At(0)
		b, _ := f.At(f.Length)
		w = "slant from " + num(a.Z) + " m to " + num(b.Z) + " m up"
	default:
		low, high := math.Inf(1), math.Inf(-1)
		for _, p := range f.pieces {
			low, high = math.Min(low, math.Min(p.a.Z, p.b.Z)), math.Max(high, math.Max(p.a.Z, p.b.Z))
		}
		if w = "line of " + num(f.Length) + " m"; !f.Level {
			w = fmt.Sprintf("over %d corners, from %s to %s m up", len(f.Corners), num(low), num(high))
		} else if f.Closed {
			w = fmt.Sprintf("round of %d corners, %s m", len(f.Corners)+1, num(f.Length))
		}
	}
	if s.Laps > 1 {
		w += fmt.Sprintf(", %d laps", s.Laps)
	}
	return w
}
