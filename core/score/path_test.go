package score

import (
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"reflect"
	"strings"
	"testing"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/track"
)

const eightStep = "{kind: path, shape: eight, centre: centre, radius_m: 4, height_m: 2, laps: 2, within: {cross_m: " +
	"1.5, height_m: 1, ratio: 1.1, crossing_m: 0.7}}"

// Errors that are known are measured, over many seeds, speeds, sides and laps.
func TestKnownErrorsOfAnEight(t *testing.T) {
	for seed := range uint64(24) {
		side := sides[seed%2]
		task := pathTask(t, eightStep, side, nil)
		fig := task.Steps[0].Path
		speed := 1.5 + float64(seed%5)/2
		good := newFlight(seed)
		good.along(fig, 0, 2*fig.Length, speed, nil)
		r := judged(t, task, good.t)
		m := r.Steps[0].Metrics
		if r.Verdict != Pass {
			t.Fatalf("seed %d: a clean eight is %s: %+v", seed, r.Verdict, r.Faults)
		}
		within(t, "the ratio of like lobes", m["radius_ratio"], 1, 0.01)
		within(t, "its crossing", m["crossing_m"], 0, 0.1)
		within(t, "its crossing angle", m["crossing_angle_deg"], 0, 12)
		within(t, "its lobe", m["lobe1_radius_m"], 4, 0.03)
		within(t, "its gap", m["lobe_gap_m"], 0, 0.06)
		within(t, "its speed", m["speed_mean_mps"], speed, 0.15)

		// The second lobe 12 % larger, touching the first at the centre.
		uneven := newFlight(seed)
		uneven.along(fig, 0, 2*fig.Length, speed, func(s float64, p drill.Spot) drill.Spot {
			if math.Mod(s, fig.Length) > fig.Parts[0] {
				p.X, p.Y = fig.Centre.X+1.12*(p.X-fig.Centre.X), fig.Centre.Y+1.12*(p.Y-fig.Centre.Y)
			}
			return p
		})
		r = judged(t, task, uneven.t)
		within(t, "12 % larger", r.Steps[0].Metrics["radius_ratio"], 1.12, 0.012)
		if r.Verdict != Fail || len(r.Faults) != 1 || r.Faults[0].Code != "uneven" || !strings.Contains(r.Faults[0].Text,
			"12 % larger") {
			t.Errorf("seed %d: %s %+v", seed, r.Verdict, r.Faults)
		}

		// The crossing 0.9 m off, in any direction.
		th := float64(seed)
		off := newFlight(seed)
		off.along(fig, 0, 2*fig.Length, speed, func(_ float64, p drill.Spot) drill.Spot {
			return drill.Spot{X: p.X + 0.9*math.Sin(th), Y: p.Y + 0.9*math.Cos(th), Z: p.Z}
		})
		r = judged(t, task, off.t)
		within(t, "the crossing 0.9 m off", r.Steps[0].Metrics["crossing_m"], 0.9, 0.12)
		if r.Verdict != Fail || r.Faults[0].Code != "crossing" {
			t.Errorf("seed %d: %s %+v", seed, r.Verdict, r.Faults)
		}
	}
}

// Diagonals that cross at an angle are measured, and where they cross.
func TestAnEightWithDiagonals(t *testing.T) {
	for seed := range uint64(12) {
		task := pathTask(t, "{kind: path, shape: eight, centre: centre, radius_m: 3, crossing_deg: 70, height_m: 2, "+
			"within: {cross_m: 1.5, crossing_m: 0.5}}", sides[seed%2], nil)
		fig := task.Steps[0].Path
		for _, off := range []float64{0, 0.8} {
			th := float64(seed)
			f := newFlight(seed)
			f.along(fig, 0, fig.Length, 2, func(_ float64, p drill.Spot) drill.Spot {
				return drill.Spot{X: p.X + off*math.Sin(th), Y: p.Y + off*math.Cos(th), Z: p.Z}
			})
			r := judged(t, task, f.t)
			within(t, "the crossing", r.Steps[0].Metrics["crossing_m"], off, 0.1)
			within(t, "the crossing angle", r.Steps[0].Metrics["crossing_angle_deg"], 70, 4)
			within(t, "the ratio", r.Steps[0].Metrics["radius_ratio"], 1, 0.02)
			if (off == 0) != (r.Verdict == Pass) {
				t.Errorf("seed %d, %v m off: %s %+v", seed, off, r.Verdict, r.Faults)
			}
		}
	}
}

