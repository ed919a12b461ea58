// Package learning fits, once a day, how the students of each school learn to the school's own
// records (readiness.FitPrior), and keeps the fit with its date.
package learning

import (
	"context"
	"fmt"
	"log/slog"
	"time"

	"github.com/google/uuid"

	"maestrale/core/readiness"
	"maestrale/core/record"
	"maestrale/internal/store"
)

const (
	every = 15 * time.Minute // between looks
	keeps = 20 * time.Hour   // for which a fit is good
	night = 2                // hour of the day, by the server's clock, from which it is done
)

// Fitter fits the schools of a database.
type Fitter struct {
	Store *store.Store
	Log   *slog.Logger
	Now   func() time.Time // time.Now where nil
}

// Run fits at night, and at once what has never been fitted, until the context ends.
func (f Fitter) Run(ctx context.Context) {
	look := time.NewTicker(every)
	defer look.Stop()
	for {
		if err := f.Once(ctx); err != nil && ctx.Err() == nil {
			f.Log.Error(msgHowStudentsLearn, "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-look.C:
		}
	}
}

// Once fits the schools whose fit has become old, at night, and those that have none.
func (f Fitter) Once(ctx context.Context) error {
	now := time.Now()
	if f.Now != nil {
		now = f.Now()
	}
	since := time.Time{} // by day only what has none
	if h := now.Hour(); h >= night && h < night+4 {
		since = now.Add(-keeps)
	}
	schools, err := f.Store.SchoolsToFit(ctx, since)
	if err != nil {
		return fmt.Errorf("fit how students learn: %w", err)
	}
	for _, school := range schools {
		if err := f.fit(ctx, school, now); err != nil {
			return fmt.Errorf("fit how the students of a school learn: %w", err)
		}
	}
	return nil
}

func (f Fitter) fit(ctx context.Context, school uuid.UUID, now time.Time) error {
	by := map[uuid.UUID]*readiness.Evidence{}
	return f.Store.InSchool(ctx, school, func(tx store.Tx) error {
		err := tx.Evidence(ctx, nil, func(student uuid.UUID, a *record.Attempt) {
			if by[student] == nil {
				by[student] = readiness.NewEvidence(nil, now, time.UTC)
			}
			by[student].Add(a)
		})
		if err != nil {
			return err //nolint:wrapcheck // said by the store
		}
		var runs [][]readiness.Try
		for _, e := range by {
			runs = append(runs, e.Runs()...)
		}
		fit := store.LearningFit{FittedAt: now.UTC().Truncate(time.Microsecond)}
		fit.Prior, fit.Cells, fit.Attempts = readiness.FitPrior(runs)
		return tx.KeepLearningFit(ctx, fit) //nolint:wrapcheck // said by the store
	})
}
