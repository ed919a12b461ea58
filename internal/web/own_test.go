package web

import (
	"html"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"maestrale/core/drill"
	"maestrale/internal/catalogue"
	"maestrale/internal/store"
)

func (c *client) keepText(format, key, source, do string) reply {
	return c.form("/programmes/write", url.Values{"format": {format}, "key": {key}, "source": {source}, "do": {do}})
}

// A school changes a drill: what is flown from then on is asked by it, what was begun
// before is judged as it was begun, no other school sees it, and it can be withdrawn.
func TestASchoolsOwnDrill(t *testing.T) {
	s, foreign := newSite(t), newSite(t)
	chief, teacher := s.as(store.Chief), s.as(store.Instructor)
	shipped := string(drill.Shipped().Drills["hover-tail-in"].Source)
	page := "/programmes/drills/hover-tail-in"
	if r := teacher.get("/programmes/write?drill=hover-tail-in"); r.status != http.StatusForbidden {
		t.Errorf("an instructor: %d", r.status)
	}
	before := hoverMarks(store.NewID().String()) // begun under what ships
	marks := before["marks"].([]any)
	before["marks"] = marks[:1]
	path := "/students/" + s.student.String() + "/marks"
	if r := teacher.json(path, before); r.status != http.StatusOK {
		t.Fatalf("%d %s", r.status, r.body)
	}

	run := s.flown(teacher, hoverQuery, hovering) // flown before, sent after
	longer := strings.Replace(shipped, "seconds: 20", "seconds: 35", 1)
	if r := chief.keepText(catalogue.Drill, "hover-tail-in", longer, "keep"); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	if p := text(teacher.get(page).body); !strings.Contains(p, "Hold for 35 s") || strings.Contains(p, "Hold for 20 s") {
		t.Error("the drill is not the school's own")
	}
	if p := text(foreign.as(store.Chief).get(page).body); !strings.Contains(p, "Hold for 20 s") {
		t.Error("another school flies by it")
	}
	if pad := teacher.padPage("drill=hover-tail-in&aids=position-hold"); !strings.Contains(pad, "Hold for 35 s") {
		t.Errorf("the pad asks for another: %s", pad)
	}
	before["marks"] = marks[1:] // 25 s inside: enough for the 20 that it was begun with
	if r := teacher.json(path, before); !strings.Contains(r.body, `"verdict":"pass"`) {
		t.Errorf("what was begun before: %s", r.body)
	}
	if r := teacher.json(path, hoverMarks(store.NewID().String())); strings.Contains(r.body, `"verdict":"pass"`) ||
		!strings.Contains(r.body, `"verdict":"`) {
		t.Errorf("what is begun now: %s", r.body)
	}
	if got, status := s.send(teacher, store.NewID().String(), run); status != http.StatusOK || got.Verdict == nil ||
		got.Verdict.Verdict != "pass" {
		t.Errorf("a run that was flown before: %d %+v", status, got)
	}
	if got, _ := s.send(teacher, store.NewID().String(),
		regexp.MustCompile(`"drill_sha256":"[0-9a-f]+"`).ReplaceAllString(run, `"drill_sha256":"00"`)); got.Kept ||
		!strings.Contains(got.Refused, "not known here") {
		t.Errorf("a run under a version that never was: %+v", got)
	}
	if f := teacher.get("/programmes/files/hover-tail-in.yaml"); f.body != longer ||
		!strings.Contains(f.header.Get("Content-Disposition"), "hover-tail-in.yaml") {
		t.Errorf("as a file: %q", f.body)
	}
	w := text(chief.get("/programmes/write?drill=hover-tail-in").body)
	if !strings.Contains(w, "The school's own version, in place of the built-in one") ||
		!strings.Contains(w, "The chief") {
		t.Errorf("%s", w)
	}
	if r := chief.keepText(catalogue.Drill, "hover-tail-in", "", "back"); r.status != http.StatusSeeOther {
		t.Fatalf("taken back: %d %s", r.status, text(r.body))
	}
	if p := text(teacher.get(page).body); !strings.Contains(p, "Hold for 20 s") {
		t.Error("it was not taken back")
	}
	if n := s.count("school_files"); n != 2 {
		t.Errorf("%d versions", n)
	}
}

