package web

import (
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"maestrale/core/record"
	"maestrale/internal/store"
)

// bring uploads a table and returns the address of its preview.
func (c *client) bring(t *testing.T, name, table string) string {
	t.Helper()
	r := c.multipart("/import", name, strings.NewReader(table), nil)
	if r.status != http.StatusSeeOther {
		t.Fatalf("%s: %d %s", name, r.status, text(r.body))
	}
	return r.header.Get("Location")
}

// A table is looked at, its mistakes are said by line, and it is taken whole or not at all.
func TestATableIsTakenWholeOrNotAtAll(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Chief)
	at := c.bring(t, "list.csv", "Pilot;Model;Since\nCleo Nuova;Poiana;2.3.2026\nFirst Student;Poiana;\nDario;Balloon;\n")
	p := text(c.get(at).body)
	for _, want := range []string{"semicolons between the columns", "2 mistakes: nothing is imported",
		"1 of 3 rows are right",
		"First Student is in the school already", `the craft type "Balloon" is not known`} {
		if !strings.Contains(strings.ReplaceAll(p, "&#34;", `"`), want) {
			t.Errorf("the preview does not say %q: %s", want, p)
		}
	}
	if r := c.form(at, url.Values{"kind": {"students"}}); r.status != 422 || s.count("students") != 2 {
		t.Errorf("taken with mistakes: %d, %d students", r.status, s.count("students"))
	}
	at = c.bring(t, "list.csv", "Pilot;Model;Since\nCleo Nuova;Poiana;2.3.2026\nDario;Gheppio;\n")
	if p := text(c.get(at).body); !strings.Contains(p, "Import all 2 students") {
		t.Errorf("the preview: %s", p)
	}
	// Another heading is chosen for the type than the one that was matched, and the type is then not known.
	if p := text(c.get(at + "?kind=students&mapped=students&map-craft=2").body); !strings.Contains(p, "1 mistake") {
		t.Errorf("with another heading: %s", p)
	}
	if r := c.form(at, url.Values{"kind": {"students"}}); r.status != http.StatusSeeOther || s.count("students") != 4 {
		t.Fatalf("%d %s, %d students", r.status, text(r.body), s.count("students"))
	}
	if r := c.form(at, url.Values{"kind": {"students"}}); r.status != 422 && r.status != http.StatusConflict {
		t.Errorf("the same preview again: %d", r.status)
	}
	if p := text(c.get("/import").body); !strings.Contains(p, "2 students") || !strings.Contains(p, "Undo") {
		t.Errorf("the list: %s", p)
	}
}

func TestFilesThatAreNoTables(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Chief)
	for what, data := range map[string]string{"a photo": "\xff\xd8\xff\xe0 a photo", "a workbook": "PK\x03\x04",
		"headings alone": "name,goal\n", "nothing": ""} {
		if r := c.multipart("/import", "x.csv", strings.NewReader(data), nil); r.status != 422 || s.count("intakes") != 0 {
			t.Errorf("%s: %d, %d kept", what, r.status, s.count("intakes"))
		}
	}
	for _, role := range []string{store.Instructor, store.Spotter, store.Learner} {
		if r := s.as(role).get("/import"); r.status != http.StatusForbidden {
			t.Errorf("%s: %d", role, r.status)
		}
	}
	other := newSite(t).as(store.Chief)
	if r := other.get(c.bring(t, "a.csv", "name\nX\n")); r.status != http.StatusNotFound {
		t.Errorf("another school's table: %d", r.status)
	}
	for _, kind := range []string{"students", "craft", "packs", "passes"} {
		if r := c.get("/import/templates/" + kind + ".csv"); r.status != 200 || !strings.Contains(r.body, ",") {
			t.Errorf("the empty file of %s: %d", kind, r.status)
		}
	}
	if r := c.get("/import/templates/wishes.csv"); r.status != http.StatusNotFound {
		t.Errorf("an unknown kind: %d", r.status)
	}
}