// Flown the other way round, or the other lobe first, is said so; a lobe that comes
// near is never mistaken for the one that is flown.
func TestTheOrderOfFigures(t *testing.T) {
	for _, side := range sides {
		task := pathTask(t, eightStep, side, nil)
		other := pathTask(t, eightStep, side.Other(), nil)
		back, swapped := newFlight(1), newFlight(2)
		back.along(task.Steps[0].Path, 2*task.Steps[0].Path.Length, 0, 2, nil)
		swapped.along(other.Steps[0].Path, 0, 2*task.Steps[0].Path.Length, 2, nil)
		for what, f := range map[string]*flightMade{"backwards": back, "the other lobe first": swapped} {
			r := judged(t, task, f.t)
			found := false
			for _, x := range r.Faults {
				found = found || x.Code == "order"
			}
			if r.Verdict != Fail || !found {
				t.Errorf("%s: %s %+v", what, r.Verdict, r.Faults)
			}
		}
		circle := pathTask(t, "{kind: path, shape: circle, centre: centre, radius_m: 5, height_m: 2, heading: along, "+
			"within: {cross_m: 1, nose_deg: 30}}", side, nil)
		fig := circle.Steps[0].Path
		joined := newFlight(3)
		joined.along(fig, 0.4*fig.Length, 1.39*fig.Length, 2, nil)
		if r := judged(t, circle, joined.t); r.Verdict != Pass || math.Abs(r.Steps[0].Metrics["radius_m"]-5) > 0.02 {
			t.Errorf("a circle that is joined elsewhere: %s %+v %v", r.Verdict, r.Faults, r.Steps[0].Metrics)
		}
		short := newFlight(4)
		short.along(fig, 0, 0.9*fig.Length, 2, nil)
		if r := judged(t, circle, short.t); r.Verdict != Incomplete || r.Steps[0].Waited != "the end of the figure" {
			t.Errorf("nine tenths of a circle: %s %s", r.Verdict, r.Steps[0].Waited)
		}
		wrong := newFlight(5)
		wrong.along(fig, fig.Length, 0, 2, nil)
		if r := judged(t, circle, wrong.t); r.Verdict != Fail || len(r.Faults) != 1 || r.Faults[0].Code != "order" {
			t.Errorf("the other way round: %s %+v", r.Verdict, r.Faults)
		}
	}
}

