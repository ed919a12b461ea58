package web

import (
	"encoding/base64"
	"encoding/json"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"maestrale/internal/sealed"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// padKey is what a sign-in's device is told.
type padKey struct {
	SignIn uuid.UUID `json:"sign_in"`
	Key    uuid.UUID `json:"key"`
	Public string    `json:"public"`
	Secret string    `json:"secret"`
}

func (c *client) padKey() (k padKey) {
	c.s.t.Helper()
	r := c.get("/pad/key")
	if err := json.Unmarshal([]byte(r.body), &k); err != nil || r.status != http.StatusOK {
		c.s.t.Fatal(r.status, r.body, err)
	}
	return k
}

// seal seals a request under a sign-in.
func (k padKey) seal(t testing.TB, kind string, id uuid.UUID, path string, body any) sealed.Envelope {
	t.Helper()
	data, err := json.Marshal(body)
	if err != nil {
		t.Fatal(err)
	}
	d, _ := json.Marshal(frame.Delivery{Path: path, Type: "application/json", Body: string(data)})
	public, _ := base64.StdEncoding.DecodeString(k.Public)
	secret, _ := base64.StdEncoding.DecodeString(k.Secret)
	e := sealed.Envelope{Kind: kind, ID: id, SignIn: k.SignIn, Key: k.Key}
	if err := sealed.Seal(&e, public, secret, d); err != nil {
		t.Fatal(err)
	}
	return e
}

// hoverOf is a hover of a student that a device has sealed.
func (k padKey) hoverOf(s *site, student, device uuid.UUID, seq int64, at time.Time) sealed.Envelope {
	id := store.NewID()
	m := hoverMarks(id.String())
	m["opening"].(map[string]any)["device_at"] = at
	server := float64(at.Add(-time.Minute).UnixMilli()) // Mono was zero a minute before
	m["from"] = map[string]any{"device": device, "seq": seq, "stretch": "a", "mono_ms": 60_000,
		"stretches": []any{map[string]any{"id": "a", "cut": "opened", "wall_ms": 5e11, "server_ms": server, "round_ms": 80}}}
	return k.seal(s.t, "attempt", id, "/students/"+student.String()+"/marks", m)
}

type delivered struct {
	Items []struct {
		ID                 uuid.UUID
		Taken, Held, Final bool
		Status             int
		Error              string
		Said               json.RawMessage
	}
}

func (c *client) deliver(device uuid.UUID, items ...sealed.Envelope) (out delivered) {
	c.s.t.Helper()
	r := c.json("/pad/sealed", map[string]any{"device": device, "name": "a phone", "items": items})
	if err := json.Unmarshal([]byte(r.body), &out); err != nil || r.status != http.StatusOK {
		c.s.t.Fatal(r.status, r.body, err)
	}
	return out
}

// What was sealed under the sign-in that delivers it is kept once, in its name and at its time.
func TestWhatADeviceSealedIsTaken(t *testing.T) {
	s := newSite(t)
	c, device := s.as(store.Instructor), store.NewID()
	k := c.padKey()
	at := time.Now().Add(-3 * time.Hour).Truncate(time.Millisecond)
	e := k.hoverOf(s, s.student, device, 1, at)
	for range 3 {
		got := c.deliver(device, e)
		if it := got.Items[0]; !it.Taken || !it.Final || it.Held || !strings.Contains(string(it.Said), `"verdict":"pass"`) {
			t.Fatalf("%+v", it)
		}
	}
	if a, m := s.count("attempts"), s.count("marks"); a != 1 || m != 4 {
		t.Errorf("%d attempts, %d marks", a, m)
	}
	if times := s.times("a.at"); times[0].Sub(at).Abs() > time.Second {
		t.Errorf("dated %v, flown %v", times[0], at)
	}
}

// A student who holds an instructor's phone passes nobody: what is made without the secret is refused, and what is made
// under a sign-in that has ended waits for a person.
func TestNobodyMarksInTheNameOfAnother(t *testing.T) {
	s := newSite(t)
	teacher, pupil, device := s.as(store.Instructor), s.as(store.Learner), store.NewID()
	theirs, own := teacher.padKey(), pupil.padKey()
	forged := own // the student knows the sign-in, and not its secret
	forged.SignIn = theirs.SignIn
	got := teacher.deliver(device, forged.hoverOf(s, s.student, device, 1, time.Now().Add(-time.Hour)))
	if it := got.Items[0]; it.Taken || !it.Final || !strings.Contains(it.Error, "proof") {
		t.Errorf("a forged attempt: %+v", it)
	}
	// With their own secret they are themselves, who may not mark.
	got = pupil.deliver(store.NewID(), own.hoverOf(s, s.student, device, 1, time.Now().Add(-time.Hour)))
	if it := got.Items[0]; it.Taken || it.Status != http.StatusForbidden {
		t.Errorf("the student's own: %+v", it)
	}
	if n := s.count("attempts") + s.count("openings") + s.count("held"); n != 0 {
		t.Errorf("%d rows", n)
	}
	// Addresses that do not take what is sealed.
	for _, path := range []string{"/school", "/people/links", "/held/" + store.NewID().String(), "https://x.example/marks",
		"/students//marks", "/students/x/marks/y"} {
		got = teacher.deliver(device, theirs.seal(t, "attempt", store.NewID(), path, map[string]any{}))
		if it := got.Items[0]; it.Taken || !strings.Contains(it.Error, "no address") {
			t.Errorf("%s: %+v", path, it)
		}
	}
	if r := s.as("").json("/pad/sealed", map[string]any{"items": []any{}}); r.status != http.StatusUnauthorized {
		t.Errorf("signed out: %d", r.status)
	}
}

// A pad that seals nothing says which sign-in opened it: another one that has taken its place sends nothing for it.
func TestAPlainPadIsThatOfItsSignIn(t *testing.T) {
	s := newSite(t)
	first := s.as(store.Instructor)
	m := hoverMarks(store.NewID().String())
	m["from"] = map[string]any{"device": store.NewID(), "seq": 1, "sign_in": first.padKey().SignIn}
	path := "/students/" + s.student.String() + "/marks"
	if r := s.as(store.Chief).json(path, m); r.status != http.StatusUnprocessableEntity ||
		!strings.Contains(r.body, "another sign-in") {
		t.Errorf("%d %s", r.status, r.body)
	}
	if r := first.json(path, m); r.status != http.StatusOK || s.count("attempts") != 1 {
		t.Errorf("%d %s", r.status, r.body)
	}
}

// What was made under another sign-in waits for whoever made it or a chief, whoever delivers it; it is then kept in the
// name of who made it.
func TestAnotherSignInsMarksWait(t *testing.T) {
	s := newSite(t)
	before, device := s.as(store.Instructor), store.NewID()
	k := before.padKey()
	one := k.hoverOf(s, s.student, device, 1, time.Now().Add(-2*time.Hour))
	two := k.hoverOf(s, s.other, device, 2, time.Now().Add(-time.Hour))
	before.form("/sign-out", nil)
	// The spotter signs in on that phone, and the phone delivers.
	spotter := s.as(store.Spotter)
	for range 2 {
		for _, it := range spotter.deliver(device, one, two).Items {
			if !it.Held || !it.Final || it.Taken {
				t.Fatalf("%+v", it)
			}
		}
	}
	if s.count("attempts") != 0 || s.count("held") != 2 {
		t.Fatalf("%d attempts, %d held", s.count("attempts"), s.count("held"))
	}
	if p := text(spotter.get("/held").body); strings.Contains(p, "First Student") {
		t.Error("the spotter sees what somebody else made")
	}
	if r := spotter.form("/held/"+s.held(one.ID), url.Values{"do": {"keep"}}); r.status != http.StatusNotFound {
		t.Errorf("the spotter decides: %d", r.status)
	}
	again, chief, heldTwo := s.as(store.Instructor), s.as(store.Chief), s.held(two.ID)
	page := text(again.get("/held").body)
	for _, want := range []string{"An attempt of First Student", "you, under an earlier sign-in", "✓ pass"} {
		if !strings.Contains(page, want) {
			t.Errorf("no %q in %s", want, page)
		}
	}
	if s.count("attempts")+s.count("openings") != 0 {
		t.Error("looking at it has kept it")
	}
	if p := text(again.get("/today").body); !strings.Contains(p, "2 items wait for a decision") {
		t.Errorf("Today says nothing: %.300s", p)
	}
	if r := again.form("/held/"+s.held(one.ID), url.Values{"do": {"keep"}}); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	if r := chief.form("/held/"+heldTwo, url.Values{"do": {"drop"}}); r.status != http.StatusUnprocessableEntity {
		t.Errorf("thrown away without a reason: %d", r.status)
	}
	if r := chief.form("/held/"+heldTwo, url.Values{"do": {"keep"}}); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	if r := chief.form("/held/"+heldTwo, url.Values{"do": {"keep"}}); r.status != http.StatusNotFound {
		t.Errorf("decided twice: %d", r.status)
	}
	var by, wrong int
	err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
		return tx.QueryRow(bg, `SELECT count(*) FILTER (WHERE recorded_by = $1),
			count(*) FILTER (WHERE recorded_by <> $1) FROM attempts`, s.person(store.Instructor).ID).Scan(&by, &wrong)
	})
	if err != nil || by != 2 || wrong != 0 {
		t.Errorf("%d in the instructor's name, %d in another, %v", by, wrong, err)
	}
}

