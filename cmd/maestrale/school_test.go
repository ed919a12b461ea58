package main

import (
	"encoding/json"
	"io"
	"log/slog"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"maestrale/core/drill"
	"maestrale/internal/localpg"
	"maestrale/internal/store"
	"maestrale/internal/web"
)

// emptyDatabase is a database without a school, named by DATABASE_URL.
func emptyDatabase(t *testing.T) string {
	t.Helper()
	address, end, err := localpg.ForTest()
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(end)
	t.Setenv("DATABASE_URL", address)
	return address
}

// said runs a command that has to work, and reads what it prints.
func said[T any](t *testing.T, args ...string) (out T) {
	t.Helper()
	status, text, errOut := command(args...)
	if status != 0 {
		t.Fatalf("%s: %d %s", strings.Join(args, " "), status, errOut)
	}
	if err := json.Unmarshal([]byte(text), &out); err != nil {
		t.Fatalf("%s: %q: %v", strings.Join(args, " "), text, err)
	}
	return out
}

// served is the server on the database, for the links that the commands print.
func served(t *testing.T, address string) *httptest.Server {
	t.Helper()
	st, err := store.Open(t.Context(), address, nil)
	if err != nil {
		t.Fatal(err)
	}
	app, err := web.New(web.Options{Store: st, Catalogue: drill.Shipped(), Log: slog.New(slog.DiscardHandler)})
	if err != nil {
		t.Fatal(err)
	}
	s := httptest.NewServer(app)
	t.Cleanup(func() { s.Close(); app.Close(); st.Close() })
	return s
}

func body(t *testing.T, c *http.Client, method, at string, form url.Values) (int, string) {
	t.Helper()
	req, err := http.NewRequestWithContext(t.Context(), method, at, strings.NewReader(form.Encode()))
	if err != nil {
		t.Fatal(err)
	}
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	r, err := c.Do(req)
	if err != nil {
		t.Fatal(err)
	}
	defer r.Body.Close() //nolint:errcheck // it was read
	data, _ := io.ReadAll(r.Body)
	return r.StatusCode, string(data)
}

const aFleet = `format: maestrale-fleet/1
craft: [{name: Uno, type: poiana}]
packs: [{name: P1, type: poiana, chemistry: lihv, cells: 4, capacity_mah: 3800}]
`

const aCourse = `format: maestrale-course/1
name: Training box
origin: {lat: 45.2, lon: 12.3, alt_m: 2}
away_deg: 310
station: [0, 0]
markers: {pad: [0, 6], centre: [0, 12], near-left: [-6, 8], near-right: [6, 8], far-left: [-6, 20], far-right: [6, 20]}
`

const someMarks = `{"format": "maestrale-marks/1", "marks": [{"t_s": 0, "mark": "start"}, {"t_s": 3, "mark": "in"},
 {"t_s": 27, "mark": "touch", "away_m": 0.2, "right_m": 0.1}, {"t_s": 29, "mark": "done"}]}`

