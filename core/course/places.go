package course

import (
	"strconv"
	"strings"

	"maestrale/core/field"
	"maestrale/core/misread"
)

// ReadPlaces reads places in metres in the field frame as a person types them:
// "x, y; x, y", or one on each line.
func ReadPlaces(text string) ([]field.Point, error) {
	const want = "places in metres as -5, 20; 5, 20"
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

// CheckSite refuses a place of a site that is none: 0°, 0° is what is left of a form that nobody filled in, and lies in
// the open sea.
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
