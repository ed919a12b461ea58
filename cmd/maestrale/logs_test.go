package main

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"
)

const flownDay = `{"format": "maestrale-flown-day/1", "starts": "2026-05-09T09:00:00Z", "ends": "2026-05-09T12:00:00Z",
 "flights": [{"id": "f1", "student": "s1", "name": "Sibilla", "craft": "poiana", "tail": "poiana-1",
  "from": "2026-05-09T09:10:00Z", "to": "2026-05-09T09:12:00Z", "drills": [{"drill": "hover-tail-in"}]}],
 "marks": [{"id": "m1", "student": "s1", "drill": "hover-tail-in", "verdict": "pass", "by": "Mirta",
  "from": "2026-05-09T09:10:30Z", "to": "2026-05-09T09:11:19Z"}]}`

// A folder is sorted from the command line: a log without a clock is timed by its file, the mark beside it disagrees,
// and what is no log is left out with its reason.
func TestLogsCommand(t *testing.T) {
	day := file(t, "day.json", flownDay)
	dir := t.TempDir()
	log, err := os.ReadFile("../../examples/hover-drift.csv")
	if err != nil {
		t.Fatal(err)
	}
	name := filepath.Join(dir, "poiana-1 0001.csv")
	for n, data := range map[string][]byte{name: log, filepath.Join(dir, "picture.jpg"): {0xff, 0xd8, 0}} {
		if err := os.WriteFile(n, data, 0o600); err != nil {
			t.Fatal(err)
		}
	}
	ended := time.Date(2026, 5, 9, 9, 11, 20, 0, time.UTC)
	if err := os.Chtimes(name, ended, ended); err != nil {
		t.Fatal(err)
	}
	status, out, errOut := call(t, "", "logs", "--day", day, dir)
	var got sortedOutput
	if err := json.Unmarshal([]byte(out), &got); status != 0 || err != nil || len(got.Items) != 1 {
		t.Fatalf("%d %v %s %s", status, err, out, errOut)
	}
	it := got.Items[0]
	if it.Student != "s1" || it.Mark == nil || it.Result.Verdict != "fail" || it.Asks != "which-stands" ||
		len(got.Agreement) != 1 || got.Agreement[0].Lenient != 1 {
		t.Errorf("%s", out)
	}
	status, table, _ := call(t, "", "logs", "--day", day, "--format", "table", dir)
	if status != 0 || !strings.Contains(table, "Sibilla") || !strings.Contains(table, "picture.jpg") {
		t.Errorf("%d %s", status, table)
	}
	for _, args := range [][]string{{"logs", dir}, {"logs", "--day", day, filepath.Join(dir, "none")},
		{"logs", "--day", file(t, "bad.json", "{}"), dir}, {"logs", "--day", day, "--format", "xml", dir}} {
		if status, out, errOut := call(t, "", args...); status != 2 || out != "" || errOut == "" {
			t.Errorf("%v: %d %q %q", args, status, out, errOut)
		}
	}
}
