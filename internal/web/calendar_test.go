package web

import (
	"net/http"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/emersion/go-ical"

	"maestrale/internal/store"
)

func events(t *testing.T, text string) []ical.Event {
	t.Helper()
	cal, err := ical.NewDecoder(strings.NewReader(text)).Decode()
	if err != nil {
		t.Fatalf("%v\n%s", err, text)
	}
	return cal.Events()
}

// A student's calendar has the own flights, everybody else's the field days; a private
// address shows it to whoever has it, until it is renewed.
func TestCalendars(t *testing.T) {
	d := newFieldDay(t)
	teacher, learner := d.as(store.Instructor), d.as(store.Learner)
	if list := events(t, learner.get("/calendar.ics").body); len(list) != 1 ||
		list[0].Props.Get("SUMMARY").Value != "Nothing is planned yet" {
		t.Errorf("%v", list)
	}
	teacher.form("/today/day", d.form(2))
	mine := events(t, learner.get("/calendar.ics").body)
	if len(mine) != 2 || !strings.HasPrefix(mine[0].Props.Get("SUMMARY").Value, "Flight: ") {
		t.Fatalf("%v", mine)
	}
	days := events(t, teacher.get("/calendar.ics").body)
	if len(days) != 1 || days[0].Props.Get("SUMMARY").Value != "Field day" ||
		!strings.Contains(days[0].Props.Get("DESCRIPTION").Value, "2 students\\, 4 flights") {
		t.Errorf("%v", days)
	}
	from, err := days[0].DateTimeStart(time.UTC)
	if err != nil || !from.Equal(d.app.Now()) {
		t.Errorf("%v %v", from, err)
	}
	if page := text(learner.get("/students/" + d.student.String()).body); !strings.Contains(page, "Next lesson") ||
		!strings.Contains(page, ", Flight: ") || !strings.Contains(page, "Tonight in the simulator") {
		t.Errorf("%s", page)
	}
	if page := text(learner.get("/calendar").body); !strings.Contains(page, "Flight: ") {
		t.Errorf("%s", page)
	}
	address := func() string {
		m := regexp.MustCompile(`value="https?://[^"/]+(/calendar/[^"]+\.ics)"`).FindStringSubmatch(learner.form("/calendar",
			nil).body)
		if m == nil {
			t.Fatal("no address")
		}
		return m[1]
	}
	first := address()
	nobody := d.as("")
	if r := nobody.get(first); r.status != http.StatusOK || len(events(t, r.body)) != 2 {
		t.Errorf("%d", r.status)
	}
	second := address()
	if r := nobody.get(first); r.status != http.StatusNotFound {
		t.Errorf("the old address: %d", r.status)
	}
	if r := nobody.get(second); r.status != http.StatusOK {
		t.Errorf("the new address: %d", r.status)
	}
	if r := nobody.get("/calendar/guess.ics"); r.status != http.StatusNotFound {
		t.Errorf("%d", r.status)
	}
}