// An oval whose legs close by 4°, a slant at 41° and a rest of 4.6 s.
func TestKnownErrorsOfOthers(t *testing.T) {
	for seed := range uint64(16) {
		side := sides[seed%2]
		oval := pathTask(t, "{kind: path, shape: oval, centre: centre, length_m: 12, width_m: 8, height_m: 2, within: "+
			"{cross_m: 1.5, legs_angle_deg: 3, end_ratio: 1.2}}", side, nil)
		fig := oval.Steps[0].Path
		half := fig.Length / 2
		lean := newFlight(seed)
		lean.along(fig, 0, fig.Length, 2, func(s float64, p drill.Spot) drill.Spot {
			// The far leg is turned about its middle by 4°, and what joins it is drawn along.
			mid, _ := fig.At(half + fig.Legs/2)
			share := 1.0
			if d := half - s; d > 0 {
				share = math.Max(0, 1-d/(half-fig.Legs))
			} else if d := s - half - fig.Legs; d > 0 {
				share = math.Max(0, 1-d/(half-fig.Legs))
			}
			sin, cos := math.Sincos(4 * math.Pi / 180)
			x, y := p.X-mid.X, p.Y-mid.Y
			return drill.Spot{X: p.X + share*(x*cos-y*sin-x), Y: p.Y + share*(x*sin+y*cos-y), Z: p.Z}
		})
		r := judged(t, oval, lean.t)
		within(t, "the angle of the legs", r.Steps[0].Metrics["legs_angle_deg"], 4, 0.5)
		within(t, "the near leg", r.Steps[0].Metrics["near_leg_m"], 12, 1.2)
		if r.Verdict != Fail || r.Faults[0].Code != "angle" {
			t.Errorf("seed %d: %s %+v %v", seed, r.Verdict, r.Faults, r.Steps[0].Metrics)
		}
		clean := newFlight(seed)
		clean.along(fig, 0, fig.Length, 2, nil)
		if r := judged(t, oval, clean.t); r.Verdict != Pass || r.Steps[0].Metrics["end_ratio"] > 1.03 {
			t.Errorf("seed %d: a clean oval: %s %+v %v", seed, r.Verdict, r.Faults, r.Steps[0].Metrics)
		}

		slant := pathTask(t, "{kind: path, shape: slant, from: [-5, 8, 2], to: [5, 8, 12], within: {cross_m: 2, angle_deg: "+
			"3}}", side, nil)
		fig = slant.Steps[0].Path
		low := newFlight(seed)
		low.along(fig, 0, fig.Length, 2, func(s float64, p drill.Spot) drill.Spot {
			u := s / fig.Length
			return drill.Spot{X: p.X, Y: p.Y, Z: 2 + 10*u*math.Tan(41*math.Pi/180)}
		})
		r = judged(t, slant, low.t)
		within(t, "the slant's angle", r.Steps[0].Metrics["flown_angle_deg"], 41, 0.2)
		if r.Verdict != Fail || r.Faults[0].Code != "angle" {
			t.Errorf("seed %d: %s %+v", seed, r.Verdict, r.Faults)
		}

		over := pathTask(t, "{kind: path, shape: line, points: [[-4, 6, 2], [-4, 6, 6], [4, 6, 6], [4, 6, 2]], rest_s: 5, "+
			"within: {cross_m: 1}}", side, nil)
		fig = over.Steps[0].Path
		for _, rest := range []float64{4.6, 5.4} {
			pause := newFlight(seed)
			pause.noise, pause.hz = 0.004, 10
			pause.along(fig, 0, fig.Corners[0], 1, nil)
			pause.stay(spotAt(fig, fig.Corners[0]), rest)
			pause.along(fig, fig.Corners[0], fig.Corners[1], 1, nil)
			pause.stay(spotAt(fig, fig.Corners[1]), 5.6)
			pause.along(fig, fig.Corners[1], fig.Length, 1, nil)
			r = judged(t, over, pause.t)
			if len(r.Steps[0].Rests) != 2 {
				t.Fatalf("%+v", r.Steps[0])
			}
			within(t, "the rest", r.Steps[0].Rests[0], rest, 0.3)
			within(t, "the least rest", r.Steps[0].Metrics["rest_s"], math.Min(r.Steps[0].Rests[0], r.Steps[0].Rests[1]), 1e-3)
			if (rest < 5) != (r.Verdict == Fail) || (rest < 5 && r.Faults[0].Code != "rest") {
				t.Errorf("a rest of %v s: %s %+v %v", rest, r.Verdict, r.Faults, r.Steps[0].Rests)
			}
		}
		data, err := json.Marshal(r)
		var back Result
		if err != nil || !strings.Contains(string(data), `"rests_s":[`) || json.Unmarshal(data, &back) != nil ||
			!reflect.DeepEqual(back.Steps, r.Steps) {
			t.Errorf("%v %s", err, data)
		}
	}
}

