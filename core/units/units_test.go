package units

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"
)

// The definitions: 1 ft, 1 mile and 1 nautical mile are 0.3048, 1609.344 and 1852 metres exactly.
func TestDefinitions(t *testing.T) {
	for _, c := range []struct {
		u     Unit
		v, si float64
	}{{Foot, 66, 20.1168}, {Foot, 400, 121.92}, {Knot, 15, 7.716666666666667}, {MilePerHour, 10, 4.4704},
		{KilometrePerH, 36, 10}, {Metre, 3, 3}, {MetrePerSec, 3, 3}} {
		if got := c.u.From(c.v); math.Abs(got-c.si) > 1e-12 {
			t.Errorf("%g %s is %g, want %g", c.v, c.u, got, c.si)
		}
		if got := c.u.To(c.si); math.Abs(got-c.v) > 1e-12 {
			t.Errorf("%g SI is %g %s, want %g", c.si, got, c.u, c.v)
		}
	}
}

func TestParse(t *testing.T) {
	for _, c := range []struct {
		kind  Kind
		text  string
		shown Unit
		want  float64
		bad   bool
	}{
		{Length, "20", Metre, 20, false}, {Length, "20", Foot, 6.096, false}, {Length, "66 ft", Metre, 20.1168, false},
		{Length, "66ft", Metre, 20.1168, false}, {Length, "66'", Metre, 20.1168, false},
		{Length, " 20 Metres ", Foot, 20, false}, {Length, "2,5", Metre, 2.5, false}, {Length, "−3 m", Foot, -3, false},
		{Speed, "12 kn", MetrePerSec, 12 * 1852.0 / 3600, false}, {Speed, "12 kt", MilePerHour, 12 * 1852.0 / 3600, false},
		{Speed, "36 km/h", Knot, 10, false}, {Speed, "0,125 m/s", Knot, 0.125, false},
		{Length, "66 kn", Metre, 0, true}, {Speed, "3 ft", MetrePerSec, 0, true}, {Length, "", Metre, 0, true},
		{Length, "ft", Metre, 0, true}, {Length, "1,500", Metre, 0, true}, {Length, "1.2.3", Metre, 0, true},
		{Length, "5 furlongs", Metre, 0, true}, {Length, "1e999", Metre, 0, true}, {Length, "NaN", Metre, 0, true},
		{Length, "5 6", Metre, 0, true}, {Length, "6 ft 2", Metre, 0, true},
	} {
		got, _, err := Parse(c.kind, c.text, c.shown)
		if (err != nil) != c.bad || math.Abs(got-c.want) > 1e-9 {
			t.Errorf("%s %q in %s: %g, %v", c.kind, c.text, c.shown, got, err)
		}
	}
}

// Whatever is said parses back to what was meant, within its rounding, with its unit and without.
func TestSaidIsMeant(t *testing.T) {
	r := rand.New(rand.NewPCG(17, 3))
	for range 20000 {
		kind := []Kind{Length, Speed}[r.IntN(2)]
		u := Of(kind)[r.IntN(len(Of(kind)))]
		decimals := r.IntN(4)
		si := math.Exp(12*r.Float64()-6) * float64(1-2*r.IntN(2))
		half := u.From(0.5*math.Pow(10, -float64(decimals))) * (1 + 1e-9)
		for _, text := range []string{u.Say(si, decimals), u.Number(si, decimals)} {
			got, written, err := Parse(kind, text, u)
			if err != nil || written != u || math.Abs(got-si) > half+1e-9*math.Abs(si) {
				t.Fatalf("%g in %s is said %q and read %g, %v", si, u, text, got, err)
			}
		}
	}
}

