package web

import (
	"bufio"
	"context"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"maestrale/core/school"
	"maestrale/internal/store"
)

var linkShown = regexp.MustCompile(`value="https?://[^"/]+(/join/[^"]+)"`)

// link is the address of the link that a page shows.
func (r reply) link(t *testing.T) string {
	t.Helper()
	m := linkShown.FindStringSubmatch(r.body)
	if r.status != http.StatusOK || m == nil {
		t.Fatalf("no link is shown: %d %s", r.status, text(r.body))
	}
	return m[1]
}

func joining(email string) url.Values {
	return url.Values{"name": {"New Person"}, "email": {email}, "password": {"la torre del faro"}}
}

// An invitation makes one account, once, with the role that it says; the address is kept nowhere.
func TestAnInvitation(t *testing.T) {
	s := newSite(t)
	chief := s.as(store.Chief)
	at := chief.form("/people/links", url.Values{"role": {"instructor"}, "name": {"Eva"}, "back": {"/people"}}).link(t)
	if p := chief.get("/people").body; strings.Contains(p, at) || !strings.Contains(text(p), "open until") {
		t.Error("the list shows the address, or not that it is open")
	}
	email := "eva-" + s.school.String() + "@x.example"
	guest := s.as("")
	if p := text(guest.get(at).body); !strings.Contains(p, "You are invited as instructor") || !strings.Contains(p,
		"Test school") {
		t.Errorf("the invitation says %s", p)
	}
	for want, form := range map[string]url.Values{"12 or more": {"name": {"E"}, "email": {email}, "password": {"short"}},
		"is not an e-mail": joining("eva"), "has no name": {"email": {email}, "password": {"la torre del faro"}},
		"has an account already": joining(s.emails[store.Spotter])} {
		if r := guest.form(at, form); r.status < 400 || !strings.Contains(text(r.body), want) {
			t.Errorf("%s: %d %s", want, r.status, text(r.body))
		}
	}
	if n := s.count("accounts"); n != 4 {
		t.Fatalf("%d accounts after refusals", n)
	}
	if r := guest.form(at, joining(email)); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	if r := guest.get("/students"); r.status != 200 {
		t.Errorf("who joined is not signed in: %d", r.status)
	}
	if r := guest.get("/people"); r.status != http.StatusForbidden {
		t.Errorf("an instructor sees the people: %d", r.status)
	}
	again := s.as("")
	if r := again.form(at, joining("b"+email)); r.status != http.StatusGone || s.count("accounts") != 5 {
		t.Errorf("the link again: %d, %d accounts", r.status, s.count("accounts"))
	}
}

func TestLinksThatCannotBeUsed(t *testing.T) {
	now := time.Now()
	s := siteWith(t, func(o *Options) { o.Now = func() time.Time { return now } })
	chief := s.as(store.Chief)
	invite := func(form url.Values) string { return chief.form("/people/links", form).link(t) }
	late := invite(url.Values{"role": {"spotter"}})
	revoked := invite(url.Values{"role": {"spotter"}, "name": {"Ugo"}})
	if r := chief.form("/people/links/"+idBefore(t, chief.get("/people").body, `action="/people/links/`),
		nil); r.status != http.StatusSeeOther {
		t.Errorf("taken back: %d", r.status)
	}
	if r := s.as("").get(revoked); r.status != http.StatusGone || !strings.Contains(r.body, "withdrawn") {
		t.Errorf("a link that was taken back: %d", r.status)
	}
	first := invite(url.Values{"role": {"student"}, "student": {s.other.String()}})
	second := invite(url.Values{"role": {"student"}, "student": {s.other.String()}})
	if r := s.as("").get(first); r.status != http.StatusGone {
		t.Errorf("the older link of a student: %d", r.status)
	}
	if r := s.as("").get(second); r.status != http.StatusOK {
		t.Errorf("the newer one: %d", r.status)
	}
	if r := chief.form("/people/links", url.Values{"student": {s.student.String()}}); r.status != 422 ||
		!strings.Contains(r.body, "has an account already") {
		t.Errorf("a second account for a student: %d", r.status)
	}
	if r := chief.form("/people/links", url.Values{"role": {"student"}}); r.status != 422 {
		t.Errorf("a student without a record: %d", r.status)
	}
	if r := chief.form("/people/links", url.Values{"role": {"owner"}}); r.status != 422 {
		t.Errorf("an unknown role: %d", r.status)
	}
	now = now.AddDate(0, 0, school.LinkDays)
	if r := s.as("").get(late); r.status != http.StatusGone || !strings.Contains(r.body, "seven days") {
		t.Errorf("after seven days: %d", r.status)
	}
	if r := s.as("").get("/join/" + school.NewAddress()); r.status != http.StatusNotFound {
		t.Errorf("an address that never was one: %d", r.status)
	}
}

