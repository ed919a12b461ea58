package pack

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"maestrale/core/air"
	"maestrale/core/craft"
	"maestrale/core/field"
)

func near(t *testing.T, what string, got, want, tol float64) {
	t.Helper()
	if !(math.Abs(got-want) <= tol) {
		t.Errorf("%s: %.5g, want %.5g ± %.2g", what, got, want, tol)
	}
}

// Chen and Rincón-Mora 2006, eq. 2: a measured polymer lithium cell.
func TestLiPoCurveAgainstAMeasuredCell(t *testing.T) {
	for s := 0.1; s <= 1; s += 0.05 {
		want := -1.031*math.Exp(-35*s) + 3.685 + 0.2156*s - 0.1178*s*s + 0.3201*s*s*s
		near(t, "rest volts", RestVolts(craft.LiPo, s), want, 0.1)
	}
}

func TestCurvesRiseAndInvert(t *testing.T) {
	for _, c := range craft.Chemistries {
		last := 0.0
		for s := 0.0; s <= 1.0001; s += 0.01 {
			v := RestVolts(c, s)
			if v < last {
				t.Errorf("%s falls at %v", c, s)
			}
			last = v
			near(t, string(c)+" there and back", Charge(c, v), math.Min(s, 1), 1e-9)
		}
		if v := RestVolts(c, 1); v > FullVolts(c) || v < FullVolts(c)-0.02 {
			t.Errorf("%s is full at %v", c, v)
		}
	}
}

func TestImpossibleVolts(t *testing.T) {
	err := CheckVolts(craft.LiPo, 4, 21)
	if err == nil || !strings.Contains(err.Error(), "5.25 V a cell") || !strings.Contains(err.Error(), "0 to 16.9 V") ||
		!strings.Contains(err.Error(), "5 cells") {
		t.Errorf("21 V on 4 cells: %v", err)
	}
	for _, c := range []struct {
		chem  craft.Chemistry
		cells int
		volts float64
	}{{craft.LiPo, 4, -1}, {craft.LiPo, 4, math.NaN()}, {craft.LiPo, 0, 4}, {craft.LiPo, 25, 4}, {"lead", 4,
		12}, {craft.LiIon, 1, 4.3}} {
		if CheckVolts(c.chem, c.cells, c.volts) == nil {
			t.Errorf("%+v was accepted", c)
		}
	}
	if err := CheckVolts(craft.LiHV, 4, 17.4); err != nil {
		t.Errorf("a full LiHV pack: %v", err)
	}
	if _, _, err := CheckCells(craft.LiPo, []float64{4.1, 5}); err == nil || !strings.Contains(err.Error(), "cell 2") {
		t.Errorf("%v", err)
	}
}

// A worked hover: 1 kg on four rotors of 0.12 m radius at sea level. T = 9.80665 N,
// A = 4 π 0.0144 = 0.180956 m², v_h = √(9.80665 / (2 · 1.225 · 0.180956)) = 4.7032 m/s,
// P = 46.12 W; with a merit of 0.5 and 5 W of electronics 97.25 W.
func TestHoverByHand(t *testing.T) {
	l := Lifter{MassKg: 1, DiscM2: 4 * math.Pi * 0.12 * 0.12, Merit: 0.5, Electronics: 5, Density: air.SeaLevelDensity}
	near(t, "induced", l.HoverInduced(), 4.7032, 1e-3)
	near(t, "ideal", l.IdealHover(), 46.123, 0.01)
	near(t, "hover", l.Hover(), 97.25, 0.03)
	near(t, "level at 0", l.Level(0), l.Hover(), 1e-6)
	// Climbing at v_h the thrust moves the air at v_h (1/2 + √5/4 …) = 1.618 v_h.
	near(t, "climb", l.Climb(l.HoverInduced())-5, 1.6180*l.IdealHover()/0.5, 0.05)
	// Half the density asks √2 times the power.
	thin := l
	thin.Density /= 2
	near(t, "thin air", thin.IdealHover()/l.IdealHover(), math.Sqrt2, 1e-9)
}

