package web

import (
	"context"
	"fmt"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"sync"
	"testing"

	"github.com/jackc/pgx/v5"

	"maestrale/core/drill"
	"maestrale/core/school"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// emptyServer is a server on a database of its own that has no school, with a setup code.
func emptyServer(t *testing.T) (at string, st *store.Store, code string) {
	t.Helper()
	name := "empty_" + strings.ReplaceAll(store.NewID().String(), "-", "")
	conn, err := pgx.Connect(bg, ownerURL)
	if err != nil {
		t.Fatal(err)
	}
	defer conn.Close(bg) //nolint:errcheck // a test's
	if _, err := conn.Exec(bg, "CREATE DATABASE "+name); err != nil {
		t.Fatal(err)
	}
	u := mustURL(ownerURL)
	u.Path = "/" + name
	if err := store.Migrate(bg, u.String()); err != nil {
		t.Fatal(err)
	}
	if st, err = store.Open(bg, u.String(), nil); err != nil {
		t.Fatal(err)
	}
	app, err := New(Options{Store: st, Catalogue: drill.Shipped(), Log: slog.New(slog.DiscardHandler)})
	if err != nil {
		t.Fatal(err)
	}
	code = school.NewCode()
	if kept, err := st.KeepSetupCode(bg, school.CodeHash(code)); err != nil || !kept {
		t.Fatal(kept, err)
	}
	srv := httptest.NewServer(app)
	t.Cleanup(func() { srv.Close(); app.Close(); st.Close() })
	return srv.URL, st, code
}

// visitor is somebody with a browser of their own.
func visitor(t testing.TB, at string) *client {
	t.Helper()
	return (&site{t: t, url: at}).as("")
}

func answers(code string) url.Values {
	return url.Values{"code": {code}, "school": {"Scuola di prova"}, "zone": {"Europe/Rome"}, "length": {"m"},
		"speed": {"kn"}, "name": {"Lia Capovela"}, "email": {"Lia@Prova.example"}, "password": {"la torre del faro"}}
}

func TestNothingIsServedBeforeThereIsASchool(t *testing.T) {
	at, _, code := emptyServer(t)
	c := visitor(t, at)
	for _, path := range []string{"/", "/students", "/sign-in", "/pad", "/check/abc", "/join/abc", "/nowhere",
		"/pad/day"} {
		if r := c.first("GET", path); r.status != http.StatusSeeOther || r.header.Get("Location") != "/setup" {
			t.Errorf("%s: %d to %s", path, r.status, r.header.Get("Location"))
		}
	}
	if r := c.form("/sign-in", url.Values{"email": {"a@x.example"}}); r.status != http.StatusConflict {
		t.Errorf("a sign-in: %d", r.status)
	}
	for _, path := range []string{"/healthz", "/readyz", "/setup"} {
		if r := c.get(path); r.status != 200 {
			t.Errorf("%s: %d", path, r.status)
		}
	}
	if r := c.form("/setup", answers(strings.ToLower(code))); r.status != http.StatusSeeOther ||
		r.header.Get("Location") != "/start" {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	if r := c.get("/start"); r.status != 200 || !strings.Contains(r.body, "Scuola di prova") {
		t.Errorf("the first steps: %d", r.status)
	}
	if r := visitor(t, at).first("GET", "/setup"); r.status != http.StatusSeeOther || r.header.Get("Location") != "/" {
		t.Errorf("the setup afterwards: %d", r.status)
	}
	if r := visitor(t, at).form("/setup", answers(code)); r.status != http.StatusConflict {
		t.Errorf("the code again: %d", r.status)
	}
	if r := visitor(t, at).form("/sign-in", url.Values{"email": {"lia@prova.example"},
		"password": {"la torre del faro"}}); r.status != http.StatusSeeOther {
		t.Errorf("the chief's sign-in: %d", r.status)
	}
}

// What is wrong is said, nothing is made, and what was typed stays, but for the password.
func TestTheSetupRefuses(t *testing.T) {
	at, st, code := emptyServer(t)
	for want, change := range map[string]url.Values{"The school has no name": {"school": {" "}},
		"time zone": {"zone": {"Europe/Atlantis"}}, "unit of length": {"length": {"cubit"}},
		"is not an e-mail address": {"email": {"lia"}}, "expected 12 or more": {"password": {"elevenchars"}},
		"list of common ones": {"password": {"Password1234"}}, "not the setup code": {"code": {"AAAA-AAAA-AAAA"}}} {
		form := answers(code)
		for k, v := range change {
			form[k] = v
		}
		r := visitor(t, at).form("/setup", form)
		if r.status != http.StatusUnprocessableEntity || !strings.Contains(text(r.body), want) {
			t.Errorf("%s: %d %s", want, r.status, text(r.body))
		}
		if change["name"] == nil && !strings.Contains(r.body, "Lia Capovela") || strings.Contains(r.body, "torre") {
			t.Errorf("%s: what was typed is lost, or the password is shown", want)
		}
	}
	if is, err := st.Founded(bg); is || err != nil {
		t.Errorf("a school was made: %v", err)
	}
}

func TestGuessedCodesAreThrottled(t *testing.T) {
	at, _, code := emptyServer(t)
	c := visitor(t, at)
	for i := range frame.TriesPair {
		if r := c.form("/setup", answers(school.NewCode())); r.status != http.StatusUnprocessableEntity {
			t.Fatalf("try %d: %d", i, r.status)
		}
	}
	if r := c.form("/setup", answers(code)); r.status != http.StatusTooManyRequests || r.header.Get("Retry-After") == "" {
		t.Errorf("after %d wrong codes the right one gets %d", frame.TriesPair, r.status)
	}
}

// Of many who set up at once one makes the school, and every other is told so.
func TestTwoSetUpAtOnce(t *testing.T) {
	at, st, code := emptyServer(t)
	other := school.NewCode()
	if _, err := st.KeepSetupCode(bg, school.CodeHash(other)); err != nil {
		t.Fatal(err)
	}
	var wait sync.WaitGroup
	status := make([]int, 4)
	for i := range status {
		wait.Go(func() {
			form := answers([]string{code, other}[i%2])
			form.Set("email", fmt.Sprintf("chief%d@x.example", i))
			status[i] = visitor(t, at).form("/setup", form).status
		})
	}
	wait.Wait()
	made := 0
	for _, s := range status {
		switch s {
		case http.StatusSeeOther:
			made++
		case http.StatusConflict, http.StatusUnprocessableEntity:
		default:
			t.Errorf("an answer %d", s)
		}
	}
	if made != 1 {
		t.Errorf("%d schools were made: %v", made, status)
	}
	if kept, err := st.KeepSetupCode(context.Background(), school.CodeHash("x")); kept || err != nil {
		t.Errorf("a code is kept beside a school: %v", err)
	}
}

// The first steps are done with the forms that they show, skipped and taken up later.
func TestFirstSteps(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Chief)
	shows := func(want string) {
		t.Helper()
		if p := c.get("/start"); !strings.Contains(text(p.body), want) {
			t.Errorf("the first steps do not show %q: %d", want, p.status)
		}
	}
	if p := c.get("/students"); !strings.Contains(p.body, "Still to do in this school: the first site, the first course") {
		t.Error("the line of what is left is missing")
	}
	if p := s.as(store.Instructor).get("/students"); strings.Contains(p.body, "Still to do") {
		t.Error("an instructor is asked to set the school up")
	}
	post := func(path string, form url.Values) {
		t.Helper()
		form.Set("back", "/start")
		if r := c.form(path, form); r.status != http.StatusSeeOther || r.header.Get("Location") != "/start" {
			t.Errorf("%s: %d to %s: %s", path, r.status, r.header.Get("Location"), text(r.body))
		}
	}
	shows("Save the site")
	post("/sites", url.Values{"name": {"Spianata"}, "latitude": {"45.2"}, "longitude": {"12.3"}, "elevation": {"10 ft"}})
	shows("Lay the course")
	site := idBefore(t, c.get("/start").body, `name="site" value="`)
	post("/courses", url.Values{"site": {site}, "name": {"Box"}, "template": {"box"}, "class": {"light"}, "away": {"0"},
		"today": {"yes"}})
	shows("Add the craft")
	sketch := url.Values{"title": {"My own quad"}, "span_m": {"1.6"}, "span_m-unit": {"ft"}, "mass_kg": {"1.9"},
		"rotors": {"4"}, "chemistry": {"lipo"}, "cells": {"4"}, "capacity_mah": {"5200"}, "hover_minutes": {"14"},
		"aids": {"self-level", "position-hold"}, "name": {"Uno"}}
	wrong := url.Values{}
	for k, v := range sketch {
		wrong[k] = v
	}
	wrong.Set("hover_minutes", "120")
	if r := c.form("/fleet/types", wrong); r.status != 422 || !strings.Contains(text(r.body),
		"the hover time is 120 minutes") ||
		s.count("school_files")+s.count("craft") != 0 {
		t.Errorf("a hover of two hours: %d %s", r.status, text(r.body))
	}
	post("/fleet/types", sketch)
	shows("Add the packs")
	if r := c.form("/fleet/packs/several", url.Values{"type": {"my-own-quad"},
		"packs": {"5 × P1 to P6"}}); r.status != 422 || s.count("packs") != 0 {
		t.Errorf("five of six: %d", r.status)
	}
	post("/fleet/packs/several", url.Values{"type": {"my-own-quad"}, "packs": {"6 × 4S 5200 mAh, P1 to P6"}})
	if r := c.form("/fleet/packs/several", url.Values{"type": {"my-own-quad"},
		"packs": {"P6 to P9"}}); r.status != 422 || !strings.Contains(r.body, "P6 already") || s.count("packs") != 6 {
		t.Errorf("one is there: %d, %d packs", r.status, s.count("packs"))
	}
	if r := c.get("/fleet"); !strings.Contains(r.body, "My own quad") {
		t.Error("the own type is not in the fleet")
	}
	// The site has staff and students; what is left is a drill, which is skipped and taken up later.
	shows("Mark the first drill of First Student")
	if r := c.form("/start/skip", url.Values{"step": {"drill"}}); r.status != http.StatusSeeOther {
		t.Errorf("skip: %d", r.status)
	}
	if p := c.get("/students"); strings.Contains(p.body, "Still to do") {
		t.Error("something is left")
	}
	if r := c.form("/start/skip", url.Values{"step": {"drill"},
		"do": {"resume"}}); r.header.Get("Location") != "/start?step=drill" {
		t.Errorf("taken up: %s", r.header.Get("Location"))
	}
	shows("Mark the first drill of First Student")
	if r := c.form("/start/skip", url.Values{"step": {"lunch"}}); r.status != 422 {
		t.Errorf("an unknown step: %d", r.status)
	}
}

// idBefore is the id that stands in a page behind some words.
func idBefore(t testing.TB, page, words string) string {
	t.Helper()
	_, after, found := strings.Cut(page, words)
	if !found || len(after) < 36 {
		t.Fatalf("nothing stands behind %q", words)
	}
	return after[:36]
}