// A changed role and a closed account take effect with the next request; the last chief stays.
func TestRolesAndClosedAccounts(t *testing.T) {
	s := newSite(t)
	chief, teacher := s.as(store.Chief), s.as(store.Instructor)
	id := func(role string) string { a := account(t, s, role); return uuidText(a) }
	act := func(c *client, role string, form url.Values) reply { return c.form("/people/"+id(role), form) }
	self := id(store.Chief)
	for _, form := range []url.Values{{"do": {"close"}}, {"do": {"role"}, "role": {"spotter"}}} {
		if r := chief.form("/people/"+self, form); r.status != 422 || !strings.Contains(r.body, "last chief") {
			t.Errorf("%v of the last chief: %d", form, r.status)
		}
	}
	if r := act(chief, store.Learner, url.Values{"do": {"role"}, "role": {"instructor"}}); r.status != 422 {
		t.Errorf("a student becomes an instructor: %d", r.status)
	}
	if r := act(teacher, store.Spotter, url.Values{"do": {"close"}}); r.status != http.StatusForbidden {
		t.Errorf("an instructor closes an account: %d", r.status)
	}
	teacherID := id(store.Instructor)
	if r := chief.form("/people/"+teacherID, url.Values{"do": {"role"},
		"role": {"spotter"}}); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	if r := teacher.form("/students", url.Values{"name": {"X"}}); r.status != http.StatusForbidden {
		t.Errorf("a spotter adds a student: %d", r.status)
	}
	chief.form("/people/"+teacherID, url.Values{"do": {"role"}, "role": {"chief"}})
	if r := teacher.get("/people"); r.status != 200 {
		t.Errorf("a new chief: %d", r.status)
	}
	if r := teacher.form("/people/"+self, url.Values{"do": {"close"}}); r.status != http.StatusSeeOther {
		t.Errorf("one of two chiefs is closed: %d %s", r.status, text(r.body))
	}
	if r := chief.get("/students"); r.status != http.StatusSeeOther {
		t.Errorf("a closed account: %d", r.status)
	}
	if r := s.as("").form("/sign-in", url.Values{"email": {s.emails[store.Chief]},
		"password": {"secret"}}); r.status != http.StatusUnauthorized {
		t.Errorf("a closed account signs in: %d", r.status)
	}
	teacher.form("/people/"+self, url.Values{"do": {"open"}})
	if r := s.as(store.Chief).get("/students"); r.status != 200 {
		t.Errorf("reopened: %d", r.status)
	}
	if r := chief.get("/students"); r.status != http.StatusSeeOther {
		t.Errorf("the sign-in from before is good again: %d", r.status)
	}
}

func uuidText(id [16]byte) string { return uuid.UUID(id).String() }

