package course

import (
	"math/rand/v2"
	"testing"
)

// Words of marks that lie close together do not overlap, wherever the marks are.
func TestLabelsDoNotOverlap(t *testing.T) {
	r := rand.New(rand.NewPCG(6, 15))
	for range 300 {
		var list []Label
		for range 2 + r.IntN(8) {
			list = append(list, Label{60 + 60*r.Float64(), 60 + 60*r.Float64(), 8 + 20*r.Float64(), 4})
		}
		at := PlaceLabels(list, 3, 0, 200)
		for i := range list {
			if at[i][0] < 0 || at[i][0]+list[i].Wide > 200 {
				t.Fatalf("a word leaves the drawing: %v", at[i])
			}
			for j := range i {
				if at[i][0] < at[j][0]+list[j].Wide && at[j][0] < at[i][0]+list[i].Wide && at[i][1]-2 < at[j][1]+2-1e-9 &&
					at[j][1]-2 < at[i][1]+2-1e-9 {
					t.Fatalf("words %d and %d of %v overlap at %v", i, j, list, at)
				}
			}
		}
	}
}
