package store

import (
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"

	"maestrale/core/intake"
)

// Intake is a table that somebody brought.
type Intake struct {
	ID       uuid.UUID
	Kind     string // empty while it is not chosen
	Name     string // of the file
	At       time.Time
	By       string
	TakenAt  *time.Time // nil while it is looked at
	UndoneAt *time.Time
	Made     []uuid.UUID
}

// CanUndo tells whether what came of it can still be taken out.
func (i Intake) CanUndo(now time.Time) bool {
	return i.TakenAt != nil && i.UndoneAt == nil && now.Sub(*i.TakenAt) <= intake.UndoFor
}

// AddIntake keeps a file to be looked at; those that nobody took within a day are thrown away.
func (tx Tx) AddIntake(ctx context.Context, id, by uuid.UUID, name string, file []byte, now time.Time) error {
	if _, err := tx.Exec(ctx, `DELETE FROM intakes WHERE taken_at IS NULL AND at < $1`,
		now.Add(-24*time.Hour)); err != nil {
		return fmt.Errorf("throw old files away: %w", err)
	}
	sum := sha256.Sum256(file)
	if _, err := tx.Exec(ctx, `INSERT INTO intakes (id, school_id, name, sha256, file, account_id, at)
		VALUES ($1, $2, $3, $4, $5, $6, $7)`, id, tx.School, name, sum[:], packer.EncodeAll(file, nil), by,
		now); err != nil {
		return fmt.Errorf("keep the file: %w", err)
	}
	return nil
}

const intakeQuery = `SELECT i.id, i.kind, i.name, i.at, a.name, i.taken_at, i.undone_at, i.made
	FROM intakes i JOIN accounts a ON a.id = i.account_id `

// Intakes lists the newest tables that were taken.
func (tx Tx) Intakes(ctx context.Context, most int) ([]Intake, error) {
	rows, err := tx.Query(ctx, intakeQuery+`WHERE i.taken_at IS NOT NULL ORDER BY i.taken_at DESC LIMIT $1`, most)
	list, err := many[Intake](rows, err)
	if err != nil {
		return nil, fmt.Errorf("list the files that came: %w", err)
	}
	return list, nil
}

// OneIntake finds a table with its file.
func (tx Tx) OneIntake(ctx context.Context, id uuid.UUID) (i Intake, file []byte, err error) {
	rows, err := tx.Query(ctx, intakeQuery+`WHERE i.id = $1`, id)
	if i, err = one[Intake](rows, err); err != nil {
		return i, nil, err
	}
	if err = tx.QueryRow(ctx, `SELECT file FROM intakes WHERE id = $1`, id).Scan(&file); err == nil {
		file, err = unpacker.DecodeAll(file, nil)
	}
	if err != nil {
		return i, nil, fmt.Errorf("read the file: %w", err)
	}
	return i, file, nil
}

// TookIntake keeps what came of a table: ErrTwice where the very same file was taken before, or this one was.
func (tx Tx) TookIntake(ctx context.Context, id uuid.UUID, kind string, made []uuid.UUID, now time.Time) error {
	tag, err := tx.Exec(ctx, `UPDATE intakes SET kind = $2, made = $3, taken_at = $4 WHERE id = $1 AND taken_at IS NULL`,
		id,
		kind, made, now)
	if violates(err, uniqueViolation) || err == nil && tag.RowsAffected() == 0 {
		return ErrTwice
	}
	if err != nil {
		return fmt.Errorf("keep what came of the file: %w", err)
	}
	return nil
}

// The reasons for which an intake is not undone.
var (
	ErrLate = errors.New("an hour has passed")
	ErrUsed = errors.New("something of it is in use")
)

// UndoIntake takes out again the students, craft or packs that an intake made, and notes for every kind that it was
// undone.
func (tx Tx) UndoIntake(ctx context.Context, id uuid.UUID, now time.Time) error {
	var said string
	if err := tx.QueryRow(ctx, `SELECT undo_intake($1, $2)`, id, now).Scan(&said); err != nil {
		return fmt.Errorf("undo: %w", err)
	}
	switch said {
	case "done":
		return nil
	case "undone":
		return ErrTwice
	case "late":
		return ErrLate
	case "used":
		return ErrUsed
	}
	return ErrNotFound
}

// PaperPasses lists the passes that were brought from paper and stand: neither void nor replaced.
func (tx Tx) PaperPasses(ctx context.Context) ([]intake.Pass, error) {
	rows, err := tx.Query(ctx, `SELECT a.student_id::text, a.at, a.drill, a.side, a.aids, a.level, a.craft_type, a.origin
		FROM attempts a WHERE a.source = 'claimed' AND a.verdict <> 'void'
		AND NOT EXISTS (SELECT FROM attempts c WHERE c.corrects = a.id)`)
	list, err := many[intake.Pass](rows, err)
	if err != nil {
		return nil, fmt.Errorf("list the passes from paper: %w", err)
	}
	return list, nil
}

// Claims lists the passes that were brought from paper and on which the chief has not decided, or has: the newest state
// of each.
func (tx Tx) Claims(ctx context.Context, counts bool) ([]uuid.UUID, error) {
	rows, err := tx.Query(ctx, `SELECT a.id FROM attempts a WHERE a.source = 'claimed' AND a.verdict <> 'void'
		AND a.counts = $1 AND NOT EXISTS (SELECT FROM attempts c WHERE c.corrects = a.id) ORDER BY a.at`, counts)
	type row struct{ ID uuid.UUID }
	list, err := many[row](rows, err)
	if err != nil {
		return nil, fmt.Errorf("list the passes from paper: %w", err)
	}
	out := make([]uuid.UUID, len(list))
	for i, r := range list {
		out[i] = r.ID
	}
	return out, nil
}
