package demo

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"math/rand/v2"
	"sync"
	"time"

	"github.com/google/uuid"

	"maestrale/core/drill"
	"maestrale/core/pack"
	"maestrale/core/plan"
	"maestrale/internal/fieldday"
	"maestrale/internal/refusal"
	"maestrale/internal/store"
)

// Hurry is how many times as fast as it was planned a sample day runs.
const Hurry = 10

// runEvery is how often a running day looks what is due.
const runEvery = 2 * time.Second

// Runner flies the rest of a sample day by itself, ten times as fast as it was planned: it starts the flights that are
// due, lands them after a tenth of their minutes, and charges the packs. It marks nothing: no verdict is made up.
type Runner struct {
	FieldDay
	Log *slog.Logger

	mu   sync.Mutex
	stop context.CancelFunc
}

// Running tells whether the day runs by itself.
func (r *Runner) Running() bool {
	r.mu.Lock()
	defer r.mu.Unlock()
	return r.stop != nil
}

// Run lets the day run by itself in the name of a person, or stops it. It is no mistake to ask twice.
func (r *Runner) Run(on bool, by store.Person) {
	r.mu.Lock()
	defer r.mu.Unlock()
	switch {
	case !on && r.stop != nil:
		r.stop()
		r.stop = nil
	case on && r.stop == nil:
		ctx, stop := context.WithCancel(context.Background())
		r.stop = stop
		go r.loop(ctx, stop, by, r.Now())
	}
}

// loop takes steps from a moment on until nothing is left to fly, or somebody stops it.
func (r *Runner) loop(ctx context.Context, stop context.CancelFunc, by store.Person, since time.Time) {
	defer stop()
	for {
		more, err := r.Step(ctx, by, since)
		if err != nil && ctx.Err() == nil {
			r.Log.WarnContext(ctx, "run stopped", "error", err)
		}
		if err != nil || !more {
			break
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(runEvery):
		}
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	if ctx.Err() == nil {
		r.stop = nil
	}
}

// Step does what is due now on a day that has run by itself since a moment. It says whether anything is left to come.
func (r *Runner) Step(ctx context.Context, by store.Person, since time.Time) (more bool, err error) {
	err = r.Store.InSchool(ctx, by.SchoolID, func(tx store.Tx) error {
		b, err := r.Days().BoardOf(ctx, tx, &by)
		if err != nil || !b.Is() {
			return err
		}
		s := step{Runner: r, tx: tx, b: b, since: since, now: r.Now(), air: map[uuid.UUID]bool{}}
		if err := s.land(ctx); err != nil {
			return err
		}
		if err := s.charge(ctx); err != nil {
			return err
		}
		list, cells := b.ToCome()
		more = len(s.air) > 0 || len(list) > 0 && s.planned().Before(b.Day.Ends)
		if b.Hold.On {
			return nil
		}
		return s.begin(ctx, list, cells)
	})
	return more, err
}

// step is one look at a day that runs by itself.
type step struct {
	*Runner
	tx         store.Tx
	b          *fieldday.Board
	since, now time.Time
	air        map[uuid.UUID]bool // students, craft and packs that are in the air
}

// planned is the moment of the plan that is flown now.
func (s *step) planned() time.Time { return s.since.Add(Hurry * s.now.Sub(s.since)) }

// land ends the flights that have flown a tenth of their minutes since the day runs.
func (s *step) land(ctx context.Context) error {
	for i := range s.b.Flown {
		f := &s.b.Flown[i]
		if !f.InAir() || f.Void != "" {
			continue
		}
		before := max(0, s.since.Sub(f.BegunAt)) // at the pace of the clock
		flown := before + Hurry*(s.now.Sub(f.BegunAt)-before)
		if flown.Minutes() < f.Minutes {
			s.air[f.CraftID], s.air[f.PackID] = true, true
			if f.StudentID != nil {
				s.air[*f.StudentID] = true
			}
			continue
		}
		id := s.b.Person.ID
		if _, err := s.tx.NoteFlight(ctx, store.NewID(), f.ID, id, s.now, "end", ""); err != nil {
			return fmt.Errorf("land: %w", err)
		}
		if err := s.tx.AddPackEvent(ctx, store.NewID(), f.PackID, id, pack.Event{At: s.now, Kind: pack.Used,
			Minutes: f.Minutes, Says: msgCountedLanding}); err != nil {
			return fmt.Errorf("land: %w", err)
		}
	}
	return nil
}

// charge puts the packs on their chargers and takes them off as the plan has it.
func (s *step) charge(ctx context.Context) error {
	for _, g := range s.b.Plan.Charges {
		id, err := uuid.Parse(g.Pack)
		if err != nil || s.air[id] {
			continue
		}
		row, e := s.b.Packs[id], pack.Event{At: s.now, Kind: pack.Plugged, Says: g.Charger}
		switch {
		case row.OnCharger != "" && !s.planned().Before(g.End):
			e = pack.Event{At: s.now, Kind: pack.Charged}
		case row.OnCharger != "" || row.Charge > 0.9 || s.planned().Before(g.Start):
			continue
		}
		if err := s.tx.AddPackEvent(ctx, store.NewID(), id, s.b.Person.ID, e); err != nil {
			return fmt.Errorf("charge: %w", err)
		}
	}
	return nil
}

// begin starts the flights that are due and whose student, craft and pack are free. A flight that may not be flown, as
// with a craft that was not checked, waits for somebody who sees to that.
func (s *step) begin(ctx context.Context, list []plan.Flight, cells []drill.Cell) error {
	for i, f := range list {
		student, err := uuid.Parse(f.Student)
		if err != nil || f.Start.After(s.planned()) { // a proving flight is an instructor's
			continue
		}
		g := lessonOf(f, cells[i], student, s.b.Person.ID, s.now)
		if s.air[student] || s.air[g.CraftID] || s.air[g.PackID] || s.b.Packs[g.PackID].Charge < 0.9 {
			continue
		}
		var no refusal.Error
		if err := s.Days().MayFly(s.b, &g); errors.As(err, &no) {
			continue
		} else if err != nil {
			return err //nolint:wrapcheck // said by the day
		}
		if _, err := s.tx.Begin(ctx, g); errors.Is(err, store.ErrBusy) {
			continue
		} else if err != nil {
			return fmt.Errorf("begin: %w", err)
		}
		s.air[student], s.air[g.CraftID], s.air[g.PackID] = true, true, true
		mood := fieldday.Moods[min(1, rand.IntN(4))] //nolint:gosec // of invented people
		if _, err := s.tx.NoteFlight(ctx, store.NewID(), g.ID, s.b.Person.ID, s.now, "before", mood); err != nil {
			return fmt.Errorf("begin: %w", err)
		}
	}
	return nil
}
