package drill

import (
	"errors"
	"strings"
	"testing"
	"testing/fstest"

	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/core/yamldoc"
)

const sample = `format: maestrale-drill/1
key: sample
title: Sample
family: yaw
sided: true
purpose: p
caution: c
levels: [{}, {scale: 0.5, height_m: 6}]
steps:
  - {kind: takeoff, to_height_m: 1.5, seconds_max: 15}
  - kind: hold
    at: [-2, 8]
    height_m: 1.5
    heading: nose-left
    seconds: 5
    within: {radius_m: {light: 1.0, heavy: 2}, height_m: 0.5, nose_deg: 25}
  - {kind: turn, by_deg: 90, within: {overshoot_deg: 20}}
  - {kind: land, at: pad, within: {offset_m: 1}}
`

func TestParseRefusesWithTheLine(t *testing.T) {
	if _, err := Parse([]byte(sample)); err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		from, to string
		line     int
		want     string
	}{
		{"maestrale-drill/1", "other/1", 1, "maestrale-drill/1"},
		{"key: sample", "key: Sample", 2, "lower-case"},
		{"family: yaw\n", "", 1, `no "family"`},
		{"caution: c", "cautions: c", 7, `unknown key "cautions"`},
		{"scale: 0.5", "size: 0.5", 8, `unknown key "size"`},
		{"kind: hold", "kind: hover", 11, "takeoff, hold, turn, land"},
		{"seconds: 5", "seconds: -5", 15, "a number from"},
		{"seconds: 5\n", "secs: 5\n", 11, `no "seconds"`},
		{"heading: nose-left\n", "heading: sideways\n", 14, "tail-in"},
		{"    heading: nose-left\n", "", 15, "nothing to be"},
		{"radius_m: {light: 1.0", "radius_m: {tiny: 1.0", 16, `unknown key "tiny"`},
		{"by_deg: 90", "by_deg: 5", 17, "too small"},
		{"within: {overshoot_deg: 20}", "within: {overshoot_deg: 200}", 17, "90"},
		{"  - {kind: land, at: pad, within: {offset_m: 1}}\n", "  - {kind: takeoff, to_height_m: 1}\n", 18, "in the air"},
		{"by_deg: 90", "by_deg: 90, during: [{event: storm}]", 17, `event "storm"`},
		{"by_deg: 90", "by_deg: 90, during: [{event: call, within: {seconds: 3}}]", 17, "a hold or a path"},
		{"seconds: 5", "seconds: 5\n    during: [{event: dodge-left, within: {seconds: 3}}]", 16, "distance_m"},
		{"seconds: 5", "seconds: 5\n    during: [{event: fix-lost, then: end}]", 16, "asked of"},
		{"seconds: 5", "seconds: 5\n    during: [{event: call, within: {seconds: 3}, then: end}, {event: call}]", 16,
			"after the step has ended"},
		{"  - {kind: turn", "  - {kind: regain, from_m: 30, within: {seconds: 9}}\n  - {kind: turn", 17, "it first"},
		{"kind: turn, by_deg: 90, within: {overshoot_deg: 20}",
			"kind: return, trigger: asked, take_over_after_s: 4, within: {home_offset_m: 2}", 17, "not both"},
		{"kind: turn, by_deg: 90, within: {overshoot_deg: 20}", "kind: return, trigger: link", 17, "nothing is asked"},
		{"kind: turn, by_deg: 90, within: {overshoot_deg: 20}", "kind: return, trigger: link, within: {home_offset_m: 2}", 18,
			"on the ground"},
	} {
		_, err := Parse([]byte(strings.Replace(sample, c.from, c.to, 1)))
		var e *yamldoc.Error
		if !errors.As(err, &e) {
			t.Errorf("%q: %v, want an error with its line", c.to, err)
			continue
		}
		if c.want == "nothing to be" {
			c.line, c.want = 15, "no heading to be measured from"
		}
		if e.Line != c.line || !strings.Contains(e.Error(), c.want) {
			t.Errorf("%q: %v, want line %d and %q", c.to, e, c.line, c.want)
		}
	}
}

