package score

import (
	"encoding/json"
	"errors"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"maestrale/core/field"
	"maestrale/core/misread"
)

func readMarks(t *testing.T, s string) []Mark {
	t.Helper()
	m, notes, err := ReadMarks(strings.NewReader(s))
	if err != nil || len(notes) > 0 {
		t.Fatal(err, notes)
	}
	return m
}

func TestMarkedHover(t *testing.T) {
	task := shipped(t, "hover-tail-in", field.NoSide, 1)
	p := Marks(task, readMarks(t, `{"format":"maestrale-marks/1","marks":[{"t_s":0,"mark":"start"},{"t_s":6,"mark":"in"},
		{"t_s":31,"mark":"touch","away_m":-0.3,"right_m":0.4},{"t_s":33,"mark":"done"}]}`))
	r := p.Result
	if r.Verdict != Pass || !p.Ended || r.Source != Observed {
		t.Fatalf("%s %+v", r.Verdict, r.Faults)
	}
	// The only thing measured by eye: half a metre off, of 0.8 m.
	if math.Abs(*r.Margin-(1-0.5/0.8)) > 1e-3 || r.Steps[2].Metrics["offset_m"] != 0.5 {
		t.Errorf("margin %v, landing %v", *r.Margin, r.Steps[2].Metrics)
	}
	if r.Steps[1].Metrics["inside_s"] != 20 || *r.Steps[1].StartS != 7 || *r.Steps[1].EndS != 27 || r.AspectS[0] != 20 {
		t.Errorf("hold %+v", r.Steps[1])
	}
	for _, want := range []string{"radius_max_m", "height_max_m", "nose_max_deg", "sink_mps", "seconds_max"} {
		if !slices.ContainsFunc(r.Unjudged, func(u string) bool { return strings.Contains(u, want) }) {
			t.Errorf("%s is not listed as unjudged: %v", want, r.Unjudged)
		}
	}
}

func TestMarkedFaults(t *testing.T) {
	task := shipped(t, "hover-tail-in", field.NoSide, 1)
	for _, c := range []struct {
		name, marks string
		verdict     Verdict
		code        Code
		toward      string
	}{
		{"out to the right", `{"t_s":0,"mark":"start"},{"t_s":5,"mark":"in"},{"t_s":12,"mark":"out","toward":"right"},` +
			`{"t_s":14,"mark":"in"},{"t_s":36,"mark":"touch"},{"t_s":37,"mark":"done"}`, Fail, LeftBox, "right"},
		{"out before the clock runs",
			`{"t_s":0,"mark":"start"},{"t_s":5,"mark":"in"},{"t_s":5.5,"mark":"out"},{"t_s":7,"mark":"in"},` +
				`{"t_s":36,"mark":"touch"},{"t_s":37,"mark":"done"}`, Pass, "", ""},
		{"an out taken back", `{"t_s":0,"mark":"start"},{"t_s":5,"mark":"in"},{"t_s":12,"mark":"out"},` +
			`{"t_s":13,"mark":"undo"},{"t_s":36,"mark":"touch"},{"t_s":37,"mark":"done"}`, Pass, "", ""},
		{"one out of two taken back",
			`{"t_s":0,"mark":"start"},{"id":"a","t_s":5,"mark":"in"},{"id":"b","t_s":12,"mark":"out","toward":"left"},` +
				`{"t_s":12.2,"mark":"fault","code":"nose"},{"t_s":13,"mark":"undo","of":"b"},{"t_s":36,"mark":"touch"},` +
				`{"t_s":37,"mark":"done"}`, Fail, Nose, ""},
		{"down too early", `{"t_s":0,"mark":"start"},{"t_s":5,"mark":"in"},{"t_s":15,"mark":"touch"},` +
			`{"t_s":16,"mark":"done"}`, Fail, Height, "down"},
		{"ended too early", `{"t_s":0,"mark":"start"},{"t_s":5,"mark":"in"},{"t_s":15,"mark":"done"}`, Incomplete, "", ""},
		{"far off", `{"t_s":0,"mark":"start"},{"t_s":5,"mark":"in"},{"t_s":36,"mark":"touch","away_m":2,"right_m":-0.5},` +
			`{"t_s":37,"mark":"done"}`, Fail, Offset, "away"},
		{"two touches", `{"t_s":0,"mark":"start"},{"t_s":5,"mark":"in"},{"t_s":36,"mark":"touch"},` +
			`{"t_s":36.5,"mark":"touch"},{"t_s":37,"mark":"done"}`, Fail, Bounce, "up"},
		{"void", `{"t_s":0,"mark":"start"},{"t_s":5,"mark":"in"},{"t_s":12,"mark":"out"},{"t_s":13,"mark":"void",` +
			`"reason":"a dog ran in"}`, Void, LeftBox, ""},
	} {
		p := Marks(task, readMarks(t, `{"marks":[`+c.marks+`]}`))
		r := p.Result
		if r.Verdict != c.verdict {
			t.Errorf("%s: %s %+v", c.name, r.Verdict, r.Faults)
			continue
		}
		if (c.code == "") != (len(r.Faults) == 0) || (c.code != "" && (len(r.Faults) != 1 || r.Faults[0].Code != c.code ||
			r.Faults[0].Toward != c.toward || r.Faults[0].Text == "")) {
			t.Errorf("%s: faults %+v", c.name, r.Faults)
		}
		if c.verdict == Void && (r.Margin != nil || r.VoidReason != "a dog ran in") {
			t.Errorf("%s: margin %v, reason %q", c.name, r.Margin, r.VoidReason)
		}
	}
}

