// Package nmea opens and closes NMEA 0183 sentences: what stands between $ and
// *, and the check sum over it. What a sentence says is read where it is used.
package nmea

import (
	"fmt"
	"strconv"
	"strings"
)

// Max is the longest sentence that is read, line end included (NMEA 0183).
const Max = 82

// Open checks a sentence and returns its fields; the first is talker and kind.
// The check sum is the exclusive or of what stands between $ and *.
func Open(line string) ([]string, error) {
	line = strings.TrimRight(line, "\r\n")
	if len(line) > Max-2 {
		return nil, fmt.Errorf("%d characters; expected %d at most", len(line), Max-2)
	}
	body, sum, ok := strings.Cut(line, "*")
	if !ok || len(body) < 7 || body[0] != '$' {
		return nil, fmt.Errorf("not a sentence; expected $…*HH")
	}
	body = body[1:]
	var x byte
	for i := range len(body) {
		if body[i] < ' ' || body[i] > '~' {
			return nil, fmt.Errorf("byte %#x; expected printable ASCII", body[i])
		}
		x ^= body[i]
	}
	if got, err := strconv.ParseUint(sum, 16, 8); err != nil || len(sum) != 2 || byte(got) != x {
		return nil, fmt.Errorf("check sum %.4q; expected %02X", sum, x)
	}
	return strings.Split(body, ","), nil
}

// Kind is the three letters of a sentence after its talker; empty for none.
func Kind(fields []string) string {
	if len(fields) == 0 || len(fields[0]) != 5 {
		return ""
	}
	return fields[0][2:]
}

// Close makes a sentence of what stands between $ and *.
func Close(body string) string {
	var x byte
	for i := range len(body) {
		x ^= body[i]
	}
	return fmt.Sprintf("$%s*%02X\r\n", body, x)
}

// Number reads digits with at most one point: no sign, no exponent.
func Number(s string) (float64, bool) {
	if s == "" || strings.Trim(s, "0123456789.") != "" {
		return 0, false
	}
	v, err := strconv.ParseFloat(s, 64)
	return v, err == nil
}