// What a table brought is taken back within an hour, unless it is in use.
func TestATableIsUndone(t *testing.T) {
	now := time.Now()
	s := siteWith(t, func(o *Options) { o.Now = func() time.Time { return now } })
	c := s.as(store.Chief)
	take := func(table, kind string) string {
		at := c.bring(t, "t.csv", table)
		if r := c.form(at, url.Values{"kind": {kind}}); r.status != http.StatusSeeOther {
			t.Fatalf("%d %s", r.status, text(r.body))
		}
		return at
	}
	packs := "name,type\nP1,poiana\nP2,poiana\n"
	at := take(packs, "packs")
	if r := c.form(c.bring(t, "again.csv", packs), url.Values{"kind": {"packs"}}); r.status != 422 {
		t.Errorf("the same rows again: %d", r.status)
	}
	if r := c.form(at+"/undo", nil); r.status != http.StatusSeeOther || s.count("packs") != 0 {
		t.Errorf("undone: %d, %d packs", r.status, s.count("packs"))
	}
	if r := c.form(at+"/undo", nil); r.status != http.StatusConflict {
		t.Errorf("undone twice: %d", r.status)
	}
	at = take(packs, "packs") // after an undo the same file may come again
	now = now.Add(61 * time.Minute)
	if r := c.form(at+"/undo", nil); r.status != http.StatusConflict || !strings.Contains(r.body, "an hour has passed") ||
		s.count("packs") != 2 {
		t.Errorf("after an hour: %d, %d packs", r.status, s.count("packs"))
	}
	at = take("name\nDario Vecchi\n", "students")
	for _, page := range []string{"/students", "/records"} { // that somebody looked at the list holds nobody
		if p := c.get(page); !strings.Contains(p.body, "Dario Vecchi") {
			t.Errorf("%s does not show who came", page)
		}
	}
	if r := c.form(at+"/undo", nil); r.status != http.StatusSeeOther || s.count("students") != 2 {
		t.Errorf("looked at and undone: %d, %d students", r.status, s.count("students"))
	}
	at = take("name\nCleo Nuova\n", "students")
	var cleo uuid.UUID
	if err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
		list, err := tx.Students(bg)
		for _, st := range list {
			if st.Name == "Cleo Nuova" {
				cleo = st.ID
			}
		}
		return err
	}); err != nil {
		t.Fatal(err)
	}
	if r := c.json("/students/"+cleo.String()+"/marks", hoverMarks(store.NewID().String())); r.status != 200 {
		t.Fatal(r.status)
	}
	if r := c.form(at+"/undo", nil); r.status != http.StatusConflict || !strings.Contains(r.body, "in use already") ||
		s.count("students") != 3 {
		t.Errorf("a student with an attempt: %d, %d students", r.status, s.count("students"))
	}
}

