package course

import (
	"strings"
	"testing"

	"maestrale/core/craft"
	"maestrale/core/field"
)

func askOf(key string, path ...field.Point) Ask {
	t := craft.Shipped()[key]
	return Ask{Craft: t, Aids: t.Aids[0], Density: 1.2, PaceM: 0.8,
		Envelopes: []Envelope{{Key: "d", Title: "D", Path: path, RadiusM: 1, FlownM: 2, HighM: 3, SpeedMps: 1.5,
			Aids: t.Aids[0]}}}
}

// The pilot, the instructor and the spotter are kept clear of by the class of the craft; a drill that covers the place
// of one is never called clear.
func TestPeopleOfTheFlightAreKeptClearOf(t *testing.T) {
	for _, k := range []struct {
		craft string
		at    field.Point
		who   string
		warn  bool
	}{
		{"poiana", pt(0, 8), "the pilot", false},
		{"airone", pt(0, 0.5), "the pilot", true},
		{"airone", pt(0, 3.2), "the pilot", true},
		{"airone", pt(0, 4), "the pilot", false},
		{"poiana", pt(3, 2), "the instructor", true},
		{"poiana", pt(-4, 2), "the spotter", true},
	} {
		c := &Course{Markers: map[string]field.Point{"centre": pt(0, 8)}, Hazards: []Hazard{
			{Kind: Instructor, At: []field.Point{pt(3, 1)}}, {Kind: Spotter, At: []field.Point{pt(-4, 1)}}}}
		s, err := c.SurveyOf(askOf(k.craft, k.at))
		if err != nil {
			t.Fatal(err)
		}
		warned := false
		for _, x := range s.Clearances {
			if x.Warn() && x.Name == k.who {
				warned = strings.Contains(x.Says(), k.who)
			}
		}
		if warned != k.warn || s.Advice.OK && k.warn {
			t.Errorf("%s at %v, %s: warned %v, all well %v", k.craft, k.at, k.who, warned, s.Advice.OK)
		}
	}
}

// The shipped templates keep clear of the pilot with the class that they are laid for, and a larger craft is warned of,
// also on a course whose file does not name its class.
func TestAHeavierCraftThanTheCourseIsLaidFor(t *testing.T) {
	keys := map[craft.Class]string{craft.Micro: "rondine", craft.Light: "poiana", craft.Heavy: "airone"}
	for class, key := range keys {
		for _, template := range TemplateKeys() {
			laid, _ := Lay(template, class)
			if template == "box" || template == "five-markers" {
				laid.Class = ""
			}
			if s, err := laid.SurveyOf(askOf(key, laid.Markers["centre"])); err != nil || s.Heavier != "" {
				t.Errorf("%s for %s: said to be laid for %q, %v", template, class, s.Heavier, err)
			}
			if class == craft.Heavy {
				continue
			}
			if s, _ := laid.SurveyOf(askOf("airone", laid.Markers["centre"])); s.Heavier == "" {
				t.Errorf("%s for %s, flown with a heavy craft: no warning", template, class)
			}
		}
	}
	named := &Course{Class: craft.Light, Markers: map[string]field.Point{"centre": pt(0, 40)}}
	if s, _ := named.SurveyOf(askOf("airone", pt(0, 40))); s.Heavier != craft.Light {
		t.Errorf("a course that names its class: %q", s.Heavier)
	}
}

// Whatever is in the way, nobody is told to move the course nearer to people.
func TestNobodyIsToldToFlyNearerToPeople(t *testing.T) {
	c := &Course{Markers: map[string]field.Point{"centre": pt(0, 12)}, Hazards: []Hazard{
		{Kind: "wall", At: []field.Point{pt(-60, 18), pt(60, 18)}, HeightM: 5}, {Kind: "wall", At: []field.Point{pt(14, -60),
			pt(14, 60)}},
		{Kind: "wall", At: []field.Point{pt(-14, -60), pt(-14, 60)}}}}
	ask := askOf("poiana", pt(0, 15))
	if s, err := c.SurveyOf(ask); err != nil || s.Advice.OK || s.Advice.Found || s.Advice.Toward != "toward" {
		t.Fatalf("without people: %+v %v", s.Advice, err)
	}
	c.Crowd = [][]field.Point{{pt(-30, 6), pt(30, 6)}}
	if s, _ := c.SurveyOf(ask); s.Advice.OK || s.Advice.Found || s.Advice.Toward != "" || s.Advice.MoveM != 0 {
		t.Errorf("with a crowd line behind: %+v", s.Advice)
	}
}

// The class that a course is laid for, and who belongs to the flight, come back from the file.
func TestPeopleAndClassInTheFile(t *testing.T) {
	c, _ := Lay("box", craft.Heavy)
	c.Hazards = []Hazard{{Kind: Spotter, At: []field.Point{pt(2, -1)}}, {Kind: Instructor, At: []field.Point{pt(-1, 0)}}}
	data, err := c.YAML()
	if err != nil {
		t.Fatal(err)
	}
	back, err := Parse(data)
	if err != nil || back.Class != craft.Heavy || len(back.Hazards) != 2 || !back.Hazards[0].IsCrew() {
		t.Errorf("%+v %v", back, err)
	}
	if _, err := Parse([]byte("format: maestrale-course/1\nclass: giant\n")); err == nil {
		t.Error("a class that is none is taken")
	}
}
