package bare

import (
	"slices"
	"testing"
)

// The loops do the work that they are there for: what is held to them is held to something.
func TestTheLoopsDoTheirWork(t *testing.T) {
	got := CSV([]byte("t,x\n0,-1.25\n0.02,100\n"), 2, 2)
	if !slices.Equal(got[0], []float64{0, 0.02}) || !slices.Equal(got[1], []float64{-1.25, 100}) {
		t.Errorf("%v", got)
	}
	if n := Elements([]byte("<a><b/></a>")); n != 3 {
		t.Errorf("%d elements", n)
	}
	x, y, z := []float64{0, 2, 0, 0}, []float64{6, 6, 6, 6}, []float64{1.5, 1.5, 3, 1.5}
	if n := Columns(x, y, z, []float64{0.1, 0, 0, 1}); n != 1 {
		t.Errorf("%d samples are within", n)
	}
}