// A stop on a call and the way to a place, against closed forms: braking from v at a
// takes v/a and v²/2a.
func TestStopAndGoTo(t *testing.T) {
	stop := pathTask(t, "{kind: stop, after: call, within: {seconds: 2.5, distance_m: 3}}", field.NoSide, nil)
	for _, brake := range []float64{2, 1} {
		f := newFlight(1)
		f.noise, f.hz = 0, 50
		v, x := 3.0, 0.0
		for f.t.Len() < 1000 {
			if f.t.Len() > 200 {
				v = math.Max(0, v-brake/50)
			}
			x += v / 50
			f.put(drill.Spot{X: x, Y: 8, Z: 3}, 0)
		}
		f.t.Calls = []track.Call{{T: 4, Text: "stop"}}
		r := judged(t, stop, f.t)
		m := r.Steps[0].Metrics
		within(t, "the time to stand", m["stop_s"], (3-drill.RestMps)/brake, 0.15)
		within(t, "the way to stand", m["stop_m"], (9-drill.RestMps*drill.RestMps)/2/brake, 0.15)
		if (brake == 2) != (r.Verdict == Pass) {
			t.Errorf("braking at %v: %s %+v", brake, r.Verdict, r.Faults)
		}
	}
	silent := newFlight(2)
	silent.stay(drill.Spot{Z: 3}, 9)
	if r := judged(t, stop, silent.t); r.Verdict != Incomplete || r.Steps[0].Waited != "a call" {
		t.Errorf("without a call: %s %q", r.Verdict, r.Steps[0].Waited)
	}

	leg := pathTask(t, "{kind: goto, to: [4, 9], height_m: 3, rest_s: 2, within: {cross_m: 0.8, overshoot_m: 0.5, "+
		"height_m: 1}}", field.NoSide, nil)
	for _, past := range []float64{0.3, 0.7} {
		f := newFlight(3)
		f.noise = 0.005
		fig := pathTask(t, fmt.Sprintf("{kind: path, shape: line, points: [[0, 5, 3], [%v, %v, 3], [4, 9, 3]], within: "+
			"{cross_m: 1}}", 4+past/math.Sqrt2, 9+past/math.Sqrt2), field.NoSide, nil).Steps[0].Path
		f.along(fig, 0, fig.Length, 1.5, nil)
		f.stay(drill.Spot{X: 4, Y: 9, Z: 3}, 4)
		r := judged(t, leg, f.t)
		within(t, "how far past", r.Steps[0].Metrics["overshoot_m"], past, 0.06)
		if (past < 0.5) != (r.Verdict == Pass) || !r.Steps[0].Done {
			t.Errorf("%v m past: %s %+v", past, r.Verdict, r.Faults)
		}
	}
}

// Mirrored flights give mirrored results, exactly; a flight that is moved and turned
// with its course gives the same.
func TestPathsMirrorAndTurn(t *testing.T) {
	for seed := range uint64(6) {
		left, right := pathTask(t, eightStep, field.LeftSide, nil), pathTask(t, eightStep, field.RightSide, nil)
		f := newFlight(seed)
		f.along(left.Steps[0].Path, 0, 2*left.Steps[0].Path.Length, 2, func(s float64, p drill.Spot) drill.Spot {
			return drill.Spot{X: p.X + 0.5*math.Sin(s), Y: p.Y + 0.3*math.Cos(s/2), Z: p.Z}
		})
		g := &track.Track{T: f.t.T, Y: f.t.Y, Z: f.t.Z}
		for i := range f.t.X {
			g.X, g.Heading = append(g.X, -f.t.X[i]), append(g.Heading, -f.t.Heading[i])
		}
		a, b := judged(t, left, f.t), judged(t, right, g)
		if a.Verdict != b.Verdict || !reflect.DeepEqual(a.Steps[0].Metrics, b.Steps[0].Metrics) ||
			!reflect.DeepEqual(a.Margin, b.Margin) {
			t.Errorf("seed %d: %s %v and %s %v", seed, a.Verdict, a.Steps[0].Metrics, b.Verdict, b.Steps[0].Metrics)
		}
	}
	// The figure is laid from its markers: moved, they move it.
	at := field.Point{X: 40, Y: -7}
	laid, _ := course.Lay("eight", craft.Light)
	moved := laid.Clone()
	moved.Station = at
	for name, p := range moved.Markers {
		moved.Markers[name] = field.Point{X: p.X + at.X, Y: p.Y + at.Y}
	}
	home, away := pathTask(t, eightStep, field.LeftSide, laid), pathTask(t, eightStep, field.LeftSide, moved)
	f := newFlight(7)
	f.along(home.Steps[0].Path, 0, 2*home.Steps[0].Path.Length, 2, nil)
	g := &track.Track{T: f.t.T, Z: f.t.Z, Heading: f.t.Heading}
	for i := range f.t.X {
		g.X, g.Y = append(g.X, f.t.X[i]+at.X), append(g.Y, f.t.Y[i]+at.Y)
	}
	a, b := judged(t, home, f.t), judged(t, away, g)
	for k, v := range a.Steps[0].Metrics {
		within(t, "moved, "+k, b.Steps[0].Metrics[k], v, 2e-4)
	}
}

