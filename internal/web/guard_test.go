package web

import (
	"net/http"
	"net/url"
	"slices"
	"strings"
	"testing"

	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

func TestSignInIsThrottled(t *testing.T) {
	s := newSite(t)
	c := s.as("")
	for i := range frame.TriesPair {
		if r := c.form("/sign-in", url.Values{"email": {s.emails[store.Chief]},
			"password": {"wrong"}}); r.status != http.StatusUnauthorized {
			t.Fatalf("try %d: %d", i, r.status)
		}
	}
	r := c.form("/sign-in", url.Values{"email": {s.emails[store.Chief]}, "password": {"secret"}})
	if r.status != http.StatusTooManyRequests || r.header.Get("Retry-After") == "" {
		t.Errorf("after %d wrong passwords the right one gets %d", frame.TriesPair, r.status)
	}
	if r := c.form("/sign-in", url.Values{"email": {s.emails[store.Instructor]},
		"password": {"secret"}}); r.status != http.StatusSeeOther {
		t.Errorf("somebody else from the same place: %d", r.status)
	}
}

func TestWrongSignInsLookAlike(t *testing.T) {
	s := newSite(t)
	a := s.as("").form("/sign-in", url.Values{"email": {"nobody-" + s.school.String() + "@x.example"},
		"password": {"secret"}})
	b := s.as("").form("/sign-in", url.Values{"email": {s.emails[store.Spotter]}, "password": {"wrong"}})
	if a.status != b.status || !strings.Contains(a.body, "do not match") || !strings.Contains(b.body,
		"do not match") {
		t.Errorf("%d and %d", a.status, b.status)
	}
}

func TestSignOutEndsTheSession(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Chief)
	jar := slices.DeleteFunc(c.Jar.Cookies(mustURL(s.url)), func(k *http.Cookie) bool { return k.Name != "maestrale" })
	if len(jar) != 1 || len(jar[0].Value) < 20 {
		t.Fatalf("cookies %v", jar)
	}
	if r := c.get("/students"); r.status != 200 {
		t.Fatalf("%d", r.status)
	}
	c.form("/sign-out", nil)
	// The old cookie is worth nothing, even when somebody has kept it.
	c.Jar.SetCookies(mustURL(s.url), jar)
	if r := c.get("/students"); r.status != http.StatusSeeOther {
		t.Errorf("after signing out: %d", r.status)
	}
}

func mustURL(s string) *url.URL {
	u, err := url.Parse(s)
	if err != nil {
		panic(err)
	}
	return u
}

func TestOtherSitesAreRefused(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Chief)
	for name, h := range map[string][2]string{"by its metadata": {"Sec-Fetch-Site", "cross-site"},
		"by its origin": {"Origin", "https://elsewhere.example"}} {
		req, _ := http.NewRequest("POST", s.url+"/students", strings.NewReader("name=X&programme=hands-first&craft=gheppio"))
		req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		req.Header.Set(h[0], h[1])
		if r := c.do(req); r.status != http.StatusForbidden || s.count("students") != 2 {
			t.Errorf("%s: %d, %d students", name, r.status, s.count("students"))
		}
	}
}

func TestPagesKeepToWhatShips(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Chief)
	at := "/students/" + s.student.String()
	for _, path := range []string{"/sign-in", "/students", at, at + "/mark", at + "/log", "/programmes",
		"/programmes/drills/hover-tail-in", "/jump?q=a"} {
		r := c.get(path)
		csp := r.header.Get("Content-Security-Policy")
		if !strings.Contains(csp, "script-src 'self';") || strings.Contains(csp, "unsafe") ||
			r.header.Get("X-Request-Id") == "" || r.header.Get("X-Content-Type-Options") != "nosniff" {
			t.Errorf("%s: headers %v", path, r.header)
		}
		for _, bad := range []string{" style=", "<style", " onclick=", "javascript:", "https://"} {
			if strings.Contains(r.body, bad) {
				t.Errorf("%s holds %q", path, bad)
			}
		}
	}
}

// A first visit to any page, with everything it names, and every face of letters that it may draw, stays under
// 100 kB.
func TestFirstVisitIsLight(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Chief)
	fetch := func(path string) int {
		req, _ := http.NewRequest("GET", s.url+path, nil)
		req.Header.Set("Accept-Encoding", "gzip, br") // set by hand, so that the body stays as it travels
		r := c.do(req)
		if r.status != 200 {
			t.Fatalf("%s: %d", path, r.status)
		}
		return len(r.body)
	}
	for _, path := range []string{"/students", "/students/" + s.student.String(), "/programmes"} {
		body := c.get(path).body
		total := fetch(path) + fetch("/static/archivo-3-narrow.woff2")
		for _, part := range strings.Split(body, "\"") {
			if strings.HasPrefix(part, "/static/") {
				total += fetch(part)
			}
		}
		t.Logf("%s: %d bytes", path, total)
		if total > 100_000 {
			t.Errorf("%s: %d bytes over the wire", path, total)
		}
	}
}

func TestHealth(t *testing.T) {
	s := newSite(t)
	c := s.as("")
	if r := c.get("/healthz"); r.status != 200 || r.body != "ok\n" {
		t.Errorf("healthz %d %q", r.status, r.body)
	}
	if r := c.get("/readyz"); r.status != 200 || r.body != "ready\n" {
		t.Errorf("readyz %d %q", r.status, r.body)
	}
}

func TestNothingHereIsSaidPlainly(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Chief)
	for _, path := range []string{"/nowhere", "/students/1", "/attempts/x", "/programmes/drills/loop"} {
		if r := c.get(path); r.status != 404 || !strings.Contains(r.body, "There is nothing here") {
			t.Errorf("%s: %d", path, r.status)
		}
	}
	if r := c.request("DELETE", "/students", "", nil); r.status != 405 {
		t.Errorf("DELETE: %d", r.status)
	}
}
