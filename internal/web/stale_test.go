package web

import (
	"context"
	"math/rand/v2"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"

	"maestrale/core/plan"
	"maestrale/internal/catalogue"
	"maestrale/internal/store"
)

// anew runs do while no view of any record is kept in the database, and lays those that were kept back.
func anew(t *testing.T, s *site, do func()) {
	t.Helper()
	ctx := context.Background()
	conn, err := pgx.Connect(ctx, ownerURL)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = conn.Close(ctx) }()
	exec := func(sql string, args ...any) {
		if _, err := conn.Exec(ctx, sql, args...); err != nil {
			t.Fatal(err)
		}
	}
	exec("SET search_path = " + store.Schema)
	exec("CREATE TEMP TABLE kept AS SELECT * FROM student_views WHERE school_id = '" + s.school.String() + "'")
	exec("DELETE FROM student_views WHERE school_id = $1", s.school)
	do()
	exec("DELETE FROM student_views WHERE school_id = $1", s.school)
	exec("INSERT INTO student_views SELECT * FROM kept")
}

// ids are made anew for each form.
var ids = regexp.MustCompile(`name="id"\s+value="[0-9a-f-]{36}"`)

// Nothing is answered from a stale view: whatever happened in whatever order, a server that has answered before says
// the same as one that has just begun and finds no view of any record.
func TestNothingIsAnsweredFromAStaleView(t *testing.T) {
	steps := 60
	if testing.Short() {
		steps = 20
	}
	now := time.Now()
	clock := func(o *Options) { o.Now = func() time.Time { return now } }
	s := siteWith(t, clock)
	chief, r := s.as(store.Chief), rand.New(rand.NewPCG(22, 4))
	var page func(app *Server, path string) string
	page = func(app *Server, path string) string {
		req := httptest.NewRequest("GET", s.url+path, nil)
		for _, k := range chief.Jar.Cookies(req.URL) {
			req.AddCookie(k)
		}
		w := httptest.NewRecorder()
		app.ServeHTTP(w, req)
		if w.Code == 303 { // the sign-in has ended meanwhile
			chief = s.as(store.Chief)
			return page(app, path)
		}
		if w.Code != 200 {
			t.Fatalf("%s: %d", path, w.Code)
		}
		return ids.ReplaceAllString(w.Body.String(), "")
	}
	ok := func(got reply) {
		t.Helper()
		if got.status >= 400 {
			t.Fatalf("%d %s", got.status, text(got.body))
		}
	}
	students := []string{"/students/" + s.student.String(), "/students/" + s.other.String()}
	drillText := string(shipped().Programmes["position-hold-first"].Source)
	done := []struct {
		what string
		do   func()
	}{
		{"attempts", func() {
			s.keep(s.student, []string{"P", "F", "PP", "PFP", "P P", "FFF"}[r.IntN(6)])
		}},
		{"attempts of the other", func() { s.keep(s.other, []string{"P", "F", "PP"}[r.IntN(3)]) }},
		{"a void", func() {
			if m := regexp.MustCompile(`/attempts/[0-9a-f-]{36}/void`).FindString(page(s.app, "/today")); m != "" {
				ok(chief.form(m, url.Values{"reason": {"a gust"}}))
			}
		}},
		{"wind", func() { ok(chief.form("/wind", url.Values{"mps": {strconv.Itoa(r.IntN(9))}})) }},
		{"an act", func() { ok(chief.form(students[0]+"/witnessed", url.Values{"act": {"briefing"}})) }},
		{"another programme", func() {
			ok(chief.form(students[r.IntN(2)], url.Values{"programme": {[]string{"hands-first", "position-hold-first",
				"on-then-off"}[r.IntN(3)]}, "craft": {"poiana"}, "name": {[]string{"First Student", "Another Name"}[r.IntN(2)]}}))
		}},
		{"a programme that is written anew", func() {
			source := strings.Replace(drillText, "title: ", "title: "+[]string{"A", "B"}[r.IntN(2)], 1)
			ok(chief.keepText(catalogue.Programme, "position-hold-first", source, ""))
		}},
		{"some minutes", func() { now = now.Add(time.Duration(r.IntN(9)) * time.Minute) }},
		{"some days", func() { now = now.Add(time.Duration(r.IntN(12*24)) * time.Hour) }},
	}
	for i := range steps {
		step := done[r.IntN(len(done))]
		if i < len(done) {
			step = done[i]
		}
		step.do()
		for _, path := range []string{"/students", "/records", "/students?sort=name"} {
			kept := page(s.app, path)
			var fresh string
			anew(t, s, func() {
				app, err := New(Options{Store: appStore, Catalogue: shipped(), Log: s.app.Log, Now: s.app.Now})
				if err != nil {
					t.Fatal(err)
				}
				defer app.Close()
				fresh = page(app, path)
			})
			if kept != fresh {
				t.Fatalf("step %d, %s: %s differs:\n%s", i, step.what, path, firstDifference(kept, fresh))
			}
		}
	}
}

// firstDifference is where two texts differ first.
func firstDifference(a, b string) string {
	i := 0
	for i < len(a) && i < len(b) && a[i] == b[i] {
		i++
	}
	cut := func(s string) string { return s[max(0, i-80):min(len(s), i+120)] }
	return cut(a) + "\n--- and\n" + cut(b)
}

// What comes next is worked out anew as time passes, in steps of five minutes; within one it is answered from what was
// worked out before.
func TestTheListIsWorkedOutAnewInSteps(t *testing.T) {
	now := time.Now().Truncate(plan.Steps).Add(10 * time.Second)
	s := siteWith(t, func(o *Options) { o.Now = func() time.Time { return now } })
	chief := s.as(store.Chief)
	s.keep(s.student, "PPF")
	asked := func() int64 {
		before := queries.n.Load()
		if r := chief.get("/students"); r.status != 200 {
			t.Fatal(r.status)
		}
		return queries.n.Load() - before
	}
	asked()
	held := asked()
	now = now.Add(plan.Steps)
	anew := asked()
	if again := asked(); anew <= held || again >= anew {
		t.Errorf("%d queries within a step, %d in the next one, then %d", held, anew, again)
	}
}
