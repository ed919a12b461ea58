package air

import (
	"fmt"
	"strconv"
	"strings"

	"maestrale/core/field"
)

// MaxSentence is the longest line that is taken for a sentence, with its line
// end: NMEA 0183 allows 82 characters.
const MaxSentence = 82

// fastest is the highest wind in m/s that is believed; the highest gust ever
// measured outside a tornado was 113 m/s, and nobody teaches in a third of it.
const fastest = 75.0

// Heard is one wind sentence: speed in m/s, and the angle from which the wind
// comes as the meter stands, clockwise from its zero mark.
type Heard struct {
	Mps  float64
	From field.Angle
}

// ParseMWV reads one NMEA 0183 wind sentence,
//
//	$WIMWV,214.8,R,4.1,M,A*2C
//
// with any talker: angle in degrees from 0 to 360, R (relative to the meter) or
// T (the same, corrected for motion; a meter on a pole does not move), speed, its
// unit (M m/s, K km/h, N knots, S statute miles an hour), A for valid, and the
// check sum, the exclusive or of what stands between $ and *. What is not a
// sound wind sentence is an error that says why; another sentence of the same
// meter is ErrOther.
func ParseMWV(line string) (Heard, error) {
	line = strings.TrimRight(line, "\r\n")
	if len(line) > MaxSentence-2 {
		return Heard{}, fmt.Errorf("%d characters; expected %d at most", len(line), MaxSentence-2)
	}
	body, sum, ok := strings.Cut(line, "*")
	if !ok || len(body) < 7 || body[0] != '$' {
		return Heard{}, fmt.Errorf("not a sentence; expected $…*HH")
	}
	body = body[1:]
	var x byte
	for i := range len(body) {
		if body[i] < ' ' || body[i] > '~' {
			return Heard{}, fmt.Errorf("byte %#x; expected printable ASCII", body[i])
		}
		x ^= body[i]
	}
	if got, err := strconv.ParseUint(sum, 16, 8); err != nil || len(sum) != 2 || byte(got) != x {
		return Heard{}, fmt.Errorf("check sum %.4q; expected %02X", sum, x)
	}
	f := strings.Split(body, ",")
	if len(f[0]) != 5 || f[0][2:] != "MWV" {
		return Heard{}, ErrOther
	}
	if len(f) != 6 {
		return Heard{}, fmt.Errorf("%d fields; expected 6", len(f))
	}
	if f[5] != "A" {
		return Heard{}, fmt.Errorf("status %q; expected A, valid", f[5])
	}
	if f[2] != "R" && f[2] != "T" {
		return Heard{}, fmt.Errorf("reference %q; expected R or T", f[2])
	}
	angle, ok := plainNumber(f[1])
	if !ok || angle > 360 {
		return Heard{}, fmt.Errorf("angle %q; expected 0 to 360", f[1])
	}
	speed, ok := plainNumber(f[3])
	if !ok {
		return Heard{}, fmt.Errorf("speed %q; expected a number", f[3])
	}
	per, known := map[string]float64{"M": 1, "K": 1 / 3.6, "N": 1852.0 / 3600, "S": 1609.344 / 3600}[f[4]]
	if !known {
		return Heard{}, fmt.Errorf("unit %q; expected M, K, N or S", f[4])
	}
	if speed*per > fastest {
		return Heard{}, fmt.Errorf("speed %.0f m/s; expected %.0f at most", speed*per, fastest)
	}
	return Heard{speed * per, field.Degrees(angle)}, nil
}

// ErrOther is a sound sentence that says nothing of the wind.
var ErrOther = fmt.Errorf("another sentence")

// plainNumber reads digits with at most one point: no sign, no exponent.
func plainNumber(s string) (float64, bool) {
	if s == "" || strings.Trim(s, "0123456789.") != "" {
		return 0, false
	}
	v, err := strconv.ParseFloat(s, 64)
	return v, err == nil
}

// WriteMWV writes a wind sentence with its check sum and line end.
func WriteMWV(h Heard) string {
	body := fmt.Sprintf("WIMWV,%05.1f,R,%.2f,M,A", h.From.Compass(), h.Mps)
	if strings.HasPrefix(body, "WIMWV,360.0") {
		body = "WIMWV,000.0" + body[len("WIMWV,360.0"):]
	}
	var x byte
	for i := range len(body) {
		x ^= body[i]
	}
	return fmt.Sprintf("$%s*%02X\r\n", body, x)
}