// An answer that goes on ends soon after the account was closed, or the role may no longer be there.
func TestLiveAnswersEnd(t *testing.T) {
	s := siteWith(t, func(o *Options) { o.Recheck = 30 * time.Millisecond })
	chief := s.as(store.Chief)
	for _, how := range []string{"the account is closed", "the sign-in is ended elsewhere"} {
		teacher := s.as(store.Instructor)
		req, _ := http.NewRequestWithContext(t.Context(), "GET", s.url+"/today/live", nil)
		r, err := teacher.Do(req)
		if err != nil || r.StatusCode != 200 {
			t.Fatal(err)
		}
		lines := bufio.NewScanner(r.Body)
		if !lines.Scan() {
			t.Fatal("the answer ended at once")
		}
		id := uuidText(account(t, s, store.Instructor))
		if how == "the account is closed" {
			if got := chief.form("/people/"+id, url.Values{"do": {"close"}}); got.status != http.StatusSeeOther {
				t.Fatalf("%d", got.status)
			}
		} else {
			elsewhere := s.as(store.Instructor)
			elsewhere.form("/account/sign-ins", nil)
		}
		ended := make(chan bool, 1)
		go func() {
			for lines.Scan() {
			}
			ended <- true
		}()
		select {
		case <-ended:
		case <-time.After(time.Minute):
			t.Fatalf("the answer goes on once %s", how)
		}
		_ = r.Body.Close()
		if how == "the account is closed" {
			chief.form("/people/"+id, url.Values{"do": {"open"}})
		}
	}
}

// So does a connection of its own: the line over which an instructor watches a student fly.
func TestWatchersAreCutOff(t *testing.T) {
	s := siteWith(t, func(o *Options) { o.Recheck = 30 * time.Millisecond })
	chief, teacher := s.as(store.Chief), s.as(store.Instructor)
	line := teacher.line("/students/" + s.student.String() + "/watch/live")
	if r := chief.form("/people/"+uuidText(account(t, s, store.Instructor)),
		url.Values{"do": {"close"}}); r.status != http.StatusSeeOther {
		t.Fatal(r.status)
	}
	ctx, cancel := context.WithTimeout(bg, time.Minute)
	defer cancel()
	for {
		if _, _, err := line.Read(ctx); err != nil {
			if ctx.Err() != nil {
				t.Error("a closed account watches on")
			}
			return
		}
	}
}

