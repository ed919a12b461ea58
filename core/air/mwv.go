package air

import (
	"fmt"
	"strings"

	"maestrale/core/field"
	"maestrale/core/nmea"
)

// MaxSentence is the longest line that is taken for a sentence, with its line
// end: NMEA 0183 allows 82 characters.
const MaxSentence = nmea.Max

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
	f, err := nmea.Open(line)
	if err != nil {
		return Heard{}, err
	}
	if nmea.Kind(f) != "MWV" {
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
	angle, ok := nmea.Number(f[1])
	if !ok || angle > 360 {
		return Heard{}, fmt.Errorf("angle %q; expected 0 to 360", f[1])
	}
	speed, ok := nmea.Number(f[3])
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

// WriteMWV writes a wind sentence with its check sum and line end.
func WriteMWV(h Heard) string {
	body := fmt.Sprintf("WIMWV,%05.1f,R,%.2f,M,A", h.From.Compass(), h.Mps)
	if strings.HasPrefix(body, "WIMWV,360.0") {
		body = "WIMWV,000.0" + body[len("WIMWV,360.0"):]
	}
	return nmea.Close(body)
}