// held is the id under which an item waits.
func (s *site) held(item uuid.UUID) (id string) {
	s.t.Helper()
	err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
		return tx.QueryRow(bg, `SELECT id::text FROM held WHERE item = $1 ORDER BY delivered_at DESC LIMIT 1`, item).Scan(&id)
	})
	if err != nil {
		s.t.Fatal(err)
	}
	return id
}

// An attempt that is delivered again with more marks in it, after somebody else has signed in, waits with all of them.
func TestWhatWaitsCanGrow(t *testing.T) {
	s := newSite(t)
	before, device := s.as(store.Instructor), store.NewID()
	k := before.padKey()
	id := store.NewID()
	whole := hoverMarks(id.String())
	list := whole["marks"].([]any)
	path := "/students/" + s.student.String() + "/marks"
	part := map[string]any{"opening": whole["opening"], "marks": list[:1], "now_s": 1}
	chief := s.as(store.Chief)
	chief.deliver(device, k.seal(t, "attempt", id, path, part))
	chief.deliver(device, k.seal(t, "attempt", id, path, whole))
	chief.deliver(device, k.seal(t, "attempt", id, path, part)) // and once more what it was
	if page := text(chief.get("/held").body); strings.Count(page, "An attempt of First Student") != 1 ||
		!strings.Contains(page, "✓ pass") {
		t.Fatal(page)
	}
	var held []store.Held
	err := appStore.InSchool(bg, s.school, func(tx store.Tx) (err error) {
		held, err = tx.HeldFor(bg, nil)
		return err
	})
	if err != nil || len(held) != 1 {
		t.Fatal(held, err)
	}
	chief.form("/held/"+held[0].ID.String(), url.Values{"do": {"keep"}})
	if a, m := s.count("attempts"), s.count("marks"); a != 1 || m != 4 {
		t.Errorf("%d attempts, %d marks", a, m)
	}
	if page := text(chief.get("/held").body); !strings.Contains(page, "Nothing waits") {
		t.Error(page)
	}
}

