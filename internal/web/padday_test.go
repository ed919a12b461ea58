package web

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"

	"maestrale/core/marking"
	"maestrale/internal/bigschool"
	"maestrale/internal/store"
)

// What the day of a device asks the database does not grow with the students, and each has the own record.
func TestTheDayOfADeviceAsksTheSameForManyStudents(t *testing.T) {
	s := newSite(t)
	s.keep(s.student, "PP PF")
	teacher := s.as(store.Instructor)
	ask := func() (int64, *marking.Desk) {
		t.Helper()
		before := queries.n.Load()
		body := teacher.get("/pad/day").body
		n := queries.n.Load() - before
		desk, err := marking.Open([]byte(body))
		if err != nil {
			t.Fatal(err)
		}
		return n, desk
	}
	few, _ := ask()
	err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
		for i := range 40 {
			if err := tx.AddStudent(bg, store.Student{ID: store.NewID(), Name: fmt.Sprintf("Student %02d", i),
				Programme: "hands-first", CraftType: "gheppio", StartedOn: s.app.Now()}); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	many, desk := ask()
	if many > few || many > 6 {
		t.Errorf("%d queries for few students, %d for forty more; expected as many, 6 at most", few, many)
	}
	if len(desk.Students) < 42 {
		t.Errorf("%d students on the device", len(desk.Students))
	}
	own := 0
	for _, x := range desk.Students {
		if len(x.Evidence) > 0 {
			own++
			if x.ID != s.student.String() || len(x.Evidence) != 4 {
				t.Errorf("%s has %d attempts", x.Name, len(x.Evidence))
			}
		}
	}
	if own != 1 {
		t.Errorf("%d students have attempts", own)
	}
}

// A school of many has more than a device is given: then those who flew last are on it with their records, the others
// by name, and each of them whole once asked for.
func TestADeviceIsNotGivenTheRecordsOfASchoolOfMany(t *testing.T) {
	s := newSite(t)
	grow(t, s, bigschool.Size{Students: 14, Attempts: 1000})
	s.keep(s.student, "PP")
	teacher := s.as(store.Instructor)
	day := func(query string) (d *marking.Desk, away []string) {
		t.Helper()
		d, err := marking.Open([]byte(teacher.get("/pad/day" + query).body))
		if err != nil {
			t.Fatal(err)
		}
		held := 0
		for i := range d.Students {
			x := &d.Students[i]
			if held += len(x.Evidence); x.Away {
				away = append(away, x.ID)
				if len(x.Evidence) > 0 {
					t.Errorf("%s is away and has %d attempts", x.Name, len(x.Evidence))
				}
			} else if len(x.Evidence) < 1000 && strings.HasPrefix(x.Name, "Student ") {
				t.Errorf("%s is here with %d attempts of 1,000", x.Name, len(x.Evidence))
			}
			if x.Away && x.ID == s.student.String() {
				t.Error("who flew last is away")
			}
		}
		if held < 8000 || held > 11000 {
			t.Errorf("%d attempts on the device", held)
		}
		return d, away
	}
	d, away := day("")
	if len(away) < 3 || len(d.Students) != 16 {
		t.Fatalf("%d of %d are away", len(away), len(d.Students))
	}
	if want := s.awayByAll(); !slices.Equal(slices.Sorted(slices.Values(away)), want) {
		t.Errorf("away are %v; by all records of the school %v", away, want)
	}
	for _, r := range d.Rows(s.app.Now()) {
		if r.Away != slices.Contains(away, r.ID) || r.Away != (r.Title == "") {
			t.Errorf("%s: away %v, title %q", r.Name, r.Away, r.Title)
		}
	}
	wanted := func(id string) marking.Wanted {
		return marking.Wanted{Student: id, Drill: "hover-tail-in", Side: "none", Aids: "position-hold", Level: 1}
	}
	_, err := d.Page(wanted(away[0]), s.app.Now())
	if err == nil || !strings.Contains(err.Error(), "is not on this device") {
		t.Errorf("a page of who is away: %v", err)
	}
	d, less := day("?student=" + away[0] + "&student=nobody")
	if slices.Contains(less, away[0]) || len(less) != len(away)-1 {
		t.Errorf("%d are away, and %d when one is asked for", len(away), len(less))
	}
	if _, err := d.Page(wanted(away[0]), s.app.Now()); err != nil {
		t.Error(err)
	}
	// The server's judge, which stands in for the device's, is told as much.
	page := func() string {
		args, _ := json.Marshal(wanted(away[0]))
		return teacher.json("/pad/judge", map[string]any{"what": "page", "args": []any{string(args),
			s.app.Now().UnixMilli()}}).body
	}
	if p := page(); !strings.Contains(p, "is not on this device") {
		t.Errorf("the server's judge: %s", p)
	}
	teacher.json("/pad/judge", map[string]any{"what": "open", "args": []string{away[0]}})
	if p := page(); !strings.Contains(p, `"ok"`) {
		t.Errorf("the server's judge, once asked: %s", p)
	}
}

// Who has left takes nobody's place on a device, however lately they flew.
func TestWhoHasLeftTakesNoRoomOnADevice(t *testing.T) {
	s := newSite(t)
	grow(t, s, bigschool.Size{Students: 3, Attempts: 100})
	s.keep(s.student, "PPPP")
	err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
		list, err := tx.PadStudents(bg, 4, nil)
		if err != nil {
			return err
		}
		if list[0].ID != s.student || list[0].Entries != 4 || list[1].Last != nil {
			t.Errorf("who flew the newest four: %+v", list[:2])
		}
		st, err := tx.Student(bg, s.student)
		if err != nil {
			return err
		}
		left := s.app.Now()
		st.LeftOn = &left
		if err := tx.ChangeStudent(bg, st); err != nil {
			return err
		}
		if list, err = tx.PadStudents(bg, 4, nil); err != nil {
			return err
		}
		if list[0].ID == s.student || list[0].Last == nil || list[0].Entries < 100 {
			t.Errorf("once they have left: %+v", list[:2])
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
}

// awayByAll are the students whose records a device is not given, by all records of the school and all attempts.
func (s *site) awayByAll() (away []string) {
	s.t.Helper()
	err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
		rows, err := tx.Query(bg, `SELECT s.id::text, (SELECT count(*) FROM chain c WHERE c.student_id = s.id)
			FROM students s ORDER BY (SELECT max(at) FROM attempts a WHERE a.student_id = s.id) DESC NULLS LAST, s.id`)
		if err != nil {
			return err
		}
		var ids []string
		var sizes []marking.RecordSize
		var id string
		var n int64
		_, err = pgx.ForEachRow(rows, []any{&id, &n}, func() error {
			ids, sizes = append(ids, id), append(sizes, marking.RecordSize{Entries: n})
			return nil
		})
		for i, has := range marking.Holds(sizes) {
			if !has {
				away = append(away, ids[i])
			}
		}
		return err
	})
	if err != nil {
		s.t.Fatal(err)
	}
	slices.Sort(away)
	return away
}