// The fits recover arcs and lines from noisy parts of them.
func TestFits(t *testing.T) {
	r := rand.New(rand.NewPCG(2, 2))
	for range 200 {
		c, radius := field.Point{X: 20 * r.NormFloat64(), Y: 20 * r.NormFloat64()}, 1+9*r.Float64()
		var arc, line []field.Point
		begin, span := 6*r.Float64(), 2+4*r.Float64()
		course := field.Angle(6 * r.Float64()).Wrap()
		for i := range 200 {
			th := begin + span*float64(i)/200
			arc = append(arc, field.Point{X: c.X + radius*math.Cos(th) + 0.02*r.NormFloat64(), Y: c.Y + radius*math.Sin(th) +
				0.02*r.NormFloat64()})
			sin, cos := math.Sincos(float64(course))
			line = append(line, field.Point{X: c.X + float64(i)/20*sin + 0.02*r.NormFloat64(), Y: c.Y + float64(i)/20*cos +
				0.02*r.NormFloat64()})
		}
		at, got, ok := circleFit(arc)
		if !ok || at.Dist(c) > 0.05 || math.Abs(got-radius) > 0.05 {
			t.Fatalf("a circle of %.2f m at %v is fitted as %.2f m at %v", radius, c, got, at)
		}
		if _, dir, ok := lineFit(line); !ok || (dir-course).Wrap().Abs().Deg() > 0.2 {
			t.Fatalf("a line on %.2f° is fitted on %.2f°", course.Deg(), dir.Deg())
		}
	}
	if _, _, ok := circleFit([]field.Point{{X: 1}, {X: 1}, {X: 1}, {X: 1}, {X: 1}}); ok {
		t.Error("one place is a circle")
	}
}

func BenchmarkScoreEight(b *testing.B) {
	task := pathTask(b, strings.Replace(eightStep, "laps: 2", "laps: 20", 1), field.LeftSide, nil)
	f := newFlight(1)
	f.hz = 50
	f.along(task.Steps[0].Path, 0, 20*task.Steps[0].Path.Length, 1.7, nil)
	b.ReportAllocs()
	for b.Loop() {
		judged(b, task, f.t)
	}
	b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(b.N)/float64(f.t.Len()), "ns/sample")
}

// A stop that turns over stands only once it has been upside down; a log without roll and
// pitch says that this was not judged.
func TestTurnedOverOnce(t *testing.T) {
	d, err := drill.Parse([]byte(`format: maestrale-drill/1
key: flip
title: Flip
family: goggles
purpose: x
caution: x
setup: {course: box}
levels: [{}]
steps:
  - {kind: stop, after: call, over: true, within: {seconds: 6, distance_m: 5}}
max_faults: 0
`))
	if err != nil {
		t.Fatal(err)
	}
	task, err := d.Lay(field.NoSide, 1, craft.Light, nil)
	if err != nil {
		t.Fatal(err)
	}
	fly := func(over, attitude bool) *Result {
		tr := &track.Track{Calls: []track.Call{{T: 1}}}
		for i := range 500 {
			s := float64(i) / 50
			x, roll := 0.0, field.Angle(0)
			if u := s - 1.5; u > 0 && u < 0.8 { // it moves and turns
				x = u
				if over {
					roll = field.Degrees(360 * u / 0.8).Wrap()
				}
			} else if u >= 0.8 {
				x = 0.8
			}
			tr.T, tr.X, tr.Y, tr.Z = append(tr.T, s), append(tr.X, x), append(tr.Y, 6), append(tr.Z, 5)
			if attitude {
				tr.Roll, tr.Pitch = append(tr.Roll, roll), append(tr.Pitch, 0)
			}
		}
		r, err := Track(task, tr, FromLog)
		if err != nil {
			t.Fatal(err)
		}
		return r
	}
	if r := fly(true, true); r.Verdict != Pass || math.Abs(r.Steps[0].Metrics["stop_s"]-1.3) > 0.2 {
		t.Errorf("turned over: %+v", r)
	}
	if r := fly(false, true); r.Verdict != Incomplete || r.Steps[0].Waited != "a turn over, and a second at rest" {
		t.Errorf("stayed level: %s %q", r.Verdict, r.Steps[0].Waited)
	}
	if r := fly(true, false); len(r.Unjudged) == 0 || !strings.Contains(strings.Join(r.Unjudged, ";"),
		"turned over: the log has no roll and pitch") {
		t.Errorf("%v", r.Unjudged)
	}
}
