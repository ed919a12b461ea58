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

// Neighbours are when the attempts of a device began that its counter has just before and just after a place, among
// those of one sign-in; nil for none.
func (tx Tx) Neighbours(ctx context.Context, device, signIn uuid.UUID, seq int64) (before, after *time.Time,
	err error) {
	err = tx.QueryRow(ctx, `SELECT max(began_at) FILTER (WHERE device_seq < $3),
		min(began_at) FILTER (WHERE device_seq > $3) FROM openings WHERE device_id = $1 AND sign_in_id = $2`,
		device, signIn, seq).Scan(&before, &after)
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

// Span is when an attempt was flown, and what it may overlap: attempts that one person marked on one device are of
// flights one after the other, whatever the clock said.
type Span struct {
	ID, Student, By uuid.UUID
	Device          *uuid.UUID
	From, Until     time.Time
	Marked          bool // by eye, on a pad
}

// Overlapping is an attempt at the field that was flown at the same time by the same student, whatever it is known
// from; nil for none. The student is locked, so that of two at the same moment one finds the other.
func (tx Tx) Overlapping(ctx context.Context, s Span) (*uuid.UUID, error) {
	if err := tx.Lock(ctx, s.Student); err != nil {
		return nil, err
	}
	var id uuid.UUID
	// An attempt lasts less than a week, and each look beside it is one into an index, even where the database has lost
	// its figures of how large the tables are, as it does when it is killed.
	err := tx.QueryRow(ctx, `SELECT a.id FROM attempts a
		LEFT JOIN LATERAL (SELECT r.from_s, r.until_s FROM attempts r WHERE r.id = a.corrects LIMIT 1) r ON true
		LEFT JOIN LATERAL (SELECT p.id, p.device_id, p.opened_by FROM openings p
			WHERE p.id = coalesce(a.corrects, a.id) LIMIT 1) p ON true
		WHERE a.student_id = $1 AND a.at > $6::timestamptz - interval '7 days'
		AND a.at < $7::timestamptz + interval '7 days'
		AND a.id <> $2 AND a.source IN ('observed', 'track') AND a.verdict <> 'void'
		AND (SELECT count(*) FROM attempts c WHERE c.corrects = a.id) = 0
		AND NOT ($3 AND p.id IS NOT NULL AND p.device_id IS NOT DISTINCT FROM $4 AND p.opened_by = $5)
		AND a.at + make_interval(secs => coalesce(r.from_s, a.from_s)) < $7
		AND $6 < a.at + make_interval(secs => coalesce(a.until_s, r.until_s,
			(SELECT max(m.t_s) FROM marks m WHERE m.opening_id = p.id), 0))
		ORDER BY a.at LIMIT 1`, s.Student, s.ID, s.Marked, s.Device, s.By, s.From, s.Until).Scan(&id)
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
