package web

import (
	"encoding/csv"
	"fmt"
	"net/http"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"golang.org/x/net/html"

	"maestrale/core/course"
	"maestrale/internal/demo"
	"maestrale/internal/password"
	"maestrale/internal/sheet/sheettest"
	"maestrale/internal/store"
)

// sampleLoaded loads the sample school once for all tests.
var sampleLoaded = sync.OnceValue(func() error {
	y, m, d := time.Now().Date()
	morning := time.Date(y, m, d, 8, 0, 0, 0, time.UTC) // an afternoon's wind leaves some of them out
	if err := demo.Load(bg, ownerURL, appStore, shipped(), demo.At{Now: time.Now(), Breeze: morning,
		Light: course.LitDay}, password.Hash); err != nil {
		return err
	}
	day := demo.FieldDay{Store: appStore, Cat: shipped(), Now: time.Now}
	return day.SampleDay(bg, demo.SignIns()[0].Email)
})

// sampleSchool loads the sample school with its field day, and signs its chief in.
func sampleSchool(t testing.TB) (*site, *client) {
	t.Helper()
	s := newSite(t)
	if err := sampleLoaded(); err != nil {
		t.Fatal(err)
	}
	c := s.as("")
	if r := c.form("/sign-in", url.Values{"email": {demo.SignIns()[0].Email},
		"password": {demo.Password}}); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	return s, c
}

// tables reads the tables of a page: for each row that leads to something below an address, what its cells say by the
// headings of their columns.
func tables(t *testing.T, page, below string) map[string]map[string]string {
	t.Helper()
	doc, err := html.Parse(strings.NewReader(page))
	if err != nil {
		t.Fatal(err)
	}
	var says func(n *html.Node) string
	says = func(n *html.Node) string {
		if n.Type == html.TextNode {
			return n.Data
		}
		out := ""
		for c := n.FirstChild; c != nil; c = c.NextSibling {
			out += says(c) + " "
		}
		return out
	}
	clean := func(n *html.Node) string { return strings.Join(strings.Fields(says(n)), " ") }
	out := map[string]map[string]string{}
	for n := range doc.Descendants() {
		if n.Data != "table" {
			continue
		}
		var heads []string
		for tr := range n.Descendants() {
			if tr.Data != "tr" {
				continue
			}
			id, cells := "", []string{}
			head := false
			for c := tr.FirstChild; c != nil; c = c.NextSibling {
				if c.Type != html.ElementNode {
					continue
				}
				cells = append(cells, clean(c))
				for a := range c.Descendants() {
					for _, at := range a.Attr {
						if rest, ok := strings.CutPrefix(at.Val, below); ok && at.Key == "href" && id == "" &&
							uuid.Validate(rest) == nil {
							id = rest
						}
						head = head || at.Key == "scope" && at.Val == "col"
					}
				}
				for _, at := range c.Attr {
					head = head || at.Key == "scope" && at.Val == "col"
				}
			}
			switch {
			case head:
				heads = cells
			case id != "":
				row := map[string]string{}
				for i, c := range cells {
					if i < len(heads) {
						row[heads[i]] = c
					}
				}
				out[id] = row
			}
		}
	}
	return out
}

// verdicts are those of a printed logbook, each on a line.
var verdicts = regexp.MustCompile(`(?m)^(pass|fail|void|incomplete)( \(sim\))?$`)

// standing counts the attempts of a table that no other one corrects, and those of them in the simulator.
func standing(t *testing.T, table string) (all, sim int) {
	t.Helper()
	rows, err := csv.NewReader(strings.NewReader(table)).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	id, corrects, source := slices.Index(rows[0], "id"), slices.Index(rows[0], "corrects"), slices.Index(rows[0], "source")
	replaced := map[string]bool{}
	for _, r := range rows[1:] {
		replaced[r[corrects]] = true
	}
	for _, r := range rows[1:] {
		if !replaced[r[id]] {
			all++
			if r[source] == "sim" {
				sim++
			}
		}
	}
	return all, sim
}

