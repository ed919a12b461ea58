package score

import (
	"encoding/json"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"maestrale/bench/bare"
	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/track"
)

func TestHoverToAPass(t *testing.T) {
	p := hover(0.02)
	p.slide(0.2, 0, 1).up(0, 3).wait(2)
	r := scored(t, shipped(t, "hover-tail-in", field.NoSide, 1), &p.t)
	if r.Verdict != Pass || len(r.Faults) != 0 || len(r.Unjudged) != 0 {
		t.Fatalf("%s, faults %v, unjudged %v", r.Verdict, r.Faults, r.Unjudged)
	}
	// On the ground until z = 0.05 m, which at 0.5 m/s is 0.1 s into the climb;
	// within 0.3 m of 1.5 m at 1.2 m; the craft is inside at once, and a second
	// later the clock of the hold starts.
	for _, c := range []struct {
		step       int
		start, end float64
	}{{0, 2.1, 4.4}, {1, 5.4, 25.4}, {2, 28 + 1.0, 31 + 1.1}} {
		s := r.Steps[c.step]
		if !s.Done || !close3(s.StartS, c.start) || (c.step < 2 && !close3(s.EndS, c.end)) {
			t.Errorf("step %d: %v, from %v to %v, want %v to %v", c.step, s.Done, *s.StartS, *s.EndS, c.start, c.end)
		}
	}
	land := r.Steps[2].Metrics
	if math.Abs(land["offset_m"]-0.2) > 1e-6 || math.Abs(land["sink_mps"]-0.5) > 1e-6 || land["bounces"] != 0 {
		t.Errorf("landing %v", land)
	}
	// The worst share is the sink rate; the way into the place is not judged.
	if r.Margin == nil || math.Abs(*r.Margin-(1-0.5/1.0)) > 1e-3 || r.Steps[1].Metrics["height_max_m"] > 0.01 {
		t.Errorf("margin %v, metrics %v", *r.Margin, r.Steps[1].Metrics)
	}
	if math.Abs(r.AspectS[0]-20) > 0.01 {
		t.Errorf("seconds by sector %v", r.AspectS)
	}
}

// A craft that leaves the box sideways at a known speed does so at a known
// moment, wherever the samples lie.
func TestLeavingAndReturningAreInterpolated(t *testing.T) {
	for _, dt := range []float64{0.02, 0.05, 0.1, 0.13} {
		for _, dir := range []struct {
			dx, dy float64
			toward string
		}{{1, 0, "right"}, {-1, 0, "left"}, {0, 1, "away"}, {0, -1, "toward"}} {
			// Six seconds in, one metre of box is left behind at 0.5 m/s.
			steps := func(s float64) float64 { return math.Round(s/dt) * dt }
			p := newPilot(dt, 0, 6).wait(steps(1)).up(1.5, steps(2))
			began := p.now
			p.wait(steps(6))
			leaves := p.now
			p.slide(1.3*dir.dx, 1.3*dir.dy, steps(3)).slide(-1.3*dir.dx, -1.3*dir.dy, steps(3)).wait(21)
			speed := 1.3 / steps(3)
			r := scored(t, shipped(t, "hover-tail-in", field.NoSide, 1), &p.t)
			if r.Verdict != Fail || len(r.Faults) != 1 {
				t.Fatalf("dt %v: %s %v", dt, r.Verdict, r.Faults)
			}
			f := r.Faults[0]
			out, back := leaves+1/speed, leaves+(1.3+0.3)/speed
			if f.Code != LeftBox || f.Toward != dir.toward || math.Abs(f.TS-out) > 1e-3 || math.Abs(*f.Value-1.3) > 1e-3 {
				t.Errorf("dt %v: %+v, want %s at %.3f", dt, f, dir.toward, out)
			}
			if hold := r.Steps[1]; !hold.Done || !close3(hold.EndS, back+1+20) {
				t.Errorf("dt %v: the second stay ends at %v, want %v", dt, *hold.EndS, back+21)
			}
			if first := out - began; first < 1 {
				t.Fatal("the test leaves before the clock runs")
			}
			if r.Margin == nil || math.Abs(*r.Margin+0.3) > 1e-3 {
				t.Errorf("a fail 0.3 m outside a metre has the margin %v", *r.Margin)
			}
		}
	}
}

