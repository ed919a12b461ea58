package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"github.com/google/uuid"

	"maestrale/core/readiness"
)

// PadSchool is what every pad of a school has, besides the students.
type PadSchool struct {
	HandCatch bool
	Prior     readiness.Prior
	Files     []SchoolFile    // format, key and source of those in force
	Course    *Course         // of the day; nil for none
	Day       json.RawMessage // who and what is at the field day that is on, or the nearest; nil where there is none
}

// PadSchool reads it, in one query.
func (tx Tx) PadSchool(ctx context.Context, at time.Time) (out PadSchool, err error) {
	var files, course []byte
	err = tx.QueryRow(ctx, `SELECT coalesce((SELECT hand_catch FROM school_settings), false),
		(SELECT weights FROM learning_fits ORDER BY fitted_at DESC LIMIT 1),
		(SELECT json_agg(f) FROM (`+filesSQL+`) f),
		(SELECT json_build_object('ID', c.id, 'Site', c.site, 'Name', c.name, 'Seq', c.seq, 'Source', c.source)
			FROM (`+courseQuery+`WHERE c.id = (SELECT course_id FROM school_settings)) c),
		(SELECT d.source FROM (`+dayNearSQL+`) d)`, at).Scan(&out.HandCatch, &out.Prior.Weights, &files, &course, &out.Day)
	if err == nil && files != nil {
		err = json.Unmarshal(files, &out.Files)
	}
	if err == nil && course != nil {
		err = json.Unmarshal(course, &out.Course)
	}
	if err != nil {
		return out, fmt.Errorf("read what pads have of the school: %w", err)
	}
	if !out.Prior.Sound() {
		out.Prior = readiness.Prior{}
	}
	return out, nil
}

// PadStudent is one whom a pad may have.
type PadStudent struct {
	ID        uuid.UUID
	Name      string
	Programme string
	Craft     string
	Entries   int64      // of the record; 0 where it is none of those below
	Last      *time.Time // when the newest of the attempts below was flown; nil where there is none among them
}

// PadStudents lists the students in training, those who flew last first. It looks at their newest attempts, as many as
// are asked for, and counts the records only of who flew one of them or is named: who flew none would come after all
// these, and after as many attempts.
func (tx Tx) PadStudents(ctx context.Context, newest int, named []uuid.UUID) ([]PadStudent, error) {
	rows, err := tx.Query(ctx, `WITH lately AS (SELECT student_id, max(at) AS at FROM
			(SELECT a.student_id, a.at FROM attempts a WHERE a.student_id NOT IN (SELECT id FROM students
				WHERE own_of IS NOT NULL OR left_on IS NOT NULL) ORDER BY a.at DESC LIMIT $1) newest GROUP BY student_id)
		SELECT s.id, s.name, s.programme, s.craft_type,
			CASE WHEN l.at IS NULL AND NOT s.id = ANY($2) THEN 0 ELSE coalesce((SELECT c.seq FROM chain c
				WHERE c.school_id = s.school_id AND c.student_id = s.id ORDER BY c.seq DESC LIMIT 1), 0) END, l.at
		FROM students s LEFT JOIN lately l ON l.student_id = s.id
		WHERE s.own_of IS NULL AND s.left_on IS NULL ORDER BY l.at DESC NULLS LAST, s.id`, newest, named)
	list, err := many[PadStudent](rows, err)
	if err != nil {
		return nil, fmt.Errorf("list the students for a pad: %w", err)
	}
	return list, nil
}
