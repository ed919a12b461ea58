package web

import (
	"encoding/json"
	"reflect"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"maestrale/core/record"
	"maestrale/internal/bigschool"
	"maestrale/internal/demo"
	"maestrale/internal/store"
)

// grow gives the site's school students, fleet and field days as the sample school has them.
func grow(tb testing.TB, s *site, size bigschool.Size) {
	tb.Helper()
	if err := bigschool.Grow(bg, ownerURL, sampleID(tb), s.school, size); err != nil {
		tb.Fatal(err)
	}
}

// sampleID is the sample school, which is loaded where it is not there yet.
func sampleID(tb testing.TB) uuid.UUID {
	tb.Helper()
	if err := sampleLoaded(); err != nil {
		tb.Fatal(err)
	}
	cred, err := appStore.ByEmail(bg, demo.SignIns()[0].Email)
	if err != nil {
		tb.Fatal(err)
	}
	p, err := appStore.ByAccount(bg, cred.AccountID)
	if err != nil {
		tb.Fatal(err)
	}
	return p.SchoolID
}

// What is read in one query for a pad is what is read in two for a page.
func TestFactsAndDecisionsAreTheSameTogether(t *testing.T) {
	id := sampleID(t)
	err := appStore.InSchool(bg, id, func(tx store.Tx) error {
		all, err := tx.Students(bg)
		if err != nil {
			return err
		}
		ids := []uuid.UUID{}
		for _, st := range all {
			ids = append(ids, st.ID)
		}
		since := time.Now().AddDate(-1, 0, 0)
		facts, decided, err := tx.FactsAndDecisions(bg, since, 40, ids)
		if err != nil {
			return err
		}
		facts2, err := tx.NextFactsOf(bg, since, 40, ids...)
		if err != nil {
			return err
		}
		decided2, err := tx.DecisionsOf(bg, ids)
		if err != nil {
			return err
		}
		signed := 0
		for _, id := range ids {
			a, b := decided[id], decided2[id]
			signed += len(a.Signs)
			if got, want := inUTC(t, a), inUTC(t, b); got != want {
				t.Errorf("%s: %s\nand %s", id, got, want)
			}
		}
		if signed == 0 || len(facts) != len(ids) || !reflect.DeepEqual(facts, facts2) {
			t.Errorf("%d sign-offs, %d students; %v and %v", signed, len(facts), facts, facts2)
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
}

// inUTC says what was decided, with each moment in universal time.
func inUTC(tb testing.TB, d store.Decision) string {
	tb.Helper()
	for i := range d.Seen {
		d.Seen[i].At = d.Seen[i].At.UTC()
	}
	for i := range d.Signs {
		s := &d.Signs[i]
		s.At, s.Until = s.At.UTC(), s.Until.UTC()
		for _, at := range []*time.Time{s.Read, s.Withdrawn} {
			if at != nil {
				*at = at.UTC()
			}
		}
	}
	b, err := json.Marshal(d)
	if err != nil {
		tb.Fatal(err)
	}
	return string(b)
}

// A school that was grown is one that could have been: every chain is sound, says what the attempts say, and every page
// that shows all of it answers.
func TestAGrownSchoolIsSound(t *testing.T) {
	s := newSite(t)
	grow(t, s, bigschool.Size{Students: 20, Attempts: 150, Days: 3})
	attempts, signed := 0, 0
	if err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
		all, err := tx.Students(bg)
		if err != nil {
			return err
		}
		for _, st := range all {
			if !strings.HasPrefix(st.Name, "Student ") {
				continue
			}
			rec, err := tx.Record(bg, st.ID)
			if err != nil {
				return err
			}
			attempts, signed = attempts+len(rec.Attempts), signed+len(rec.SignOffs)
			if why, row := rec.Broken(); why != "" {
				t.Errorf("%s: %s (row %d)", st.Name, why, row)
			}
			flown, err := tx.Attempts(bg, st.ID)
			if err != nil || len(flown) != len(rec.Attempts) {
				t.Errorf("%s has %d attempts and %d in the chain: %v", st.Name, len(flown), len(rec.Attempts), err)
			}
			in := map[string]*record.Attempt{}
			for i := range rec.Attempts {
				in[rec.Attempts[i].ID] = &rec.Attempts[i]
			}
			for _, a := range flown {
				if c := in[a.ID]; c == nil || !c.At.Equal(a.At) || c.Verdict != a.Verdict || c.Drill != a.Drill {
					t.Fatalf("%s: %+v stands in the chain as %+v", st.Name, a.Attempt, c)
				}
			}
		}
		return nil
	}); err != nil {
		t.Fatal(err)
	}
	if attempts != 20*150 || signed < 10 {
		t.Errorf("%d attempts and %d sign-offs; expected 3,000, and a sign-off of most", attempts, signed)
	}
	// Grown once more, out of what it is now, it grows by as much and no more.
	craft, packs, flights := s.count("craft"), s.count("packs"), s.count("flights")
	if err := bigschool.Grow(bg, ownerURL, s.school, s.school, bigschool.Size{Students: 3, Attempts: 50,
		Days: 2}); err != nil {
		t.Fatal(err)
	}
	if a, b, c := s.count("craft"), s.count("packs"), s.count("flights"); a != 2*craft || b != 2*packs || c != 3*flights {
		t.Errorf("%d craft, %d packs, %d flights grew to %d, %d and %d", craft, packs, flights, a, b, c)
	}
	c := s.as(store.Chief)
	for _, path := range []string{"/today", "/students", "/fleet", "/records", "/records/audit", "/pad/day",
		"/records/everything.zip"} {
		if r := c.get(path); r.status != 200 {
			t.Errorf("%s: %d", path, r.status)
		}
	}
}
