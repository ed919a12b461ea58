package web

import (
	"bytes"
	"context"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"mime/multipart"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"os"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"golang.org/x/crypto/argon2"

	"maestrale/core/drill"
	"maestrale/internal/store"
	"maestrale/internal/storetest"
	"maestrale/internal/web/frame"
)

var (
	ownerURL string
	queries  = &counter{}
	appStore *store.Store
	bg       = context.Background()
)

// counter counts the statements that are sent, but for those that only begin
// and end a transaction.
type counter struct {
	n    atomic.Int64
	said atomic.Pointer[func(pgx.TraceQueryStartData)] // told of each, where it is set
}

func (c *counter) TraceQueryStart(ctx context.Context, _ *pgx.Conn, d pgx.TraceQueryStartData) context.Context {
	if s := strings.ToLower(d.SQL); !strings.HasPrefix(s, "begin") && !strings.HasPrefix(s, "commit") &&
		!strings.HasPrefix(s, "rollback") {
		c.n.Add(1)
		if said := c.said.Load(); said != nil {
			(*said)(d)
		}
	}
	return ctx
}
func (c *counter) TraceQueryEnd(context.Context, *pgx.Conn, pgx.TraceQueryEndData) {}

func TestMain(m *testing.M) {
	if url := os.Getenv("MAESTRALE_TEST_SERVER"); url != "" {
		serveForTest(url)
		return
	}
	storetest.Main(m, queries, func(url string, s *store.Store) { ownerURL, appStore = url, s })
}

// site is the application over HTTP, with a school of its own.
type site struct {
	t       testing.TB
	url     string
	app     *Server
	school  uuid.UUID
	student uuid.UUID
	other   uuid.UUID // another student of the same school
	emails  map[string]string
	kept    int // attempts that keep has kept
}

// secretHash is of the password "secret", with the least work that a hash can ask for: tests sign in hundreds of times.
var secretHash = func() string {
	salt, b := []byte("a salt of tests!"), base64.RawStdEncoding
	return fmt.Sprintf("$argon2id$v=%d$m=8,t=1,p=1$%s$%s", argon2.Version, b.EncodeToString(salt),
		b.EncodeToString(argon2.IDKey([]byte("secret"), salt, 1, 8, 1, 32)))
}()

func newSite(t testing.TB) *site {
	t.Helper()
	return siteWith(t, func(*Options) {})
}

// shipped is the catalogue of every site; a school's own files are laid over a copy of it.
var shipped = sync.OnceValue(drill.Shipped)

// ladderCells is how many items the ladder of the test school's students has.
func ladderCells() string {
	return fmt.Sprint(len(shipped().Programmes["position-hold-first"].Cells()))
}

