package main

import (
	"bytes"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"maestrale/core/drill"
	"maestrale/core/score"
	"maestrale/core/track"
)

const example = "../../examples/hover-drift.csv"

// call runs the program as from a shell.
func call(t *testing.T, in string, args ...string) (status int, out, errOut string) {
	t.Helper()
	var o, e bytes.Buffer
	status = run(args, strings.NewReader(in), &o, &e)
	return status, o.String(), e.String()
}

func file(t *testing.T, name, data string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(path, []byte(data), 0o644); err != nil {
		t.Fatal(err)
	}
	return path
}

func TestScoreSaysWhatThePackageSays(t *testing.T) {
	status, out, errOut := call(t, "", "score", "--drill", "hover-tail-in", "--craft", "poiana", example)
	if status != 0 || errOut != "" {
		t.Fatalf("%d %s", status, errOut)
	}
	var got score.Result
	if err := json.Unmarshal([]byte(out), &got); err != nil {
		t.Fatal(err)
	}
	f, err := os.Open(example)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = f.Close() }()
	tr, _, err := track.ReadCSV(f, track.CSVOptions{})
	if err != nil {
		t.Fatal(err)
	}
	d, _ := drill.Shipped().Drill("hover-tail-in")
	task, _ := d.Lay("none", 1, "light", nil)
	want, err := score.Track(task, tr, score.FromLog)
	if err != nil {
		t.Fatal(err)
	}
	a, _ := json.Marshal(got)
	b, _ := json.Marshal(want)
	if !bytes.Equal(a, b) || got.Verdict != score.Fail || got.Faults[0].Toward != "right" {
		t.Errorf("printed %s\nwant %s", a, b)
	}
	// The same from standard input, and with a verdict of fail the status is 0.
	data, _ := os.ReadFile(example)
	if status, again, _ := call(t, string(data), "score", "--drill", "hover-tail-in", "-"); status != 0 || again != out {
		t.Errorf("from standard input: %d", status)
	}
	if status, table, _ := call(t, "", "score", "--drill", "hover-tail-in", "--format", "table", example); status != 0 ||
		!strings.Contains(table, "to the right of the marker") {
		t.Errorf("as a table: %d %s", status, table)
	}
}

func TestScoreWindDecidesWhetherItCounts(t *testing.T) {
	_, out, _ := call(t, "", "score", "--drill", "hover-tail-in", "--wind", "7.5@180", example)
	if !strings.Contains(out, `"counts": false`) || !strings.Contains(out, "over the drill's 6.0 m/s") {
		t.Errorf("%s", out)
	}
}

func TestScoreMarks(t *testing.T) {
	marks := file(t, "marks.json",
		`{"format":"maestrale-marks/1","marks":[{"t_s":0,"mark":"start"},{"t_s":4,"mark":"in"},{"t_s":30,"mark":"touch",`+
			`"away_m":0,"right_m":0.4},{"t_s":31,"mark":"done"}]}`)
	status, out, errOut := call(t, "", "score", "--drill", "hover-tail-in", "--marks", marks)
	var got score.Result
	if status != 0 || json.Unmarshal([]byte(out), &got) != nil || got.Verdict != score.Pass ||
		got.Source != score.Observed || *got.Margin != 0.5 {
		t.Errorf("%d %s %s", status, out, errOut)
	}
}