// Glauert's equation: at high speed the induced velocity tends to v_h² / V; and
// at any speed it satisfies its own equation.
func TestInducedInForwardFlight(t *testing.T) {
	near(t, "fast", induced(5, 50, 0), 0.5, 0.001)
	near(t, "at rest", induced(5, 0, 0), 5, 1e-9)
	r := rand.New(rand.NewPCG(1, 2))
	for range 2000 {
		vh, v, a := 1+r.Float64()*9, r.Float64()*30, r.Float64()*0.8
		vi := induced(vh, v, a)
		near(t, "equation", vi*math.Hypot(v*math.Cos(a), v*math.Sin(a)+vi), vh*vh, 1e-6*vh*vh)
	}
}

func poiana(t *testing.T) (craft.Type, Lifter, Filling) {
	t.Helper()
	c := craft.Shipped()["poiana"]
	l, err := NewLifter(c, air.SeaLevelDensity)
	if err != nil {
		t.Fatal(err)
	}
	f, err := NewFilling(c.Battery, 0)
	if err != nil {
		t.Fatal(err)
	}
	return c, l, f
}

func TestShippedTypesLastAsCraftOfTheirSizeDo(t *testing.T) {
	for key, want := range map[string][2]float64{"rondine": {3, 7}, "gheppio": {7, 14}, "poiana": {22, 34},
		"airone": {22, 36}} {
		c := craft.Shipped()[key]
		l, err := NewLifter(c, air.SeaLevelDensity)
		if err != nil {
			t.Fatal(err)
		}
		f, _ := NewFilling(c.Battery, 0)
		if m := f.Seconds(l.Hover(), Reserve) / 60; m < want[0] || m > want[1] {
			t.Errorf("%s hovers %.1f min at %.0f W", key, m, l.Hover())
		}
		kT, kQ, err := c.Coefficients(air.SeaLevelDensity)
		omega := 2 * math.Pi * c.HoverRps
		if err != nil || math.Abs(kT*omega*omega*float64(len(c.Rotors))-c.MassKg*air.Gravity) > 1e-9 {
			t.Errorf("%s: the rotors lift %v N", key, kT*omega*omega*float64(len(c.Rotors)))
		}
		near(t, key+" shaft power", kQ*omega*omega*omega*float64(len(c.Rotors)), l.IdealHover()/c.FigureOfMerit, 1e-6)
	}
}

func TestMeasuredHoversCorrectTheMerit(t *testing.T) {
	_, l, _ := poiana(t)
	truth := l.Merit * 0.8
	watts := l.IdealHover()/truth + l.Electronics
	flight := Flown{UsedMah: watts / 15 * 1000 / 6, MeanVolts: 15, Minutes: 10}
	was := l.Merit
	for n, want := range map[int]float64{1: 0.86, 5: 0.815, 40: 0.803} {
		var list []Flown
		for range n {
			list = append(list, flight)
		}
		got, used := l.Corrected(list)
		if used != n || got.Merit/was > want+0.02 || got.Merit/was < 0.8 {
			t.Errorf("%d flights: %.3f of the type's merit", n, got.Merit/was)
		}
	}
	if got, used := l.Corrected([]Flown{{0, 15, 10}, {100, 15, 0}, {1, 15, 10}, {99999, 15, 1}}); used != 0 ||
		got.Merit != l.Merit {
		t.Errorf("nonsense was taken: %d, %v", used, got.Merit)
	}
}

// V = E − I R by hand: 16 V behind 0.1 Ω giving 150 W: I = (16 − √(256 − 60)) / 0.2 = 10 A, V = 15 V.
func TestSagByHand(t *testing.T) {
	f := Filling{Chemistry: craft.LiPo, Cells: 4, CapacityMah: 1000, OhmPerCell: 0.025, Charge: Charge(craft.LiPo, 4)}
	v, i, ok := f.Loaded(150)
	near(t, "amps", i, 10, 1e-9)
	near(t, "volts", v, 15, 1e-9)
	if _, _, can := f.Loaded(641); !ok || can { // E²/4R = 640 W
		t.Error("more than the pack can give")
	}
}