// A pass from paper is seen with who vouches for it, counts only when the chief says so, and is void when its table is
// taken back; the chain holds all of it.
func TestPassesFromPaper(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Chief)
	at := c.bring(t, "passes.csv", "student,date,drill,aids,vouched for by\n"+
		"First Student,2026-03-02,ground-effect-hover,position hold,Old Hand\n"+
		"First Student,2026-03-03,ground-effect-hover,position hold,Old Hand\n")
	if r := c.form(at, url.Values{"kind": {"passes"}}); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	page := "/students/" + s.student.String()
	if p := text(c.get(page).body); !strings.Contains(p, "Old Hand vouches for it") || !strings.Contains(p,
		"0 of "+ladderCells()) {
		t.Errorf("the student's page: %s", p)
	}
	if r := s.as(store.Instructor).form("/import/claims", nil); r.status != http.StatusForbidden {
		t.Errorf("an instructor decides: %d", r.status)
	}
	attempt := idBefore(t, c.get(page).body, `href="/attempts/`)
	if p := text(c.get("/attempts/" + attempt).body); !strings.Contains(p, "brought from paper") || !strings.Contains(p,
		"Let it count") {
		t.Errorf("the debrief: %s", p)
	}
	if r := c.form("/import/claims", url.Values{"attempt": {attempt}, "do": {"count"}}); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	if r := c.form("/import/claims", url.Values{"attempt": {attempt}, "do": {"count"}}); r.status != http.StatusConflict {
		t.Errorf("decided twice: %d", r.status)
	}
	if r := c.form("/import/claims", url.Values{"do": {"count"}}); r.status != http.StatusSeeOther {
		t.Errorf("the rest: %d %s", r.status, text(r.body))
	}
	counting := func() (n int) {
		err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
			list, err := tx.Claims(bg, true)
			n = len(list)
			return err
		})
		if err != nil {
			t.Fatal(err)
		}
		return n
	}
	if n := counting(); n != 2 {
		t.Errorf("%d of 2 passes count", n)
	}
	// A pass that was decided on is in use: its table stays.
	if r := c.form(at+"/undo", nil); r.status != http.StatusConflict {
		t.Errorf("undone after the decision: %d", r.status)
	}
	third := c.bring(t, "renamed.csv", "Pilot,When,Exercise,Aids,By\n"+
		"First Student,2.3.2026,Ground-effect hover,position hold,Somebody else\n")
	if p := text(c.get(third).body); !strings.Contains(p, "this pass was brought in before") {
		t.Errorf("the same pass in another table: %s", p)
	}
	second := c.bring(t, "more.csv",
		"student,date,drill,vouched for by\nSecond Student,2026-03-02,hover-tail-in,Old Hand\n")
	c.form(second, url.Values{"kind": {"passes"}})
	if r := c.form(second+"/undo", nil); r.status != http.StatusSeeOther {
		t.Errorf("undone: %d %s", r.status, text(r.body))
	}
	if p := text(c.get("/students/" + s.other.String()).body); !strings.Contains(p, "void") {
		t.Errorf("a pass that was taken back: %s", p)
	}
	if sound, n := s.chains(); !sound || n < 6 {
		t.Errorf("%d chains' entries, sound: %v", n, sound)
	}
}

// chains tells whether every student's record verifies, and how many entries there are.
func (s *site) chains() (sound bool, entries int) {
	s.t.Helper()
	sound = true
	for _, id := range []uuid.UUID{s.student, s.other} {
		err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
			chain, err := tx.Chain(bg, id)
			if err != nil {
				return err
			}
			broken, err := record.Verify(chain)
			sound, entries = sound && broken == 0, entries+len(chain)
			return err
		})
		if err != nil {
			s.t.Fatal(err)
		}
	}
	return sound, entries
}

// Ten thousand students come in one file.
func TestTenThousandRows(t *testing.T) {
	if testing.Short() {
		t.Skip("takes some seconds")
	}
	s := newSite(t)
	c := s.as(store.Chief)
	var table strings.Builder
	table.WriteString("name,craft\n")
	for i := range 10_000 {
		fmt.Fprintf(&table, "Student %d,poiana\n", i)
	}
	at := c.bring(t, "many.csv", table.String())
	if r := c.form(at, url.Values{"kind": {"students"}}); r.status != http.StatusSeeOther ||
		s.count("students") != 10_002 {
		t.Errorf("%d, %d students", r.status, s.count("students"))
	}
	if r := c.form(at+"/undo", nil); r.status != http.StatusSeeOther || s.count("students") != 2 {
		t.Errorf("undone: %d, %d students", r.status, s.count("students"))
	}
}