// siteWith is a site whose server is told something more.
func siteWith(t testing.TB, change func(*Options)) *site {
	t.Helper()
	o := Options{Store: appStore, Catalogue: shipped(), Log: slog.New(slog.NewTextHandler(os.Stderr,
		&slog.HandlerOptions{Level: slog.LevelError}))}
	change(&o)
	app, err := New(o)
	if err != nil {
		t.Fatal(err)
	}
	srv := httptest.NewServer(app)
	t.Cleanup(func() { srv.Close(); app.Close() })
	s := &site{t: t, url: srv.URL, app: app, school: store.NewID(), student: store.NewID(), other: store.NewID(),
		emails: map[string]string{}}
	if err := store.AddSchool(bg, ownerURL, s.school, "Test school", "Europe/Rome"); err != nil {
		t.Fatal(err)
	}
	err = appStore.InSchool(bg, s.school, func(tx store.Tx) error {
		for i, id := range []uuid.UUID{s.student, s.other} {
			if err := tx.AddStudent(bg, store.Student{ID: id, Name: []string{"First Student", "Second Student"}[i],
				Programme: "position-hold-first", CraftType: "poiana", StartedOn: time.Now()}); err != nil {
				return err
			}
		}
		for _, role := range frame.SignedIn {
			a := store.Account{ID: store.NewID(), Email: role + "-" + s.school.String() + "@x.example", Name: "The " + role,
				Role: role, PasswordHash: secretHash}
			if role == store.Learner {
				a.StudentID = &s.student
			}
			s.emails[role] = a.Email
			if err := tx.AddAccount(bg, a); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	return s
}

// client is somebody's browser; redirects are not followed.
type client struct {
	*http.Client
	s *site
}

func (s *site) as(role string) *client {
	s.t.Helper()
	jar, _ := cookiejar.New(nil)
	c := &client{&http.Client{Jar: jar, CheckRedirect: func(*http.Request,
		[]*http.Request) error {
		return http.ErrUseLastResponse
	}}, s}
	if role != "" {
		r := c.form("/sign-in", url.Values{"email": {s.emails[role]}, "password": {"secret"}})
		if r.status != http.StatusSeeOther {
			s.t.Fatalf("signing in as %s: %d %s", role, r.status, r.body)
		}
	}
	return c
}

type reply struct {
	status int
	body   string
	header http.Header
}

func (c *client) do(req *http.Request) reply {
	c.s.t.Helper()
	resp, err := c.Do(req)
	if err != nil {
		c.s.t.Fatal(err)
	}
	defer func() { _ = resp.Body.Close() }()
	body, _ := io.ReadAll(resp.Body)
	return reply{resp.StatusCode, string(body), resp.Header}
}

func (c *client) request(method, path, kind string, body io.Reader) reply {
	c.s.t.Helper()
	req, err := http.NewRequest(method, c.s.url+path, body)
	if err != nil {
		c.s.t.Fatal(err)
	}
	if kind != "" {
		req.Header.Set("Content-Type", kind)
	}
	return c.do(req)
}

// first is the beginning of an answer that may never end.
func (c *client) first(method, path string) reply {
	c.s.t.Helper()
	if !strings.HasSuffix(path, "/today/live") {
		return c.request(method, path, "application/x-www-form-urlencoded", nil)
	}
	req, err := http.NewRequest(method, c.s.url+path, nil)
	if err != nil {
		c.s.t.Fatal(err)
	}
	resp, err := c.Do(req)
	if err != nil {
		c.s.t.Fatal(err)
	}
	_ = resp.Body.Close()
	return reply{status: resp.StatusCode, header: resp.Header}
}

func (c *client) get(path string) reply { return c.request("GET", path, "", nil) }
func (c *client) form(path string, v url.Values) reply {
	return c.request("POST", path, "application/x-www-form-urlencoded", strings.NewReader(v.Encode()))
}
func (c *client) json(path string, v any) reply {
	data, err := json.Marshal(v)
	if err != nil {
		c.s.t.Fatal(err)
	}
	return c.request("POST", path, "application/json", bytes.NewReader(data))
}

// upload sends a log; more are further fields of the form.
func (c *client) upload(student uuid.UUID, name string, file io.Reader, more map[string]string) reply {
	c.s.t.Helper()
	return c.multipart("/students/"+student.String()+"/log", name, file, more)
}

// multipart sends a file to an address.
func (c *client) multipart(path, name string, file io.Reader, more map[string]string) reply {
	c.s.t.Helper()
	r, w := io.Pipe()
	form := multipart.NewWriter(w)
	go func() {
		for k, v := range more {
			_ = form.WriteField(k, v)
		}
		part, err := form.CreateFormFile("file", name)
		if err == nil {
			_, err = io.Copy(part, file)
		}
		if err == nil {
			err = form.Close()
		}
		_ = w.CloseWithError(err)
	}()
	return c.request("POST", path, form.FormDataContentType(), r)
}

func (s *site) count(table string) int {
	s.t.Helper()
	var n int
	err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
		return tx.QueryRow(bg,
			"SELECT count(*) FROM "+table).Scan(&n)
	})
	if err != nil {
		s.t.Fatal(err)
	}
	return n
}

// hoverMarks marks a tail-in hover to a pass.
func hoverMarks(id string) map[string]any {
	mark := func(t float64, m string, more ...any) map[string]any {
		out := map[string]any{"id": store.NewID().String(), "t_s": t, "mark": m}
		for i := 0; i+1 < len(more); i += 2 {
			out[more[i].(string)] = more[i+1]
		}
		return out
	}
	return map[string]any{
		"opening": map[string]any{"id": id, "drill": "hover-tail-in", "side": "none", "level": 1, "aids": "position-hold",
			"craft": "poiana", "device_at": time.Now()},
		"marks": []any{mark(0, "start"), mark(5, "in"), mark(28, "touch", "away_m", 0.2, "right_m", -0.1),
			mark(30, "done")},
		"now_s": 30,
	}
}

// Every address of the application with every role: who may go there does, who
// may not is told so, and who is not signed in is asked to.
func TestEveryRouteWithEveryRole(t *testing.T) {
	s := newSite(t)
	chief := s.as(store.Chief)
	mine := hoverMarks(store.NewID().String())
	if r := chief.json("/students/"+s.student.String()+"/marks", mine); r.status != 200 {
		t.Fatalf("%d %s", r.status, r.body)
	}
	others := hoverMarks(store.NewID().String())
	if r := chief.json("/students/"+s.other.String()+"/marks", others); r.status != 200 {
		t.Fatalf("%d %s", r.status, r.body)
	}
	id := func(m map[string]any) string { return m["opening"].(map[string]any)["id"].(string) }
	fill := func(path string, student uuid.UUID, attempt string) string {
		return strings.NewReplacer(":student", student.String(), ":attempt", attempt, ":upload", store.NewID().String(),
			":drill", "yaw-quarter").Replace(path)
	}
	browsers := map[string]*client{}
	for _, rt := range s.app.Table() {
		for _, role := range append([]string{""}, frame.SignedIn...) {
			c := browsers[role]
			if c == nil || strings.HasPrefix(rt.Path, "/sign-") {
				c = s.as(role)
			}
			if !strings.HasPrefix(rt.Path, "/sign-") {
				browsers[role] = c
			}
			path := fill(rt.Path, s.student, id(mine))
			if rt.Path == "/students/:student/why" {
				path += "?drill=hover-tail-in&side=none&aids=position-hold&level=1"
			}
			r := c.first(rt.Method, path)
			may := rt.Roles == nil
			for _, allowed := range rt.Roles {
				may = may || allowed == role
			}
			switch {
			case !may && role == "" && rt.Method == "GET":
				if r.status != http.StatusSeeOther || r.header.Get("Location") != "/sign-in" {
					t.Errorf("%s %s, signed out: %d to %s", rt.Method, rt.Path, r.status, r.header.Get("Location"))
				}
			case !may && role == "":
				if r.status != http.StatusUnauthorized {
					t.Errorf("%s %s, signed out: %d", rt.Method, rt.Path, r.status)
				}
			case !may:
				if r.status != http.StatusForbidden {
					t.Errorf("%s %s as %s: %d, want 403", rt.Method, rt.Path, role, r.status)
				}
			case r.status == http.StatusForbidden || r.status == http.StatusUnauthorized && rt.Path != "/sign-in" ||
				r.status >= 500:
				t.Errorf("%s %s as %s: %d %.200s", rt.Method, rt.Path, role, r.status, r.body)
			}
			// A student sees nobody else's record.
			if role == store.Learner && may && (strings.Contains(rt.Path, ":student") || strings.Contains(rt.Path, ":attempt")) {
				if r := c.request(rt.Method, fill(rt.Path, s.other, id(others)), "", nil); r.status != http.StatusNotFound {
					t.Errorf("%s %s of another student, as a student: %d, want 404", rt.Method, rt.Path, r.status)
				}
			}
		}
	}
	if s.app.Served() != len(s.app.Table())+3 { // static files and the two health checks
		t.Errorf("%d routes are served, %d are in the table", s.app.Served(), len(s.app.Table()))
	}
}

func TestAnotherSchoolDoesNotExist(t *testing.T) {
	a, b := newSite(t), newSite(t)
	marks := hoverMarks(store.NewID().String())
	if r := a.as(store.Instructor).json("/students/"+a.student.String()+"/marks", marks); r.status != 200 {
		t.Fatalf("%d %s", r.status, r.body)
	}
	attempt := marks["opening"].(map[string]any)["id"].(string)
	c := b.as(store.Chief)
	for _, path := range []string{"/students/" + a.student.String(), "/attempts/" + attempt, "/attempts/" + attempt +
		"/why", "/students/" + a.student.String() + "/mark", "/students/" + a.student.String() + "/log"} {
		if r := c.get(path); r.status != http.StatusNotFound {
			t.Errorf("%s from another school: %d", path, r.status)
		}
	}
	if r := c.json("/students/"+a.student.String()+"/marks",
		hoverMarks(store.NewID().String())); r.status != http.StatusNotFound {
		t.Errorf("a mark for another school's student: %d %s", r.status, r.body)
	}
	// Nor can the id of its attempt be taken over for an own student.
	if r := c.json("/students/"+b.student.String()+"/marks", marks); r.status != http.StatusNotFound {
		t.Errorf("an id of another school's attempt: %d %s", r.status, r.body)
	}
	if n := b.count("attempts") + b.count("marks") + b.count("openings"); n != 0 {
		t.Errorf("%d rows were left behind", n)
	}
}

func TestMarkupInNamesIsText(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Chief)
	r := c.form("/students", url.Values{"name": {"<img src=x onerror=alert(1)>\n\"&'"}, "programme": {"hands-first"},
		"craft": {"gheppio"}})
	if r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, r.body)
	}
	for _, path := range []string{r.header.Get("Location"), "/students", "/jump?q=img",
		r.header.Get("Location") + "/log"} {
		if p := c.get(path); p.status != 200 || strings.Contains(p.body, "<img") || !strings.Contains(p.body,
			"&lt;img src=x") {
			t.Errorf("%s: %d, the name as text %v", path, p.status, strings.Contains(p.body, "&lt;img"))
		}
	}
	if r := c.form("/students", url.Values{"name": {" \t"}, "programme": {"hands-first"},
		"craft": {"gheppio"}}); r.status != 422 {
		t.Errorf("a student without a name: %d", r.status)
	}
}