// A school is made, filled and led to a signed gate with commands and files alone, and a stranger checks the card.
func TestASchoolByCommandsAlone(t *testing.T) {
	address := emptyDatabase(t)
	made := said[schoolPrinted](t, "school", "new", "--name", "Scuola di prova", "--zone", "Europe/Rome", "--chief-name",
		"Lia Capovela", "--chief-email", "Lia@Prova.example", "--units", "imperial")
	if made.Link == "" || made.Units != [2]string{"ft", "mph"} {
		t.Fatalf("%+v", made)
	}
	if list := said[[]schoolPrinted](t, "school", "list"); len(list) != 1 || list[0].ID != made.ID {
		t.Errorf("%+v", list)
	}
	files := t.TempDir()
	write := func(name, text string) string {
		at := filepath.Join(files, name)
		if err := os.WriteFile(at, []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
		return at
	}
	here := []string{"--school", made.ID, "--by", "lia@prova.example"}
	take := append(append([]string{"school", "take"}, here...), "--site", "Spianata", write("fleet.yaml", aFleet),
		write("course.yaml", aCourse), write("students.csv",
			"name;programme;craft type\nAda Testa;Position hold first;poiana\n"),
		write("passes.csv", "student,date,drill,vouched for by\nAda Testa,2026-03-02,hover-tail-in,Old Hand\n"))
	if got := said[[]takenPrinted](t, take...); len(got) != 4 || got[0].Count != 2 || got[3].Kind != "passes" {
		t.Errorf("%+v", got)
	}
	if status, _, e := command(take...); status != 2 || !strings.Contains(e, "fleet.yaml") {
		t.Errorf("the same files again: %d %s", status, e)
	}
	bo := said[linkPrinted](t, "people", "add", "--school", made.ID, "--role", "student", "--name", "Bo Prova", "--craft",
		"poiana")
	student := append(append([]string{}, here...), "--student", bo.Student)
	marked := said[map[string]any](t, append(append([]string{"mark"}, student...), "--drill", "hover-tail-in", "--aids",
		"position-hold", write("marks.json", someMarks))...)
	if marked["verdict"] != "pass" {
		t.Errorf("%v", marked)
	}
	sign := append(append([]string{"sign"}, student...), "--gate", "supervised", "--confirmed-by", "bo prova")
	if status, _, e := command(sign...); status != 2 || !strings.Contains(e, "not witnessed") {
		t.Errorf("signed before it is ready: %d %s", status, e)
	}
	for _, act := range []string{"briefing", "cautions", "preflight-unprompted"} {
		said[map[string]any](t, append(append([]string{"witness"}, student...), "--act", act)...)
	}
	signed := said[map[string]any](t, sign...)
	if signed["read_on"] != "device" || signed["read_witness"] != "Lia Capovela" {
		t.Errorf("%v", signed)
	}
	server := served(t, address)
	card := said[linkPrinted](t, append(append([]string{"card", "--public-url", server.URL}, here...), "--sign-off",
		signed["id"].(string))...)
	stranger := &http.Client{}
	if status, page := body(t, stranger, "GET", card.Link, nil); status != 200 || !strings.Contains(page, "Bo Prova") ||
		!strings.Contains(page, "Stands today") {
		t.Errorf("the card: %d %s", status, page)
	}
	record := filepath.Join(files, "bo.json")
	if status, _, e := command("export", "--school-id", made.ID, "--student", bo.Student, "--out", record); status != 0 {
		t.Fatal(e)
	}
	if v := said[verification](t, "verify", record); !v.Sound || v.Attempts != 1 {
		t.Errorf("%+v", v)
	}
	if v := said[schoolVerification](t, "verify", "--school-id", made.ID); !v.Sound || v.Students == 0 || v.Entries == 0 ||
		v.Marked == 0 {
		t.Errorf("verified: %+v", v)
	}
	if status, _, e := command("verify"); status != 2 || !strings.Contains(e, "expected a FILE or --school-id") {
		t.Errorf("%d %q", status, e)
	}
	enter(t, server.URL, made.Link)
}

// enter uses a chief's link: it works once, and a rescue link works after it.
func enter(t *testing.T, server, link string) {
	t.Helper()
	jar, _ := cookiejar.New(nil)
	c := &http.Client{Jar: jar}
	at := server + strings.TrimPrefix(link, defaultPublic)
	if status, page := body(t, c, "POST", at, url.Values{"password": {"short"}}); status != 422 {
		t.Errorf("a short password: %d %s", status, page)
	}
	if status, page := body(t, c, "POST", at, url.Values{"password": {"la torre del faro"}}); status != 200 ||
		!strings.Contains(page, "Scuola di prova") {
		t.Errorf("the link: %d", status)
	}
	if status, page := body(t, &http.Client{}, "GET", at, nil); status != http.StatusGone || !strings.Contains(page,
		"used already") {
		t.Errorf("the link again: %d", status)
	}
	again := said[linkPrinted](t, "password", "--email", "lia@prova.example", "--public-url", server)
	if status, _ := body(t, &http.Client{}, "GET", again.Link, nil); status != 200 {
		t.Errorf("the rescue: %d", status)
	}
}

func TestSchoolCommandsRefuse(t *testing.T) {
	emptyDatabase(t)
	made := func(change ...string) (int, string) {
		args := append([]string{"school", "new", "--name", "S", "--zone", "Europe/Rome", "--chief-name", "C", "--chief-email",
			"c@x.example"}, change...)
		status, _, e := command(args...)
		return status, e
	}
	for want, change := range map[string][]string{"no name": {"--name", ""}, "time zone": {"--zone", "Mars/Base"},
		"is not an e-mail": {"--chief-email", "c"}, "expected metric or imperial": {"--units", "cubits"}} {
		if status, e := made(change...); status != 2 || !strings.Contains(e, want) || strings.Count(e, "\n") != 1 {
			t.Errorf("%v: %d %q", change, status, e)
		}
	}
	if status, e := made(); status != 0 {
		t.Fatal(e)
	}
	if status, e := made("--name", "Another"); status != 2 || !strings.Contains(e, "has an account already") {
		t.Errorf("the address twice: %d %s", status, e)
	}
	id := said[[]schoolPrinted](t, "school", "list")[0].ID
	for want, args := range map[string][]string{
		"expected chief, instructor": {"people", "add", "--school", id, "--role", "owner", "--name", "N"},
		"has no name":                {"people", "add", "--school", id, "--role", "spotter"},
		"a student of the school": {"people", "add", "--school", id, "--role", "student", "--name", "N", "--student",
			id},
		"expected an id":            {"people", "add", "--school", "x", "--role", "spotter", "--name", "N"},
		"the address of an account": {"password", "--email", "nobody@x.example"},
		"a chief or an instructor":  {"witness", "--school", id, "--by", "nobody@x.example", "--act", "briefing"},
		"expected a sign-off":       {"card", "--school", id, "--by", "c@x.example", "--sign-off", "x"},
		"the headings fit no table": {"school", "take", "--school", id, "--by", "c@x.example", inFile(t, "a.csv",
			"a,b\n1,2\n")},
		"looks like a picture": {"school", "take", "--school", id, "--by", "c@x.example", inFile(t, "a.csv",
			"\xff\xd8\xff\xe0")},
		"expected a file": {"school", "take", "--school", id, "--by", "c@x.example", "/nowhere.csv"},
		"expected an origin": {"school", "take", "--school", id, "--by", "c@x.example", inFile(t, "c.yaml",
			aCourse)},
		"the first of 1 mistakes": {"school", "take", "--school", id, "--by", "c@x.example", inFile(t, "a.csv",
			"name,type\nU,ufo\n")},
		"format maestrale-marks/1": {"mark", "--school", id, "--by", "c@x.example", "--student", id, inFile(t, "m.json",
			"{}")},
		"expected a student of the scho": {"mark", "--school", id, "--by", "c@x.example", "--student", "x",
			inFile(t, "m.json", someMarks)},
	} {
		if status, _, e := command(args...); status != 2 || !strings.Contains(e, want) || strings.Count(e, "\n") != 1 {
			t.Errorf("%v: %d %q, want %q", args, status, e, want)
		}
	}
}

// The demo never touches a database that holds a school of somebody's own.
func TestTheDemoLeavesARealSchoolAlone(t *testing.T) {
	emptyDatabase(t)
	said[schoolPrinted](t, "school", "new", "--name", "Scuola di prova", "--zone", "Europe/Rome", "--chief-name", "C",
		"--chief-email", "c@x.example")
	for _, args := range [][]string{{"demo", "--addr", "127.0.0.1:0", "--reset"}, {"demo", "--addr", "127.0.0.1:0"}} {
		if status, _, e := command(args...); status != 2 || !strings.Contains(e, `holds the school "Scuola di prova"`) {
			t.Errorf("%v: %d %q", args, status, e)
		}
	}
	if list := said[[]schoolPrinted](t, "school", "list"); len(list) != 1 || list[0].Name != "Scuola di prova" {
		t.Errorf("%+v", list)
	}
}