func TestWrongUsageIsOneClearLine(t *testing.T) {
	goes := file(t, "back.csv", "t_s,x_m,y_m,z_m\n0,0,0,0\n2,0,0,0\n1,0,0,0\n")
	geo := file(t, "geo.csv", "time,lat_deg,lon_deg,alt_m\n2026-03-02T09:14:00Z,45,12,0\n2026-03-02T09:14:01Z,45,12,0\n")
	badCourse := file(t, "course.yaml", "format: maestrale-course/1\nmarkers:\n  pad: [1]\n")
	school := t.TempDir()
	if err := os.WriteFile(filepath.Join(school, "mine.yaml"),
		[]byte("format: maestrale-drill/1\nkey: mine\ntitle: Mine\nfamily: x\ncolour: red\nsteps: []\n"), 0o644); err != nil {
		t.Fatal(err)
	}
	record := file(t, "record.json", `{"format":"maestrale-record/1","attempts":[{"id":"a"}]}`)
	for _, c := range []struct {
		args []string
		want string
	}{
		{[]string{"fry"}, "unknown command"},
		{[]string{"score", "--drill", "hover-tail-in"}, "either a track or --marks"},
		{[]string{"score", "--drill", "loop", example}, `drill "loop" is not known; expected one of`},
		{[]string{"score", "--drill", "hover-tail-in", "--craft", "heron", example}, `craft "heron" is not known`},
		{[]string{"score", "--drill", "hover-tail-in", "--side", "left", example}, "no sides"},
		{[]string{"score", "--drill", "yaw-quarter", example}, "left or right"},
		{[]string{"score", "--drill", "hover-tail-in", "--level", "7", example}, "1 to 3"},
		{[]string{"score", "--drill", "hover-tail-in", "nowhere.csv"}, "nowhere.csv: no such file"},
		{[]string{"score", "--drill", "hover-tail-in", "."}, "folder"},
		{[]string{"score", "--drill", "hover-tail-in", goes}, goes + ":4: the time goes from 2 s to 1 s; expected"},
		{[]string{"score", "--drill", "hover-tail-in", geo}, geo + ":1: "},
		{[]string{"score", "--drill", "hover-tail-in", "--origin", "45,12", "--away", "0", geo}, "LAT,LON,ALT"},
		{[]string{"score", "--drill", "hover-tail-in", "--origin", "45,12,0", geo}, "both"},
		{[]string{"score", "--drill", "hover-tail-in", "--course", badCourse, example}, badCourse + ":3: "},
		{[]string{"score", "--drill", "hover-tail-in", "--wind", "breezy", example}, "MPS@FROM_DEG"},
		{[]string{"drills", "--drill", "loop"}, "not known"},
		{[]string{"drills", "--school", school}, `mine.yaml:5: unknown key "colour"`},
		{[]string{"ready"}, "--record"},
		{[]string{"ready", "--record", record}, `attempts[0] has no "at"`},
		{[]string{"ready", "--record", record, "--at", "noon"}, "--at"},
		{[]string{"convert", "--to", "gpx2", example}, "csv or csv-geo"},
		{[]string{"convert", "--to", "csv-geo", example}, "--origin"},
		{[]string{"serve"}, "DATABASE_URL"},
	} {
		t.Setenv("DATABASE_URL", "")
		status, out, errOut := call(t, "", c.args...)
		if status != 2 || out != "" || strings.Count(errOut, "\n") != 1 || !strings.Contains(errOut, c.want) {
			t.Errorf("%v: status %d, out %q, error %q, want %q", c.args, status, out, errOut, c.want)
		}
	}
}

func TestUnknownFieldsAreNotedAndIgnored(t *testing.T) {
	path := file(t, "odd.csv", "t_s,x_m,y_m,z_m,mood\n0,0,6,0,good\n1,0,6,0,good\n")
	status, out, errOut := call(t, "", "score", "--drill", "hover-tail-in", path)
	if status != 0 || !strings.Contains(errOut, `"mood" is not read`) || !strings.Contains(out, "incomplete") {
		t.Errorf("%d %s %s", status, out, errOut)
	}
}

func TestDrillsPrintsWhatCanBeReadAgain(t *testing.T) {
	status, out, _ := call(t, "", "drills", "--drill", "hover-tail-in")
	d, err := drill.Parse([]byte(out))
	if status != 0 || err != nil || d.Key != "hover-tail-in" {
		t.Errorf("%d %v", status, err)
	}
	_, all, _ := call(t, "", "drills")
	docs := strings.Split(all, "\n---\n")
	if len(docs) != len(drill.Shipped().Drills) {
		t.Errorf("%d documents", len(docs))
	}
	school := t.TempDir()
	mine := strings.Replace(out, "key: hover-tail-in", "key: mine", 1)
	if err := os.WriteFile(filepath.Join(school, "mine.yaml"), []byte(mine), 0o644); err != nil {
		t.Fatal(err)
	}
	if status, _, errOut := call(t, "", "score", "--school", school, "--drill", "mine", example); status != 0 {
		t.Errorf("a drill of the school: %d %s", status, errOut)
	}
}

