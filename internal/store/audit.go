package store

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// ActKind is a kind of what people do.
type ActKind string

// The kinds, with what stands in Act.Args.
const (
	ActAttempt   ActKind = "attempt"    // drill, side, aids, verdict
	ActCorrected ActKind = "correction" // drill, side, aids, verdict
	ActWitnessed ActKind = "witnessed"  // key of the act
	ActSigned    ActKind = "signed"     // gate, class of craft, reason of an override or empty
	ActRead      ActKind = "read"       // nothing
	ActWithdrew  ActKind = "withdrew"   // reason
	ActTookOver  ActKind = "import"     // number of attempts, name of the school, "t" where they count
	ActLesson    ActKind = "lesson"     // nothing
	ActWrote     ActKind = "wrote"      // format, key, version
	ActTookBack  ActKind = "took-back"  // format, key, version
	ActCutOff    ActKind = "cut"        // nothing
	ActOther     ActKind = "other"      // what was done, in words
)

// Act is a line of who did what.
type Act struct {
	At      time.Time
	By      string
	Kind    ActKind
	Args    []string
	Student *string
	Of      *uuid.UUID
}

// AuditAsk says which acts are asked for: before a moment, and of one person, one student, one kind or one stretch of
// time where that is given.
type AuditAsk struct {
	Before  time.Time
	Most    int
	By      *uuid.UUID
	Student *uuid.UUID
	Kind    ActKind // empty = every kind
	From    time.Time
}

// Audit lists who did what, the newest first: recorded attempts, acts and sign-offs, what became of them, records that
// came, lessons, files of the school's own, devices cut off, and what is noted besides.
func (tx Tx) Audit(ctx context.Context, q AuditAsk) ([]Act, error) {
	rows, err := tx.Query(ctx, `SELECT x.at, coalesce(a.name, 'nobody'), x.kind, x.args, s.name, x.student FROM (
		(SELECT recorded_at AS at, recorded_by AS by,
			CASE WHEN corrects IS NULL THEN 'attempt' ELSE 'correction' END AS kind,
		   ARRAY[drill, side, aids, verdict] AS args, student_id AS student FROM attempts
		   WHERE ($1::uuid IS NULL OR student_id = $1) AND recorded_at < $2 AND recorded_at >= $6
		   AND ($4::uuid IS NULL OR recorded_by = $4) AND ($5 = '' OR $5 = CASE WHEN corrects IS NULL THEN 'attempt' ELSE
		   'correction' END) ORDER BY recorded_at DESC LIMIT $3)
		UNION ALL SELECT w.at, w.witnessed_by, 'witnessed', ARRAY[w.act], w.student_id FROM witnessed w
		UNION ALL SELECT g.at, g.signed_by, 'signed', ARRAY[g.gate, g.craft_class, g.reason], g.student_id FROM signoffs g
		UNION ALL SELECT e.at, e.by_account, CASE e.kind WHEN 'read' THEN 'read' ELSE 'withdrew' END, ARRAY[e.reason],
		e.student_id FROM signoff_events e
		UNION ALL SELECT i.at, i.imported_by, 'import', ARRAY[i.attempts::text, i.from_school, left(i.counts::text, 1)],
		i.student_id FROM imports i
		UNION ALL SELECT l.at, l.planned_by, 'lesson', '{}', l.student_id FROM lessons l
		UNION ALL SELECT f.written_at, f.account_id, CASE f.source WHEN '' THEN 'took-back' ELSE 'wrote' END,
		ARRAY[split_part(f.format, '/', 1), f.key, f.version::text], NULL FROM school_files f
		UNION ALL SELECT c.at, c.cut_by, 'cut', '{}', NULL FROM device_cuts c
		UNION ALL SELECT t.at, t.by_account, 'other', ARRAY[t.what], t.student_id FROM acts t
		) x LEFT JOIN accounts a ON a.id = x.by LEFT JOIN students s ON s.id = x.student
		WHERE ($1::uuid IS NULL OR x.student = $1) AND x.at < $2 AND x.at >= $6 AND ($4::uuid IS NULL OR x.by = $4)
		AND ($5 = '' OR x.kind = $5) ORDER BY x.at DESC LIMIT $3`, q.Student, q.Before, q.Most, q.By, string(q.Kind), q.From)
	if err != nil {
		return nil, fmt.Errorf("list who did what: %w", err)
	}
	list, err := pgx.CollectRows(rows, pgx.RowToStructByPos[Act])
	if err != nil {
		return nil, fmt.Errorf("list who did what: %w", err)
	}
	return list, nil
}
