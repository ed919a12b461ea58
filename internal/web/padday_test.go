package web

import (
	"fmt"
	"testing"

	"maestrale/core/marking"
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
	if many > few+2 {
		t.Errorf("%d queries for few students, %d for forty more", few, many)
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
