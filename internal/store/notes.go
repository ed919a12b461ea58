package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// Note is what an instructor wrote to a moment of an attempt, or to the whole of it.
type Note struct {
	ID        uuid.UUID
	AttemptID uuid.UUID
	TS        *float64
	Body      string
	By        string
	WrittenAt time.Time
	// RedactedAt and RedactedBy say when the text was taken out, and by whom; nil and empty while it stands.
	RedactedAt *time.Time
	RedactedBy string
}

// NoteBody is in the chain what a note said, by its hash: the text can be taken out, and what else was recorded still
// verifies.
type NoteBody struct {
	Attempt string   `json:"attempt"`
	TS      *float64 `json:"t_s,omitempty"`
	SHA256  string   `json:"sha256,omitempty"`
	By      string   `json:"by"`
}

// studentOf is whose attempt it is.
func (tx Tx) studentOf(ctx context.Context, attempt uuid.UUID) (student uuid.UUID, err error) {
	err = tx.QueryRow(ctx, `SELECT student_id FROM attempts WHERE id = $1`, attempt).Scan(&student)
	if errors.Is(err, pgx.ErrNoRows) {
		return student, ErrNotFound
	}
	if err != nil {
		return student, fmt.Errorf("find the attempt: %w", err)
	}
	return student, nil
}

// AddNote keeps a note; the same id again changes nothing.
func (tx Tx) AddNote(ctx context.Context, n Note, account uuid.UUID) error {
	student, err := tx.studentOf(ctx, n.AttemptID)
	if err != nil {
		return err
	}
	tag, err := tx.Exec(ctx, `INSERT INTO attempt_notes (id, school_id, attempt_id, t_s, body, account_id) VALUES ($1, $2,
		$3, $4, $5, $6) ON CONFLICT (id) DO NOTHING`,
		n.ID, tx.School, n.AttemptID, n.TS, n.Body, account)
	if violates(err, foreignKeyViolation) {
		return ErrNotFound
	}
	if err != nil {
		return fmt.Errorf("keep the note: %w", err)
	}
	if tag.RowsAffected() == 0 {
		return nil
	}
	return tx.append(ctx, student, "note", n.ID, NoteBody{Attempt: n.AttemptID.String(), TS: n.TS,
		SHA256: sum([]byte(n.Body)),
		By:     n.By})
}

// RedactedText stands in the place of a note's text that was taken out.
const RedactedText = msgNoteTakenOut

// Redact takes the text of a note out, for good: the row stays, and the chain says who did it.
func (tx Tx) Redact(ctx context.Context, note, by uuid.UUID, name string) error {
	attempt, err := tx.AttemptOfNote(ctx, note)
	if err != nil {
		return err
	}
	student, err := tx.studentOf(ctx, attempt)
	if err != nil {
		return err
	}
	if _, err := tx.Exec(ctx, `SELECT redact_note($1, $2, $3)`, note, by, RedactedText); err != nil {
		return fmt.Errorf("take the note out: %w", err)
	}
	return tx.append(ctx, student, "note-redacted", note, NoteBody{Attempt: attempt.String(), By: name})
}

// AttemptOfNote is the attempt that a note was written to.
func (tx Tx) AttemptOfNote(ctx context.Context, note uuid.UUID) (attempt uuid.UUID, err error) {
	err = tx.QueryRow(ctx, `SELECT attempt_id FROM attempt_notes WHERE id = $1`, note).Scan(&attempt)
	if errors.Is(err, pgx.ErrNoRows) {
		return attempt, ErrNotFound
	}
	if err != nil {
		return attempt, fmt.Errorf("find the note: %w", err)
	}
	return attempt, nil
}

// redactAll takes the text of every note to a student's attempts out.
func (tx Tx) redactAll(ctx context.Context, student, by uuid.UUID, name string) error {
	rows, err := tx.Query(ctx, `SELECT n.id FROM attempt_notes n JOIN attempts a ON a.id = n.attempt_id
		WHERE a.student_id = $1 AND n.redacted_at IS NULL ORDER BY n.written_at`, student)
	if err != nil {
		return fmt.Errorf("list the notes: %w", err)
	}
	list, err := pgx.CollectRows(rows, pgx.RowTo[uuid.UUID])
	if err != nil {
		return fmt.Errorf("list the notes: %w", err)
	}
	for _, n := range list {
		if err := tx.Redact(ctx, n, by, name); err != nil {
			return err
		}
	}
	return nil
}

// Notes lists the notes of an attempt, those of the whole first, then by moment.
func (tx Tx) Notes(ctx context.Context, attempt uuid.UUID) ([]Note, error) {
	rows, err := tx.Query(ctx, `SELECT n.id, n.attempt_id, n.t_s AS ts, n.body, a.name AS by, n.written_at,
		n.redacted_at, coalesce(r.name, '') AS redacted_by
		FROM attempt_notes n JOIN accounts a ON a.id = n.account_id LEFT JOIN accounts r ON r.id = n.redacted_by
		WHERE n.attempt_id = $1 ORDER BY n.t_s NULLS FIRST, n.written_at, n.id`, attempt)
	list, err := many[Note](rows, err)
	if err != nil {
		return nil, fmt.Errorf("list the notes: %w", err)
	}
	return list, nil
}
