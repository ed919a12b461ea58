package web

import (
	"net/http"
	"net/url"
	"strings"
	"testing"

	"maestrale/internal/store"
)

// How a student holds the sticks is kept with the student, and stands in the school's tables; another word is refused.
func TestAGripIsKept(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Instructor)
	at := "/students/" + s.student.String()
	form := url.Values{"do": {"change"}, "name": {"First Student"}, "programme": {"position-hold-first"},
		"craft": {"poiana"}, "grip": {"pinch"}}
	if r := c.form(at, form); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	if body := c.get(at).body; !strings.Contains(body, `<option value="pinch" selected>`) {
		t.Error("the page does not say how the student holds the sticks")
	}
	form.Set("grip", "teeth")
	if r := c.form(at, form); r.status != http.StatusConflict {
		t.Errorf("%d %s", r.status, text(r.body))
	}
	if body := c.get(at).body; !strings.Contains(body, `<option value="pinch" selected>`) {
		t.Error("what was refused has changed something")
	}
}

// The sample school has students of both kinds, and Records holds them against one another.
func TestRecordsCompareGrips(t *testing.T) {
	_, c := sampleSchool(t)
	if page := text(c.get("/records").body); !strings.Contains(page, "students who fly with the thumbs") ||
		!strings.Contains(page, "percentage points") {
		t.Errorf("%.800s", page)
	}
}
