package track

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"maestrale/core/field"
)

// MaxRotors is the largest number of rotors that a log may list.
const MaxRotors = 16

// number is a numeric column: its range at the file's edge, and where its
// values go.
type number struct {
	low, high float64
	put       func(*Track, float64)
	get       func(*Track, int) (float64, bool)
	grow      func(*Track, int) // makes room for so many rows; nil where none is made
}

// plain is a column of numbers as they are written, from low to high; at finds
// it in a track.
func plain(low, high float64, at func(*Track) *[]float64) number {
	return number{low, high,
		func(t *Track, v float64) { p := at(t); *p = append(*p, v) },
		func(t *Track, i int) (float64, bool) {
			if p := *at(t); p != nil {
				return p[i], true
			}
			return 0, false
		},
		func(t *Track, n int) { p := at(t); *p = slices.Grow(*p, n) }}
}

// angle is a column of angles, written in degrees.
func angle(low, high float64, at func(*Track) *[]field.Angle) number {
	return number{low, high,
		func(t *Track, v float64) { p := at(t); *p = append(*p, field.Degrees(v)) },
		func(t *Track, i int) (float64, bool) {
			if p := *at(t); p != nil {
				return p[i].Deg(), true
			}
			return 0, false
		},
		func(t *Track, n int) { p := at(t); *p = slices.Grow(*p, n) }}
}

// numbers holds the numeric columns of the field form by name, but for the
// rotors.
var numbers = map[string]number{
	"t_s":         plain(-1e9, 1e9, func(t *Track) *[]float64 { return &t.T }),
	"x_m":         plain(-1e5, 1e5, func(t *Track) *[]float64 { return &t.X }),
	"y_m":         plain(-1e5, 1e5, func(t *Track) *[]float64 { return &t.Y }),
	"z_m":         plain(-1000, 20000, func(t *Track) *[]float64 { return &t.Z }),
	"heading_deg": angle(-1e5, 1e5, func(t *Track) *[]field.Angle { return &t.Heading }),
	"roll_deg":    angle(-360, 360, func(t *Track) *[]field.Angle { return &t.Roll }),
	"pitch_deg":   angle(-360, 360, func(t *Track) *[]field.Angle { return &t.Pitch }),
	"vx_mps":      plain(-300, 300, func(t *Track) *[]float64 { return &t.VX }),
	"vy_mps":      plain(-300, 300, func(t *Track) *[]float64 { return &t.VY }),
	"vz_mps":      plain(-300, 300, func(t *Track) *[]float64 { return &t.VZ }),
	"throttle":    plain(-1, 1, func(t *Track) *[]float64 { return &t.StickThrottle }),
	"yaw":         plain(-1, 1, func(t *Track) *[]float64 { return &t.StickYaw }),
	"pitch":       plain(-1, 1, func(t *Track) *[]float64 { return &t.StickPitch }),
	"roll":        plain(-1, 1, func(t *Track) *[]float64 { return &t.StickRoll }),
	"gimbal":      plain(-1, 1, func(t *Track) *[]float64 { return &t.StickWheel }),
	"pack_v":      plain(0, 1000, func(t *Track) *[]float64 { return &t.PackV }),
	"gimbal_deg":  angle(-360, 360, func(t *Track) *[]field.Angle { return &t.GimbalTilt }),
	"accuracy_m":  plain(0, 1e5, func(t *Track) *[]float64 { return &t.AccuracyM }),
}

// fieldOrder is the order in which the field form is written; the rotors
// follow.
var fieldOrder = []string{
	"t_s", "x_m", "y_m", "z_m", "heading_deg", "roll_deg", "pitch_deg", "vx_mps", "vy_mps", "vz_mps",
	"throttle", "yaw", "pitch", "roll", "gimbal", "aids", "frame", "armed", "pack_v", "gimbal_deg", "call", "accuracy_m",
}

// geographic holds the columns of the geographic form with their ranges.
var geographic = map[string][2]float64{
	"lat_deg": {-90, 90}, "lon_deg": {-180, 180}, "alt_m": {-1000, 20000}, "heading_true_deg": {-1e5, 1e5},
}

// ColumnNames lists every column that is read, for a form that maps others.
func ColumnNames() []string {
	names := append(slices.Clone(fieldOrder), "time", "lat_deg", "lon_deg", "alt_m", "heading_true_deg")
	for i := 1; i <= 8; i++ {
		names = append(names, fmt.Sprintf("rotor%d_rps", i))
	}
	return names
}

// rotorOf returns the index of a column rotorN_rps.
func rotorOf(name string) (int, bool) {
	s, ok := strings.CutPrefix(name, "rotor")
	if !ok {
		return 0, false
	}
	s, ok = strings.CutSuffix(s, "_rps")
	if !ok {
		return 0, false
	}
	n, err := strconv.Atoi(s)
	if err != nil || n < 1 || n > MaxRotors || strconv.Itoa(n) != s {
		return 0, false
	}
	return n - 1, true
}

// rotorColumn is the column of the speed of rotor i, in revolutions a second.
func rotorColumn(i int) number {
	n := plain(-1e5, 1e5, func(t *Track) *[]float64 {
		for len(t.Rotors) <= i {
			t.Rotors = append(t.Rotors, nil)
		}
		return &t.Rotors[i]
	})
	n.grow = nil // rotors are few, and come by their rows
	return n
}

// rounded trims the last bits that degrees and radians leave behind.
func rounded(v float64) float64 {
	if r := math.Round(v*1e9) / 1e9; math.Abs(v) < 1e6 {
		return r
	}
	return v
}
