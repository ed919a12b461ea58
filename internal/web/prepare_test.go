package web

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"maestrale/core/air"
	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/core/pack"
	"maestrale/internal/store"
)

// ground is a school with a craft, a pack, a site and a course of the day.
type ground struct {
	*site
	craft, pack, course uuid.UUID
	siteID              uuid.UUID
}

func newGround(t testing.TB, laid *course.Course) ground {
	t.Helper()
	g := ground{newSite(t), store.NewID(), store.NewID(), store.NewID(), store.NewID()}
	if laid == nil {
		laid, _ = course.Lay("five-markers", craft.Light)
		laid.Plane, _ = field.NewPlane(field.Geo{LatDeg: 44.95, LonDeg: 13.05, AltM: 2}, 90)
	}
	source, err := laid.YAML()
	if err != nil {
		t.Fatal(err)
	}
	b := craft.Shipped()["poiana"].Battery
	err = appStore.InSchool(bg, g.school, func(tx store.Tx) error {
		var by uuid.UUID
		if err := tx.QueryRow(bg, `SELECT id FROM accounts WHERE role = 'chief'`).Scan(&by); err != nil {
			return err
		}
		away := 90.0
		for _, err := range []error{
			tx.AddCraft(bg, store.Craft{ID: g.craft, Name: "poiana-1", Type: "poiana"}),
			tx.AddPack(bg, store.Pack{ID: g.pack, Record: pack.Record{Name: "P1", Type: "poiana", Chemistry: b.Chemistry,
				Cells: b.Cells, CapacityMah: b.CapacityMah, MassKg: b.MassKg}}),
			tx.KeepSite(bg, store.Site{ID: g.siteID, Name: "Pan", Geo: field.Geo{LatDeg: 44.95, LonDeg: 13.05, AltM: 2}}),
			tx.AddCourse(bg, g.course, g.siteID, "Course"), tx.Draw(bg, g.course, by, 0, time.Now(), "laid", string(source)),
			tx.KeepSettings(bg, store.Settings{CompassKind: "when-asked", CompassKm: 50, CompassDays: 30, CourseID: &g.course,
				AwayDeg: &away, SessionFrom: "08:30", SessionTo: "12:30"}),
		} {
			if err != nil {
				return err
			}
		}
		the, err := tx.TheSchool(bg)
		if err != nil {
			return err
		}
		the.Light = course.LitDay // lists are the same at whatever hour the tests run
		if err := tx.ChangeSchool(bg, the, time.Now()); err != nil {
			return err
		}
		from := 270.0
		return tx.AddWind(bg, store.NewID(), by, time.Now(), store.Wind{Mps: 3, FromTrueDeg: &from})
	})
	if err != nil {
		t.Fatal(err)
	}
	return g
}

func (g ground) at(path string) string {
	return strings.NewReplacer(":craft", g.craft.String(), ":pack", g.pack.String(), ":course",
		g.course.String()).Replace(path)
}

func (g ground) source() string {
	var text string
	err := appStore.InSchool(bg, g.school, func(tx store.Tx) error {
		k, err := tx.Course(bg, g.course)
		text = k.Source
		return err
	})
	if err != nil {
		g.t.Fatal(err)
	}
	return text
}

func TestEveryViewOfPreparationAnswers(t *testing.T) {
	g := newGround(t, nil)
	c := g.as(store.Instructor)
	for _, path := range []string{"/fleet", "/fleet/craft/:craft", "/fleet/packs/:pack", "/fleet/packs/:pack/why?of=hover",
		"/fleet/packs/:pack/why?of=wind", "/fleet/packs/:pack/why?of=land", "/fleet/packs/:pack/why?of=home",
		"/fleet/packs/:pack/why?of=charge",
		"/fleet/types/poiana.yaml", "/fleet/types/poiana/why", "/fleet/file", "/sites", "/courses/:course",
		"/courses/:course?craft=airone&aids=self-level&span=160", "/courses/:course/course.yaml",
		"/courses/:course/course.geojson", "/courses/:course/course.kml", "/courses/:course/course.gpx",
		"/courses/:course/sheet.pdf", "/wind"} {
		if r := c.get(g.at(path)); r.status != http.StatusOK || len(r.body) < 40 {
			t.Errorf("%s: %d %s", path, r.status, r.body[:min(200, len(r.body))])
		}
	}
	for _, path := range []string{"/fleet/types/falco.yaml", "/fleet/types/falco/why", "/courses/:course/course.exe",
		"/checks/" + store.NewID().String(), "/fleet/packs/" + store.NewID().String(), "/courses/nonsense"} {
		if r := c.get(g.at(path)); r.status != http.StatusNotFound {
			t.Errorf("%s: %d", path, r.status)
		}
	}
	// Another school has none of it.
	other := newSite(t).as(store.Chief)
	for _, path := range []string{"/fleet/craft/:craft", "/fleet/packs/:pack", "/courses/:course",
		"/courses/:course/sheet.pdf"} {
		if r := other.get(g.at(path)); r.status != http.StatusNotFound {
			t.Errorf("another school sees %s: %d", path, r.status)
		}
	}
}

