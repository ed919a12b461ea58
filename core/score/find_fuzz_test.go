package score

import (
	"strings"
	"testing"

	"maestrale/core/track"
)

// Whatever can be read as a log comes apart into flights that lie in it, one after another.
func FuzzFind(f *testing.F) {
	f.Add("t_s,x_m,y_m,z_m\n0,0,6,0\n1,0,6,0\n3,0,6,1.5\n26,1.5,6,1.5\n" +
		"30,0,6,0\n60,0,6,0\n63,0,6,1.5\n90,0,6,1.5\n92,0,6,0\n")
	f.Add("t_s,x_m,y_m,z_m,armed\n0,0,6,0,0\n1,0,6,0,1\n3,0,6,1.5,1\n26,1.5,6,1.5,0\n")
	f.Fuzz(func(t *testing.T, data string) {
		tr, _, err := track.ReadCSV(strings.NewReader(data), track.CSVOptions{})
		if err != nil || tr.Len() < 2 {
			return
		}
		found, err := Find(shipped(t, "hover-tail-in", "none", 1), tr, FromLog)
		if err != nil {
			return
		}
		first, last := tr.T[0], tr.T[tr.Len()-1]
		for i, x := range found {
			if x.FromS < first || x.ToS <= x.FromS || x.ToS > last || i > 0 && x.FromS < found[i-1].FromS {
				t.Fatalf("flight %d of %d goes from %v to %v s of %v to %v", i, len(found), x.FromS, x.ToS, first, last)
			}
		}
	})
}
