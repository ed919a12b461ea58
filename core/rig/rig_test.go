package rig

import (
	"bytes"
	"math"
	"slices"
	"strings"
	"testing"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/flight"
	"maestrale/core/flight/trace"
	"maestrale/core/pack"
	"maestrale/core/score"
	"maestrale/core/track"
)

// Every shipped type can be flown, and hovers on what the pack arithmetic says.
func TestShippedTypesCanBeFlown(t *testing.T) {
	for key, k := range craft.Shipped() {
		c, err := Craft(k)
		if err != nil {
			t.Fatal(err)
		}
		if len(c.Rotors) != len(k.Rotors) || c.Most().String() != string(k.Aids[0]) ||
			math.Abs(c.Curve[10]-pack.FullVolts(k.Battery.Chemistry)) > 1e-12 {
			t.Errorf("%s: %+v", key, c)
		}
		for i, r := range c.Rotors {
			if r.Clockwise != (k.Rotors[i].Spin == craft.Clockwise) {
				t.Errorf("%s: rotor %d spins the other way", key, i+1)
			}
		}
		f, err := flight.New(flight.Config{Craft: c, Aids: c.Most(), Airborne: true, Start: flight.Vec{Z: 50}, Still: true})
		if err != nil {
			t.Fatal(err)
		}
		l, err := pack.NewLifter(k, flight.SeaLevelDensity)
		if err != nil {
			t.Fatal(err)
		}
		f.Step(flight.Sticks{Aids: c.Most()})
		for range 3 { // near the trimmed hover, whatever the aids
			f.Step(flight.Sticks{Aids: c.Most()})
		}
		if got := f.State.Energy.Rotor / (4 * flight.Tick); c.Most() <= flight.HeightHold &&
			math.Abs(got/(l.IdealHover()/c.Merit)-1) > 0.05 {
			t.Errorf("%s: the rotors do %.1f W, momentum theory and the merit say %.1f", key, got, l.IdealHover()/c.Merit)
		}
	}
}

func TestCraftRefuses(t *testing.T) {
	for _, c := range []struct {
		change func(*craft.Type)
		want   string
	}{
		{func(k *craft.Type) { k.Battery = craft.Battery{} }, "no battery"},
		{func(k *craft.Type) { k.Limits = nil }, "no limits with position hold"},
		{func(k *craft.Type) { k.InertiaKgM2[2] = 0 }, "poiana: the craft's inertia about yaw"},
		{func(k *craft.Type) { k.Rotors = nil }, "0 rotors"},
		{func(k *craft.Type) { k.FullThrust = 0.8 }, "cannot lift itself"},
	} {
		k := craft.Shipped()["poiana"]
		c.change(&k)
		if _, err := Craft(k); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%v; expected %q", err, c.want)
		}
	}
	k := craft.Shipped()["poiana"]
	k.FullThrust = 0
	if c, err := Craft(k); err != nil || c.FullThrust != usualThrust {
		t.Errorf("a file that does not say its thrust: %v, %v", c.FullThrust, err)
	}
	if c, err := Craft(craft.Shipped()["gheppio"], craft.HeightHold); err != nil || !c.Limits[flight.HeightHold].Has {
		t.Errorf("fitted with height hold: %v", err)
	}
}

func TestSolids(t *testing.T) {
	p := func(x, y float64) field.Point { return field.Point{X: x, Y: y} }
	got := Solids(&course.Course{Hazards: []course.Hazard{
		{Kind: "tree", At: []field.Point{p(1, 2)}, HeightM: 10},
		{Kind: "tree", Name: "the row", At: []field.Point{p(0, 9), p(5, 9), p(9, 9)}, HeightM: 8},
		{Kind: "people", At: []field.Point{p(-4, 0)}},
		{Kind: "wire", At: []field.Point{p(0, 20), p(9, 20)}, HeightM: 6},
		{Kind: "wall", At: []field.Point{p(0, 0), p(1, 0), p(1, 1)}, Closed: true, HeightM: 3},
		{Kind: "water", At: []field.Point{p(-5, 30), p(2, 41), p(8, 35)}, Closed: true},
	}})
	if got[0].Name != "the pilot" || got[0].Height != personHeight {
		t.Errorf("the pilot is not solid: %+v", got[0])
	}
	got = got[1:]
	kinds := []flight.SolidKind{flight.Column, flight.Wall, flight.Wall, flight.Column, flight.Strand, flight.Wall,
		flight.Wall, flight.Wall, flight.Water}
	if !slices.EqualFunc(got, kinds, func(s flight.Solid, k flight.SolidKind) bool { return s.Kind == k }) {
		t.Fatalf("%+v", got)
	}
	if got[0].Radius != 2 || got[3].Height != personHeight || got[1].Name != "the row" {
		t.Errorf("%+v", got)
	}
	if w := got[8]; w.A != (flight.Vec{X: -5, Y: 30}) || w.B != (flight.Vec{X: 8, Y: 41}) {
		t.Errorf("the box round the water: %+v", w)
	}
	if last := got[7]; last.B != (flight.Vec{}) {
		t.Errorf("a ring does not close: %+v", last)
	}
}

