package web

import (
	"fmt"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/internal/store"
)

// onCourse is the good log flown where the course of the day has the hover, and the same with a drift out of its place
// and back: a fail.
func onCourse(t testing.TB) (good, drifted string) {
	t.Helper()
	laid, _ := course.Lay("five-markers", craft.Light)
	task, err := drill.Shipped().Drills["hover-tail-in"].Lay(field.NoSide, 1, craft.Shipped()["poiana"].Class(), laid)
	if err != nil {
		t.Fatal(err)
	}
	at, pad := task.Steps[1].At, task.Steps[len(task.Steps)-1].At
	for row := range strings.Lines(goodLog) {
		var s float64
		n, _ := fmt.Sscanf(row, "%f,", &s)
		place := func(off float64) string {
			u := max(0, min(1, (s-24)/2)) // on its way to the pad
			return strings.Replace(row, ",0,6,", fmt.Sprintf(",%g,%g,", at.X+off+u*(pad.X-at.X), at.Y+u*(pad.Y-at.Y)), 1)
		}
		if good += place(0); n == 1 && s > 10 && s < 24 {
			drifted += place(min(s-10, 4, 24-s))
		} else {
			drifted += place(0)
		}
	}
	return good, drifted
}

// logDay is a field day on which two students have flown a hover each, both marked as passed.
type logDay struct {
	fieldDay
	now   *time.Time
	began [2]time.Time // of the marks
}

func newLogDay(t *testing.T, teacher func(d fieldDay) *client) (logDay, *client) {
	t.Helper()
	d := logDay{fieldDay: newFieldDay(t)}
	now := d.app.Now()
	d.now = &now
	d.app.Now = func() time.Time { return *d.now }
	c := teacher(d.fieldDay)
	c.form("/today/day", d.form(1))
	for i := range d.began {
		v := d.begins(c)[0]
		if r := c.form("/today/flights", v); r.status != http.StatusSeeOther {
			t.Fatalf("begin: %d %s", r.status, text(r.body))
		}
		d.began[i] = now.Add(time.Duration(40+50*i) * time.Second)
		m := hoverMarks(store.NewID().String())
		m["opening"].(map[string]any)["device_at"] = d.began[i]
		now = now.Add(4 * time.Minute)
		if r := c.json("/students/"+v.Get("student")+"/marks", m); r.status != http.StatusOK {
			t.Fatalf("mark: %d %s", r.status, r.body)
		}
		if r := c.form("/today/flights/"+v.Get("id"), url.Values{"kind": {"end"}}); r.status != http.StatusSeeOther {
			t.Fatalf("end: %d %s", r.status, text(r.body))
		}
		now = now.Add(7 * time.Minute)
	}
	return d, c
}

// give gives the logs of both flights, from a recorder whose clock is ahead, and a file that is none.
func (d logDay) give(c *client, ahead time.Duration) (folder string) {
	d.t.Helper()
	folder = "/today/logs/" + store.NewID().String()
	day := ""
	if m := regexp.MustCompile(`<option value="([0-9a-f-]+)"`).FindStringSubmatch(c.get("/today/logs").body); m != nil {
		day = m[1]
	}
	good, drifted := onCourse(d.t)
	for i, log := range []string{good, drifted, "\x89PNG\r\n\x1a\n"} {
		more := map[string]string{"day": day, "name": fmt.Sprintf("card/flight %d.csv", i)}
		if i < 2 {
			more["changed"] = fmt.Sprint(d.began[i].Add(32*time.Second + ahead).UnixMilli())
		}
		if r := c.multipart(folder, "x.csv", strings.NewReader(log), more); r.status != http.StatusSeeOther {
			d.t.Fatalf("log %d: %d %s", i, r.status, text(r.body))
		}
	}
	return folder
}

func (d logDay) one(query string) (n int) {
	d.t.Helper()
	err := appStore.InSchool(bg, d.school, func(tx store.Tx) error { return tx.QueryRow(bg, query).Scan(&n) })
	if err != nil {
		d.t.Fatal(err)
	}
	return n
}