func TestABriefPassThroughTheBoxIsNoFault(t *testing.T) {
	p := newPilot(0.02, 0, 6).wait(1).to(3, 6, 1.5, 0, 2)
	p.slide(-6, 0, 2) // through the box and out within a second
	p.slide(3, 0, 2).wait(21).up(0, 3).wait(2)
	r := scored(t, shipped(t, "hover-tail-in", field.NoSide, 1), &p.t)
	if r.Verdict != Pass {
		t.Errorf("%s %v", r.Verdict, r.Faults)
	}
}

func TestVerdictsAndTheirOrder(t *testing.T) {
	task := shipped(t, "hover-tail-in", field.NoSide, 1)
	short := newPilot(0.02, 0, 6).wait(1).up(1.5, 2).wait(12)
	r := scored(t, task, &short.t)
	if r.Verdict != Incomplete || r.Steps[1].Done || r.Steps[1].Waited == "" || r.Steps[2].StartS != nil {
		t.Errorf("a short hover: %s %+v", r.Verdict, r.Steps[1])
	}
	if in := r.Steps[1].Metrics["inside_s"]; r.Margin == nil || math.Abs(*r.Margin-(1-20/in)) > 1e-3 {
		t.Errorf("a missed time counts as asked over flown: margin %v, inside %v", *r.Margin, in)
	}
	short.slide(2, 0, 1)
	if r := scored(t, task, &short.t); r.Verdict != Fail {
		t.Errorf("a fault comes before incomplete: %s", r.Verdict)
	}
	task.Drill.MaxFaults = 1
	p := newPilot(0.02, 0, 6).wait(1).up(1.5, 2).wait(5).slide(1.2, 0, 1).slide(-1.2, 0, 1).wait(21).up(0, 3).wait(2)
	r = scored(t, task, &p.t)
	if r.Verdict != Pass || len(r.Faults) != 1 || *r.Margin < 0 {
		t.Errorf("a forgiven fault: %s, margin %v", r.Verdict, *r.Margin)
	}
	ground := newPilot(0.02, 0, 6).wait(5)
	if r := scored(t, task, &ground.t); r.Verdict != Incomplete || r.Margin != nil {
		t.Errorf("nothing flown: %s, margin %v", r.Verdict, r.Margin)
	}
}

func TestTimeOut(t *testing.T) {
	p := newPilot(0.02, 0, 6).wait(1).up(0.5, 1).wait(20).up(1.5, 1).wait(21).up(0, 3).wait(2)
	r := scored(t, shipped(t, "hover-tail-in", field.NoSide, 1), &p.t)
	if r.Verdict != Fail || len(r.Faults) != 1 || r.Faults[0].Code != TimeOut || *r.Faults[0].Value < 20 {
		t.Errorf("%s %+v", r.Verdict, r.Faults)
	}
}

func TestLandingFaults(t *testing.T) {
	land := func(p *pilot) *Result {
		t.Helper()
		for range p.t.T {
			p.t.Roll, p.t.Pitch = append(p.t.Roll, 0), append(p.t.Pitch, 0)
		}
		return scored(t, shipped(t, "landing-pad", field.NoSide, 1), &p.t)
	}
	base := func() *pilot { return newPilot(0.02, 0, 6).wait(1).up(2, 2).wait(5) }
	for _, c := range []struct {
		name  string
		p     *pilot
		code  Code
		value float64
		to    string
	}{
		{"far off", base().to(0, 5, 0, 0, 4).wait(2), Offset, 0.975, "toward"}, // 0.05 m up it is still 2.5 cm short
		{"hard", base().up(0, 1).wait(2), Sink, 2, "down"},
		{"bouncing", base().up(0, 4).up(0.2, 0.4).up(0, 0.4).wait(2), Bounce, 0.2, "up"},
	} {
		r := land(c.p)
		if r.Verdict != Fail || len(r.Faults) != 1 || r.Faults[0].Code != c.code ||
			math.Abs(*r.Faults[0].Value-c.value) > 0.01 || r.Faults[0].Toward != c.to {
			t.Errorf("%s: %s %+v", c.name, r.Verdict, r.Faults)
		}
	}
	p := base().up(0, 4).wait(2)
	for range p.t.T {
		p.t.Roll, p.t.Pitch = append(p.t.Roll, field.Degrees(12)), append(p.t.Pitch, field.Degrees(9))
	}
	r := scored(t, shipped(t, "landing-pad", field.NoSide, 1), &p.t)
	want := field.Angle(math.Acos(math.Cos(float64(field.Degrees(12))) * math.Cos(float64(field.Degrees(9))))).Deg()
	if len(r.Faults) != 1 || r.Faults[0].Code != Tilt || math.Abs(*r.Faults[0].Value-want) > 0.01 {
		t.Errorf("leaning: %+v", r.Faults)
	}
	q := base().up(0, 4).wait(0.5)
	if r := land(q); r.Verdict != Incomplete || !strings.Contains(r.Steps[2].Waited, "standing still") {
		t.Errorf("a log that ends half a second after the touch: %s %q", r.Verdict, r.Steps[2].Waited)
	}
}

