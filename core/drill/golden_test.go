package drill_test

import (
	"bytes"
	"crypto/sha256"
	"fmt"
	"testing"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/internal/golden"
)

// Every shipped drill, on every side and level: what each step asks in words for a light craft, and for every class a
// sum over all its numbers. A change of either shows here as a difference to read.
func TestEveryTaskAsItIs(t *testing.T) {
	var out bytes.Buffer
	for _, d := range drill.Shipped().InOrder() {
		for _, side := range d.Sides() {
			for level := range d.Levels {
				sum := sha256.New()
				for _, class := range craft.Classes {
					task, err := d.Lay(side, level+1, class, nil)
					if err != nil {
						fmt.Fprintf(sum, "%s %v\n", class, err)
						continue
					}
					for i := range task.Steps {
						s := task.Steps[i]
						var path any
						if s.Path != nil {
							at, nose := s.Path.At(s.Path.Length / 3)
							path = fmt.Sprintf("%.6f %.4f %.4f %v %v", s.Path.Length, at, nose, s.Path.Corners, s.Path.Parts)
						}
						s.Path = nil
						fmt.Fprintf(sum, "%s %d %.6v %v\n", class, i, s, path)
						if class == craft.Light {
							fmt.Fprintf(&out, "%s %s %d.%d: %s\n", d.Key, side, level+1, i, task.Steps[i].Words())
						}
					}
				}
				fmt.Fprintf(&out, "%s %s %d: %.8x, manual landing %v, reach %s\n", d.Key, side, level+1, sum.Sum(nil),
					d.ManualLanding(), reach(d))
			}
		}
	}
	for _, template := range course.Templates {
		for _, class := range craft.Classes {
			laid, ok := course.Lay(template.Key, class)
			if !ok {
				continue
			}
			for _, aids := range []craft.Aids{craft.PositionHold} {
				rooms, not := drill.Shipped().Rooms(laid, class, aids)
				fmt.Fprintf(&out, "%s %s %s: %d rooms, %.8x; not %v\n", template.Key, class, aids, len(rooms),
					sha256.Sum256(fmt.Appendf(nil, "%.4v", rooms)), not)
			}
		}
	}
	golden.Check(t, "tasks.golden", out.Bytes())
}

// reach is how much room a drill takes for each class.
func reach(d drill.Drill) string {
	out := ""
	for _, class := range craft.Classes {
		c, err := d.On(class, nil)
		if err != nil {
			continue
		}
		scale, err := d.ScaleOn(class, c)
		out += fmt.Sprintf("%.3f %v %v; ", scale, err, d.Fits(class, c))
	}
	return out
}
