package preflight

import (
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/core/pack"
)

var now = time.Date(2026, 5, 1, 9, 0, 0, 0, time.UTC)

func situation(key string) Situation {
	c := craft.Shipped()[key]
	r := pack.Record{Name: "P1", Type: key, Chemistry: c.Battery.Chemistry, Cells: c.Battery.Cells,
		CapacityMah: c.Battery.CapacityMah}
	return Situation{Now: now, Zone: time.UTC, Type: c, CraftName: key + "-1", Pack: &r, PackState: pack.StateOf(r, nil,
		now), Learner: "Nives", Wind: &Wind{Mean: 2, Gust: 3, Fresh: true},
		PilotMps: 8, Site: "pan", Where: &field.Geo{LatDeg: 45.2,
			LonDeg: 12.3}, Policy: DefaultPolicy, ReturnM: 30, Tallest: "the tree", DrillM: 20, Density: 1.2, Minutes: 10,
		Aids: c.Aids[0],
		Craft: craft.State{Clean: &craft.Calibration{At: now.Add(-48 * time.Hour), Clean: true, Site: "pan",
			Where: &field.Geo{LatDeg: 45.2, LonDeg: 12.3}}, Inertial: now.Add(-30 * 24 * time.Hour), Firmware: "1.4"}}
}

// good answers every item that applies, a second apart, up to a stage.
func good(s Situation, upTo Stage) Check {
	values := map[string]string{"airspace": "notice 12/26", "cells": strings.TrimSpace(strings.Repeat("4.19 ",
		s.Type.Battery.Cells)), "firmware": "1.4",
		"satellites": "16", "compass": "quiet", "return-height": "30", "fence": "40", "hands-off": "0.3",
		"power-left": "80", "home-at": "the take-off place"}
	var c Check
	for _, it := range Shipped().For(s.Type, s.First, s.Goggles) {
		if it.Ask == AskComputed {
			continue
		}
		v, ok := values[it.Key]
		if !ok {
			v = "yes"
		}
		if it.Stage == AirStage && upTo != AirStage {
			break
		}
		c.Answers = append(c.Answers, Answer{Item: it.Key, Value: v, At: now.Add(time.Duration(len(c.Answers)) * time.Second),
			By: "Ettore"})
	}
	return c
}

func TestEveryTypeIsClearedWhenAllIsWell(t *testing.T) {
	tpl := Shipped()
	for key := range craft.Shipped() {
		for _, first := range []bool{false, true} {
			s := situation(key)
			s.First = first
			if s.Type.WindMps < 3 { // a micro craft: less wind, a shorter flight
				s.Minutes = 2
				s.Wind.Mean = 1
			}
			before := tpl.Judge(s, Check{}, Last{})
			if before.Clear || before.Open == 0 {
				t.Errorf("%s: clear before anything was answered", key)
			}
			c := good(s, ReadyStage)
			for i, a := range c.Answers {
				if err := tpl.CheckAnswer(s, Check{Answers: c.Answers[:i]}, a); err != nil {
					t.Errorf("%s: %v", key, err)
				}
			}
			r := tpl.Judge(s, c, Last{})
			if !r.Clear || r.Complete {
				t.Errorf("%s: clear %v, %d open, blocked by %+v", key, r.Clear, r.Open, r.Blocking)
			}
			if r := tpl.Judge(s, good(s, AirStage), Last{}); !r.Complete {
				t.Errorf("%s is not complete", key)
			}
		}
	}
}

// What applies follows from what the craft can do.
func TestOnlyWhatApplies(t *testing.T) {
	has := func(key string, first, goggles bool, item string) bool {
		_, ok := Shipped().For(craft.Shipped()[key], first, goggles).Item(item)
		return ok
	}
	for _, c := range []struct {
		key, item      string
		first, goggles bool
		want           bool
	}{
		{"poiana", "satellites", false, false, true}, {"gheppio", "satellites", false, false, false}, {"rondine", "guards",
			false, false, true}, {"poiana", "guards", false, false, false},
		{"poiana", "gimbal", false, false, true}, {"gheppio", "spotter", false, true, true}, {"gheppio", "spotter", false,
			false, false}, {"gheppio", "spotter", true, false, true},
		{"gheppio", "goggles-on", false, true, true}, {"airone", "gentle", true, false, true}, {"airone", "gentle", false,
			false, false},
	} {
		if got := has(c.key, c.first, c.goggles, c.item); got != c.want {
			t.Errorf("%+v: %v", c, got)
		}
	}
	if n, all := len(Shipped().For(craft.Shipped()["rondine"], false, false)), len(Shipped()); n > all*2/3 {
		t.Errorf("a micro craft is asked %d of %d", n, all)
	}
}