// A student's page is changed, the student leaves and comes back, and the record stays.
func TestAStudentOverTime(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Instructor)
	at := "/students/" + s.student.String()
	change := url.Values{"do": {"change"}, "name": {"Renamed Student"}, "programme": {"hands-first"}, "craft": {"gheppio"},
		"trains_for": {"survey"}, "goal": {"to fly the dune alone"}}
	if r := c.form(at, change); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	if p := text(c.get(at).body); !strings.Contains(p, "Renamed Student") || !strings.Contains(p,
		"Goal: to fly the dune alone") ||
		!strings.Contains(p, "Hands first") {
		t.Errorf("the page: %s", p)
	}
	for _, bad := range []string{"name", "programme", "craft"} {
		form := url.Values{}
		for k, v := range change {
			form[k] = v
		}
		form.Set(bad, "")
		if r := c.form(at, form); r.status != http.StatusConflict {
			t.Errorf("without %s: %d", bad, r.status)
		}
	}
	if r := s.as(store.Learner).form(at, change); r.status != http.StatusForbidden {
		t.Errorf("a student changes the page: %d", r.status)
	}
	c.form(at, url.Values{"do": {"leave"}})
	if p := text(c.get("/students").body); !strings.Contains(p, "1 in training") || !strings.Contains(p, "1 who left") {
		t.Errorf("the list: %s", p)
	}
	if p := text(c.get(at).body); !strings.Contains(p, "Renamed Student left on") {
		t.Errorf("the page of who left: %s", p)
	}
	c.form(at, url.Values{"do": {"return"}})
	if p := text(c.get("/students").body); !strings.Contains(p, "2 in training") {
		t.Errorf("the list after the return: %s", p)
	}
	if r := newSite(t).as(store.Chief).form(at, change); r.status != http.StatusNotFound {
		t.Errorf("another school's student: %d", r.status)
	}
}

// The text of a note is taken out, by the chief alone; its row stays, and the chain still verifies. Forgetting a
// student takes every note out, and what the student left on the instructor's device.
func TestNotesAreTakenOut(t *testing.T) {
	s := newSite(t)
	chief, teacher := s.as(store.Chief), s.as(store.Instructor)
	marks := hoverMarks(store.NewID().String())
	teacher.json("/students/"+s.student.String()+"/marks", marks)
	attempt := "/attempts/" + marks["opening"].(map[string]any)["id"].(string)
	for _, body := range []string{"Afraid of the tree", "Call the parents"} {
		teacher.form(attempt+"/notes", url.Values{"body": {body}})
	}
	note := idBefore(t, chief.get(attempt).body, `action="/notes/`)
	if r := teacher.form("/notes/"+note+"/redact", nil); r.status != http.StatusForbidden {
		t.Errorf("an instructor takes a note out: %d", r.status)
	}
	if r := newSite(t).as(store.Chief).form("/notes/"+note+"/redact", nil); r.status != http.StatusNotFound {
		t.Errorf("another school's chief: %d", r.status)
	}
	if r := chief.form("/notes/"+note+"/redact", nil); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	p := text(teacher.get(attempt).body)
	if strings.Contains(p, "Afraid") || !strings.Contains(p, "removed by The chief") || !strings.Contains(p,
		"Call the parents") {
		t.Errorf("the debrief: %s", p)
	}
	if sound, n := s.chains(); !sound || n < 4 {
		t.Errorf("%d entries, sound: %v", n, sound)
	}
	// Nobody changes a note any other way: the database refuses.
	err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
		_, err := tx.Exec(bg, `UPDATE attempt_notes SET body = 'x'`)
		return err
	})
	if err == nil {
		t.Error("a note was changed")
	}
	if r := chief.form("/students/"+s.student.String()+"/forget",
		url.Values{"name": {"First Student"}}); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	if p := chief.get(attempt).body; strings.Contains(p, "Call the parents") {
		t.Error("a note of a forgotten student is there")
	}
	if sound, _ := s.chains(); !sound {
		t.Error("the chain is broken")
	}
}

