package web

import (
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"maestrale/internal/store"
)

// A day that people walked away from says so once and offers one button; closing it ends what nobody ended, when it was
// to end, and takes the rest of the plan away.
func TestADayThatIsOverSaysSoOnce(t *testing.T) {
	d := newFieldDay(t)
	began := d.app.Now()
	teacher, spotter := d.as(store.Instructor), d.as(store.Spotter)
	teacher.form("/today/day", d.form(2))
	teacher.form("/today/flights", d.begins(teacher)[0])
	if r := teacher.form("/today/close", nil); r.status != http.StatusUnprocessableEntity ||
		!strings.Contains(text(r.body), "is still in the air") {
		t.Errorf("closed over a flight: %d %s", r.status, text(r.body))
	}
	d.app.Now = func() time.Time { return began.Add(95 * time.Minute) }
	board := boardText(teacher)
	if strings.Count(board, "Nobody has flown since") != 1 || strings.Contains(board, "flights are late") ||
		strings.Contains(board, "should have begun") || !strings.Contains(board, "Plan the rest from now") {
		t.Errorf("abandoned: %s", board)
	}
	d.app.Now = func() time.Time { return began.Add(8 * time.Hour) }
	board = boardText(teacher)
	if strings.Count(board, "The day is over. 0 flights were flown. 3 planned flights were not flown.") != 1 ||
		!strings.Contains(board, "Close the day") {
		t.Errorf("left open: %s", board)
	}
	if r := spotter.form("/today/close", nil); r.status != http.StatusForbidden {
		t.Errorf("a spotter closes the day: %d", r.status)
	}
	for range 2 { // the second time changes nothing
		if r := teacher.form("/today/close", url.Values{}); r.status != http.StatusSeeOther {
			t.Fatalf("%d %s", r.status, text(r.body))
		}
	}
	board = boardText(teacher)
	if !strings.Contains(board, "The day is over. 1 flight was flown.") || strings.Contains(board, "Close the day") ||
		!strings.Contains(board, "10 min") {
		t.Errorf("closed: %s", board)
	}
	if n := d.count("flight_events"); n != 1 {
		t.Errorf("%d events of flights", n)
	}
}
