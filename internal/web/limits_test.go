package web

import (
	"bytes"
	"fmt"
	"io"
	"mime/multipart"
	"net"
	"net/http"
	"net/url"
	"os"
	"runtime"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"

	"maestrale/internal/password"
	"maestrale/internal/store"
	"maestrale/internal/storetest"
	"maestrale/internal/web/frame"
)

// Nobody who is not signed in writes anything to the disk, whatever is sent to the forms that are open to everybody.
func TestNobodyWritesToTheDisk(t *testing.T) {
	folder := t.TempDir()
	t.Setenv("TMPDIR", folder)
	s := newSite(t)
	var body bytes.Buffer
	form := multipart.NewWriter(&body)
	_ = form.WriteField("email", "x@x.example")
	part, _ := form.CreateFormFile("password", "large.bin")
	_, _ = part.Write(make([]byte, 8<<20))
	_ = form.Close()
	for _, path := range []string{"/sign-in", "/setup", "/join/whatever", "/sign-in/passkey", "/students", "/import"} {
		for _, sized := range []bool{true, false} {
			var in io.Reader = bytes.NewReader(body.Bytes())
			if !sized {
				in = struct{ io.Reader }{in} // in pieces, of no known length
			}
			req, _ := http.NewRequest(http.MethodPost, s.url+path, in)
			req.Header.Set("Content-Type", form.FormDataContentType())
			r, err := s.as("").Do(req)
			if err == nil { // else the server has hung up, which is as good
				_ = r.Body.Close()
				if r.StatusCode != http.StatusRequestEntityTooLarge && r.StatusCode != http.StatusUnauthorized &&
					r.StatusCode != http.StatusConflict {
					t.Errorf("%s: %d", path, r.StatusCode)
				}
			}
			if left, _ := os.ReadDir(folder); len(left) > 0 {
				t.Fatalf("%s wrote %v", path, left)
			}
		}
	}
}

// A body that stops half-way is given up, and so is one that trickles.
func TestAHalfSentBody(t *testing.T) {
	s := siteWith(t, func(o *Options) { o.Within = 300 * time.Millisecond })
	conn, err := net.Dial("tcp", strings.TrimPrefix(s.url, "http://"))
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = conn.Close() }()
	_, _ = fmt.Fprint(conn, "POST /sign-in HTTP/1.1\r\nHost: x\r\nContent-Type: application/x-www-form-urlencoded\r\n"+
		"Content-Length: 1000\r\n\r\nemail=half")
	_ = conn.SetReadDeadline(time.Now().Add(20 * time.Second))
	if _, err := io.ReadAll(conn); err != nil {
		t.Errorf("the server still waits: %v", err)
	}
}

// Of forty guesses at once no more than five are looked at.
func TestGuessesAtOnce(t *testing.T) {
	s := newSite(t)
	var looked, refused atomic.Int64
	var all sync.WaitGroup
	for range 40 {
		all.Go(func() {
			switch r := s.as("").form("/sign-in", url.Values{"email": {s.emails[store.Chief]},
				"password": {"wrong"}}); r.status {
			case http.StatusUnauthorized:
				looked.Add(1)
			case http.StatusTooManyRequests:
				refused.Add(1)
			default:
				t.Errorf("%d", r.status)
			}
		})
	}
	all.Wait()
	if looked.Load() != frame.TriesPair || refused.Load() != 40-frame.TriesPair {
		t.Errorf("%d were looked at and %d refused", looked.Load(), refused.Load())
	}
}

