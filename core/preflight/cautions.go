package preflight

import (
	"fmt"

	"maestrale/core/craft"
)

// lowLight is the elevation of the sun in degrees under which nose and tail begin
// to be hard to tell.
const lowLight = 6.0

// Cautions are the plain words that belong to this flight, in the order of what
// hurts soonest. They block nothing: what can be computed is an item of the check.
func Cautions(s Situation) []string {
	var out []string
	if s.Indoors && s.Type.Has(craft.PositionHold) {
		out = append(out, "Indoors it has no satellites: it drifts with height hold only, and a compass near steel turns "+
			"it. First flights of a craft that holds its place belong outdoors.")
	}
	if s.Goggles {
		out = append(out, "On goggles the pilot sees nothing around: never without a spotter who can take over or say land.")
	}
	if s.SunDeg != nil && *s.SunDeg < lowLight {
		word := fmt.Sprintf("The sun stands %.0f° high", *s.SunDeg)
		if *s.SunDeg < 0 {
			word = "The sun is down"
		}
		out = append(out, word+": in low light nose and tail are hard to tell. Lights on, near, and stop early.")
	}
	if s.Wind != nil && s.Wind.Fresh && s.Type.WindMps > 0 && s.Wind.Mean > 0.8*s.Type.WindMps {
		out = append(out, fmt.Sprintf("The wind is near this craft's limit of %.1f m/s, and it is stronger higher up.",
			s.Type.WindMps))
	}
	if s.First {
		out = append(out, "First flights tire: ten minutes, then a rest in the shade and water in the heat. Tense hands "+
			"are a reason to stop.")
	}
	return out
}
