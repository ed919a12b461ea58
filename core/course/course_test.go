package course

import (
	"strings"
	"testing"

	"maestrale/core/craft"
	"maestrale/core/field"
)

const sample = `format: maestrale-course/1
origin: {lat: 45.2, lon: 12.3, alt_m: 2}
away_deg: 315
station: [0, 0]
markers: {pad: [0, 8], centre: [0, 12]}
crowd: [[-20, -5], [20, -5]]
surface: hardstanding
hazards:
  - {kind: tree, at: [30, 40], height_m: 9}
  - {kind: water, ring: [[50, 0], [60, 0], [60, 10]]}
`

func TestParse(t *testing.T) {
	c, err := Parse([]byte(sample))
	if err != nil {
		t.Fatal(err)
	}
	if c.Markers["centre"] != (field.Point{X: 0, Y: 12}) || c.Plane.AwayDeg() < 314.99 || len(c.Hazards) != 2 || !c.Hazards[1].Closed {
		t.Errorf("read %+v", c)
	}
}

func TestParseRefuses(t *testing.T) {
	for _, c := range []struct{ from, to, want string }{
		{"lat: 45.2", "lat: 95", "2: "},
		{"away_deg: 315\n", "", "both or none"},
		{"pad: [0, 8]", "pad: [0]", "5: "},
		{"kind: tree", "kind: dragon", "9: "},
		{", height_m: 9", ", hight_m: 9", `unknown key "hight_m"`},
		{"at: [30, 40], ", "", "at, line or ring"},
		{"surface", "surfaces", "unknown key"},
	} {
		_, err := Parse([]byte(strings.Replace(sample, c.from, c.to, 1)))
		if err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%q for %q: %v, want %q", c.to, c.from, err, c.want)
		}
	}
}

func TestTheBoxIsSymmetricAndGrowsWithTheCraft(t *testing.T) {
	last := 0.0
	for _, class := range craft.Classes {
		c, ok := Lay("box", class)
		if !ok {
			t.Fatal("no box")
		}
		if c.Markers["near-left"].Mirror() != c.Markers["near-right"] || c.Markers["far-left"].Mirror() != c.Markers["far-right"] {
			t.Errorf("%s: the box leans", class)
		}
		if c.Markers["centre"].Y <= last {
			t.Errorf("%s: the box is not farther off than for a smaller craft", class)
		}
		last = c.Markers["centre"].Y
	}
	if _, ok := Lay("maze", craft.Light); ok {
		t.Error("an unknown template was laid")
	}
}

func FuzzParse(f *testing.F) {
	f.Add(sample)
	f.Fuzz(func(t *testing.T, data string) {
		if c, err := Parse([]byte(data)); (c == nil) == (err == nil) {
			t.Error("a course or an error, not both")
		}
	})
}
