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
	// Position hold is looked for in vain under a roof.
	if s.Indoors && s.Type.Has(craft.PositionHold) {
		out = append(out, msgIndoorsNoHold)
	}
	// Whoever sees the picture alone sees nothing beside it.
	if s.Goggles {
		out = append(out, msgGogglesNeedSpotter)
	}
	// Under 0 the sun has set.
	if s.SunDeg != nil && *s.SunDeg < lowLight {
		word := fmt.Sprintf(msgSunLow, *s.SunDeg)
		if *s.SunDeg < 0 {
			word = msgSunDown
		}
		out = append(out, fmt.Sprintf(msgLowLight, word))
	}
	// Under the limit and near it: allowed, and worth a word.
	if s.Wind != nil && s.Wind.Fresh && s.Type.WindMps > 0 && s.Wind.Mean > 0.8*s.Type.WindMps {
		out = append(out, fmt.Sprintf(msgWindNearCraft,
			s.Type.WindMps))
	}
	if s.First {
		out = append(out, msgFirstFlightsShort)
	}
	return out
}
