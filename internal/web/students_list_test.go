package web

import (
	"fmt"
	"html"
	"math/rand/v2"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"maestrale/internal/store"
)

// names are those of the students that a page lists, in its order.
func names(page string) (out []string) {
	row := regexp.MustCompile(`<th scope="row"><a href="/students/[0-9a-f-]+">([^<]+)</a>`)
	for _, m := range row.FindAllStringSubmatch(page, -1) {
		out = append(out, html.UnescapeString(m[1]))
	}
	return out
}

// A school of many has fifty students on a page; who needs attention comes first, and search, need and order stay while
// the pages are turned.
func TestManyStudentsAreFoundAndSorted(t *testing.T) {
	s := newSite(t)
	err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
		for i := range 118 {
			st := store.Student{ID: store.NewID(), Name: fmt.Sprintf("Pupil %03d", i), Programme: "position-hold-first",
				CraftType: []string{"poiana", "gheppio"}[i%2], TrainsFor: "roof survey", StartedOn: time.Now()}
			if err := tx.AddStudent(bg, st); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	s.keepRandom(rand.New(rand.NewPCG(3, 3)), 40)
	teacher := s.as(store.Instructor)
	get := func(v url.Values) string {
		r := teacher.get("/students?" + v.Encode())
		if r.status != 200 {
			t.Fatalf("%v: %d", v, r.status)
		}
		return r.body
	}
	var seen []string
	for page := range 3 {
		list := names(get(url.Values{"sort": {"name"}, "page": {fmt.Sprint(page + 1)}}))
		if want := []int{50, 50, 20}[page]; len(list) != want {
			t.Errorf("page %d has %d students", page+1, len(list))
		}
		seen = append(seen, list...)
	}
	if !slices.IsSorted(seen) || len(slices.Compact(seen)) != 120 {
		t.Errorf("the pages by name hold %d students: %v", len(seen), seen)
	}
	// Only one has flown: nobody else is before who has never flown, and that one is before them.
	if first := names(get(url.Values{})); first[0] != "First Student" {
		t.Errorf("first is %s", first[0])
	}
	for what, k := range map[string]struct {
		v    url.Values
		want int
	}{
		"by name":                  {url.Values{"q": {"pupil 117"}}, 1},
		"by craft and aim":         {url.Values{"q": {"GHEPPIO roof"}}, 50},
		"by what nobody is":        {url.Values{"q": {"nobody"}}, 0},
		"by need":                  {url.Values{"show": {"new"}, "page": {"3"}}, 19},
		"by a need that is none":   {url.Values{"show": {"lost"}}, 0},
		"a page that is not there": {url.Values{"page": {"99"}}, 50},
		"a page that is no number": {url.Values{"page": {"x"}}, 50},
	} {
		if list := names(get(k.v)); len(list) != k.want {
			t.Errorf("%s: %d students, expected %d", what, len(list), k.want)
		}
	}
	before := queries.n.Load()
	get(url.Values{})
	if n := queries.n.Load() - before; n > 14 { // not by how many students there are
		t.Errorf("%d queries for a page of 50 of 120 students", n)
	}
	page := get(url.Values{"q": {"gheppio"}, "sort": {"name"}})
	if !strings.Contains(page, `rel="next" href="/students?page=2&amp;q=gheppio&amp;sort=name"`) ||
		!strings.Contains(text(page), "1 to 50 of 59") {
		t.Errorf("the next page is not that of the search: %s", text(page))
	}
	if page := get(url.Values{"q": {`"><script>`}}); strings.Contains(page, "<script>\"") || strings.Contains(page,
		`"><script>`) {
		t.Error("what was asked for is written as it came")
	}
}
