package main

import (
	"bytes"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"maestrale/core/plan"
)

const aRecord = `{"format": "maestrale-record/1", "school": "Meadow", "time_zone": "Europe/Rome",
   "student": {"id": "s1", "name": "A"}, "programme": "position-hold-first",
 "attempts": [
  {"id": "a1", "at": "2026-03-02T09:14:00Z", "drill": "ground-effect-hover", "side": "none", "aids": "position-hold",
   "craft_class": "light", "source": "observed", "verdict": "pass"},
  {"id": "a2", "at": "2026-03-03T09:14:00Z", "drill": "hover-tail-in", "side": "none", "aids": "position-hold",
   "craft_class": "light", "source": "observed", "verdict": "fail"},
  {"id": "a3", "at": "2026-03-03T09:20:00Z", "drill": "unheard-of", "side": "none", "aids": "position-hold",
   "craft_class": "light", "source": "observed", "verdict": "pass"}],
 "practice": [{"at": "2026-03-03T10:00:00Z", "drill": "yaw-quarter", "side": "left", "aids": "position-hold",
   "minutes": 5, "packs": 1}]}`

func inFile(t *testing.T, name, text string) string {
	t.Helper()
	file := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(file, []byte(text), 0o600); err != nil {
		t.Fatal(err)
	}
	return file
}

func command(args ...string) (status int, out, errOut string) {
	var o, e bytes.Buffer
	status = run(args, strings.NewReader(""), &o, &e)
	return status, o.String(), e.String()
}

// A record is signed, verified, changed by a byte, and found broken with status 1.
func TestExportAndVerify(t *testing.T) {
	plainFile, key := inFile(t, "record.json", aRecord), filepath.Join(t.TempDir(), "key.pem")
	signed := filepath.Join(t.TempDir(), "signed.json")
	if status, _, e := command("export", "--record", plainFile, "--key", key, "--out", signed); status != 0 {
		t.Fatal(e)
	}
	var v verification
	status, out, e := command("verify", signed)
	if err := json.Unmarshal([]byte(out), &v); status != 0 || err != nil || !v.Sound || v.Attempts != 3 || v.Entries != 3 {
		t.Fatalf("%d %s %s %v", status, out, e, err)
	}
	if status, _, _ := command("verify", "--key", v.SignedBy.Key, signed); status != 0 {
		t.Error("with its own key it is not sound")
	}
	data, err := os.ReadFile(signed)
	if err != nil {
		t.Fatal(err)
	}
	bad := inFile(t, "bad.json", strings.Replace(string(data), `"verdict":"fail"`, `"verdict":"pass"`, 1))
	status, out, e = command("verify", bad)
	if err := json.Unmarshal([]byte(out), &v); status != 1 || err != nil || v.Sound || !strings.Contains(e, "not sound") ||
		strings.Count(e, "\n") != 1 {
		t.Errorf("a changed byte: %d %s %s", status, out, e)
	}
	// The key is kept and used again.
	again := filepath.Join(t.TempDir(), "again.json")
	if status, _, e := command("export", "--record", plainFile, "--key", key, "--out", again); status != 0 {
		t.Fatal(e)
	}
	if status, _, _ := command("verify", "--key", v.SignedBy.Key, again); status != 0 {
		t.Error("another key was made")
	}
	for want, args := range map[string][]string{
		"no signature":    {"verify", plainFile},
		"in base64":       {"verify", "--key", "short", signed},
		"names no record": {"export"},
		"no PEM":          {"export", "--record", plainFile, "--key", plainFile},
		"DATABASE_URL":    {"export", "--student", "x", "--school-id", "018f0000-0000-7000-8000-000000000000"},
		"--school-id":     {"export", "--student", "x", "--school-id", "y"},
		"expected an id":  {"import", "--school-id", "y", "--student", "x", "--by", "z", signed},
	} {
		t.Setenv("DATABASE_URL", "")
		if status, _, e := command(args...); status != 2 || !strings.Contains(e, want) {
			t.Errorf("%v: %d %s", args, status, e)
		}
	}
}

