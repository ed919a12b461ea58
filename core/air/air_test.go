package air

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"maestrale/core/field"
)

// ISO 2533:1975: densities of the standard atmosphere by geopotential height.
func TestDensityOfTheStandardAtmosphere(t *testing.T) {
	for _, c := range []struct{ alt, want float64 }{{-1000, 1.3470}, {0, 1.2250}, {500, 1.1673}, {1000, 1.1116},
		{2000, 1.0065}, {3000, 0.90912}, {5000, 0.73612}, {8000, 0.52517}} {
		got, err := Density(c.alt, StandardTempC(c.alt))
		if err != nil || math.Abs(got-c.want) > 0.0001 {
			t.Errorf("at %v m: %.5f, %v; the table says %.5f", c.alt, got, err, c.want)
		}
	}
	// Dry air at sea level and 35 °C: 101325 / (287.05287 · 308.15) by hand.
	if got, _ := Density(0, 35); math.Abs(got-1.14549) > 1e-4 {
		t.Errorf("at 35 °C: %.5f", got)
	}
	for _, c := range [][2]float64{{9001, 0}, {-1001, 0}, {0, 61}, {0, -61}, {math.NaN(), 0}, {0, math.NaN()}} {
		if _, err := Density(c[0], c[1]); err == nil {
			t.Errorf("%v was accepted", c)
		}
	}
}

func sentence(body string) string {
	var x byte
	for i := range len(body) {
		x ^= body[i]
	}
	const hex = "0123456789ABCDEF"
	return "$" + body + "*" + string(hex[x>>4]) + string(hex[x&15])
}

func TestParseMWV(t *testing.T) {
	for _, c := range []struct {
		line string
		mps  float64
		from float64
	}{
		{sentence("WIMWV,214.8,R,4.1,M,A"), 4.1, 214.8},
		{sentence("IIMWV,000.0,T,36.0,K,A") + "\r\n", 10, 0},
		{sentence("WIMWV,360.0,R,10,N,A"), 5.14444, 360},
		{sentence("WIMWV,90,R,10,S,A"), 4.4704, 90},
	} {
		h, err := ParseMWV(c.line)
		if err != nil || math.Abs(h.Mps-c.mps) > 1e-4 || math.Abs(h.From.Deg()-c.from) > 1e-9 {
			t.Errorf("%q: %+v, %v", c.line, h, err)
		}
	}
}

func TestParseMWVRefuses(t *testing.T) {
	for _, c := range []struct{ line, want string }{
		{"$WIMWV,214.8,R,4.1,M,A*00", "check sum"},
		{"$WIMWV,214.8,R,4.1,M,A", "not a sentence"},
		{"WIMWV,214.8,R,4.1,M,A*2C", "not a sentence"},
		{sentence("WIMWV,214.8,R,4.1,M,V"), "status"},
		{sentence("WIMWV,361,R,4.1,M,A"), "angle"},
		{sentence("WIMWV,,R,4.1,M,A"), "angle"},
		{sentence("WIMWV,10,R,,M,A"), "speed"},
		{sentence("WIMWV,10,R,-4,M,A"), "speed"},
		{sentence("WIMWV,10,R,1e9,M,A"), "speed"},
		{sentence("WIMWV,10,R,400,M,A"), "75 at most"},
		{sentence("WIMWV,10,R,4,Q,A"), "unit"},
		{sentence("WIMWV,10,X,4,M,A"), "reference"},
		{sentence("WIMWV,10,R,4,M"), "fields"},
		{sentence("WIMWV," + strings.Repeat("1", 90) + ",R,4,M,A"), "characters"},
		{sentence("WIMWV,1\x01,R,4,M,A"), "printable"},
		{"", "not a sentence"},
	} {
		if _, err := ParseMWV(c.line); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%q: %v, want %q", c.line, err, c.want)
		}
	}
	if _, err := ParseMWV(sentence("GPZDA,201530.00,04,07,2002,00,00")); err != ErrOther {
		t.Errorf("another sentence: %v", err)
	}
}

var noon = time.Date(2026, 5, 1, 12, 0, 0, 0, time.UTC)

func TestMeterMeansAndGusts(t *testing.T) {
	var m Meter
	// Ten minutes of 4 m/s from 350°, with a gust of 9 m/s for three seconds five minutes ago
	// and of 6 m/s for three seconds one minute ago, four times a second.
	for ms := 0; ms <= 600_000; ms += 250 {
		at := noon.Add(time.Duration(ms) * time.Millisecond)
		h := Heard{4, field.Degrees(350)}
		if s := ms / 1000; s >= 300 && s < 303 {
			h.Mps = 9
		} else if s >= 540 && s < 543 {
			h.Mps = 6
		}
		if ms%1000 == 500 {
			h.From = field.Degrees(10) // one in four from the other side of north
		}
		m.Take(h, at)
	}
	at := noon.Add(10 * time.Minute)
	short, long := m.Over(ShortSpan, at), m.Over(LongSpan, at)
	if math.Abs(short.Gust-6) > 1e-9 || math.Abs(long.Gust-9) > 1e-9 {
		t.Errorf("gusts %v and %v", short.Gust, long.Gust)
	}
	if want := (4*117 + 6*3.0) / 120; math.Abs(short.Mean-want) > 1e-9 {
		t.Errorf("mean %v, want %v", short.Mean, want)
	}
	if math.Abs(short.From.Deg()+5) > 0.2 { // (3·350° + 10°)/4 across north
		t.Errorf("from %v°", short.From.Deg())
	}
	if m.Stuck() {
		t.Error("a meter whose direction changes is taken for stuck")
	}
}