// A student without an account confirms on the instructor's device; with one they confirm there. The chain says which.
func TestConfirmedOnTheInstructorsDevice(t *testing.T) {
	s := newSite(t)
	s.maySign(time.Now().Add(time.Hour))
	teacher := s.as(store.Instructor)
	sign := func(student uuid.UUID) (at, id string) {
		at = "/students/" + student.String()
		for _, act := range []string{"briefing", "cautions", "preflight-unprompted"} {
			teacher.form(at+"/witnessed", url.Values{"act": {act}, "gate": {"supervised"}})
		}
		teacher.form(at+"/sign-offs", url.Values{"gate": {"supervised"}})
		return at, idBefore(t, teacher.get(at+"/gates/supervised").body, `action="/sign-offs/`)
	}
	drawn := "M10 20" + strings.Repeat(" L30 40", 8)
	at, id := sign(s.other)
	form := func(change url.Values) url.Values {
		out := url.Values{"do": {"witness"}, "cautions": {"read"}, "typed": {"second student"}, "strokes": {drawn}}
		for k, v := range change {
			out[k] = v
		}
		return out
	}
	for want, change := range map[string]url.Values{"Tick that you have read": {"cautions": {""}},
		"not the one in the record": {"typed": {"First Student"}}, "no signature": {"strokes": {""}},
		"could not be read": {"strokes": {`M1 1"/><script>`}}, "no more than a dot": {"strokes": {"M1 1 L2 2"}}} {
		if r := teacher.form("/sign-offs/"+id, form(change)); r.status != http.StatusConflict ||
			!strings.Contains(text(r.body), want) {
			t.Errorf("%s: %d %s", want, r.status, text(r.body))
		}
	}
	if r := s.as(store.Spotter).form("/sign-offs/"+id, form(nil)); r.status != http.StatusConflict {
		t.Errorf("a spotter is witness: %d", r.status)
	}
	for range 2 { // a second time changes nothing
		if r := teacher.form("/sign-offs/"+id, form(nil)); r.status != http.StatusSeeOther {
			t.Fatalf("%d %s", r.status, text(r.body))
		}
	}
	if p := teacher.get(at + "/gates/supervised").body; !strings.Contains(text(p),
		"on the device of The instructor, who is witness") ||
		!strings.Contains(p, drawn) {
		t.Error("the gate does not say how it was confirmed, or lacks the signature")
	}
	rec := s.as(store.Chief).get(at + "/record/record.json").body
	if !strings.Contains(rec, `"read_on":"device"`) && !strings.Contains(rec, `"read_on": "device"`) ||
		strings.Contains(rec, drawn) {
		t.Error("the record does not say that it was on a device, or holds the signature")
	}
	if strings.Count(rec, "signoff-read") != 1 || s.count("confirmations") != 1 {
		t.Error("it is not in the chain once")
	}
	_, id = sign(s.student)
	if r := teacher.form("/sign-offs/"+id, url.Values{"do": {"witness"}, "cautions": {"read"}, "typed": {"First Student"},
		"undrawn": {"yes"}}); r.status != http.StatusConflict || !strings.Contains(r.body, "has an account") {
		t.Errorf("a student with an account: %d", r.status)
	}
	if r := s.as(store.Learner).form("/sign-offs/"+id, url.Values{"do": {"read"},
		"cautions": {"read"}}); r.status != http.StatusSeeOther {
		t.Errorf("on the own account: %d", r.status)
	}
	if sound, _ := s.chains(); !sound {
		t.Error("the chain is broken")
	}
	// Forgetting takes the typed name and the signature out, and the chain still verifies.
	chief := s.as(store.Chief)
	chief.form(at+"/forget", url.Values{"name": {"Second Student"}})
	if p := chief.get(at + "/gates/supervised").body; strings.Contains(p, drawn) {
		t.Error("the signature of a forgotten student is there")
	}
	if sound, _ := s.chains(); !sound {
		t.Error("the chain is broken after forgetting")
	}
}
