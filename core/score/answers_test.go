package score

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/track"
)

func (f *flightMade) now() float64 { return float64(f.t.Len()) / f.hz }

func (f *flightMade) call(text string) {
	f.t.Calls = append(f.t.Calls, track.Call{T: f.now(), Text: text})
}

// to goes to a place in a straight line.
func (f *flightMade) to(p drill.Spot, speed float64) {
	n := f.t.Len() - 1
	a := drill.Spot{X: f.t.X[n], Y: f.t.Y[n], Z: f.t.Z[n]}
	d := math.Sqrt((p.X-a.X)*(p.X-a.X) + (p.Y-a.Y)*(p.Y-a.Y) + (p.Z-a.Z)*(p.Z-a.Z))
	for i := range int(d / speed * f.hz) {
		u := float64(i+1) * speed / d / f.hz
		f.put(drill.Spot{X: a.X + (p.X-a.X)*u, Y: a.Y + (p.Y-a.Y)*u, Z: a.Z + (p.Z-a.Z)*u}, 0)
	}
}

const dodgeStep = "{kind: hold, at: [0, 8], height_m: 2, seconds: 4, within: {radius_m: 1, height_m: 0.8}, during: " +
	"[{event: dodge-left, at: random, within: {seconds: 3, distance_m: 1.5}, then: resume}]}"

// A dodge whose reaction and speed are known is timed, to either side; the wrong way
// first is a fault, and so is coming late; leaving the box to dodge is none.
func TestDodge(t *testing.T) {
	for seed := range uint64(20) {
		side := sides[seed%2]
		way := map[field.Side]float64{field.LeftSide: -1, field.RightSide: 1}[side]
		task := pathTask(t, dodgeStep, side, nil)
		r := rand.New(rand.NewPCG(seed, 4))
		fly := func(reaction, speed, first float64) *Result {
			f := newFlight(seed)
			f.noise = 0.004
			f.stay(drill.Spot{Y: 8, Z: 2}, 3+2*r.Float64())
			f.call(fmt.Sprintf("dodge %s", side))
			f.stay(drill.Spot{Y: 8, Z: 2}, reaction)
			if first > 0 {
				f.to(drill.Spot{X: -way * first, Y: 8, Z: 2}, speed)
			}
			f.to(drill.Spot{X: way * 2.2, Y: 8, Z: 2}, speed)
			f.to(drill.Spot{Y: 8, Z: 2}, 1.5)
			f.stay(drill.Spot{Y: 8, Z: 2}, 6)
			return judged(t, task, f.t)
		}
		reaction, speed := 0.3+0.5*r.Float64(), 1+r.Float64()
		good := fly(reaction, speed, 0)
		if good.Verdict != Pass {
			t.Fatalf("seed %d: a good dodge is %s: %+v", seed, good.Verdict, good.Faults)
		}
		within(t, "the dodge", good.Steps[0].Metrics["answer_s"], reaction+1.5/speed, 0.2)
		within(t, "its margin", *good.Margin, 1-good.Steps[0].Metrics["answer_s"]/3, 1e-3)
		late := fly(3.5, speed, 0)
		if late.Verdict != Fail || late.Faults[0].Code != "late" || !strings.Contains(late.Faults[0].Text, "answered after") {
			t.Errorf("a late dodge: %s %+v", late.Verdict, late.Faults)
		}
		wrong := fly(0.3, 2, 0.9)
		if wrong.Verdict != Fail || wrong.Faults[0].Code != WrongWay || wrong.Faults[0].Toward != string(side) {
			t.Errorf("the wrong way first: %s %+v", wrong.Verdict, wrong.Faults)
		}
	}
	// Without the call nothing was asked, and the step is not done.
	f := newFlight(1)
	f.stay(drill.Spot{Y: 8, Z: 2}, 20)
	if r := judged(t, pathTask(t, dodgeStep, field.LeftSide, nil), f.t); r.Verdict != Incomplete ||
		!strings.Contains(r.Steps[0].Waited, "call") {
		t.Errorf("%s, waited for %q", r.Verdict, r.Steps[0].Waited)
	}
}