func TestWitnessAndSignOff(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Instructor)
	at := "/students/" + s.student.String()
	sign := func() reply { return c.form(at+"/sign-offs", url.Values{"gate": {"supervised"}}) }
	if r := sign(); r.status != http.StatusConflict || !strings.Contains(r.body, "may not sign gates") ||
		s.count("signoffs") != 0 {
		t.Errorf("signed without the right: %d", r.status)
	}
	s.maySign(time.Now().Add(time.Hour))
	if r := sign(); r.status != http.StatusConflict || !strings.Contains(r.body, "not witnessed") ||
		s.count("signoffs") != 0 {
		t.Errorf("signed before it is ready: %d, %d sign-offs", r.status, s.count("signoffs"))
	}
	if r := s.as(store.Spotter).form(at+"/sign-offs",
		url.Values{"gate": {"supervised"}}); r.status != http.StatusForbidden {
		t.Errorf("a spotter signs: %d", r.status)
	}
	if r := c.form(at+"/witnessed", url.Values{"act": {"applause"}}); r.status != http.StatusConflict ||
		s.count("witnessed") != 0 {
		t.Errorf("an act that no gate asks for: %d", r.status)
	}
	for _, act := range []string{"briefing", "cautions", "preflight-unprompted"} {
		if r := c.form(at+"/witnessed", url.Values{"act": {act}}); r.status != http.StatusSeeOther {
			t.Fatalf("%s: %d %s", act, r.status, r.body)
		}
	}
	if p := c.get(at); !strings.Contains(p.body, "Ready to be signed") {
		t.Error("it does not say that it is ready")
	}
	if r := sign(); r.status != http.StatusSeeOther || s.count("signoffs") != 1 {
		t.Fatalf("%d %s", r.status, r.body)
	}
	if p := c.get(at + "/gates/supervised"); !strings.Contains(p.body, "Signed</span> by The instructor") {
		t.Error("it does not say who signed")
	}
	if r := sign(); r.status != http.StatusConflict || s.count("signoffs") != 1 {
		t.Errorf("signed twice: %d, %d sign-offs", r.status, s.count("signoffs"))
	}
}