func TestMarkedQuarterTurn(t *testing.T) {
	task := shipped(t, "yaw-quarter", field.RightSide, 1)
	const marks = `{"t_s":0,"mark":"start"},{"t_s":5,"mark":"in"},{"t_s":10,"mark":"moving"},{"t_s":13,"mark":"rest"},
		{"t_s":18,"mark":"moving"},{"t_s":21,"mark":"rest"},{"t_s":27,"mark":"touch","away_m":0,"right_m":0.2},
		{"t_s":28,"mark":"done"}`
	r := Marks(task, readMarks(t, `{"marks":[`+marks+`]}`)).Result
	if r.Verdict != Pass {
		t.Fatalf("%s %+v %+v", r.Verdict, r.Faults, r.Steps)
	}
	// The second hold begins a second after the nose came to rest, in position.
	if *r.Steps[2].EndS != 14 || *r.Steps[3].EndS != 18 || *r.Steps[5].EndS != 26 {
		t.Errorf("steps end at %v, %v, %v", *r.Steps[2].EndS, *r.Steps[3].EndS, *r.Steps[5].EndS)
	}
	if r.AspectS[4] != 3 {
		t.Errorf("three seconds nose right, by sector %v", r.AspectS)
	}
	out := strings.Replace(marks, `{"t_s":13,"mark":"rest"}`,
		`{"t_s":12,"mark":"out","toward":"away"},{"t_s":13,"mark":"in"},{"t_s":13.5,"mark":"rest"}`, 1)
	if r := Marks(task, readMarks(t, `{"marks":[`+out+`]}`)).Result; r.Verdict != Fail || r.Faults[0].Step != 2 ||
		r.Faults[0].Code != LeftBox {
		t.Errorf("out while turning: %s %+v", r.Verdict, r.Faults)
	}
}

// Marks made at the very moments at which a craft crosses the edge of the box
// run the same machine to the same stays and faults as the samples do.
func TestMarksAndSamplesAgree(t *testing.T) {
	r := rand.New(rand.NewPCG(21, 21))
	task := shipped(t, "hover-tail-in", field.NoSide, 1)
	task.Drill.MaxFaults = 100
	for range 100 {
		p := newPilot(0.02, 0, 6).wait(1).up(1.5, 0.5)
		marks := []Mark{{TS: 0, Mark: "start"}}
		inside := true
		for range 8 {
			p.wait(math.Round((0.2+r.Float64()*6)*50) / 50)
			dx := 2.0 // across the edge at 1 m, halfway through 0.4 s
			if !inside {
				dx = -2
			}
			marks = append(marks, Mark{TS: p.now + 0.2, Mark: map[bool]string{true: "out", false: "in"}[inside],
				Toward: "right"})
			p.slide(dx, 0, 0.4)
			inside = !inside
		}
		p.wait(2)
		a := scored(t, task, &p.t)
		// The take-off is seen by the eye when it is done.
		marks = slices.Insert(marks, 1, Mark{TS: *a.Steps[0].EndS, Mark: "in"})
		b := Marks(task, append(marks, Mark{TS: p.now, Mark: "done"})).Result
		ha, hb := a.Steps[1], b.Steps[1]
		if ha.Done != hb.Done || math.Abs(ha.Metrics["inside_s"]-hb.Metrics["inside_s"]) > 2e-3 {
			t.Fatalf("samples %+v\nmarks %+v", ha, hb)
		}
		fa := slices.DeleteFunc(slices.Clone(a.Faults), func(f Fault) bool { return f.Step != 1 })
		fb := slices.DeleteFunc(slices.Clone(b.Faults), func(f Fault) bool { return f.Step != 1 })
		if len(fa) != len(fb) {
			t.Fatalf("samples %+v\nmarks %+v", fa, fb)
		}
		for i := range fa {
			if math.Abs(fa[i].TS-fb[i].TS) > 2e-3 || fa[i].Code != fb[i].Code || fa[i].Toward != fb[i].Toward {
				t.Fatalf("samples %+v\nmarks %+v", fa[i], fb[i])
			}
		}
	}
}