// What cannot be is refused in one sentence, and nothing is kept of it.
func TestPreparationRefuses(t *testing.T) {
	g := newGround(t, nil)
	c := g.as(store.Chief)
	before := g.source()
	for _, k := range []struct{ path, form, want string }{
		{"/fleet/packs", "name=X&type=poiana&chemistry=lipo", "chemistries are never mixed"},
		{"/fleet/packs", "name=X&type=poiana&cells=3", "takes 4"},
		{"/fleet/packs", "name=P1&type=poiana", "name is taken"},
		{"/fleet/packs", "name=X&type=poiana&bought_on=spring", "could not be read"},
		{"/fleet/packs", "name=&type=poiana", "no name"},
		{"/fleet/packs/:pack/log", "kind=rest&volts=5.25 5.25 5.25 5.25", "cell 1 at 5.25 V, and a LiHV cell holds 4.35 V"},
		{"/fleet/packs/:pack/log", "kind=rest&volts=4.2", "4 cells"},
		{"/fleet/packs/:pack/log", "kind=load&volts=21&amps=10", "5.25 V a cell"},
		{"/fleet/packs/:pack/log", "kind=dance", "entry"},
		{"/fleet/packs/:pack/log", "kind=flight&minutes=-3", "minutes"},
		{"/fleet/craft/:craft/log", "kind=proving&drift_m=x&hover_percent=50", "is no length"},
		{"/fleet/craft/:craft/log", "kind=firmware", "version is empty"},
		{"/fleet/craft/:craft/log", "kind=incident&cause=gremlins", "cause"},
		{"/fleet/craft/:craft/log", "kind=propellers&spin_0=cw", "motor 2"},
		{"/fleet/craft/:craft/log", "kind=compass&method=turn with the craft", "clean or not clean"},
		{"/fleet/craft/:craft/log", "kind=fly", "not known"},
		{"/fleet/craft/:craft/checks", "minutes=10&aids=rate", "does not fly with"},
		{"/fleet/craft/:craft/checks", "minutes=0&aids=position-hold", "minutes"},
		{"/sites", "name=Y&latitude=95&longitude=0", "latitude"},
		{"/sites", "name=&latitude=45&longitude=0", "no name"},
		{"/courses", "name=Z&site=nowhere&template=box&class=light&away=0", "name, site or template"},
		{"/courses/:course", "do=move&what=marker:pad&x=0&y=-4", "4.0 m behind the pilot"},
		{"/courses/:course", "do=move&what=marker:moon&x=0&y=4", "not there"},
		{"/courses/:course", "do=move&what=hazard:9:0&x=0&y=4", "not there"},
		{"/courses/:course", "do=move&what=marker:pad&x=NaN&y=4", "is no length"},
		{"/courses/:course", "do=crowd&places=-5,-5; 5,-5; 5,-9; 0,-1", "crosses"},
		{"/courses/:course", "do=hazard&kind=dragon&places=1,1", "dragon"},
		{"/courses/:course", "do=hazard&kind=water&shape=ring&places=1,1;2,2", "three or more"},
		{"/courses/:course", "do=hazard&kind=tree&places=here", "places"},
		{"/courses/:course", "do=turn&degrees=lots", "degrees"},
		{"/courses/:course", "do=scale&percent=5", "percent"},
		{"/courses/:course", "do=undo", "as it was first laid"},
		{"/courses/:course", "do=fly", "the change"},
		{"/courses/:course/today", "session_from=12:00&session_to=09:00", "end after its beginning"},
		{"/settings/meter", "address=8.8.8.8:80", "no network of the school"},
		{"/settings/meter", "address=meter", "HOST:PORT"},
		{"/settings/compass", "kind=when-moved&km=0&days=30", "1 to 5000 km"},
		{"/settings/compass", "kind=never", "every-day"},
		{"/pace", "metres=20&paces=5", "4.00 m a pace"},
		{"/wind", "mps=3&gust_mps=2", "could not be read"},
	} {
		v, err := url.ParseQuery(strings.ReplaceAll(k.form, ";", "%3B"))
		if err != nil {
			t.Fatal(err)
		}
		r := c.form(g.at(k.path), v)
		if r.status != http.StatusUnprocessableEntity || !strings.Contains(text(r.body), k.want) {
			t.Errorf("%s %s: %d %s", k.path, k.form, r.status, text(r.body)[:min(300, len(text(r.body)))])
		}
	}
	if g.source() != before || g.count("pack_events")+g.count("craft_events")+g.count("checks") != 0 ||
		g.count("packs") != 1 || g.count("sites") != 1 || g.count("course_versions") != 1 {
		t.Error("something of it was kept")
	}
}

