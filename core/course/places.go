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
