package web

import (
	"net/http"
	"strings"
	"testing"

	"maestrale/internal/store"
)

// A student's progress is drawn and stands as a table; of a drill each attempt is a mark. A student sees the own one.
func TestProgressIsDrawnAndTold(t *testing.T) {
	s := newSite(t)
	teacher, own := s.as(store.Instructor), s.as(store.Learner)
	at := "/students/" + s.student.String() + "/progress"
	if p := text(teacher.get(at).body); !strings.Contains(p, "Nothing was flown yet") {
		t.Errorf("empty: %s", p)
	}
	s.keep(s.student, "PP PF")
	p := teacher.get(at)
	says := text(p.body)
	if !strings.Contains(p.body, `class="held-line"`) || !strings.Contains(says, "takes at least") ||
		!strings.Contains(says, "items held in the evening") {
		t.Errorf("the ladder: %s", says)
	}
	if d := text(own.get(at + "?drill=hover-tail-in").body); !strings.Contains(d, "Tail-in hover") {
		t.Errorf("a drill: %s", d)
	}
	if d := teacher.get(at + "?drill=loop"); d.status != http.StatusOK || !strings.Contains(text(d.body), "Progress") {
		t.Errorf("a drill that is none: %d", d.status)
	}
	if r := own.get("/students/" + s.other.String() + "/progress"); r.status != http.StatusForbidden &&
		r.status != http.StatusNotFound {
		t.Errorf("of another: %d", r.status)
	}
}
