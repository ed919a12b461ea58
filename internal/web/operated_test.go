package web

import (
	"bytes"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"maestrale/core/drill"
	"maestrale/internal/catalogue"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// Links are made under the server's own address, whatever a request says it has asked for.
func TestLinksDoNotFollowTheHostHeader(t *testing.T) {
	for public, want := range map[string]string{"https://school.example/": "https://school.example/",
		"": "http://127.0.0.1"} {
		s := siteWith(t, func(o *Options) { o.Public = public })
		chief := s.as(store.Chief)
		for path, form := range map[string]url.Values{
			"/people/links": {"role": {"instructor"}, "name": {"Somebody"}},
			"/calendar":     {},
		} {
			req, _ := http.NewRequest(http.MethodPost, s.url+path, strings.NewReader(form.Encode()))
			req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
			for _, k := range chief.Jar.Cookies(req.URL) {
				req.AddCookie(k) // the jar would look under the host that is claimed
			}
			req.Host = "evil.example"
			req.Header.Set("X-Forwarded-Host", "evil.example")
			req.Header.Set("X-Forwarded-Proto", "https")
			r := chief.do(req)
			if r.status != http.StatusOK || strings.Contains(r.body, "evil.example") || !strings.Contains(r.body, want) {
				t.Errorf("with the address %q, %s: %d", public, path, r.status)
			}
		}
	}
}

// A sign-in that nobody uses ends after the time that the school has set, and the answers that go on end with it.
func TestAnIdleSignInEnds(t *testing.T) {
	var ahead atomic.Int64
	s := siteWith(t, func(o *Options) {
		o.Now = func() time.Time { return time.Now().Add(time.Duration(ahead.Load())) }
		o.Recheck = 20 * time.Millisecond
	})
	chief, teacher := s.as(store.Chief), s.as(store.Instructor)
	form := url.Values{"name": {"Test school"}, "zone": {"Europe/Rome"}, "length": {"m"}, "speed": {"m/s"},
		"idle": {"30 min"}}
	if r := chief.form("/school", form); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	form.Set("idle", "2 min")
	if r := chief.form("/school", form); r.status != http.StatusUnprocessableEntity {
		t.Errorf("two minutes were taken: %d", r.status)
	}
	ahead.Store(int64(29 * time.Minute))
	if r := teacher.get("/students"); r.status != http.StatusOK {
		t.Errorf("after 29 minutes: %d", r.status)
	}
	req, _ := http.NewRequest(http.MethodGet, s.url+"/today/live", nil)
	live, err := teacher.Do(req)
	if err != nil || live.StatusCode != http.StatusOK {
		t.Fatal(err, live)
	}
	defer func() { _ = live.Body.Close() }()
	ahead.Store(int64(29*time.Minute + 36*time.Minute))
	ended := make(chan struct{})
	go func() {
		_, _ = io.Copy(io.Discard, live.Body)
		close(ended)
	}()
	select {
	case <-ended:
	case <-time.After(20 * time.Second):
		t.Error("an answer that goes on did not end with the sign-in")
	}
	if r := teacher.get("/students"); r.status != http.StatusSeeOther {
		t.Errorf("after 36 idle minutes: %d", r.status)
	}
	ahead.Store(0)
	if r := teacher.get("/students"); r.status != http.StatusSeeOther {
		t.Errorf("it came back: %d", r.status)
	}
}

// One account holds only so many answers open that go on.
func TestTooManyLiveAnswers(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Instructor)
	open := 0
	for range frame.MostLive + 1 {
		req, _ := http.NewRequest(http.MethodGet, s.url+"/today/live", nil)
		r, err := c.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		defer func() { _ = r.Body.Close() }()
		switch r.StatusCode {
		case http.StatusOK:
			open++
		case http.StatusTooManyRequests:
		default:
			t.Errorf("%d", r.StatusCode)
		}
	}
	if open != frame.MostLive {
		t.Errorf("%d are open", open)
	}
}

// The log names routes and no addresses: neither secrets nor names stand in it.
func TestTheLogKeepsSecrets(t *testing.T) {
	var log bytes.Buffer
	var mu sync.Mutex
	s := siteWith(t, func(o *Options) {
		o.Log = slog.New(LogHandler{Handler: slog.NewJSONHandler(lockedWriter{&mu, &log}, nil)})
	})
	c := s.as(store.Chief)
	for _, path := range []string{"/join/SECRET-1", "/check/SECRET-2", "/calendar/SECRET-3.ics", "/students/SECRET-4",
		"/nothing/SECRET-5", "/jump?q=SECRET-6", "/students/" + s.student.String()} {
		c.get(path)
	}
	s.as("").form("/sign-in", url.Values{"email": {"SECRET-7@x.example"}, "password": {"SECRET-8"}})
	mu.Lock()
	defer mu.Unlock()
	for _, no := range []string{"SECRET", s.student.String(), "@x.example", "First Student"} {
		if strings.Contains(log.String(), no) {
			t.Errorf("%q stands in the log", no)
		}
	}
	for _, yes := range []string{`"route":"/join/:address"`, `"request":"`, `"status":404`, `"route":"none"`} {
		if !strings.Contains(log.String(), yes) {
			t.Errorf("%s does not stand in the log", yes)
		}
	}
}

