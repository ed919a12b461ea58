package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// NextFacts is what decides what a student flies next, besides the record.
type NextFacts struct {
	StudentID uuid.UUID
	Feels     string   // said last since the moment that was asked for; empty for nothing
	HandCatch bool     // the school has switched it on
	Practised []string // keys of the drills of flights that ended
	Calls     []Call   // the newest of the nose of the craft that the student flies, in order of time
}

// feltSQL is what each student said last since $2 of how they feel.
const feltSQL = `SELECT DISTINCT ON (f.student_id) f.student_id, e.body FROM flight_events e
		JOIN flights f ON f.id = e.flight_id WHERE e.kind IN ('before', 'after') AND e.at >= $2
		ORDER BY f.student_id, e.at DESC`

// factsColumns are the facts of the student s, with what felt has of them, and $3 calls.
const factsColumns = `s.id, coalesce(felt.body, ''),
		coalesce((SELECT hand_catch FROM school_settings), false),
		ARRAY(SELECT DISTINCT f.drill FROM flights f JOIN flight_events e ON e.flight_id = f.id AND e.kind = 'end'
			WHERE f.student_id = s.id AND f.drill <> '' AND e.at > f.begun_at
			AND NOT EXISTS (SELECT FROM flight_events v WHERE v.flight_id = f.id AND v.kind = 'void')),
		coalesce((SELECT jsonb_agg(jsonb_build_object('DistanceM', x.distance_m, 'Light', x.light, 'Shown', x.shown,
			'Called', x.called) ORDER BY x.at, x.id) FROM (SELECT * FROM calls c WHERE c.student_id = s.id
			AND c.craft_type = s.craft_type ORDER BY c.at DESC, c.id DESC LIMIT $3) x), '[]')`

// NextFactsOf reads the facts of some students, or of all of the school where none is named: in one query, since the
// list of students asks for all of them.
func (tx Tx) NextFactsOf(ctx context.Context, since time.Time, calls int, students ...uuid.UUID) (
	map[uuid.UUID]NextFacts, error,
) {
	rows, err := tx.Query(ctx, `WITH felt AS (`+feltSQL+`)
		SELECT `+factsColumns+`, NULL FROM students s LEFT JOIN felt ON felt.student_id = s.id
		WHERE $4 OR s.id = ANY($1)`, students, since, calls, len(students) == 0)
	if err != nil {
		return nil, fmt.Errorf("read what decides the next drill: %w", err)
	}
	facts, _, err := factsIn(rows)
	return facts, err
}

// FactsAndDecisions reads the facts of some students and what was decided of each, in one query.
func (tx Tx) FactsAndDecisions(ctx context.Context, since time.Time, calls int, students []uuid.UUID) (
	map[uuid.UUID]NextFacts, map[uuid.UUID]Decision, error,
) {
	rows, err := tx.Query(ctx, `WITH felt AS (`+feltSQL+`), decided AS (`+decidedSQL+`),
		of AS (SELECT student_id, json_agg(decided ORDER BY at) AS list FROM decided GROUP BY student_id)
		SELECT `+factsColumns+`, of.list FROM students s LEFT JOIN felt ON felt.student_id = s.id
		LEFT JOIN of ON of.student_id = s.id
		WHERE s.id = ANY($1)`, students, since, calls)
	if err != nil {
		return nil, nil, fmt.Errorf("read what decides the next drill: %w", err)
	}
	return factsIn(rows)
}

// factsIn takes the facts out of rows of factsColumns and a list of what was decided, which is null for none.
func factsIn(rows pgx.Rows) (map[uuid.UUID]NextFacts, map[uuid.UUID]Decision, error) {
	facts, decisions := map[uuid.UUID]NextFacts{}, map[uuid.UUID]Decision{}
	var f NextFacts
	var called, made []byte
	_, err := pgx.ForEachRow(rows, []any{&f.StudentID, &f.Feels, &f.HandCatch, &f.Practised, &called, &made},
		func() error {
			if err := json.Unmarshal(called, &f.Calls); err != nil {
				return fmt.Errorf("the calls: %w", err)
			}
			if made != nil {
				var list []decided
				if err := json.Unmarshal(made, &list); err != nil {
					return fmt.Errorf("what was decided: %w", err)
				}
				var d Decision
				for i := range list {
					if err := d.add(&list[i]); err != nil {
						return err
					}
				}
				decisions[f.StudentID] = d
			}
			facts[f.StudentID] = f
			f = NextFacts{}
			return nil
		})
	if err != nil {
		return nil, nil, fmt.Errorf("read what decides the next drill: %w", err)
	}
	return facts, decisions, nil
}
