package web

import (
	"cmp"
	"encoding/json"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"testing"
	"time"

	"maestrale/core/marking"
	"maestrale/internal/store"
)

// padPage is what the pad shows of an item, as its judge says it.
func (c *client) padPage(query string) string {
	c.s.t.Helper()
	q, err := url.ParseQuery(query)
	if err != nil {
		c.s.t.Fatal(err)
	}
	level, _ := strconv.Atoi(q.Get("level"))
	want, _ := json.Marshal(map[string]any{"student": cmp.Or(q.Get("student"), c.s.student.String()),
		"drill": q.Get("drill"),
		"side":  q.Get("side"), "aids": q.Get("aids"), "level": max(1, level)})
	c.json("/pad/judge", map[string]any{"what": "open"})
	r := c.json("/pad/judge", map[string]any{"what": "page", "args": []any{string(want), time.Now().UnixMilli()}})
	if r.status != http.StatusOK {
		c.s.t.Fatalf("%d %s", r.status, r.body)
	}
	return r.body
}

func TestAMarkTwiceIsStoredOnceAndAnsweredTheSame(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Instructor)
	path := "/students/" + s.student.String() + "/marks"
	body := hoverMarks(store.NewID().String())
	first := c.json(path, body)
	for range 3 {
		again := c.json(path, body)
		if again.status != 200 || again.body != first.body {
			t.Fatalf("the answers differ:\n%s\n%s", first.body, again.body)
		}
	}
	if a, m, o := s.count("attempts"), s.count("marks"), s.count("openings"); a != 1 || m != 4 || o != 1 {
		t.Errorf("%d attempts, %d marks, %d openings", a, m, o)
	}
	var st marking.State
	if err := json.Unmarshal([]byte(first.body), &st); err != nil || st.Verdict == nil || st.Verdict.Verdict != "pass" {
		t.Fatalf("%s %v", first.body, err)
	}
	if !strings.Contains(st.Verdict.Standing, "untried → building") || !strings.Contains(st.Verdict.Standing,
		"still to fly: two more passes") {
		t.Errorf("standing %q", st.Verdict.Standing)
	}
	// After the end nothing is added.
	body["marks"] = []any{map[string]any{"id": store.NewID().String(), "t_s": 31, "mark": "out"}}
	if r := c.json(path, body); r.status != 200 || s.count("marks") != 4 {
		t.Errorf("a mark after the end: %d, %d marks", r.status, s.count("marks"))
	}
}

func TestMarksOneByOneAndASpotter(t *testing.T) {
	s := newSite(t)
	c, spotter := s.as(store.Instructor), s.as(store.Spotter)
	path := "/students/" + s.student.String() + "/marks"
	whole := hoverMarks(store.NewID().String())
	list := whole["marks"].([]any)
	send := func(c *client, now float64, marks ...any) (marking.State, reply) {
		r := c.json(path, map[string]any{"opening": whole["opening"], "marks": marks, "now_s": now})
		var st marking.State
		_ = json.Unmarshal([]byte(r.body), &st)
		return st, r
	}
	if _, r := send(spotter, 0, list[0]); r.status != http.StatusUnprocessableEntity {
		t.Errorf("a spotter starts an attempt: %d", r.status)
	}
	out := map[string]any{"id": store.NewID().String(), "t_s": 12, "mark": "out", "toward": "left"}
	if _, r := send(spotter, 12, out); r.status != http.StatusNotFound {
		t.Errorf("a spotter marks an attempt that nobody opened: %d", r.status)
	}
	if st, _ := send(c, 0, list[0]); st.Step != 0 || st.Ended {
		t.Errorf("after the start: %+v", st)
	}
	if st, _ := send(c, 5, list[1]); st.Step != 1 || !st.Inside || st.Since != 6 {
		t.Errorf("in position: %+v", st)
	}
	if st, r := send(spotter, 12, out); r.status != 200 || st.Inside || len(st.Faults) != 1 {
		t.Errorf("a spotter marks out: %d %+v", r.status, st)
	}
	if st, _ := send(c, 40, map[string]any{"id": store.NewID().String(), "t_s": 14, "mark": "in"}); st.Step != 2 {
		t.Errorf("twenty seconds later: %+v", st)
	}
	if n := s.count("attempts"); n != 0 {
		t.Errorf("%d attempts before the end", n)
	}
	st, _ := send(c, 44, map[string]any{"id": store.NewID().String(), "t_s": 42, "mark": "touch"},
		map[string]any{"id": store.NewID().String(), "t_s": 44, "mark": "done"})
	if !st.Ended || st.Verdict == nil || st.Verdict.Verdict != "fail" || s.count("attempts") != 1 {
		t.Errorf("at the end: %+v", st)
	}
}

func TestBadMarks(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Instructor)
	path := "/students/" + s.student.String() + "/marks"
	change := func(f func(m map[string]any)) any {
		m := hoverMarks(store.NewID().String())
		f(m)
		return m
	}
	first := func(m map[string]any) map[string]any { return m["marks"].([]any)[0].(map[string]any) }
	opening := func(m map[string]any) map[string]any { return m["opening"].(map[string]any) }
	for name, tc := range map[string]struct {
		body   any
		status int
		says   string
	}{
		"not JSON":          {"marks", 400, "could not be read"},
		"no id":             {change(func(m map[string]any) { delete(opening(m), "id") }), 422, "no id"},
		"unknown mark":      {change(func(m map[string]any) { first(m)["mark"] = "hooray" }), 422, "expected start"},
		"mark without id":   {change(func(m map[string]any) { delete(first(m), "id") }), 422, "no id"},
		"time below zero":   {change(func(m map[string]any) { first(m)["t_s"] = -1 }), 422, "t_s"},
		"unknown drill":     {change(func(m map[string]any) { opening(m)["drill"] = "loop" }), 422, "not known"},
		"wrong side":        {change(func(m map[string]any) { opening(m)["side"] = "left" }), 422, "no sides"},
		"level too high":    {change(func(m map[string]any) { opening(m)["level"] = 9 }), 422, "level"},
		"craft without aid": {change(func(m map[string]any) { opening(m)["aids"] = "rate" }), 422, "craft"},
		"void for nothing":  {change(func(m map[string]any) { first(m)["mark"] = "void" }), 422, "reason"},
	} {
		r := c.json(path, tc.body)
		if r.status != tc.status || !strings.Contains(r.body, tc.says) || !strings.Contains(r.body, "Nothing was changed") {
			t.Errorf("%s: %d %s", name, r.status, r.body)
		}
	}
	if n := s.count("attempts") + s.count("marks") + s.count("openings"); n != 0 {
		t.Errorf("%d rows were left behind", n)
	}
}
