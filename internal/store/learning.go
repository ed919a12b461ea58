package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"maestrale/core/readiness"
)

// LearningFit is how common the kinds of learners are at a school, by its own records.
type LearningFit struct {
	FittedAt        time.Time
	Cells, Attempts int
	Prior           readiness.Prior
}

// LearningFit reads the school's newest fit; the zero value, which expects what is usual, where
// there is none or it is of another version.
func (tx Tx) LearningFit(ctx context.Context) (f LearningFit, err error) {
	err = tx.QueryRow(ctx, `SELECT fitted_at, cells, attempts, weights FROM learning_fits ORDER BY fitted_at DESC
		LIMIT 1`).
		Scan(&f.FittedAt, &f.Cells, &f.Attempts, &f.Prior.Weights)
	switch {
	case errors.Is(err, pgx.ErrNoRows):
		return LearningFit{}, nil
	case err != nil:
		return LearningFit{}, fmt.Errorf("read how the school's students learn: %w", err)
	case !f.Prior.Sound():
		return LearningFit{}, nil
	}
	return f, nil
}

// KeepLearningFit keeps a fit beside the older ones.
func (tx Tx) KeepLearningFit(ctx context.Context, f LearningFit) error {
	id, err := uuid.NewV7()
	if err != nil {
		return fmt.Errorf("keep how the school's students learn: %w", err)
	}
	_, err = tx.Exec(ctx, `INSERT INTO learning_fits (id, school_id, fitted_at, cells, attempts, weights) VALUES ($1,
		current_school(), $2, $3, $4, $5)`,
		id, f.FittedAt, f.Cells, f.Attempts, f.Prior.Weights)
	if err != nil {
		return fmt.Errorf("keep how the school's students learn: %w", err)
	}
	return nil
}

// SchoolsToFit lists the schools that have attempts and no fit since a moment.
func (s *Store) SchoolsToFit(ctx context.Context, since time.Time) ([]uuid.UUID, error) {
	rows, err := s.pool.Query(ctx, `SELECT school_id FROM schools_to_fit($1)`, since)
	if err != nil {
		return nil, fmt.Errorf("list the schools to fit: %w", err)
	}
	list, err := pgx.CollectRows(rows, pgx.RowTo[uuid.UUID])
	if err != nil {
		return nil, fmt.Errorf("list the schools to fit: %w", err)
	}
	return list, nil
}