// A day's logs are given in one go: the clock of the recorder is put right, each log is found to be of its flight and
// its mark, what agrees is kept, what does not is asked once, and the verdicts of eye and log are compared.
func TestLogsOfTheDay(t *testing.T) {
	d, c := newLogDay(t, func(d fieldDay) *client { return d.as(store.Instructor) })
	folder := d.give(c, 2*time.Hour)
	page := text(c.get(folder).body)
	for _, want := range []string{"1 attempt is known, 1 asks a question, and 1 file was left out",
		"The clock of card was 2 h", "ahead", "cannot be read", "the mark stands: pass", "the log stands: fail"} {
		if !strings.Contains(page, want) {
			t.Errorf("the page does not say %q: %s", want, page)
		}
	}
	other := d.as(store.Chief)
	if r := other.get(folder); r.status != http.StatusNotFound {
		t.Errorf("somebody else's folder: %d", r.status)
	}
	item := regexp.MustCompile(`name="item" value="([^"]+)"`).FindStringSubmatch(c.get(folder).body)[1]
	if r := c.form(folder+"/answer", url.Values{"item": {item}, "answer": {"both"}}); r.status != 422 {
		t.Errorf("an answer that was not offered: %d", r.status)
	}
	if r := c.form(folder+"/answer", url.Values{"item": {item}, "answer": {"log"}}); r.status != http.StatusSeeOther {
		t.Fatalf("answer: %d %s", r.status, text(r.body))
	}
	for range 2 { // twice, as an impatient hand does
		if r := c.form(folder+"/keep", nil); r.status != http.StatusSeeOther {
			t.Fatalf("keep: %d %s", r.status, text(r.body))
		}
	}
	if n := d.one(`SELECT count(*) FROM attempts WHERE source = 'track' AND corrects IS NULL`); n != 2 {
		t.Errorf("%d attempts were made of two logs", n)
	}
	if n := d.one(`SELECT count(*) FROM attempts a WHERE a.counts AND a.verdict <> 'void'
		AND NOT EXISTS (SELECT FROM attempts c WHERE c.corrects = a.id)`); n != 2 {
		t.Errorf("%d attempts count; one mark stands and one log", n)
	}
	if n := d.one(`SELECT count(*) FROM conflicts c
		WHERE NOT EXISTS (SELECT FROM conflict_decisions k WHERE k.conflict_id = c.id)`); n != 0 {
		t.Errorf("%d conflicts are left to decide", n)
	}
	again := text(c.get(d.give(c, 2*time.Hour)).body)
	if !strings.Contains(again, "0 attempts are known, 0 ask a question, and 3 files were left out") {
		t.Errorf("given again: %s", again)
	}
	for _, who := range []*client{c, other} {
		if r := text(who.get("/records/agreement").body); !strings.Contains(r, "1 of 2") {
			t.Errorf("agreement: %s", r)
		}
	}
	// The chief has marked nothing and sees everybody's; an instructor sees nobody else's.
	if r := c.get("/records/agreement").body; strings.Contains(r, "scope=\"col\">instructor") {
		t.Error("an instructor is shown whose verdicts these are")
	}
	if r := c.form(folder+"/drop", nil); r.status != http.StatusSeeOther || c.get(folder).status != http.StatusNotFound {
		t.Errorf("thrown away: %d", r.status)
	}
}

// The logs of a day before today are given as well; those of a day that is not there are not taken.
func TestLogsOfAnEarlierDay(t *testing.T) {
	d, _ := newLogDay(t, func(d fieldDay) *client { return d.as(store.Instructor) })
	*d.now = d.now.AddDate(0, 0, 6)
	c := d.as(store.Instructor) // the sign-in of that day has ended
	if page := text(c.get(d.give(c, 0)).body); !strings.Contains(page, "1 attempt is known, 1 asks a question") {
		t.Errorf("six days later: %s", page)
	}
	elsewhere := "/today/logs/" + store.NewID().String() + "?day=" + store.NewID().String()
	if r := c.multipart(elsewhere, "a.csv", strings.NewReader(goodLog), nil); r.status != http.StatusNotFound ||
		d.count("log_folders") != 1 {
		t.Errorf("a day that is not there: %d", r.status)
	}
	*d.now = d.now.AddDate(0, 3, 0)
	if page := text(d.as(store.Instructor).get("/today/logs").body); !strings.Contains(page,
		"none has begun in two months") {
		t.Errorf("three months later: %s", page)
	}
}

// What is no log, too much or too late is refused with a sentence, and nothing of it is held.
func TestLogsThatAreRefused(t *testing.T) {
	d, c := newLogDay(t, func(d fieldDay) *client { return d.as(store.Instructor) })
	empty := "/today/logs/" + store.NewID().String()
	if r := c.multipart(empty, "a.csv", strings.NewReader(""), nil); r.status != 422 || d.count("log_folders") != 0 {
		t.Errorf("an empty file: %d %s", r.status, text(r.body))
	}
	if r := c.form(empty, url.Values{}); r.status != 422 {
		t.Errorf("no file: %d", r.status)
	}
	if r := c.get(empty); r.status != http.StatusNotFound {
		t.Errorf("a folder that is not there: %d", r.status)
	}
	folder := d.give(c, 0)
	c.get(folder) // it is sorted now
	if r := c.multipart(folder, "late.csv", strings.NewReader(goodLog), nil); r.status == http.StatusSeeOther {
		t.Error("a log is taken into a folder that was sorted")
	}
	if r := d.as("student").get(folder); r.status != http.StatusForbidden {
		t.Errorf("a student looks at the logs: %d", r.status)
	}
}