var tags = regexp.MustCompile(`<[^>]*>`)

func text(page string) string {
	_, main, _ := strings.Cut(page, "<main")
	bare := strings.Join(strings.Fields(tags.ReplaceAllString(main, " ")), " ")
	return strings.NewReplacer("&#34;", `"`, "&#39;", "'", "&amp;", "&").Replace(bare)
}

// A craft that was broken is out of service, mended it has to be proven, and a
// check says so at each step.
func TestFromIncidentToProving(t *testing.T) {
	g := newGround(t, nil)
	c := g.as(store.Instructor)
	note := func(form string) {
		v, _ := url.ParseQuery(form)
		if r := c.form(g.at("/fleet/craft/:craft/log"), v); r.status != http.StatusSeeOther {
			t.Fatalf("%s: %d %s", form, r.status, text(r.body))
		}
	}
	state := func() string { return text(c.get(g.at("/fleet/craft/:craft")).body) }
	entry := store.NewID().String()
	note("kind=incident&cause=landing&crash=yes&damage=yes&part_landing-leg=1&says=leg off&id=" + entry)
	note("kind=incident&cause=landing&crash=yes&damage=yes&part_landing-leg=1&says=leg off&id=" + entry) // a second tap
	// in the state and once in the log
	if s := state(); !strings.Contains(s, "out of service") || strings.Count(s, "leg off") != 2 {
		t.Errorf("%s", s[:400])
	}
	note("kind=repair&says=new leg")
	if s := state(); !strings.Contains(s, "to be proven") {
		t.Error("mended and not to be proven")
	}
	note("kind=proving&drift_m=3&hover_percent=48&sounds_right=yes")
	if s := state(); !strings.Contains(s, "drifted 3.0 m hands off") || !strings.Contains(s, "out of service") {
		t.Error("a proving flight that drifted was passed")
	}
	note("kind=repair&says=gyro")
	note("kind=proving&drift_m=0.2&hover_percent=48&sounds_right=yes")
	if s := state(); !strings.Contains(s, "✓ in service") {
		t.Error("proven and not in service")
	}
	note("kind=compass&method=turn with the craft&result=not clean")
	note("kind=compass&method=turn with the craft&result=not clean")
	if s := state(); !strings.Contains(s, "would not calibrate twice") {
		t.Error("twice not clean and still in service")
	}
}

// The form of the propellers offers what was noted last, so that noting a chip on
// one motor does not change what the others carry.
func TestThePropellersStayAsNoted(t *testing.T) {
	g := newGround(t, nil)
	c := g.as(store.Instructor)
	form := url.Values{"kind": {"propellers"}, "chipped_1": {"yes"}}
	for i, r := range craft.Shipped()["poiana"].Rotors {
		spin := r.Spin
		if i == 2 && spin == craft.Clockwise {
			spin = craft.CounterClockwise
		} else if i == 2 {
			spin = craft.Clockwise
		}
		form.Set(fmt.Sprintf("spin_%d", i), string(spin))
	}
	if r := c.form(g.at("/fleet/craft/:craft/log"), form); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	page := c.get(g.at("/fleet/craft/:craft")).body
	for i := range craft.Shipped()["poiana"].Rotors {
		_, field, _ := strings.Cut(page, fmt.Sprintf(`name="spin_%d"`, i))
		field, after, _ := strings.Cut(field, "</select>")
		if want := fmt.Sprintf(`value="%s" selected`, form.Get(fmt.Sprintf("spin_%d", i))); !strings.Contains(field, want) {
			t.Errorf("motor %d: %q is missing in %s", i+1, want, field)
		}
		row, _, _ := strings.Cut(after, "</tr>")
		if chipped := strings.Contains(row, "checked"); chipped != (i == 1) {
			t.Errorf("motor %d: chipped is %v", i+1, chipped)
		}
	}
	for _, want := range []string{"motor 2", "motor 3"} {
		if !strings.Contains(text(page), want) {
			t.Errorf("nothing is said of %s", want)
		}
	}
}

