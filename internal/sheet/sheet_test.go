package sheet

import (
	"bytes"
	"regexp"
	"strings"
	"testing"
	"time"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/internal/sheet/sheettest"
)

func page(t *testing.T, template string, class craft.Class) Page {
	t.Helper()
	c, ok := course.Lay(template, class)
	if !ok {
		t.Fatal(template)
	}
	var err error
	if c.Plane, err = field.NewPlane(field.Geo{LatDeg: 44.9, LonDeg: 13}, 135); err != nil {
		t.Fatal(err)
	}
	c.Crowd = [][]field.Point{{{X: -20, Y: -8}, {X: 20, Y: -8}}}
	c.Hazards = []course.Hazard{{Kind: "wire", Name: "the low wire", At: []field.Point{{X: 4, Y: 0}, {X: 5, Y: 40}},
		HeightM: 6}, {Kind: "tree", At: []field.Point{{X: -9, Y: 30}}, HeightM: 8}}
	e := course.Envelope{Title: "hover", Path: []field.Point{c.Markers["centre"]}, RadiusM: 1, HighM: 2, FlownM: 1.5,
		SpeedMps: 1.5, Aids: craft.PositionHold}
	from := time.Date(2026, 5, 1, 7, 0, 0, 0, time.UTC)
	a := course.Ask{Craft: craft.Shipped()["poiana"], Aids: craft.PositionHold, Density: 1.2, PaceM: 0.75, WindMps: 3,
		WindFrom: field.Degrees(180), WindKnown: true, From: from, To: from.Add(3 * time.Hour),
		Envelopes: []course.Envelope{e}}
	s, err := c.SurveyOf(a)
	if err != nil {
		t.Fatal(err)
	}
	return Page{School: "School – with a dash", Site: "Pan", Name: "Tuesday’s course", Date: "Friday 1 May 2026",
		Session: "09:00 to 12:00", Craft: "Poiana", Course: c, Survey: s, Ask: a, PaceM: 0.75,
		Wind: "3.0 m/s from behind", Sun: "From 09:00 it stands 30° " +
			"high.", Return: "20 m (66 ft)", Advice: "Turned 10° to the left, every drill is " +
			"clear.", Warnings: []string{strings.Repeat("a long warning ", 30)}, Notes: strings.Repeat("A note of the site. ",
			60)}
}

func TestTheSheetIsOnePageAndSaysWhatIsWanted(t *testing.T) {
	for _, template := range course.TemplateKeys() {
		for _, class := range craft.Classes {
			p := page(t, template, class)
			pdf, err := Course(p)
			if err != nil || !bytes.HasPrefix(pdf, []byte("%PDF-")) {
				t.Fatalf("%s for %s: %v", template, class, err)
			}
			if n := len(regexp.MustCompile(`/Type /Page\b[^s]`).FindAll(pdf, -1)); n != 1 {
				t.Errorf("%s for %s: %d pages", template, class, n)
			}
			text := sheettest.Words(pdf)
			for _, want := range []string{"Return height", "20 m (66 ft)", "30° high", "10° to the left", "Tuesday’s course",
				"School – with a dash", "low wire 6 m", "scale 1 : ", "Never fly over anyone", "pad"} {
				if !strings.Contains(text, want) {
					t.Errorf("%s for %s: %q is missing in\n%s", template, class, want, text)
				}
			}
		}
	}
}

// At the scale that is named everything lies on the paper, and half of it would
// not.
func TestScaleFits(t *testing.T) {
	for _, template := range course.TemplateKeys() {
		for _, class := range craft.Classes {
			p := page(t, template, class)
			s := sheet{p: p, scale: Scale(p.Course, p.Ask.Envelopes)}
			for name, m := range p.Course.Markers {
				if x, y := s.xy(m); x < left || x > left+wide || y < top || y > top+high {
					t.Errorf("%s for %s at 1 : %.0f: %s is off the plan", template, class, s.scale, name)
				}
			}
			// One metre of the field is so many millimetres of paper.
			x0, _ := s.xy(field.Point{})
			x1, _ := s.xy(field.Point{X: 1})
			if d := (x1 - x0) - 1000/s.scale; d > 1e-9 || d < -1e-9 {
				t.Errorf("a metre is %v mm at 1 : %.0f", x1-x0, s.scale)
			}
		}
	}
}