func TestProgressIsWhereTheDrillStands(t *testing.T) {
	task := shipped(t, "hover-tail-in", field.NoSide, 1)
	p := Marks(task, []Mark{{TS: 0, Mark: "start"}, {TS: 4, Mark: "in"}})
	if p.Step != 1 || !p.Inside || p.Since != 5 || p.Ended {
		t.Errorf("%+v", p)
	}
	p = Marks(task, []Mark{{TS: 0, Mark: "start"}, {TS: 4, Mark: "in"}, {TS: 25.5, Mark: "rest"}})
	if p.Step != 2 {
		t.Errorf("after twenty seconds inside the step is %d", p.Step)
	}
	if p := Marks(task, nil); p.Step != 0 || p.Result.Verdict != Incomplete {
		t.Errorf("no marks: %+v", p)
	}
}

func TestReadMarksRefuses(t *testing.T) {
	for _, c := range []struct {
		data, want string
		line       int
	}{
		{``, "JSON", 1},
		{`{"marks":`, "JSON", 1},
		{`{"format":"other/2","marks":[]}`, "maestrale-marks/1", 1},
		{`{"mark":[]}`, `no "marks"`, 1},
		{"{\"marks\":[\n{\"t_s\":0,\"mark\":\"start\"},\n{\"mark\":\"in\"}]}", `marks[1] has no "t_s"`, 3},
		{`{"marks":[{"t_s":0,"mark":"inside"}]}`, "expected start", 1},
		{`{"marks":[{"t_s":-1,"mark":"in"}]}`, "t_s", 1},
		{"{\"marks\":[{\"t_s\":5,\"mark\":\"start\"},\n{\"t_s\":4,\"mark\":\"in\"}]}", "goes back", 2},
		{`{"marks":[{"t_s":5,"mark":"void"}]}`, "no reason", 1},
		{`{"marks":[{"t_s":5,"mark":"fault","code":"bad luck"}]}`, "fault code", 1},
		{`{"marks":[{"t_s":5,"mark":"touch","away_m":1}]}`, "both", 1},
		{`{"marks":[{"t_s":5,"mark":"touch","away_m":1,"right_m":1e9}]}`, "metres", 1},
		{`{"marks":[{"t_s":"five","mark":"in"}]}`, "marks[0]", 1},
	} {
		_, _, err := ReadMarks(strings.NewReader(c.data))
		var m *misread.Error
		if !errors.As(err, &m) || m.Line != c.line || !strings.Contains(m.Error(), c.want) {
			t.Errorf("%.60s: %v, want line %d and %q", c.data, err, c.line, c.want)
		}
	}
	_, notes, err := ReadMarks(strings.NewReader(`{"marks":[{"t_s":0,"mark":"start","colour":"red"}]}`))
	if err != nil || len(notes) != 1 || !strings.Contains(notes[0], "colour") {
		t.Errorf("an unknown field: %v %v", notes, err)
	}
}

