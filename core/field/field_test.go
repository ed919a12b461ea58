package field

import (
	"math"
	"math/rand/v2"
	"testing"
)

func near(a, b, tol float64) bool { return math.Abs(a-b) <= tol }

func TestAspect(t *testing.T) {
	for _, c := range []struct {
		heading  float64
		at       Point
		want     float64
		whatItIs string
	}{
		{0, Point{0, 10}, 0, "tail-in straight ahead"},
		{180, Point{0, 10}, 180, "nose-in"},
		{90, Point{0, 10}, 90, "nose right"},
		{-90, Point{0, 10}, -90, "nose left"},
		{0, Point{10, 10}, -45, "nose away but off to the right is not tail-in"},
		{45, Point{10, 10}, 0, "tail-in off to the right"},
		{225, Point{10, 10}, 180, "nose-in off to the right"},
		{350, Point{-10, 0}, 80, "wraps across 360"},
	} {
		if got := Aspect(Degrees(c.heading), c.at).Deg(); !near(got, c.want, 1e-9) {
			t.Errorf("%s: aspect %.3f, want %.3f", c.whatItIs, got, c.want)
		}
	}
}

func TestWrapKeepsDirectionAndRange(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for range 20000 {
		a := Angle(r.NormFloat64() * 40)
		w := a.Wrap()
		if !(w > -math.Pi && w <= math.Pi) {
			t.Fatalf("Wrap(%v) = %v is out of range", a, w)
		}
		if !near(math.Sin(float64(a)), math.Sin(float64(w)), 1e-9) || !near(math.Cos(float64(a)), math.Cos(float64(w)),
			1e-9) {
			t.Fatalf("Wrap(%v) = %v points elsewhere", a, w)
		}
		if c := a.Compass(); !(c >= 0 && c < 360) {
			t.Fatalf("Compass(%v) = %v", a, c)
		}
	}
	if got := Angle(-math.Pi).Wrap(); got != math.Pi {
		t.Errorf("Wrap(−π) = %v, want π", got)
	}
}

func TestSector(t *testing.T) {
	for deg, want := range map[float64]int{0: 0, 11.2: 0, -11.2: 0, 11.3: 1, 90: 4, 180: 8, -180: 8, -90: 12, -11.3: 15,
		348.8: 0} {
		if got := Sector(Degrees(deg)); got != want {
			t.Errorf("Sector(%v°) = %d, want %d", deg, got, want)
		}
	}
}

func TestMirrorIsExact(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for range 5000 {
		p, h := Point{r.NormFloat64() * 30, r.NormFloat64() * 30}, Angle(r.NormFloat64())
		if a, m := Aspect(h, p), Aspect(-h, p.Mirror()); a != -m {
			t.Fatalf("aspect %v mirrors to %v", a, m)
		}
	}
	if Direction(Point{1, 1}) != "right" || Direction(Point{-1, 1}) != "left" || Direction(Point{0, -2}) != "toward" ||
		Direction(Point{0.1, 2}) != "away" {
		t.Error("Direction names the larger part; left and right win a tie")
	}
}

// The lengths of one degree are tabulated in NIMA TR8350.2-type geodetic
// tables: at 45° a degree of latitude is 111 131.7 m, of longitude 78 846.8 m.
func TestPlaneScale(t *testing.T) {
	p, err := NewPlane(Geo{45, 12, 0}, 0)
	if err != nil {
		t.Fatal(err)
	}
	at, _ := p.ToField(Geo{45.001, 12, 0})
	if !near(at.Y, 111.1317, 0.002) || !near(at.X, 0, 1e-6) {
		t.Errorf("a thousandth of a degree north is %+v", at)
	}
	at, _ = p.ToField(Geo{45, 12.001, 0})
	if !near(at.X, 78.8468, 0.002) {
		t.Errorf("a thousandth of a degree east is %+v", at)
	}
}

func TestPlaneRoundTripAndTurn(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	for range 2000 {
		origin := Geo{r.Float64()*160 - 80, r.Float64()*360 - 180, r.Float64() * 2000}
		if r.IntN(4) == 0 {
			origin.LonDeg = 179.9999 // across the date line
		}
		away := r.Float64() * 360
		p, err := NewPlane(origin, away)
		if err != nil {
			t.Fatal(err)
		}
		want, z := Point{r.NormFloat64() * 800, r.NormFloat64() * 800}, r.Float64()*120
		got, gz := p.ToField(p.ToGeo(want, z))
		if got.Dist(want) > 1e-6 || !near(gz, z, 1e-9) {
			t.Fatalf("%+v %v came back as %+v %v at %+v away %v", want, z, got, gz, origin, away)
		}
		// Turning the frame turns the place and keeps its distance.
		q, _ := NewPlane(origin, 0)
		straight, _ := q.ToField(p.ToGeo(want, z))
		if !near(math.Hypot(straight.X, straight.Y), math.Hypot(want.X, want.Y), 1e-6) {
			t.Fatalf("turning the frame changed a distance")
		}
		if !near(float64((Bearing(straight) - Bearing(want) - Degrees(away)).Wrap()), 0, 1e-6) {
			t.Fatalf("the y axis is not %v° from north", away)
		}
	}
}

func TestPlaneRefuses(t *testing.T) {
	for _, g := range []Geo{{91, 0, 0}, {0, 181, 0}, {math.NaN(), 0, 0}, {0, 0, 1e308}} {
		if _, err := NewPlane(g, 0); err == nil {
			t.Errorf("origin %+v was accepted", g)
		}
	}
	if _, err := NewPlane(Geo{}, math.NaN()); err == nil {
		t.Error("away NaN was accepted")
	}
}

// The quick sector is the exact one, for directions all around, close to borders and on them, and for odd places.
func TestSectorAtIsTheSectorOfTheAspect(t *testing.T) {
	r := rand.New(rand.NewPCG(22, 7))
	check := func(heading Angle, at Point) {
		t.Helper()
		if got, want := SectorAt(heading, at), Sector(Aspect(heading, at)); got != want {
			t.Fatalf("heading %v at %v: sector %d, and exactly %d", heading, at, got, want)
		}
	}
	for range 1_000_000 {
		at := Point{X: 100 * r.NormFloat64(), Y: 100 * r.NormFloat64()}
		check(Angle(8*r.NormFloat64()), at)
		border := Angle(2*math.Pi/Sectors) * (Angle(r.IntN(64)-32) + 0.5)
		check(border+Bearing(at)+Angle(1e-4*r.NormFloat64()), at)
	}
	inf := math.Inf(1)
	for _, x := range []float64{0, math.Copysign(0, -1), 1, -1, 1e-300, 1e300, inf, -inf} {
		for _, y := range []float64{0, math.Copysign(0, -1), 1, -1, 1e-300, 1e300, inf, -inf} {
			for _, h := range []float64{0, 1, -4, 1e6, -1e18} {
				check(Angle(h), Point{X: x, Y: y})
			}
		}
	}
}

func TestARoughBearingIsNearTheBearing(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 49))
	worst := 0.0
	for range 1_000_000 {
		p := Point{X: r.NormFloat64(), Y: r.NormFloat64()}
		worst = max(worst, math.Abs(float64((RoughBearing(p) - Bearing(p)).Wrap())))
	}
	if worst > Rough || worst < Rough/10 {
		t.Errorf("it is off by %v rad at most; expected some, and no more than %v", worst, Rough)
	}
}
