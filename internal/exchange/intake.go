package exchange

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"

	"maestrale/core/drill"
	"maestrale/core/intake"
	"maestrale/internal/attempt"
	"maestrale/internal/refusal"
	"maestrale/internal/store"
)

// Known is what a school has, against which a table is read.
func Known(ctx context.Context, tx store.Tx, cat *drill.Catalogue, zone *time.Location, now time.Time) (k intake.Known,
	err error) {
	k = intake.Known{Catalogue: cat, Zone: zone, Today: now}
	students, err := tx.AllStudents(ctx)
	if err != nil {
		return k, err
	}
	for _, s := range students {
		k.Students = append(k.Students, intake.Person{ID: s.ID.String(), Name: s.Name, CraftType: s.CraftType})
	}
	fleet, err := tx.Fleet(ctx)
	if err != nil {
		return k, err
	}
	for _, c := range fleet {
		k.Craft = append(k.Craft, c.Name)
	}
	packs, err := tx.Packs(ctx)
	if err != nil {
		return k, err
	}
	for _, p := range packs {
		k.Packs = append(k.Packs, p.Name)
	}
	k.Passes = map[string]bool{}
	list, err := tx.PaperPasses(ctx)
	for _, p := range list {
		k.Passes[p.Key()] = true
	}
	return k, err
}

// TakeTable stores everything that a table brings, all or nothing, and returns the ids of what it made.
func TakeTable(ctx context.Context, tx store.Tx, r attempt.Recorder, b intake.Batch) (made []uuid.UUID, err error) {
	for _, s := range b.Students {
		st := store.Student{ID: store.NewID(), Name: s.Name, Programme: s.Programme, CraftType: s.CraftType,
			TrainsFor: s.TrainsFor, Goal: s.Goal, StartedOn: s.StartedOn}
		if st.StartedOn.IsZero() {
			st.StartedOn = r.Now().In(r.By.Zone())
		}
		if err := tx.AddStudent(ctx, st); err != nil {
			return nil, err
		}
		made = append(made, st.ID)
	}
	for _, c := range b.Craft {
		k := store.Craft{ID: store.NewID(), Name: c.Name, Type: c.Type}
		if err := tx.AddCraft(ctx, k); err != nil {
			return nil, taken(c.Name, err)
		}
		made = append(made, k.ID)
	}
	for _, p := range b.Packs {
		k := store.Pack{ID: store.NewID(), Record: p}
		if err := tx.AddPack(ctx, k); err != nil {
			return nil, taken(p.Name, err)
		}
		made = append(made, k.ID)
	}
	passes, err := takePasses(ctx, tx, r, b.Passes)
	return append(made, passes...), err
}

// takePasses stores passes from paper, student by student in the order of the file.
func takePasses(ctx context.Context, tx store.Tx, r attempt.Recorder, list []intake.Pass) (made []uuid.UUID,
	err error) {
	of := map[uuid.UUID][]*attempt.Evidence{}
	var order []uuid.UUID
	for _, p := range list {
		id, err := uuid.Parse(p.StudentID)
		if err != nil {
			return nil, fmt.Errorf("the student of a pass: %w", err)
		}
		if of[id] == nil {
			order = append(order, id)
		}
		e := attempt.Paper{Student: id, At: p.At, Craft: r.Cat.Craft[p.CraftType], By: p.By,
			Cell: drill.Cell{Drill: p.Drill, Side: p.Side, Aids: p.Aids, Level: p.Level}}.Evidence(r.Cat, r.By.ID)
		of[id] = append(of[id], e)
	}
	for _, id := range order {
		if _, err := r.KeepAll(ctx, tx, id, of[id]...); err != nil {
			return nil, err
		}
		for _, e := range of[id] {
			made = append(made, uuid.MustParse(e.ID))
		}
	}
	return made, nil
}

func taken(name string, err error) error {
	if errors.Is(err, store.ErrTaken) {
		return refusal.Error(fmt.Sprintf(msgSchoolAlreadyNothing, name))
	}
	return err
}

// UndoTable takes out again what a table brought: rows that nothing points to are deleted, and passes, which are never
// deleted, become void.
func UndoTable(ctx context.Context, tx store.Tx, r attempt.Recorder, i store.Intake) error {
	if err := tx.UndoIntake(ctx, i.ID, r.Now()); err != nil {
		return err
	}
	if i.Kind != string(intake.Passes) {
		return nil
	}
	for _, id := range i.Made {
		_, err := r.Void(ctx, tx, id, msgTableBroughtTaken)
		if errors.Is(err, store.ErrAlreadyCorrected) {
			return store.ErrUsed
		}
		if err != nil {
			return err
		}
	}
	return nil
}
