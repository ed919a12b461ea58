package store

import (
	"slices"
	"testing"
	"time"

	"github.com/google/uuid"

	"maestrale/core/readiness"
)

// A fit is kept with its date, the newest is read, and a school without one is listed until it has.
func TestLearningFits(t *testing.T) {
	s := newSchool(t)
	prior, cells, attempts := readiness.FitPrior(nil)
	if cells != 0 || attempts != 0 || !prior.Sound() {
		t.Fatalf("of nothing: %+v, %d cells", prior, cells)
	}
	at := time.Date(2026, 5, 1, 2, 30, 0, 0, time.UTC)
	err := db.InSchool(ctx, s.id, func(tx Tx) error {
		if f, err := tx.LearningFit(ctx); err != nil || !f.FittedAt.IsZero() {
			t.Errorf("before the first: %+v %v", f, err)
		}
		for k := range 2 {
			if err := tx.KeepLearningFit(ctx, LearningFit{at.AddDate(0, 0, k), 10 + k, 100, prior}); err != nil {
				return err
			}
		}
		f, err := tx.LearningFit(ctx)
		if err != nil || f.Cells != 11 || !f.FittedAt.Equal(at.AddDate(0, 0, 1)) || !slices.Equal(f.Prior.Weights,
			prior.Weights) {
			t.Errorf("the newest: %+v %v", f, err)
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	list, err := db.SchoolsToFit(ctx, at)
	if err != nil || slices.Contains(list, s.id) {
		t.Errorf("a school with a fit is asked for: %v %v", list, err)
	}
	err = db.InSchool(ctx, uuid.New(), func(tx Tx) error {
		f, err := tx.LearningFit(ctx)
		if !f.FittedAt.IsZero() {
			t.Error("another school sees it")
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
}
