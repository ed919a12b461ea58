package web

import (
	"io/fs"
	"net/http"
	"os"
	"regexp"
	"strings"
	"testing"

	"maestrale/internal/guide"
	"maestrale/internal/store"
)

// Every place has a page that says how it works, which the jump finds and the page itself links to; a student is led to
// the pages of places that students have, and a page that is none is told as such.
func TestHowThisWorks(t *testing.T) {
	s := newSite(t)
	teacher, own := s.as(store.Chief), s.as(store.Learner)
	at := map[string]string{"Today": "/today", "Students": "/students", "Fly": "/fly", "Course": "/sites",
		"Fleet":      "/fleet",
		"Programmes": "/programmes", "Records": "/records", "School": "/school", "Pad": ""}
	for _, p := range guide.Pages {
		r := teacher.get("/how/" + p.Key)
		if r.status != http.StatusOK || !strings.Contains(text(r.body), p.Sections[0].Text[0][:40]) {
			t.Errorf("%s: %d", p.Key, r.status)
		}
		ask, link := "/jump?q="+strings.ReplaceAll(p.Title, " ", "+"), `"/how/`+p.Key
		if !strings.Contains(teacher.get(ask).body, link) {
			t.Errorf("%q is not found", p.Title)
		}
		if found := strings.Contains(own.get(ask).body, link); found != p.Students {
			t.Errorf("a student finds %q: %v", p.Title, found)
		}
		if path, listed := at[p.Place]; !listed {
			t.Errorf("%s is no place", p.Place)
		} else if path != "" && !strings.Contains(teacher.get(path).body, `href="/how/`+p.Key+`"`) {
			t.Errorf("%s does not link to %s", path, p.Key)
		}
	}
	if r := teacher.get("/how/moon"); r.status != http.StatusNotFound {
		t.Errorf("a page that is none: %d", r.status)
	}
	words := teacher.get("/how/words").body
	for _, term := range guide.Terms {
		if !strings.Contains(words, `id="`+term.Key+`"`) {
			t.Errorf("%s has no anchor", term.Key)
		}
	}
}

// A word that a template links to is in the list; each main screen links the first of its own words.
func TestWordsAreLinkedWhereTheyAreFirstUsed(t *testing.T) {
	call := regexp.MustCompile(`\{\{term "([^"]+)"`)
	linked := map[string]bool{}
	ui := os.DirFS("../../ui/templates")
	err := fs.WalkDir(ui, ".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		data, err := fs.ReadFile(ui, path)
		for _, m := range call.FindAllStringSubmatch(string(data), -1) {
			if _, known := guide.Word(m[1]); !known {
				t.Errorf("%s: %q is in no list", path, m[1])
			}
			linked[strings.SplitN(path, "/", 2)[0]] = true
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	for _, place := range []string{"today", "students", "fly", "course", "fleet", "programmes", "records", "school"} {
		if !linked[place] {
			t.Errorf("no word is linked on %s", place)
		}
	}
}
