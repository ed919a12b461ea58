package drill

import (
	"testing"

	"maestrale/core/craft"
)

// Every shipped drill fits its own template: what it takes stands in front of
// the pilot and grows with the craft.
func TestEnvelopesOfTheShippedDrills(t *testing.T) {
	c := Shipped()
	for _, d := range c.InOrder() {
		last := 0.0
		for _, class := range craft.Classes {
			for _, side := range d.Sides() {
				task, err := d.Lay(side, 1, class, nil)
				if err != nil {
					t.Fatal(err)
				}
				e := task.Envelope(craft.PositionHold)
				if len(e.Path) == 0 || e.HighM <= 0 || e.FlownM <= 0 || e.HighM < e.FlownM || e.RadiusM < last {
					t.Errorf("%s for %s: %+v", d.Key, class, e)
				}
				for _, p := range e.Path {
					if p.Y-e.RadiusM <= 0 {
						t.Errorf("%s for %s reaches the pilot", d.Key, class)
					}
				}
				last = e.RadiusM
			}
		}
	}
}
