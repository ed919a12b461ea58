package school

import (
	"testing"
	"time"
)

func TestReadIdle(t *testing.T) {
	for text, want := range map[string]time.Duration{"": 0, "30": 30 * time.Minute, "5 min": 5 * time.Minute,
		"12h":      12 * time.Hour,
		" 1 Hour ": time.Hour, "30 d": 720 * time.Hour, "2 days": 48 * time.Hour} {
		if got, err := ReadIdle(text); err != nil || got != want {
			t.Errorf("%q: %v, %v", text, got, err)
		}
	}
	for _, text := range []string{"4", "31 d", "-5", "soon", "1.5 h", "h", "99999999999999", "0"} {
		if got, err := ReadIdle(text); err == nil {
			t.Errorf("%q is taken for %v", text, got)
		}
	}
	for minutes := 5; minutes <= 30*24*60; minutes++ {
		if d, err := ReadIdle(IdleWords(minutes)); err != nil || d != time.Duration(minutes)*time.Minute {
			t.Fatalf("%d minutes are said as %q, which is read as %v, %v", minutes, IdleWords(minutes), d, err)
		}
	}
}
