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
	_, err := tx.Exec(ctx, `INSERT INTO calls (id, school_id, student_id, craft_type, at, distance_m, light, shown,
		called, noted_by)
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
		(SELECT * FROM calls WHERE student_id = $1 AND craft_type = $2 ORDER BY at DESC, id DESC LIMIT $3) x ORDER BY at,
		id`, student, craftType, n)
	list, err := many[Call](rows, err)
	if err != nil {
		return nil, fmt.Errorf("read the calls: %w", err)
	}
	return list, nil
}

// StudentsWhoCalled lists, by name, the students who fly a craft type and called its aspect.
func (tx Tx) StudentsWhoCalled(ctx context.Context, craftType string, n int) ([]Student, error) {
	rows, err := tx.Query(ctx, `SELECT `+studentColumns+` FROM students WHERE craft_type = $1 AND own_of IS NULL
		AND EXISTS (SELECT FROM calls c WHERE c.student_id = students.id AND c.craft_type = $1) ORDER BY name
		LIMIT $2`, craftType, n)
	list, err := many[Student](rows, err)
	if err != nil {
		return nil, fmt.Errorf("read who called: %w", err)
	}
	return list, nil
}

// OrientCalls are calls as core/orient takes them.
func OrientCalls(list []Call) (out []orient.Call) {
	for _, c := range list {
		out = append(out, orient.Call{DistanceM: c.DistanceM, Right: c.Right(), Light: orient.Light(c.Light)})
	}
	return out
}
