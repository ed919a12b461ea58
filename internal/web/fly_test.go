package web

import (
	"encoding/json"
	"html"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"github.com/google/uuid"

	"maestrale/core/flight"
	"maestrale/core/flight/trace"
	"maestrale/internal/draw"
	"maestrale/internal/store"
	"maestrale/internal/web/fly"
)

// flown flies a run as the page would: on what the page was given, with the
// sticks of the example.
func (s *site) flown(c *client, query string, act func(*trace.Recorder, int) (throttle, pitch float64)) string {
	s.t.Helper()
	r := c.get("/students/" + s.student.String() + "/fly?" + query)
	m := regexp.MustCompile(`data-config="([^"]*)"`).FindStringSubmatch(r.body)
	if r.status != http.StatusOK || m == nil {
		s.t.Fatalf("%d %s", r.status, text(r.body))
	}
	if csp := r.header.Get("Content-Security-Policy"); !strings.Contains(csp, "script-src 'self' 'wasm-unsafe-eval';") {
		s.t.Errorf("the page may not compile the simulator: %s", csp)
	}
	var given struct {
		Spec    trace.Spec
		Numbers []float64
		Names   []string
	}
	if err := json.Unmarshal([]byte(html.UnescapeString(m[1])), &given); err != nil {
		s.t.Fatal(err)
	}
	cfg, err := trace.Unflatten(given.Numbers, given.Names)
	if err != nil {
		s.t.Fatal(err)
	}
	f, err := flight.New(cfg)
	if err != nil {
		s.t.Fatal(err)
	}
	rec := trace.Record(f)
	for i := range 4200 {
		throttle, pitch := act(rec, i)
		if !rec.Reading(throttle, 0, pitch, 0, 0, int(cfg.Aids), 0) {
			break
		}
	}
	return rec.JSON(given.Spec, false)
}

// hovering takes off, hovers and lands.
func hovering(rec *trace.Recorder, i int) (throttle, pitch float64) {
	switch {
	case i == 0:
		_ = rec.Event("arm", "")
		return -1, 0
	case i < 100:
		return -1, 0
	case i < 200:
		return 0.4, 0
	case i < 230:
		return 0.25, 0
	case i < 3400:
		return 0, 0
	case i < 4000:
		return -0.4, 0
	}
	return -1, 0
}

const hoverQuery = "drill=hover-tail-in&side=none&aids=position-hold&level=1&wind=3@180&gusts=light&seed=4"

func (s *site) send(c *client, id, run string) (fly.RunState, int) {
	s.t.Helper()
	r := c.json("/students/"+s.student.String()+"/runs",
		json.RawMessage(`{"id":"`+id+`","flown_at":"2026-01-01T10:00:00Z","trace":`+run+`}`))
	var out fly.RunState
	if r.status == http.StatusOK || r.status == http.StatusUnprocessableEntity {
		if err := json.Unmarshal([]byte(r.body), &out); err != nil {
			s.t.Fatalf("%v %s", err, r.body)
		}
	}
	return out, r.status
}

