package web

import (
	"net/http"
	"net/url"
	"strings"
	"testing"

	"maestrale/internal/store"
)

// asked is a runner that notes what it is asked.
type asked struct{ on []bool }

func (a *asked) Run(on bool, _ store.Person) { a.on = append(a.on, on) }

func (a *asked) Running() bool { return len(a.on) > 0 && a.on[len(a.on)-1] }

// A school's own day never runs by itself; that of the sample school does where an instructor says so, until one says
// stop.
func TestOnlyASampleDayRunsByItself(t *testing.T) {
	d := newFieldDay(t)
	teacher, spotter := d.as(store.Instructor), d.as(store.Spotter)
	teacher.form("/today/day", d.form(2))
	if r := teacher.form("/today/run", url.Values{"on": {"yes"}}); r.status != http.StatusNotFound {
		t.Errorf("a school's own day: %d", r.status)
	}
	if strings.Contains(teacher.get("/today").body, "Let the day run") {
		t.Error("a school's own day is offered to run")
	}
	a := &asked{}
	d.app.Runner = a
	if !strings.Contains(teacher.get("/today").body, "Let the day run") {
		t.Error("the sample day is not offered to run")
	}
	if strings.Contains(spotter.get("/today").body, "Let the day run") {
		t.Error("a spotter is offered what a spotter may not do")
	}
	if r := spotter.form("/today/run", url.Values{"on": {"yes"}}); r.status != http.StatusForbidden || len(a.on) > 0 {
		t.Errorf("a spotter lets it run: %d", r.status)
	}
	teacher.form("/today/run", url.Values{"on": {"yes"}})
	page := text(teacher.get("/today").body)
	if !strings.Contains(page, "ten times as fast") || !strings.Contains(page, "Stop the day") {
		t.Errorf("it runs, and the page does not say so: %s", page)
	}
	teacher.form("/today/run", url.Values{"on": {"no"}})
	if a.Running() || len(a.on) != 2 {
		t.Errorf("asked %v", a.on)
	}
}