func TestEnduranceAndLanding(t *testing.T) {
	c, l, f := poiana(t)
	hover := l.Hover()
	full := f.Seconds(hover, Reserve)
	half := f
	half.Charge = 0.6
	near(t, "half of what is above the reserve", half.Seconds(hover, Reserve)/full, 0.5, 0.04)
	if f.Seconds(hover*1.2, Reserve) >= full || f.Seconds(hover, 0.3) >= full {
		t.Error("more power or more reserve lasts as long")
	}
	old := f
	old.OhmPerCell *= 8
	if old.Seconds(hover, Reserve) >= full {
		t.Error("a tired pack lasts as long as a new one")
	}
	land, rest := LandVolts(f, hover, Reserve)
	if !(land < rest && rest < 3.8 && land > EmptyVolts(c.Battery.Chemistry)) {
		t.Errorf("land at %.2f V under load, %.2f V at rest", land, rest)
	}
	if tired, _ := LandVolts(old, hover, Reserve); tired < EmptyVolts(c.Battery.Chemistry)-1e-9 {
		t.Errorf("a tired pack is landed at %.2f V", tired)
	}
	if n, err := Packs(60, 20); n != 4 || err != nil {
		t.Errorf("%d packs, %v", n, err)
	}
	if _, err := Packs(60, 0); err == nil {
		t.Error("packs that give nothing")
	}
}

func TestFarthestShrinks(t *testing.T) {
	_, l, f := poiana(t)
	trip := Trip{HeightM: 5, ReturnM: 30, WindMps: 0, SpeedMps: 10, ClimbMps: 4, DescendMps: 2, Reserve: Reserve}
	calm := Farthest(l, f, trip)
	near(t, "the same all round in calm air", calm.Ring[0], calm.Ring[18], 1e-6)
	trip.WindMps, trip.From = 6, field.Degrees(180) // from behind the pilot
	windy := Farthest(l, f, trip)
	if !(windy.WorstM < calm.WorstM) || math.Abs(windy.Toward.Compass()) > 1 {
		t.Errorf("%.0f m against the wind toward %.0f°, %.0f m in calm air", windy.WorstM, windy.Toward.Compass(),
			calm.WorstM)
	}
	near(t, "left and right alike", windy.Ring[9], windy.Ring[27], 1e-6)
	emptier := f
	emptier.Charge = 0.5
	if e := Farthest(l, emptier, trip); !(e.WorstM < windy.WorstM) {
		t.Error("an emptier pack goes as far")
	}
	trip.WindMps = 11
	if s := Farthest(l, f, trip); s.WorstM != 0 || s.CanFight {
		t.Errorf("against a wind that it cannot beat it comes home from %.0f m", s.WorstM)
	}
	trip.WindMps = 0
	nearly := f
	nearly.Charge = Reserve
	if e := Farthest(l, nearly, trip); e.WorstM != 0 {
		t.Errorf("with the reserve alone it comes home from %.0f m", e.WorstM)
	}
}

func TestWindFromLean(t *testing.T) {
	_, l, _ := poiana(t)
	for v := 0.5; v < 12; v += 0.5 {
		got, extra := l.WindFromLean(l.Lean(v))
		near(t, "wind", got, v, 1e-6)
		near(t, "extra", extra, l.Level(v)-l.Hover(), 1e-6)
	}
}

