package store

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"
)

// Run is a run of the simulator as it was sent.
type Run struct {
	ID        uuid.UUID
	StudentID uuid.UUID
	FlownAt   time.Time
	SentBy    uuid.UUID
	Trace     []byte
	Claimed   string // the hash that came with it
	Reflown   string // the hash that the server found
	Refused   string // why it was refused; empty = kept
	Lost      string // the grade of the lost-craft trainer; empty = the craft was seen
	Coach     bool   // its coach was asked
}

// AddRun keeps a run; the same id again is left as it is, and fresh is false.
func (tx Tx) AddRun(ctx context.Context, r Run) (fresh bool, err error) {
	tag, err := tx.Exec(ctx, `INSERT INTO runs (id, school_id, student_id, flown_at, sent_by, trace, trace_bytes, claimed,
		reflown, refused, lost, coach)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12) ON CONFLICT (id) DO NOTHING`,
		r.ID, tx.School, r.StudentID, r.FlownAt, r.SentBy, packer.EncodeAll(r.Trace,
			nil), len(r.Trace), r.Claimed, r.Reflown, r.Refused, r.Lost, r.Coach)
	if violates(err, foreignKeyViolation) {
		return false, ErrNotFound
	}
	if err != nil {
		return false, fmt.Errorf("keep the run: %w", err)
	}
	return tag.RowsAffected() == 1, nil
}

// Run reads a run with its trace.
func (tx Tx) Run(ctx context.Context, id uuid.UUID) (Run, error) {
	rows, err := tx.Query(ctx,
		`SELECT id, student_id, flown_at, sent_by, trace, claimed, reflown, refused, lost, coach FROM runs WHERE id = $1`, id)
	r, err := one[Run](rows, err)
	if err != nil {
		return r, err
	}
	if r.Trace, err = unpacker.DecodeAll(r.Trace, nil); err != nil {
		return r, fmt.Errorf("unpack the run: %w", err)
	}
	return r, nil
}

// RefusedRuns lists the newest runs of a student that were refused, without their
// traces.
func (tx Tx) RefusedRuns(ctx context.Context, student uuid.UUID, most int) ([]Run, error) {
	rows, err := tx.Query(ctx, `SELECT id, student_id, flown_at, sent_by, ''::bytea AS trace, claimed, reflown, refused,
		lost, coach FROM runs
		WHERE student_id = $1 AND refused <> '' ORDER BY flown_at DESC, id DESC LIMIT $2`, student, most)
	list, err := many[Run](rows, err)
	if err != nil {
		return nil, fmt.Errorf("list the refused runs: %w", err)
	}
	return list, nil
}

// LostRun is a run of the lost-craft trainer and what came of it.
type LostRun struct {
	ID      uuid.UUID
	FlownAt time.Time
	Lost    string
	Coach   bool
	Drill   string
	Verdict string
	HomeS   *float64 // nil where it was not brought home
	LostM   *float64
	Wrong   *int
}

// LostRuns lists a student's newest runs of the lost-craft trainer, oldest first.
func (tx Tx) LostRuns(ctx context.Context, student uuid.UUID, n int) ([]LostRun, error) {
	rows, err := tx.Query(ctx, `SELECT r.id, r.flown_at, r.lost, r.coach, a.drill, a.verdict,
		(a.result->'steps'->0->'metrics'->>'home_s')::float8 AS home_s,
		(a.result->'steps'->0->'metrics'->>'lost_m')::float8 AS lost_m,
		(a.result->'steps'->0->'metrics'->>'wrong_inputs')::float8::int AS wrong
		FROM (SELECT * FROM runs WHERE student_id = $1 AND lost <> '' AND refused = '' ORDER BY flown_at DESC,
		id DESC LIMIT $2) r
		JOIN attempts a ON a.id = r.id ORDER BY r.flown_at, r.id`, student, n)
	list, err := many[LostRun](rows, err)
	if err != nil {
		return nil, fmt.Errorf("read the runs: %w", err)
	}
	return list, nil
}
