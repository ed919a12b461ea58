package score

import (
	"strings"
	"testing"

	"maestrale/core/drill"
)

func TestTheOneThing(t *testing.T) {
	n := func(v float64) *float64 { return &v }
	fault := func(code Code, at, v, limit float64, toward, text string) Fault {
		return Fault{Code: code, TS: at, Value: n(v), Limit: n(limit), Toward: toward, Text: text}
	}
	held := StepResult{Kind: "hold", EndS: n(22.9), Metrics: map[string]float64{"radius_max_m": 0.4, "height_max_m": 0.45,
		"nose_max_deg": 5}, Limits: map[string]float64{"radius_max_m": 1, "height_max_m": 0.5, "nose_max_deg": 25}}
	for what, k := range map[string]struct {
		r     Result
		fault int
		says  string
		do    string
		at    float64
		view  Picture
	}{
		"the fault that passed its limit most": {Result{Verdict: Fail, Faults: []Fault{
			fault(Height, 4, 0.6, 0.5, "up", "0.6 m too high at 4.0 s"),
			fault(LeftBox, 9, 2.4, 1, "left", "2.4 m to the left of the marker at 9.0 s; the box is 1.0 m")}}, 1,
			"2.4 m to the left of the marker at 9.0 s; the box is 1.0 m.", "It drifts to the left", 9, PlanView},
		"a crash before any figure": {Result{Verdict: Fail, Faults: []Fault{
			fault(LeftBox, 9, 90, 1, "left", "far off"), {Code: Crash, TS: 12, Text: "it crashed"}}}, 1, "It crashed.",
			"Talk through what happened", 12, PlanView},
		"too slow counts as too fast does": {Result{Verdict: Fail, Faults: []Fault{
			fault(Height, 2, 0.6, 0.5, "down", "0.6 m low"), fault(Rest, 7, 0.5, 1.5, "", "rested 0.5 s")}}, 1,
			"Rested 0.5 s.", "Stop fully", 7, TimeView},
		"marked by eye": {Result{Verdict: Fail, Faults: []Fault{{Code: LeftBox, TS: 3, Toward: "toward",
			Text: "left the box toward you at 3.0 s"}}}, 0, "Left the box toward you at 3.0 s.", "push it away", 3, PlanView},
		"passed: what was nearest to its limit": {Result{Verdict: Pass, Steps: []StepResult{{Kind: "takeoff"}, held}}, -1,
			"In step 2 the height error came nearest to its limit: 0.45 m of 0.5 m.", "leave more room", 22.9, HeightView},
	} {
		got, ok := k.r.TheOneThing()
		if !ok || got.Fault != k.fault || !strings.HasSuffix(got.Says, k.says) || !strings.Contains(got.Do, k.do) ||
			got.TS != k.at || got.View != k.view {
			t.Errorf("%s: %v %+v", what, ok, got)
		}
	}
	for what, r := range map[string]Result{"void": {Verdict: Void, Faults: []Fault{{Code: Crash}}},
		"nothing measured": {Verdict: Pass, Steps: []StepResult{{Kind: "takeoff"}}}} {
		if got, ok := r.TheOneThing(); ok {
			t.Errorf("%s: %+v", what, got)
		}
	}
}

// Each fault has its advice in a sentence, and each kind of step its words.
func TestEveryFaultHasAdvice(t *testing.T) {
	for _, c := range Codes {
		a := adviceFor(&Fault{Code: c})
		if !strings.HasSuffix(a, ".") || strings.ToUpper(a[:1]) != a[:1] {
			t.Errorf("%s: %q", c, a)
		}
	}
	for _, k := range []drill.Kind{drill.TakeOff, drill.Hold, drill.Turn, drill.Land, drill.GoTo, drill.Path, drill.Stop,
		drill.Return, drill.Regain, drill.Motors} {
		if stepWords[string(k)] == "" {
			t.Errorf("%s has no words", k)
		}
	}
}

func TestUnjudgedWords(t *testing.T) {
	for entry, want := range map[string]string{
		"step 2 (land) bounces: too fine for this log": "In step 3, landing, the limit of the bounces was not judged: too " +
			"fine for this log.",
		"step 0 (takeoff) seconds_max: not judged by eye": "In step 1, take-off, the limit of the time to the height was " +
			"not judged: not judged by eye.",
		"heading: no heading in this log": "Heading: no heading in this log.",
		"step 4 without a kind":           "Step 4 without a kind.",
		"":                                "",
	} {
		if got := UnjudgedWords(entry); got != want {
			t.Errorf("%q: %q", entry, got)
		}
	}
}
