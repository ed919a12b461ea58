package orient

import (
	"math"
	"math/rand/v2"
	"testing"

	"maestrale/core/field"
)

// What is seen of pushes from an aspect leads the belief to that aspect, whatever it
// is; the way home that follows is one that closes.
func TestSeeingLeadsHome(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 1))
	for range 400 {
		aspect := field.Angle((2*r.Float64() - 1) * math.Pi)
		b := Unknown()
		if c := b.Closing(field.Angle(r.Float64() * 6)); math.Abs(c) > 1e-9 {
			t.Fatalf("who knows nothing expects %v of a push", c)
		}
		push := field.Angle(0)
		for range 14 {
			side := math.Sin(float64(aspect + push))
			way := 0
			if math.Abs(side) > 0.15 {
				way = int(math.Copysign(1, side))
			}
			b.Saw(push, way)
			push = (push + field.Degrees(77)).Wrap()
			turn := field.Degrees(20 * (r.Float64() - 0.5))
			aspect = (aspect + turn).Wrap()
			b.Turned(turn)
		}
		found, share := b.Likeliest()
		if off := (found - aspect).Wrap().Abs().Deg(); off > 25 || share < 0.5 {
			t.Errorf("aspect %.0f°: found %.0f°, %.2f sure", aspect.Deg(), found.Deg(), share)
		}
		home := (field.Toward - found).Wrap()
		if c := b.Closing(home); c < 0.7 {
			t.Errorf("aspect %.0f°: the way home closes by %.2f", aspect.Deg(), c)
		}
		sum := 0.0
		for _, p := range b {
			sum += p
		}
		if math.Abs(sum-1) > 1e-9 {
			t.Errorf("the chances add up to %v", sum)
		}
	}
}
