package craft

import (
	"math"
	"math/rand/v2"
	"reflect"
	"strings"
	"testing"
	"time"
)

func at(day int) time.Time { return time.Date(2026, 3, day, 10, 0, 0, 0, time.UTC) }

// writtenAndRead fails where a type is not the same after it was written and read.
func writtenAndRead(t *testing.T, what string, c Type) {
	t.Helper()
	data, err := c.YAML()
	if err != nil {
		t.Fatal(err)
	}
	if back, err := Parse(data); err != nil || !reflect.DeepEqual(back, c) {
		t.Errorf("%s: %v\n%+v\n%+v\n%s", what, err, back, c, data)
	}
}

func TestShippedTypesWriteAndRead(t *testing.T) {
	for key, c := range Shipped() {
		writtenAndRead(t, key, c)
		spins := 0
		for _, r := range c.Rotors {
			if r.Spin == Clockwise {
				spins++
			}
		}
		if spins*2 != len(c.Rotors) {
			t.Errorf("%s turns by itself: %d of %d rotors clockwise", key, spins, len(c.Rotors))
		}
		for i, r := range c.Rotors { // neighbours turn against each other
			if next := c.Rotors[(i+1)%len(c.Rotors)]; next.Spin == r.Spin {
				t.Errorf("%s: rotors %d and %d turn the same way", key, i+1, i+2)
			}
		}
	}
}

func TestParseRefusesWhatCannotBe(t *testing.T) {
	data, _ := Shipped()["poiana"].YAML()
	for _, c := range []struct{ from, to, want string }{
		{"span_m: 0.36", "span_m: 0.5", "0.360 m apart at most and the span is 0.500"},
		{"spin: ccw", "spin: up", "cw, ccw"},
		{"chemistry: lihv", "chemistry: lead", "lipo, lihv, li-ion"},
		{"height-hold:", "rate:", "which the craft does not have"},
		{"obstacle: [front, rear]", "obstacle: [below]", "front"},
		{"figure_of_merit: 0.62", "figure_of_merit: 1.2", "0.1 to 0.95"},
		{"inertia_kgm2: [0.0075, ", "inertia_kgm2: [", "roll, pitch, yaw"},
	} {
		if _, err := Parse([]byte(strings.Replace(string(data), c.from, c.to, 1))); err == nil ||
			!strings.Contains(err.Error(), c.want) {
			t.Errorf("%q: %v", c.to, err)
		}
	}
}

// Gains are kept with the limits of the aids that they are for.
func TestGainsWriteAndRead(t *testing.T) {
	c := Shipped()["poiana"]
	l := c.Limits[PositionHold]
	l.Gains = Gains{Place: 0.6, Rate: 24}
	c.Limits[PositionHold] = l
	writtenAndRead(t, "with gains", c)
	data, err := c.YAML()
	if err != nil {
		t.Fatal(err)
	}
	for _, bad := range []string{"rate_per_s: 2400", "rate_per_s: -1", "rate: 24"} {
		if _, err := Parse([]byte(strings.Replace(string(data), "rate_per_s: 24", bad, 1))); err == nil {
			t.Errorf("%s is read", bad)
		}
	}
}

func TestStateOfTheLog(t *testing.T) {
	for _, c := range []struct {
		name          string
		log           []Event
		grounded, why string
		prove         string
	}{
		{"new", nil, "no", "", ""},
		{"scratched", []Event{{At: at(1), Kind: Incident, Crash: true}}, "no", "", ""},
		{"broken", []Event{{At: at(1), Kind: Incident, Crash: true, Damage: true, Cause: "landing"}}, "yes", "landing", ""},
		{"mended", []Event{{At: at(1), Kind: Incident, Damage: true}, {At: at(2), Kind: Repair, Says: "new arm"}}, "no", "",
			"new arm"},
		{"proven", []Event{{At: at(2), Kind: Repair}, {At: at(3), Kind: Proving, Passed: true}}, "no", "", ""},
		{"not proven", []Event{{At: at(2), Kind: Repair}, {At: at(3), Kind: Proving, Says: "drifts"}}, "yes", "drifts",
			"not passed"},
		{"firmware", []Event{{At: at(1), Kind: Firmware, Version: "2.0"}}, "no", "", "new firmware 2.0"},
		{"firmware after proving", []Event{{At: at(1), Kind: Proving, Passed: true}, {At: at(2), Kind: Firmware,
			Version: "2.0"}}, "no", "", "2.0"},
		{"compass once", []Event{{At: at(1), Kind: Compass}}, "no", "", ""},
		{"compass twice", []Event{{At: at(1), Kind: Compass}, {At: at(2), Kind: Compass}}, "yes", "twice", ""},
		{"compass clean at last", []Event{{At: at(1), Kind: Compass}, {At: at(2), Kind: Compass}, {At: at(3), Kind: Compass,
			Clean: true}}, "no", "", ""},
		{"a clean compass mends no arm", []Event{{At: at(1), Kind: Incident, Damage: true, Says: "arm"},
			{At: at(2), Kind: Compass}, {At: at(3), Kind: Compass}, {At: at(4), Kind: Compass, Clean: true}}, "yes", "arm", ""},
		{"grounded and released", []Event{{At: at(1), Kind: Ground, Says: "waits"}, {At: at(2), Kind: Release}}, "no", "",
			""},
	} {
		rand.New(rand.NewPCG(1, 4)).Shuffle(len(c.log), func(i, j int) { c.log[i], c.log[j] = c.log[j], c.log[i] })
		s := StateOf(c.log)
		if s.Grounded != (c.grounded == "yes") || !strings.Contains(s.Why, c.why) || !strings.Contains(s.ToProve, c.prove) ||
			(c.prove == "") != (s.ToProve == "") {
			t.Errorf("%s: %+v", c.name, s)
		}
	}
}