// What befalls the craft is found by its name: brought to rest within a time and a
// distance, and then the stay begins anew.
func TestFailureIsAnswered(t *testing.T) {
	step := "{kind: hold, at: [0, 8], height_m: 2, seconds: 4, within: {radius_m: 1, height_m: 0.8}, during: [{event: " +
		"fix-lost, at: 3, within: {seconds: 6, distance_m: 4}, then: %s}]}"
	for seed := range uint64(12) {
		drift, far := 0.8+0.1*float64(seed%5), 1.5+float64(seed%3)
		for _, then := range []string{"resume", "end"} {
			task := pathTask(t, fmt.Sprintf(step, then), field.NoSide, nil)
			f := newFlight(seed)
			f.noise = 0.004
			f.stay(drill.Spot{Y: 8, Z: 2}, 4)
			f.call("someone walks behind") // a call is not the failure
			f.stay(drill.Spot{Y: 8, Z: 2}, 1)
			f.call("fix-lost")
			f.to(drill.Spot{X: far, Y: 8, Z: 2}, drift)
			f.stay(drill.Spot{X: far, Y: 8, Z: 2}, 2)
			f.to(drill.Spot{Y: 8, Z: 2}, 1.5)
			f.stay(drill.Spot{Y: 8, Z: 2}, 6)
			r := judged(t, task, f.t)
			if took := far / drift; (r.Verdict == Pass) != (took < 6 && far < 4) {
				t.Fatalf("seed %d, %s: %.1f m in %.1f s is %s: %+v", seed, then, far, took, r.Verdict, r.Faults)
			}
			within(t, "how far", r.Steps[0].Metrics["answer_m"], far, 0.15)
			within(t, "how long", r.Steps[0].Metrics["answer_s"], far/drift, 0.3)
			if end := *r.Steps[0].EndS; then == "end" && math.Abs(end-(5+far/drift+1)) > 0.4 {
				t.Errorf("it ends at %.1f s", end)
			}
		}
	}
}

// A figure goes on after a call where it was left.
func TestCallOnTheWay(t *testing.T) {
	task := pathTask(t, "{kind: path, shape: circle, centre: [0, 12], radius_m: 5, height_m: 2, within: {cross_m: 1, "+
		"height_m: 1}, during: [{event: call, at: random, within: {seconds: 3, distance_m: 2}}]}", field.RightSide, nil)
	fig := task.Steps[0].Path
	for seed := range uint64(10) {
		f := newFlight(seed)
		f.noise = 0.004
		at := fig.Length * (0.3 + 0.04*float64(seed))
		f.along(fig, 0, at, 2, nil)
		f.call("stop")
		here, _ := fig.At(at + 0.8)
		if seed%2 == 1 { // carried far before it stands
			f.to(drill.Spot{X: here.X, Y: here.Y + 2.8, Z: 2}, 1.5)
		} else {
			f.to(here, 1)
		}
		f.stay(drill.Spot{X: f.t.X[f.t.Len()-1], Y: f.t.Y[f.t.Len()-1], Z: 2}, 2)
		f.to(here, 1)
		f.along(fig, at+0.8, fig.Length*1.01, 2, nil)
		r := judged(t, task, f.t)
		if !r.Steps[0].Done || (seed%2 == 0) != (r.Verdict == Pass) {
			t.Errorf("seed %d: %s, %+v %+v", seed, r.Verdict, r.Faults, r.Steps[0].Metrics)
		}
	}
}

// A flight home is measured: its climb, when it was taken over, where it landed.
func TestReturn(t *testing.T) {
	withSticks := func(f *flightMade, overAt float64) {
		for _, s := range []*[]float64{&f.t.StickThrottle, &f.t.StickYaw, &f.t.StickPitch, &f.t.StickRoll} {
			*s = make([]float64, f.t.Len())
		}
		for i := range f.t.T {
			if d := f.t.T[i] - overAt; d >= 0 && d < 0.5 {
				f.t.StickPitch[i] = -0.4
			}
		}
	}
	over := pathTask(t, "{kind: return, trigger: asked, take_over_after_s: 4}", field.NoSide, nil)
	for _, taken := range []float64{2, 4.5, 8} {
		f := newFlight(uint64(taken))
		f.stay(drill.Spot{Y: 20, Z: 3}, 2)
		f.call("home")
		f.to(drill.Spot{Y: 20, Z: 12}, 2)
		f.to(drill.Spot{Y: 6, Z: 12}, 3)
		f.stay(drill.Spot{Y: 6, Z: 12}, 14-f.now()+4)
		withSticks(f, 2+taken)
		r := judged(t, over, f.t)
		if (r.Verdict == Pass) != (taken >= 4) {
			t.Fatalf("taken over after %v s: %s %+v", taken, r.Verdict, r.Faults)
		}
		within(t, "taken over", r.Steps[0].Metrics["taken_over_s"], taken, 0.1)
		within(t, "the climb", r.Steps[0].Metrics["climb_m"], 9, 0.7)
		if taken < 4 && !strings.Contains(r.Faults[0].Text, "the step asks to watch it for 4") {
			t.Error(r.Faults[0].Text)
		}
	}
	landed := pathTask(t, "{kind: takeoff, to_height_m: 3}\n  - {kind: return, trigger: link, within: {home_offset_m: 2}}",
		field.NoSide, nil)
	for seed := range uint64(8) {
		off := 0.45 * float64(seed)
		f := newFlight(seed)
		f.noise = 0.004
		f.stay(drill.Spot{Y: 6}, 1)
		f.to(drill.Spot{Y: 6, Z: 3}, 1)
		f.to(drill.Spot{Y: 15, Z: 3}, 3)
		f.call("link-lost")
		f.to(drill.Spot{Y: 15, Z: 10}, 2)
		f.to(drill.Spot{X: off, Y: 6, Z: 10}, 3)
		f.to(drill.Spot{X: off, Y: 6, Z: 0}, 1)
		f.stay(drill.Spot{X: off, Y: 6}, 3)
		r := judged(t, landed, f.t)
		within(t, "home", r.Steps[1].Metrics["home_offset_m"], off, 0.05)
		if (r.Verdict == Pass) != (off <= 2) {
			t.Errorf("%.1f m off: %s %+v", off, r.Verdict, r.Faults)
		}
	}
}

