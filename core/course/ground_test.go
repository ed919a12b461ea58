package course

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"

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

func pt(x, y float64) field.Point { return field.Point{X: x, Y: y} }

// Without air the fall is a parabola: from 20 m at 5 m/s it takes √(2·20/g) = 2.0196 s,
// goes 10.098 m and ends at √(25 + 2 g 20) = 20.43 m/s. With air, straight down, it is
// the closed form z = (v_t²/g) ln cosh(g t / v_t), v = v_t tanh(g t / v_t).
func TestFallAgainstClosedForms(t *testing.T) {
	l := Falling{MassKg: 1, Density: 1.225}.Fall(20, pt(3, 4), pt(0, 0))
	near(t, "time", l.Seconds, 2.01962, 1e-3)
	near(t, "way", math.Hypot(l.Offset.X, l.Offset.Y), 10.0981, 5e-3)
	near(t, "speed", l.Mps, math.Sqrt(25+2*air.Gravity*20), 0.06)
	for _, h := range []float64{2, 10, 40, 120} {
		f := Falling{MassKg: 0.92, DragM2: 0.04, Density: 1.225}
		vt := math.Sqrt(2 * f.MassKg * air.Gravity / (f.Density * f.DragM2))
		want := vt / air.Gravity * math.Acosh(math.Exp(h*air.Gravity/(vt*vt)))
		l := f.Fall(h, pt(0, 0), pt(0, 0))
		near(t, "time with drag", l.Seconds, want, 1e-3)
		near(t, "speed with drag", l.Mps, vt*math.Tanh(air.Gravity*want/vt), 0.06)
	}
	// A long fall ends with the wind: the drift tends to w (t − a second or two).
	f := Falling{MassKg: 0.035, DragM2: 0.008, Density: 1.225}
	long := f.Fall(100, pt(0, 0), pt(5, 0))
	if d := 5*long.Seconds - long.Offset.X; d < 0 || d > 8 {
		t.Errorf("in %.1f s it drifted %.1f m", long.Seconds, long.Offset.X)
	}
}

func TestFallAreaLeansDownwind(t *testing.T) {
	f := Falling{MassKg: 0.92, DragM2: 0.04, Density: 1.225}
	outline, reach := f.Area(30, 5, pt(6, 0))
	sum := 0.0
	for _, p := range outline {
		sum += p.X
		if math.Hypot(p.X, p.Y) > reach+1e-9 {
			t.Error("a place beyond the reach")
		}
	}
	_, calm := f.Area(30, 5, pt(0, 0))
	if sum <= 0 || reach <= calm {
		t.Errorf("reach %.1f m in wind, %.1f in calm air", reach, calm)
	}
}

// Stopping by hand: 3 m/s for 1.5 s and 9 / (2 · 1.5) = 3 m.
func TestStopping(t *testing.T) {
	near(t, "stopping", StoppingM(3, 1.5), 7.5, 1e-12)
}

