package web

import (
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/pack"
	"maestrale/internal/store"
)

// check keeps a check of the craft that was cleared a while ago.
func (d fieldDay) check() {
	d.t.Helper()
	at := d.app.Now().Add(-20 * time.Minute)
	err := appStore.InSchool(bg, d.school, func(tx store.Tx) error {
		var by uuid.UUID
		if err := tx.QueryRow(bg, `SELECT id FROM accounts WHERE role = 'chief'`).Scan(&by); err != nil {
			return err
		}
		id := store.NewID()
		if err := tx.BeginCheck(bg, store.Check{ID: id, CraftID: d.craft, Aids: string(craft.PositionHold), Minutes: 10,
			BegunBy: by, BegunAt: at}); err != nil {
			return err
		}
		if err := tx.Note(bg, id, by, 0, at, "answer", "fence", "100", nil); err != nil {
			return err
		}
		return tx.Note(bg, id, by, 1, at, "cleared", "", "", store.Cleared{Facts: map[string]string{}})
	})
	if err != nil {
		d.t.Fatal(err)
	}
}

// reads keeps a reading of the wind at the field, newer than every other.
func (d fieldDay) reads(mps float64) {
	d.t.Helper()
	err := appStore.InSchool(bg, d.school, func(tx store.Tx) error {
		var by uuid.UUID
		if err := tx.QueryRow(bg, `SELECT id FROM accounts WHERE role = 'chief'`).Scan(&by); err != nil {
			return err
		}
		var newest time.Time
		if err := tx.QueryRow(bg, `SELECT greatest(max(at), $1) FROM wind_readings`, d.app.Now()).Scan(&newest); err != nil {
			return err
		}
		return tx.AddWind(bg, store.NewID(), by, newest.Add(time.Second), store.Wind{Mps: mps})
	})
	if err != nil {
		d.t.Fatal(err)
	}
}

// Nobody begins a student's flight with one tap on a craft that was not checked today: the board says so beside the
// flight, leads to the check, and the flight begins once it is over.
func TestACraftThatWasNotCheckedTodayIsNotForAStudent(t *testing.T) {
	d := newUncheckedDay(t)
	teacher := d.as(store.Instructor)
	teacher.form("/today/day", d.form(1))
	if n := len(d.begins(teacher)); n != 0 {
		t.Errorf("%d flights can be begun on an unchecked craft", n)
	}
	if board := boardText(teacher); !strings.Contains(board, "not checked today") ||
		!strings.Contains(teacher.get("/today/board").body, "/fleet/craft/"+d.craft.String()+"#begin") {
		t.Errorf("the board: %s", board)
	}
	v := url.Values{"student": {d.student.String()}, "craft": {d.craft.String()}, "pack": {d.packs[0].String()},
		"box": {"1"}, "minutes": {"10"}, "aids": {"position-hold"}}
	if r := teacher.form("/today/flights", v); r.status != http.StatusUnprocessableEntity ||
		!strings.Contains(text(r.body), "has not been checked today") || d.count("flights") != 0 {
		t.Errorf("begun unchecked: %d %s", r.status, text(r.body))
	}
	d.check()
	list := d.begins(teacher)
	if len(list) == 0 {
		t.Fatal("nothing can be begun after the check")
	}
	if r := teacher.form("/today/flights", list[0]); r.status != http.StatusSeeOther {
		t.Errorf("checked: %d %s", r.status, text(r.body))
	}
	// Yesterday's check is none of today's.
	d.app.Now = func() time.Time { return time.Now().Add(26 * time.Hour) }
	v.Set("id", store.NewID().String())
	if r := d.as(store.Instructor).form("/today/flights", v); !strings.Contains(text(r.body),
		"has not been checked today") {
		t.Errorf("a day later: %d %s", r.status, text(r.body))
	}
}

// A new plan counts on what the meter says, and what somebody says of the wind holds until it is changed.
func TestAPlanCountsOnTheWindThatBlows(t *testing.T) {
	d := newFieldDay(t)
	teacher := d.as(store.Instructor)
	form := d.form(1)
	form.Set("wind", "09:00 3")
	teacher.form("/today/day", form)
	if len(d.begins(teacher)) == 0 {
		t.Fatal("nothing is planned")
	}
	limit := craft.Shipped()["poiana"].WindMps
	d.reads(limit + 1)
	teacher.form("/today/change", url.Values{"do": {"plan"}})
	if board := boardText(teacher); len(d.begins(teacher)) != 0 ||
		!strings.Contains(board, "the wind is over the limit") {
		t.Errorf("planned against the meter: %s", board)
	}
	d.reads(2)
	teacher.form("/today/change", url.Values{"do": {"plan"}})
	if len(d.begins(teacher)) == 0 {
		t.Error("the meter reads little, and nothing is planned")
	}
	teacher.form("/today/change", url.Values{"do": {"wind"}, "mps": {fmt.Sprint(limit + 2)}})
	if len(d.begins(teacher)) != 0 {
		t.Error("planned in a wind that was said")
	}
	later := d.app.Now().Add(40 * time.Minute)
	d.app.Now = func() time.Time { return later }
	teacher.form("/today/change", url.Values{"do": {"plan"}})
	if len(d.begins(teacher)) != 0 {
		t.Error("what was said of the wind is forgotten")
	}
	teacher.form("/today/change", url.Values{"do": {"wind"}, "mps": {"3"}})
	if len(d.begins(teacher)) == 0 {
		t.Error("what was said anew does not count")
	}
}

