package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// Device is a device that marks come from.
type Device struct {
	ID      uuid.UUID
	Name    string
	By      string
	FirstAt time.Time
	LastAt  time.Time
	CutAt   *time.Time
}

// ErrCut is returned for a device that was cut off.
var ErrCut = errors.New("the device was cut off")

// Seen notes that a device is there, and who is signed in on it.
func (tx Tx) Seen(ctx context.Context, id, account uuid.UUID, name string) error {
	if cut, err := tx.Cut(ctx, id); err != nil || cut {
		if err == nil {
			err = ErrCut
		}
		return err
	}
	tag, err := tx.Exec(ctx, `INSERT INTO devices (id, school_id, account_id, name) VALUES ($1, $2, $3, $4)
		ON CONFLICT (id) DO UPDATE SET account_id = $3, last_at = now(),
		name = CASE WHEN $4 = '' THEN devices.name ELSE $4 END WHERE devices.school_id = $2`, id, tx.School, account, name)
	if err != nil {
		return fmt.Errorf("note the device: %w", err)
	}
	if tag.RowsAffected() == 0 {
		return ErrNotFound // another school's
	}
	return nil
}

// Neighbours are when the attempts of a device began that its counter has just before and
// just after a place; nil for none.
func (tx Tx) Neighbours(ctx context.Context, device uuid.UUID, seq int64) (before, after *time.Time, err error) {
	err = tx.QueryRow(ctx, `SELECT (SELECT max(began_at) FROM openings WHERE device_id = $1 AND device_seq < $2),
		(SELECT min(began_at) FROM openings WHERE device_id = $1 AND device_seq > $2)`, device, seq).Scan(&before, &after)
	if err != nil {
		return nil, nil, fmt.Errorf("look for the device's other attempts: %w", err)
	}
	return before, after, nil
}

// Cut tells whether a device was cut off.
func (tx Tx) Cut(ctx context.Context, id uuid.UUID) (bool, error) {
	var cut bool
	if err := tx.QueryRow(ctx, `SELECT EXISTS (SELECT FROM device_cuts WHERE device_id = $1)`, id).Scan(&cut); err != nil {
		return false, fmt.Errorf("look for the device: %w", err)
	}
	return cut, nil
}

// CutOff cuts a device off for good.
func (tx Tx) CutOff(ctx context.Context, id, by uuid.UUID) error {
	_, err := tx.Exec(ctx, `INSERT INTO device_cuts (device_id, school_id, cut_by) VALUES ($1, $2, $3)
		ON CONFLICT (device_id) DO NOTHING`, id, tx.School, by)
	if violates(err, foreignKeyViolation) {
		return ErrNotFound
	}
	if err != nil {
		return fmt.Errorf("cut the device off: %w", err)
	}
	return nil
}

// Devices lists the school's devices, the newest first.
func (tx Tx) Devices(ctx context.Context) ([]Device, error) {
	rows, err := tx.Query(ctx,
		`SELECT d.id, d.name, a.name, d.first_at, d.last_at, c.at FROM devices d JOIN accounts a ON a.id = d.account_id LEFT
			JOIN device_cuts c ON c.device_id = d.id ORDER BY d.last_at DESC LIMIT 100`)
	return many[Device](rows, err)
}

// Overlapping is an attempt of the same student that somebody else, or another device,
// marked at the same time; nil for none.
func (tx Tx) Overlapping(ctx context.Context, o Opening, lastS float64) (*uuid.UUID, error) {
	var id uuid.UUID
	err := tx.QueryRow(ctx, `SELECT p.id FROM openings p JOIN attempts a ON a.id = p.id
		WHERE p.student_id = $1 AND p.id <> $2 AND a.verdict <> 'void' AND NOT EXISTS (SELECT FROM attempts c
		WHERE c.corrects = a.id)
		AND (p.device_id IS DISTINCT FROM $3 OR p.opened_by <> $4)
		AND a.at < $5::timestamptz + make_interval(secs => $6)
		AND $5::timestamptz < a.at + make_interval(secs => (SELECT coalesce(max(m.t_s), 0) FROM marks m
		WHERE m.opening_id = p.id))
		ORDER BY a.at LIMIT 1`, o.StudentID, o.ID, o.DeviceID, o.OpenedBy, o.At(), lastS).Scan(&id)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, nil //nolint:nilnil // nobody else did
	}
	if err != nil {
		return nil, fmt.Errorf("look for the same flight: %w", err)
	}
	return &id, nil
}

// Conflict is two attempts of the same time, of which one stands.
type Conflict struct {
	ID        uuid.UUID
	StudentID uuid.UUID
	Student   string
	FirstID   uuid.UUID
	SecondID  uuid.UUID
	FoundAt   time.Time
}

// AddConflict keeps that two attempts are of the same time.
func (tx Tx) AddConflict(ctx context.Context, student, first, second uuid.UUID) error {
	_, err := tx.Exec(ctx, `INSERT INTO conflicts (id, school_id, student_id, first_id, second_id) VALUES ($1, $2, $3, $4,
		$5) ON CONFLICT (first_id, second_id) DO NOTHING`, NewID(), tx.School, student, first, second)
	if err != nil {
		return fmt.Errorf("keep the conflict: %w", err)
	}
	return tx.Changed(ctx)
}

const conflictQuery = `SELECT c.id, c.student_id, s.name, c.first_id, c.second_id, c.found_at FROM conflicts c
	JOIN students s ON s.id = c.student_id
	WHERE NOT EXISTS (SELECT FROM conflict_decisions d WHERE d.conflict_id = c.id) `

// Conflicts lists those that nobody has settled.
func (tx Tx) Conflicts(ctx context.Context) ([]Conflict, error) {
	rows, err := tx.Query(ctx, conflictQuery+`ORDER BY c.found_at`)
	return many[Conflict](rows, err)
}

// OneConflict finds a conflict that nobody has settled.
func (tx Tx) OneConflict(ctx context.Context, id uuid.UUID) (Conflict, error) {
	rows, err := tx.Query(ctx, conflictQuery+`AND c.id = $1`, id)
	return one[Conflict](rows, err)
}

// Settle keeps which of two attempts stands.
func (tx Tx) Settle(ctx context.Context, conflict, stands, by uuid.UUID) error {
	_, err := tx.Exec(ctx, `INSERT INTO conflict_decisions (conflict_id, school_id, stands, decided_by) VALUES ($1, $2,
		$3, $4)`, conflict, tx.School, stands, by)
	if violates(err, uniqueViolation) {
		return ErrElsewhere
	}
	if err != nil {
		return fmt.Errorf("settle the conflict: %w", err)
	}
	return tx.Changed(ctx)
}
