package today

import (
	"maestrale/internal/fieldday"
	"strings"
	"testing"
	"time"

	"github.com/emersion/go-ical"
)

// events reads the events of a calendar file.
func events(t *testing.T, text string) []ical.Event {
	t.Helper()
	cal, err := ical.NewDecoder(strings.NewReader(text)).Decode()
	if err != nil {
		t.Fatalf("%v\n%s", err, text)
	}
	return cal.Events()
}

// A day at nine stays at nine in the school's zone, on both sides of the change of summer
// time.
func TestCalendarAcrossSummerTime(t *testing.T) {
	rome, err := time.LoadLocation("Europe/Rome")
	if err != nil {
		t.Fatal(err)
	}
	var list []fieldday.Appointment
	for day := 27; day <= 30; day++ { // it changes on 29 March 2026
		from := time.Date(2026, 3, day, 9, 0, 0, 0, rome)
		list = append(list, fieldday.Appointment{ID: from.Format("0102"), From: from, To: from.Add(4 * time.Hour),
			What: "Field day"})
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
