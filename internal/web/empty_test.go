package web

import (
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"
)

var emptyState = regexp.MustCompile(`(?s)<div class="empty">(.*?)</div>`)

// Every empty screen says what belongs there, and has one button that starts it; where the button leads exists.
func TestEmptyScreensStartSomething(t *testing.T) {
	at, _, code := emptyServer(t)
	c := visitor(t, at)
	if r := c.form("/setup", answers(code)); r.status != http.StatusSeeOther {
		t.Fatal(r.status)
	}
	starts := func(path string) {
		t.Helper()
		r := c.get(path)
		found := emptyState.FindAllStringSubmatch(r.body, -1)
		if r.status != 200 || len(found) == 0 {
			t.Errorf("%s: %d, no empty state", path, r.status)
		}
		for _, f := range found {
			links := regexp.MustCompile(`href="([^"]+)"`).FindAllStringSubmatch(f[1], -1)
			words := strings.Join(strings.Fields(tags.ReplaceAllString(f[1], " ")), " ")
			if len(links) != 1 || len(words) < 60 || !strings.Contains(words, ". ") {
				t.Errorf("%s: %d buttons behind %q", path, len(links), words)
				continue
			}
			page, anchor, inside := strings.Cut(links[0][1], "#")
			if page == "" {
				page = path
			}
			to := c.get(page)
			if to.status != 200 || inside && !strings.Contains(to.body, `id="`+anchor+`"`) {
				t.Errorf("%s: the button leads to %s: %d", path, links[0][1], to.status)
			}
		}
	}
	for _, path := range []string{"/today", "/sites", "/fleet", "/records", "/records/season", "/records/audit",
		"/calendar", "/people",
		"/import"} {
		starts(path)
	}
	if p := c.get("/students").body; !strings.Contains(p, "<details class=\"fold\" open>") {
		t.Error("the form of the first student is not open")
	}
	r := c.form("/students", url.Values{"name": {"Ada Testa"}, "programme": {"hands-first"}, "craft": {"gheppio"}})
	starts(r.header.Get("Location") + "/practice")
	starts("/today") // a student, and no craft
	c.form("/fleet/craft", url.Values{"name": {"Uno"}, "type": {"gheppio"}})
	c.form("/fleet/packs/several", url.Values{"type": {"gheppio"}, "packs": {"P1"}})
	starts("/today") // everything is there, and no day
}
