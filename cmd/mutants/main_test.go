package main

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
)

func TestMutantsOfAPackage(t *testing.T) {
	dir := t.TempDir()
	const text = `package p

const limit = 0.4 // not 4
const many = 3

func in(v float64, on bool) bool { return v <= 2*limit && on || v > 5 }

func full(n int) bool { return n >= 7 }
`
	for name, body := range map[string]string{"p.go": text, "go.mod": "module p\n",
		"p_test.go": "package p\n\nconst other = 1 < 2\n"} {
		if err := os.WriteFile(filepath.Join(dir, name), []byte(body), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	list, err := mutantsOf(dir)
	if err != nil {
		t.Fatal(err)
	}
	var got []string
	for _, m := range list {
		changed := text[:m.at] + m.with + text[m.end:]
		if len(changed) == len(text) && changed == text || !strings.Contains(changed, m.to) {
			t.Errorf("%s changes nothing", m.key())
		}
		got = append(got, m.with)
	}
	if want := "0.5 4 && || 2.5 > 6.25 <= >"; strings.Join(got, " ") != want {
		t.Errorf("%q, want %q", got, want)
	}
	if _, err := mutantsOf(filepath.Join(dir, "none")); err == nil {
		t.Error("a folder that is not there has changes")
	}
}

func TestReasons(t *testing.T) {
	file := filepath.Join(t.TempDir(), "m.md")
	m := mutant{file: "core/a.go", from: "x < 1", to: "x <= 1"}
	if err := os.WriteFile(file, []byte("# Survivors\n\n- "+m.key()+" — the two are the same at 1\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	if got := reasons(file)[m.key()]; got != "the two are the same at 1" {
		t.Errorf("%q", got)
	}
	if len(reasons(file+"x")) != 0 {
		t.Error("a file that is not there explains something")
	}
}