func TestRightIsTheMirrorImage(t *testing.T) {
	d, err := Parse([]byte(sample))
	if err != nil {
		t.Fatal(err)
	}
	left, err := d.Lay(field.LeftSide, 1, craft.Light, nil)
	if err != nil {
		t.Fatal(err)
	}
	right, err := d.Lay(field.RightSide, 1, craft.Light, nil)
	if err != nil {
		t.Fatal(err)
	}
	for i := range left.Steps {
		l, r := left.Steps[i], right.Steps[i]
		if l.At.Mirror() != r.At || l.By != -r.By || l.Heading.Mirror().Angle != r.Heading.Angle || l.Limits != r.Limits {
			t.Errorf("step %d: %+v is no mirror image of %+v", i, r, l)
		}
	}
	if left.Steps[2].By >= 0 {
		t.Error("the left version does not turn the nose left")
	}
	ls, rs := left.Sectors(), right.Sectors()
	for s := range ls {
		if ls[s] != rs[(field.Sectors-s)%field.Sectors] {
			t.Errorf("sector %d of the left version has no mirror image", s)
		}
	}
}

func TestLevelsAndClasses(t *testing.T) {
	d, _ := Parse([]byte(sample))
	task, err := d.Lay(field.LeftSide, 2, craft.Heavy, nil)
	if err != nil {
		t.Fatal(err)
	}
	if h := task.Steps[1]; h.Limits.Radius != 1 || h.HeightM != 6 || h.Limits.Height != 0.5 {
		t.Errorf("level 2, heavy: %+v", h)
	}
	if off := task.Steps[3].Limits.Offset; off != 0.5 {
		t.Errorf("offset at half the scale: %v", off)
	}
	for _, c := range []struct {
		side  field.Side
		level int
		class craft.Class
		want  string
	}{
		{field.NoSide, 1, craft.Light, "left or right"},
		{field.LeftSide, 3, craft.Light, "1 to 2"},
		{field.LeftSide, 1, craft.Micro, "no radius_m is set for class micro"},
	} {
		if _, err := d.Lay(c.side, c.level, c.class, nil); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%+v: %v, want %q", c, err, c.want)
		}
	}
}

func TestSectorsOfShippedDrills(t *testing.T) {
	c := Shipped()
	for _, want := range []struct {
		key  string
		side field.Side
		in   []int
	}{
		{"hover-tail-in", field.NoSide, []int{0}},
		{"yaw-quarter", field.RightSide, []int{0, 1, 2, 3, 4}},
		{"yaw-quarter", field.LeftSide, []int{0, 12, 13, 14, 15}},
	} {
		task, err := c.Drills[want.key].Lay(want.side, 1, craft.Light, nil)
		if err != nil {
			t.Fatal(err)
		}
		var got []int
		for s, in := range task.Sectors() {
			if in {
				got = append(got, s)
			}
		}
		if len(got) != len(want.in) {
			t.Errorf("%s %s: sectors %v, want %v", want.key, want.side, got, want.in)
		}
		for i := range got {
			if i < len(want.in) && got[i] != want.in[i] {
				t.Errorf("%s %s: sectors %v, want %v", want.key, want.side, got, want.in)
			}
		}
	}
}

func TestEveryShippedDrillLaysForEveryClassSideAndLevel(t *testing.T) {
	c := Shipped()
	if len(c.Drills) < 4 || len(c.Programmes) != 3 {
		t.Fatalf("%d drills, %d programmes", len(c.Drills), len(c.Programmes))
	}
	for _, d := range c.InOrder() {
		if d.Purpose == "" || d.Caution == "" || d.Minutes == 0 {
			t.Errorf("%s lacks a purpose, a caution or its minutes", d.Key)
		}
		for _, side := range d.Sides() {
			for level := range d.Levels {
				for _, class := range craft.Classes {
					task, err := d.Lay(side, level+1, class, nil)
					if err != nil {
						t.Errorf("%v", err)
					}
					for _, s := range task.Steps {
						if strings.TrimSpace(s.Words()) == "" {
							t.Errorf("%s: a %s without words", d.Key, s.Kind)
						}
					}
				}
			}
		}
	}
}

