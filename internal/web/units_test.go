package web

import (
	"fmt"
	"math"
	"net/http"
	"net/url"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"maestrale/core/units"
	"maestrale/internal/store"
)

// aGround is a site with a course for the day, and a craft with a pack.
func (s *site) aGround(c *client) (course, craft string) {
	s.t.Helper()
	post := func(path string, form url.Values) string {
		r := c.form(path, form)
		if r.status != http.StatusSeeOther {
			s.t.Fatalf("%s: %d %s", path, r.status, text(r.body))
		}
		return r.header.Get("Location")
	}
	post("/sites", url.Values{"name": {"Spianata"}, "latitude": {"45.2"}, "longitude": {"12.3"}, "elevation": {"3"}})
	site := idBefore(s.t, c.get("/sites").body, `name="site" value="`)
	course = post("/courses", url.Values{"site": {site}, "name": {"Box"}, "template": {"five-markers"}, "class": {"light"},
		"away": {"0"}, "today": {"yes"}})
	craft = post("/fleet/craft", url.Values{"name": {"Uno"}, "type": {"poiana"}})
	post("/fleet/packs/several", url.Values{"type": {"poiana"}, "packs": {"P1 to P2"}})
	return course, craft
}

// Fields take a unit, a bare number is in the unit that the page showed, and a form that says none means SI.
func TestFieldsTakeUnits(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Chief)
	wind := func() (mps float64) {
		p, err := appStore.ByAccount(bg, account(t, s, store.Chief))
		if err != nil || p.WindMps == nil {
			t.Fatalf("no wind: %v", err)
		}
		return *p.WindMps
	}
	for _, k := range []struct {
		typed, shown string
		want         float64
	}{{"3", "", 3}, {"12 kn", "", 12 * 1852.0 / 3600}, {"12", "kn", 12 * 1852.0 / 3600}, {"5 m/s", "kn", 5},
		{"18", "km/h", 5}, {"2,5", "m/s", 2.5}, {"10", "furlongs", 10}} {
		r := c.form("/wind", url.Values{"mps": {k.typed}, "mps-unit": {k.shown}, "back": {"/sites"}})
		if r.status != http.StatusSeeOther || math.Abs(wind()-k.want) > 1e-6 {
			t.Errorf("%q where %q is shown: %d, %g m/s, want %g", k.typed, k.shown, r.status, wind(), k.want)
		}
	}
	for _, bad := range []string{"12 ft", "breeze", "1,500", "400 kn"} {
		if r := c.form("/wind", url.Values{"mps": {bad}}); r.status != http.StatusUnprocessableEntity {
			t.Errorf("%q: %d", bad, r.status)
		}
	}
	if r := c.get("/units/length?unit=ft&field=height_m&height_m=66"); strings.TrimSpace(r.body) != "= 20.1 m" {
		t.Errorf("the echo says %q", r.body)
	}
	if r := c.get("/units/length?unit=kn&field=a&a=1"); r.status != http.StatusNotFound {
		t.Errorf("a length in knots: %d", r.status)
	}
}

// account is the id of a person of the site.
func account(t *testing.T, s *site, role string) (id [16]byte) {
	t.Helper()
	cred, err := appStore.ByEmail(bg, s.emails[role])
	if err != nil {
		t.Fatal(err)
	}
	return cred.AccountID
}

var said = regexp.MustCompile(`([-+−]?\d+(?:\.\d+)?)[ \x{a0}](m/s|m|ft|kn)(?:\b|$)`)

// quantities are the lengths and speeds that a page shows, in SI, with the half of their last digit.
func quantities(page string) (values, halves []float64, units_ []string) {
	for _, m := range said.FindAllStringSubmatch(text(page), -1) {
		number := strings.NewReplacer("−", "-", "+", "").Replace(m[1])
		v, _ := strconv.ParseFloat(number, 64)
		decimals := 0
		if i := strings.IndexByte(number, '.'); i >= 0 {
			decimals = len(number) - i - 1
		}
		u := units.Unit(m[2])
		values, halves = append(values, u.From(v)), append(halves, u.From(0.5*math.Pow(10, -float64(decimals))))
		units_ = append(units_, m[2])
	}
	return values, halves, units_
}

