package fieldday

import (
	"strings"
	"testing"

	"maestrale/core/pack"
)

// A flight goes no farther than its nose is told or its fence allows, however far the pack would take it; without a
// known charge no range is given.
func TestReachIsTheNearerOfPackEyesAndFence(t *testing.T) {
	for want, r := range map[string]pack.Reach{
		"no farther than 10.5 km, from where the pack still gets home":   {PackM: 10500},
		"no farther than 70 m, to which nose and tail can be told apart": {PackM: 10500, SightM: 72.4},
		"no farther than 8 m, to which nose and tail can be told apart":  {PackM: 10500, SightM: 8.7},
		"no farther than 60 m, where the fence is set":                   {PackM: 10500, SightM: 72.4, FenceM: 60},
		"the pack's charge is not known":                                 {SightM: 72.4, FenceM: 60},
	} {
		if got := ReachWords(r); !strings.HasPrefix(got, want) {
			t.Errorf("%+v: %s", r, got)
		}
	}
}