// A sentence in another system says the same: each of its quantities parses to the one of the first sentence, within
// the rounding of the last digit that is shown.
func TestSentences(t *testing.T) {
	feet := System{Foot, Knot}
	for from, want := range map[string]string{
		"1.3 m to the right of the marker at 12.4 s; the box is 1.0 m": "4.3 ft to the right of the marker at 12.4 s; the " +
			"box is 3.3 ft",
		"return height 20 m (66 ft)":          "return height 66 ft (20 m)",
		"in up to 5.0 m/s of wind (10 kn)":    "in up to 9.7 kn of wind (10 kn)",
		"in up to 5.0 m/s (10 kn) of wind":    "in up to 9.7 kn (5.0 m/s) of wind",
		"0.5 to 1.2 m/s, gusts 3–4 m/s":       "1.0 to 2.3 kn, gusts 6–8 kn",
		"4.2 m/s, gusts 6.1":                  "8.2 kn, gusts 11.9",
		"4.2 m/s, gusts 6.1 m/s":              "8.2 kn, gusts 11.9 kn",
		"10 min 5.0 m/s, gusts 9.0 · 3 s":     "10 min 9.7 kn, gusts 17.5 · 3 s",
		"gusts 6.2 of 8.0 m/s":                "gusts 12.1 of 15.6 kn",
		"4.2 of 9 m/s, gusts 6.2 of 8.0":      "8.2 of 17 kn, gusts 12.1 of 15.6",
		"height 1.5 ± 0.5 m, tail-in":         "height 4.9 ± 1.6 ft, tail-in",
		"60 by 90 m of hardstanding":          "197 by 295 ft of hardstanding",
		"gusts from the west":                 "gusts from the west",
		"a room of 3 × 4 m":                   "a room of 10 × 13 ft",
		"−1.2 m and +0.3 m":                   "−3.9 ft and +1.0 ft",
		"5 m² and 3 m/s² and 5 min and 12 mm": "5 m² and 3 m/s² and 5 min and 12 mm",
		"P4 m":                                "P4 m",
		"24 minutes, 3300 mAh":                "24 minutes, 3300 mAh",
		"10\u00a0m":                           "33\u00a0ft",
	} {
		if got := feet.Say(from); got != want {
			t.Errorf("%q\n got %q\nwant %q", from, got, want)
		}
		if got := Metric.Say(from); got != from {
			t.Errorf("metric: %q became %q", from, got)
		}
	}
	if got := (System{Metre, KilometrePerH}).Say("2 m at 5 m/s"); got != "2 m at 18 km/h" {
		t.Errorf("%q", got)
	}
}

func TestMistakenUnits(t *testing.T) {
	for _, c := range []struct {
		typed  float64
		taken  Unit
		wanted float64
		want   Unit
	}{{66, Metre, 20, Foot}, {20, Metre, 20, ""}, {20, Foot, 20, Metre}, {66, Foot, 20, ""}, {40, Metre, 20, ""},
		{12, MetrePerSec, 12 * 1852.0 / 3600, Knot}, {0, Metre, 20, ""}, {5, Metre, 0, ""}} {
		got, is := Mistaken(c.taken.From(c.typed), c.wanted, c.taken)
		if got != c.want || is != (c.want != "") {
			t.Errorf("%g %s where %g is wanted: %q", c.typed, c.taken, c.wanted, got)
		}
	}
}

func TestEcho(t *testing.T) {
	for _, c := range [][3]string{{"20", "m", "= 65.6 ft"}, {"66 ft", "m", "= 20.1 m"}, {"66", "ft", "= 20.1 m"},
		{"x", "m", ""}, {"5 kn", "m", ""}} {
		if got := Echo(Length, c[0], Unit(c[1])); got != c[2] {
			t.Errorf("%v: %q", c, got)
		}
	}
	if got := Echo(Speed, "12 kn", MetrePerSec); got != "= 6.2 m/s" {
		t.Errorf("%q", got)
	}
}

func FuzzParse(f *testing.F) {
	for _, s := range []string{"66 ft", "2,5", "1,500", "-3 m", "", "m", "٣ m", "12kn", "0x1p3"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		for _, u := range []Unit{Metre, Foot, Knot} {
			si, _, err := Parse(u.Kind(), text, u)
			if err == nil && (math.IsNaN(si) || math.IsInf(si, 0)) {
				t.Errorf("%q is %g", text, si)
			}
			if err != nil && (Echo(u.Kind(), text, u) != "" || strings.Contains(err.Error(), "\n\n")) {
				t.Errorf("%q: %v", text, err)
			}
		}
		_ = Imperial.Say(text)
	})
}