// A lost orientation: the time home and the ground lost are measured; pushes against
// what could be seen are counted, and a probe is none.
func TestRegain(t *testing.T) {
	task := pathTask(t, "{kind: regain, from_m: 30, within: {seconds: 20, lost_m: 8, wrong_inputs: 1}}", field.NoSide, nil)
	station := task.Station
	for seed := range uint64(24) {
		nose := field.Degrees(15 * float64(seed))
		f := newFlight(seed)
		f.noise = 0
		var pitch []float64
		at := drill.Spot{X: station.X, Y: station.Y + 30, Z: 10}
		push := func(seconds, speed float64, heading field.Angle) {
			for range int(seconds * f.hz) {
				at.X += speed / f.hz * math.Sin(float64(heading))
				at.Y += speed / f.hz * math.Cos(float64(heading))
				f.put(at, heading)
				v := 0.0
				if speed != 0 {
					v = math.Copysign(0.6, speed)
				}
				pitch = append(pitch, v)
			}
		}
		push(1, 0, nose)
		push(1.5, 2, nose) // the probe
		push(0.5, 0, nose)
		foolish := seed%2 == 1
		if foolish { // the nose is turned away, and it is flown on there again and again
			for range 3 {
				push(1.5, 2, field.Away)
				push(0.5, 0, field.Away)
			}
		}
		for h := 0.0; h < 1; h += 0.02 { // turned home, and flown there
			push(0.05, 0, nose+(field.Toward-nose).Wrap()*field.Angle(h))
		}
		push(0.3, 0, field.Toward)
		push(9, 2, field.Toward)
		zero := make([]float64, f.t.Len())
		f.t.StickThrottle, f.t.StickYaw, f.t.StickRoll, f.t.StickPitch = zero, zero, zero, pitch
		r := judged(t, task, f.t)
		m := r.Steps[0].Metrics
		lost := 0.0
		for i := range f.t.T {
			lost = math.Max(lost, math.Hypot(f.t.X[i]-station.X, f.t.Y[i]-station.Y)-30)
		}
		within(t, "the ground lost", m["lost_m"], lost, 0.2)
		if !foolish && (r.Verdict != Pass || m["wrong_inputs"] != 0) {
			t.Errorf("nose %.0f°: a sound way home is %s: %+v %v", nose.Deg(), r.Verdict, r.Faults, m)
		}
		if foolish && r.Verdict != Fail {
			t.Errorf("nose %.0f°: flown away three times is %s: %v", nose.Deg(), r.Verdict, m)
		}
	}
}

// A turn whose angle is called is judged by what was called.
func TestCalledAngle(t *testing.T) {
	task := pathTask(t, "{kind: turn, random: true, within: {overshoot_deg: 15}}", field.LeftSide, nil)
	for _, c := range []struct {
		call    string
		flown   float64
		verdict Verdict
	}{{"turn 120", -120, Pass}, {"turn left 200", -200, Pass}, {"turn right by 75°", 75, Pass}, {"turn 120", -90,
		Incomplete}, {"now", -90, Incomplete}, {"turn 60", -290, Fail}} {
		f := newFlight(2)
		f.stay(drill.Spot{Y: 8, Z: 2}, 2)
		f.call(c.call)
		for h := 0.0; h < 1; h += 0.01 {
			f.put(drill.Spot{Y: 8, Z: 2}, field.Degrees(c.flown*h))
		}
		for range 60 {
			f.put(drill.Spot{Y: 8, Z: 2}, field.Degrees(c.flown))
		}
		if r := judged(t, task, f.t); r.Verdict != c.verdict {
			t.Errorf("%q, flown %v°: %s %+v, waited for %q", c.call, c.flown, r.Verdict, r.Faults, r.Steps[0].Waited)
		}
	}
	if task.Steps[0].By != 0 {
		t.Error("the caller's task was written to")
	}
}

