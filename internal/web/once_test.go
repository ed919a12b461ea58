package web

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"net/http"
	"net/url"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"

	"maestrale/core/drill"
	"maestrale/core/record"
	"maestrale/core/score"
	"maestrale/internal/attempt"
	"maestrale/internal/store"
)

// A counter below 1 is none: it would stand before everything that the device has counted, and be dated by it.
func TestACounterBelowOneIsRefused(t *testing.T) {
	s := newSite(t)
	p := s.pad(store.Instructor, 0)
	now := time.Now()
	p.seq = -2
	got, _ := p.sync(p.hover(s.student, now.Add(-time.Hour)), p.hover(s.student, now.Add(-50*time.Minute)))
	for i, it := range got.Items {
		if !strings.Contains(it.Error, "counter") || len(it.Kept) != 0 {
			t.Errorf("counter %d: %+v", i-1, it)
		}
	}
	if n := s.count("attempts") + s.count("openings"); n != 0 {
		t.Errorf("%d rows", n)
	}
}

// The order of a device's counter is that of one sign-in: what somebody else marked on it says nothing of it.
func TestTheOrderIsThatOfOneSignIn(t *testing.T) {
	s := newSite(t)
	p := s.pad(store.Instructor, 0)
	now := time.Now()
	p.seq = 4
	p.sync(p.hover(s.student, now.Add(-10*time.Minute)))
	other := &phone{client: s.as(store.Chief), device: p.device} // whose counter is behind
	other.sync(other.hover(s.other, now.Add(-2*time.Minute)))
	want := []time.Time{now.Add(-10 * time.Minute), now.Add(-2 * time.Minute)}
	for i, at := range s.times("a.at") {
		if at.Sub(want[i]).Abs() > time.Second {
			t.Errorf("attempt %d is dated %v, and was marked at %v", i+1, at, want[i])
		}
	}
}

// person is somebody of the school.
func (s *site) person(role string) (p store.Person) {
	s.t.Helper()
	c, err := appStore.ByEmail(bg, s.emails[role])
	if err == nil {
		p, err = appStore.ByAccount(bg, c.AccountID)
	}
	if err != nil {
		s.t.Fatal(err)
	}
	return p
}

// both does two things at the same moment.
func both(a, b func()) {
	var ready, done sync.WaitGroup
	ready.Add(2)
	for _, f := range []func(){a, b} {
		done.Go(func() { ready.Done(); ready.Wait(); f() })
	}
	done.Wait()
}

// Two people who finish overlapping attempts at the same moment are told, whoever comes first.
func TestTwoWhoFinishAtOnce(t *testing.T) {
	s := newSite(t)
	a, b := s.pad(store.Instructor, 0), s.pad(store.Chief, 0)
	const pairs = 30
	for i := range pairs {
		at := time.Now().Add(time.Duration(i-2*pairs) * time.Hour)
		x, y := a.hover(s.student, at), b.hover(s.student, at.Add(4*time.Second))
		both(func() { a.sync(x) }, func() { b.sync(y) })
	}
	var count int
	err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
		return tx.QueryRow(bg, `SELECT count(*) FROM attempts WHERE counts`).Scan(&count)
	})
	if n := s.count("conflicts"); err != nil || n != pairs || count != pairs {
		t.Errorf("of %d pairs %d are shown as conflicts, and %d attempts count; %v", pairs, n, count, err)
	}
}

// A log of a flight that was marked by eye is the same flight.
func TestALogOfAMarkedFlight(t *testing.T) {
	s := newSite(t)
	p := s.pad(store.Instructor, 0)
	at := time.Now().Add(-time.Hour).Truncate(time.Second)
	p.sync(p.hover(s.student, at))
	staff := s.person(store.Instructor)
	keep := func(begin time.Time) bool {
		end := 40.0
		first := 0.0
		l := attempt.Log{ID: store.NewID(), Student: s.student, At: begin, Drill: shipped().Drills["hover-tail-in"],
			Cell: drill.Cell{Drill: "hover-tail-in", Side: "none", Aids: "position-hold", Level: 1}, Follow: true,
			Craft: shipped().Craft["poiana"], Result: &score.Result{Verdict: score.Pass, Source: score.FromLog,
				Steps: []score.StepResult{{StartS: &first, EndS: &end}}}}
		var k attempt.Kept
		err := appStore.InSchool(bg, s.school, func(tx store.Tx) (err error) {
			k, err = attempt.Recorder{Cat: shipped(), Now: time.Now, By: &staff}.KeepLog(bg, tx, l)
			return err
		})
		if err != nil {
			t.Fatal(err)
		}
		return k.Attempt.Counts
	}
	if keep(at.Add(10 * time.Second)) {
		t.Error("the flight counts twice")
	}
	if n := s.count("conflicts"); n != 1 {
		t.Errorf("%d conflicts", n)
	}
	if !keep(at.Add(10 * time.Minute)) {
		t.Error("another flight does not count")
	}
}