// One thing wrong at a time: the item fails, says the figure and what to do, and blocks.
func TestEachRuleBlocks(t *testing.T) {
	for _, c := range []struct {
		item, value string
		change      func(*Situation)
		says        string
	}{
		{"cells", "4.19 4.19 3.70 4.19", nil, "cell 3 rests at 3.70 V"},
		{"cells", "4.30 4.30 4.20 4.30", nil, "0.10 V apart"},
		{"cells", "4.10 4.10 4.10 4.10", func(s *Situation) { s.Minutes = 40 }, "40 are to be flown"},
		{"satellites", "7", nil, "7 of 10"},
		{"return-height", "20", nil, "20 m (66 ft); wanted 30 m (98 ft) over the tree"},
		{"fence", "22", nil, "drills reach 20 m"},
		{"fence", "0", func(s *Situation) { s.First = true }, "off"},
		{"fence", "131", func(s *Situation) { s.LastFenceM = 40 }, "131 m (430 ft)"},
		{"fence", "164", func(s *Situation) { s.PeopleM = 80 }, "the people stand at 80 m"},
		{"return-height", "98", nil, "wanted 30 m"},
		{"return-height", "98", func(s *Situation) { s.ReturnM, s.LastReturnM = 0, 30 }, "98 m (322 ft)"},
		{"power-left", "20", nil, "asked are 30"},
		{"home-at", "the pilot", func(s *Situation) { s.First = true }, "where the pilot stands"},
		{"landing-legs", "no", nil, "answered no"},
		{"inertial", "", func(s *Situation) { s.Craft.Inertial = time.Time{} }, "no calibration of them is recorded"},
		{"compass", "quiet", func(s *Situation) { s.Craft.Clean = nil }, "no clean calibration of it is recorded"},
		{"compass", "asks to be calibrated", nil, "the craft asks"},
		{"compass", "quiet", func(s *Situation) { s.Where = &field.Geo{LatDeg: 46.2, LonDeg: 12.3} }, "moved 111 km"},
		{"compass", "quiet", func(s *Situation) { s.Craft.Clean.At = now.Add(-40 * 24 * time.Hour) }, "40 days ago"},
		{"compass", "quiet", func(s *Situation) { s.Craft.Unclean = 1 }, "not clean"},
		{"firmware", "1.5", nil, "noted is 1.4"},
		{"people", "no", nil, "answered no"},
		{"wind", "", func(s *Situation) { s.Wind.Mean = 9.5 }, "9.5 of 9.0 m/s"},
		{"wind", "", func(s *Situation) { s.Wind.Gust = 12.5 }, "gusts 12.5 of 12.0"},
		{"wind", "", func(s *Situation) { s.PilotMps = 1.5 }, "Nives has flown in up to 1.5"},
		{"wind", "", func(s *Situation) { s.Wind.Fresh, s.Wind.Age = false, 45*time.Minute }, "last measured 45 min ago"},
		{"wind", "", func(s *Situation) { s.Wind = nil }, "no wind"},
		{"craft-fit", "", func(s *Situation) { s.Craft.Grounded, s.Craft.Why = true, "cracked arm" }, "cracked arm"},
		{"proven", "", func(s *Situation) { s.Craft.ToProve = "new parts" }, "new parts"},
		{"pack-fit", "", func(s *Situation) { s.PackState.Fitness, s.PackState.Why = pack.Retire, []string{"puffed"} },
			"puffed"},
		{"pack-fit", "", func(s *Situation) { s.Pack = nil }, "no pack"},
		{"propellers", "yes", func(s *Situation) {
			m := s.Type.RightMounts()
			m[0].For = craft.Clockwise
			s.Craft.Mounts = m
		}, "motor 1 (front right) turns counter-clockwise and carries a propeller for clockwise"},
		{"inertial", "", func(s *Situation) { s.Craft.Inertial = now.Add(-200 * 24 * time.Hour) }, "200 days ago"},
	} {
		s := situation("poiana")
		if c.change != nil {
			c.change(&s)
		}
		check := good(s, ReadyStage)
		for i := range check.Answers {
			if check.Answers[i].Item == c.item {
				check.Answers[i].Value = c.value
			}
		}
		r := Shipped().Judge(s, check, Last{})
		found := false
		for _, l := range r.Blocking {
			if l.Key == c.item {
				found = true
				if !strings.Contains(l.Says, c.says) || l.Next == "" {
					t.Errorf("%s: says %q, next %q", c.item, l.Says, l.Next)
				}
			}
		}
		if !found || r.Clear {
			t.Errorf("%s %q: clear %v, blocked by %+v", c.item, c.value, r.Clear, r.Blocking)
		}
	}
}