func TestOrderFollowsBuilds(t *testing.T) {
	c := Shipped()
	place := map[string]int{}
	for i, d := range c.InOrder() {
		place[d.Key] = i
		for _, b := range d.Builds {
			if at, ok := place[b]; !ok || at >= i {
				t.Errorf("%s stands before %s, on which it builds", d.Key, b)
			}
		}
	}
}

func TestAddASchool(t *testing.T) {
	c := Shipped()
	before := len(c.Drills)
	file := func(s string) *fstest.MapFile { return &fstest.MapFile{Data: []byte(s)} }
	bad := fstest.MapFS{"drills/a.yaml": file(sample), "drills/b.yaml": file(strings.Replace(sample, "sided: true",
		"sided: perhaps", 1))}
	if err := c.Add(bad); err == nil || !strings.HasPrefix(err.Error(), "drills/b.yaml:5: ") || len(c.Drills) != before {
		t.Errorf("err %v, %d drills", err, len(c.Drills)-before)
	}
	prog := "format: maestrale-programme/1\nkey: p\ntitle: P\nrungs:\n  - {key: a, title: A, cells: [{drill: sample, " +
		"aids: rate, level: 2}]}\n"
	if err := c.Add(fstest.MapFS{"a.yaml": file(sample), "p.yml": file(prog), "notes.txt": file("not read")}); err != nil {
		t.Fatal(err)
	}
	cells := c.Programmes["p"].Cells()
	if len(cells) != 2 || cells[0].Side != field.LeftSide || cells[1].Side != field.RightSide || cells[0].Level != 2 {
		t.Errorf("cells %+v", cells)
	}
	for from, want := range map[string]string{
		"drill: sample": "p.yml:5: drill \"nothing\" is not known",
		"level: 2":      "p.yml:5: ",
		"aids: rate":    "p.yml:5: ",
	} {
		to := map[string]string{"drill: sample": "drill: nothing", "level: 2": "level: 9", "aids: rate": "aids: none"}[from]
		err := c.Add(fstest.MapFS{"p.yml": file(strings.Replace(prog, from, to, 1))})
		if err == nil || !strings.HasPrefix(err.Error(), want) {
			t.Errorf("%s: %v, want %s", to, err, want)
		}
	}
	loop := strings.Replace(sample, "family: yaw", "family: yaw\nbuilds: [sample]", 1)
	if err := c.Add(fstest.MapFS{"a.yaml": file(loop)}); err == nil || !strings.Contains(err.Error(),
		"a.yaml:5: builds on") {
		t.Errorf("a drill that builds on itself: %v", err)
	}
}

func FuzzParse(f *testing.F) {
	f.Add(sample)
	for _, d := range Shipped().InOrder() {
		f.Add(string(d.Source))
	}
	f.Fuzz(func(t *testing.T, data string) {
		d, err := Parse([]byte(data))
		if err != nil {
			return
		}
		for _, side := range d.Sides() {
			if task, err := d.Lay(side, 1, craft.Light, nil); err == nil {
				task.Sectors()
			}
		}
	})
}

// A turn is of ten degrees or more, either way.
func TestTheLeastTurn(t *testing.T) {
	for by, ok := range map[string]bool{"9.5": false, "-9.5": false, "10": true, "-10": true, "11": true, "-11": true} {
		if _, err := Parse([]byte(strings.Replace(sample, "by_deg: 90", "by_deg: "+by, 1))); (err == nil) != ok {
			t.Errorf("a turn by %s: %v", by, err)
		}
	}
}