// quarter flies the quarter turn and back; by is the first turn in degrees, + right.
func quarter(by, seconds float64) *pilot {
	p := newPilot(0.02, 0, 6).wait(1).up(1.5, 2).wait(5)
	return p.turn(by, seconds).wait(5).turn(-by, seconds).wait(5).up(0, 4).wait(2)
}

func TestTurns(t *testing.T) {
	left, right := shipped(t, "yaw-quarter", field.LeftSide, 1), shipped(t, "yaw-quarter", field.RightSide, 1)
	r := scored(t, left, &quarter(-90, 3).t)
	if r.Verdict != Pass {
		t.Fatalf("left: %s %+v", r.Verdict, r.Faults)
	}
	m := r.Steps[2].Metrics
	if math.Abs(m["rate_dps"]-30) > 0.1 || math.Abs(m["turned_deg"]-90) > 0.5 || m["drift_max_m"] > 1e-9 {
		t.Errorf("the turn measured %v", m)
	}
	// Out of first heading by 5° at 30°/s, that is 1/6 s after 8 s.
	if !close3(r.Steps[2].StartS, 8+5.0/30) {
		t.Errorf("the turn begins at %v", *r.Steps[2].StartS)
	}
	for sector, s := range r.AspectS {
		if s > 0 && sector > 0 && sector < 12 {
			t.Errorf("flown in sector %d", sector)
		}
	}
	if r := scored(t, right, &quarter(-90, 3).t); r.Verdict != Fail || r.Faults[0].Code != WrongWay ||
		math.Abs(*r.Faults[0].Value-90) > 1 {
		t.Errorf("the wrong way round: %s %+v", r.Verdict, r.Faults)
	}
	if r := scored(t, left, &quarter(-90, 1).t); r.Verdict != Fail || r.Faults[0].Code != Speed ||
		math.Abs(*r.Faults[0].Value-90) > 0.5 {
		t.Errorf("too quick: %s %+v", r.Verdict, r.Faults)
	}
	over := newPilot(0.02, 0, 6).wait(1).up(1.5, 2).wait(5).turn(-150, 2.7).turn(60, 2).wait(5)
	if r := scored(t, left, &over.t); r.Faults[0].Code != Overshoot || math.Abs(*r.Faults[0].Value-60) > 0.5 ||
		!r.Steps[2].Done {
		t.Errorf("too far: %+v", r.Faults)
	}
	drift := newPilot(0.02, 0, 6).wait(1).up(1.5, 2).wait(5).to(2, 6, 1.5, -90, 4)
	if r := scored(t, left, &drift.t); r.Faults[0].Code != LeftBox || r.Faults[0].Toward != "right" ||
		*r.Faults[0].Value < 1.8 {
		t.Errorf("drifting: %+v", r.Faults)
	}
	never := newPilot(0.02, 0, 6).wait(1).up(1.5, 2).wait(9)
	if r := scored(t, left, &never.t); r.Verdict != Incomplete || !strings.Contains(r.Steps[2].Waited, "5°") {
		t.Errorf("never turned: %s %q", r.Verdict, r.Steps[2].Waited)
	}
}