func TestOverrides(t *testing.T) {
	tpl, s := Shipped(), situation("poiana")
	check := good(s, ReadyStage)
	for i := range check.Answers {
		switch check.Answers[i].Item {
		case "satellites":
			check.Answers[i].Value = "8"
		case "people":
			check.Answers[i].Value = "no"
		}
	}
	later := now.Add(time.Hour)
	for _, c := range []struct{ item, reason, want string }{
		{"people", "they are my cousins", "never overridden"},
		{"satellites", "fine", "8 letters"},
		{"satellites", "        x", "8 letters"},
		{"fence", "because I say so", "has not failed"},
		{"moon", "because I say so", "the item"},
	} {
		if err := tpl.CheckOverride(s, check, Override{Item: c.item, Reason: c.reason, At: later}); err == nil ||
			!strings.Contains(err.Error(), c.want) {
			t.Errorf("%+v: %v", c, err)
		}
	}
	o := Override{Item: "satellites", Reason: "height hold only today", By: "Ettore", At: later}
	if err := tpl.CheckOverride(s, check, o); err != nil {
		t.Fatal(err)
	}
	check.Overrides = append(check.Overrides, o)
	r := tpl.Judge(s, check, Last{})
	if len(r.Blocking) != 1 || r.Blocking[0].Key != "people" || r.Clear {
		t.Errorf("blocked by %+v", r.Blocking)
	}
	// Another answer asks anew.
	check.Answers = append(check.Answers, Answer{Item: "satellites", Value: "5", At: later.Add(time.Minute)})
	if r := tpl.Judge(s, check, Last{}); len(r.Blocking) != 2 {
		t.Errorf("an old override holds for a new answer: %+v", r.Blocking)
	}
}

func TestPowerOnOrder(t *testing.T) {
	tpl, s := Shipped(), situation("gheppio")
	s.Goggles = true
	err := tpl.CheckAnswer(s, Check{}, Answer{Item: "craft-on", Value: "yes", At: now})
	if err == nil || !strings.Contains(err.Error(), "Radio on") {
		t.Errorf("the craft before the radio: %v", err)
	}
	c := Check{Answers: []Answer{{Item: "radio-on", Value: "yes", At: now}}}
	if err := tpl.CheckAnswer(s, c, Answer{Item: "craft-on", Value: "yes", At: now}); err == nil ||
		!strings.Contains(err.Error(), "Goggles on") {
		t.Errorf("the craft before the goggles: %v", err)
	}
	c.Answers = append(c.Answers, Answer{Item: "goggles-on", Value: "yes", At: now.Add(1)}, Answer{Item: "craft-on",
		Value: "yes", At: now.Add(2)})
	// The radio was switched off and on again after the craft.
	c.Answers = append(c.Answers, Answer{Item: "radio-on", Value: "yes", At: now.Add(3)})
	r := tpl.Judge(s, c, Last{})
	if len(r.Blocking) == 0 || !strings.Contains(r.Blocking[0].Next, "begin with the radio") {
		t.Errorf("%+v", r.Blocking)
	}
	if err := tpl.CheckAnswer(s, c, Answer{Item: "listen", Value: "yes", At: now}); err == nil ||
		!strings.Contains(err.Error(), "not clear to fly") {
		t.Errorf("an answer from the air: %v", err)
	}
	for _, bad := range []Answer{{Item: "people", Value: "maybe"}, {Item: "cells", Value: "21"},
		{Item: "cells", Value: "4.2 4.2 4.2 5.2"}, {Item: "cells", Value: ""}, {Item: "satellites",
			Value: "9"}, {Item: "airspace", Value: strings.Repeat("x", 121)}} {
		if tpl.CheckAnswer(s, Check{}, bad) == nil {
			t.Errorf("%+v was accepted", bad)
		}
	}
}

