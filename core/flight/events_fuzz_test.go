package flight

import "testing"

// Whatever is written as an event is one that the simulator takes, or an error.
func FuzzParseEvent(f *testing.F) {
	for _, s := range []string{"arm", "gust=5", "compass-error=30", "pack-at=50", "rotor-at=2:40",
		"", "gust=NaN", "gust=1e309", "=", "arm="} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		e, err := ParseEvent(s)
		if err != nil {
			return
		}
		if again, err := ParseEvent(s); err != nil || again != e {
			t.Errorf("%q is %v once and %v then, %v", s, e, again, err)
		}
	})
}
