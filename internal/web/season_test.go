package web

import (
	"net/http"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"maestrale/internal/store"
)

// The school's pictures count what the records count: attempts by drill and week, and items by rung.
func TestTheSeasonCountsWhatTheRecordsCount(t *testing.T) {
	s := newSite(t)
	teacher, own := s.as(store.Instructor), s.as(store.Learner)
	if p := text(teacher.get("/records/season").body); !strings.Contains(p, "No attempt of these weeks counts yet.") {
		t.Errorf("empty: %s", p)
	}
	s.keep(s.student, "PP PF")
	p := teacher.get("/records/season")
	says := text(p.body)
	if !strings.Contains(says, "4 attempts") || !strings.Contains(says, "3 of 4") {
		t.Errorf("four attempts of which three passed: %s", says)
	}
	held := 0
	lane := `(?s)<th scope="row"><a href="/students/` + s.student.String() + `">.*?</tr>`
	row := regexp.MustCompile(lane).FindString(p.body)
	for _, m := range regexp.MustCompile(`>(\d+)/\d+<`).FindAllStringSubmatch(row, -1) {
		n, _ := strconv.Atoi(m[1])
		held += n
	}
	list := text(teacher.get("/records").body)
	if row == "" || !strings.Contains(list, strconv.Itoa(held)+" of "+ladderCells()) {
		t.Errorf("the map holds %d items, and Records says otherwise: %s", held, list)
	}
	for _, bad := range []string{"?weeks=0", "?weeks=9999999", "?weeks=x", "?programme=none"} {
		r := teacher.get("/records/season" + bad)
		if r.status != http.StatusOK || !strings.Contains(text(r.body), "4 attempts") {
			t.Errorf("%s: %d", bad, r.status)
		}
	}
	if r := own.get("/records/season"); r.status != http.StatusForbidden && r.status != http.StatusNotFound {
		t.Errorf("a student sees the school: %d", r.status)
	}
}