// maySign gives the instructor the right to sign until a moment.
func (s *site) maySign(until time.Time) {
	s.t.Helper()
	err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
		staff, err := tx.Staff(bg)
		for _, a := range staff {
			if a.Role == store.Instructor && err == nil {
				err = tx.MaySign(bg, a.ID, &until)
			}
		}
		return err
	})
	if err != nil {
		s.t.Fatal(err)
	}
}

func TestVoidIsACorrection(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Instructor)
	body := hoverMarks(store.NewID().String())
	c.json("/students/"+s.student.String()+"/marks", body)
	at := "/attempts/" + body["opening"].(map[string]any)["id"].(string)
	if p := c.get("/today"); !strings.Contains(p.body, at+"/void") {
		t.Error("Today does not offer to make void what was marked last")
	}
	if p := s.as(store.Spotter).get("/today"); strings.Contains(p.body, at+"/void") {
		t.Error("Today offers a spotter to make an attempt void")
	}
	if r := c.form(at+"/void", url.Values{"reason": {" "}}); r.status != 422 {
		t.Errorf("a void without a reason: %d", r.status)
	}
	r := c.form(at+"/void", url.Values{"reason": {"a dog ran in"}})
	if r.status != http.StatusSeeOther || s.count("attempts") != 2 {
		t.Fatalf("%d, %d attempts", r.status, s.count("attempts"))
	}
	if p := c.get("/today"); strings.Contains(p.body, "/void") {
		t.Error("Today still offers what was made void, or its correction")
	}
	if r := c.form(at+"/void", url.Values{"reason": {"again"}}); r.status != http.StatusConflict {
		t.Errorf("voided twice: %d", r.status)
	}
	if p := c.get(at); !strings.Contains(p.body, "Replaced by") {
		t.Error("the old one does not say that it was replaced")
	}
	if p := c.get("/students/" + s.student.String()); !strings.Contains(p.body, "replaced") || strings.Contains(p.body,
		"two more passes") {
		t.Error("the voided pass still counts")
	}
}

func TestWind(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Spotter)
	for _, bad := range []url.Values{{}, {"mps": {"-1"}}, {"mps": {"NaN"}}, {"mps": {"1e308"}},
		{"mps": {"5"}, "gust_mps": {"3"}}} {
		if r := c.form("/wind", bad); r.status != 422 {
			t.Errorf("%v: %d", bad, r.status)
		}
	}
	if r := c.form("/wind", url.Values{"mps": {"3,4"}, "gust_mps": {"5.1"}, "from_deg": {"180"}}); r.status != 200 ||
		r.body != "wind 3.4 m/s, gusts 5.1 from behind" {
		t.Errorf("%d %s", r.status, r.body)
	}
	if r := c.get("/students"); !strings.Contains(r.body, "3.4 m/s, gusts 5.1") {
		t.Error("the masthead does not show the wind")
	}
}
