package knowledge

import (
	"math/rand/v2"
	"testing"

	"maestrale/core/orient"
)

// What is held is what would be worked out: each of many lists of calls, and each again with one call changed.
func TestSightsThatAreHeldAreTheRightOnes(t *testing.T) {
	r := rand.New(rand.NewPCG(22, 9))
	lights := []orient.Light{orient.Day, orient.Overcast, orient.Dusk, ""}
	for range 60 {
		var calls []orient.Call
		for range r.IntN(30) {
			calls = append(calls, orient.Call{DistanceM: 10 + 190*r.Float64(), Right: r.IntN(2) == 0,
				Light: lights[r.IntN(len(lights))]})
		}
		for again := range 4 {
			light := lights[r.IntN(3)]
			if n := len(calls); again > 1 && n > 0 {
				switch k := &calls[r.IntN(n)]; r.IntN(3) {
				case 0:
					k.Right = !k.Right
				case 1:
					k.DistanceM *= 1.5
				case 2:
					k.Light = lights[r.IntN(len(lights))]
				}
			}
			want, wrong := orient.SightOf(0.3, 1, light, calls)
			got, err := sightOf(0.3, light, calls)
			if got != want || (err == nil) != (wrong == nil) {
				t.Fatalf("%+v, %v; expected %+v, %v", got, err, want, wrong)
			}
		}
	}
}
