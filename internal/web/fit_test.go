package web

import (
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/internal/store"
)

// logs writes an event into a craft's log.
func (d fieldDay) logs(e craft.Event) {
	d.t.Helper()
	err := appStore.InSchool(bg, d.school, func(tx store.Tx) error {
		var by uuid.UUID
		if err := tx.QueryRow(bg, `SELECT id FROM accounts WHERE role = 'chief'`).Scan(&by); err != nil {
			return err
		}
		return tx.AddCraftEvent(bg, store.NewID(), d.craft, by, e)
	})
	if err != nil {
		d.t.Fatal(err)
	}
}

// A craft with a new motor is not begun with a student by one tap, and a new plan leaves the students out with the true
// reason, until an instructor has proven it.
func TestACraftThatIsToBeProvenIsNotForAStudent(t *testing.T) {
	d := newFieldDay(t)
	teacher := d.as(store.Instructor)
	teacher.form("/today/day", d.form(1))
	list := d.begins(teacher)
	if len(list) == 0 {
		t.Fatal("nothing is planned")
	}
	at := d.app.Now()
	d.logs(craft.Event{At: at.Add(-time.Minute), Kind: craft.NewParts, Says: "a new motor"})
	if r := teacher.form("/today/flights", list[0]); r.status != http.StatusUnprocessableEntity ||
		!strings.Contains(text(r.body),
			"still to be proven: new parts: a new motor") || d.count("flights") != 0 {
		t.Errorf("begun on a craft with a new motor: %d %s", r.status, text(r.body))
	}
	d.logs(craft.Event{At: at.Add(-time.Second), Kind: craft.Proving, Passed: true, HoverPc: 40})
	if r := teacher.form("/today/flights", list[0]); r.status != http.StatusSeeOther {
		t.Errorf("proven: %d %s", r.status, text(r.body))
	}
	d.logs(craft.Event{At: at, Kind: craft.Incident, Damage: true, Says: "hit the fence"})
	if r := teacher.form("/today/flights", list[len(list)-1]); r.status != http.StatusUnprocessableEntity {
		t.Errorf("damaged: %d", r.status)
	}
}

// A day that is made while the craft is to be proven leaves the students out, with the true reason; with a proving
// flight it plans them after that.
func TestAPlanWaitsForTheProvingFlight(t *testing.T) {
	d := newFieldDay(t)
	teacher := d.as(store.Instructor)
	d.logs(craft.Event{At: d.app.Now().Add(-time.Minute), Kind: craft.NewParts, Says: "a new motor"})
	teacher.form("/today/day", d.form(1))
	if board := boardText(teacher); !strings.Contains(board, "poiana-1 is still to be proven: new parts: a new motor") ||
		len(d.begins(teacher)) != 0 {
		t.Errorf("the plan: %s", board)
	}
}