// At two samples a second a turn begins and passes its first tenth within one
// of them; its rate is still the one that was flown.
func TestACoarseLogOfATurn(t *testing.T) {
	for _, dt := range []float64{0.02, 0.25, 0.5} {
		p := newPilot(dt, 0, 6).wait(1).up(1.5, 2).wait(5).turn(-90, 2).wait(5).turn(90, 2).wait(5).up(0, 4).wait(3)
		r := scored(t, shipped(t, "yaw-quarter", field.LeftSide, 1), &p.t)
		m := r.Steps[2].Metrics
		if r.Verdict != Pass || math.Abs(m["rate_dps"]-45) > 0.01 || !close3(r.Steps[2].StartS, 8+5.0/45) {
			t.Errorf("dt %v: %s, rate %v, begins at %v", dt, r.Verdict, m["rate_dps"], *r.Steps[2].StartS)
		}
	}
}

func TestWithoutHeadingPlaceAloneIsScored(t *testing.T) {
	p := hover(0.02)
	p.up(0, 3).wait(2)
	p.t.Heading = nil
	r := scored(t, shipped(t, "hover-tail-in", field.NoSide, 1), &p.t)
	if r.Verdict != Pass || len(r.Unjudged) != 1 || !strings.Contains(r.Unjudged[0], "nose_max_deg") {
		t.Errorf("%s %v", r.Verdict, r.Unjudged)
	}
	if _, ok := r.Steps[1].Metrics["nose_max_deg"]; ok {
		t.Error("a heading was made up")
	}
}

func TestTooFineForThisLog(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 8))
	for _, sigma := range []float64{0.02, 0.1, 0.7} {
		p := hover(0.02)
		p.up(0, 3).wait(2)
		for i := range p.t.X {
			p.t.X[i] += r.NormFloat64() * sigma
			p.t.Y[i] += r.NormFloat64() * sigma
		}
		res := scored(t, shipped(t, "hover-tail-in", field.NoSide, 1), &p.t)
		if got := res.Log.PlaceM; math.Abs(got/sigma-1) > 0.1 {
			t.Errorf("noise of %v m was estimated as %v", sigma, got)
		}
		fine := slices.ContainsFunc(res.Unjudged, func(u string) bool {
			return strings.Contains(u, "radius_max_m: too fine for this log")
		})
		if fine != (sigma > 0.5) {
			t.Errorf("noise %v m, box 1 m: unjudged %v", sigma, res.Unjudged)
		}
	}
	p := hover(0.02)
	for range p.t.T {
		p.t.AccuracyM = append(p.t.AccuracyM, 2.5)
	}
	res := scored(t, shipped(t, "hover-tail-in", field.NoSide, 1), &p.t)
	if !slices.ContainsFunc(res.Unjudged, func(u string) bool { return strings.Contains(u, "radius_max_m: too fine") }) {
		t.Errorf("reported accuracy 2.5 m, box 1 m: unjudged %v", res.Unjudged)
	}
}

// wander is a flight with errors of every kind, for the properties below.
func wander(r *rand.Rand, dt float64) *track.Track {
	p := newPilot(dt, 0.2, 6).wait(1).up(1.4, 2)
	for range 8 {
		p.to(r.NormFloat64()*0.5, 6+r.NormFloat64()*0.5, 1.5+r.NormFloat64()*0.2, r.NormFloat64()*15, 1+r.Float64()*4)
	}
	p.turn(-90+r.NormFloat64()*20, 2+r.Float64()*2).wait(4).turn(90, 3).wait(6)
	p.to(r.NormFloat64()*0.4, 6, 0.3, 0, 2).up(0, 0.5).up(r.Float64()*0.2, 0.3).up(0, 0.3).wait(2)
	return &p.t
}