// A mark that races the end of its attempt is judged with it, or refused: what was said to be kept is in the record.
func TestAMarkThatRacesTheEnd(t *testing.T) {
	s := newSite(t)
	a, b := s.as(store.Instructor), s.as(store.Spotter)
	path := "/students/" + s.student.String() + "/marks"
	for i := range 40 {
		whole := hoverMarks(store.NewID().String())
		whole["opening"].(map[string]any)["device_at"] = time.Now().Add(time.Duration(i-100) * time.Hour)
		list := whole["marks"].([]any)
		a.json(path, map[string]any{"opening": whole["opening"], "marks": list[:3], "now_s": 20})
		out := map[string]any{"id": store.NewID().String(), "t_s": 12, "mark": "out", "toward": "left"}
		var raced reply
		both(func() { a.json(path, map[string]any{"opening": whole["opening"], "marks": list[3:], "now_s": 40}) },
			func() {
				raced = b.json(path, map[string]any{"opening": whole["opening"], "marks": []any{out}, "now_s": 40})
			})
		var said struct {
			Late []string `json:"late"`
		}
		if err := json.Unmarshal([]byte(raced.body), &said); err != nil || raced.status != http.StatusOK {
			t.Fatal(raced.status, raced.body)
		}
		id := whole["opening"].(map[string]any)["id"].(string)
		err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
			marks, err := tx.Marks(bg, uuid.MustParse(id))
			if err != nil {
				return err
			}
			data, _ := json.Marshal(marks)
			var body string
			if err := tx.QueryRow(bg, `SELECT body::text FROM chain WHERE entry_id = $1`, id).Scan(&body); err != nil {
				return err
			}
			var e record.AttemptBody
			if err := json.Unmarshal([]byte(body), &e); err != nil {
				return err
			}
			if sum := sha256.Sum256(data); hex.EncodeToString(sum[:]) != e.MarksSHA256 {
				t.Errorf("attempt %d: the chain has other marks than were kept", i)
			}
			if kept := len(marks) == len(list)+1; kept == (len(said.Late) == 1) {
				t.Errorf("attempt %d: %d marks are kept; the spotter was told that %d came late", i, len(marks), len(said.Late))
			}
			return nil
		})
		if err != nil {
			t.Fatal(err)
		}
	}
}

// Two who sign the same gate at once sign it once.
func TestTwoWhoSignAtOnce(t *testing.T) {
	for range 5 {
		s := newSite(t)
		a, b := s.as(store.Chief), s.as(store.Instructor)
		s.maySign(time.Now().Add(time.Hour))
		for _, act := range []string{"briefing", "cautions", "preflight-unprompted"} {
			a.form("/students/"+s.student.String()+"/witnessed", url.Values{"act": {act}})
		}
		form := url.Values{"gate": {"supervised"}}
		path := "/students/" + s.student.String() + "/sign-offs"
		sign := func(c *client) func() { return func() { c.form(path, form) } }
		both(sign(a), sign(b))
		if n := s.count("signoffs"); n != 1 {
			t.Fatalf("%d sign-offs of one gate", n)
		}
	}
}

// Verifying a record compares the marks with the sums that the chain has of them: a mark that was put in, left out or
// changed is found, and so are marks of which the chain knows nothing.
func TestVerifyComparesTheMarks(t *testing.T) {
	s := newSite(t)
	p := s.pad(store.Instructor, 0)
	p.sync(p.hover(s.student, time.Now().Add(-time.Hour)))
	record := func() *record.Exported {
		var e *record.Exported
		err := appStore.InSchool(bg, s.school, func(tx store.Tx) (err error) {
			e, err = tx.Record(bg, s.student)
			return err
		})
		if err != nil {
			t.Fatal(err)
		}
		return e
	}
	e := record()
	if why, _ := e.Broken(); why != "" || len(e.Marks) != 1 {
		t.Fatalf("%d attempts with marks: %s", len(e.Marks), why)
	}
	for what, change := range map[string]func(string) string{
		"a mark was changed": func(m string) string { return strings.Replace(m, `"t_s":5`, `"t_s":6`, 1) },
		"a mark was put in":  func(m string) string { return strings.Replace(m, `[`, `[{"t_s":0,"mark":"in"},`, 1) },
		"a mark is missing":  func(m string) string { return "[" + m[strings.Index(m, "},")+2:] },
	} {
		e := record()
		for id, m := range e.Marks {
			e.Marks[id] = json.RawMessage(change(string(m)))
		}
		if why, row := e.Broken(); !strings.Contains(why, "not those that it was judged by") || row != 1 {
			t.Errorf("%s: row %d, %q", what, row, why)
		}
	}
	e = record()
	e.Marks = map[string]json.RawMessage{}
	if why, _ := e.Broken(); !strings.Contains(why, "missing") {
		t.Errorf("no marks: %q", why)
	}
}