func TestLessonFromARecord(t *testing.T) {
	file := inFile(t, "record.json", aRecord)
	status, out, e := command("lesson", "--record", file, "--craft-class", "light", "--aids", "position-hold", "--packs",
		"2", "--pack-minutes", "8", "--wind", "2")
	var l plan.LessonDocument
	if err := json.Unmarshal([]byte(out), &l); status != 0 || err != nil || l.Format != "maestrale-lesson/1" ||
		l.Toward != "unassisted-aids-on" || len(l.Blocks) == 0 {
		t.Fatalf("%d %s %s", status, out, e)
	}
	minutes := map[int]float64{}
	for _, b := range l.Blocks {
		minutes[b.Pack] += b.Minutes
		if b.Why == "" || b.Drill == "nose-in-hover" {
			t.Errorf("%+v", b)
		}
	}
	if len(minutes) != 2 || minutes[1] > 8 || minutes[2] > 8 {
		t.Errorf("%v", minutes)
	}
	for want, args := range map[string]string{
		"no --record":      "lesson",
		"micro, light":     "lesson --record " + file + " --aids position-hold",
		"position-hold, ":  "lesson --record " + file + " --craft-class light",
		"has no":           "lesson --record " + file + " --craft rondine --aids position-hold",
		"MPS":              "lesson --record " + file + " --craft-class light --aids position-hold --wind fresh",
		"--craft is":       "lesson --record " + file + " --craft kite --aids position-hold",
		"the programme is": "lesson --record " + file + " --craft-class light --aids position-hold --programme none",
		"--at is":          "lesson --record " + file + " --craft-class light --aids position-hold --at noon",
	} {
		if status, _, e := command(strings.Fields(args)...); status != 2 || !strings.Contains(e, want) {
			t.Errorf("%s: %d %s", args, status, e)
		}
	}
}

// An attempt at a drill that is not known here is kept, not counted, and said.
func TestReadySaysWhatIsNotKnown(t *testing.T) {
	status, out, _ := command("ready", "--record", inFile(t, "record.json", aRecord), "--craft", "poiana")
	if status != 0 || !strings.Contains(out, "the drill unheard-of is not known here") || !strings.Contains(out,
		`"closing"`) || !strings.Contains(out, `"p_next": {`) {
		t.Errorf("%d %s", status, out)
	}
	future := strings.Replace(aRecord, "2026-03-03T09:14:00Z", "2099-03-03T09:14:00Z", 1)
	if status, out, _ := command("ready", "--record", inFile(t, "record.json", future)); status != 0 ||
		!strings.Contains(out, "has not come yet") || !strings.Contains(out, `"at": "2026-03-03`) {
		t.Errorf("%d %s", status, out)
	}
}

func TestRegain(t *testing.T) {
	file := inFile(t, "seen.csv", "input,seconds,saw,speed\nforward,2,right,full\nyaw-right,1,none,\n")
	status, out, e := command("regain", "--observations", file, "--distance", "50", "--wind", "1@90")
	var r regainOutput
	if err := json.Unmarshal([]byte(out), &r); status != 0 || err != nil || r.AspectDeg < 150 && r.AspectDeg > -150 ||
		len(r.Contradicts) != 0 || r.Home.Closing < 2 {
		t.Fatalf("%d %s %s", status, out, e)
	}
	for want, args := range map[string]string{
		"no --observations": "regain",
		"MPS":               "regain --observations " + file + " --wind fresh",
		"the distance is":   "regain --observations " + file + " --distance 0",
		"the yaw rate is":   "regain --observations " + file + " --yaw-rate 0",
		"forward, back":     "regain --observations " + inFile(t, "bad.csv", "input,seconds,saw,speed\nup,1,none,\n"),
	} {
		if status, _, e := command(strings.Fields(args)...); status != 2 || !strings.Contains(e, want) {
			t.Errorf("%s: %d %s", args, status, e)
		}
	}
}
