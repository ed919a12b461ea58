package pack

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"maestrale/core/air"
	"maestrale/core/craft"
)

// sketchOf describes a shipped type as an instructor would, with the hover time that its own file gives.
func sketchOf(t *testing.T, c craft.Type) (Sketch, float64) {
	t.Helper()
	l, err := NewLifter(c, air.SeaLevelDensity)
	if err != nil {
		t.Fatal(err)
	}
	f, err := NewFilling(c.Battery, 0)
	if err != nil {
		t.Fatal(err)
	}
	minutes := f.Seconds(l.Hover(), Reserve) / 60
	return Sketch{Key: "own-" + c.Key, Title: "Own " + c.Title, SpanM: c.SpanM, MassKg: c.MassKg, Rotors: len(c.Rotors),
		Chemistry: c.Battery.Chemistry, Cells: c.Battery.Cells, CapacityMah: c.Battery.CapacityMah,
		HoverMinutes: minutes, Aids: c.Aids, Guards: c.Guards}, minutes
}

// What an instructor can measure brings back what the shipped file says, within what a guess can be.
func TestASketchComesNearTheShippedTypes(t *testing.T) {
	for key, c := range craft.Shipped() {
		s, minutes := sketchOf(t, c)
		got, err := s.Type()
		if err != nil {
			t.Fatalf("%s: %v", key, err)
		}
		l, err := NewLifter(got, air.SeaLevelDensity)
		if err != nil {
			t.Fatal(err)
		}
		f, _ := NewFilling(got.Battery, 0)
		if m := f.Seconds(l.Hover(), Reserve) / 60; math.Abs(m-minutes) > 0.02*minutes {
			t.Errorf("%s hovers %.2f minutes; %.2f were measured", key, m, minutes)
		}
		if got.Class() != c.Class() || len(got.Rotors) != len(c.Rotors) || !got.Has(c.Aids[0]) {
			t.Errorf("%s became %s with %d rotors", key, got.Class(), len(got.Rotors))
		}
		for what, pair := range map[string][2]float64{"rotor radius": {got.RotorRadiusM, c.RotorRadiusM},
			"hover speed": {got.HoverRps, c.HoverRps}, "inertia": {got.InertiaKgM2[0], c.InertiaKgM2[0]},
			"yaw inertia": {got.InertiaKgM2[2], c.InertiaKgM2[2]}, "pack mass": {got.Battery.MassKg, c.Battery.MassKg}} {
			if share := pair[0] / pair[1]; share < 0.6 || share > 1.7 {
				t.Errorf("%s: %s is %.4g, shipped %.4g", key, what, pair[0], pair[1])
			}
		}
	}
}

func TestASketchRefusesWhatCannotBe(t *testing.T) {
	good, _ := sketchOf(t, craft.Shipped()["poiana"])
	for want, change := range map[string]func(*Sketch){
		"no name":                func(s *Sketch) { s.Title = " " },
		"the span is 30 m":       func(s *Sketch) { s.SpanM = 30 },
		"the mass is NaN kg":     func(s *Sketch) { s.MassKg = math.NaN() },
		"5 rotors":               func(s *Sketch) { s.Rotors = 5 },
		`chemistry "nimh"`:       func(s *Sketch) { s.Chemistry = "nimh" },
		"0 cells":                func(s *Sketch) { s.Cells = 0 },
		"capacity is 3 mAh":      func(s *Sketch) { s.CapacityMah = 3 },
		"hover time is 90 min":   func(s *Sketch) { s.HoverMinutes = 90 },
		"hover time is 0.6 min":  func(s *Sketch) { s.HoverMinutes = 0.6 },
		"hover time is 1000 min": func(s *Sketch) { s.HoverMinutes = 1000 },
		"no aids":                func(s *Sketch) { s.Aids = nil },
		"weighs about":           func(s *Sketch) { s.MassKg = 0.3 },
	} {
		s := good
		change(&s)
		if _, err := s.Type(); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v", want, err)
		}
	}
	s := good
	s.HoverMinutes = 0 // not measured: a usual rotor is taken
	if got, err := s.Type(); err != nil || got.FigureOfMerit != defaultMerit {
		t.Errorf("%v, %v", got.FigureOfMerit, err)
	}
}

func TestReadSeveral(t *testing.T) {
	poiana := craft.Shipped()["poiana"] // LiHV, 4 cells, 3800 mAh
	for text, want := range map[string]string{
		"6 × 4S 3300 mAh, P1 to P6":       "P1 P2 P3 P4 P5 P6 4 3300",
		"6x 4s 3300mah P1-P6":             "P1 P2 P3 P4 P5 P6 4 3300",
		"3 × 4S 3,3 Ah LiHV, A 08 to A10": "A 08 A 09 A 10 4 3300",
		"3 × 4S 3,3 Ah LiHV, A08 to A10":  "A08 A09 A10 4 3300",
		"P1, P2 and P5":                   "P1 P2 P5 4 3800",
		"2 × A and B":                     "A B 4 3800",
		"A to C":                          "A B C 4 3800",
		"3300 mAh, Red":                   "Red 4 3300",
		"5 × 4S 3300 mAh, P1 to P6":       "!5 names",
		"6 × 4S 3300 mAh":                 "!no names",
		"2 × 3S 3300 mAh, P1 to P2":       "!4 cells in series",
		"2 × 4S 3300 mAh LiPo, P1 to P2":  "!chemistries are never mixed",
		"P6 to P1":                        "!a row like",
		"P1 to P900":                      "!200 packs at most",
		"P1, P2, P1":                      "!every name once",
		"4S 9 mAh, P1":                    "!50 to 200000",
		"":                                "!no names",
	} {
		list, err := ReadSeveral(text, poiana)
		if refused, bad := strings.CutPrefix(want, "!"); bad {
			if err == nil || !strings.Contains(err.Error(), refused) {
				t.Errorf("%q: %v, %v; want %q", text, list, err, refused)
			}
			continue
		}
		got := ""
		for _, r := range list {
			got += r.Name + " "
		}
		if len(list) > 0 {
			got += fmt.Sprintf("%d %.0f", list[0].Cells, list[0].CapacityMah)
		}
		if err != nil || got != want {
			t.Errorf("%q: %q, %v; want %q", text, got, err, want)
		}
	}
}

func FuzzReadSeveral(f *testing.F) {
	for _, s := range []string{"6 × 4S 3300 mAh, P1 to P6", "A to Z", "P1-P9", "0 × ,", "99999999999999999999 × P1",
		"1 to 2"} {
		f.Add(s)
	}
	poiana := craft.Shipped()["poiana"]
	f.Fuzz(func(t *testing.T, text string) {
		list, err := ReadSeveral(text, poiana)
		if err == nil && (len(list) == 0 || len(list) > MostPacks) {
			t.Errorf("%q: %d packs", text, len(list))
		}
		for _, r := range list {
			if r.Check(poiana) != nil {
				t.Errorf("%q: %+v", text, r)
			}
		}
	})
}
