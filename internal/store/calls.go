package store

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"

	"maestrale/core/orient"
)

// Call is an aspect that a student called at a known distance.
type Call struct {
	ID        uuid.UUID
	CraftType string
	At        time.Time
	DistanceM float64
	Light     string
	Shown     int // a place in orient.CalledAmong
	Called    int // −1 = could not tell
	NotedBy   uuid.UUID
}

// Right tells whether the call was.
func (c *Call) Right() bool { return c.Shown == c.Called }

// AddCall keeps a call; the same id again is kept once.
func (tx Tx) AddCall(ctx context.Context, student uuid.UUID, c Call) error {
	_, err := tx.Exec(ctx, `INSERT INTO calls (id, school_id, student_id, craft_type, at, distance_m, light, shown, called, noted_by)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10) ON CONFLICT (id) DO NOTHING`,
		c.ID, tx.School, student, c.CraftType, c.At, c.DistanceM, c.Light, c.Shown, c.Called, c.NotedBy)
	if violates(err, foreignKeyViolation) {
		return ErrNotFound
	}
	if err != nil {
		return fmt.Errorf("keep the call: %w", err)
	}
	return nil
}

// Calls lists a student's newest calls of a craft type, oldest first.
func (tx Tx) Calls(ctx context.Context, student uuid.UUID, craftType string, n int) ([]Call, error) {
	rows, err := tx.Query(ctx, `SELECT id, craft_type, at, distance_m, light, shown, called, noted_by FROM
		(SELECT * FROM calls WHERE student_id = $1 AND craft_type = $2 ORDER BY at DESC, id DESC LIMIT $3) x ORDER BY at, id`, student, craftType, n)
	list, err := many[Call](rows, err)
	if err != nil {
		return nil, fmt.Errorf("read the calls: %w", err)
	}
	return list, nil
}

// CallsOfAll lists the newest calls of every student of the school, with the craft type
// that each now flies, oldest first.
func (tx Tx) CallsOfAll(ctx context.Context, n int) (map[uuid.UUID][]orient.Call, error) {
	rows, err := tx.Query(ctx, `SELECT student_id, distance_m, shown = called AS is_right, light FROM
		(SELECT c.*, row_number() OVER (PARTITION BY c.student_id ORDER BY c.at DESC, c.id DESC) AS k FROM calls c JOIN students s ON s.id = c.student_id AND s.craft_type = c.craft_type) x
		WHERE k <= $1 ORDER BY at, id`, n)
	type row struct {
		StudentID uuid.UUID
		DistanceM float64
		IsRight   bool
		Light     string
	}
	list, err := many[row](rows, err)
	if err != nil {
		return nil, fmt.Errorf("read the calls: %w", err)
	}
	out := map[uuid.UUID][]orient.Call{}
	for _, r := range list {
		out[r.StudentID] = append(out[r.StudentID], orient.Call{DistanceM: r.DistanceM, Right: r.IsRight, Light: orient.Light(r.Light)})
	}
	return out, nil
}

// OrientCalls are calls as core/orient takes them.
func OrientCalls(list []Call) (out []orient.Call) {
	for _, c := range list {
		out = append(out, orient.Call{DistanceM: c.DistanceM, Right: c.Right(), Light: orient.Light(c.Light)})
	}
	return out
}