// A mistake is said at its line, before anything is kept; what does not fit the
// ladders that are there is refused as well.
func TestWritingRefuses(t *testing.T) {
	s := newSite(t)
	chief := s.as(store.Chief)
	cat := drill.Shipped()
	yaw, ladder := string(cat.Drills["yaw-quarter"].Source), string(cat.Programmes["position-hold-first"].Source)
	for _, c := range []struct{ what, format, source, want string }{
		{"an unknown key", catalogue.Drill, strings.Replace(yaw, "minutes:", "minuets:", 1), `unknown key "minuets"`},
		{"a marker that is not there", catalogue.Drill, strings.Replace(yaw, "at: centre", "at: middle", 1),
			`no marker "middle"`},
		{"builds on itself", catalogue.Drill, strings.Replace(string(cat.Drills["hover-tail-in"].Source),
			"[ground-effect-hover]", "[yaw-quarter]", 1), "builds on"},
		{"without the sides that the ladders want", catalogue.Drill, strings.NewReplacer("sided: true",
			"sided: false").Replace(yaw), "does not fit any more"},
		{"no YAML", catalogue.Drill, "a: [", "Line 1"},
		{"too long", catalogue.Drill, strings.Repeat("# long\n", 12000), "kB at most"},
		{"an unknown drill", catalogue.Programme, strings.Replace(ladder, "drill: yaw-quarter", "drill: yaw-eighth", 1),
			"yaw-eighth"},
		{"a rung twice", catalogue.Programme, strings.Replace(ladder, "key: hover,", "key: cushion,", 1), "each key once"},
	} {
		tried := chief.form("/programmes/try", url.Values{"format": {c.format}, "source": {c.source}})
		kept := chief.keepText(c.format, "yaw-quarter", c.source, "keep")
		if tried.status != http.StatusOK || !strings.Contains(html.UnescapeString(tried.body), c.want) {
			t.Errorf("%s, tried: %d %s", c.what, tried.status, tried.body)
		}
		if kept.status != http.StatusUnprocessableEntity || !strings.Contains(text(kept.body), c.want) {
			t.Errorf("%s, kept: %d", c.what, kept.status)
		}
	}
	if n := s.count("school_files"); n != 0 {
		t.Errorf("%d files were kept", n)
	}
	// A new drill under a new key, a ladder that climbs it, and then it cannot go.
	own := strings.NewReplacer("key: yaw-quarter", "key: yaw-ours", "title: Quarter turn and back",
		"title: Our turn").Replace(yaw)
	if r := chief.keepText(catalogue.Drill, "yaw-quarter", own, "keep"); r.status != http.StatusSeeOther ||
		r.header.Get("Location") != "/programmes" && !strings.Contains(r.header.Get("Location"), "yaw-ours") {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	if r := chief.keepText(catalogue.Programme, "position-hold-first", strings.Replace(ladder, "drill: yaw-quarter",
		"drill: yaw-ours", 1), "keep"); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	if p := text(chief.get("/programmes").body); !strings.Contains(p, "Our turn") {
		t.Error("the new drill is not listed")
	}
	if r := chief.keepText(catalogue.Drill, "yaw-ours", "", "back"); r.status != http.StatusUnprocessableEntity ||
		!strings.Contains(text(r.body), "yaw-ours") {
		t.Errorf("taken from under the ladder: %d %s", r.status, text(r.body))
	}
	if r := chief.keepText(catalogue.Drill, "yaw-half", "", "back"); r.status != http.StatusUnprocessableEntity {
		t.Errorf("none of its own: %d", r.status)
	}
}