// With no resistance the current is held to the end, so the time is charge over
// current; with it, longer.
func TestChargingAndCooling(t *testing.T) {
	f := Filling{Chemistry: craft.LiPo, Cells: 4, CapacityMah: 2000, Charge: 0.2}
	c, err := ChargeTime(f, 1, 1)
	if err != nil {
		t.Fatal(err)
	}
	near(t, "minutes", c.Minutes, 48, 0.1)
	f.OhmPerCell = 0.02
	tail, _ := ChargeTime(f, 1, 1)
	if !(tail.Minutes > c.Minutes && tail.AtFullV < 1) {
		t.Errorf("with resistance %.1f min, held to %.2f", tail.Minutes, tail.AtFullV)
	}
	for _, bad := range [][2]float64{{1, 0}, {1, 11}, {0, 1}, {1.1, 1}} {
		if _, err := ChargeTime(f, bad[0], bad[1]); err == nil {
			t.Errorf("%v was accepted", bad)
		}
	}
	// Newton's law: from 55 to 30 in air of 20 takes τ ln 3.5.
	m, err := CoolMinutes(0.28, 55, 30, 20)
	if err != nil {
		t.Fatal(err)
	}
	near(t, "cooling", m, CoolSeconds(0.28)*math.Log(3.5)/60, 1e-9)
	if _, err := CoolMinutes(0.28, 55, 30, 31); err == nil {
		t.Error("it cools below the air")
	}
	if m, _ := CoolMinutes(0.28, 25, 30, 31); m != 0 {
		t.Error("a cool pack waits")
	}
	if w := WarmC(f, 0.28, 20, 10, 1e7); math.Abs(w-20-10*10*0.08*CoolSeconds(0.28)/280) > 1e-6 {
		t.Errorf("in the end %.1f °C", w)
	}
}

func TestPackStateAndRetireRules(t *testing.T) {
	r := Record{Name: "P1", Type: "poiana", Chemistry: craft.LiHV, Cells: 4, CapacityMah: 3800}
	day := func(n int) time.Time { return time.Date(2026, 3, n, 10, 0, 0, 0, time.UTC) }
	cells := func(v ...float64) []float64 { return v }
	for _, c := range []struct {
		name string
		log  []Event
		fit  Fitness
		why  string
	}{
		{"new", nil, Fit, ""},
		{"good", []Event{{At: day(1), Kind: Rested, Volts: cells(4.34, 4.35, 4.34, 4.35)}}, Fit, ""},
		{"spread", []Event{{At: day(1), Kind: Rested, Volts: cells(4.34, 4.35, 4.25, 4.35)}}, Watch, "0.10 V apart"},
		{"deep", []Event{{At: day(1), Kind: Rested, Volts: cells(3.4, 3.4, 2.9, 3.4)}}, Retire, "cell 3 rested at 2.90 V"},
		{"puffed", []Event{{At: day(1), Kind: Damaged, Puffed: true}}, Retire, "puffed"},
		{"dented", []Event{{At: day(1), Kind: Damaged, Says: "dent in a corner"}}, Watch, "dent"},
		{"tired", []Event{{At: day(1), Kind: Ohms, Ohms: cells(.01, .01, .01, .01)}, {At: day(2), Kind: Ohms,
			Ohms: cells(.01, .021, .01, .01)}}, Retire, "2.1 times"},
		{"tiring", []Event{{At: day(1), Kind: Ohms, Ohms: cells(.01, .01, .01, .01)}, {At: day(2), Kind: Ohms,
			Ohms: cells(.01, .017, .01, .01)}}, Watch, "1.7 times"},
		{"retired", []Event{{At: day(1), Kind: Retired, Says: "fell in the lagoon"}}, Retire, "lagoon"},
		{"left full", []Event{{At: day(1), Kind: Charged}}, Watch, "full for 19 days"},
	} {
		s := StateOf(r, c.log, day(20))
		if s.Fitness != c.fit || !strings.Contains(strings.Join(s.Why, "; "), c.why) {
			t.Errorf("%s: %s, %v", c.name, s.Fitness, s.Why)
		}
	}
	var log []Event
	for i := range 160 {
		log = append(log, Event{At: day(1).Add(time.Duration(i) * time.Hour), Kind: Charged, Mah: 3800},
			Event{At: day(1).Add(time.Duration(i)*time.Hour + 1), Kind: Used, Mah: 3000, Minutes: 20})
	}
	s := StateOf(r, log, day(8))
	if s.Fitness != Watch || math.Abs(s.Cycles-160) > 1e-9 || s.Flights != 160 || math.Abs(s.Charge-800.0/3800) > 1e-9 {
		t.Errorf("%+v", s)
	}
	// The log is read in order of time, however it comes.
	rand.New(rand.NewPCG(1, 1)).Shuffle(len(log), func(i, j int) { log[i], log[j] = log[j], log[i] })
	if again := StateOf(r, log, day(8)); again.Charge != s.Charge || again.Cycles != s.Cycles {
		t.Errorf("another order: %+v", again)
	}
}