// Somebody else's guesses do not lock out a browser that has signed in before; its own wrong ones do.
func TestAKnownBrowserIsNotLockedOut(t *testing.T) {
	s := newSite(t)
	known := s.as(store.Chief)
	if r := known.form("/sign-out", nil); r.status != http.StatusSeeOther {
		t.Fatal(r.status)
	}
	right := url.Values{"email": {s.emails[store.Chief]}, "password": {"secret"}}
	wrong := url.Values{"email": {s.emails[store.Chief]}, "password": {"wrong"}}
	for range 8 {
		s.as("").form("/sign-in", wrong)
	}
	if r := s.as("").form("/sign-in", right); r.status != http.StatusTooManyRequests {
		t.Errorf("a browser that nobody knows: %d", r.status)
	}
	if r := known.form("/sign-in", right); r.status != http.StatusSeeOther {
		t.Fatalf("the one that was here before: %d", r.status)
	}
	known.form("/sign-out", nil)
	// Another account's browser is not known to this one.
	other := s.as(store.Instructor)
	other.form("/sign-out", nil)
	if r := other.form("/sign-in", right); r.status != http.StatusTooManyRequests {
		t.Errorf("a colleague's browser: %d", r.status)
	}
	for range frame.TriesPair {
		if r := known.form("/sign-in", wrong); r.status != http.StatusUnauthorized {
			t.Errorf("an own wrong one: %d", r.status)
		}
	}
	if r := known.form("/sign-in", right); r.status != http.StatusTooManyRequests {
		t.Errorf("after five own wrong ones: %d", r.status)
	}
}

// While hundreds guess at once, memory stays small and who comes later signs in.
func TestASignInDuringAFlood(t *testing.T) {
	if testing.Short() {
		t.Skip("takes seconds of both processors")
	}
	s := newSite(t)
	hash, err := password.Hash("secret")
	if err != nil {
		t.Fatal(err)
	}
	if err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
		_, err := tx.Exec(bg, "UPDATE accounts SET password_hash = $1 WHERE email = $2", hash, s.emails[store.Chief])
		return err
	}); err != nil {
		t.Fatal(err)
	}
	runtime.GC()
	var before, now runtime.MemStats
	runtime.ReadMemStats(&before)
	var most atomic.Uint64
	stop := make(chan struct{})
	go func() {
		for {
			select {
			case <-stop:
				return
			case <-time.After(10 * time.Millisecond):
				runtime.ReadMemStats(&now)
				most.Store(max(most.Load(), now.HeapInuse))
			}
		}
	}()
	var all sync.WaitGroup
	var ended atomic.Int64
	for i := range 500 {
		all.Go(func() {
			s.as("").form("/sign-in", url.Values{"email": {fmt.Sprintf("nobody-%d-%s@x.example", i, s.school)},
				"password": {"a guess"}})
			ended.Add(1)
		})
	}
	// They guess "from here" by the hundred: the other tests begin anew.
	defer forgetAttempts(t)
	storetest.Until(t, "all of them stand in the queue", func() bool {
		return int(ended.Load())+password.Waiting() >= 500-2*runtime.NumCPU()
	})
	r := s.as("").form("/sign-in", url.Values{"email": {s.emails[store.Chief]}, "password": {"secret"}})
	all.Wait()
	close(stop)
	if r.status != http.StatusSeeOther {
		t.Errorf("a real sign-in: %d", r.status)
	}
	if grown := int64(most.Load()) - int64(before.HeapInuse); grown > 300<<20 {
		t.Errorf("memory grew by %d MB", grown>>20)
	}
}

// forgetAttempts forgets every attempt to sign in.
func forgetAttempts(t *testing.T) {
	t.Helper()
	if _, err := appStore.Pool().Exec(bg, "DELETE FROM sign_in_failures"); err != nil {
		t.Error(err)
	}
}

