package main

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

const hoverSticks = "../../examples/hover-sticks.csv"

// The sticks of the example hover to a pass in a light gusty wind.
func TestFlyCommand(t *testing.T) {
	fly := func(args ...string) flightOutput {
		t.Helper()
		status, out, errOut := call(t, "", append([]string{"fly", "--sticks", hoverSticks}, args...)...)
		if status != 0 || errOut != "" {
			t.Fatalf("%d %s", status, errOut)
		}
		var got flightOutput
		if err := json.Unmarshal([]byte(out), &got); err != nil {
			t.Fatal(err)
		}
		return got
	}
	kept := filepath.Join(t.TempDir(), "track.csv")
	wind := []string{"--drill", "hover-tail-in", "--wind", "3@180", "--gust", "light", "--seed", "4"}
	a := fly(append(wind, "--out", kept)...)
	if a.Format != "maestrale-flight/1" || a.Ended != "landed" || a.Ticks != 21_000 || len(a.Hash) != 64 ||
		a.Pack.Mah < 30 || a.Factor < 10 || len(a.Refused) != 0 {
		t.Errorf("%+v", a)
	}
	if a.Result == nil || a.Result.Verdict != "pass" || a.Result.Source != "sim" || *a.Result.Margin < 0.05 {
		t.Fatalf("%+v", a.Result)
	}
	if b := fly(wind...); b.Hash != a.Hash {
		t.Error("the same flight is another one")
	}
	wind[len(wind)-1] = "5"
	if b := fly(wind...); b.Hash == a.Hash {
		t.Error("another seed gives the same gusts")
	}
	// The track says the same as the flight, to the scorer too.
	status, out, _ := call(t, "", "score", "--drill", "hover-tail-in", kept)
	if status != 0 || !strings.Contains(out, `"verdict": "pass"`) {
		t.Errorf("%d %s", status, out)
	}
	if _, err := os.Stat(kept + ".part"); err == nil {
		t.Error("half a file is left")
	}
}

func TestFlyStartsWhereItIsTold(t *testing.T) {
	hold := file(t, "hold.csv", "t_s,throttle,yaw,pitch,roll\n0,0,0,0,0\n")
	status, out, errOut := call(t, "", "fly", "--craft", "airone", "--sticks", hold, "--airborne", "--start", "-3,20,6,90",
		"--seconds", "5", "--elevation", "1500", "--temp", "30")
	var got flightOutput
	if err := json.Unmarshal([]byte(out), &got); status != 0 || err != nil {
		t.Fatalf("%d %s %v", status, errOut, err)
	}
	if f := got.Final; got.Ended != "airborne" || got.Ticks != 2500 || f.X < -4 || f.X > -2 || f.Y < 19 || f.Y > 21 ||
		f.Z < 5 || f.Z > 7 || f.Heading < 88 || f.Heading > 92 {
		t.Errorf("%+v", got)
	}
	wood := file(t, "wood.yaml",
		"format: maestrale-course/1\nstation: [0, 0]\nmarkers: {pad: [0, 6]}\nsurface: short grass\nhazards:\n  - {kind: "+
			"wall, line: [[-20, 14], [20, 14]], height_m: 8}\n")
	sticks := file(t, "into.csv",
		"t_s,throttle,yaw,pitch,roll,event\n0,-1,0,0,0,arm;sensors=off\n1,0.5,0,0,0,land\n3,0,0,1,0,disarm\n9,0,0,1,0,\n")
	status, out, _ = call(t, "", "fly", "--sticks", sticks, "--course", wood)
	got = flightOutput{}
	if err := json.Unmarshal([]byte(out), &got); status != 0 || err != nil || got.Ended != "crashed" ||
		!strings.Contains(got.Cause, "struck the wall") {
		t.Errorf("%d %v %+v", status, err, got)
	}
	if len(got.Refused) != 2 || got.Refused[0].Event != "land" || got.Refused[1].Why != "the craft is in the air" ||
		got.Refused[1].T != 3 {
		t.Errorf("%+v", got.Refused)
	}
	status, out, _ = call(t, "", "fly", "--sticks", sticks, "--course", wood, "--format", "table")
	if status != 0 || !strings.Contains(out, "crashed after") || !strings.Contains(out, "refused") {
		t.Errorf("%d %s", status, out)
	}
}

