package pack

import "testing"

// A flight goes as far as the nearest of what is known, and nowhere by a pack that nobody has measured.
func TestReachIsTheNearestBound(t *testing.T) {
	for _, k := range []struct {
		reach Reach
		m     float64
		by    Bound
		known bool
	}{
		{Reach{10500, 72.4, 0}, 72, BySight, true},
		{Reach{10500, 72.4, 60}, 60, ByFence, true},
		{Reach{50.9, 72.4, 60}, 50, ByPack, true},
		{Reach{10500, 0, 0}, 10500, ByPack, true},
		{Reach{0, 72.4, 60}, 0, "", false},
	} {
		if m, by, known := k.reach.Least(); m != k.m || by != k.by || known != k.known {
			t.Errorf("%+v: %v %q %v", k.reach, m, by, known)
		}
	}
}
