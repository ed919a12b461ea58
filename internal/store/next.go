package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"github.com/google/uuid"
)

// NextFacts is what decides what a student flies next, besides the record.
type NextFacts struct {
	StudentID uuid.UUID
	Feels     string   // said last since the moment that was asked for; empty for nothing
	HandCatch bool     // the school has switched it on
	Practised []string // keys of the drills of flights that ended
	Calls     []Call   // the newest of the nose of the craft that the student flies, in order of time
}

// NextFactsOf reads the facts of some students, or of all of the school where none is named: in one query, since the
// list of students asks for all of them.
func (tx Tx) NextFactsOf(ctx context.Context, since time.Time, calls int, students ...uuid.UUID) (
	map[uuid.UUID]NextFacts, error,
) {
	rows, err := tx.Query(ctx, `SELECT s.id,
		coalesce((SELECT e.body FROM flight_events e JOIN flights f ON f.id = e.flight_id WHERE f.student_id = s.id
			AND e.kind IN ('before', 'after') AND e.at >= $1 ORDER BY e.at DESC LIMIT 1), ''),
		coalesce((SELECT hand_catch FROM school_settings), false),
		ARRAY(SELECT DISTINCT f.drill FROM flights f JOIN flight_events e ON e.flight_id = f.id AND e.kind = 'end'
			WHERE f.student_id = s.id AND f.drill <> '' AND e.at > f.begun_at
			AND NOT EXISTS (SELECT FROM flight_events v WHERE v.flight_id = f.id AND v.kind = 'void')),
		coalesce((SELECT jsonb_agg(jsonb_build_object('DistanceM', x.distance_m, 'Light', x.light, 'Shown', x.shown,
			'Called', x.called) ORDER BY x.at, x.id) FROM (SELECT * FROM calls c WHERE c.student_id = s.id
			AND c.craft_type = s.craft_type ORDER BY c.at DESC, c.id DESC LIMIT $2) x), '[]')
		FROM students s WHERE $3 OR s.id = ANY($4)`, since, calls, len(students) == 0, students)
	if err != nil {
		return nil, fmt.Errorf("read what decides the next drill: %w", err)
	}
	defer rows.Close()
	out := map[uuid.UUID]NextFacts{}
	for rows.Next() {
		var f NextFacts
		var list []byte
		if err := rows.Scan(&f.StudentID, &f.Feels, &f.HandCatch, &f.Practised, &list); err != nil {
			return nil, fmt.Errorf("read what decides the next drill: %w", err)
		}
		if err := json.Unmarshal(list, &f.Calls); err != nil {
			return nil, fmt.Errorf("read the calls: %w", err)
		}
		out[f.StudentID] = f
	}
	if err := rows.Err(); err != nil {
		return nil, fmt.Errorf("read what decides the next drill: %w", err)
	}
	return out, nil
}
