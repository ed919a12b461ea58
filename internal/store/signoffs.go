package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"maestrale/core/craft"
	"maestrale/core/record"
)

// Decisions reads what was witnessed of a student and what was signed, oldest
// first.
func (tx Tx) Decisions(ctx context.Context, student uuid.UUID) (seen []record.Witnessed, signs []record.SignOff, err error) {
	rows, err := tx.Query(ctx, `SELECT w.act, '', w.at, a.name, w.at, true FROM witnessed w JOIN accounts a ON a.id = w.witnessed_by WHERE w.student_id = $1
		UNION ALL SELECT s.gate, s.craft_class, s.at, a.name, s.until, false FROM signoffs s JOIN accounts a ON a.id = s.signed_by WHERE s.student_id = $1
		ORDER BY 3`, student)
	if err != nil {
		return nil, nil, fmt.Errorf("read what was signed: %w", err)
	}
	var what, class, by string
	var at, until time.Time
	var witness bool
	_, err = pgx.ForEachRow(rows, []any{&what, &class, &at, &by, &until, &witness}, func() error {
		if witness {
			seen = append(seen, record.Witnessed{Act: what, At: at, By: by})
		} else {
			signs = append(signs, record.SignOff{Gate: what, CraftClass: craft.Class(class), At: at, By: by, Until: until})
		}
		return nil
	})
	if err != nil {
		return nil, nil, fmt.Errorf("read what was signed: %w", err)
	}
	return seen, signs, nil
}

// append locks a student's record and adds one entry to its chain.
func (tx Tx) append(ctx context.Context, student uuid.UUID, kind string, id uuid.UUID, body any) error {
	if err := tx.lock(ctx, student); err != nil {
		return err
	}
	data, err := json.Marshal(body)
	if err != nil {
		return fmt.Errorf("extend the chain: %w", err)
	}
	seq, prev, err := tx.chainEnd(ctx, student)
	if err != nil {
		return err
	}
	_, err = tx.link(ctx, record.Link{Student: student.String(), Seq: seq + 1, Kind: kind, ID: id.String(), Body: data}, prev)
	return err
}

// lock takes the student's row, which is the lock of the student's chain.
func (tx Tx) lock(ctx context.Context, student uuid.UUID) error {
	err := tx.QueryRow(ctx, `SELECT id FROM students WHERE id = $1 FOR NO KEY UPDATE`, student).Scan(new(uuid.UUID))
	if errors.Is(err, pgx.ErrNoRows) {
		return ErrNotFound
	}
	if err != nil {
		return fmt.Errorf("lock the record: %w", err)
	}
	return nil
}

// Witness keeps that somebody saw a student do an act.
func (tx Tx) Witness(ctx context.Context, student, by uuid.UUID, w record.Witnessed) error {
	id := NewID()
	if err := tx.append(ctx, student, "witnessed", id, w); err != nil {
		return err
	}
	_, err := tx.Exec(ctx, `INSERT INTO witnessed (id, school_id, student_id, act, at, witnessed_by) VALUES ($1, $2, $3, $4, $5, $6)`, id, tx.School, student, w.Act, w.At, by)
	if err != nil {
		return fmt.Errorf("keep what was witnessed: %w", err)
	}
	return nil
}

// SignOff keeps a signed decision.
func (tx Tx) SignOff(ctx context.Context, student, by uuid.UUID, s record.SignOff) error {
	id := NewID()
	if err := tx.append(ctx, student, "signoff", id, s); err != nil {
		return err
	}
	_, err := tx.Exec(ctx, `INSERT INTO signoffs (id, school_id, student_id, gate, craft_class, at, until, signed_by) VALUES ($1, $2, $3, $4, $5, $6, $7, $8)`,
		id, tx.School, student, s.Gate, s.CraftClass, s.At, s.Until, by)
	if err != nil {
		return fmt.Errorf("keep the sign-off: %w", err)
	}
	return nil
}