// A flight for which there is no drill in the wind of its time is not planned, though its craft could fly in it: it is
// left out with that reason, and not offered with a word to plan again.
func TestAFlightWithoutADrillIsLeftOut(t *testing.T) {
	d := newFieldDay(t)
	teacher := d.as(store.Instructor)
	teacher.form("/today/day", d.form(1))
	d.reads(craft.Shipped()["poiana"].WindMps - 0.5)
	teacher.form("/today/change", url.Values{"do": {"plan"}})
	board := boardText(teacher)
	if len(d.begins(teacher)) != 0 || !strings.Contains(board, "no drill on their list is within the limits of the") ||
		strings.Contains(board, "the wind is over the limit") {
		t.Errorf("%d flights, %s", len(d.begins(teacher)), board)
	}
	d.reads(2)
	teacher.form("/today/change", url.Values{"do": {"plan"}})
	if len(d.begins(teacher)) == 0 {
		t.Error("the wind has dropped, and nothing is planned")
	}
}

// Taking a pack or the craft out asks first, says what that costs, and changes nothing before the answer.
func TestTakingAPackOutAsksFirst(t *testing.T) {
	d := newFieldDay(t)
	teacher := d.as(store.Instructor)
	form := d.form(2)
	form.Set("chargers", "C1 with 1")
	form["pack"] = form["pack"][:2]
	teacher.form("/today/day", form)
	planned := len(d.begins(teacher))
	out := "/today/packs/" + d.packs[0].String()
	r := teacher.form(out, url.Values{"do": {"dead"}})
	if r.status != http.StatusOK || !strings.Contains(text(r.body), "nothing has been changed yet") ||
		!strings.Contains(r.body, `name="sure"`) || d.count("day_versions") != 1 {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	if says := text(r.body); !strings.Contains(says, "would") {
		t.Errorf("what it costs: %s", says)
	}
	if r := teacher.form(out, url.Values{"do": {"dead"}, "sure": {"yes"}}); r.status != http.StatusSeeOther ||
		d.count("day_versions") != 2 {
		t.Errorf("%d %s", r.status, text(r.body))
	}
	if planned == 0 {
		t.Error("nothing was planned")
	}
	if r := teacher.form("/today/change", url.Values{"do": {"ground"}, "what": {d.craft.String()}}); r.status != 200 ||
		!strings.Contains(text(r.body), "would be left out") {
		t.Errorf("grounding the only craft: %d %s", r.status, text(r.body))
	}
}

// The reasons of a plan say times of day where the school is, also where the server runs elsewhere.
func TestReasonsAreInTheSchoolsTime(t *testing.T) {
	d := newFieldDay(t)
	teacher := d.as(store.Instructor)
	form := d.form(12)
	form.Set("to", "11:30")
	teacher.form("/today/day", form)
	if board := boardText(teacher); !strings.Contains(board, "11:30") || strings.Contains(board, "09:30") ||
		!strings.Contains(board, "Left out") {
		t.Errorf("%s", board)
	}
}

// A pack whose charge nobody knows gets neither a time nor a range, and the pilot's eyes and the fence keep a flight
// nearer than the pack does.
func TestWhatIsNotKnownIsNotTakenToBeGood(t *testing.T) {
	d := newFieldDay(t)
	teacher := d.as(store.Instructor)
	b := craft.Shipped()["poiana"].Battery
	unknown := store.NewID()
	err := appStore.InSchool(bg, d.school, func(tx store.Tx) error {
		return tx.AddPack(bg, store.Pack{ID: unknown, Record: pack.Record{Name: "P9", Type: "poiana", Chemistry: b.Chemistry,
			Cells: b.Cells, CapacityMah: b.CapacityMah, MassKg: b.MassKg}})
	})
	if err != nil {
		t.Fatal(err)
	}
	page := text(teacher.get("/fleet/packs/" + unknown.String()).body)
	if strings.Contains(page, "hovers now for") || !strings.Contains(page, "charge of this pack is not known") {
		t.Errorf("%s", page)
	}
	if why := text(teacher.get("/fleet/packs/" + unknown.String() + "/why?of=home").body); !strings.Contains(why,
		"neither a time nor a range") {
		t.Errorf("%s", why)
	}
	if known := text(teacher.get("/fleet/packs/" + d.packs[0].String()).body); !strings.Contains(known,
		"to which nose and tail can be told apart") || strings.Contains(known, " km") {
		t.Errorf("%s", known)
	}
	teacher.form("/today/day", d.form(1))
	teacher.form("/today/flights", d.begins(teacher)[0])
	if board := boardText(teacher); !strings.Contains(board, "where the fence is set") &&
		!strings.Contains(board, "to which nose and tail can be told apart") {
		t.Errorf("%s", board)
	}
	// A site is a place on earth: 0, 0 is what an empty form says.
	for _, v := range []url.Values{{"name": {"S"}, "latitude": {"0"}, "longitude": {"0"}},
		{"name": {"S"}, "latitude": {""}, "longitude": {"12"}}} {
		if r := d.as(store.Chief).form("/sites", v); r.status != http.StatusUnprocessableEntity {
			t.Errorf("%v: %d", v, r.status)
		}
	}
}

// In a wind in which nothing is open the pad still opens, on what would be next without it, and calls it practice.
func TestThePadOpensInAnyWind(t *testing.T) {
	d := newFieldDay(t)
	teacher := d.as(store.Instructor)
	at := "/students/" + d.student.String()
	d.reads(8.5)
	if r := teacher.get(at + "/mark"); r.status >= http.StatusBadRequest {
		t.Errorf("in 8.5 m/s: %d %.200s", r.status, text(r.body))
	}
	if r := teacher.get(at + "/fly"); r.status != http.StatusOK {
		t.Errorf("the simulator, in 8.5 m/s outside: %d %.200s", r.status, text(r.body))
	}
}