// What stands on two screens of the sample school is the same on both: held cells, when somebody last flew, how many
// attempts there are and how many of them in the simulator, what a pack holds, where it is, and how a craft stands.
func TestFiguresAgreeOnEveryScreen(t *testing.T) {
	_, c := sampleSchool(t)
	students := tables(t, c.get("/students").body, "/students/")
	records := c.get("/records").body
	rows := tables(t, records, "/students/")
	if len(students) < 10 || len(rows) != len(students) {
		t.Fatalf("%d students, %d records", len(students), len(rows))
	}
	date := regexp.MustCompile(`\d+ [A-Z][a-z]{2}`)
	today := time.Now().In(rome(t)).Format("2 Jan")
	flewToday, simulated, field := 0, 0, 0
	for id, s := range students {
		page := text(c.get("/students/" + id).body)
		if held := s["held"] + " items held"; !strings.Contains(page, held) || !strings.Contains(rows[id]["ladder"],
			s["held"]) {
			t.Errorf("%s: %q on Students, %q on Records", s["student"], s["held"], rows[id]["ladder"])
		}
		a, b := date.FindString(s["last flown"]), date.FindString(rows[id]["last flew"])
		if a != b {
			t.Errorf("%s last flew on %q on Students, on %q on Records", s["student"], a, b)
		}
		if a == today {
			flewToday++
		}
		table := c.get("/students/" + id + "/record/attempts.csv").body
		printed := sheettest.Words([]byte(c.get("/students/" + id + "/record/logbook.pdf").body))
		lines, sims := standing(t, table)
		if n := len(verdicts.FindAllString(printed, -1)); n != lines || strings.Count(printed, "(sim)\n") != sims {
			t.Errorf("%s: the logbook prints %d attempts, and the table has %d, %d of them in the simulator", id, n, lines, sims)
		}
		for _, line := range strings.Split(strings.TrimSpace(table), "\n")[1:] {
			if strings.Contains(line, ",sim,") || strings.Contains(line, ";sim;") {
				simulated++
			} else {
				field++
			}
		}
	}
	if flewToday < 4 {
		t.Errorf("%d students flew today, and the field day has landed more", flewToday)
	}
	if simulated == 0 || field == 0 {
		t.Errorf("%d attempts in the simulator and %d at the field show little", simulated, field)
	}
	if want := fmt.Sprintf("%d attempts at the field and %d in the simulator", field,
		simulated); !strings.Contains(text(records),
		want) {
		t.Errorf("the files have %s; Records says otherwise", want)
	}
	counted := regexp.MustCompile(`\d+ of (\d+) that count`).FindStringSubmatch(text(records))
	if season := text(c.get("/records/season?weeks=52").body); counted == nil ||
		!strings.Contains(season, "of those that count: "+counted[1]+" attempts") {
		t.Errorf("Records has %v, and the season says otherwise", counted)
	}
	fleet := c.get("/fleet").body
	board := c.get("/today/board").body
	for id, k := range tables(t, fleet, "/fleet/packs/") {
		page := text(c.get("/fleet/packs/" + id).body)
		if charge := k["charge"]; !strings.Contains(page, charge) {
			t.Errorf("pack %s: %q in the fleet; its page: %.200s", k["pack"], charge, page)
		}
		aloft := strings.Contains(boardRow(t, board, k["pack"]), "in the air")
		if aloft != strings.Contains(k["state"], "in the air") {
			t.Errorf("pack %s: in the air on Today %v; in the fleet %q", k["pack"], aloft, k["state"])
		}
		if on := boardRow(t, board, k["pack"]); strings.Contains(on, "full,") && !strings.Contains(on, k["charge"]) {
			t.Errorf("pack %s: %q on Today, %q in the fleet", k["pack"], on, k["charge"])
		}
	}
	for id, k := range tables(t, fleet, "/fleet/craft/") {
		unfit := strings.Contains(boardRow(t, board, k["craft"]), "to be proven")
		if unfit != strings.Contains(k["state"], "to be proven") {
			t.Errorf("craft %s (%s): %q in the fleet, %q on Today", k["craft"], id, k["state"], boardRow(t, board, k["craft"]))
		}
	}
}

// boardRow is the row of a table of the board that begins with a name.
func boardRow(t *testing.T, board, name string) string {
	t.Helper()
	for _, row := range regexp.MustCompile(`(?s)<tr><th scope="row">.*?</tr>`).FindAllString(board, -1) {
		says := strings.Join(strings.Fields(html.UnescapeString(regexp.MustCompile(`<[^>]*>`).ReplaceAllString(row, " "))),
			" ")
		if strings.HasPrefix(says, name+" ") {
			return says
		}
	}
	return ""
}

func rome(t *testing.T) *time.Location {
	t.Helper()
	zone, err := time.LoadLocation("Europe/Rome")
	if err != nil {
		t.Fatal(err)
	}
	return zone
}

// A student who landed a moment ago last flew today, marked or not.
func TestWhoHasLandedLastFlewToday(t *testing.T) {
	d := newFieldDay(t)
	teacher := d.as(store.Instructor)
	teacher.form("/today/day", d.form(1))
	first := d.begins(teacher)[0]
	teacher.form("/today/flights", first)
	at := d.app.Now().Add(9 * time.Minute)
	d.app.Now = func() time.Time { return at }
	teacher.form("/today/flights/"+first.Get("id"), url.Values{"kind": {"end"}})
	want := at.In(rome(t)).Format("2 Jan")
	for path, column := range map[string]string{"/students": "last flown", "/records": "last flew"} {
		row := tables(t, teacher.get(path).body, "/students/")[first.Get("student")]
		if !strings.Contains(row[column], want) {
			t.Errorf("%s: %q, and the landing was on %s", path, row[column], want)
		}
	}
}