func TestMirroredTracksGiveMirroredResultsExactly(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 9))
	flip := strings.NewReplacer(`"left"`, `"right"`, `"right"`, `"left"`, "to the left", "to the right", "to the right",
		"to the left")
	for range 60 {
		tr := wander(r, 0.02)
		mirror := &track.Track{T: tr.T, Y: tr.Y, Z: tr.Z}
		for i := range tr.X {
			mirror.X = append(mirror.X, -tr.X[i])
			mirror.Heading = append(mirror.Heading, -tr.Heading[i])
		}
		for _, key := range []string{"yaw-quarter", "hover-tail-in", "landing-pad"} {
			side := field.NoSide
			if key == "yaw-quarter" {
				side = field.LeftSide
			}
			a := scored(t, shipped(t, key, side, 1), tr)
			b := scored(t, shipped(t, key, side.Other(), 1), mirror)
			for i := range b.Faults {
				if b.Faults[i].At != nil {
					b.Faults[i].At.X = -b.Faults[i].At.X
				}
			}
			slices.Reverse(b.AspectS[1:])
			ja, _ := json.Marshal(a)
			jb, _ := json.Marshal(b)
			if got := flip.Replace(string(jb)); strings.ReplaceAll(got, "-0,", "0,") != strings.ReplaceAll(string(ja), "-0,",
				"0,") {
				t.Fatalf("%s:\n%s\n%s", key, ja, got)
			}
		}
	}
}

// A field turned about the pilot changes nothing for rules that are relative
// to the sight line.
func TestTurnedWithItsCourse(t *testing.T) {
	r := rand.New(rand.NewPCG(10, 10))
	d, _ := drill.Shipped().Drill("hover-tail-in")
	for range 40 {
		tr, by := wander(r, 0.02), r.Float64()*6-3
		sin, cos := math.Sincos(by)
		turned := &track.Track{T: tr.T, Z: tr.Z}
		for i := range tr.X {
			turned.X = append(turned.X, tr.X[i]*cos+tr.Y[i]*sin)
			turned.Y = append(turned.Y, tr.Y[i]*cos-tr.X[i]*sin)
			turned.Heading = append(turned.Heading, tr.Heading[i]+field.Angle(by))
		}
		at := field.Point{X: 6 * sin, Y: 6 * cos}
		task, err := d.Lay(field.NoSide, 1, craft.Light, &course.Course{Markers: map[string]field.Point{"pad": at,
			"centre": at}})
		if err != nil {
			t.Fatal(err)
		}
		a, b := scored(t, shipped(t, "hover-tail-in", field.NoSide, 1), tr), scored(t, task, turned)
		if a.Verdict != b.Verdict || len(a.Faults) != len(b.Faults) || (a.Margin != nil &&
			math.Abs(*a.Margin-*b.Margin) > 1e-3) {
			t.Fatalf("%s %v, turned %s %v", a.Verdict, *a.Margin, b.Verdict, *b.Margin)
		}
		for i := range a.Faults {
			if a.Faults[i].Code != b.Faults[i].Code || math.Abs(a.Faults[i].TS-b.Faults[i].TS) > 2e-3 {
				t.Fatalf("%+v, turned %+v", a.Faults[i], b.Faults[i])
			}
		}
	}
}

func TestMargins(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 11))
	for range 200 {
		res := scored(t, shipped(t, "yaw-quarter", field.LeftSide, 1), wander(r, 0.02))
		for _, s := range res.Steps {
			for k, v := range s.Metrics {
				if math.IsNaN(v) || math.IsInf(v, 0) || v < 0 && k != "turned_deg" {
					t.Fatalf("%s is %v", k, v)
				}
			}
		}
		if res.Verdict == Pass && (res.Margin == nil || *res.Margin < 0) {
			t.Fatalf("a pass with the margin %v", res.Margin)
		}
		if !slices.IsSortedFunc(res.Faults, func(a, b Fault) int {
			if a.TS < b.TS {
				return -1
			}
			return 1
		}) {
			t.Fatal("faults out of order")
		}
	}
}

func TestNth(t *testing.T) {
	r := rand.New(rand.NewPCG(12, 12))
	for range 500 {
		v := make([]float64, 1+r.IntN(40))
		for i := range v {
			v[i] = float64(r.IntN(10))
		}
		k := r.IntN(len(v))
		sorted := slices.Clone(v)
		slices.Sort(sorted)
		if got := nth(v, k); got != sorted[k] {
			t.Fatalf("nth %d of %v is %v", k, sorted, got)
		}
	}
}