// A run is flown again by the server, judged, and kept as an attempt of the
// simulator; sending it again changes nothing.
func TestARunBecomesAnAttempt(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Learner) // the own ones
	run := s.flown(c, hoverQuery, hovering)
	id := store.NewID().String()
	got, status := s.send(c, id, run)
	if status != http.StatusOK || !got.Kept || got.Ended != "landed" || got.Verdict == nil ||
		got.Verdict.Verdict != "pass" || !strings.Contains(got.Verdict.Standing, "building in the simulator") {
		t.Fatalf("%d %+v %+v", status, got, got.Verdict)
	}
	if other, status := s.send(c, id, s.flown(c, strings.Replace(hoverQuery, "seed=4", "seed=6", 1),
		hovering)); status != http.StatusUnprocessableEntity || other.Refused != "another run has this id" {
		t.Errorf("another run under the same id: %d %+v", status, other)
	}
	again, status := s.send(c, id, run)
	if status != http.StatusOK || !again.Kept || s.count("attempts") != 1 || s.count("runs") != 1 {
		t.Errorf("%d %+v: %d attempts, %d runs", status, again, s.count("attempts"), s.count("runs"))
	}
	page := c.get("/attempts/" + id)
	if page.status != http.StatusOK || !strings.Contains(text(page.body), "flown in the simulator") ||
		!strings.Contains(page.body, "/fly?drill=hover-tail-in") {
		t.Errorf("%d %s", page.status, text(page.body))
	}
	if tr := c.get("/attempts/" + id + "/track.csv"); tr.status != http.StatusOK || !strings.HasPrefix(tr.body,
		"t_s,x_m") {
		t.Errorf("%d %.60s", tr.status, tr.body)
	}
	// It never counts toward the field's standing.
	if p := text(c.get("/students/" + s.student.String()).body); !strings.Contains(p, "Tail-in hover") ||
		strings.Contains(p, "1 of 1") {
		t.Error("a run in the simulator counts at the field")
	}
	if n := s.count("aspect_totals"); n != 0 {
		t.Errorf("the ring of the field has %d rows of a run in the simulator", n)
	}
	// A crash fails it, with its cause.
	crashed := s.flown(c, hoverQuery, func(rec *trace.Recorder, i int) (float64, float64) {
		if i == 700 {
			_ = rec.Event("rotor=1:0", "")
		}
		return hovering(rec, i)
	})
	got, status = s.send(c, store.NewID().String(), crashed)
	if status != http.StatusOK || got.Ended != "crashed" || got.Verdict.Verdict != "fail" ||
		!strings.Contains(strings.Join(got.Verdict.Faults, "; "), "crashed at") {
		t.Errorf("%d %+v %+v", status, got, got.Verdict)
	}
	// Automatic take-off is practice where the drill wants it by hand; free flight is kept and not judged.
	auto := s.flown(c, hoverQuery, func(rec *trace.Recorder, i int) (float64, float64) {
		if i == 100 {
			_ = rec.Event("takeoff", "")
		}
		if i < 100 {
			return hovering(rec, i)
		}
		return 0, 0
	})
	if got, _ := s.send(c, store.NewID().String(), auto); got.Verdict == nil || got.Verdict.Counts ||
		!strings.Contains(got.Verdict.WhyNot, "take-off") {
		t.Errorf("%+v", got)
	}
	free := s.flown(c, "drill=free&wind=0@0&gusts=none", hovering)
	if got, status := s.send(c, store.NewID().String(), free); status != http.StatusOK || !got.Kept ||
		got.Verdict != nil || s.count("attempts") != 3 || s.count("runs") != 4 {
		t.Errorf("%d %+v, %d attempts, %d runs", status, got, s.count("attempts"), s.count("runs"))
	}
}

// What cannot have been flown as it is sent is refused, says why, and is kept for
// inspection.
func TestRunsAreRefused(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Instructor)
	run := s.flown(c, hoverQuery, hovering)
	replace := func(from, to string) string {
		out := strings.Replace(run, from, to, 1)
		if out == run {
			t.Fatalf("%s is not in the run", from)
		}
		return out
	}
	noVersion := func(run string) string {
		return regexp.MustCompile(`"drill_sha256":"[0-9a-f]+"`).ReplaceAllString(run, `"drill_sha256":""`)
	}
	n := 0
	for _, k := range []struct{ run, want string }{
		{replace(`"state_sha256":"`+hashOf(run), `"state_sha256":"`+strings.Repeat("0", 64)), "in another state"},
		{noVersion(replace(`"drill":"hover-tail-in","side":"none"`, `"drill":"yaw-quarter","side":"left"`)),
			"in another state"},
		{replace(`"drill":"hover-tail-in","side":"none"`, `"drill":"yaw-quarter","side":"left"`), "not known here"},
		{replace(`"drill":"hover-tail-in"`, `"drill":"moon"`), "moon"},
		{replace(`"craft":"poiana"`, `"craft":"airone"`), "in another state"},
		{replace(`"seed":4`, `"seed":5`), "in another state"},
		{replace(`"wind_mps":3`, `"wind_mps":90`), "expected 0 to 15"},
		{replace(`"readings":`, `"readings":9`), "expected 1 to 90000"},
		{replace(`"rows":[[0,-1000,`, `"rows":[[0,-3000,`), "throttle is -3000"},
		{replace(`"aids":"position-hold"`, `"aids":"rate"`), "expected ones that the Poiana has"},
		{replace(`maestrale-run/1`, `maestrale-run/7`), "expected maestrale-run/1"},
	} {
		got, status := s.send(c, store.NewID().String(), k.run)
		n++
		if status != http.StatusUnprocessableEntity || got.Kept || !strings.Contains(got.Refused, k.want) {
			t.Errorf("%q: %d %+v", k.want, status, got)
		}
	}
	if s.count("attempts") != 0 || s.count("runs") != n {
		t.Errorf("%d attempts and %d runs of %d refused", s.count("attempts"), s.count("runs"), n)
	}
	var refused string
	err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
		list, err := tx.RefusedRuns(bg, s.student, 50)
		if err != nil {
			return err
		}
		if len(list) != n {
			t.Errorf("%d refused of %d", len(list), n)
		}
		refused = list[0].ID.String()
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	// Those who teach find it on the page, and the whole of it in a file.
	page := c.get("/students/" + s.student.String() + "/fly")
	if !strings.Contains(page.body, "/runs/"+refused) || !strings.Contains(text(page.body), "in another state") {
		t.Error("what was refused is not on the page")
	}
	if own := s.as(store.Learner).get("/students/" + s.student.String() + "/fly"); strings.Contains(own.body,
		"/runs/"+refused) {
		t.Error("a student is shown what was refused")
	}
	file := c.get("/students/" + s.student.String() + "/runs/" + refused)
	if file.status != http.StatusOK || !strings.Contains(file.body, `"maestrale-sent-run/1"`) ||
		!strings.Contains(file.body, `"rows"`) {
		t.Errorf("%d %.200s", file.status, file.body)
	}
	for at, want := range map[string]int{"/students/" + s.other.String() + "/runs/" + refused: http.StatusNotFound,
		"/students/" + s.student.String() + "/runs/" + store.NewID().String(): http.StatusNotFound} {
		if r := c.get(at); r.status != want {
			t.Errorf("%s: %d", at, r.status)
		}
	}
	// Nobody flies for another student, and what is no run is no run.
	other := s.as(store.Learner)
	body := `{"id":"` + store.NewID().String() + `","trace":` + run + `}`
	if r := other.json("/students/"+s.other.String()+"/runs", json.RawMessage(body)); r.status != http.StatusNotFound {
		t.Errorf("for another student: %d", r.status)
	}
	if r := other.get("/students/" + s.other.String() + "/fly"); r.status != http.StatusNotFound {
		t.Errorf("another student's page: %d", r.status)
	}
	for _, body := range []string{`{"trace":{}}`, `{"id":"` + uuid.Nil.String() + `"}`} {
		if r := c.json("/students/"+s.student.String()+"/runs", json.RawMessage(body)); r.status != http.StatusBadRequest {
			t.Errorf("%s: %d", body, r.status)
		}
	}
	for query, want := range map[string]int{"drill=moon": http.StatusNotFound, "wind=many": http.StatusUnprocessableEntity,
		"gusts=wild": http.StatusUnprocessableEntity, "drill=yaw-quarter": http.StatusOK} {
		if r := c.get("/students/" + s.student.String() + "/fly?" + query); r.status != want {
			t.Errorf("%s: %d; expected %d", query, r.status, want)
		}
	}
}