// A recorded flight is written with every column of the field form and read back.
func TestRecorder(t *testing.T) {
	c, err := Craft(craft.Shipped()["airone"])
	if err != nil {
		t.Fatal(err)
	}
	f, err := flight.New(flight.Config{Craft: c, Airborne: true, Start: flight.Vec{Y: 9, Z: 3}, Wind: flight.Vec{X: 2}})
	if err != nil {
		t.Fatal(err)
	}
	r := NewRecorder(&c)
	rows := []flight.Row{{Sticks: flight.Sticks{Pitch: 0.3, Wheel: -1}}, {T: 2, Sticks: flight.Sticks{Frame: flight.Pilot},
		Events: []flight.Event{{Kind: flight.CallOut}}}}
	if _, err := f.Run(rows, 4, r.Add); err != nil {
		t.Fatal(err)
	}
	var b bytes.Buffer
	if err := track.WriteCSV(&b, &r.Track); err != nil {
		t.Fatal(err)
	}
	head, _, _ := strings.Cut(b.String(), "\n")
	for _, name := range []string{"gimbal_deg", "aids", "frame", "armed", "pack_v", "call", "accuracy_m", "rotor6_rps"} {
		if !strings.Contains(","+head+",", ","+name+",") {
			t.Errorf("%s is not in %s", name, head)
		}
	}
	back, notes, err := track.ReadCSV(&b, track.CSVOptions{})
	if err != nil || len(notes) > 0 || back.Len() != 201 || len(back.Calls) != 1 || back.Calls[0].T != 2 ||
		back.Frame[150] != "pilot" || back.Aids[0] != "position-hold" {
		t.Errorf("%v, %v, %d samples, %+v", err, notes, back.Len(), back.Calls)
	}
	if d := back.GimbalTilt[100].Deg(); d > -85 {
		t.Errorf("the gimbal is at %v°", d)
	}
}

// A run of a drill is flown again and judged; one that claims another drill is not
// the same flight, and one that names what is not known says what.
func TestAgain(t *testing.T) {
	cat := drill.Shipped()
	spec := trace.Spec{Craft: "poiana", Drill: "hover-tail-in", Side: "none", Level: 1, Aids: "position-hold", WindMps: 3,
		WindFromDeg: 180, Gusts: "light", Seed: 8}
	setup, err := SetUp(spec, cat, nil)
	if err != nil || setup.Task == nil || setup.Course == nil {
		t.Fatalf("%+v, %v", setup, err)
	}
	f, err := flight.New(setup.Config)
	if err != nil {
		t.Fatal(err)
	}
	rec := trace.Record(f)
	if err := rec.Event("arm", ""); err != nil {
		t.Fatal(err)
	}
	for i := range 2500 {
		throttle := -1.0
		if i > 100 {
			throttle = 1 // up and away
		}
		rec.Reading(throttle, 0, 0, 0, 0, int(setup.Config.Aids), 0)
	}
	tr, err := trace.Read(strings.NewReader(rec.JSON(spec, false)))
	if err != nil {
		t.Fatal(err)
	}
	r, err := Replay(tr, cat, nil)
	if err != nil || r.Result == nil || r.Result.Verdict != score.Incomplete || r.Result.Source != score.Sim ||
		r.Outcome.Ended != "airborne" {
		t.Errorf("%+v, %v", r.Result, err)
	}
	if file, err := r.CSV(); err != nil || !bytes.HasPrefix(file, []byte("t_s,")) {
		t.Errorf("its log begins %.20q, %v", file, err)
	}
	for what, c := range map[string]struct {
		change func(*trace.Trace)
		want   string
	}{
		"another drill":   {func(t *trace.Trace) { t.Drill, t.Side = "yaw-quarter", "left" }, "in another state"},
		"no drill at all": {func(t *trace.Trace) { t.Drill = "" }, "in another state"},
		"unknown drill":   {func(t *trace.Trace) { t.Drill = "moon" }, "moon"},
		"unknown craft":   {func(t *trace.Trace) { t.Craft = "falco" }, `craft "falco" is not known`},
		"no such level":   {func(t *trace.Trace) { t.Level = 9 }, "no level 9"},
		"a storm":         {func(t *trace.Trace) { t.WindMps = 40 }, "expected 0 to 15"},
		"other aids":      {func(t *trace.Trace) { t.Aids = "rate" }, "expected ones that the Poiana has"},
	} {
		other := *tr
		c.change(&other)
		if _, err := Replay(&other, cat, nil); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s: %v; expected %q", what, err, c.want)
		}
	}
	if v, err := LandVolts(craft.Shipped()["poiana"], flight.SeaLevelDensity); err != nil || v < 4*3.4 || v > 4*3.8 {
		t.Errorf("land at %v V, %v", v, err)
	}
}

// BenchmarkAgain is a run of three minutes in gusts flown again, scored, and its
// track written.
func BenchmarkAgain(b *testing.B) {
	cat := drill.Shipped()
	spec := trace.Spec{Craft: "poiana", Drill: "hover-tail-in", Side: "none", Level: 1, Aids: "position-hold", WindMps: 3,
		WindFromDeg: 180, Gusts: "moderate", Seed: 8}
	setup, err := SetUp(spec, cat, nil)
	if err != nil {
		b.Fatal(err)
	}
	f, err := flight.New(setup.Config)
	if err != nil {
		b.Fatal(err)
	}
	rec := trace.Record(f)
	_ = rec.Event("arm", "")
	for i := range 18000 {
		throttle := -1.0
		if i > 100 && i < 300 {
			throttle = 0.4
		} else if i >= 300 {
			throttle = 0
		}
		rec.Reading(throttle, 0.2*math.Sin(float64(i)/90), 0.1*math.Sin(float64(i)/50), 0, 0, int(setup.Config.Aids), 0)
	}
	tr, err := trace.Read(strings.NewReader(rec.JSON(spec, false)))
	if err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		if r, err := Replay(tr, cat, nil); err != nil || r.Result == nil {
			b.Fatal(err)
		}
	}
}
