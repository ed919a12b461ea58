package demo

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"time"

	"github.com/google/uuid"

	"maestrale/core/drill"
	"maestrale/core/pack"
	"maestrale/core/plan"
	"maestrale/internal/fieldday"
	"maestrale/internal/store"
)

// sampleBegan is for how long the sample school's field day has run when it is loaded.
const sampleBegan = 55 * time.Minute

// FieldDay makes the sample school's field day.
type FieldDay struct {
	Store *store.Store
	Cat   *drill.Catalogue
	Now   func() time.Time
}

// Days plans and runs the field days.
func (s FieldDay) Days() fieldday.Days { return fieldday.Days{Cat: s.Cat, Now: s.Now} }

// SampleDay gives the school of an account a field day that began a while ago: planned by
// the planner from the school's own people, craft and packs, and flown to the plan since.
func (s FieldDay) SampleDay(ctx context.Context, email string) error {
	cred, err := s.Store.ByEmail(ctx, email)
	if err != nil {
		return err
	}
	p, err := s.Store.ByAccount(ctx, cred.AccountID)
	if err != nil {
		return err
	}
	now := s.Now()
	starts := now.Add(-sampleBegan).Truncate(5 * time.Minute)
	return s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		b, err := s.Days().BoardOf(ctx, tx, &p)
		if err != nil || b.Is() {
			return err
		}
		b.Source = sampleSource(b, starts)
		b.Now = starts
		b.Day = store.FieldDay{ID: store.NewID(), Starts: starts, Ends: starts.Add(4 * time.Hour), At: starts}
		next, err := s.Days().Planned(ctx, tx, b)
		if err != nil {
			return err
		}
		if err := tx.AddDay(ctx, b.Day.ID, b.Day.Starts, b.Day.Ends); err != nil {
			return err
		}
		if err := tx.PlanDay(ctx, b.Day.ID, p.ID, 0, starts.Add(-time.Minute), "made", b.Source, next); err != nil {
			return err
		}
		b.Plan = next
		checked := starts.Add(-25 * time.Minute)
		if checked.In(p.Zone()).Day() != starts.In(p.Zone()).Day() {
			checked = starts
		}
		if err := s.checkSample(ctx, tx, b, checked); err != nil {
			return err
		}
		return s.flySample(ctx, tx, b, now)
	})
}

// sampleSource is everybody and everything, with two flights each.
func sampleSource(b *fieldday.Board, starts time.Time) fieldday.Source {
	src := fieldday.Source{Boxes: 2, TurnMinutes: 3, Chargers: []plan.Charger{{ID: "C1", Slots: 4}, {ID: "C2", Slots: 2}},
		Wind: []plan.Wind{{From: starts, Mps: 3}, {From: starts.Add(150 * time.Minute),
			Mps: 6}}, Proving: []uuid.UUID{}, Grounded: []uuid.UUID{}, Dead: []uuid.UUID{}}
	for i, st := range slices.SortedFunc(maps.Values(b.Students), func(a, b store.Student) int {
		return cmp.Compare(a.Name,
			b.Name)
	}) {
		x := fieldday.Person{Student: st.ID, Flights: 2, Minutes: 10, Rest: 10, Spotter: i%4 == 1}
		if i%5 == 2 {
			x.WindMps = 5
		}
		src.People = append(src.People, x)
	}
	for _, k := range slices.SortedFunc(maps.Values(b.Craft), func(a, b store.Craft) int {
		return cmp.Compare(a.Name,
			b.Name)
	}) {
		src.Craft = append(src.Craft, k.ID)
	}
	for _, k := range slices.SortedFunc(maps.Values(b.Packs), func(a, b fieldday.Pack) int {
		return cmp.Or(cmp.Compare(a.Type, b.Type), cmp.Compare(len(a.Name), len(b.Name)), cmp.Compare(a.Name, b.Name))
	}) {
		if k.Fitness != pack.Retire {
			src.Packs = append(src.Packs, k.ID)
		}
	}
	for _, a := range slices.SortedFunc(maps.Values(b.Staff), func(a, b store.Account) int {
		return cmp.Compare(a.Name,
			b.Name)
	}) {
		if a.Role == store.Spotter {
			src.Spotters = append(src.Spotters, a.ID)
		} else {
			src.Instructors = append(src.Instructors, a.ID)
		}
	}
	return src
}

// lessonOf is a planned flight as it begins at a moment.
func lessonOf(f plan.Flight, cell drill.Cell, student, by uuid.UUID, at time.Time) store.Flight {
	g := store.Flight{ID: store.NewID(), StudentID: &student, Kind: plan.Lesson, CraftID: uuid.MustParse(f.Craft),
		PackID: uuid.MustParse(f.Pack), Box: f.Box, Drill: cell.Drill, Side: string(cell.Side), Aids: string(cell.Aids),
		Minutes: f.End.Sub(f.Start).Minutes(), BegunAt: at, BegunBy: by}
	if id, err := uuid.Parse(f.Instructor); err == nil {
		g.InstructorID = &id
	}
	if id, err := uuid.Parse(f.Spotter); err == nil {
		g.SpotterID = &id
	}
	return g
}

// flySample flies what the plan has until now, each flight as it was planned.
func (s FieldDay) flySample(ctx context.Context, tx store.Tx, b *fieldday.Board, now time.Time) error {
	rng := rand.New(rand.NewPCG(11, 3)) //nolint:gosec // moods of invented people
	by := b.Person.ID
	list, cells := b.ToCome()
	for i, f := range list {
		if !f.Start.Before(now) {
			continue
		}
		wind := 2.5 + rng.Float64()
		g := lessonOf(f, cells[i], uuid.MustParse(f.Student), by, f.Start)
		g.DayID, g.WindMps = &b.Day.ID, &wind
		if _, err := tx.Begin(ctx, g); err != nil {
			return fmt.Errorf("fly the sample day: %w", err)
		}
		before := fieldday.Moods[min(1, rng.IntN(4))]
		if _, err := tx.NoteFlight(ctx, store.NewID(), g.ID, by, g.BegunAt, "before", before); err != nil {
			return err
		}
		if f.End.After(now) {
			continue
		}
		if _, err := tx.NoteFlight(ctx, store.NewID(), g.ID, by, f.End, "end", ""); err != nil {
			return err
		}
		if _, err := tx.NoteFlight(ctx, store.NewID(), g.ID, by, f.End, "after",
			fieldday.Moods[min(1, rng.IntN(5)/3)]); err != nil {
			return err
		}
		if err := tx.AddPackEvent(ctx, store.NewID(), g.PackID, by, pack.Event{At: f.End, Kind: pack.Used, Minutes: g.Minutes,
			Says: msgCountedLanding}); err != nil {
			return err
		}
	}
	for _, k := range b.Plan.Charges {
		if k.Start.After(now) {
			continue
		}
		id := uuid.MustParse(k.Pack)
		if err := tx.AddPackEvent(ctx, store.NewID(), id, by, pack.Event{At: k.Start, Kind: pack.Plugged,
			Says: k.Charger}); err != nil {
			return err
		}
		if !k.End.After(now) {
			if err := tx.AddPackEvent(ctx, store.NewID(), id, by, pack.Event{At: k.End, Kind: pack.Charged}); err != nil {
				return err
			}
		}
	}
	return nil
}
