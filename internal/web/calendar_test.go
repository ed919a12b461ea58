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
	if list := events(t, learner.get("/calendar.ics").body); len(list) != 1 || list[0].Props.Get("SUMMARY").Value != "Nothing is planned yet" {
		t.Errorf("%v", list)
	}
	teacher.form("/today/day", d.form(2))
	mine := events(t, learner.get("/calendar.ics").body)
	if len(mine) != 2 || !strings.HasPrefix(mine[0].Props.Get("SUMMARY").Value, "Flight: ") {
		t.Fatalf("%v", mine)
	}
	days := events(t, teacher.get("/calendar.ics").body)
	if len(days) != 1 || days[0].Props.Get("SUMMARY").Value != "Field day" || !strings.Contains(days[0].Props.Get("DESCRIPTION").Value, "2 students\\, 4 flights") {
		t.Errorf("%v", days)
	}
	from, err := days[0].DateTimeStart(time.UTC)
	if err != nil || !from.Equal(d.app.now()) {
		t.Errorf("%v %v", from, err)
	}
	if page := text(learner.get("/students/" + d.student.String()).body); !strings.Contains(page, "Next lesson") || !strings.Contains(page, ", Flight: ") || !strings.Contains(page, "Tonight in the simulator") {
		t.Errorf("%s", page)
	}
	if page := text(learner.get("/calendar").body); !strings.Contains(page, "Flight: ") {
		t.Errorf("%s", page)
	}
	address := func() string {
		m := regexp.MustCompile(`value="https?://[^"/]+(/calendar/[^"]+\.ics)"`).FindStringSubmatch(learner.form("/calendar", nil).body)
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

// A day at nine stays at nine in the school's zone, on both sides of the change of summer
// time.
func TestCalendarAcrossSummerTime(t *testing.T) {
	rome, err := time.LoadLocation("Europe/Rome")
	if err != nil {
		t.Fatal(err)
	}
	var list []appointment
	for day := 27; day <= 30; day++ { // it changes on 29 March 2026
		from := time.Date(2026, 3, day, 9, 0, 0, 0, rome)
		list = append(list, appointment{ID: from.Format("0102"), From: from, To: from.Add(4 * time.Hour), What: "Field day"})
	}
	data, err := iCalendar("Pan", list, list[0].From)
	if err != nil {
		t.Fatal(err)
	}
	for i, e := range events(t, string(data)) {
		from, err := e.DateTimeStart(nil)
		if err != nil || from.In(rome).Format("15:04") != "09:00" || !from.Equal(list[i].From) {
			t.Errorf("%v %v", from.In(rome), err)
		}
		want := map[bool]string{true: "T080000Z", false: "T070000Z"}[i < 2]
		if v := e.Props.Get("DTSTART").Value; !strings.HasSuffix(v, want) {
			t.Errorf("%s; expected %s", v, want)
		}
	}
}