// The same by marks: a dodge, a flight home and a lost orientation.
func TestMarkedAnswers(t *testing.T) {
	dodge := pathTask(t, dodgeStep, field.LeftSide, nil)
	home := pathTask(t, "{kind: return, trigger: asked, take_over_after_s: 4}", field.NoSide, nil)
	landed := pathTask(t, "{kind: return, trigger: link, within: {home_offset_m: 2}}", field.NoSide, nil)
	regain := pathTask(t, "{kind: regain, from_m: 30, within: {seconds: 20, lost_m: 8}}", field.NoSide, nil)
	figure := pathTask(t, "{kind: path, shape: circle, centre: [0, 12], radius_m: 5, height_m: 2, within: {cross_m: 1}, "+
		"during: [{event: call, within: {seconds: 3}, then: end}]}", field.LeftSide, nil)
	for _, c := range []struct {
		name, marks string
		task        drill.Task
		verdict     Verdict
		metric      string
		value       float64
	}{
		{"dodged", `{"t_s":0,"mark":"start"},{"t_s":1,"mark":"in"},{"t_s":5,"mark":"call"},{"t_s":7,"mark":"rest"},` +
			`{"t_s":9,"mark":"in"},{"t_s":16,"mark":"done"}`, dodge, Pass, "answer_s", 2},
		{"dodged late", `{"t_s":0,"mark":"start"},{"t_s":1,"mark":"in"},{"t_s":5,"mark":"call"},{"t_s":9,"mark":"rest"},` +
			`{"t_s":10,"mark":"in"},{"t_s":17,"mark":"done"}`, dodge, Fail, "answer_s", 4},
		{"never called", `{"t_s":0,"mark":"start"},{"t_s":1,"mark":"in"},{"t_s":16,"mark":"done"}`, dodge, Incomplete, "", 0},
		{"not back", `{"t_s":0,"mark":"start"},{"t_s":1,"mark":"in"},{"t_s":5,"mark":"call"},{"t_s":7,"mark":"rest"},` +
			`{"t_s":16,"mark":"done"}`, dodge, Incomplete, "", 0},
		{"taken over", `{"t_s":0,"mark":"start"},{"t_s":2,"mark":"call"},{"t_s":8,"mark":"rest"},{"t_s":9,"mark":"done"}`,
			home, Pass, "taken_over_s", 6},
		{"landed at home", `{"t_s":0,"mark":"start"},{"t_s":2,"mark":"call"},{"t_s":40,"mark":"touch",` +
			`"away_m":1,"right_m":0},{"t_s":42,"mark":"done"}`, landed, Pass, "home_offset_m", 1},
		{"landed elsewhere", `{"t_s":0,"mark":"start"},{"t_s":2,"mark":"call"},{"t_s":40,"mark":"touch",` +
			`"away_m":3,"right_m":0},{"t_s":42,"mark":"done"}`, landed, Fail, "home_offset_m", 3},
		{"found", `{"t_s":0,"mark":"start"},{"t_s":1,"mark":"call"},{"t_s":13,"mark":"in"},{"t_s":14,"mark":"done"}`, regain,
			Pass, "home_s", 12},
		{"found late", `{"t_s":0,"mark":"start"},{"t_s":1,"mark":"call"},{"t_s":31,"mark":"in"},{"t_s":32,"mark":"done"}`,
			regain, Fail, "home_s", 30},
		{"stopped on the way", `{"t_s":0,"mark":"start"},{"t_s":1,"mark":"moving"},{"t_s":6,"mark":"call"},` +
			`{"t_s":8,"mark":"rest"},{"t_s":9,"mark":"done"}`, figure, Pass, "answer_s", 2},
	} {
		p := Marks(c.task, readMarks(t, `{"format":"maestrale-marks/1","marks":[`+c.marks+`]}`))
		if p.Result.Verdict != c.verdict {
			t.Errorf("%s: %s %+v, waited for %q", c.name, p.Result.Verdict, p.Result.Faults, p.Result.Steps[0].Waited)
		}
		if v := p.Result.Steps[0].Metrics[c.metric]; c.metric != "" && v != c.value {
			t.Errorf("%s: %s is %v", c.name, c.metric, v)
		}
	}
	if w := Marks(dodge, readMarks(t,
		`{"format":"maestrale-marks/1","marks":[{"t_s":0,"mark":"start"},{"t_s":1,"mark":"in"},`+
			`{"t_s":5,"mark":"call"}]}`)).Waits; w != "answer" {
		t.Errorf("waits for %q", w)
	}
}
