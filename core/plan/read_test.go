package plan

import (
	"encoding/json"
	"os"
	"strings"
	"testing"
)

// What a day cannot have is one clear error: where, what, and what was expected.
func TestReadRefuses(t *testing.T) {
	good, err := os.ReadFile(shipped + "/day-01.json")
	if err != nil {
		t.Fatal(err)
	}
	var base doc
	change := func(path string, v any) string {
		base = nil
		if err := json.Unmarshal(good, &base); err != nil {
			t.Fatal(err)
		}
		keys := strings.Split(path, ".")
		at := map[string]any(base)
		for _, k := range keys[:len(keys)-1] {
			switch next := at[k].(type) {
			case []any:
				at = next[0].(map[string]any)
			case map[string]any:
				at = next
			}
		}
		if last := keys[len(keys)-1]; v == nil {
			delete(at, last)
		} else {
			at[last] = v
		}
		out, err := json.Marshal(base)
		if err != nil {
			t.Fatal(err)
		}
		return string(out)
	}
	flight := func(craft, pack, student, start, end string) doc {
		return doc{"student": student, "craft": craft, "pack": pack, "box": 1, "start": "2026-05-02T" + start + ":00+02:00",
			"end": "2026-05-02T" + end + ":00+02:00"}
	}
	for _, k := range []struct{ text, want string }{
		{`{"format": "maestrale-day/2"}`, `format is "maestrale-day/2"; expected "maestrale-day/1"`},
		{"{\n\"format\": ,", "2: "},
		{`[1]`, "expected a JSON object"},
		{change("start", nil), "start is missing; expected a time"},
		{change("start", "nine"), `start is "nine"; expected a time as`},
		{change("end", "2026-05-02T01:00:00+02:00"),
			"expected an end after the start; one past midnight carries the next date"},
		{change("end", "2026-05-09T01:00:00+02:00"), "expected 24 hours at most"},
		{change("boxes", 1.5), "boxes is 1.5; expected a whole number"},
		{change("boxes", "two"), `boxes is "two"; expected a number`},
		{change("packs.type", "moon"), `packs[0].type is "moon"; expected the type of a craft of this day`},
		{change("packs.id", "P2"), "packs[1].id is that of packs[0]; expected each id once"},
		{change("packs.charger", "C9"), `packs[0].charger is "C9"`},
		{change("students.minutes", nil), "students[0].minutes is missing"},
		{change("students.minutes", -3), "students[0].minutes is -3; expected a number from 0.5 to 240"},
		{change("students.craft", []string{"moon-1"}), `students[0].craft has "moon-1"; expected craft of this day`},
		{change("students.craft", []string{}), "students[0].craft is empty"},
		{change("students.needs", []string{"luck"}), `students[0].needs has "luck"; expected instructor or spotter`},
		{change("students.with", "I9"), `students[0].with is "I9"`},
		{change("students.kind", "party"), `students[0].kind is "party"`},
		{change("students", 3), "students is 3; expected a list"},
		{change("students", []any{3}), "students[0] is 3; expected an object"},
		{change("now", "2026-05-01T01:00:00+02:00"), "expected a moment of the day"},
		{change("flown", []any{flight("gheppio-1", "P1", "S1", "09:10", "09:00")}),
			"flown[0].end is 2026-05-02T09:00:00+02:00, and its start"},
		{change("flown", []any{flight("gheppio-1", "P1", "S1", "09:00", "09:10"), flight("gheppio-2", "P2", "S1", "09:05",
			"09:15")}), "flown[1] has S1, who flies gheppio-1 in flown[0] at the same time; expected a student on one craft " +
			"at a time"},
		{change("flown", []any{flight("moon", "P1", "S1", "09:00", "09:10")}), `flown[0].craft is "moon"`},
	} {
		_, _, err := Read(strings.NewReader(k.text))
		if err == nil || !strings.Contains(err.Error(), k.want) {
			t.Errorf("%v; expected %q", err, k.want)
		}
	}
	d, notes, err := Read(strings.NewReader(change("mood", "good")))
	if err != nil || len(notes) != 1 || notes[0] != "mood is not read" || len(d.Students) != 24 {
		t.Errorf("%v %v", notes, err)
	}
}

// Whatever is read without an error is planned without breaking a rule.
func FuzzDay(f *testing.F) {
	f.Add(`{"format":"maestrale-day/1","start":"2026-05-01T09:00:00Z","end":"2026-05-01T11:00:00Z",` +
		`"boxes":2,"turnaround_minutes":3,"craft":[{"id":"a","type":"t","wind_mps":7},{"id":"b",` +
		`"type":"u"}],"packs":[{"id":"p","type":"t","full":true,"charge_minutes":20},{"id":"q",` +
		`"type":"u"}],"chargers":[{"id":"C","slots":2}],"students":[{"id":"s","minutes":5,"craft":["a",` +
		`"b"],"flights":2,"needs":["spotter"],"rest_minutes":5},{"id":"m","kind":"proving",` +
		`"minutes":5,"craft":["a"],"with":"I1"}],"wind":[{"from":"2026-05-01T10:00:00Z",` +
		`"mps":8}],"instructors":2,"spotters":1}`)
	f.Add(`{"format":"maestrale-day/1","start":"2026-05-01T09:00:00Z","end":"2026-05-01T10:00:00Z","craft":[{"id":"a",` +
		`"type":"t"}],"packs":[{"id":"p","type":"t","full":true}],"students":[{"id":"s",` +
		`"minutes":5,"craft":["a"],"flights":2}],"flown":[{"student":"s","craft":"a","pack":"p",` +
		`"box":1,"start":"2026-05-01T09:00:00Z","end":"2026-05-01T09:05:00Z"}],"now":"2026-05-01T09:10:00Z"}`)
	f.Fuzz(func(t *testing.T, text string) {
		d, _, err := Read(strings.NewReader(text))
		if err != nil || len(d.Students) > 30 || len(d.Packs) > 60 || len(d.Craft) > 30 {
			return
		}
		p := ofRounds(&d, nil, 3, false)
		if broken := Check(d, p.Flights, p.Charges); len(broken) > 0 {
			t.Errorf("%+v", broken)
		}
		_, _ = ReadFlights(strings.NewReader(text))
	})
}
