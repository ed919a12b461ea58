package today

import (
	"testing"
	"time"
)

// Whatever is typed as the day's wind comes to steps in m/s that a field can have, or to an error.
func FuzzReadForecast(f *testing.F) {
	for _, s := range []string{"09:00 3, 11:00 12 kn", "", ",", "25:00 3", "09:00", "09:00 NaN", "09:00 1e309 kn",
		"09:00 3,09:00 3"} {
		f.Add(s)
	}
	day := time.Date(2026, 5, 1, 9, 0, 0, 0, time.UTC)
	f.Fuzz(func(t *testing.T, s string) {
		steps, err := readForecast(s, day, day.Add(8*time.Hour), time.UTC)
		if err != nil {
			return
		}
		for _, w := range steps {
			if !(w.Mps >= 0 && w.Mps <= 80) {
				t.Errorf("%q: %v", s, w)
			}
		}
	})
}