// A tree line of 12 m at 60 m: at 15 m the sky begins at 1.6 + 10.4 · 15/60 = 4.2 m.
func TestSightLineBySimilarTriangles(t *testing.T) {
	c := &Course{Hazards: []Hazard{{Kind: "tree", At: []field.Point{pt(-50, 60), pt(50, 60)}, HeightM: 12}}}
	s := c.SightLine(pt(0, 15), 1.6)
	near(t, "lowest", s.LowestM, 4.2, 1e-9)
	if s.Behind != "the tree" {
		t.Errorf("made by %q", s.Behind)
	}
	near(t, "to the side", c.SightLine(pt(10, 15), 1.6).LowestM, 4.2, 1e-9) // similar triangles again
	near(t, "where the line ends", c.SightLine(pt(15, 10), 1.6).LowestM, 1.6, 1e-9)
	beyond := c.SightLine(pt(0, 70), 1.6) // the trees stand between
	near(t, "beyond the trees", beyond.LowestM, 1.6+10.4*70/60, 1e-9)
	if !beyond.Hides || s.Hides {
		t.Errorf("hidden: %v beyond, %v before", beyond.Hides, s.Hides)
	}
	wood := &Course{Hazards: []Hazard{{Kind: "tree", At: []field.Point{pt(-50, 60), pt(50, 60), pt(50, 120), pt(-50, 120)},
		Closed: true, HeightM: 12}}}
	near(t, "the near edge of a wood", wood.SightLine(pt(0, 15), 1.6).LowestM, 4.2, 1e-9)
	single := &Course{Hazards: []Hazard{{Kind: "tree", At: []field.Point{pt(2, 40)}, HeightM: 20},
		{Kind: "wire", At: []field.Point{pt(-9, 30), pt(9, 30)}, HeightM: 30}}}
	near(t, "one tree", single.SightLine(pt(0, 10), 1.6).LowestM, 1.6+18.4*10/math.Hypot(40, 2), 0.2)
}

// Diagonals by Pythagoras, paces by division.
func TestTapesAndPaces(t *testing.T) {
	c := &Course{Markers: map[string]field.Point{"pad": pt(0, 8), "near-left": pt(-3, 6), "near-right": pt(3, 6),
		"far-right": pt(3, 14), "far-left": pt(-3, 14)}}
	tapes := c.Tapes()
	if len(tapes) != 6 {
		t.Fatalf("%+v", tapes)
	}
	near(t, "diagonal", tapes[4].LengthM, 10, 1e-12)
	if d, ok := c.Square(); !ok || d > 1e-12 {
		t.Errorf("differ by %v", d)
	}
	legs := c.Legs(0.8)
	if legs[0].Marker != "pad" || legs[0].Paces != 10 || legs[0].FromPad != 0 {
		t.Errorf("%+v", legs[0])
	}
	c.Markers["far-left"] = pt(-3.5, 14)
	if d, _ := c.Square(); d < 0.1 {
		t.Errorf("a corner half a metre off differs by %v", d)
	}
}

func TestReturnHeight(t *testing.T) {
	c := &Course{Hazards: []Hazard{
		{Kind: "tree", At: []field.Point{pt(2, 30)}, HeightM: 17},
		{Kind: "tree", Name: "the old poplar", At: []field.Point{pt(-200, 5)}, HeightM: 31},
		{Kind: "ceiling", At: []field.Point{pt(-9, 0), pt(9, 0), pt(9, 90)}, Closed: true, HeightM: 300},
	}}
	r := c.Return(pt(0, 6), []field.Point{pt(0, 12)}, 40)
	if r.HeightM != 30 || r.Tallest != "the tree" || r.AnywhereM != 45 || r.TallestM != 17 {
		t.Errorf("%+v", r)
	}
	if r := (&Course{}).Return(pt(0, 6), []field.Point{pt(0, 12)}, 40); r.HeightM != ReturnLeast {
		t.Errorf("over nothing %v", r.HeightM)
	}
	near(t, "feet", Feet(30), 98, 0)
}