func TestWhatChangedSinceTheLastCheck(t *testing.T) {
	tpl, s := Shipped(), situation("poiana")
	was := good(s, ReadyStage)
	last := Last{Answers: was.Answers, Facts: s.Facts(was)}
	if r := tpl.Judge(s, was, last); len(r.Changed) != 0 {
		t.Errorf("nothing changed and it says %+v", r.Changed)
	}
	s.Site, s.Pack.Name = "dune", "P7"
	check := good(s, ReadyStage)
	for i := range check.Answers {
		if check.Answers[i].Item == "return-height" {
			check.Answers[i].Value = "50"
		}
	}
	r := tpl.Judge(s, check, last)
	var said []string
	for _, c := range r.Changed {
		said = append(said, c.What+": "+c.Was+" → "+c.Is)
	}
	if got := strings.Join(said, "; "); got != "pack: P1 → P7; return height set: 30 → 50; site: pan → dune" {
		t.Error(got)
	}
	for _, l := range tpl.Judge(s, Check{}, last).Lines {
		if l.Key == "return-height" && l.Offer != "30" || l.Key == "satellites" && l.Offer != "" {
			t.Errorf("%s offers %q", l.Key, l.Offer)
		}
	}
}

func TestCompassPolicies(t *testing.T) {
	here := &field.Geo{LatDeg: 45.2, LonDeg: 12.3}
	clean := func(hours float64) *craft.Calibration {
		return &craft.Calibration{At: now.Add(-time.Duration(hours * float64(time.Hour))), Clean: true, Site: "pan",
			Where: here}
	}
	moved := Policy{WhenMoved, 50, 30}
	for _, c := range []struct {
		name  string
		p     Policy
		clean *craft.Calibration
		where *field.Geo
		site  string
		asks  bool
		want  bool
	}{
		{"every day, this morning", Policy{Kind: EveryDay}, clean(1), here, "pan", false, false},
		{"every day, last night", Policy{Kind: EveryDay}, clean(10), here, "pan", false, true},
		{"asked, never recorded", Policy{Kind: WhenAsked}, nil, here, "pan", false, true},
		{"asked, quiet", Policy{Kind: WhenAsked}, clean(1), here, "pan", false, false},
		{"asked, asks", Policy{Kind: WhenAsked}, clean(1), here, "pan", true, true},
		{"moved, never", moved, nil, here, "pan", false, true},
		{"moved, near", moved, clean(300), &field.Geo{LatDeg: 45.6, LonDeg: 12.3}, "dune", false, false},
		{"moved, far", moved, clean(3), &field.Geo{LatDeg: 45.7, LonDeg: 12.3}, "dune", false, true},
		{"moved, long ago", moved, clean(31 * 24), here, "pan", false, true},
		{"moved, unknown place, same site", moved, clean(3), nil, "pan", false, false},
		{"moved, unknown place, other site", moved, clean(3), nil, "dune", false, true},
	} {
		if got, why := c.p.Needs(c.clean, now, time.UTC, c.where, c.site, c.asks); got != c.want || why == "" {
			t.Errorf("%s: %v, %q", c.name, got, why)
		}
	}
	// A degree of latitude on the mean sphere is π/180 · 6371.0088 = 111.195 km.
	if d := Distance(field.Geo{LatDeg: 45}, field.Geo{LatDeg: 46}); math.Abs(d-111195) > 1 {
		t.Errorf("a degree is %.0f m", d)
	}
	if d := Distance(field.Geo{LatDeg: 0, LonDeg: 179.5}, field.Geo{LatDeg: 0, LonDeg: -179.5}); math.Abs(d-111195) > 1 {
		t.Errorf("a degree across the date line is %.0f m", d)
	}
	for _, p := range []Policy{{Kind: "never"}, {WhenMoved, 0, 30}, {WhenMoved, 50, 0}} {
		if p.Check() == nil {
			t.Errorf("%+v was accepted", p)
		}
	}
	for _, m := range CalibrationMethods {
		if len(Calibration(m)) != 5 {
			t.Errorf("%s has %d steps", m, len(Calibration(m)))
		}
	}
}

func TestPilotWind(t *testing.T) {
	for _, c := range []struct {
		limit, best float64
		first       bool
		want        float64
	}{{10, 8, true, 5}, {10, 0, false, 5}, {10, 4, false, 6}, {10, 9, false, 10}} {
		if got := PilotWind(c.limit, c.best, c.first); got != c.want {
			t.Errorf("%+v: %v", c, got)
		}
	}
}

