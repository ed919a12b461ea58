package store

import (
	"context"
	"fmt"
	"time"

	"maestrale/core/readiness"
)

// DrillWeeks counts the students' attempts at the field that count, by drill and week of a zone, from a moment on. What
// was corrected counts as its correction says.
func (tx Tx) DrillWeeks(ctx context.Context, from time.Time, zone *time.Location) (
	out []readiness.DrillWeek, err error,
) {
	rows, err := tx.Query(ctx, `SELECT a.drill, date_trunc('week', a.at AT TIME ZONE $2) AT TIME ZONE $2, count(*),
		count(*) FILTER (WHERE a.verdict = 'pass')
		FROM attempts a WHERE a.at >= $1 AND a.student_id IS NOT NULL AND a.source <> 'sim' AND a.counts
		AND a.verdict <> 'void'
		AND NOT EXISTS (SELECT 1 FROM attempts c WHERE c.corrects = a.id) GROUP BY 1, 2`, from, zone.String())
	if err != nil {
		return nil, fmt.Errorf("count the attempts of the season: %w", err)
	}
	defer rows.Close()
	for rows.Next() {
		var w readiness.DrillWeek
		if err := rows.Scan(&w.Drill, &w.Week, &w.Attempts, &w.Passes); err != nil {
			return nil, fmt.Errorf("count the attempts of the season: %w", err)
		}
		w.Week = w.Week.In(zone)
		out = append(out, w)
	}
	if err := rows.Err(); err != nil {
		return nil, fmt.Errorf("count the attempts of the season: %w", err)
	}
	return out, nil
}
