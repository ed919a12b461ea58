package score

import (
	"math"
	"testing"

	"maestrale/core/track"
)

func TestDriftIsASlope(t *testing.T) {
	flight := func(vx, vy, sway, hz float64) *sampler {
		tr := &track.Track{}
		for i := range int(20*hz) + 1 {
			at := float64(i) / hz
			tr.T = append(tr.T, 100+at)
			tr.X = append(tr.X, 3+vx*at+sway*math.Sin(2*math.Pi*at/2))
			tr.Y = append(tr.Y, 8+vy*at)
			tr.Z = append(tr.Z, 2)
		}
		s := &sampler{}
		s.t = tr
		return s
	}
	for _, c := range []struct{ vx, vy, sway, hz, want, within float64 }{
		{0, 0, 0, 10, 0, 1e-9},
		{0.3, 0.4, 0, 10, 0.5, 1e-9},
		{-0.3, 0.4, 0, 50, 0.5, 1e-9},
		{0, 0, 0.5, 10, 0, 0.03}, // swaying half a metre about the marker is no drift
		{0.1, 0, 0.5, 10, 0.1, 0.03},
		{0.2, 0, 0, 2, 0.2, 1e-9},
	} {
		if got := flight(c.vx, c.vy, c.sway, c.hz).driftOf(span{100, 120}); math.Abs(got-c.want) > c.within {
			t.Errorf("%+v: %v", c, got)
		}
	}
	if got := flight(1, 1, 0, 10).driftOf(span{100.01, 100.05}); got != 0 {
		t.Errorf("between two samples: %v", got)
	}
}