// begin begins a check and answers with its address.
func (g ground) begin(c *client, more string) string {
	v, _ := url.ParseQuery("minutes=10&aids=position-hold&pack=" + g.pack.String() + more)
	r := c.form(g.at("/fleet/craft/:craft/checks"), v)
	if r.status != http.StatusSeeOther {
		g.t.Fatalf("begin: %d %s", r.status, text(r.body))
	}
	return r.header.Get("Location")
}

func TestOverridesNeedAnInstructor(t *testing.T) {
	g := newGround(t, nil)
	spotter, chief := g.as(store.Spotter), g.as(store.Chief)
	at := g.begin(spotter, "")
	answer := func(c *client, form string) reply {
		v, _ := url.ParseQuery(form)
		return c.form(at, v)
	}
	if r := answer(spotter, "kind=answer&item=satellites&value=4"); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	if r := answer(spotter, "kind=override&item=satellites&reason=it is fine "+
		"today"); r.status != http.StatusUnprocessableEntity || !strings.Contains(text(r.body), "an instructor") {
		t.Errorf("a spotter overrides: %d %s", r.status, text(r.body))
	}
	if r := answer(chief, "kind=override&item=satellites&reason=ok"); !strings.Contains(text(r.body), "8 letters") {
		t.Errorf("without a reason: %d", r.status)
	}
	if r := answer(chief, "kind=override&item=satellites&reason=height hold only today"); r.status != http.StatusSeeOther {
		t.Errorf("%d %s", r.status, text(r.body))
	}
	if r := answer(chief, "kind=cleared"); r.status != http.StatusUnprocessableEntity || !strings.Contains(text(r.body),
		"not clear to fly") {
		t.Errorf("cleared with items open: %d %s", r.status, text(r.body))
	}
	if r := answer(chief, "kind=answer&item=craft-on&value=yes"); !strings.Contains(text(r.body), "Radio on") {
		t.Errorf("the craft before the radio: %s", text(r.body))
	}
	if page := text(chief.get(at).body); !strings.Contains(page, "overridden by The chief") || !strings.Contains(page,
		"height hold only today") {
		t.Error("the override is not in the record")
	}
}

func TestFleetFileComesAndGoes(t *testing.T) {
	a, b := newGround(t, nil), newSite(t)
	file := a.as(store.Chief).get("/fleet/file").body
	c := b.as(store.Chief)
	if r := c.send("/fleet/import", "fleet.yaml", file); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	if got := c.get("/fleet/file").body; got != file {
		t.Errorf("it went as\n%s\nand came back as\n%s", file, got)
	}
	r := c.send("/fleet/import", "fleet.yaml", strings.Replace(file, "lihv", "lipo", 1)+"craft: []\n")
	if r.status != http.StatusUnprocessableEntity || !strings.Contains(text(r.body), "fleet.yaml:") {
		t.Errorf("%d %s", r.status, text(r.body))
	}
}

// send sends a file by a form.
func (c *client) send(path, name, data string) reply {
	const edge = "xXedgeXx"
	body := fmt.Sprintf("--%s\r\nContent-Disposition: form-data; name=\"file\"; filename=%q\r\n\r\n%s\r\n--%s--\r\n", edge,
		name, data, edge)
	return c.request("POST", path, "multipart/form-data; boundary="+edge, strings.NewReader(body))
}

func TestStaleWindIsNeverTheWindOfNow(t *testing.T) {
	g := newGround(t, nil)
	c := g.as(store.Chief)
	if r := c.get("/wind"); !strings.Contains(r.body, "<b>3.0 m/s</b>") || !strings.Contains(r.body, "<svg") {
		t.Errorf("%s", r.body)
	}
	set := func(age time.Duration) {
		err := appStore.InSchool(bg, g.school, func(tx store.Tx) error {
			return tx.SetWindNow(bg, store.WindNow{At: time.Now().Add(-age), Mps: 6, Gust: 8, From: 200, LongMps: 5,
				LongGust: 9})
		})
		if err != nil {
			t.Fatal(err)
		}
	}
	g.app.Now = func() time.Time { return time.Now().Add(time.Hour) } // the typed wind is an hour old
	set(-time.Hour + 2*time.Second)
	if r := c.get("/wind"); !strings.Contains(r.body, "<b>6.0 m/s, gusts 8.0</b>") || !strings.Contains(r.body,
		"10 min 5.0 m/s, gusts 9.0") {
		t.Errorf("fresh: %s", r.body)
	}
	set(-time.Hour + 4*time.Minute)
	if r := c.get("/wind"); !strings.Contains(r.body, "wind last measured 4 min ago") ||
		strings.Contains(r.body, "<svg") ||
		strings.Contains(r.body, "<b>") {
		t.Errorf("stale: %s", r.body)
	}
	at := g.begin(c, "")
	if page := text(c.get(at).body); !strings.Contains(page, "the wind was last measured 4 min ago") {
		t.Error("a check takes a wind that is gone for the wind of now")
	}
}

