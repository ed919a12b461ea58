package store

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// MarkedLast is an attempt that stands, as a list of what was marked last shows it.
type MarkedLast struct {
	ID         uuid.UUID
	RecordedAt time.Time
	Student    string
	Drill      string
	Side       string
	Aids       string
	Verdict    string
	Sim        bool // flown in the simulator
}

// MarkedLast reads what was recorded last in the school and stands: neither void nor replaced by a correction.
func (tx Tx) MarkedLast(ctx context.Context, n int) ([]MarkedLast, error) {
	rows, err := tx.Query(ctx, `SELECT a.id, a.recorded_at, s.name, a.drill, a.side, a.aids, a.verdict,
			a.source = 'sim'
		FROM attempts a JOIN students s ON s.id = a.student_id
		WHERE a.verdict <> 'void' AND NOT EXISTS (SELECT FROM attempts c WHERE c.corrects = a.id)
		ORDER BY a.recorded_at DESC LIMIT $1`, n)
	if err != nil {
		return nil, fmt.Errorf("read what was marked last: %w", err)
	}
	list, err := pgx.CollectRows(rows, pgx.RowToStructByPos[MarkedLast])
	if err != nil {
		return nil, fmt.Errorf("read what was marked last: %w", err)
	}
	return list, nil
}