// However often the meter speaks within a second, each second weighs the same;
// and a flood is cut off.
func TestMeterFlood(t *testing.T) {
	var m Meter
	for i := range 5000 {
		m.Take(Heard{20, 0}, noon.Add(time.Duration(i)*time.Millisecond/10))
	}
	m.Take(Heard{2, 0}, noon.Add(time.Second))
	if s := m.Over(ShortSpan, noon.Add(time.Second)); s.Seconds != 2 || math.Abs(s.Mean-11) > 1e-9 {
		t.Errorf("%+v", s)
	}
	if m.Sound != mostASecond+1 || m.Flooded != 5000-mostASecond {
		t.Errorf("%d taken, %d beyond", m.Sound, m.Flooded)
	}
}

func TestMeterForgetsAndStops(t *testing.T) {
	var m Meter
	m.Take(Heard{12, 0}, noon)
	if s := m.Over(LongSpan, noon.Add(LongSpan)); s.Seconds != 0 {
		t.Errorf("ten minutes later %+v", s)
	}
	if s := m.Over(LongSpan, noon.Add(LongSpan-time.Second)); s.Seconds != 1 {
		t.Errorf("just before %+v", s)
	}
	for i := range 200 {
		m.Take(Heard{3.3, field.Degrees(90)}, noon.Add(time.Duration(i)*time.Second))
	}
	if !m.Stuck() {
		t.Error("three minutes of the very same are not doubted")
	}
	m.Take(Heard{1, 0}, noon.Add(-time.Hour)) // the clock was set back
	if s := m.Over(ShortSpan, noon.Add(-time.Hour)); s.Seconds != 1 || s.Mean != 1 {
		t.Errorf("after the clock went back %+v", s)
	}
	if m.Hear("rubbish", noon) || m.Hear("$WIMWV,1,R,1,M,A*00", noon) || m.Dropped != 2 || !strings.Contains(m.Why,
		"check sum") {
		t.Errorf("%d dropped, %q", m.Dropped, m.Why)
	}
	if !Near(-29*time.Minute) || !Near(29*time.Minute) || Near(31*time.Minute) || Near(-31*time.Minute) {
		t.Error("a wind stands for half an hour on either side of its reading")
	}
	if !Fresh(19*time.Second, true) || Fresh(21*time.Second, true) || !Fresh(29*time.Minute, false) ||
		Fresh(31*time.Minute, false) {
		t.Error("freshness")
	}
}

func TestSeaBreezeRisesAndRepeats(t *testing.T) {
	mean := func(hour int) float64 {
		b, sum := NewSeaBreeze(7), 0.0
		for i := range 600 {
			sum += b.Step(time.Duration(hour)*time.Hour+time.Duration(i)*time.Second, time.Second).Mps
		}
		return sum / 600
	}
	if a, b := mean(9), mean(14); b < a+2.5 {
		t.Errorf("at nine %.1f, at two %.1f", a, b)
	}
	a, b := NewSeaBreeze(3), NewSeaBreeze(3)
	for range 100 {
		if a.Step(time.Hour, time.Second) != b.Step(time.Hour, time.Second) {
			t.Fatal("the same seed blows differently")
		}
	}
}

func TestWriteMWVIsReadBack(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 1))
	for range 2000 {
		h := Heard{r.Float64() * 40, field.Angle(r.NormFloat64() * 10)}
		got, err := ParseMWV(WriteMWV(h))
		if err != nil || math.Abs(got.Mps-h.Mps) > 0.006 || math.Abs((got.From-h.From).Wrap().Deg()) > 0.051 {
			t.Fatalf("%+v came back as %+v, %v", h, got, err)
		}
	}
}

func FuzzParseMWV(f *testing.F) {
	f.Add(sentence("WIMWV,214.8,R,4.1,M,A"))
	f.Add("$WIMWV,,,,,*00")
	f.Fuzz(func(t *testing.T, line string) {
		h, err := ParseMWV(line)
		if err == nil && !(h.Mps >= 0 && h.Mps <= fastest) {
			t.Errorf("%q gives %v m/s", line, h.Mps)
		}
	})
}

func BenchmarkMeterHear(b *testing.B) {
	var m Meter
	line, at := sentence("WIMWV,214.8,R,4.1,M,A"), noon
	for b.Loop() {
		at = at.Add(100 * time.Millisecond)
		m.Hear(line, at)
	}
}