// Every length and every speed of every page is said in the reader's units, and means the same within its rounding.
func TestPagesSayTheReadersUnits(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Chief)
	course, craft := s.aGround(c)
	c.form("/wind", url.Values{"mps": {"4.2"}, "gust_mps": {"6.1"}})
	c.form("/courses/"+strings.TrimPrefix(course, "/courses/"), url.Values{"do": {"hazard"}, "kind": {"tree"},
		"height_m": {"12"}, "places": {"5, 40"}})
	marks := hoverMarks(store.NewID().String())
	c.json("/students/"+s.student.String()+"/marks", marks)
	attempt := marks["opening"].(map[string]any)["id"].(string)
	check := c.form(craft+"/checks", url.Values{"minutes": {"9"}, "aids": {"position-hold"}}).header.Get("Location")
	at := "/students/" + s.student.String()
	paths := []string{"/sites", course, "/fleet", craft, check, "/today", "/students", at, at + "/lesson",
		at + "/gates/unassisted-aids-on", "/attempts/" + attempt, "/programmes", "/programmes/drills/hover-tail-in",
		"/programmes/drills/eight-along", at + "/lost", at + "/sight", "/fly/yaw", "/records", "/wind", "/school",
		at + "/log"}
	metric := map[string]string{}
	for _, p := range paths {
		metric[p] = c.get(p).body
	}
	if r := c.form("/account/units", url.Values{"length": {"ft"}, "speed": {"kn"}}); r.status != http.StatusSeeOther {
		t.Fatal(r.status)
	}
	all := 0
	for _, p := range paths {
		r := c.get(p)
		if r.status != 200 {
			t.Errorf("%s: %d", p, r.status)
			continue
		}
		want, _, _ := quantities(metric[p])
		got, half, in := quantities(r.body)
		if len(got) != len(want) {
			t.Errorf("%s says %d measures, and %d in feet: %v", p, len(want), len(got), in)
			continue
		}
		for i := range got {
			// Where a page says both, they have changed places; such a pair means the same to its coarser half.
			if math.Abs(got[i]-want[i]) > half[i]+0.51 && math.Abs(got[i]-want[i]) > 0.03*want[i] {
				t.Errorf("%s: measure %d is %g, and %g in %s", p, i, want[i], got[i], in[i])
			}
			if both := i > 0 && math.Abs(got[i]-got[i-1]) < 0.51; (in[i] == "m" || in[i] == "m/s") && !both {
				t.Errorf("%s: measure %d is said in %s alone", p, i, in[i])
			}
		}
		all += len(got)
	}
	if all < 60 {
		t.Errorf("only %d measures were compared", all)
	}
	t.Log(all, "measures")
	if r := c.form("/account/units", url.Values{"do": {"school"}}); r.status != http.StatusSeeOther ||
		text(c.get("/fleet").body) != text(metric["/fleet"]) {
		t.Error(r.status)
	}
	if r := c.form("/account/units", url.Values{"length": {"ell"},
		"speed": {"kn"}}); r.status != http.StatusUnprocessableEntity {
		t.Errorf("ells: %d", r.status)
	}
}

// What a script shows comes in the reader's units too: the steps that the pad asks for, and the verdict.
func TestScriptsAreToldTheReadersUnits(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Instructor)
	at := "/students/" + s.student.String()
	metric := c.padPage("drill=hover-tail-in&aids=position-hold")
	c.form("/account/units", url.Values{"length": {"ft"}, "speed": {"kn"}})
	feet := c.padPage("drill=hover-tail-in&aids=position-hold")
	if !strings.Contains(metric, " m,") || strings.Contains(feet, " m,") || !strings.Contains(feet, " ft") {
		t.Errorf("the pad is told %s, and in feet %s", metric, feet)
	}
	if day := c.get("/pad/day").body; !strings.Contains(day, `"length":"ft","length_one":0.3048`) {
		t.Errorf("the day does not tell the pad the unit: %.400s", day)
	}
	marks := hoverMarks(store.NewID().String())
	list := marks["marks"].([]any)
	list[2].(map[string]any)["away_m"] = 2.5 // landed beside the pad
	r := c.json(at+"/marks", marks)
	if r.status != 200 || !strings.Contains(r.body, "8.2 ft") || strings.Contains(r.body, " m;") {
		t.Errorf("the verdict: %d %s", r.status, r.body)
	}
}

// A field shows what is kept in the reader's unit, and what is sent back unchanged is what was kept.
func TestAFieldSentBackKeepsItsValue(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Chief)
	c.form("/account/units", url.Values{"length": {"ft"}, "speed": {"mph"}})
	s.aGround(c)
	page := c.get("/sites").body
	m := regexp.MustCompile(`name="elevation"[^>]* value="([^"]+)"`).FindStringSubmatch(page)
	if m == nil || m[1] != "9.84" || !strings.Contains(page, `name="elevation-unit" value="ft"`) {
		t.Fatalf("the elevation is shown as %v", m)
	}
	id := idBefore(t, page, `name="site" value="`)
	for range 3 {
		if r := c.form("/sites", url.Values{"id": {id}, "name": {"Spianata"}, "latitude": {"45.2"}, "longitude": {"12.3"},
			"elevation": {m[1]}, "elevation-unit": {"ft"}}); r.status != http.StatusSeeOther {
			t.Fatal(r.status)
		}
	}
	err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
		list, err := tx.Sites(bg)
		if err == nil && math.Abs(list[0].AltM-3) > 0.01 {
			err = fmt.Errorf("the elevation became %g m", list[0].AltM)
		}
		return err
	})
	if err != nil {
		t.Error(err)
	}
}

// Where 20 m (66 ft) of return height is wanted, a typed 66 m is questioned, and 66 ft is right.
func TestFeetTakenForMetresAreQuestioned(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Chief)
	_, craft := s.aGround(c)
	check := c.form(craft+"/checks", url.Values{"minutes": {"9"}, "aids": {"position-hold"}}).header.Get("Location")
	answer := func(value, unit string) string {
		r := c.form(check, url.Values{"kind": {"answer"}, "item": {"return-height"}, "value": {value}, "value-unit": {unit}})
		if r.status != http.StatusSeeOther {
			t.Fatalf("%q: %d %s", value, r.status, text(r.body))
		}
		return text(c.get(check).body)
	}
	wanted := regexp.MustCompile(`wanted (\d+) m \((\d+) ft\)`)
	page := answer("5", "m")
	m := wanted.FindStringSubmatch(page)
	if m == nil {
		t.Fatal("the check does not say what is wanted")
	}
	for value, questioned := range map[string]bool{m[2]: true, m[2] + " m": true, m[2] + " ft": false, m[1]: false} {
		if page := answer(value, "m"); strings.Contains(page, "Is that the return height in feet?") != questioned {
			t.Errorf("%q where %s m is wanted: questioned is %v", value, m[1], !questioned)
		}
	}
}