func TestReadyReadsARecord(t *testing.T) {
	rec := file(t, "record.json", `{"format":"maestrale-record/1","school":"S","time_zone":"Europe/Rome",
   "student":{"id":"1","name":"A"},"programme":"hands-first","attempts":[
	 {"id":"a","at":"2026-03-02T09:00:00Z","drill":"hover-tail-in","side":"none","aids":"self-level","craft_class":"light",
   "source":"observed","verdict":"pass"},
	 {"id":"b","at":"2026-03-02T09:10:00Z","drill":"hover-tail-in","side":"none","aids":"self-level","craft_class":"light",
   "source":"observed","verdict":"pass","mood":"good"},
	 {"id":"c","at":"2026-03-04T09:00:00Z","drill":"hover-tail-in","side":"none","aids":"self-level","craft_class":"light",
   "source":"track","verdict":"pass"}]}`)
	standing := func(args ...string) string {
		status, out, errOut := call(t, "", append([]string{"ready", "--record", rec}, args...)...)
		if status != 0 || !strings.Contains(errOut, "attempts[1].mood is not read") {
			t.Fatalf("%d %s", status, errOut)
		}
		var r struct {
			Format string
			Cells  []struct{ Drill, Aids, Standing string }
		}
		if err := json.Unmarshal([]byte(out), &r); err != nil || r.Format != "maestrale-readiness/1" {
			t.Fatal(err, out)
		}
		for _, c := range r.Cells {
			if c.Drill == "hover-tail-in" && c.Aids == "self-level" {
				return c.Standing
			}
		}
		return ""
	}
	for args, want := range map[string]string{"": "held", "--at=2026-03-03T00:00:00Z": "building",
		"--at=2026-03-18T09:00:30Z": "held", "--at=2026-03-18T09:01:00Z": "lapsed"} {
		if got := standing(strings.Fields(args)...); got != want {
			t.Errorf("ready %s: %s, want %s", args, got, want)
		}
	}
}

func TestConvertGoesThereAndBack(t *testing.T) {
	dir := t.TempDir()
	geo, back := filepath.Join(dir, "geo.csv"), filepath.Join(dir, "back.csv")
	place := []string{"--origin", "45.2,12.3,2", "--away", "135"}
	if status, _, errOut := call(t, "", append([]string{"convert", "--to", "csv-geo", "--out", geo, example},
		place...)...); status != 0 {
		t.Fatal(errOut)
	}
	if status, _, errOut := call(t, "", append([]string{"convert", "--out", back, geo}, place...)...); status != 0 {
		t.Fatal(errOut)
	}
	_, a, _ := call(t, "", "score", "--drill", "hover-tail-in", example)
	_, b, errOut := call(t, "", append([]string{"score", "--drill", "hover-tail-in", geo}, place...)...)
	var ra, rb score.Result
	if json.Unmarshal([]byte(a), &ra) != nil || json.Unmarshal([]byte(b), &rb) != nil {
		t.Fatal(errOut)
	}
	if ra.Verdict != rb.Verdict || len(ra.Faults) != len(rb.Faults) || ra.Faults[0].Toward != rb.Faults[0].Toward ||
		ra.Faults[0].Text != rb.Faults[0].Text {
		t.Errorf("field form %s %v, geographic %s %v", ra.Verdict, ra.Faults, rb.Verdict, rb.Faults)
	}
	if status, _, _ := call(t, "", "convert", "--out", filepath.Join(dir, "no", "such", "folder.csv"),
		example); status != 2 {
		t.Errorf("writing into no folder: %d", status)
	}
}
