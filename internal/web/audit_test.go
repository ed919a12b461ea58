package web

import (
	"net/url"
	"strings"
	"testing"

	"github.com/google/uuid"

	"maestrale/internal/store"
)

// The list of who did what is cut down to a person, a student, a kind and a day, and says titles and no keys.
func TestAuditIsCutDown(t *testing.T) {
	s := newSite(t)
	s.keep(s.student, "P")
	s.keep(s.other, "F")
	chief := s.as(store.Chief)
	var teacher uuid.UUID
	err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
		if err := tx.QueryRow(bg, `SELECT id FROM accounts WHERE role = 'instructor'`).Scan(&teacher); err != nil {
			return err
		}
		return tx.Did(bg, teacher, nil, "changed the school's settings")
	})
	if err != nil {
		t.Fatal(err)
	}
	get := func(v url.Values) string { return text(chief.get("/records/audit?" + v.Encode()).body) }
	rows := func(page string) string { return page[strings.Index(page, "when who did about")+1:] }
	all := get(nil)
	if !strings.Contains(all, "recorded an attempt: Tail-in hover, ") || strings.Contains(all, "hover-tail-in") {
		t.Errorf("titles: %s", all)
	}
	day := s.app.Now().In(rome(t)).Format("2006-01-02")
	for what, k := range map[string]struct {
		v        url.Values
		has, not string
	}{
		"by a person": {url.Values{"by": {teacher.String()}}, "changed the school's settings",
			"recorded an attempt"},
		"about a student":     {url.Values{"student": {s.student.String()}}, "First Student", "changed the school"},
		"of a kind":           {url.Values{"kind": {"other"}}, "changed the school's settings", "recorded an attempt"},
		"of a day":            {url.Values{"day": {day}}, "changed the school's settings", "Nothing of that"},
		"of a day before":     {url.Values{"day": {"2020-01-01"}}, "Nothing of that was done.", "settings The"},
		"of a kind and a day": {url.Values{"kind": {"signed"}, "day": {day}}, "Nothing of that was done.", "settings The"},
		"of what is no id": {url.Values{"by": {"x"}, "day": {"y"}, "kind": {"z"}}, "changed the school's settings",
			"Nothing of"},
	} {
		if page := rows(get(k.v)); !strings.Contains(page, k.has) || strings.Contains(page, k.not) {
			t.Errorf("%s: %s", what, page)
		}
	}
}
