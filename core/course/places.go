package course

import (
	"fmt"
	"strconv"
	"strings"

	"maestrale/core/field"
	"maestrale/core/misread"
)

// ReadPlaces reads places in metres in the field frame as a person types them:
// "x, y; x, y", or one on each line.
func ReadPlaces(text string) ([]field.Point, error) {
	const want = msgWantPlaces
	var out []field.Point
	for _, one := range strings.FieldsFunc(text, func(r rune) bool { return r == ';' || r == '\n' }) {
		if strings.TrimSpace(one) == "" {
			continue
		}
		x, y, ok := strings.Cut(one, ",")
		px, err1 := strconv.ParseFloat(strings.TrimSpace(x), 64)
		py, err2 := strconv.ParseFloat(strings.TrimSpace(y), 64)
		if !ok || err1 != nil || err2 != nil {
			return nil, misread.At(0, want, "the places %.40q", one)
		}
		p := field.Point{X: px, Y: py}
		if err := onField(p, "a place"); err != nil {
			return nil, err
		}
		if out = append(out, p); len(out) > mostPoints {
			return nil, misread.At(0, strconv.Itoa(mostPoints)+" at most", "more places than a line may have")
		}
	}
	if len(out) == 0 {
		return nil, misread.At(0, want, "no places")
	}
	return out, nil
}

// CheckSite refuses a place of a site that is none: 0°, 0° is what is left of a
// form that nobody filled in, and lies in the open sea.
func CheckSite(g field.Geo) error {
	switch {
	case !(g.LatDeg >= -90 && g.LatDeg <= 90):
		return misread.At(0, "-90 to 90 degrees", "the latitude is %v", g.LatDeg)
	case !(g.LonDeg >= -180 && g.LonDeg <= 180):
		return misread.At(0, "-180 to 180 degrees", "the longitude is %v", g.LonDeg)
	case g.LatDeg == 0 && g.LonDeg == 0:
		return misread.At(0, "the place where the school flies, in degrees", "the site lies at 0°, 0°, in the open sea")
	}
	return nil
}

// atMarker is how near to a marker a place is that one, m.
const atMarker = 0.3

// NameOf is the marker that lies at a place, in words, such as "the far-left
// marker"; empty where none does. Where a pad and another marker lie there, it
// is the pad for who lands, and else the other.
func (c *Course) NameOf(p field.Point, lands bool) (name string) {
	for _, key := range c.MarkerNames() {
		if c.Markers[key].Dist(p) < atMarker {
			if pad := strings.HasPrefix(key, "pad"); name == "" || pad == lands {
				name = markerWords(key)
			}
		}
	}
	return name
}

// markerWords says a marker's key: "the left pad", "the middle of the far leg",
// "the far-left marker".
func markerWords(key string) string {
	words := strings.ReplaceAll(key, "_", "-")
	switch {
	case key == "pad" || key == "centre":
		return "the " + words
	case strings.HasPrefix(words, "pad-"):
		return "the " + strings.ReplaceAll(words[len("pad-"):], "-", " ") + " pad"
	case strings.HasSuffix(words, "-leg"):
		return fmt.Sprintf(msgMiddleOf, strings.ReplaceAll(words, "-", " "))
	case strings.HasSuffix(words, "-end"):
		return "the " + strings.ReplaceAll(words, "-", " ")
	}
	return "the " + words + " marker"
}
