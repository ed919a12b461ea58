package web

import (
	"archive/zip"
	"bytes"
	"encoding/csv"
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"maestrale/core/record"
	"maestrale/internal/store"
)

// A record goes out, is verified, is changed, comes in to another school, counts as its
// chief decides, and never twice.
func TestRecordsGoOutAndComeIn(t *testing.T) {
	a, b := newSite(t), newSite(t)
	a.keep(a.student, "PP P")
	out := a.as(store.Learner).get("/students/" + a.student.String() + "/record/record.json")
	_, v, _, err := record.ReadExported(strings.NewReader(out.body), nil)
	if out.status != 200 || err != nil || !v.Sound || v.Attempts != 3 {
		t.Fatalf("%d %v %+v", out.status, err, v)
	}
	if r := a.as(store.Learner).get("/students/" + a.other.String() +
		"/record/record.json"); r.status != http.StatusNotFound && r.status != http.StatusForbidden {
		t.Errorf("another student's record: %d", r.status)
	}
	chief := b.as(store.Chief)
	bring := func(c *client, file, do string, counts string) reply {
		return c.multipart("/records/exchange", "record.json", strings.NewReader(file), map[string]string{"do": do,
			"student": b.student.String(), "counts": counts})
	}
	if r := bring(chief, out.body, "verify", ""); r.status != 200 || !strings.Contains(r.body, "Sound: signed") ||
		b.count("attempts") != 0 {
		t.Errorf("verified: %d", r.status)
	}
	bad := strings.Replace(out.body, `"verdict":"pass"`, `"verdict":"fail"`, 1)
	if r := bring(chief, bad, "take", ""); r.status != 422 || !strings.Contains(r.body, "Not taken over") ||
		b.count("attempts")+b.count("imports") != 0 {
		t.Errorf("a changed record was taken: %d", r.status)
	}
	if r := bring(b.as(store.Instructor), out.body, "take", ""); r.status != 422 || b.count("attempts") != 0 {
		t.Errorf("an instructor took it over: %d", r.status)
	}
	if r := bring(chief, "{}", "take", ""); r.status != 422 {
		t.Errorf("nonsense: %d", r.status)
	}
	if r := bring(chief, out.body, "take", ""); r.status != 200 || !strings.Contains(r.body, "3 attempts taken over") ||
		b.count("attempts") != 3 {
		t.Fatalf("%d %d", r.status, b.count("attempts"))
	}
	page := chief.get("/students/" + b.student.String())
	if !strings.Contains(page.body, "recorded at Test school, and not taken over") || strings.Contains(page.body,
		"1 of "+ladderCells()+" items held") {
		t.Error("what did not count counts")
	}
	if r := bring(chief, out.body, "take", "yes"); r.status != 422 || !strings.Contains(r.body, "taken over already") ||
		b.count("attempts") != 3 {
		t.Errorf("twice: %d", r.status)
	}
	// Its attempts can be looked at, though they have no flight.
	var id string
	err = appStore.InSchool(bg, b.school, func(tx store.Tx) error {
		list, err := tx.Attempts(bg, b.student)
		id = list[0].ID
		return err
	})
	if r := chief.get("/attempts/" + id); err != nil || r.status != 200 {
		t.Errorf("the debrief of what came: %d %v", r.status, err)
	}
	// The school's own record does not come in.
	if r := a.as(store.Chief).multipart("/records/exchange", "record.json", strings.NewReader(out.body),
		map[string]string{"do": "take", "student": a.student.String()}); r.status != 422 ||
		!strings.Contains(r.body, "itself") {
		t.Errorf("its own: %d", r.status)
	}
}

// A record taken over as counting counts.
func TestWhatComesCountsAsTheChiefDecides(t *testing.T) {
	a, b := newSite(t), newSite(t)
	a.keep(a.student, "PP P")
	out := a.as(store.Chief).get("/students/" + a.student.String() + "/record/record.json")
	if r := b.as(store.Chief).multipart("/records/exchange", "record.json", strings.NewReader(out.body),
		map[string]string{"do": "take", "student": b.student.String(), "counts": "yes"}); r.status != 200 {
		t.Fatalf("%d", r.status)
	}
	if p := b.as(store.Chief).get("/students/" + b.student.String()); !strings.Contains(p.body,
		"1 of "+ladderCells()+" items held") {
		t.Error("it does not count")
	}
}

func TestFilesOfARecord(t *testing.T) {
	s := newSite(t)
	s.keep(s.student, "PF")
	c := s.as(store.Chief)
	at := "/students/" + s.student.String()
	if r := c.get(at + "/record/logbook.pdf"); r.status != 200 || !strings.HasPrefix(r.body, "%PDF-") {
		t.Errorf("the logbook: %d", r.status)
	}
	rows, err := csv.NewReader(strings.NewReader(c.get(at + "/record/attempts.csv").body)).ReadAll()
	if err != nil || len(rows) != 3 || rows[0][2] != "drill" || rows[1][2] != "hover-tail-in" {
		t.Errorf("%v %v", rows, err)
	}
	if r := c.get(at + "/record/passwords.txt"); r.status != http.StatusNotFound {
		t.Errorf("%d", r.status)
	}
	z := c.get("/records/everything.zip")
	r, err := zip.NewReader(bytes.NewReader([]byte(z.body)), int64(len(z.body)))
	if err != nil || len(r.File) != len(store.Tables) {
		t.Fatalf("%d %v", z.status, err)
	}
	for _, f := range r.File {
		in, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		rows, err := csv.NewReader(in).ReadAll()
		if err != nil || len(rows) == 0 || len(rows[0]) < 3 {
			t.Errorf("%s: %v", f.Name, err)
		}
		if f.Name == "attempts.csv" && len(rows) != 3 {
			t.Errorf("%d attempts", len(rows)-1)
		}
		if strings.Contains(fmt.Sprint(rows), secretHash) {
			t.Errorf("%s holds a password", f.Name)
		}
	}
}

// A student takes the own name and account out; what must be kept stays.
func TestAStudentLeaves(t *testing.T) {
	s := newSite(t)
	s.keep(s.student, "PP")
	at := "/students/" + s.student.String()
	c := s.as(store.Learner)
	if r := c.form(at+"/forget", url.Values{"name": {"Somebody"}}); r.status != http.StatusConflict {
		t.Errorf("without the name: %d", r.status)
	}
	if r := s.as(store.Instructor).form(at+"/forget",
		url.Values{"name": {"First Student"}}); r.status != http.StatusForbidden {
		t.Errorf("by an instructor: %d", r.status)
	}
	if r := c.form(at+"/forget", url.Values{"name": {"First Student"}}); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, r.body)
	}
	if r := c.get(at); r.status != http.StatusSeeOther {
		t.Errorf("still signed in: %d", r.status)
	}
	chief := s.as(store.Chief)
	p := chief.get(at)
	if p.status != 200 || strings.Contains(p.body, "First Student") || !strings.Contains(p.body, "A student who left") ||
		s.count("attempts") != 2 {
		t.Errorf("%d, %d attempts", p.status, s.count("attempts"))
	}
	if a := chief.get("/records/audit"); strings.Contains(a.body, "First Student") || !strings.Contains(a.body,
		"removed the student&#39;s name and account") {
		t.Error("the audit")
	}
}
