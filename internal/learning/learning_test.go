package learning

import (
	"context"
	"fmt"
	"io"
	"log/slog"
	"os"
	"testing"
	"time"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/record"
	"maestrale/core/score"
	"maestrale/internal/localpg"
	"maestrale/internal/store"
)

var db *store.Store
var owner string

func TestMain(m *testing.M) {
	ctx := context.Background()
	u, end, err := localpg.ForTest()
	if err == nil {
		owner = u
		err = store.Migrate(ctx, u)
	}
	if err == nil {
		db, err = store.Open(ctx, u, nil)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	code := m.Run()
	db.Close()
	end()
	os.Exit(code)
}

// A school that has flown is fitted at once, and anew at night when its fit is a day old; by day a fit
// stands.
func TestSchoolsAreFittedAtNight(t *testing.T) {
	ctx := context.Background()
	school, student, by := store.NewID(), store.NewID(), store.NewID()
	if err := store.AddSchool(ctx, owner, school, "School", "Europe/Rome"); err != nil {
		t.Fatal(err)
	}
	d, err := drill.Shipped().Drill("hover-tail-in")
	if err != nil {
		t.Fatal(err)
	}
	in := func(f func(store.Tx) error) {
		t.Helper()
		if err := db.InSchool(ctx, school, f); err != nil {
			t.Fatal(err)
		}
	}
	noon := time.Date(2026, 5, 1, 12, 0, 0, 0, time.Local)
	in(func(tx store.Tx) error {
		if err := tx.AddStudent(ctx, store.Student{ID: student, Name: "A student", Programme: "hands-first",
			CraftType: "gheppio", StartedOn: noon}); err != nil {
			return err
		}
		if err := tx.AddAccount(ctx, store.Account{ID: by, Email: "i@x.example", Name: "I", Role: store.Instructor,
			PasswordHash: "x"}); err != nil {
			return err
		}
		for k := range 6 {
			a := store.NewAttempt{Attempt: record.Attempt{ID: store.NewID().String(), At: noon.AddDate(0, 0, k-10), Drill: d.Key,
				Side: "none", Aids: craft.SelfLevel, Level: 1, CraftClass: craft.Light, Source: score.Observed, Verdict: score.Pass,
				Counts: true},
				StudentID: student, CraftType: "gheppio", Drill: d, Result: &score.Result{Verdict: score.Pass}, By: by,
				RecordedAt: noon}
			if _, err := tx.Keep(ctx, student, a); err != nil {
				return err
			}
		}
		return nil
	})
	fits := func() (f store.LearningFit) {
		in(func(tx store.Tx) (err error) {
			f, err = tx.LearningFit(ctx)
			return err
		})
		return f
	}
	at := func(when time.Time) store.LearningFit {
		t.Helper()
		f := Fitter{Store: db, Log: slog.New(slog.NewTextHandler(io.Discard, nil)), Now: func() time.Time { return when }}
		if err := f.Once(ctx); err != nil {
			t.Fatal(err)
		}
		return fits()
	}
	first := at(noon)
	if first.Cells != 1 || first.Attempts != 6 || !first.FittedAt.Equal(noon) || !first.Prior.Sound() {
		t.Fatalf("at once: %+v", first)
	}
	if f := at(noon.Add(2 * time.Hour)); !f.FittedAt.Equal(noon) {
		t.Errorf("by day it was fitted anew: %+v", f)
	}
	night := time.Date(2026, 5, 3, 2, 30, 0, 0, time.Local)
	if f := at(night); !f.FittedAt.Equal(night) {
		t.Errorf("at night it was not: %+v", f)
	}
	if f := at(night.Add(time.Hour)); !f.FittedAt.Equal(night) {
		t.Errorf("twice in a night: %+v", f)
	}
}