func TestClearances(t *testing.T) {
	w := Conditions{Braking: 2, Falling: Falling{0.92, 0.04, 1.225}}
	e := Envelope{Title: "hover", Path: []field.Point{pt(0, 12)}, RadiusM: 1, HighM: 3, SpeedMps: 2,
		Aids: craft.PositionHold}
	c := &Course{Hazards: []Hazard{{Kind: "wire", At: []field.Point{pt(-50, 20), pt(50, 20)}}}}
	k := c.Clear(e, w)[0]
	// 8 m away, 1 m of tolerance; 2·1.5 + 4/4 = 4 m to stop and 2.5 m of wander.
	near(t, "distance", k.DistM, 7, 1e-12)
	near(t, "left", k.LeftM, 0.5, 1e-12)
	c.Hazards[0].At = []field.Point{pt(-50, 19), pt(50, 19)}
	if k := c.Clear(e, w)[0]; !k.Warn() || !strings.Contains(k.Says(), "6.0 m to the wire, 6.5 m wanted") {
		t.Errorf("%s", k.Says())
	}
	// Without position hold it goes down the wind, as fast as an eye lets pass: 12 m · 20′ = 0.0698 m/s.
	e.Aids, w.Wind = craft.SelfLevel, pt(0, 3)
	k = c.Clear(e, w)[0]
	near(t, "drift", k.DriftM, 12*20.0/60*math.Pi/180*60, 1e-9)
	w.Wind = pt(0, -3)
	near(t, "drift the other way", c.Clear(e, w)[0].DriftM, 0, 1e-9)
	w.Wind = pt(0, 0.01)
	near(t, "no faster than the wind", c.Clear(e, w)[0].DriftM, 0.6, 1e-9)
	// Inside a ring there is no distance at all.
	c.Hazards[0] = Hazard{Kind: "water", At: []field.Point{pt(-5, 5), pt(5, 5), pt(5, 20), pt(-5, 20)}, Closed: true}
	near(t, "over the water", c.Clear(e, w)[0].DistM, -1, 1e-12)
	// A ceiling is measured upward, where the drill is under it.
	c.Hazards[0] = Hazard{Kind: "ceiling", At: c.Hazards[0].At, Closed: true, HeightM: 3.2}
	if k := c.Clear(e, w)[0]; !k.Warn() || !strings.Contains(k.Says(), "0.2 m under the ceiling where 0.5 m are wanted") {
		t.Errorf("%+v %s", k, k.Says())
	}
}

func TestAdviceTurnsAwayFromAWire(t *testing.T) {
	c, _ := Lay("box", craft.Light)
	c.Hazards = []Hazard{{Kind: "wire", At: []field.Point{pt(4, 12), pt(30, 12)}, HeightM: 8}}
	e := Envelope{Title: "hover", Path: []field.Point{c.Markers["centre"], c.Markers["far-right"]}, RadiusM: 1, HighM: 3,
		SpeedMps: 1.5, Aids: craft.PositionHold}
	w := Conditions{Braking: 2, Falling: Falling{0.92, 0.04, 1.225}}
	a := c.Advise([]Envelope{e}, w)
	if a.OK || !a.Found || a.Turn >= 0 {
		t.Fatalf("%+v", a)
	}
	if err := c.Turn(a.Turn); err != nil {
		t.Fatal(err)
	}
	if after := c.Advise([]Envelope{e}, w); !after.OK {
		t.Errorf("after turning by %.0f° %+v", a.Turn.Deg(), after)
	}
	ring := []field.Point{pt(-15, -15), pt(15, -15), pt(15, 15), pt(-15, 15)}
	c.Hazards = []Hazard{{Kind: "water", At: ring, Closed: true}}
	if a := c.Advise([]Envelope{e}, w); a.Found || a.MoveM <= 0 || a.From != "the water" {
		t.Errorf("in the middle of the water: %+v", a)
	}
}

