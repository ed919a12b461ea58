package drill

import (
	"math"
	"slices"
	"testing"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/field"
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
				if d.Key == "arm-disarm" { // it never leaves the ground
					e.FlownM = e.HighM
				}
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

// What is begun far out on purpose does not set how wide the fence of the others is;
// a dodge and a figure take their room.
func TestReachOfTheRooms(t *testing.T) {
	c := Shipped()
	laid, _ := course.Lay("five-markers", craft.Light)
	rooms, not := c.Rooms(laid, craft.Light, craft.PositionHold)
	home := laid.Markers["pad"]
	byKey := map[string]course.Envelope{}
	for _, e := range rooms {
		byKey[e.Key] = e
	}
	if reach := course.Reach(rooms, home); reach < 5 || reach > 20 {
		t.Errorf("the drills reach %.1f m", reach)
	}
	if far := byKey["regain-read"]; !far.Far || course.Reach([]course.Envelope{far}, home) != 0 {
		t.Errorf("%+v", far)
	}
	if d := byKey["nose-in-dodge"]; !slices.ContainsFunc(d.Path,
		func(p field.Point) bool { return math.Abs(p.X) >= 0.99 }) {
		t.Errorf("a dodge takes no room: %v", d.Path)
	}
	if _, ok := byKey["eight-kept"]; ok || len(not) < 5 {
		t.Errorf("an eight is flown on five markers; not flown: %v", not)
	}
}