// A phone that is used at two schools delivers each school's marks to that school alone.
func TestAPhoneOfTwoSchools(t *testing.T) {
	a, b := newSite(t), newSite(t)
	phone := store.NewID()
	first := a.as(store.Instructor)
	k := first.padKey()
	e := k.hoverOf(a, a.student, phone, 1, time.Now().Add(-time.Hour))
	first.form("/sign-out", nil)
	second := b.as(store.Instructor)
	if it := second.deliver(store.NewID(), e).Items[0]; !it.Held {
		t.Errorf("%+v", it)
	}
	if b.count("held")+b.count("attempts") != 0 || a.count("held") != 1 {
		t.Errorf("%d at the other school, %d at its own", b.count("held"), a.count("held"))
	}
	if p := text(b.as(store.Chief).get("/held").body); strings.Contains(p, "First Student") {
		t.Error("the other school sees it")
	}
}

// Dates that an earlier version got wrong are listed for the chief, who corrects them.
func TestMisdatedAttemptsAreListed(t *testing.T) {
	s := newSite(t)
	chief, device := s.as(store.Chief), store.NewID()
	who := s.person(store.Instructor)
	day := time.Now().Add(-24 * time.Hour).Truncate(time.Second)
	err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
		if err := tx.Seen(bg, device, who.ID, "old"); err != nil {
			return err
		}
		for _, x := range []struct {
			seq     int64
			at, say time.Duration // as it was flown, and as it was stored
		}{{1, 0, 0}, {0, 61 * time.Second, -time.Millisecond}, {2, 5 * time.Minute, 5 * time.Minute}} {
			began, seq := day.Add(x.say), x.seq
			id := store.NewID()
			d := shipped().Drills["hover-tail-in"]
			if _, err := tx.Open(bg, store.Opening{ID: id, StudentID: s.student, Drill: d.Key, Side: "none", Level: 1,
				Aids: "position-hold", CraftType: "poiana", OpenedBy: who.ID, DeviceAt: day.Add(x.at),
				DrillSource: string(d.Source), DeviceID: &device, DeviceSeq: &seq, BeganAt: &began}); err != nil {
				return err
			}
			s.keepAt(tx, id, began)
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	page := text(chief.get("/held").body)
	if n := strings.Count(page, "numbered what this device sent wrongly"); n != 1 {
		// The one that was stored in its place is not misdated: its own date is right.
		t.Fatalf("%d are listed: %s", n, page)
	}
	var id uuid.UUID
	err = appStore.InSchool(bg, s.school, func(tx store.Tx) error {
		list, err := tx.Misdated(bg)
		id = list[0].ID
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	if r := s.as(store.Instructor).form("/held/dates/"+id.String(), nil); r.status != http.StatusForbidden {
		t.Errorf("an instructor: %d", r.status)
	}
	if r := chief.form("/held/dates/"+id.String(), url.Values{"do": {"device"}}); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	var at time.Time
	err = appStore.InSchool(bg, s.school, func(tx store.Tx) error {
		return tx.QueryRow(bg, `SELECT at FROM attempts WHERE corrects = $1`, id).Scan(&at)
	})
	if err != nil || at.Sub(day.Add(61*time.Second)).Abs() > time.Millisecond {
		t.Errorf("%v %v", at, err)
	}
	if page := text(chief.get("/held").body); strings.Contains(page, "numbered") {
		t.Error("it is still listed")
	}
}

// keepAt keeps a pass of a hover under an id and at a moment.
func (s *site) keepAt(tx store.Tx, id uuid.UUID, at time.Time) {
	s.t.Helper()
	a := passOf(id, at, s.person(store.Instructor).ID)
	a.StudentID = s.student
	if _, err := tx.Keep(bg, s.student, a); err != nil {
		s.t.Fatal(err)
	}
}