func TestFlyRefuses(t *testing.T) {
	good := "t_s,throttle,yaw,pitch,roll,aids\n0,-1,0,0,0,\n"
	heavy := t.TempDir()
	poiana, err := os.ReadFile("../../core/craft/catalogue/poiana.yaml")
	if err != nil {
		t.Fatal(err)
	}
	change := func(from, to string) string {
		dir := filepath.Join(heavy, to)
		if err := os.MkdirAll(dir, 0o700); err != nil {
			t.Fatal(err)
		}
		text := strings.Replace(strings.Replace(string(poiana), "key: poiana", "key: mine", 1), from, to, 1)
		if err := os.WriteFile(filepath.Join(dir, "mine.yaml"), []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
		return dir
	}
	for _, c := range []struct {
		sticks string
		args   []string
		want   string
	}{
		{"t_s,throttle,yaw,pitch,roll\n0,NaN,0,0,0\n", nil, "s.csv:2: throttle is \"NaN\"; expected a number from -1 to 1"},
		{"t_s,throttle,yaw,pitch,roll\n1,0,0,0,0\n0,0,0,0,0\n", nil, "s.csv:3: t_s is 0 after 1"},
		{"t_s,throttle,yaw,pitch,roll,event\n0,0,0,0,0,explode\n", nil, "s.csv:2: the event \"explode\""},
		{"t_s,throttle,yaw,pitch,roll,aids\n0,0,0,0,0,rate\n", nil, "the aids are rate, which the Poiana does not have"},
		{good, []string{"--craft", "falco"}, `craft "falco" is not known`},
		{good, []string{"--gust", "hurricane"}, `--gust is "hurricane"; expected none, light, moderate, severe`},
		{good, []string{"--wind", "3"}, "--wind"},
		{good, []string{"--start", "0,0"}, "--start is \"0,0\"; expected x,y,z,heading"},
		{good, []string{"--start", "0,9,-1,0"}, "start height in m is -1; expected 0 to 1000"},
		{good, []string{"--start", "0,9,0,0", "--airborne"}, "airborne at 0 m"},
		{good, []string{"--seconds", "-4"}, "a flight of -4 s"},
		{good, []string{"--seed", "-1"}, "seed"},
		{good, []string{"--drill", "moon"}, "moon"},
		{good, []string{"--drill", "yaw-quarter"}, "expected left or right"},
		{good, []string{"--format", "xml"}, "--format"},
		{good, []string{"--craft", "mine", "--school", change("inertia_kgm2: [0.0075, 0.0085, 0.0140]", "")}, "inertia"},
		{good, []string{"--craft", "mine", "--school", change("full_thrust: 2.1", "full_thrust: 1")}, "cannot lift itself"},
	} {
		dir := t.TempDir()
		name := filepath.Join(dir, "s.csv")
		if err := os.WriteFile(name, []byte(c.sticks), 0o600); err != nil {
			t.Fatal(err)
		}
		out := filepath.Join(dir, "track.csv")
		status, said, errOut := call(t, "", append([]string{"fly", "--sticks", name, "--out", out}, c.args...)...)
		if status != 2 || said != "" || !strings.Contains(errOut, c.want) || strings.Count(errOut, "\n") != 1 {
			t.Errorf("%v: %d %q %q; expected %q", c.args, status, said, errOut, c.want)
		}
		if _, err := os.Stat(out); err == nil {
			t.Errorf("%v: a track is left", c.args)
		}
	}
	if status, _, errOut := call(t, "", "fly"); status != 2 || !strings.Contains(errOut, "--sticks is missing") {
		t.Errorf("%d %s", status, errOut)
	}
}
