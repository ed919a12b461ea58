package daylogs

import (
	"context"
	"strings"
	"testing"

	"maestrale/core/drill"
	"maestrale/core/track"
)

const oneDay = `{"format": "maestrale-flown-day/1", "starts": "2026-05-09T09:00:00+02:00",
 "ends": "2026-05-09T12:00:00+02:00",
 "flights": [{"id": "f1", "student": "s1", "name": "Sibilla", "craft": "poiana", "tail": "poiana-1",
  "from": "2026-05-09T09:10:00+02:00", "to": "2026-05-09T09:18:00+02:00",
  "drills": [{"drill": "hover-tail-in", "aids": "position-hold"}]}],
 "marks": [{"id": "m1", "student": "s1", "drill": "hover-tail-in", "verdict": "pass", "by": "Mirta",
  "from": "2026-05-09T09:11:00+02:00", "to": "2026-05-09T09:11:30+02:00"}]}`

func TestReadDay(t *testing.T) {
	d, notes, err := ReadDay(strings.NewReader(oneDay))
	if err != nil || len(notes) != 0 || len(d.Flights) != 1 || len(d.Marks) != 1 {
		t.Fatalf("%+v, %v, %v", d, notes, err)
	}
	if c := d.Flights[0].Drills[0]; c.Level != 1 || c.Side != "none" || c != d.Marks[0].Cell {
		t.Errorf("%+v", c)
	}
	for name, tc := range map[string]struct{ from, to, says string }{
		"ends before it starts": {"12:00:00", "08:00:00", "ends"},
		"no time":               {`"2026-05-09T09:18:00+02:00"`, `"soon"`, "flights[0].to"},
		"lands before it begins": {`"to": "2026-05-09T09:18`, `"to": "2026-05-09T09:08`,
			"flights[0].to"},
		"a verdict that is none": {`"pass"`, `"good"`, "marks[0].verdict"},
		"no flights":             {`"flights"`, `"flight"`, "flights"},
		"another format":         {"flown-day/1", "day/1", "format"},
	} {
		bad := strings.Replace(oneDay, tc.from, tc.to, 1)
		if d, _, err := ReadDay(strings.NewReader(bad)); err == nil || !strings.Contains(err.Error(), tc.says) ||
			len(d.Flights) > 0 {
			t.Errorf("%s: %v", name, err)
		}
	}
}

// Whatever is said of a day, and whatever a log holds, sorting ends and gives only what lies in the log.
func FuzzSort(f *testing.F) {
	f.Add(oneDay, "time,lat_deg,lon_deg,alt_m\n2026-05-09T07:11:00Z,44,9,30\n2026-05-09T07:11:05Z,44,9,33\n")
	f.Add(oneDay, "t_s,x_m,y_m,z_m\n0,0,6,0\n1,0,6,0\n3,0,6,1.5\n26,0,6,1.5\n30,0,6,0\n32,0,6,0\n")
	cat := drill.Shipped()
	f.Fuzz(func(t *testing.T, day, log string) {
		d, _, err := ReadDay(strings.NewReader(day))
		if err != nil || len(d.Flights) > 20 || len(d.Marks) > 20 {
			return
		}
		l := Read("a log", []byte(log), track.Options{})
		if l.Track != nil && l.Track.Start.IsZero() {
			l.Track.Start = d.Starts
		}
		found, err := Sort(context.Background(), d, []Log{l, l}, layOf(cat), nil)
		if err != nil {
			t.Fatal(err)
		}
		for _, it := range found.Items {
			if it.FromS < l.Track.T[0]-1e-6 || it.ToS > l.Track.T[l.Track.Len()-1]+1e-6 || it.ToS < it.FromS {
				t.Fatalf("%+v lies outside the log", it)
			}
		}
	})
}
