package main

import (
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"maestrale/core/drill"
	"maestrale/core/intake"
	"maestrale/core/pack"
	"maestrale/core/preflight"
)

// block is a fenced part of a document: what it is, the name of its file, and its text.
type block struct{ kind, name, text string }

func blocksOf(t *testing.T, path, heading string) (out []block) {
	t.Helper()
	data, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	_, part, found := strings.Cut(string(data), "\n## "+heading+"\n")
	if !found {
		t.Fatalf("%s has no part %q", path, heading)
	}
	fenced := regexp.MustCompile("(?ms)^```(\\w+)(?: (\\S+))?\n(.*?)^```$")
	for _, m := range fenced.FindAllStringSubmatch(part, -1) {
		out = append(out, block{m[1], m[2], m[3]})
	}
	return out
}

// Every example of docs/formats.md is read without a complaint: by the commands next to it, or by what reads it from a
// person.
func TestTheExamplesOfTheFormatsRun(t *testing.T) {
	blocks := blocksOf(t, "../../docs/formats.md", "Examples")
	dir := t.TempDir()
	t.Chdir(dir)
	for _, b := range blocks {
		if b.name == "" {
			continue
		}
		if err := os.MkdirAll(filepath.Dir(b.name), 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(b.name, []byte(b.text), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	used, commands := map[string]bool{}, 0
	for _, b := range blocks {
		if b.kind != "sh" {
			continue
		}
		for line := range strings.Lines(b.text) {
			args := strings.Fields(line)
			if args[0] != "maestrale" {
				t.Errorf("%s: expected a command of maestrale", line)
				continue
			}
			status, out, errOut := call(t, "", args[1:]...)
			notes := args[1] == "convert" || args[1] == "logs" // they say what a format does not keep
			if status != 0 || out == "" || errOut != "" && !notes {
				t.Errorf("%s: status %d, %q, %q", strings.TrimSpace(line), status, out, errOut)
			}
			for _, a := range args {
				used[a] = true
			}
			commands++
		}
	}
	read := map[string]func(string) error{
		"fleet.yaml": func(s string) error { _, err := pack.ParseFleet([]byte(s), drill.Shipped().Craft); return err },
		"check.yaml": func(s string) error { _, err := preflight.Parse([]byte(s)); return err },
		"charger.json": func(s string) error {
			_, err := pack.ReadTold(s)
			return err
		},
		"students.csv": func(s string) error { return taken(t, intake.Students, s) },
		"packs.csv":    func(s string) error { return taken(t, intake.Packs, s) },
	}
	files := 0
	for _, b := range blocks {
		if b.name == "" {
			continue
		}
		files++
		by := read[b.name]
		switch {
		case by != nil:
			if err := by(b.text); err != nil {
				t.Errorf("%s: %v", b.name, err)
			}
		case !used[b.name] && !used[strings.SplitN(b.name, "/", 2)[0]]:
			t.Errorf("%s is run by nothing", b.name)
		}
	}
	if commands < 12 || files < 16 {
		t.Errorf("%d commands and %d files are few", commands, files)
	}
}

// taken reads a table as the import does.
func taken(t *testing.T, kind intake.Kind, text string) error {
	t.Helper()
	table, err := intake.ReadTable([]byte(text))
	if err != nil {
		return err
	}
	_, wrong := intake.Read(kind, table, intake.Match(kind, table.Headings), intake.Known{Catalogue: drill.Shipped(),
		Zone: time.UTC, Today: time.Date(2026, 5, 1, 0, 0, 0, 0, time.UTC)})
	for _, w := range wrong {
		t.Error(w)
	}
	return nil
}