func TestTemplateRefuses(t *testing.T) {
	text := string(shipped)
	for _, c := range []struct{ from, to, want string }{
		{"rule: wind", "rule: weather", "rule"},
		{"stage: ground", "stage: moon", "stage"},
		{"key: proven", "key: craft-fit", "stands here twice"},
		{"key: tail\n    stage: ready", "key: tail\n    stage: ground", "an earlier stage"},
		{"ask: computed\n    rule: proven", "ask: computed", "computed by no rule"},
		{"needs: [guards]", "needs: [wheels]", "needs"},
		{"high: 60", "high: 0", "low under high"},
	} {
		if _, err := Parse([]byte(strings.Replace(text, c.from, c.to, 1))); err == nil || !strings.Contains(err.Error(),
			c.want) {
			t.Errorf("%q: %v", c.to, err)
		}
	}
}

func TestReadCells(t *testing.T) {
	for text, want := range map[string][]float64{
		"4.19 4.20 4.18": {4.19, 4.20, 4.18}, "4,19 4,20": {4.19, 4.20}, "4,19/4,2": {4.19, 4.2}, "4.19;4.2": {4.19,
			4.2}, "4.19,4.20,4.18": {4.19, 4.20, 4.18},
		"4.19, 4.20, 4.18": {4.19, 4.20, 4.18}, "4.2": {4.2}, "": nil, "full": nil, "4,19,4,20": nil, "4.19 volts": nil,
	} {
		got, err := ReadCells(text)
		if !slices.Equal(got, want) || (err == nil) != (want != nil) {
			t.Errorf("%q: %v, %v; expected %v", text, got, err, want)
		}
	}
}

func FuzzReadCells(f *testing.F) {
	f.Add("4.19 4,20/4.18")
	f.Fuzz(func(t *testing.T, text string) {
		if v, err := ReadCells(text); (err == nil) != (len(v) > 0) {
			t.Errorf("%q: %v, %v", text, v, err)
		}
	})
}

func TestCautionsBelongToTheFlight(t *testing.T) {
	has := func(s Situation, word string) bool { return strings.Contains(strings.Join(Cautions(s), "\n"), word) }
	plain := situation("poiana")
	if c := Cautions(plain); len(c) != 0 {
		t.Errorf("by day, outdoors, in a light wind: %q", c)
	}
	low, down := 3.0, -8.0
	for word, change := range map[string]func(*Situation){
		"no satellites":     func(s *Situation) { s.Indoors = true },
		"without a spotter": func(s *Situation) { s.Goggles = true },
		"stands 3° high":    func(s *Situation) { s.SunDeg = &low },
		"The sun is down":   func(s *Situation) { s.SunDeg = &down },
		"limit of 9.0":      func(s *Situation) { s.Wind.Mean = 8 },
		"a rest":            func(s *Situation) { s.First = true },
	} {
		s := situation("poiana")
		change(&s)
		if !has(s, word) {
			t.Errorf("%q is missing: %q", word, Cautions(s))
		}
	}
	hobby := situation("gheppio")
	hobby.Indoors = true
	if has(hobby, "satellites") {
		t.Error("a craft without position hold is warned of losing it")
	}
}

// A template that is read can be judged, whatever it asks.
func FuzzParse(f *testing.F) {
	f.Add(shipped)
	f.Add([]byte("format: maestrale-check/1\nitems:\n  - {key: a, stage: ground, title: A, ask: \"yes\", why: w, do: " +
		"d}\n"))
	s := situation("poiana")
	f.Fuzz(func(t *testing.T, data []byte) {
		tpl, err := Parse(data)
		if err != nil {
			return
		}
		r := tpl.Judge(s, Check{}, Last{})
		if r.Clear && r.Open > 0 {
			t.Errorf("clear with %d to answer", r.Open)
		}
		for _, it := range tpl {
			_ = tpl.CheckAnswer(s, Check{}, Answer{Item: it.Key, Value: "yes"})
		}
	})
}

func TestAMorningsCheckDoesNotGoOn(t *testing.T) {
	if !GoesOn(0) || !GoesOn(openFor-time.Second) || GoesOn(openFor) || GoesOn(24*time.Hour) {
		t.Error("a check is gone on with for three hours, no longer")
	}
}