func hashOf(run string) string {
	_, rest, _ := strings.Cut(run, `"state_sha256":"`)
	return rest[:64]
}

// A debrief of a run can be played, with its sticks, and another drawn over it.
func TestADebriefPlays(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Learner)
	one, two := store.NewID().String(), store.NewID().String()
	s.send(c, one, s.flown(c, hoverQuery, hovering))
	s.send(c, two, s.flown(c, strings.Replace(hoverQuery, "seed=4", "seed=9", 1), hovering))
	r := c.get("/attempts/" + two)
	m := regexp.MustCompile(`data-replay="([^"]*)"`).FindStringSubmatch(r.body)
	if m == nil || !strings.Contains(r.body, "the best: ") {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	var play draw.Replay
	if err := json.Unmarshal([]byte(html.UnescapeString(m[1])), &play); err != nil {
		t.Fatal(err)
	}
	if n := len(play.T); n < 500 || n > 3000 || len(play.PX) != n || len(play.Aspect) != n || len(play.Sticks) != n ||
		play.Per <= 0 {
		t.Errorf("%d moments, %d places, %d sticks", n, len(play.PX), len(play.Sticks))
	}
	if strings.Contains(r.body, "flown other") {
		t.Error("another is drawn that nobody asked for")
	}
	if r := c.get("/attempts/" + two + "?with=" + one); !strings.Contains(r.body, `class="flown other"`) ||
		!strings.Contains(r.body, "/attempts/"+one) {
		t.Errorf("%d %s", r.status, text(r.body))
	}
	// An instructor pins a note; the student reads it and writes none.
	teacher := s.as(store.Instructor)
	if r := teacher.form("/attempts/"+two+"/notes", url.Values{"body": {" Let go of the yaw first. "},
		"t_s": {"12.25"}}); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	for _, bad := range []url.Values{{"body": {" "}}, {"body": {strings.Repeat("x", 1001)}},
		{"body": {"x"}, "t_s": {"soon"}}} {
		if r := teacher.form("/attempts/"+two+"/notes", bad); r.status != http.StatusUnprocessableEntity {
			t.Errorf("%v: %d", bad, r.status)
		}
	}
	if n := s.count("attempt_notes"); n != 1 {
		t.Errorf("%d notes", n)
	}
	if p := c.get("/attempts/" + two).body; !strings.Contains(p, `data-t="12.25"`) || !strings.Contains(p,
		"Let go of the yaw first. <span") || strings.Contains(p, "Pin the note") {
		t.Error("the student does not read the note, or may write one")
	}
	if r := c.get("/attempts/" + two + "?with=" + two); r.status != http.StatusOK || strings.Contains(r.body,
		"flown other") {
		t.Errorf("over itself: %d", r.status)
	}
}
