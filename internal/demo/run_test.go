package demo

import (
	"context"
	"testing"
	"time"

	"maestrale/core/course"
	"maestrale/core/drill"
	"maestrale/internal/fieldday"
	"maestrale/internal/store"
)

// dayRuns lets the sample day run by itself on a clock of its own: flights take a tenth of their minutes, as many land
// as the plan had, nothing starts while everybody holds, and it ends.
func dayRuns(t *testing.T, s *store.Store, cat *drill.Catalogue, now time.Time) {
	t.Helper()
	ctx := context.Background()
	clock := now
	r := &Runner{FieldDay: FieldDay{Store: s, Cat: cat, Now: func() time.Time { return clock }}}
	email := SignIns()[0].Email
	if err := r.SampleDay(ctx, email); err != nil {
		t.Fatal(err)
	}
	cred, err := s.ByEmail(ctx, email)
	if err != nil {
		t.Fatal(err)
	}
	by, err := s.ByAccount(ctx, cred.AccountID)
	if err != nil {
		t.Fatal(err)
	}
	board := func() (b *fieldday.Board) {
		t.Helper()
		if err := s.InSchool(ctx, by.SchoolID, func(tx store.Tx) (err error) {
			b, err = r.Days().BoardOf(ctx, tx, &by)
			return err
		}); err != nil {
			t.Fatal(err)
		}
		return b
	}
	day := board().Day.ID
	hold := func(on bool) {
		t.Helper()
		if err := s.InSchool(ctx, by.SchoolID, func(tx store.Tx) error {
			return tx.CallHold(ctx, store.NewID(), day, by.ID, on, "people on the field")
		}); err != nil {
			t.Fatal(err)
		}
	}
	before := board()
	list, _ := before.ToCome()
	flownBefore, wanted := len(before.Flown), len(list)
	if wanted < 8 {
		t.Fatalf("%d flights to come show little", wanted)
	}
	hold(true)
	for range 30 {
		clock = clock.Add(20 * time.Second)
		if _, err := r.Step(ctx, by, now); err != nil {
			t.Fatal(err)
		}
	}
	if held := board(); len(held.Flown) != flownBefore {
		t.Fatalf("%d flights began while everybody holds", len(held.Flown)-flownBefore)
	}
	hold(false)
	steps := 0
	for more := true; more; steps++ {
		if steps > 400 {
			t.Fatal("the day does not end")
		}
		clock = clock.Add(10 * time.Second)
		if more, err = r.Step(ctx, by, now); err != nil {
			t.Fatal(err)
		}
	}
	after := board()
	own := 0
	for i := range after.Flown {
		f := &after.Flown[i]
		if f.InAir() {
			t.Errorf("%s is still in the air", after.Who(f))
			continue
		}
		if f.BegunAt.After(now) {
			own++
			took := f.EndedAt.Sub(f.BegunAt).Minutes()
			if took < f.Minutes/Hurry-0.01 || took > f.Minutes/Hurry+0.5 {
				t.Errorf("%s flew %.1f min of a plan of %.0f", after.Who(f), took, f.Minutes)
			}
		}
	}
	if own < wanted*3/4 {
		t.Errorf("%d of %d planned flights were flown", own, wanted)
	}
	if clock.Sub(now) > 40*time.Minute {
		t.Errorf("four hours took %v", clock.Sub(now))
	}
}

// A runner can be started and stopped twice, and a school in the dark has lamps.
func TestRunnerStopsAndLampsAreLit(t *testing.T) {
	r := &Runner{}
	r.Run(false, store.Person{})
	if r.Running() {
		t.Error("it runs, and nobody asked for it")
	}
	for _, c := range []struct {
		asked course.Lit
		at    string
		want  course.Lit
	}{
		{"", "2026-11-30T20:00:00Z", course.LitDay},
		{"", "2026-06-21T10:00:00Z", course.LitBySun},
		{"", "2026-11-30T15:00:00Z", course.LitDay}, // the sun sets within the hour
		{course.LitBySun, "2026-11-30T20:00:00Z", course.LitBySun},
		{course.LitDay, "2026-06-21T10:00:00Z", course.LitDay},
	} {
		at, err := time.Parse(time.RFC3339, c.at)
		if err != nil {
			t.Fatal(err)
		}
		if got := LightFor(c.asked, at); got != c.want {
			t.Errorf("%q at %s: %s; expected %s", c.asked, c.at, got, c.want)
		}
	}
}
