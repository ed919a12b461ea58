package draw

import (
	"strings"
	"testing"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/field"
)

func TestCoursePlan(t *testing.T) {
	c, _ := course.Lay("five-markers", craft.Light)
	c.Markers["<script>"] = field.Point{X: 1, Y: 5}
	c.Crowd = [][]field.Point{{{X: -9, Y: -8}, {X: 9, Y: -8}}}
	c.Hazards = []course.Hazard{{Kind: "wire", At: []field.Point{{X: 3, Y: 9}, {X: 30, Y: 9}}, HeightM: 6},
		{Kind: "water", At: []field.Point{{X: -30, Y: 30}, {X: 30, Y: 30}, {X: 0, Y: 50}}, Closed: true}, {Kind: "people",
			At: []field.Point{{X: -20, Y: 3}}}}
	a := course.Ask{Craft: craft.Shipped()["poiana"], Aids: craft.PositionHold, Density: 1.2, WindMps: 4, WindKnown: true,
		Envelopes: []course.Envelope{{Title: "hover", Path: []field.Point{c.Markers["centre"]}, RadiusM: 1, HighM: 2,
			SpeedMps: 1.5, Aids: craft.PositionHold}}}
	s, err := c.SurveyOf(a)
	if err != nil {
		t.Fatal(err)
	}
	for _, span := range Spans {
		svg := string(Course(c, s, a, span, true))
		wellFormed(t, "course", svg)
		if strings.Contains(svg, "<script>") {
			t.Error("a name was not escaped")
		}
		if !strings.Contains(svg, `class="warn"`) || !strings.Contains(svg, "m short") {
			t.Errorf("across %d m: the warning is not drawn", span)
		}
	}
	if svg := string(Course(c, s, a, 40, false)); strings.Contains(svg, "tabindex") || strings.Contains(svg, "data-what") {
		t.Error("who may not change the course can take hold of it")
	}
	// The pilot stands at the bottom, in the middle, whatever the station.
	c.Station = field.Point{X: 7, Y: -3}
	p := &courseDrawing{c: c, k: courseWide / 40}
	if x, y := p.xy(c.Station); x != courseWide/2 || y != courseHigh-footRoom {
		t.Errorf("the pilot stands at %v, %v", x, y)
	}
}

func TestSpanShowsEveryMarker(t *testing.T) {
	for _, template := range course.TemplateKeys() {
		for _, class := range craft.Classes {
			c, _ := course.Lay(template, class)
			p := &courseDrawing{c: c, k: courseWide / float64(SpanFor(c, nil))}
			for name, at := range c.Markers {
				if x, y := p.xy(at); x < 0 || x > courseWide || y < 0 || y > courseHigh {
					t.Errorf("%s for %s: %s is off the plan", template, class, name)
				}
			}
		}
	}
}

func TestRotorsAndPacks(t *testing.T) {
	for key, k := range craft.Shipped() {
		svg := string(Rotors(k, nil))
		wellFormed(t, key, svg)
		if n := strings.Count(svg, `class="spin"`); n != len(k.Rotors) {
			t.Errorf("%s: %d spins of %d rotors", key, n, len(k.Rotors))
		}
		wrong := k.RightMounts()
		wrong[0].Chipped = true
		if strings.Count(string(Rotors(k, wrong)), "wrong-one") != 1 {
			t.Errorf("%s: the chipped one is not marked", key)
		}
	}
	for _, fit := range []string{"fit", "watch", "retire"} {
		wellFormed(t, fit, string(Pack(0.4, true, fit)))
	}
	if svg := string(Pack(0, false, "fit")); strings.Contains(svg, "pack-fill") || !strings.Contains(svg, "not known") {
		t.Error("a pack of unknown charge is drawn with one")
	}
}
