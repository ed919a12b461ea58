package store

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"
)

// Note is what an instructor wrote to a moment of an attempt, or to the whole of it.
type Note struct {
	ID        uuid.UUID
	AttemptID uuid.UUID
	TS        *float64
	Body      string
	By        string
	WrittenAt time.Time
}

// AddNote keeps a note; the same id again changes nothing.
func (tx Tx) AddNote(ctx context.Context, n Note, account uuid.UUID) error {
	_, err := tx.Exec(ctx, `INSERT INTO attempt_notes (id, school_id, attempt_id, t_s, body, account_id) VALUES ($1, $2,
		$3, $4, $5, $6) ON CONFLICT (id) DO NOTHING`,
		n.ID, tx.School, n.AttemptID, n.TS, n.Body, account)
	if violates(err, foreignKeyViolation) {
		return ErrNotFound
	}
	if err != nil {
		return fmt.Errorf("keep the note: %w", err)
	}
	return nil
}

// Notes lists the notes of an attempt, those of the whole first, then by moment.
func (tx Tx) Notes(ctx context.Context, attempt uuid.UUID) ([]Note, error) {
	rows, err := tx.Query(ctx, `SELECT n.id, n.attempt_id, n.t_s AS ts, n.body, a.name AS by, n.written_at
		FROM attempt_notes n JOIN accounts a ON a.id = n.account_id
		WHERE n.attempt_id = $1 ORDER BY n.t_s NULLS FIRST, n.written_at, n.id`, attempt)
	list, err := many[Note](rows, err)
	if err != nil {
		return nil, fmt.Errorf("list the notes: %w", err)
	}
	return list, nil
}