// Turning keeps every distance, four right angles are none, and what the pilot sees
// turns against the pilot.
func TestTurnKeepsDistances(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 8))
	for range 200 {
		c := onEarth(t, r.Float64()*120-60, r.Float64()*360)
		c.Station = pt(r.NormFloat64()*3, -math.Abs(r.NormFloat64()))
		c.Hazards = []Hazard{{Kind: "tree", At: []field.Point{pt(r.NormFloat64()*50, r.NormFloat64()*50)}, HeightM: 9}}
		c.Crowd = [][]field.Point{{pt(-20, -9), pt(20, -9)}}
		was := c.Clone()
		where := c.Plane.ToGeo(c.Hazards[0].At[0], 0)
		by := field.Angle(r.NormFloat64())
		if err := c.Turn(by); err != nil {
			t.Fatal(err)
		}
		near(t, "to the station", c.Hazards[0].At[0].Dist(c.Station), was.Hazards[0].At[0].Dist(was.Station), 1e-9)
		near(t, "marker", c.Markers["pad"].Dist(c.Station), was.Markers["pad"].Dist(was.Station), 1e-9)
		now := c.Plane.ToGeo(c.Hazards[0].At[0], 0)
		near(t, "latitude stays", now.LatDeg, where.LatDeg, 1e-8)
		near(t, "longitude stays", now.LonDeg, where.LonDeg, 1e-8)
		before := field.Bearing(was.Hazards[0].At[0].Sub(was.Station))
		after := field.Bearing(c.Hazards[0].At[0].Sub(c.Station))
		turn := (before - after - by).Wrap()
		near(t, "seen turned", float64(turn), 0, 1e-9)
	}
}

func TestWindBehind(t *testing.T) {
	for from, want := range map[float64]float64{180: 0, 90: -90, 270: 90, 0: 180, 225: 45} {
		near(t, "turn", math.Abs((Behind(field.Degrees(from)) - field.Degrees(want)).Wrap().Deg()), 0, 1e-9)
		// Turned so, the wind comes from behind.
		if !IsBehind(field.Degrees(from) - Behind(field.Degrees(from))) {
			t.Errorf("from %v", from)
		}
	}
	if toward, right := Components(5, field.Degrees(90)); math.Abs(toward) > 1e-9 || math.Abs(right+5) > 1e-9 {
		t.Errorf("from the right %v %v", toward, right)
	}
	c := &Course{Crowd: [][]field.Point{{pt(-20, -3), pt(20, -3)}}}
	if h, word, ok := c.TurnAway(pt(0, 10)); !ok || word != "away" || math.Abs(float64(h)) > 1e-9 {
		t.Errorf("%v %q %v", h, word, ok)
	}
	if _, _, ok := (&Course{}).TurnAway(pt(0, 10)); ok {
		t.Error("nobody to turn away from")
	}
}

// Whatever lies across the plan is named on it, and what lies beside it is not.
func TestNamedAt(t *testing.T) {
	inside := func(q field.Point) bool { return q.X > -10 && q.X < 10 && q.Y > 0 && q.Y < 20 }
	pilot := field.Point{}
	for _, c := range []struct {
		name   string
		at     []field.Point
		closed bool
		want   field.Point
		seen   bool
	}{
		{"nothing", nil, false, field.Point{}, false},
		{"a tree on the plan", []field.Point{{X: 3, Y: 4}}, false, field.Point{X: 3, Y: 4}, true},
		{"a tree beside it", []field.Point{{X: 30, Y: 4}}, false, field.Point{}, false},
		{"a wire right across", []field.Point{{X: -30, Y: 9}, {X: 30, Y: 9}}, false, field.Point{X: 0, Y: 9}, true},
		{"a wire behind", []field.Point{{X: -30, Y: -9}, {X: 30, Y: -9}}, false, field.Point{}, false},
		{"a pond that closes across it", []field.Point{{X: -30, Y: 60}, {X: 0, Y: 90}, {X: 30, Y: 60}, {X: 30, Y: 12},
			{X: -30, Y: 12}}, true, field.Point{X: 0, Y: 12}, true},
	} {
		got, seen := (Hazard{At: c.at, Closed: c.closed}).NamedAt(inside, pilot)
		if seen != c.seen || got.Dist(c.want) > 1e-9 {
			t.Errorf("%s: %v %v; expected %v %v", c.name, got, seen, c.want, c.seen)
		}
	}
}

func BenchmarkSurvey200(b *testing.B) {
	c := large(200)
	ask := largeAsk(c)
	for b.Loop() {
		if _, err := c.SurveyOf(ask); err != nil {
			b.Fatal(err)
		}
	}
}