func TestMixedChemistriesAndFleetFile(t *testing.T) {
	types := craft.Shipped()
	good := Fleet{
		Craft: []Named{{"poiana-1", "poiana"}}, Shelf: []Shelf{{"poiana", "propeller-cw", 6}},
		Packs: []Record{{Name: "P1", Type: "poiana", Chemistry: craft.LiHV, Cells: 4, CapacityMah: 3800, MassKg: 0.28,
			BoughtOn: time.Date(2025, 4, 1, 0, 0, 0, 0, time.UTC)}},
	}
	data, err := good.YAML()
	if err != nil {
		t.Fatal(err)
	}
	back, err := ParseFleet(data, types)
	if err != nil || len(back.Packs) != 1 || back.Packs[0] != good.Packs[0] || back.Craft[0] != good.Craft[0] ||
		back.Shelf[0] != good.Shelf[0] {
		t.Errorf("%+v, %v\n%s", back, err, data)
	}
	for _, c := range []struct{ from, to, want string }{
		{"lihv", "lipo", "chemistries are never mixed"},
		{"cells: 4", "cells: 3", "4 cells in series"},
		{"name: P1", "name: poiana-1", "stands here twice"},
		{"type: poiana", "type: falco", "rondine, gheppio"},
		{"3800", "lots", "a number from 50"},
		{"2025-04-01", "April", "a day as"},
		{"count: 6", "count: -1", "0 to 10000"},
	} {
		_, err := ParseFleet([]byte(strings.Replace(string(data), c.from, c.to, 1)), types)
		if err == nil || !strings.Contains(err.Error(), c.want) || !strings.Contains(err.Error(), ": ") {
			t.Errorf("%q for %q: %v", c.to, c.from, err)
		}
	}
	r := good.Packs[0]
	for _, e := range []Event{{Kind: "swim"}, {Kind: Rested, Volts: []float64{4}}, {Kind: Load, Volts: []float64{15}},
		{Kind: Ohms, Ohms: []float64{0, 1, 1, 1}}, {Kind: Used, Minutes: -1}, {Kind: Charged, Mah: 9000}, {Kind: Charged,
			Part: 2}} {
		if r.CheckEvent(e) == nil {
			t.Errorf("%+v was accepted", e)
		}
	}
}

func FuzzParseFleet(f *testing.F) {
	f.Add("format: maestrale-fleet/1\npacks:\n  - {name: a, type: poiana}\n")
	types := craft.Shipped()
	f.Fuzz(func(t *testing.T, data string) {
		fleet, err := ParseFleet([]byte(data), types)
		if err == nil {
			for _, p := range fleet.Packs {
				if e := p.Check(types[p.Type]); e != nil {
					t.Errorf("a pack was read that cannot be: %v", e)
				}
			}
		}
	})
}

func BenchmarkFarthest(b *testing.B) {
	c := craft.Shipped()["poiana"]
	l, _ := NewLifter(c, 1.2)
	f, _ := NewFilling(c.Battery, 0)
	for b.Loop() {
		Farthest(l, f, Trip{HeightM: 5, ReturnM: 30, WindMps: 5, SpeedMps: 10, ClimbMps: 4, DescendMps: 2, Reserve: Reserve})
	}
}
