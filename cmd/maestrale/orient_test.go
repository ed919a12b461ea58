package main

import (
	"bytes"
	"encoding/json"
	"math"
	"strings"
	"testing"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/flight/trace"
	"maestrale/core/rig"
	"maestrale/core/track"
)

func TestSightAndYaw(t *testing.T) {
	calls := file(t, "calls.csv",
		"distance_m,right,light\n10,yes,\n15,yes,\n20,yes,\n25,yes,\n30,no,\n40,no,\n30,yes,\n40,no,\n50,no,\n25,yes,\n")
	status, out, errOut := call(t, "", "sight", "--craft", "poiana", "--calls", calls)
	var s tellOutput
	if err := json.Unmarshal([]byte(out), &s); status != 0 || errOut != "" || err != nil ||
		s.Format != "maestrale-sight/1" || s.Calls != 10 || s.FromCue || s.Half < 20 || s.Half > 45 || s.Low > s.Half ||
		s.High < s.Half || s.Tell > s.Half {
		t.Errorf("%d %s%s %v", status, out, errOut, err)
	}
	status, out, _ = call(t, "", "sight", "--craft", "rondine", "--light", "dusk")
	// 0.06 m over tan(4/11°)
	if err := json.Unmarshal([]byte(out), &s); status != 0 || err != nil || !s.FromCue || math.Abs(s.Tell-9.45) > 0.02 {
		t.Errorf("%d %s", status, out)
	}
	status, out, _ = call(t, "", "yaw", "--craft", "poiana", "--speed", "2", "--offset", "5")
	var y yawOutput
	if err := json.Unmarshal([]byte(out), &y); status != 0 || err != nil || math.Abs(y.Peak-22.918) > 0.001 || !y.Can ||
		y.Most != 90 || len(y.Curve) != 121 || y.LeadIn <= 0 {
		t.Errorf("%d %.200s", status, out)
	}
	if status, out, _ = call(t, "", "yaw", "--craft", "poiana", "--drill", "orbit", "--speed", "3"); status != 0 ||
		!strings.Contains(out, `"orbit": true`) {
		t.Errorf("%d %.200s", status, out)
	}
	for _, c := range []struct {
		args []string
		want string
	}{
		{[]string{"sight", "--craft", "kite"}, `--craft is "kite"; expected one of rondine`},
		{[]string{"sight", "--craft", "poiana", "--light", "moon"}, "expected day, overcast or dusk"},
		{[]string{"sight", "--craft", "poiana", "--calls", file(t, "c.csv", "distance_m,right\n20,yes\n9999,no\n")},
			"c.csv:3: the distance"},
		{[]string{"yaw", "--craft", "poiana"}, "the offset is 0 m; expected over 0"},
		{[]string{"yaw", "--craft", "poiana", "--drill", "hover-tail-in"}, "keeps no nose on a subject"},
	} {
		if status, out, errOut := call(t, "", c.args...); status != 2 || out != "" || !strings.Contains(errOut, c.want) ||
			strings.Count(errOut, "\n") != 1 {
			t.Errorf("%v: %d %q %q", c.args, status, out, errOut)
		}
	}
}

// A track is followed as observations are, stretch by stretch; the schools are compared,
// the same for the same seed.
func TestRegainOfATrackAndTheSchools(t *testing.T) {
	kind := craft.Shipped()["poiana"]
	_, out, err := rig.Lost(trace.Spec{Craft: kind.Key, Drill: "regain-turn", Side: "none", Level: 1,
		Aids: "position-hold", Gusts: "none", Seed: 3, Lost: "still"}, drill.Shipped())
	if err != nil {
		t.Fatal(err)
	}
	rec, log, err := out.Start()
	if err != nil {
		t.Fatal(err)
	}
	for i := range 500 {
		rec.Reading(0, map[bool]float64{true: 0.5}[i > 200 && i < 300], 0.5, 0, 0, int(out.Config.Aids), 0)
	}
	var csv bytes.Buffer
	if err := track.WriteCSV(&csv, &log.Track); err != nil {
		t.Fatal(err)
	}
	status, text, errOut := call(t, csv.String(), "regain", "--track", "-", "--airspeed", "5", "--yaw-rate", "45")
	var got regainOutput
	if err := json.Unmarshal([]byte(text), &got); status != 0 || errOut != "" || err != nil {
		t.Fatalf("%d %s%s %v", status, text, errOut, err)
	}
	if len(got.Rows) < 4 || got.Rows[0].Sticks != "ahead" || got.Rows[0].Advised == "" || got.Bits > 7.5 ||
		got.Says == "" {
		t.Errorf("%+v", got)
	}
	if status, _, errOut := call(t, "t_s,x_m,y_m,z_m\n0,0,9,1\n1,0,9,1\n", "regain", "--track", "-"); status != 2 ||
		!strings.Contains(errOut, "no sticks or no heading") {
		t.Errorf("a track without sticks: %d %s", status, errOut)
	}
	args := []string{"regain", "--compare", "--rounds", "1", "--wind", "3@90", "--seed", "5"}
	status, one, _ := call(t, "", args...)
	_, two, _ := call(t, "", args...)
	var c compareOutput
	if err := json.Unmarshal([]byte(one), &c); status != 0 || err != nil || one != two || len(c.Schools) != 4 ||
		c.Schools[0].Flown != 36 || !strings.Contains(c.Says, "teach “") {
		t.Errorf("%d %s %v", status, one, err)
	}
	for _, bad := range [][]string{{"regain"}, {"regain", "--compare", "--rounds", "0"}} {
		if status, _, errOut := call(t, "", bad...); status != 2 || !strings.Contains(errOut, "expected") {
			t.Errorf("%v: %d %s", bad, status, errOut)
		}
	}
}
