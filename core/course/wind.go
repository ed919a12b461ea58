package course

import (
	"math"
	"strconv"
	"strings"

	"maestrale/core/field"
	"maestrale/core/misread"
)

// WindVector is where the air goes, in m/s, for a wind that comes from a field
// heading.
func WindVector(mps float64, from field.Angle) field.Point {
	sin, cos := math.Sincos(float64(from))
	return field.Point{X: -mps * sin, Y: -mps * cos}
}

// Behind returns the turn of the course, + clockwise, that brings a wind from a
// field heading behind the pilot.
func Behind(from field.Angle) field.Angle { return (from - math.Pi).Wrap() }

// IsBehind tells whether a wind comes from behind the pilot, within 45° either
// way, as the drills ask for it.
func IsBehind(from field.Angle) bool { return Behind(from).Abs() <= math.Pi/4+1e-9 }

// Components splits a wind from a field heading into what pushes toward the
// pilot (negative: away) and what pushes to the right.
func Components(mps float64, from field.Angle) (toward, right float64) {
	v := WindVector(mps, from)
	return -v.Y, v.X
}

// ReadWind reads a wind as MPS@FROM_DEG, from a field heading: 4.5@180 is 4.5 m/s
// from behind the pilot.
func ReadWind(text string) (mps, fromDeg float64, err error) {
	a, b, ok := strings.Cut(text, "@")
	if ok {
		if mps, err = strconv.ParseFloat(a, 64); err == nil {
			fromDeg, err = strconv.ParseFloat(b, 64)
		}
	}
	if !ok || err != nil || !(mps >= 0 && mps < 80) || !(fromDeg >= -360 && fromDeg <= 360) {
		return 0, 0, misread.At(0, "MPS@FROM_DEG, as 4.5@180 for 4.5 m/s from behind the pilot", "%.40q", text)
	}
	return mps, fromDeg, nil
}
