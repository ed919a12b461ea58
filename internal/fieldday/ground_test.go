package fieldday

import (
	"fmt"
	"testing"
)

func TestHowFarAFlightMayGo(t *testing.T) {
	if got := fmt.Sprint(ReachWords(3000, 0), "; ", ReachWords(3000, 47.6), "; ",
		ReachWords(30, 47)); got != "gets home from 3.0 km; no farther than 47 m, to which the nose is told; gets home "+
		"from 30 m" {
		t.Error(got)
	}
}
