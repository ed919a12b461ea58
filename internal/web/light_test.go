package web

import (
	"html"
	"math/rand/v2"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/marking"
	"maestrale/core/orient"
	"maestrale/internal/store"
)

// duskAt is a place on the equator over which the sun stands 3 degrees under the horizon.
func duskAt(t *testing.T, now time.Time) field.Geo {
	t.Helper()
	for lon := -180.0; lon < 180; lon += 0.25 {
		p := field.Geo{LonDeg: lon}
		if s, err := course.SunAt(now, p); err == nil && s.Elevation.Deg() > -3.3 && s.Elevation.Deg() < -2.7 {
			return p
		}
	}
	t.Fatal("the sun sets nowhere")
	return field.Geo{}
}

// fliesAt makes a course at a place that of the day.
func (s *site) fliesAt(p field.Geo) {
	s.t.Helper()
	laid, ok := course.Lay("five-markers", craft.Light)
	if !ok {
		s.t.Fatal("no such course")
	}
	source, err := laid.YAML()
	if err != nil {
		s.t.Fatal(err)
	}
	err = appStore.InSchool(bg, s.school, func(tx store.Tx) error {
		staff, err := tx.Staff(bg)
		if err != nil {
			return err
		}
		place, on := store.Site{ID: store.NewID(), Name: "The field", Geo: p}, store.NewID()
		if err := tx.KeepSite(bg, place); err != nil {
			return err
		}
		if err := tx.AddCourse(bg, on, place.ID, "The course"); err != nil {
			return err
		}
		if err := tx.Draw(bg, on, staff[0].ID, 0, s.app.Now(), "laid", string(source)); err != nil {
			return err
		}
		set, err := tx.Settings(bg)
		if err != nil {
			return err
		}
		set.CourseID = &on
		return tx.KeepSettings(bg, set)
	})
	if err != nil {
		s.t.Fatal(err)
	}
}

// firstOnDevice is what comes next for the student by the day on a device.
func (s *site) firstOnDevice(c *client, now time.Time) drill.Cell {
	s.t.Helper()
	desk, err := marking.Open([]byte(c.get("/pad/day").body))
	if err != nil {
		s.t.Fatal(err)
	}
	for _, row := range desk.Rows(now) {
		if row.ID == s.student.String() {
			return row.Next
		}
	}
	s.t.Fatal("the device does not have the student")
	return drill.Cell{}
}

// At dusk a student tells the nose half as far: what goes farther is put off, by the page and by the device alike,
// and a device without a network puts it off when the sun sets. A school that flies under lamps says so, and puts off
// nothing.
func TestDuskPutsOffWhatGoesFar(t *testing.T) {
	nearer := 0
	for seed := range uint64(6) {
		s := newSite(t)
		s.keepRandom(rand.New(rand.NewPCG(seed, 77)), 30+int(seed)*20)
		s.sees(t, 20)
		teacher, chief, now := s.as(store.Instructor), s.as(store.Chief), s.app.Now()
		says := func(what string, want drill.Cell) {
			t.Helper()
			page := html.UnescapeString(teacher.get("/students/" + s.student.String()).body)
			got := regexp.MustCompile(`(?s)What next</h2><ol[^>]*><li><a[^>]*><b>([^<]*)</b>`).FindStringSubmatch(page)
			if words := shipped().CellWords(want); len(got) == 0 || got[1] != words {
				t.Errorf("seed %d, %s: the page says %q, the device %q", seed, what, got, words)
			}
		}
		day := s.firstOnDevice(teacher, now)
		says("by day", day)
		s.fliesAt(duskAt(t, now))
		dusk := s.firstOnDevice(teacher, now)
		says("at dusk", dusk)
		if l := text(teacher.get("/students/" + s.student.String() + "/lesson").body); !strings.Contains(l,
			"told apart at dusk:") {
			t.Errorf("seed %d: the lesson does not say what is left out at dusk: %s", seed, l)
		}
		if dusk != day {
			nearer++
		}
		if later := s.firstOnDevice(teacher, now.Add(12*time.Hour)); later != day {
			t.Errorf("seed %d: by day the device says %v, before it %v", seed, later, day)
		}
		if r := chief.form("/school", url.Values{"name": {"Test school"}, "zone": {"Europe/Rome"}, "length": {"m"},
			"speed": {"m/s"}, "idle": {"12 h"}, "light": {"lamps"}}); r.status != 422 {
			t.Errorf("an unknown light: %d", r.status)
		}
		r := chief.form("/school", url.Values{"name": {"Test school"}, "zone": {"Europe/Rome"}, "length": {"m"},
			"speed": {"m/s"}, "idle": {"12 h"}, "light": {"day"}})
		if got := s.firstOnDevice(teacher, now); got != day || !strings.Contains(chief.get("/school").body,
			`value="day" selected`) {
			t.Errorf("seed %d: under lamps it is %v, by day %v: %d %s", seed, got, day, r.status, r.body)
		}
		says("under lamps", day)
	}
	if nearer == 0 {
		t.Error("no list was another at dusk, so nothing was tried")
	}
}

// sees notes calls of a student who tells the nose by day up to a distance in m.
func (s *site) sees(t *testing.T, toM float64) {
	t.Helper()
	err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
		staff, err := tx.Staff(bg)
		if err != nil {
			return err
		}
		for i := range 40 {
			m := orient.Marks[i%10]
			called := i % 4
			if m > toM {
				called = (i*7/3 + 1) % 4
			}
			if err := tx.AddCall(bg, s.student, store.Call{ID: store.NewID(), CraftType: "poiana", DistanceM: m,
				NotedBy: staff[0].ID,
				Light:   "day", Shown: i % 4, Called: called, At: s.app.Now().Add(-time.Hour)}); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
}
