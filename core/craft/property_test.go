package craft

import (
	"math"
	"math/rand/v2"
	"reflect"
	"strings"
	"testing"
	"time"
)

// anyLog is a log of chance, in order, with times that differ.
func anyLog(r *rand.Rand, n int) []Event {
	var log []Event
	when := at(1)
	for range n {
		when = when.Add(time.Duration(1+r.IntN(2000)) * time.Minute)
		e := Event{At: when, Kind: EventKinds[r.IntN(len(EventKinds))], Says: "x"}
		e.Damage, e.Crash, e.Clean, e.Passed = r.IntN(2) == 0, r.IntN(2) == 0, r.IntN(2) == 0, r.IntN(2) == 0
		if r.IntN(3) == 0 {
			e.Parts = map[string]int{"propeller": 1 + r.IntN(3)}
		}
		if e.Kind == Firmware {
			e.Version = "2." + string(rune('0'+r.IntN(10)))
		}
		log = append(log, e)
	}
	return log
}

// Whatever happened before, what an instructor does last decides: these hold for
// every log.
func TestWhatComesLastDecides(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 9))
	for range 2000 {
		log := anyLog(r, r.IntN(25))
		last := at(28).AddDate(1, 0, 0)
		after := func(more ...Event) State {
			next := append([]Event(nil), log...)
			for i, e := range more {
				e.At = last.Add(time.Duration(i) * time.Hour)
				next = append(next, e)
			}
			r.Shuffle(len(next), func(i, j int) { next[i], next[j] = next[j], next[i] })
			return StateOf(next)
		}
		before := StateOf(log)
		if s := after(); !reflect.DeepEqual(s, before) {
			t.Fatalf("the order in which a log is handed over matters: %+v, %+v", s, before)
		}
		if before.Grounded != (before.Why != "") {
			t.Fatalf("grounded without a reason, or a reason without: %+v", before)
		}
		if s := after(Event{Kind: Release}, Event{Kind: Proving, Passed: true}); s.Grounded || s.ToProve != "" {
			t.Fatalf("released and proven, and yet %+v", s)
		}
		if s := after(Event{Kind: Incident, Damage: true, Says: "arm off"}, Event{Kind: Proving,
			Passed: true}); !strings.Contains(s.Why, "arm off") {
			t.Fatalf("damaged and flown all the same: %+v", s)
		}
		if s := after(Event{Kind: Ground, Says: "the chief keeps it"}, Event{Kind: Repair}, Event{Kind: Compass, Clean: true},
			Event{Kind: Proving, Passed: true}); s.Why != "the chief keeps it" {
			t.Fatalf("a repair or a compass released what was taken out by hand: %+v", s)
		}
		for _, k := range []EventKind{Repair, NewParts, Firmware} {
			if s := after(Event{Kind: k, Version: "9"}); s.ToProve == "" {
				t.Fatalf("%s asks for no proving flight", k)
			}
		}
		if s := after(Event{Kind: Compass}, Event{Kind: Compass}); !strings.Contains(s.Why, "twice") || s.Unclean < 2 {
			t.Fatalf("twice not clean: %+v", s)
		}
		crashes, used := 0, 0
		for _, e := range log {
			if e.Kind == Incident && e.Crash {
				crashes++
			}
			used += e.Parts["propeller"]
		}
		if before.Crashes != crashes || before.Used["propeller"] != used {
			t.Fatalf("%d crashes and %d propellers; expected %d and %d", before.Crashes, before.Used["propeller"], crashes, used)
		}
	}
}

// The chances of a negative binomial against their closed form for whole shapes
// (the binomial coefficient) and against its mean, r (1 − p) / p.
func TestNegativeBinomialByHand(t *testing.T) {
	list := negativeBinomial(3, 0.4)
	for k, want := range []float64{0.064, 3 * 0.064 * 0.6, 6 * 0.064 * 0.36, 10 * 0.064 * 0.216} {
		if math.Abs(list[k]-want) > 2e-6 {
			t.Errorf("%d: %v; expected %v", k, list[k], want)
		}
	}
	r := rand.New(rand.NewPCG(5, 1))
	for range 200 {
		shape, p := 0.2+20*r.Float64(), 0.1+0.85*r.Float64()
		sum, mean := 0.0, 0.0
		for k, c := range negativeBinomial(shape, p) {
			sum += c
			mean += float64(k) * c
		}
		if want := shape * (1 - p) / p; math.Abs(sum-1) > 1e-9 || math.Abs(mean-want) > 1e-3*(1+want) {
			t.Errorf("shape %v, p %v: sum %v, mean %v; expected %v", shape, p, sum, mean, want)
		}
	}
}

