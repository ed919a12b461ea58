package trace_test

import (
	"encoding/json"
	"math"
	"math/rand/v2"
	"reflect"
	"strings"
	"testing"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/core/flight"
	"maestrale/core/flight/trace"
	"maestrale/core/rig"
)

var spec = trace.Spec{Craft: "poiana", Drill: "hover-tail-in", Side: "none", Level: 1, Aids: "position-hold",
	WindMps: 3, WindFromDeg: 180, Gusts: "light", Seed: 77}

func config(t testing.TB, s trace.Spec) flight.Config {
	t.Helper()
	laid, _ := course.Lay("box", craft.Light)
	laid.Hazards = []course.Hazard{{Kind: "wire", Name: "the “low” wire", At: []field.Point{{X: -30, Y: 60},
		{X: 30, Y: 60}}, HeightM: 6}, {Kind: "tree", At: []field.Point{{X: 40, Y: 50}}, HeightM: 9}}
	c, err := rig.Config(s, craft.Shipped()[s.Craft], laid)
	if err != nil {
		t.Fatal(err)
	}
	return c
}

// recorded flies sticks of chance, as a browser would, on a configuration that
// has gone over the wire.
func recorded(t testing.TB, s trace.Spec, seconds int) (string, flight.Outcome) {
	t.Helper()
	cfg := config(t, s)
	numbers, names := trace.Flatten(&cfg)
	data, err := json.Marshal(map[string]any{"numbers": numbers, "names": names})
	if err != nil {
		t.Fatal(err)
	}
	var over struct {
		Numbers []float64
		Names   []string
	}
	if err := json.Unmarshal(data, &over); err != nil {
		t.Fatal(err)
	}
	if cfg, err = trace.Unflatten(over.Numbers, over.Names); err != nil {
		t.Fatal(err)
	}
	f, err := flight.New(cfg)
	if err != nil {
		t.Fatal(err)
	}
	rec := trace.Record(f)
	r := rand.New(rand.NewPCG(uint64(s.Seed), 9))
	throttle, yaw, pitch, roll := -1.0, 0.0, 0.0, 0.0
	for i := range seconds * 100 {
		switch {
		case i == 50:
			if err := rec.Event("arm", ""); err != nil {
				t.Fatal(err)
			}
		case i == 100:
			throttle = 0.7
		case i == 300:
			if err := rec.Event("gust=6", "Livia “the chief” \x00"); err != nil {
				t.Fatal(err)
			}
		case i > 200 && i%37 == 0:
			throttle, yaw, pitch, roll = 0.2*r.NormFloat64(), 0.3*r.NormFloat64(), 0.2*r.NormFloat64(), 0.2*r.NormFloat64()
		}
		if !rec.Reading(throttle, yaw, pitch, roll, 0, int(cfg.Aids), i/400%3) {
			break
		}
	}
	return rec.JSON(s, true), rec.Close()
}

// What a browser flew and sent is flown again to the same hash.
func TestARunIsFlownAgain(t *testing.T) {
	for _, key := range []string{"poiana", "airone", "gheppio"} {
		s := spec
		s.Craft, s.Aids = key, string(craft.Shipped()[key].Aids[0])
		text, outcome := recorded(t, s, 20)
		tr, err := trace.Read(strings.NewReader(text))
		if err != nil {
			t.Fatalf("%v\n%s", err, text)
		}
		if tr.Spec != s || !tr.Zoom || tr.Events[1].By != "Livia “the chief” " {
			t.Errorf("%+v", tr)
		}
		f, err := flight.New(config(t, tr.Spec))
		if err != nil {
			t.Fatal(err)
		}
		n := 0
		again := tr.Fly(f, func(flight.Sample) { n++ })
		if again.Hash != tr.Hash || again.Hash != outcome.Hash || again.Ended != outcome.Ended ||
			again.Ticks != outcome.Ticks || n < 10 {
			t.Errorf("%s: flown again it is %+v and was %+v", key, again, outcome)
		}
		// Anything else gives another hash.
		for what, change := range map[string]func(*trace.Trace){
			"a stick": func(t *trace.Trace) { t.Rows[len(t.Rows)/2][3] ^= 1 },
			"a gust":  func(t *trace.Trace) { t.Events = t.Events[:1] },
			"a seed":  func(t *trace.Trace) { t.Seed++ },
			"the end": func(t *trace.Trace) { t.Readings -= 60 },
			"wind":    func(t *trace.Trace) { t.WindMps += 0.001 },
		} {
			other, err := trace.Read(strings.NewReader(text))
			if err != nil {
				t.Fatal(err)
			}
			change(other)
			f, err := flight.New(config(t, other.Spec))
			if err != nil {
				t.Fatal(err)
			}
			if other.Fly(f, nil).Hash == tr.Hash {
				t.Errorf("%s: with %s changed it is the same flight", key, what)
			}
		}
	}
}

