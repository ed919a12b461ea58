package web

import (
	"net/http"
	"net/url"
	"strings"
	"testing"

	"maestrale/core/flight"
	"maestrale/core/flight/trace"
	"maestrale/core/rig"
	"maestrale/internal/store"
)

// Catching by hand is offered to nobody until the chief has read its cautions and
// switched it on; the goggles track, to nobody who does not hold the ladder.
func TestClosedDrills(t *testing.T) {
	s := newSite(t)
	chief, teacher := s.as(store.Chief), s.as(store.Instructor)
	student := "/students/" + s.student.String()
	catch := student + "/mark?drill=hand-catch&side=left&aids=position-hold"
	open := func() reply {
		return teacher.json(student+"/marks", map[string]any{
			"opening": map[string]any{"id": store.NewID().String(), "drill": "hand-catch", "side": "left", "level": 1,
				"aids": "position-hold", "craft": "poiana"},
			"marks": []any{map[string]any{"id": store.NewID().String(), "t_s": 0, "mark": "start"}},
		})
	}
	for what, r := range map[string]reply{"the pad": teacher.get(catch),
		"the simulator": teacher.get(strings.Replace(catch, "/mark", "/fly", 1)), "an attempt": open()} {
		if r.status != http.StatusUnprocessableEntity || !strings.Contains(r.body, "switched off at this school") {
			t.Errorf("%s: %d %s", what, r.status, text(r.body))
		}
	}
	if n := s.count("openings"); n != 0 {
		t.Errorf("%d attempts were begun", n)
	}
	if r := chief.form("/settings/hand-catch", url.Values{"on": {"yes"}}); r.status != http.StatusUnprocessableEntity {
		t.Errorf("switched on unread: %d", r.status)
	}
	if r := teacher.form("/settings/hand-catch", url.Values{"on": {"yes"},
		"cautions": {"read"}}); r.status != http.StatusForbidden {
		t.Errorf("switched on by an instructor: %d", r.status)
	}
	if r := chief.form("/settings/hand-catch", url.Values{"on": {"yes"},
		"cautions": {"read"}}); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	if p := teacher.padPage("drill=hand-catch&side=left&aids=position-hold"); !strings.Contains(p, "cut to the bone") {
		t.Error(p)
	}
	if r := open(); r.status != http.StatusOK {
		t.Errorf("%d %s", r.status, r.body)
	}
	if r := chief.form("/settings/hand-catch", url.Values{"on": {"no"}}); r.status != http.StatusSeeOther ||
		teacher.get(catch).status != http.StatusUnprocessableEntity {
		t.Errorf("switched off again: %d", r.status)
	}
	if r := teacher.get(student +
		"/mark?drill=goggles-seated&aids=position-hold"); r.status != http.StatusUnprocessableEntity ||
		!strings.Contains(text(r.body), "whole ladder") {
		t.Errorf("goggles: %d %s", r.status, text(r.body))
	}
	// What was flown of a closed drill is kept, as practice.
	spec := trace.Spec{Craft: "poiana", Drill: "goggles-seated", Side: "none", Level: 1, Aids: "position-hold",
		Gusts: "none", Seed: 3}
	setup, err := rig.SetUp(spec, s.app.Catalogues.Shipped, nil)
	if err != nil {
		t.Fatal(err)
	}
	f, err := flight.New(setup.Config)
	if err != nil {
		t.Fatal(err)
	}
	rec := trace.Record(f)
	for i := range 4200 {
		throttle, _ := hovering(rec, i)
		rec.Reading(throttle, 0, 0, 0, 0, int(setup.Config.Aids), 0)
	}
	run := rec.JSON(spec, false)
	got, status := s.send(teacher, store.NewID().String(), run)
	if status != http.StatusOK || got.Verdict == nil || got.Verdict.Counts || !strings.Contains(got.Verdict.WhyNot,
		"whole ladder") {
		t.Errorf("%d %+v %+v", status, got, got.Verdict)
	}
	if page := text(teacher.get("/programmes/drills/goggles-seated").body); !strings.Contains(page, "Closed at first:") ||
		!strings.Contains(page, "it opens when the whole ladder") {
		t.Errorf("%s", page)
	}
}
