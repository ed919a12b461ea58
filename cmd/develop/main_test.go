package main

import (
	"os"
	"path/filepath"
	"testing"
	"time"
)

func TestAChangeIsSeen(t *testing.T) {
	dir := t.TempDir()
	file := filepath.Join(dir, "deep", "a.html")
	if err := os.MkdirAll(filepath.Dir(file), 0o755); err != nil {
		t.Fatal(err)
	}
	write := func(name string, at time.Time) stamp {
		t.Helper()
		if err := os.WriteFile(name, []byte("x"), 0o600); err != nil {
			t.Fatal(err)
		}
		if err := os.Chtimes(name, at, at); err != nil {
			t.Fatal(err)
		}
		return newest([]string{dir}, []string{".html"})
	}
	at := time.Date(2026, 5, 1, 9, 0, 0, 0, time.UTC)
	first := write(file, at)
	if again := newest([]string{dir}, []string{".html"}); again != first || first.count != 1 {
		t.Errorf("nothing changed: %v, then %v", first, again)
	}
	if got := write(filepath.Join(dir, "b.css"), at.Add(time.Hour)); got != first {
		t.Errorf("a file of another kind is seen: %v", got)
	}
	if got := write(file, at.Add(time.Second)); got == first {
		t.Error("a file that was saved is not seen")
	}
	if got := write(filepath.Join(dir, "c.html"), at); got.count != 2 {
		t.Error("a new file is not seen")
	}
	if err := os.Remove(file); err != nil {
		t.Fatal(err)
	}
	if got := newest([]string{dir}, []string{".html"}); got.count != 1 {
		t.Error("a file that was removed is not seen")
	}
}
