package web

import (
	"strings"
	"testing"
	"time"

	"maestrale/internal/store"
)

// An attempt says that people looked on where its marks do, and not where that was taken back; what they do to the
// passes is said once both ways were flown often enough.
func TestOnlookersAreNotedAndCompared(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Instructor)
	mark := func(n int, watched, back bool) {
		id := store.NewID().String()
		m := hoverMarks(id)
		m["opening"].(map[string]any)["device_at"] = time.Now().Add(-time.Duration(n+1) * time.Hour)
		aside := store.NewID().String()
		marks := m["marks"].([]any)
		if watched {
			marks = append(marks[:1:1], append([]any{map[string]any{"id": aside, "t_s": 0.1, "mark": "onlookers"}},
				marks[1:]...)...)
		}
		if back {
			marks = append(marks[:2:2], append([]any{map[string]any{"id": store.NewID().String(), "t_s": 0.2, "mark": "undo",
				"of": aside}}, marks[2:]...)...)
		}
		if watched && !back { // it fails before people: the craft leaves its place
			marks = append(marks[:3:3], append([]any{map[string]any{"id": store.NewID().String(), "t_s": 12, "mark": "fault",
				"code": "left-box"}, map[string]any{"id": store.NewID().String(), "t_s": 13, "mark": "fault",
				"code": "left-box"}}, marks[3:]...)...)
		}
		m["marks"] = marks
		if r := c.json("/students/"+s.student.String()+"/marks", m); r.status != 200 {
			t.Fatalf("%d %s", r.status, r.body)
		}
	}
	page := func() string { return text(c.get("/students/" + s.student.String()).body) }
	for n := range 9 {
		mark(n, true, false)
	}
	for n := range 11 {
		mark(10+n, n == 0, n == 0)
	}
	if strings.Contains(page(), "While people look on") {
		t.Error("nine watched attempts are said to show something")
	}
	mark(30, true, false)
	if says := page(); !strings.Contains(says, "While people look on, 0 of 10 attempts are passed, and 11 of 11") {
		t.Errorf("after ten: %s", says)
	}
	if !strings.Contains(text(c.get("/records").body), "While people look on") {
		t.Error("Records do not say it")
	}
}
