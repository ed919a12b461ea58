package score

import (
	"math/rand/v2"
	"testing"

	"maestrale/core/drill"
	"maestrale/core/field"
)

// The worst nose of many samples is the same whether each is worked out or only those that might be worse.
func TestErrorsOverFindTheSameWorstNose(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 141))
	for range 3000 {
		c := criteria{nose: 0.4, rule: drill.Rule{Kind: drill.Sight, Angle: field.Angle(r.IntN(4)) * 1.5708}}
		if r.IntN(5) == 0 {
			c.rule.Kind = drill.Kept
		}
		var all, few field.Angle
		for range 50 {
			p := point{x: 3 * r.NormFloat64(), y: 6 + 3*r.NormFloat64(), heading: field.Angle(2 * r.NormFloat64())}
			all = max(all, c.errors(p).dn.Abs())
			few = max(few, c.errorsOver(p, few).dn.Abs())
		}
		if all != few {
			t.Fatalf("the worst is %v, and %v of those that might be worse", all, few)
		}
	}
}