// The own account: the password is changed with the present one, which signs out everywhere else; a person sees where
// they are signed in, and ends it there or everywhere.
func TestTheOwnAccount(t *testing.T) {
	s := newSite(t)
	here, there := s.as(store.Spotter), s.as(store.Spotter)
	if p := text(here.get("/account").body); strings.Count(p, "last seen") != 2 || strings.Count(p, "here") < 1 {
		t.Errorf("the sign-ins: %s", p)
	}
	change := func(old, fresh string) reply {
		return here.form("/account/password", url.Values{"old": {old}, "new": {fresh}})
	}
	for want, r := range map[string]reply{"the current password is wrong": change("wrong", "la torre del faro"),
		"12 or more": change("secret", "secret"), "common ones": change("secret", "passwordpassword")} {
		if r.status != 422 || !strings.Contains(text(r.body), want) {
			t.Errorf("%s: %d %s", want, r.status, text(r.body))
		}
	}
	if r := there.get("/students"); r.status != 200 {
		t.Fatalf("signed out by refusals: %d", r.status)
	}
	if r := change("secret", "la torre del faro"); r.status != 200 {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	if h, o := here.get("/students"), there.get("/students"); h.status != 200 || o.status != http.StatusSeeOther {
		t.Errorf("here %d, there %d", h.status, o.status)
	}
	in := func() *client {
		c := s.as("")
		if r := c.form("/sign-in", url.Values{"email": {s.emails[store.Spotter]},
			"password": {"la torre del faro"}}); r.status != http.StatusSeeOther {
			t.Fatalf("the new password: %d", r.status)
		}
		return c
	}
	second, third := in(), in()
	one := idBefore(t, here.get("/account").body, `action="/account/sign-ins/`)
	if r := here.form("/account/sign-ins/"+one, nil); r.status != http.StatusSeeOther {
		t.Errorf("ended there: %d", r.status)
	}
	if a, b := second.get("/students").status, third.get("/students").status; a+b != 200+http.StatusSeeOther {
		t.Errorf("one of two was ended: %d, %d", a, b)
	}
	if r := s.as(store.Chief).form("/account/sign-ins/"+one, nil); r.status != http.StatusNotFound {
		t.Errorf("another person's sign-in: %d", r.status)
	}
	here.form("/account/sign-ins", nil)
	if second.get("/students").status == 200 || third.get("/students").status == 200 ||
		here.get("/students").status != 200 {
		t.Error("everywhere else is not signed out, or here is")
	}
	here.form("/account/sign-ins", url.Values{"here": {"too"}})
	if here.get("/students").status == 200 {
		t.Error("here too was asked")
	}
}

// A link for a new password works once, ends what was signed in, and says whose account it is.
func TestAPasswordLink(t *testing.T) {
	s := newSite(t)
	chief, spotter := s.as(store.Chief), s.as(store.Spotter)
	at := chief.form("/people/"+uuidText(account(t, s, store.Spotter)), url.Values{"do": {"link"}}).link(t)
	if r := spotter.get("/students"); r.status != 200 {
		t.Error("the link alone signs out")
	}
	guest := s.as("")
	if p := guest.get(at); !strings.Contains(p.body, s.emails[store.Spotter]) || strings.Contains(p.body, `name="email"`) {
		t.Error("the page does not say whose account it is, or lets it be chosen")
	}
	if r := guest.form(at, url.Values{"password": {"la torre del faro"}}); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	if guest.get("/students").status != 200 || spotter.get("/students").status == 200 {
		t.Error("who has the new password is not in, or who had the old one is")
	}
	if r := s.as("").form(at, url.Values{"password": {"la torre del molo"}}); r.status != http.StatusGone {
		t.Errorf("again: %d", r.status)
	}
}

// Of two who use one link at the same time one comes in.
func TestALinkUsedTwiceAtOnce(t *testing.T) {
	s := newSite(t)
	at := s.as(store.Chief).form("/people/links", url.Values{"role": {"spotter"}}).link(t)
	status := make(chan int, 6)
	for i := range 6 {
		go func() {
			status <- s.as("").form(at, joining(string(rune('a'+i))+"-"+s.school.String()+"@x.example")).status
		}()
	}
	in := 0
	for range 6 {
		switch st := <-status; st {
		case http.StatusSeeOther:
			in++
		case http.StatusGone:
		default:
			t.Errorf("an answer %d", st)
		}
	}
	if in != 1 || s.count("accounts") != 5 {
		t.Errorf("%d came in, %d accounts", in, s.count("accounts"))
	}
}

// Links, accounts, sign-ins and passkeys of another school are unreachable.
func TestAnotherSchoolsPeople(t *testing.T) {
	a, b := newSite(t), newSite(t)
	mine, theirs := a.as(store.Chief), b.as(store.Chief)
	theirs.form("/people/links", url.Values{"role": {"spotter"}})
	key := store.Passkey{ID: store.NewID(), Name: "Phone", Host: "localhost", Body: []byte("{}"), MadeAt: time.Now()}
	if err := appStore.InSchool(bg, b.school, func(tx store.Tx) error {
		return tx.AddPasskey(bg, account(t, b, store.Chief), key, key.ID[:])
	}); err != nil {
		t.Fatal(err)
	}
	link := idBefore(t, theirs.get("/people").body, `action="/people/links/`)
	for path, form := range map[string]url.Values{"/people/links/" + link: nil,
		"/people/" + uuidText(account(t, b, store.Spotter)):           {"do": {"close"}},
		"/people/" + uuidText(account(t, b, store.Learner)):           {"do": {"link"}},
		"/account/passkeys/" + key.ID.String():                        nil,
		"/people/" + uuidText(account(t, b, store.Spotter)) + "/sign": {"do": {"take"}}} {
		if r := mine.form(path, form); r.status != http.StatusNotFound {
			t.Errorf("%s of another school: %d", path, r.status)
		}
	}
	if r := mine.form("/people/links", url.Values{"role": {"student"},
		"student": {b.student.String()}}); r.status != http.StatusNotFound {
		t.Errorf("an invitation for another school's student: %d", r.status)
	}
	// A colleague's passkey is as unreachable as another school's.
	if r := b.as(store.Instructor).form("/account/passkeys/"+key.ID.String(), nil); r.status != http.StatusNotFound ||
		b.count("passkeys") != 1 {
		t.Errorf("a colleague's passkey: %d", r.status)
	}
	if p := mine.get("/people").body; strings.Contains(p, b.emails[store.Spotter]) {
		t.Error("another school's people are listed")
	}
}

// The school's own page: a new name leaves what was signed under the old one, and a closed school only reads.
func TestTheSchoolPage(t *testing.T) {
	s := newSite(t)
	chief, teacher := s.as(store.Chief), s.as(store.Instructor)
	s.maySign(time.Now().Add(time.Hour))
	at := "/students/" + s.other.String()
	for _, act := range []string{"briefing", "cautions", "preflight-unprompted"} {
		teacher.form(at+"/witnessed", url.Values{"act": {act}})
	}
	teacher.form(at+"/sign-offs", url.Values{"gate": {"supervised"}})
	sign := idBefore(t, teacher.get(at+"/gates/supervised").body, `action="/sign-offs/`)
	confirm := url.Values{"do": {"witness"}, "cautions": {"read"}, "typed": {"Second Student"}, "undrawn": {"yes"}}
	if r := teacher.form("/sign-offs/"+sign, confirm); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	card := regexp.MustCompile(`href="https?://[^"/]+(/check/[^"]+)"`).FindStringSubmatch(
		teacher.form("/sign-offs/"+sign, url.Values{"do": {"card"}}).body)
	if card == nil {
		t.Fatal("no card")
	}
	settings := url.Values{"name": {"A new name"}, "zone": {"Europe/Lisbon"}, "length": {"ft"}, "speed": {"mph"}}
	if r := teacher.form("/school", settings); r.status != http.StatusForbidden {
		t.Errorf("an instructor names the school: %d", r.status)
	}
	if r := chief.form("/school", settings); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	if p := text(s.as("").get(card[1]).body); !strings.Contains(p, "Test school (now A new name)") {
		t.Errorf("the card says %s", p)
	}
	if p := text(teacher.get("/school").body); !strings.Contains(p, "Europe/Lisbon, feet and miles per hour") {
		t.Errorf("the page says %s", p)
	}
	for want, change := range map[string]string{"time zone": "zone", "unit of speed": "speed", "has no name": "name"} {
		form := url.Values{}
		for k, v := range settings {
			form[k] = v
		}
		form.Set(change, "")
		if r := chief.form("/school", form); r.status != 422 || !strings.Contains(text(r.body), want) {
			t.Errorf("without %s: %d %s", change, r.status, text(r.body))
		}
	}
	if r := chief.form("/school/close", url.Values{"name": {"Test school"}}); r.status != 422 {
		t.Errorf("closed under a name that it had: %d", r.status)
	}
	if r := chief.form("/school/close", url.Values{"name": {"A new name"}}); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	if r := teacher.get("/students"); r.status != http.StatusSeeOther {
		t.Errorf("an instructor of a closed school: %d", r.status)
	}
	if r := chief.form("/students", url.Values{"name": {"X"}, "programme": {"hands-first"},
		"craft": {"gheppio"}}); r.status != http.StatusConflict || s.count("students") != 2 {
		t.Errorf("a student is added to a closed school: %d", r.status)
	}
	if r := chief.get("/records/everything.zip"); r.status != 200 {
		t.Errorf("its records are taken out: %d", r.status)
	}
	if r := s.as("").get(card[1]); r.status != 200 {
		t.Errorf("its cards are checked: %d", r.status)
	}
	if r := chief.form("/school/open", nil); r.status != http.StatusSeeOther ||
		s.as(store.Instructor).get("/students").status != 200 {
		t.Errorf("opened again: %d", r.status)
	}
}
