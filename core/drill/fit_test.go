package drill

import (
	"math"
	"strings"
	"testing"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/field"
)

// shrunk is a drill's own course with everything so much nearer to its centre.
func shrunk(t *testing.T, d Drill, class craft.Class, by float64) *course.Course {
	t.Helper()
	c, ok := course.Lay(d.Template, class)
	if !ok {
		t.Fatal(d.Template)
	}
	centre := c.Markers["centre"]
	for k, p := range c.Markers {
		c.Markers[k] = field.Point{X: centre.X + (p.X-centre.X)*by, Y: centre.Y + (p.Y-centre.Y)*by}
	}
	return c
}

// On a smaller course every drill that takes room is flown smaller by the same share,
// down to the limit that is stated; one that takes none stays as it is.
func TestDrillsShrinkWithTheCourse(t *testing.T) {
	smaller, same := 0, 0
	for _, d := range Shipped().InOrder() {
		for _, class := range craft.Classes {
			for _, side := range d.Sides() {
				whole, err := d.Lay(side, 1, class, nil)
				if err != nil {
					t.Fatal(err)
				}
				if whole.Scale != 1 {
					t.Fatalf("%s on its own course: scale %v", d.Key, whole.Scale)
				}
				for _, by := range []float64{1, 0.8, 0.61} {
					task, err := d.Lay(side, 1, class, shrunk(t, d, class, by))
					if err != nil {
						t.Fatalf("%s for %s at %v: %v", d.Key, class, by, err)
					}
					want := by
					if !d.takesRoom() {
						want, same = 1, same+1
					} else {
						smaller++
					}
					if math.Abs(task.Scale-want) > 1e-9 {
						t.Fatalf("%s for %s at %v: scale %v", d.Key, class, by, task.Scale)
					}
					for i, s := range task.Steps {
						if s.Limits != whole.Steps[i].Limits {
							t.Errorf("%s: a tolerance shrank with the course", d.Key)
						}
						if s.Path == nil {
							continue
						}
						if got := s.Path.Length / whole.Steps[i].Path.Length; math.Abs(got-want) > 1e-6 {
							t.Errorf("%s for %s at %v: its way is %.3f of its length", d.Key, class, by, got)
						}
					}
				}
				_, err = d.Lay(side, 1, class, shrunk(t, d, class, 0.5))
				if d.takesRoom() != (err != nil) || err != nil && !strings.Contains(err.Error(), "50 % of the size") {
					t.Errorf("%s on half its course: %v", d.Key, err)
				}
			}
		}
	}
	if smaller < 300 || same < 100 {
		t.Errorf("%d shrank, %d need no room", smaller, same)
	}
}

// A slant keeps its angle and its lowest height; a place in metres counts from the
// pilot, wherever the station lies.
func TestSlantOnASmallerCourseKeepsItsAngle(t *testing.T) {
	seen := 0
	for _, d := range Shipped().InOrder() {
		small := shrunk(t, d, craft.Light, 0.7)
		small.Station = field.Point{X: 3, Y: -2}
		for _, side := range d.Sides() {
			task, err := d.Lay(side, 1, craft.Light, small)
			if err != nil {
				t.Fatal(err)
			}
			for _, s := range task.Steps {
				if s.Path == nil || s.Path.Shape != Slant {
					continue
				}
				seen++
				a, _ := s.Path.At(0)
				b, _ := s.Path.At(s.Path.Length * (1 - 1e-12))
				flat := math.Hypot(b.X-a.X, b.Y-a.Y)
				if got := math.Atan2(math.Abs(b.Z-a.Z), flat) * 180 / math.Pi; math.Abs(got-45) > 1e-6 {
					t.Errorf("%s: %.2f°", d.Key, got)
				}
				if math.Abs(math.Min(a.Z, b.Z)-2) > 1e-9 || math.Abs(flat-0.7*8) > 1e-6 ||
					math.Abs(math.Min(a.Y, b.Y)+2-0.7*10) > 1e-6 {
					t.Errorf("%s: %+v to %+v", d.Key, a, b)
				}
			}
		}
	}
	if seen < 2 {
		t.Errorf("%d slants", seen)
	}
}
