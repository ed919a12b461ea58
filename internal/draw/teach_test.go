package draw

import (
	"encoding/json"
	"html"
	"regexp"
	"strings"
	"testing"

	"maestrale/core/craft"
	"maestrale/core/drill"
)

// Every drill is drawn with a craft, and a number for each step that stands at a place; its poses can be played; and
// both sides of a drill look different.
func TestEveryDrillIsTaught(t *testing.T) {
	poses := regexp.MustCompile(`data-poses="([^"]*)"`)
	for _, d := range drill.Shipped().InOrder() {
		var before string
		for _, side := range d.Sides() {
			task, err := d.Lay(side, 1, craft.Light, nil)
			if err != nil {
				t.Fatal(err)
			}
			drawn := string(Teach(task, d.Wind.On(side).From))
			if strings.Contains(drawn, "NaN") || strings.Contains(drawn, "Inf") || !strings.Contains(drawn, `class="nose"`) {
				t.Errorf("%s: %s", d.Key, drawn)
			}
			var list [][5]float64
			if err := json.Unmarshal([]byte(html.UnescapeString(poses.FindStringSubmatch(drawn)[1])), &list); err != nil {
				t.Fatal(err)
			}
			for _, p := range list {
				if p[1] < -24 || p[1] > planWide+24 || p[2] < -34 || p[2] > planTall {
					t.Errorf("%s: the pose %v is off the drawing", d.Key, p)
				}
			}
			if last := int(list[len(list)-1][0]); last != len(task.Steps)-1 {
				t.Errorf("%s: played up to step %d of %d", d.Key, last+1, len(task.Steps))
			}
			if drawn == before {
				t.Errorf("%s looks alike on both sides", d.Key)
			}
			before = drawn
		}
	}
}
