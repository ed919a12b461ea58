package marking

import (
	"math/rand/v2"
	"slices"
	"testing"
)

// A device has whatever it must have and, of the others, those who flew last, until it is enough: never one more than
// goes over the limit, and all of a school that is small.
func TestWhatADeviceHolds(t *testing.T) {
	r := rand.New(rand.NewPCG(22, 6))
	for range 2000 {
		list := make([]RecordSize, 1+r.IntN(40))
		for i := range list {
			list[i] = RecordSize{int64(r.IntN(2000)), r.IntN(5) == 0}
		}
		out := Holds(list)
		held, others := int64(0), int64(0)
		for i, has := range out {
			if list[i].Must && !has {
				t.Fatalf("record %d is missing", i)
			}
			if !has && held <= Most {
				t.Fatalf("record %d is left out at %d attempts", i, held)
			}
			if has {
				if !list[i].Must && held > Most {
					t.Fatalf("record %d is held at %d attempts", i, held)
				}
				held += list[i].Entries
			}
			others += list[i].Entries
		}
		if others <= Most && slices.Contains(out, false) {
			t.Fatal("a small school is not whole")
		}
	}
}
