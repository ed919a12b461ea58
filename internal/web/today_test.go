package web

import (
	"bufio"
	"encoding/json"
	"fmt"
	"html"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/pack"
	"maestrale/internal/store"
)

// fieldDay is a school with three full packs, a day for both students, and who is there.
type fieldDay struct {
	ground
	packs []uuid.UUID
}

func newFieldDay(t *testing.T) fieldDay {
	t.Helper()
	d := newUncheckedDay(t)
	d.check()
	return d
}

// newUncheckedDay is the same before anybody has looked at the craft.
func newUncheckedDay(t *testing.T) fieldDay {
	t.Helper()
	g := newGround(t, nil)
	// Ten in the morning at the field, whatever the hour is here.
	rome, err := time.LoadLocation("Europe/Rome")
	if err != nil {
		t.Fatal(err)
	}
	y, month, day := time.Now().In(rome).Date()
	morning := time.Date(y, month, day, 10, 0, 0, 0, rome)
	g.app.Now = func() time.Time { return morning }
	d := fieldDay{ground: g, packs: []uuid.UUID{g.pack, store.NewID(), store.NewID()}}
	b := craft.Shipped()["poiana"].Battery
	err = appStore.InSchool(bg, g.school, func(tx store.Tx) error {
		var by uuid.UUID
		if err := tx.QueryRow(bg, `SELECT id FROM accounts WHERE role = 'chief'`).Scan(&by); err != nil {
			return err
		}
		for i, id := range d.packs {
			if i > 0 {
				if err := tx.AddPack(bg, store.Pack{ID: id, Record: pack.Record{Name: fmt.Sprint("P", i+1), Type: "poiana",
					Chemistry: b.Chemistry, Cells: b.Cells, CapacityMah: b.CapacityMah, MassKg: b.MassKg}}); err != nil {
					return err
				}
			}
			if err := tx.AddPackEvent(bg, store.NewID(), id, by, pack.Event{At: morning.Add(-time.Hour),
				Kind: pack.Charged}); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	return d
}

// form is the day's form: three hours from now.
func (d fieldDay) form(flights int) url.Values {
	v := url.Values{"date": {d.app.Now().Format("2006-01-02")}, "from": {"10:00"}, "to": {"13:00"}, "boxes": {"1"},
		"turn": {"3"}, "chargers": {"C1 with 2"}, "wind": {""}, "craft": {d.craft.String()}}
	for _, id := range d.packs {
		v.Add("pack", id.String())
	}
	for _, id := range []uuid.UUID{d.student, d.other} {
		v.Add("student", id.String())
		v.Set("flights-"+id.String(), fmt.Sprint(flights))
		v.Set("minutes-"+id.String(), "10")
		v.Set("rest-"+id.String(), "5")
		v.Set("wind-"+id.String(), "")
	}
	err := appStore.InSchool(bg, d.school, func(tx store.Tx) error {
		staff, err := tx.Staff(bg)
		for _, a := range staff {
			if a.Role != store.Spotter {
				v.Add("teacher", a.ID.String())
			}
		}
		return err
	})
	if err != nil {
		d.t.Fatal(err)
	}
	return v
}

// boardText is what the board says.
func boardText(c *client) string {
	bare := regexp.MustCompile(`<[^>]*>`).ReplaceAllString(c.get("/today/board").body, " ")
	return html.UnescapeString(strings.Join(strings.Fields(bare), " "))
}

// begins are the forms on the board that begin a flight.
func (d fieldDay) begins(c *client) []url.Values {
	d.t.Helper()
	body := c.get("/today/board").body
	var out []url.Values
	for _, f := range regexp.MustCompile(`(?s)<form method="post" action="/today/flights"\s+`+
		`class="begin">.*?</form>`).FindAllString(body, -1) {
		v := url.Values{}
		for _, m := range regexp.MustCompile(`name="([a-z]+)"\s+value="([^"]*)"`).FindAllStringSubmatch(f, -1) {
			v.Set(m[1], m[2])
		}
		out = append(out, v)
	}
	return out
}

// A day is made, a flight begins and ends with one tap each, and the landing counts the
// pack; whoever is in the air cannot begin again, nor can the craft or the pack.
func TestADayAtTheField(t *testing.T) {
	d := newFieldDay(t)
	teacher, spotter := d.as(store.Instructor), d.as(store.Spotter)
	if body := text(teacher.get("/today").body); !strings.Contains(body, "No field day is on") {
		t.Errorf("%s", body)
	}
	if r := spotter.form("/today/day", d.form(2)); r.status != http.StatusForbidden {
		t.Errorf("a spotter makes a day: %d", r.status)
	}
	if r := teacher.form("/today/day", d.form(2)); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	list := d.begins(teacher)
	if len(list) != 3 || list[0].Get("drill") == "" || list[0].Get("student") == list[1].Get("student") {
		t.Fatalf("%d flights: %v", len(list), list)
	}
	first := list[0]
	first.Set("before", "tense")
	for range 2 { // the same tap twice
		if r := teacher.form("/today/flights", first); r.status != http.StatusSeeOther {
			t.Fatalf("%d %s", r.status, text(r.body))
		}
	}
	if n := d.count("flights"); n != 1 {
		t.Fatalf("%d flights", n)
	}
	again := list[1] // on the same craft
	if r := teacher.form("/today/flights", again); r.status != http.StatusConflict || !strings.Contains(text(r.body),
		"poiana-1 is in the air already") {
		t.Errorf("%d %s", r.status, text(r.body))
	}
	board := boardText(teacher)
	if !strings.Contains(board, "retreat: let go of the sticks") || !strings.Contains(board, "no farther than 80 m") ||
		!strings.Contains(board, "limit 9 m/s") {
		t.Errorf("%s", board)
	}
	// The attempt that is marked meanwhile knows its flight.
	marks := hoverMarks(store.NewID().String())
	if r := teacher.json("/students/"+first.Get("student")+"/marks", marks); r.status != http.StatusOK {
		t.Fatalf("%d %s", r.status, r.body)
	}
	var flight uuid.UUID
	err := appStore.InSchool(bg, d.school, func(tx store.Tx) error {
		return tx.QueryRow(bg, `SELECT f.id FROM flights f JOIN openings o ON o.flight_id = f.id`).Scan(&flight)
	})
	if err != nil || flight.String() != first.Get("id") {
		t.Errorf("%v %v", flight, err)
	}
	path := "/today/flights/" + flight.String()
	for range 2 {
		if r := spotter.form(path, url.Values{"kind": {"end"}}); r.status != http.StatusSeeOther {
			t.Fatalf("%d %s", r.status, text(r.body))
		}
	}
	if r := teacher.form(path, url.Values{"kind": {"after"}, "says": {"calm"}}); r.status != http.StatusSeeOther {
		t.Errorf("%d", r.status)
	}
	if r := teacher.form(path, url.Values{"kind": {"after"},
		"says": {"splendid"}}); r.status != http.StatusUnprocessableEntity {
		t.Errorf("%d", r.status)
	}
	used := 0
	err = appStore.InSchool(bg, d.school, func(tx store.Tx) error {
		logs, err := tx.PackLogs(bg, nil)
		for _, log := range logs {
			for _, e := range log {
				if e.Kind == pack.Used {
					used++
				}
			}
		}
		return err
	})
	if err != nil || used != 1 {
		t.Errorf("the landing counted %d packs, %v", used, err)
	}
	board = boardText(teacher)
	if !strings.Contains(board, "tense → calm") || strings.Contains(board, "In the air First") {
		t.Errorf("%s", board)
	}
	if n := len(d.begins(teacher)); n != 3 {
		t.Errorf("%d flights are still to come", n)
	}
	// The pack goes on a charger that has a slot for it.
	flown := "/today/packs/" + first.Get("pack")
	if r := teacher.form(flown, url.Values{"do": {"plug"},
		"charger": {"C9"}}); r.status != http.StatusUnprocessableEntity {
		t.Errorf("%d", r.status)
	}
	if r := teacher.form(flown, url.Values{"do": {"plug"}, "charger": {"C1"}}); r.status != http.StatusSeeOther ||
		!strings.Contains(boardText(teacher), "on C1, full at") {
		t.Errorf("%d", r.status)
	}
}

// Everyone holds: what is being marked is void, nothing begins, and each craft's retreat
// is there to be read out.
func TestEveryoneHolds(t *testing.T) {
	d := newFieldDay(t)
	teacher, spotter := d.as(store.Instructor), d.as(store.Spotter)
	teacher.form("/today/day", d.form(1))
	list := d.begins(teacher)
	if len(list) != 2 {
		t.Fatalf("%v", list)
	}
	teacher.form("/today/flights", list[0])
	body := hoverMarks(store.NewID().String())
	all := body["marks"].([]any)
	body["marks"] = all[:2]
	path := "/students/" + list[0].Get("student") + "/marks"
	if r := teacher.json(path, body); r.status != http.StatusOK {
		t.Fatalf("%d %s", r.status, r.body)
	}
	if r := spotter.form("/today/hold", url.Values{"on": {"yes"},
		"why": {"people on the field"}}); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	board := boardText(teacher)
	if !strings.Contains(board, "Everyone holds people on the field, called by The spotter") || !strings.Contains(board,
		"on poiana-1: let go of the sticks, and land") {
		t.Errorf("%s", board)
	}
	body["marks"] = all[2:]
	if r := teacher.json(path, body); !strings.Contains(r.body, `"verdict":"void"`) && !strings.Contains(r.body,
		`"ended":true`) {
		t.Errorf("what was being marked goes on: %s", r.body)
	}
	var verdict string
	err := appStore.InSchool(bg, d.school, func(tx store.Tx) error {
		return tx.QueryRow(bg,
			`SELECT verdict FROM attempts`).Scan(&verdict)
	})
	if err != nil || verdict != "void" {
		t.Errorf("%q %v", verdict, err)
	}
	teacher.form("/today/flights/"+list[0].Get("id"), url.Values{"kind": {"end"}})
	if r := teacher.form("/today/flights", list[1]); r.status != http.StatusUnprocessableEntity ||
		!strings.Contains(text(r.body), "people on the field") {
		t.Errorf("a flight begins while everyone holds: %d %s", r.status, text(r.body))
	}
	teacher.form("/today/hold", url.Values{"on": {"no"}})
	if r := teacher.form("/today/flights", list[1]); r.status != http.StatusSeeOther {
		t.Errorf("%d %s", r.status, text(r.body))
	}
}

// What a move breaks is said and not kept; one that breaks nothing is kept; a change
// plans the rest again.
func TestTheDayIsChanged(t *testing.T) {
	d := newFieldDay(t)
	teacher := d.as(store.Instructor)
	teacher.form("/today/day", d.form(2))
	move := func(keep string, m map[string]any) (says string, breaks []string, status int) {
		r := teacher.json("/today/move"+keep, m)
		var out struct {
			Says   string
			Breaks []string
		}
		_ = json.Unmarshal([]byte(r.body), &out)
		return out.Says + r.body, out.Breaks, r.status
	}
	_, breaks, _ := move("", map[string]any{"index": 1, "minutes": -12})
	if len(breaks) == 0 || !strings.Contains(strings.Join(breaks, ";"), "poiana-1 is with") {
		t.Errorf("%v", breaks)
	}
	if _, _, status := move("?keep=yes", map[string]any{"index": 1,
		"minutes": -12}); status != http.StatusUnprocessableEntity || d.count("day_versions") != 1 {
		t.Errorf("what breaks is kept: %d, %d versions", status, d.count("day_versions"))
	}
	if says, breaks, status := move("", map[string]any{"index": 3, "minutes": 20}); status != http.StatusOK ||
		len(breaks) != 0 {
		t.Errorf("%d %v %s", status, breaks, says)
	}
	if _, _, status := move("?keep=yes", map[string]any{"index": 3, "minutes": 20}); status != http.StatusOK ||
		d.count("day_versions") != 2 {
		t.Errorf("%d, %d versions", status, d.count("day_versions"))
	}
	if _, _, status := move("", map[string]any{"index": 0, "key": "somebody else",
		"minutes": 1}); status != http.StatusConflict {
		t.Errorf("a plan that has changed meanwhile: %d", status)
	}
	for what, v := range map[string]url.Values{
		"late":   {"do": {"late"}, "what": {d.student.String()}, "minutes": {"60"}},
		"leaves": {"do": {"leaves"}, "what": {d.other.String()}},
		"wind":   {"do": {"wind"}, "mps": {"4"}},
	} {
		if r := teacher.form("/today/change", v); r.status != http.StatusSeeOther {
			t.Errorf("%s: %d %s", what, r.status, text(r.body))
		}
	}
	for _, v := range d.begins(teacher) {
		if v.Get("student") == d.other.String() {
			t.Error("who has left is still planned")
		}
	}
	if r := teacher.form("/today/change", url.Values{"do": {"ground"}, "sure": {"yes"},
		"what": {d.craft.String()}}); r.status != http.StatusSeeOther || len(d.begins(teacher)) != 0 {
		t.Errorf("%d, %d flights without a craft", r.status, len(d.begins(teacher)))
	}
	if board := boardText(teacher); !strings.Contains(board, "Left out") {
		t.Errorf("%s", board)
	}
	for what, v := range map[string]url.Values{
		"an end before the start": {"from": {"12:00"}, "to": {"09:00"}},
		"chargers":                {"chargers": {"C1 with many"}},
		"wind":                    {"wind": {"later"}},
		"boxes":                   {"boxes": {"none"}},
		"nobody":                  {"flights-" + d.student.String(): {"0"}, "flights-" + d.other.String(): {"0"}},
		"craft":                   {"craft": {}},
	} {
		form := d.form(1)
		for k, x := range v {
			form[k] = x
		}
		if r := teacher.form("/today/day", form); r.status != http.StatusUnprocessableEntity || d.count("field_days") != 1 {
			t.Errorf("%s: %d, %d days", what, r.status, d.count("field_days"))
		}
	}
}

// A change is told to whoever looks at the board, also on another server.
func TestBoardsHearOfChanges(t *testing.T) {
	d := newFieldDay(t)
	teacher := d.as(store.Instructor)
	teacher.form("/today/day", d.form(1))
	req, _ := http.NewRequest("GET", d.url+"/today/live", nil)
	for _, k := range teacher.Jar.Cookies(mustURL(d.url)) {
		req.AddCookie(k)
	}
	req.Header.Set("Accept-Encoding", "gzip")
	resp, err := http.DefaultClient.Do(req)
	if err != nil || resp.StatusCode != http.StatusOK || resp.Header.Get("Content-Type") != "text/event-stream" {
		t.Fatalf("%v %v", resp, err)
	}
	defer func() { _ = resp.Body.Close() }()
	heard := make(chan string, 20)
	go func() {
		for lines := bufio.NewScanner(resp.Body); lines.Scan(); {
			if strings.HasPrefix(lines.Text(), "event: ") {
				heard <- lines.Text()
			}
		}
	}()
	if got := <-heard; got != "event: open" {
		t.Fatal(got)
	}
	// It begins to listen once the server's own line to the database stands.
	drain := time.After(3 * time.Second)
	told := false
	for !told {
		err := appStore.InSchool(bg, d.school, func(tx store.Tx) error { return tx.Changed(bg) }) // as another server does
		if err != nil {
			t.Fatal(err)
		}
		select {
		case got := <-heard:
			told = got == "event: board"
		case <-time.After(200 * time.Millisecond):
		case <-drain:
			t.Fatal("nothing was heard")
		}
	}
	foreign := newFieldDay(t)
	time.Sleep(300 * time.Millisecond)
	for len(heard) > 0 {
		<-heard
	}
	foreign.as(store.Instructor).form("/today/day", foreign.form(1))
	select {
	case got := <-heard:
		t.Errorf("another school's day: %s", got)
	case <-time.After(500 * time.Millisecond):
	}
}

// A flight is never for a drill that the wind which is expected then would turn into practice.
func TestAFlightIsForADrillOfItsWind(t *testing.T) {
	for _, wind := range []float64{4.9, 5.1, 6.1} {
		d := newFieldDay(t)
		teacher := d.as(store.Instructor)
		form := d.form(2)
		form.Set("wind", fmt.Sprintf("10:00 %.1f", wind))
		d.reads(wind)
		if r := teacher.form("/today/day", form); r.status != http.StatusSeeOther {
			t.Fatalf("%d %s", r.status, text(r.body))
		}
		planned := 0
		for _, v := range d.begins(teacher) {
			if v.Get("drill") == "" {
				continue
			}
			planned++
			if most := shipped().Drills[v.Get("drill")].Wind.MaxMps; most > 0 && wind > most {
				t.Errorf("%s, up to %.1f m/s, is planned in %.1f", v.Get("drill"), most, wind)
			}
		}
		if wind < 6 && planned == 0 {
			t.Errorf("nothing is planned in %.1f m/s", wind)
		}
	}
}
