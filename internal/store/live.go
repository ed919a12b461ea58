package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"github.com/google/uuid"
)

// Injection is what an instructor let happen to a run while it was flown.
type Injection struct {
	ID        uuid.UUID
	StudentID uuid.UUID
	RunID     uuid.UUID
	Event     string
	AccountID uuid.UUID
	ByName    string
	SentAt    time.Time
}

// AddInjection keeps one before it is sent on.
func (tx Tx) AddInjection(ctx context.Context, i Injection) error {
	_, err := tx.Exec(ctx, `INSERT INTO injections (id, school_id, student_id, run_id, event, account_id) VALUES ($1, $2,
		$3, $4, $5, $6)`,
		i.ID, tx.School, i.StudentID, i.RunID, i.Event, i.AccountID)
	if violates(err, foreignKeyViolation) {
		return ErrNotFound
	}
	if err != nil {
		return fmt.Errorf("keep what is let happen: %w", err)
	}
	return nil
}

// Injections lists what was let happen to a run, in order.
func (tx Tx) Injections(ctx context.Context, run uuid.UUID) ([]Injection, error) {
	rows, err := tx.Query(ctx, `SELECT i.id, i.student_id, i.run_id, i.event, i.account_id, a.name AS by_name, i.sent_at
		FROM injections i JOIN accounts a ON a.id = i.account_id WHERE i.run_id = $1 ORDER BY i.sent_at, i.id`, run)
	list, err := many[Injection](rows, err)
	if err != nil {
		return nil, fmt.Errorf("list what was let happen: %w", err)
	}
	return list, nil
}

// Radio is how one device of a person is set.
type Radio struct {
	Device   string
	Settings json.RawMessage
}

// SetRadio keeps how a device is set, for one person.
func (tx Tx) SetRadio(ctx context.Context, account uuid.UUID, r Radio) error {
	_, err := tx.Exec(ctx, `INSERT INTO radios (school_id, account_id, device, settings) VALUES ($1, $2, $3, $4)
		ON CONFLICT (school_id, account_id, device) DO UPDATE SET settings = excluded.settings, changed_at = now()`,
		tx.School, account, r.Device, r.Settings)
	if err != nil {
		return fmt.Errorf("keep the radio: %w", err)
	}
	return nil
}

// Radios lists the devices of a person.
func (tx Tx) Radios(ctx context.Context, account uuid.UUID) ([]Radio, error) {
	rows, err := tx.Query(ctx,
		`SELECT device, settings FROM radios WHERE account_id = $1 ORDER BY changed_at DESC, device`, account)
	list, err := many[Radio](rows, err)
	if err != nil {
		return nil, fmt.Errorf("list the radios: %w", err)
	}
	return list, nil
}