func FuzzMarks(f *testing.F) {
	f.Add(`{"marks":[{"t_s":0,"mark":"start"},{"t_s":6,"mark":"in"},{"t_s":7,"mark":"moving"},{"t_s":31,"mark":"touch",` +
		`"away_m":0,"right_m":0},{"t_s":33,"mark":"done"}]}`)
	f.Add(`{"marks":[{"t_s":0,"mark":"out"},{"t_s":6,"mark":"undo"},{"t_s":6,"mark":"rest"},{"t_s":6,"mark":"touch"}]}`)
	f.Add(`{"marks":[{"t_s":0,"mark":"start"},{"t_s":1,"mark":"in"},{"t_s":5,"mark":"call"},{"t_s":7,"mark":"rest"},` +
		`{"t_s":9,"mark":"in"},{"t_s":16,"mark":"call"},{"t_s":17,"mark":"touch","away_m":9,"right_m":0},` +
		`{"t_s":18,"mark":"done"}]}`)
	f.Fuzz(func(t *testing.T, data string) {
		marks, _, err := ReadMarks(strings.NewReader(data))
		if err != nil {
			return
		}
		for _, d := range catalogue().InOrder() {
			p := Marks(shipped(t, d.Key, d.Sides()[0], 1), marks)
			if _, err := json.Marshal(p.Result); err != nil {
				t.Fatal(err)
			}
			if p.Result.Verdict == Pass && len(p.Result.Faults) > 0 {
				t.Fatal("a pass with more faults than the drill forgives")
			}
		}
	})
}

// A path, a place and a stop marked by eye: pauses timed, corners counted.
func TestMarkedWays(t *testing.T) {
	over := pathTask(t, "{kind: path, shape: line, points: [[-4, 6, 2], [-4, 6, 6], [4, 6, 6], [4, 6, 2]], rest_s: 5, "+
		"within: {cross_m: 1}}", field.NoSide, nil)
	mark := func(pairs ...any) (list []Mark) {
		for i := 0; i < len(pairs); i += 2 {
			list = append(list, Mark{TS: pairs[i].(float64), Mark: pairs[i+1].(string)})
		}
		return list
	}
	for _, c := range []struct {
		marks   []Mark
		verdict Verdict
		rests   []float64
		says    string
	}{
		{mark(0.0, "start", 1.0, "moving", 4.0, "rest", 9.5, "moving", 15.0, "rest", 20.2, "moving", 24.0, "in"), Pass,
			[]float64{5.5, 5.2}, ""},
		{mark(0.0, "start", 1.0, "moving", 4.0, "rest", 8.6, "moving", 15.0, "rest", 20.2, "moving", 24.0, "in"), Fail,
			[]float64{4.6, 5.2}, "rested 4.6 s; 5.0 s are needed"},
		{mark(0.0, "start", 1.0, "moving", 4.0, "rest", 9.6, "moving", 24.0, "in"), Fail, []float64{5.6, 0}, "rested 0.0 s"},
		{mark(0.0, "start", 1.0, "moving", 3.0, "out", 24.0, "in"), Fail, []float64{0, 0}, "off the line"},
		{mark(0.0, "start", 1.0, "moving", 4.0, "rest", 9.6, "moving"), Incomplete, []float64{5.6}, ""},
	} {
		r := Marks(over, c.marks).Result
		if r.Verdict != c.verdict || len(r.Steps[0].Rests) != len(c.rests) {
			t.Fatalf("%+v: %s %v, %+v", c.marks, r.Verdict, r.Steps[0].Rests, r.Faults)
		}
		for i, want := range c.rests {
			within(t, "the rest", r.Steps[0].Rests[i], want, 1e-9)
		}
		said := ""
		for _, f := range r.Faults {
			said += f.Text + "; "
		}
		if !strings.Contains(said, c.says) {
			t.Errorf("%q; expected %q", said, c.says)
		}
	}
	stop := pathTask(t, "{kind: stop, after: call, within: {seconds: 2, distance_m: 3}}", field.NoSide, nil)
	for took, verdict := range map[float64]Verdict{1.5: Pass, 2.5: Fail} {
		r := Marks(stop, mark(0.0, "start", 3.0, "call", 3+took, "rest", 9.0, "done")).Result
		within(t, "the time to stand", r.Steps[0].Metrics["stop_s"], took, 1e-9)
		if r.Verdict != verdict {
			t.Errorf("%v s: %s %+v", took, r.Verdict, r.Faults)
		}
	}
	leg := pathTask(t, "{kind: goto, to: [4, 9], height_m: 3, rest_s: 2, within: {overshoot_m: 0.5}}", field.NoSide, nil)
	if r := Marks(leg, mark(0.0, "start", 3.0, "rest", 4.5, "moving", 6.0, "rest", 8.5,
		"done")).Result; r.Verdict != Pass || *r.Steps[0].EndS != 8 {
		t.Errorf("%s %+v", r.Verdict, r.Steps[0])
	}
}