// What is no text is refused at every address that takes a form or JSON, and nowhere is it the server's fault.
func TestWhatIsNoText(t *testing.T) {
	s := newSite(t)
	chief := s.as(store.Chief)
	bad := []string{"a\x00b", "a\xffb", "a\u202eb", "a\u2066b"}
	posts := 0
	for _, r := range s.app.Table() {
		if r.Method != http.MethodPost || r.Streams || r.Path == "/sign-out" {
			continue
		}
		posts++
		path := r.Path
		for _, part := range strings.Split(path, "/") {
			if strings.HasPrefix(part, ":") {
				path = strings.Replace(path, part, store.NewID().String(), 1)
			}
		}
		for _, b := range bad {
			for _, form := range []url.Values{{"name": {b}}, {b: {"x"}}} {
				if got := chief.form(path, form); got.status != http.StatusBadRequest && got.status != http.StatusForbidden {
					t.Errorf("%s with %q: %d", path, b, got.status)
				}
			}
		}
		for _, b := range []string{`{"id":"a\u0000b"}`, `{"note":"\u202e"}`, "{\"x\":\"\xff\"}"} {
			req, _ := http.NewRequest(http.MethodPost, s.url+path, strings.NewReader(b))
			req.Header.Set("Content-Type", "application/json")
			if got := chief.do(req); got.status != http.StatusBadRequest && got.status != http.StatusForbidden {
				t.Errorf("%s with %q: %d", path, b, got.status)
			}
		}
	}
	if posts < 60 {
		t.Errorf("only %d addresses were tried", posts)
	}
	// A backslash that stands for itself is text.
	req, _ := http.NewRequest(http.MethodPost, s.url+"/pad/judge", strings.NewReader(`{"id":"a\\u0000b"}`))
	req.Header.Set("Content-Type", "application/json")
	if got := chief.do(req); strings.Contains(got.body, "zero byte") {
		t.Errorf("%d %s", got.status, got.body)
	}
	for _, b := range bad {
		if got := chief.get("/jump?q=" + url.QueryEscape(b)); got.status != http.StatusBadRequest {
			t.Errorf("a question with %q: %d", b, got.status)
		}
	}
}

// HEAD answers as GET does, without what follows the head.
func TestHeadWhereGetIs(t *testing.T) {
	s := newSite(t)
	for _, role := range []string{"", store.Chief} {
		c := s.as(role)
		for _, r := range s.app.Table() {
			if r.Method != http.MethodGet || strings.Contains(r.Path, ":") {
				continue
			}
			head, err := http.NewRequest(http.MethodHead, s.url+r.Path, nil)
			if err != nil {
				t.Fatal(err)
			}
			h := c.do(head)
			if r.Live && role != "" {
				if h.status != http.StatusOK {
					t.Errorf("HEAD %s: %d", r.Path, h.status)
				}
				continue
			}
			if g := c.get(r.Path); g.status != h.status || h.body != "" {
				t.Errorf("%s: GET %d, HEAD %d with %d bytes", r.Path, g.status, h.status, len(h.body))
			}
		}
	}
}

// A database that refuses is never said to be the visitor's missing sign-in.
func TestADatabaseErrorIsNotASignOut(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Instructor)
	// From now on the session is that of a device, of which is asked whether it was cut off.
	if r := c.json("/pad/sync", map[string]any{"device": store.NewID(), "name": "phone", "device_now": time.Now(),
		"items": []any{}}); r.status != http.StatusOK {
		t.Fatalf("%d %s", r.status, r.body)
	}
	conn, err := pgx.Connect(bg, ownerURL)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = conn.Close(bg) }()
	if _, err := conn.Exec(bg, "REVOKE SELECT ON maestrale.device_cuts FROM maestrale_app"); err != nil {
		t.Fatal(err)
	}
	r := c.get("/students")
	j := c.json("/students/"+s.student.String()+"/marks", hoverMarks(store.NewID().String()))
	if _, err := conn.Exec(bg, "GRANT SELECT ON maestrale.device_cuts TO maestrale_app"); err != nil {
		t.Fatal(err)
	}
	if r.status < 500 || j.status < 500 || strings.Contains(r.body+j.body, "not signed in") {
		t.Errorf("%d, %d %s", r.status, j.status, j.body)
	}
	if r := c.get("/students"); r.status != http.StatusOK {
		t.Errorf("and afterwards: %d", r.status)
	}
}
