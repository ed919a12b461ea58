package web

import (
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"maestrale/internal/bigschool"
	"maestrale/internal/fieldday"
	"maestrale/internal/store"
)

// A school of many students plans a day in a form that stays short: those who are not listed are said by name, and are
// listed once they are planned.
func TestTheDayOfASchoolOfMany(t *testing.T) {
	d := newFieldDay(t)
	teacher := d.as(store.Instructor)
	if page := teacher.get("/today").body; strings.Contains(page, `name="others"`) {
		t.Error("a small school is asked for names")
	}
	err := appStore.InSchool(bg, d.school, func(tx store.Tx) error {
		for i := range 120 {
			if err := tx.AddStudent(bg, store.Student{ID: store.NewID(), Name: fmt.Sprintf("Zoe %03d Many", i),
				Programme: "hands-first", CraftType: "gheppio", StartedOn: d.app.Now()}); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	page := teacher.get("/today").body
	if n := strings.Count(page, `name="flights-`); n != 30 || !strings.Contains(page, `name="others"`) {
		t.Errorf("%d students are listed; expected 30, and a field for the others", n)
	}
	v := d.form(0)
	v.Set("others", "Zoe 007 Many\nZoe 999 Many")
	if r := teacher.form("/today/day", v); !strings.Contains(r.body, "Line 2 of the others who fly") ||
		d.count("field_days") != 0 {
		t.Errorf("%d: %.300s", r.status, r.body)
	}
	v.Set("others", "")
	if r := teacher.form("/today/day", v); !strings.Contains(r.body, "obody flies") || d.count("field_days") != 0 {
		t.Errorf("a day on which nobody flies: %d", r.status)
	}
	v.Set("others", "zoe 119 many, 2\nZoe 007 Many")
	if r := teacher.form("/today/day", v); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, r.body)
	}
	var src fieldday.Source
	if err := appStore.InSchool(bg, d.school, func(tx store.Tx) error {
		day, err := tx.DayNear(bg, d.app.Now().Add(2*time.Hour))
		if err != nil {
			return err
		}
		return json.Unmarshal(day.Source, &src)
	}); err != nil {
		t.Fatal(err)
	}
	if len(src.People) != 2 || src.People[0].Flights != 2 || src.People[1].Flights != 1 {
		t.Errorf("%+v fly", src.People)
	}
	page = teacher.get("/today").body
	if n := strings.Count(page, `name="flights-`); n != 32 || !strings.Contains(page, "Flights of Zoe 119 Many") {
		t.Errorf("%d students are listed once two are planned; expected these and 30", n)
	}
}

// The records of a school of many come by the page, and what is said of all of them is said of all.
func TestRecordsOfASchoolOfManyComeByThePage(t *testing.T) {
	s := newSite(t)
	grow(t, s, bigschool.Size{Students: 70, Attempts: 20})
	c := s.as(store.Chief)
	first, second := c.get("/records").body, c.get("/records?page=2").body
	if n := strings.Count(first, `<th scope="row"><a href="/students/`); n != 50 {
		t.Errorf("%d students on the first page", n)
	}
	n := strings.Count(second, `<th scope="row"><a href="/students/`)
	if n != 22 || !strings.Contains(second, "51 to 72 of 72") {
		t.Errorf("%d students on the second page", n)
	}
	said := func(page string) string { return page[strings.Index(page, "<dl"):strings.Index(page, `id="all-h"`)] }
	if said(first) != said(second) {
		t.Error("the second page says something else of the school")
	}
}