// More flights, more crashes seen and more certainty never ask for less, and a
// fuller shelf never makes a day more likely to be lost.
func TestSparesAreMonotone(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 8))
	parts := Shipped()["gheppio"].Parts
	total := func(a Advice) (n int) {
		for _, x := range a.Needs {
			n += x.Bring
		}
		return n
	}
	prior := BeginnersPrior(Shipped()["gheppio"])
	for range 60 {
		seen := Seen{Flights: r.IntN(200), Crashes: r.IntN(12), Used: map[string]int{"propeller": r.IntN(20)}}
		flights, sure := 1+r.IntN(40), 0.5+0.45*r.Float64()
		a := Spares(parts, 0, seen, prior, nil, flights, sure)
		worse := seen
		worse.Crashes += 5
		worse.Used = map[string]int{"propeller": seen.Used["propeller"] + 10}
		for what, b := range map[string]Advice{
			"more flights":   Spares(parts, 0, seen, prior, nil, flights+20, sure),
			"more crashes":   Spares(parts, 0, worse, prior, nil, flights, sure),
			"more certainty": Spares(parts, 0, seen, prior, nil, flights, sure+0.04),
		} {
			if total(b) < total(a) {
				t.Errorf("%s: %d parts, without it %d (%+v, %d flights, %.2f)", what, total(b), total(a), seen, flights, sure)
			}
		}
		shelf := map[string]int{}
		was := 0.0
		for range 6 {
			b := Spares(parts, 0, seen, prior, shelf, flights, sure)
			if b.AsItIs < was-1e-12 {
				t.Errorf("a fuller shelf lasts less: %v after %v", b.AsItIs, was)
			}
			was = b.AsItIs
			shelf[parts[r.IntN(len(parts))].Key]++
		}
	}
}

// Every shipped craft stands on its rotors: their thrust axes balance about the
// middle and their spins cancel, as a craft that hovers without turning has to.
func TestRotorsBalance(t *testing.T) {
	for key, c := range Shipped() {
		x, y, spin := 0.0, 0.0, 0
		for _, r := range c.Rotors {
			sin, cos := math.Sincos(r.AngleDeg * math.Pi / 180)
			x, y = x+r.ArmM*sin, y+r.ArmM*cos
			if r.Spin == Clockwise {
				spin++
			} else {
				spin--
			}
		}
		if math.Hypot(x, y) > 1e-9*c.SpanM+1e-9 || spin != 0 {
			t.Errorf("%s: thrust acts %v, %v m off the middle, spins add up to %d", key, x, y, spin)
		}
	}
}

// Where a rotor sits, in words, by its arm.
func TestPlaceOfARotor(t *testing.T) {
	for deg, want := range map[float64]string{0: "front", 45: "front right", 90: "right", 135: "rear right", 180: "rear",
		225: "rear left", 270: "left", 315: "front left", 60: "front right", 300: "front left"} {
		if got := (Rotor{AngleDeg: deg}).Place(); got != want {
			t.Errorf("%v°: %q; expected %q", deg, got, want)
		}
	}
}

// What is read is written and read again as the same, whatever the file.
func FuzzParse(f *testing.F) {
	for _, c := range Shipped() {
		data, err := c.YAML()
		if err != nil {
			f.Fatal(err)
		}
		f.Add(data)
	}
	f.Add([]byte("format: maestrale-craft/1\nkey: x\ntitle: X\nspan_m: 0.2\nmass_kg: 1\naids: [rate]\n"))
	f.Fuzz(func(t *testing.T, data []byte) {
		c, err := Parse(data)
		if err != nil {
			return
		}
		writtenAndRead(t, "of chance", c)
	})
}