// tenMinutes is a flight of ten minutes at 50 Hz that never completes its hold.
func tenMinutes(n int) (drill.Task, *track.Track) {
	r := rand.New(rand.NewPCG(13, 13))
	d, _ := drill.Shipped().Drill("hover-tail-in")
	task, _ := d.Lay(field.NoSide, 1, craft.Light, nil)
	task.Steps[1].Seconds = 1e9
	p := newPilot(0.02, 0, 6).wait(1).up(1.5, 2)
	for p.t.Len() < n {
		p.to(r.NormFloat64()*0.45, 6+r.NormFloat64()*0.45, 1.5+r.NormFloat64()*0.15, r.NormFloat64()*10, 1+r.Float64()*2)
	}
	return task, &p.t
}

func TestNoAllocationPerSample(t *testing.T) {
	allocs := func(n int) float64 {
		task, tr := tenMinutes(n)
		task.Drill.MaxFaults = 1000
		task.Steps[1].Limits.Radius = 5 // one stay, so that faults do not count as samples
		task.Steps[1].Limits.Nose = 3
		return testing.AllocsPerRun(5, func() { _, _ = Track(task, tr, FromLog) })
	}
	if short, long := allocs(6000), allocs(30000); long > short+3 {
		t.Errorf("%v allocations for 6,000 samples, %v for 30,000", short, long)
	}
}

func BenchmarkScore(b *testing.B) {
	task, tr := tenMinutes(30000)
	b.ReportAllocs()
	for b.Loop() {
		if _, err := Track(task, tr, FromLog); err != nil {
			b.Fatal(err)
		}
	}
	b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(b.N)/float64(tr.Len()), "ns/sample")
}

// Whatever can be read can be scored, to a result that can be written down.
func FuzzTrack(f *testing.F) {
	f.Add("t_s,x_m,y_m,z_m,heading_deg,roll_deg,pitch_deg\n0,0,6,0,0,0,0\n1,0,6,0,0,0,0\n3,0,6,1.5,0,0,0\n" +
		"26,1.5,6,1.5,-90,0,0\n30,0,6,0,0,3,1\n31,0,6,0.2,0,0,0\n32,0,6,0,0,0,0\n")
	f.Add("t_s,x_m,y_m,z_m,heading_deg,throttle,yaw,pitch,roll,call\n0,0,35,10,90,0,0,0.5,0,home\n" +
		"2,0,36,10,90,0,0,0.5,0,\n4,1,30,12,100,0,0.4,-0.5,0,fix-lost\n9,0,9,2,0,0,0,0,0,turn 90\n12,0,8,0,0,0,0,0,0,\n" +
		"14,0,8,0,0,0,0,0,0,\n")
	f.Add("t_s,x_m,y_m,z_m,accuracy_m\n0,0,6,0,2\n5,0,6,1.5,2\n40,0,6,0,2\n")
	f.Fuzz(func(t *testing.T, data string) {
		tr, _, err := track.ReadCSV(strings.NewReader(data), track.CSVOptions{})
		if err != nil || tr.Len() < 2 {
			return
		}
		for _, d := range catalogue().InOrder() {
			for _, side := range d.Sides() {
				r := scored(t, shipped(t, d.Key, side, 1), tr)
				if _, err := json.Marshal(r); err != nil {
					t.Fatal(err)
				}
				if len(r.Faults) > 0 && r.Verdict != Fail {
					t.Fatalf("%s with %d faults", r.Verdict, len(r.Faults))
				}
			}
		}
	})
}

// BenchmarkOnePassColumns is what BenchmarkScore is held to: one pass over the same columns that asks of each sample
// whether it lies within the radius, the height and the nose.
func BenchmarkOnePassColumns(b *testing.B) {
	_, tr := tenMinutes(30000)
	in := 0
	for b.Loop() {
		in = bare.Columns(tr.X, tr.Y, tr.Z, tr.Heading)
	}
	if in == 0 {
		b.Fatal("nothing is within")
	}
}
