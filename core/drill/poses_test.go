package drill

import (
	"math"
	"testing"

	"maestrale/core/craft"
	"maestrale/core/field"
)

// Every pose keeps the rule of its step, turns by what the step says, and lies where the step is flown; and a sided
// drill's other side is its mirror image.
func TestPosesKeepTheRules(t *testing.T) {
	for _, d := range Shipped().InOrder() {
		var sides []([]Pose)
		for _, side := range d.Sides() {
			task, err := d.Lay(side, 1, craft.Light, nil)
			if err != nil {
				t.Fatal(err)
			}
			poses := task.Poses()
			sides = append(sides, poses)
			kept := field.Away
			for k, p := range poses {
				s := task.Steps[p.Step]
				if s.HasAt && p.At != s.At {
					t.Errorf("%s %s, step %d lies at %v and not at %v", d.Key, side, p.Step, p.At, s.At)
				}
				if s.Kind == Turn && !s.RandomTurn && math.Abs(float64((p.Heading-kept-s.By).Wrap())) > 1e-9 {
					t.Errorf("%s %s, step %d turns by %v and not %v", d.Key, side, p.Step, (p.Heading - kept).Deg(), s.By.Deg())
				}
				seen := field.Bearing(p.At.Sub(task.Station))
				if off := s.Heading.Deviation(p.Heading, seen, kept); s.Kind != Turn && math.Abs(float64(off)) > 1e-9 {
					t.Errorf("%s %s, step %d is %.0f° off its rule", d.Key, side, p.Step, off.Deg())
				}
				if k == 0 || poses[k-1].Step != p.Step {
					kept = p.Heading
				}
			}
			if len(poses) < len(task.Steps) {
				t.Errorf("%s: %d poses of %d steps", d.Key, len(poses), len(task.Steps))
			}
		}
		if len(sides) == 2 {
			same := d.Wind.On(field.LeftSide) == d.Wind.On(field.RightSide) // else they look alike but for the wind
			for k := range sides[0] {
				a, b := sides[0][k], sides[1][k]
				same = same && a.At == b.At && a.Heading == b.Heading && a.Turned == b.Turned
			}
			if same {
				t.Errorf("%s looks alike on both sides", d.Key)
			}
		}
	}
}