func TestMountFaults(t *testing.T) {
	c := Shipped()["airone"]
	if f := c.MountFaults(c.RightMounts()); f != nil {
		t.Errorf("the right set: %v", f)
	}
	swapped := c.RightMounts()
	swapped[0].For, swapped[1].For = swapped[1].For, swapped[0].For
	swapped[3].Chipped = true
	f := c.MountFaults(append(swapped[:5:5], Mount{Motor: 9}))
	if len(f) != 5 || !strings.Contains(strings.Join(f, "; "), "motor 4 (rear left) is chipped") ||
		!strings.Contains(strings.Join(f, "; "), "motor 6 (front left) has no propeller") {
		t.Errorf("%q", f)
	}
	if !strings.Contains(ThreadOf(Clockwise), "left-hand") || !strings.Contains(ThreadOf(CounterClockwise), "right-hand") {
		t.Error("a thread that the motor loosens")
	}
}

func TestProving(t *testing.T) {
	for _, c := range []struct {
		drift, hover, before float64
		sound, want          bool
	}{{0.3, 50, 48, true, true}, {0.6, 50, 48, true, false}, {0.3, 55, 48, true, false}, {0.3, 55, 0, true, true}, {0.3,
		50, 48, false, false}} {
		if ok, why := Proved(c.drift, HandsOffM(true, 5), c.hover, c.before, c.sound); ok != c.want || ok != (why == "") {
			t.Errorf("%+v: %v %q", c, ok, why)
		}
	}
}

// With one part that each crash takes exactly on average m of, the advice is the quantile
// of the compound distribution; a simulation of days agrees.
func TestSparesAgainstSimulatedDays(t *testing.T) {
	parts := []Part{{"propeller", "propeller", 1.6}, {"arm", "arm", 0.2}}
	seen := Seen{Flights: 180, Crashes: 14, Used: map[string]int{"propeller": 25, "arm": 2}}
	a := Spares(parts, 0, seen, CrashPrior{5.0 / 3, 20}, map[string]int{"propeller": 1}, 24, 0.9)
	if a.Chance < 0.9 || a.AsItIs > 0.6 || a.Needs[0].Shelf != 1 {
		t.Fatalf("%+v", a)
	}
	r := rand.New(rand.NewPCG(2, 2))
	poisson := func(mean float64) int {
		n, p := 0, math.Exp(-mean)
		for u := r.Float64(); u > p; n++ {
			u -= p
			p *= mean / float64(n+1)
		}
		return n
	}
	gamma := func(shape float64) float64 { // Marsaglia and Tsang 2000
		d := shape - 1.0/3
		c := 1 / math.Sqrt(9*d)
		for {
			x := r.NormFloat64()
			v := math.Pow(1+c*x, 3)
			if v > 0 && math.Log(r.Float64()) < 0.5*x*x+d-d*v+d*math.Log(v) {
				return d * v
			}
		}
	}
	lasted, days := 0, 40000
	for range days {
		crashes := poisson(gamma(5.0/3+14) / (20 + 180) * 24)
		each := [2]float64{(1.6*4 + 25) / 18, (0.2*4 + 2) / 18}
		if poisson(float64(crashes)*each[0]) <= a.Needs[0].Bring && poisson(float64(crashes)*each[1]) <= a.Needs[1].Bring {
			lasted++
		}
	}
	if got := float64(lasted) / float64(days); math.Abs(got-a.Chance) > 0.01 {
		t.Errorf("%.3f of the days last, the advice says %.3f", got, a.Chance)
	}
	// One less of either and it is under nine tenths.
	for i := range a.Needs {
		have := map[string]int{}
		for j, n := range a.Needs {
			have[n.Key] = n.Bring
			if i == j {
				have[n.Key]--
			}
		}
		if b := Spares(parts, 0, seen, CrashPrior{5.0 / 3, 20}, have, 24, 0.9); a.Needs[i].Bring > 0 && b.AsItIs >= 0.9 {
			t.Errorf("one %s less still gives %.3f", a.Needs[i].Key, b.AsItIs)
		}
	}
}

func TestSparesEdges(t *testing.T) {
	c := Shipped()["gheppio"]
	none := Spares(c.Parts, 0, Seen{}, BeginnersPrior(c), nil, 0, 0.9)
	if none.Chance != 1 || none.Needs[0].Bring != 0 {
		t.Errorf("no flights: %+v", none)
	}
	few, many := Spares(c.Parts, 0, Seen{}, BeginnersPrior(c), nil, 6, 0.9), Spares(c.Parts, 0, Seen{}, BeginnersPrior(c),
		nil,
		60, 0.9)
	if few.Needs[0].Bring >= many.Needs[0].Bring {
		t.Errorf("%d for six flights, %d for sixty", few.Needs[0].Bring, many.Needs[0].Bring)
	}
	if a := Spares(nil, 0, Seen{}, CrashPrior{1, 1}, nil, 5, 1); len(a.Needs) != 0 {
		t.Error("parts of a type that has none")
	}
	if a := Spares(c.Parts, 0, Seen{}, BeginnersPrior(c), nil, 5, 1); a.Chance < 0.999 {
		t.Errorf("asked for certainty: %v", a.Chance)
	}
}