type lockedWriter struct {
	mu *sync.Mutex
	to io.Writer
}

func (w lockedWriter) Write(p []byte) (int, error) {
	w.mu.Lock()
	defer w.mu.Unlock()
	return w.to.Write(p)
}

// Monitoring reads what was asked, and no names.
func TestFiguresForMonitoring(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Instructor)
	if r := c.json("/students/"+s.student.String()+"/marks",
		hoverMarks(store.NewID().String())); r.status != http.StatusOK {
		t.Fatalf("%d %s", r.status, r.body)
	}
	c.get("/nothing/here")
	late := hoverMarks(store.NewID().String())
	opening := late["opening"].(map[string]any)
	opening["student"], opening["device_at"] = s.other, time.Now().Add(-2*time.Hour)
	if r := c.json("/pad/sync", map[string]any{"device": store.NewID(), "name": "phone", "device_now": time.Now(),
		"items": []any{map[string]any{"seq": 1, "opening": opening, "marks": late["marks"], "now_s": 30}}}); r.status != 200 {
		t.Fatalf("%d %s", r.status, r.body)
	}
	w := httptest.NewRecorder()
	s.app.Metrics().ServeHTTP(w, httptest.NewRequest(http.MethodGet, "/metrics", nil))
	for _, want := range []string{
		`maestrale_requests_total{method="POST",route="/students/:student/marks",status="200"} 1`,
		`maestrale_requests_total{method="GET",route="none",status="404"} 1`, "maestrale_marks_total 1",
		"maestrale_database_connections_most", "maestrale_hash_queue 0", "maestrale_live_connections 0",
		"maestrale_backup_age_seconds", "maestrale_deliveries_total 1", "go_goroutines",
		`maestrale_delivery_age_seconds_bucket{le="3600"} 0`, `maestrale_delivery_age_seconds_bucket{le="21600"} 1`} {
		if !strings.Contains(w.Body.String(), want) {
			t.Errorf("%s is missing", want)
		}
	}
	if strings.Contains(w.Body.String(), s.student.String()) {
		t.Error("a student stands in the figures")
	}
	if r := c.get("/metrics"); r.status != http.StatusNotFound {
		t.Errorf("the figures are served to everybody: %d", r.status)
	}
}

// Of two who change the same drill the second is told, keeps the own text, and overwrites nothing unseen.
func TestTwoWhoWriteTheSameDrill(t *testing.T) {
	s := newSite(t)
	one, two := s.as(store.Chief), s.as(store.Chief)
	shipped := string(drill.Shipped().Drills["hover-tail-in"].Source)
	send := func(c *client, seen, source string) reply {
		return c.form("/programmes/write", url.Values{"format": {catalogue.Drill}, "key": {"hover-tail-in"}, "seen": {seen},
			"source": {source}, "do": {"keep"}})
	}
	for _, c := range []*client{one, two} {
		if p := c.get("/programmes/write?drill=hover-tail-in"); !strings.Contains(p.body, `name="seen" value="0"`) {
			t.Fatal("the page does not say which version it shows")
		}
	}
	if r := send(one, "0", strings.Replace(shipped, "seconds: 20", "seconds: 31", 1)); r.status != http.StatusSeeOther {
		t.Fatal(r.status)
	}
	r := send(two, "0", strings.Replace(shipped, "seconds: 20", "seconds: 32", 1))
	if r.status != http.StatusConflict || !strings.Contains(r.body, "seconds: 32") || !strings.Contains(r.body,
		"seconds: 31") ||
		!strings.Contains(r.body, `name="seen" value="1"`) {
		t.Errorf("%d %s", r.status, text(r.body))
	}
	if r := send(two, "1", strings.Replace(shipped, "seconds: 20", "seconds: 32", 1)); r.status != http.StatusSeeOther {
		t.Errorf("after having seen it: %d", r.status)
	}
	var kept atomic.Int64
	var all sync.WaitGroup
	for i := range 8 {
		all.Go(func() {
			if send(one, "2", strings.Replace(shipped, "seconds: 20", fmt.Sprintf("seconds: %d", 40+i),
				1)).status == http.StatusSeeOther {
				kept.Add(1)
			}
		})
	}
	all.Wait()
	if kept.Load() != 1 {
		t.Errorf("%d of eight at once were kept", kept.Load())
	}
}
