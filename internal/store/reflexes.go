package store

import (
	"context"
	"fmt"
	"slices"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"maestrale/core/orient"
)

// AddReflex keeps an answer of the reflex trainer; the same id again is kept once.
func (tx Tx) AddReflex(ctx context.Context, id, student uuid.UUID, a orient.Answer) error {
	_, err := tx.Exec(ctx, `INSERT INTO reflexes (id, school_id, student_id, at, item, seconds, is_right) VALUES ($1, $2,
		$3, $4, $5, $6, $7) ON CONFLICT (id) DO NOTHING`,
		id, tx.School, student, a.At, a.Item.Key(), a.Seconds, a.Right)
	if violates(err, foreignKeyViolation) {
		return ErrNotFound
	}
	if err != nil {
		return fmt.Errorf("keep the answer: %w", err)
	}
	return nil
}

// Reflexes lists a student's newest answers, oldest first. An item that is not known any
// more is left out.
func (tx Tx) Reflexes(ctx context.Context, student uuid.UUID, n int) ([]orient.Answer, error) {
	rows, err := tx.Query(ctx,
		`SELECT at, item, seconds, is_right FROM reflexes WHERE student_id = $1 ORDER BY at DESC, id DESC LIMIT $2`, student,
		n)
	if err != nil {
		return nil, fmt.Errorf("read the answers: %w", err)
	}
	var out []orient.Answer
	var a orient.Answer
	var key string
	_, err = pgx.ForEachRow(rows, []any{&a.At, &key, &a.Seconds, &a.Right}, func() error {
		if item, err := orient.ItemOf(key); err == nil {
			a.Item = item
			out = append(out, a)
		}
		return nil
	})
	if err != nil {
		return nil, fmt.Errorf("read the answers: %w", err)
	}
	slices.Reverse(out)
	return out, nil
}
