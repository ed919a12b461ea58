package nmea

import (
	"strings"
	"testing"
)

func TestOpen(t *testing.T) {
	// The check sums are those of the sentences as the standard's examples print them.
	for line, want := range map[string]string{
		"$GPGGA,092750.000,5321.6802,N,00630.3372,W,1,8,1.03,61.7,M,55.2,M,,*76\r\n": "GGA",
		"$GPRMC,092750.000,A,5321.6802,N,00630.3372,W,0.02,31.66,280511,,,A*43":      "RMC",
		"$WIMWV,214.8,R,0.1,K,A*28": "MWV",
	} {
		f, err := Open(line)
		if err != nil || Kind(f) != want {
			t.Errorf("%q: %v %v", line, f, err)
		}
		if body, _, _ := strings.Cut(line[1:], "*"); strings.TrimRight(Close(body), "\r\n") != strings.TrimRight(line,
			"\r\n") {
			t.Errorf("%q", Close(body))
		}
	}
	for line, want := range map[string]string{
		"":                             "not a sentence",
		"$WIMWV,214.8,R,0.1,K,A*29":    "expected 28",
		"$WIMWV,214.8,R,0.1,K,A":       "not a sentence",
		"$GP\x01GGA,1,2,3*00":          "printable",
		"$" + strings.Repeat("A", 90):  "80 at most",
		"$WIMWV,214.8,R,0.1,K,A*028":   "check sum",
		"GPGGA,092750.000,5321.6802*7": "not a sentence",
	} {
		if _, err := Open(line); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v", line, err)
		}
	}
	if Kind(nil) != "" || Kind([]string{"GPG"}) != "" {
		t.Error("a kind of nothing")
	}
}
