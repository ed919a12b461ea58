package score

import (
	"math"
	"math/rand/v2"
	"testing"

	"maestrale/core/track"
)

// What is drawn as flown must keep the box where the verdict says that it was kept.
func TestFlownIsNearerThanTheLog(t *testing.T) {
	r := rand.New(rand.NewPCG(99, 3))
	clean, noisy := &track.Track{}, &track.Track{}
	for i := range 600 {
		at := float64(i) / 10
		for _, tr := range []*track.Track{clean, noisy} {
			e := 0.0
			if tr == noisy {
				e = 0.06
			}
			tr.T = append(tr.T, at)
			tr.X = append(tr.X, 0.4*math.Sin(at/3)+e*r.NormFloat64())
			tr.Y = append(tr.Y, 6+0.3*math.Cos(at/4)+e*r.NormFloat64())
			tr.Z = append(tr.Z, 1.5+e*r.NormFloat64())
		}
	}
	if Flown(clean) != clean {
		t.Error("a clean log was changed")
	}
	off := func(tr *track.Track) (sum float64) {
		for i, at := range tr.T {
			sum += math.Pow(tr.X[i]-0.4*math.Sin(at/3), 2) + math.Pow(tr.Y[i]-6-0.3*math.Cos(at/4), 2)
		}
		return math.Sqrt(sum / float64(len(tr.T)))
	}
	flown := Flown(noisy)
	if a, b := off(flown), off(noisy); a > b/2 {
		t.Errorf("the flight as judged lies %.3f m off, the log %.3f m; expected less than half", a, b)
	}
	if flown.T[0] != noisy.T[0] || math.Abs(flown.Duration()-noisy.Duration()) > 1e-9 {
		t.Error("the flight as judged begins or ends elsewhere than the log")
	}
}
