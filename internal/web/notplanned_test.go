package web

import (
	"encoding/json"
	"math"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"maestrale/internal/fieldday"
	"maestrale/internal/store"
)

// A flight that is not planned begins too: a demonstration is nobody's, a lesson is a
// student's, and what does not belong together is refused.
func TestFlightsThatAreNotPlanned(t *testing.T) {
	d := newFieldDay(t)
	teacher := d.as(store.Instructor)
	teacher.form("/today/day", d.form(1))
	begin := func(more url.Values) reply {
		v := url.Values{"kind": {"demonstration"}, "craft": {d.craft.String()}, "pack": {d.packs[0].String()}, "box": {"1"},
			"minutes": {"5"}}
		for k, x := range more {
			v[k] = x
		}
		return teacher.form("/today/flights", v)
	}
	for what, v := range map[string]url.Values{
		"a lesson of nobody": {"kind": {"lesson"}}, "no pack": {"pack": {""}},
		"a pack of the moon": {"pack": {store.NewID().String()}}, "no time": {"minutes": {"none"}}, "no box": {"box": {"0"}},
		"a word": {"craft": {"moon"}},
	} {
		if r := begin(v); r.status != http.StatusUnprocessableEntity || d.count("flights") != 0 {
			t.Errorf("%s: %d, %d flights", what, r.status, d.count("flights"))
		}
	}
	if r := begin(url.Values{"student": {d.student.String()}}); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	if board := boardText(teacher); !strings.Contains(board, "The instructor, demonstration") {
		t.Errorf("%s", board)
	}
	if n := len(d.begins(teacher)); n != 2 {
		t.Errorf("%d planned flights are left", n)
	}
}

// The minutes of a flight are kept by drill and side: those that were marked for what was
// marked, the rest for what it was planned for.
func TestPractice(t *testing.T) {
	d := newFieldDay(t)
	teacher := d.as(store.Instructor)
	page := "/students/" + d.student.String() + "/practice"
	if p := text(teacher.get(page).body); !strings.Contains(p, "Nothing was flown at the field yet") {
		t.Errorf("%s", p)
	}
	morning := d.app.Now()
	teacher.form("/today/day", d.form(1))
	for _, v := range d.begins(teacher) {
		if v.Get("student") != d.student.String() {
			continue
		}
		v.Set("drill", "yaw-quarter")
		v.Set("side", "left")
		teacher.form("/today/flights", v)
		teacher.json("/students/"+d.student.String()+"/marks", hoverMarks(store.NewID().String())) // half a minute of it
		d.app.Now = func() time.Time { return morning.Add(9 * time.Minute) }
		teacher.form("/today/flights/"+v.Get("id"), url.Values{"kind": {"end"}})
	}
	var list []store.Practice
	err := appStore.InSchool(bg, d.school, func(tx store.Tx) (err error) {
		list, err = tx.Practised(bg, d.student)
		return err
	})
	if err != nil || len(list) != 2 || list[0].Drill != "yaw-quarter" || list[1].Drill != "hover-tail-in" ||
		list[0].Side != "left" {
		t.Fatalf("%+v %v", list, err)
	}
	if sum := list[0].Minutes + list[1].Minutes; math.Abs(sum-9) > 1e-6 || list[1].Minutes < 0.4 ||
		list[1].Minutes > 0.7 || list[0].Packs != 1 {
		t.Errorf("%+v", list)
	}
	if p := text(d.as(store.Learner).get(page).body); !strings.Contains(p, "9 min at the field") {
		t.Errorf("%s", p)
	}
}

// A day may go past midnight where that is said; a student is there for a part of it and
// flies with one instructor; what cannot be is refused and nothing is kept.
func TestADayPastMidnight(t *testing.T) {
	d := newFieldDay(t)
	teacher := d.as(store.Instructor)
	with := func(change func(url.Values)) url.Values {
		v := d.form(1)
		v.Set("from", "22:30")
		v.Set("to", "01:30")
		v.Set("over", "yes")
		change(v)
		return v
	}
	key := d.student.String()
	for want, v := range map[string]url.Values{
		"its end after its beginning": with(func(v url.Values) { v.Del("over") }),
		"expected 20 at most":         with(func(v url.Values) { v.Set("to", "22:00") }),
		"not within the day":          with(func(v url.Values) { v.Set("from-"+key, "12:00") }),
		"an end after the beginning":  with(func(v url.Values) { v.Set("from-"+key, "00:30"); v.Set("until-"+key, "23:00") }),
		"an instructor who is not there": with(func(v url.Values) {
			v.Set("with-"+key, uuid.NewString())
		}),
	} {
		if r := teacher.form("/today/day", v); !strings.Contains(r.body, want) || d.count("field_days") != 0 {
			t.Errorf("%s: %d, %d days", want, r.status, d.count("field_days"))
		}
	}
	v := with(func(v url.Values) {
		v.Set("from-"+key, "00:15")
		v.Set("wind", "23:00 3, 00:30 5")
		v.Set("with-"+key, v.Get("teacher"))
	})
	if r := teacher.form("/today/day", v); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, r.body)
	}
	var src fieldday.Source
	var p fieldday.Plan
	err := appStore.InSchool(bg, d.school, func(tx store.Tx) error {
		day, err := tx.DayNear(bg, d.app.Now().Add(14*time.Hour))
		if err == nil {
			err = json.Unmarshal(day.Source, &src)
		}
		if err == nil {
			err = json.Unmarshal(day.Plan, &p)
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	if len(src.Wind) != 2 || src.Wind[1].From.Sub(src.Wind[0].From) != 90*time.Minute {
		t.Errorf("%+v", src.Wind)
	}
	found := false
	for _, f := range p.Flights {
		if f.Student == key {
			found = true
			if at := f.Start.In(src.Wind[0].From.Location()); f.Start.Before(src.Wind[0].From.Add(75*time.Minute)) ||
				f.Instructor != v.Get("teacher") {
				t.Errorf("flies at %v with %s", at, f.Instructor)
			}
		}
	}
	if !found {
		t.Errorf("%+v", p.Flights)
	}
}