func TestReadRefuses(t *testing.T) {
	good, _ := recorded(t, spec, 3)
	for _, c := range []struct{ from, to, want string }{
		{`"maestrale-run/1"`, `"maestrale-run/9"`, "expected maestrale-run/1"},
		{`"readings":300`, `"readings":0`, "expected 1 to 90000"},
		{`"readings":300`, `"readings":99999999`, "which are 900 s"},
		{`"rows":[[0,-1000,`, `"rows":[[0,-1001,`, "row 1: throttle is -1001; expected -1000 to 1000"},
		{`"rows":[[0,`, `"rows":[[5,`, "do not begin at the first reading"},
		{`"event":"arm"`, `"event":"explode"`, `event 1: the event "explode"`},
		{`"reading":50`, `"reading":5000`, "event 1 is at reading 5000"},
		{`"state_sha256":"`, `"state_sha256":"a`, "expected 64"},
		{`{"format"`, `["format"`, "could not be read"},
		{`,0,0]`, `,9,0]`, "ones that are known"},
	} {
		text := strings.Replace(good, c.from, c.to, 1)
		if text == good {
			t.Fatalf("%s is not in %.200s", c.from, good)
		}
		if _, err := trace.Read(strings.NewReader(text)); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s: %v; expected %q", c.to, err, c.want)
		}
	}
	if _, err := trace.Read(strings.NewReader(strings.Repeat(" ", trace.MaxBytes+9))); err == nil ||
		!strings.Contains(err.Error(), "larger than 4 MB") {
		t.Errorf("%v", err)
	}
}

// A configuration goes over the wire whole, and a wire of another length is refused.
func TestTheWire(t *testing.T) {
	for _, key := range craft.Shipped().Keys() {
		s := spec
		s.Craft, s.Aids = key, string(craft.Shipped()[key].Aids[0])
		c := config(t, s)
		c.Craft.Limits[flight.SelfLevel].Gains = flight.Gains{Place: 1, Speed: 2, Lean: 3, Rate: 4, Height: 5, Climb: 6}
		numbers, names := trace.Flatten(&c)
		back, err := trace.Unflatten(numbers, names)
		if err != nil || !reflect.DeepEqual(back, c) {
			t.Errorf("%s: %v\n%+v\n%+v", key, err, back, c)
		}
		for _, n := range [][]float64{numbers[:len(numbers)-1], append(append([]float64{}, numbers...), 1), nil} {
			if _, err := trace.Unflatten(n, names); err == nil {
				t.Error("a wire of another length is read")
			}
		}
		if _, err := trace.Unflatten(numbers, names[:1]); err == nil {
			t.Error("names are missing")
		}
	}
}

func TestQuantised(t *testing.T) {
	for v, want := range map[float64]int{0: 0, 1: 1000, -1: -1000, 0.5004: 500, -0.0006: -1, 2: 1000, -7: -1000,
		math.Inf(1): 1000} {
		if got := trace.Quantised(v); got != want {
			t.Errorf("%v: %d; expected %d", v, got, want)
		}
	}
	if trace.Quantised(math.NaN()) != 0 {
		t.Error("NaN moves a stick")
	}
}

func FuzzRead(f *testing.F) {
	good, _ := recorded(f, spec, 2)
	f.Add(good)
	f.Add(`{"format":"maestrale-run/1","readings":2,"rows":[[0,0,0,0,0,0,0,0]],"state_sha256":""}`)
	cfg := config(f, spec)
	f.Fuzz(func(t *testing.T, text string) {
		tr, err := trace.Read(strings.NewReader(text))
		if err != nil {
			return
		}
		tr.Readings = min(tr.Readings, 200)
		fl, err := flight.New(cfg)
		if err != nil {
			t.Fatal(err)
		}
		tr.Fly(fl, nil) // what is read can be flown
	})
}

// BenchmarkFlyAgain3min is what the server does for a run of three minutes.
func BenchmarkFlyAgain3min(b *testing.B) {
	text, _ := recorded(b, spec, 180)
	tr, err := trace.Read(strings.NewReader(text))
	if err != nil || tr.Readings != 18_000 {
		b.Fatal(err, tr.Readings)
	}
	cfg := config(b, spec)
	for b.Loop() {
		f, err := flight.New(cfg)
		if err != nil {
			b.Fatal(err)
		}
		if tr.Fly(f, nil).Hash != tr.Hash {
			b.Fatal("another flight")
		}
	}
}