// A meter that talks nonsense is said to, with a sentence as it should be, and
// what was heard before it began to stays as old as it is.
func TestAMeterThatLies(t *testing.T) {
	g := newGround(t, nil)
	c := g.as(store.Chief)
	set := func(w store.WindNow) {
		err := appStore.InSchool(bg, g.school, func(tx store.Tx) error {
			k, err := tx.Settings(bg)
			if err != nil {
				return err
			}
			k.MeterAddr = "127.0.0.1:9"
			return errors.Join(tx.KeepSettings(bg, k), tx.SetWindNow(bg, w))
		})
		if err != nil {
			t.Fatal(err)
		}
	}
	set(store.WindNow{Dropped: 7, Why: "no check sum"})
	page := text(c.get("/sites").body)
	if !strings.Contains(page, "none of its 7 sentences was sound (no check sum)") || strings.Contains(page, "2 minutes") {
		t.Errorf("%s", page)
	}
	if _, err := air.ParseMWV(regexp.MustCompile(`\$WIMWV\S+[0-9A-F]`).FindString(page)); err != nil {
		t.Errorf("the example that the page gives: %v", err)
	}
	if w := text(c.get("/fleet").body); !strings.Contains(w, "Fleet") {
		t.Error("no other page minds")
	}
	set(store.WindNow{At: time.Now().Add(-9 * time.Minute), Mps: 4, Gust: 6, LongMps: 4, LongGust: 6, Sound: 5})
	set(store.WindNow{Dropped: 30, Why: "no check sum"})
	if page := text(c.get("/sites").body); !strings.Contains(page, "last heard 9 min ago") || !strings.Contains(page,
		"30 dropped") {
		t.Errorf("%s", page)
	}
}

func TestUndoGoesBackAndFurther(t *testing.T) {
	g := newGround(t, nil)
	c := g.as(store.Chief)
	sources := []string{g.source()}
	for i := range 3 {
		v := url.Values{"do": {"move"}, "what": {"marker:centre"}, "x": {fmt.Sprint(i + 1)}, "y": {"9"}}
		if r := c.form(g.at("/courses/:course"), v); r.status != http.StatusSeeOther {
			t.Fatalf("%d", r.status)
		}
		sources = append(sources, g.source())
	}
	undo := func() { c.form(g.at("/courses/:course"), url.Values{"do": {"undo"}}) }
	for i := 2; i >= 0; i-- {
		undo()
		if g.source() != sources[i] {
			t.Errorf("after %d undos the course is not version %d", 3-i, i+1)
		}
	}
	c.form(g.at("/courses/:course"), url.Values{"do": {"restore"}, "seq": {"4"}})
	if g.source() != sources[3] {
		t.Error("version 4 did not come back")
	}
	if n := g.count("course_versions"); n != 8 {
		t.Errorf("%d versions: nothing is ever lost", n)
	}
}

// BenchmarkRedraw200 is the answer to a marker that was dragged, on a course of
// two hundred objects.
func BenchmarkRedraw200(b *testing.B) {
	laid, _ := course.Lay("five-markers", craft.Light)
	laid.Plane, _ = field.NewPlane(field.Geo{LatDeg: 44.95, LonDeg: 13.05}, 90)
	for i := range 200 - len(laid.Markers) {
		laid.Hazards = append(laid.Hazards, course.Hazard{Kind: []string{"tree", "post"}[i%2],
			At: []field.Point{{X: float64(i%20-10) * 6, Y: 25 + float64(i/20)*6}}, HeightM: 6})
	}
	g := newGround(b, laid)
	c := g.as(store.Chief)
	i := 0
	for b.Loop() {
		i++
		v := url.Values{"do": {"move"}, "what": {"marker:near-left"}, "x": {fmt.Sprint(-3 - float64(i%10)/10)}, "y": {"6"}}
		req, _ := http.NewRequest("POST", g.url+g.at("/courses/:course"), strings.NewReader(v.Encode()))
		req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		req.Header.Set("HX-Request", "true")
		if r := c.do(req); r.status != http.StatusOK || !strings.Contains(r.body, "course-plan") {
			b.Fatalf("%d %s", r.status, r.body[:min(300, len(r.body))])
		}
	}
}
