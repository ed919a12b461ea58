package store

import (
	"context"
	"crypto/ed25519"
	"crypto/rand"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"maestrale/core/record"
	"maestrale/core/score"
)

// SigningKey is the key of the school; it is made when it is asked for first.
func (tx Tx) SigningKey(ctx context.Context) (ed25519.PrivateKey, error) {
	fresh := make([]byte, ed25519.SeedSize)
	if _, err := rand.Read(fresh); err != nil {
		return nil, fmt.Errorf("make the school's key: %w", err)
	}
	if _, err := tx.Exec(ctx,
		`INSERT INTO school_keys (school_id, seed) VALUES ($1, $2) ON CONFLICT (school_id) DO NOTHING`, tx.School,
		fresh); err != nil {
		return nil, fmt.Errorf("keep the school's key: %w", err)
	}
	var seed []byte
	if err := tx.QueryRow(ctx, `SELECT seed FROM school_keys`).Scan(&seed); err != nil {
		return nil, fmt.Errorf("read the school's key: %w", err)
	}
	return ed25519.NewKeyFromSeed(seed), nil
}

// SchoolName is the name and the time zone of the school.
func (tx Tx) SchoolName(ctx context.Context) (name, zone string, err error) {
	if err = tx.QueryRow(ctx, `SELECT name, time_zone FROM schools`).Scan(&name, &zone); err != nil {
		return "", "", fmt.Errorf("read the school: %w", err)
	}
	return name, zone, nil
}

// Record gathers a student's record with its chain, as it is exported.
func (tx Tx) Record(ctx context.Context, student uuid.UUID) (*record.Exported, error) {
	st, err := tx.Student(ctx, student)
	if err != nil {
		return nil, err
	}
	out := &record.Exported{}
	if out.School, out.TimeZone, err = tx.SchoolName(ctx); err != nil {
		return nil, err
	}
	out.Student, out.Ladder = record.Student{ID: student.String(), Name: st.Name}, st.Programme
	chain, err := tx.Chain(ctx, student)
	if err != nil {
		return nil, err
	}
	out.Chain = record.Entries(chain)
	for _, l := range chain { // the attempts as they stand in the chain, to the letter
		if l.Kind != "attempt" {
			continue
		}
		var b record.AttemptBody
		if err := json.Unmarshal(l.Body, &b); err != nil {
			return nil, fmt.Errorf("read row %d of the chain: %w", l.Seq, err)
		}
		if b.Attempt.CraftType == "" {
			b.Attempt.CraftType = b.CraftType
		}
		out.Attempts = append(out.Attempts, b.Attempt)
	}
	if out.Marks, err = tx.marksOf(ctx, student); err != nil {
		return nil, err
	}
	if out.Witnessed, out.SignOffs, err = tx.Decisions(ctx, student); err != nil {
		return nil, err
	}
	out.Practice, err = tx.PracticeOf(ctx, student)
	return out, err
}

// marksOf are the marks of every attempt of a student that was marked by eye, as JSON and by the attempt's id.
func (tx Tx) marksOf(ctx context.Context, student uuid.UUID) (map[string]json.RawMessage, error) {
	rows, err := tx.Query(ctx, `SELECT m.opening_id::text, m.body::text FROM marks m JOIN openings o ON o.id = m.opening_id
		JOIN attempts a ON a.id = o.id WHERE o.student_id = $1 ORDER BY m.opening_id, m.t_s, m.id`, student)
	if err != nil {
		return nil, fmt.Errorf("read marks: %w", err)
	}
	lists := map[string][]score.Mark{}
	var id, body string
	if _, err = pgx.ForEachRow(rows, []any{&id, &body}, func() error {
		var m score.Mark
		err := json.Unmarshal([]byte(body), &m)
		lists[id] = append(lists[id], m)
		return err
	}); err != nil {
		return nil, fmt.Errorf("read marks: %w", err)
	}
	out := map[string]json.RawMessage{}
	for id, list := range lists {
		if out[id], err = json.Marshal(list); err != nil {
			return nil, fmt.Errorf("read marks: %w", err)
		}
	}
	return out, nil
}

// PracticeOf lists a student's flights as practice in a record.
func (tx Tx) PracticeOf(ctx context.Context, student uuid.UUID) ([]record.Practice, error) {
	rows, err := tx.Query(ctx, `SELECT f.begun_at, f.drill, f.side, f.aids, greatest(0, extract(epoch
		FROM e.at - f.begun_at) / 60)::float8, 1::float8
		FROM flights f JOIN flight_events e ON e.flight_id = f.id AND e.kind = 'end'
		WHERE f.student_id = $1 AND NOT EXISTS (SELECT FROM flight_events v WHERE v.flight_id = f.id AND v.kind = 'void')
		ORDER BY f.begun_at`, student)
	if err != nil {
		return nil, fmt.Errorf("read the practice: %w", err)
	}
	list, err := pgx.CollectRows(rows, pgx.RowToStructByPos[record.Practice])
	if err != nil {
		return nil, fmt.Errorf("read the practice: %w", err)
	}
	return list, nil
}

// Import is a record that came from another school.
type Import struct {
	ID        uuid.UUID
	StudentID uuid.UUID
	Student   string
	From      string
	Key       string
	Attempts  int
	Counts    bool
	At        time.Time
	By        string
}

// ErrTwice is returned for a record that came already.
var ErrTwice = errors.New("the record came already")

// AddImport keeps a record as it came.
func (tx Tx) AddImport(ctx context.Context, i Import, by uuid.UUID, file []byte) error {
	sum := sha256.Sum256(file)
	_, err := tx.Exec(ctx, `INSERT INTO imports (id, school_id, student_id, from_school, key, sha256, file, attempts,
		counts, at, imported_by) VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11)`,
		i.ID, tx.School, i.StudentID, i.From, i.Key, sum[:], packer.EncodeAll(file, nil), i.Attempts, i.Counts, i.At, by)
	if violates(err, uniqueViolation) {
		return ErrTwice
	}
	if err != nil {
		return fmt.Errorf("keep the record that came: %w", err)
	}
	return nil
}

// Imports lists the records that came, the newest first.
func (tx Tx) Imports(ctx context.Context) ([]Import, error) {
	rows, err := tx.Query(ctx,
		`SELECT i.id, i.student_id, s.name AS student, i.from_school, i.key, i.attempts, i.counts, i.at, a.name AS by
			FROM imports i JOIN students s ON s.id = i.student_id JOIN accounts a ON a.id = i.imported_by ORDER BY i.at DESC`)
	if err != nil {
		return nil, fmt.Errorf("list the records that came: %w", err)
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Import])
}

// Lesson is a lesson as it was planned.
type Lesson struct {
	ID   uuid.UUID
	At   time.Time
	Ask  json.RawMessage
	Plan json.RawMessage
	By   string
}

// AddLesson keeps a planned lesson; the same id again is kept once.
func (tx Tx) AddLesson(ctx context.Context, student, by uuid.UUID, l Lesson) error {
	_, err := tx.Exec(ctx, `INSERT INTO lessons (id, school_id, student_id, at, ask, plan, planned_by) VALUES ($1, $2, $3,
		$4, $5, $6, $7) ON CONFLICT (id) DO NOTHING`, l.ID, tx.School, student, l.At, l.Ask, l.Plan, by)
	if err != nil {
		return fmt.Errorf("keep the lesson: %w", err)
	}
	return nil
}

// Lessons lists a student's newest lessons.
func (tx Tx) Lessons(ctx context.Context, student uuid.UUID, n int) ([]Lesson, error) {
	rows, err := tx.Query(ctx,
		`SELECT l.id, l.at, l.ask, l.plan, a.name FROM lessons l JOIN accounts a ON a.id = l.planned_by
			WHERE l.student_id = $1 ORDER BY l.at DESC, l.id DESC LIMIT $2`, student, n)
	if err != nil {
		return nil, fmt.Errorf("list the lessons: %w", err)
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Lesson])
}

// Did notes who did what, besides what the records themselves say. student is nil where
// it is about nobody.
func (tx Tx) Did(ctx context.Context, by uuid.UUID, student *uuid.UUID, what string) error {
	if _, err := tx.Exec(ctx, `INSERT INTO acts (id, school_id, by_account, student_id, what) VALUES ($1, $2, $3, $4, $5)`,
		NewID(), tx.School, by, student, what); err != nil {
		return fmt.Errorf("note what was done: %w", err)
	}
	return nil
}

// Forget takes a student's name out, and closes the account: the attempts, the acts and
// the decisions stay, under the number alone. The text of every note, every voice note, and what the student typed
// and drew on an instructor's device, are taken out too.
func (tx Tx) Forget(ctx context.Context, student uuid.UUID, name string, by *Person) error {
	if err := tx.redactAll(ctx, student, by.ID, by.Name); err != nil {
		return err
	}
	if err := tx.dropVoices(ctx, student, by.ID); err != nil {
		return err
	}
	if _, err := tx.Exec(ctx, `UPDATE confirmations c SET typed = '', strokes = '' FROM signoff_events e
		WHERE e.id = c.event_id AND e.student_id = $1`, student); err != nil {
		return fmt.Errorf("forget the student: %w", err)
	}
	if _, err := tx.Exec(ctx, `UPDATE links SET name = '', email = '', revoked_at = coalesce(revoked_at, now())
		WHERE student_id = $1`, student); err != nil {
		return fmt.Errorf("forget the student: %w", err)
	}
	for _, sql := range []string{
		`UPDATE students SET name = $2, trains_for = '', goal = '' WHERE id = $1`,
		`UPDATE accounts SET name = $2, email = id || '@forgotten.invalid', password_hash = 'none',
			disabled_at = coalesce(disabled_at, now()) WHERE student_id = $1`,
	} {
		if _, err := tx.Exec(ctx, sql, student, name); err != nil {
			return fmt.Errorf("forget the student: %w", err)
		}
	}
	return nil
}

// View is what a student's record comes to, as it was worked out last.
type View struct {
	StudentID  uuid.UUID
	Seq        int64 // of the chain now
	Kept       int64 // of the chain that the body was made of; -1 = none was made
	Rules      string
	ValidUntil time.Time
	Body       json.RawMessage
}

// Views lists how the kept views of all students stand, without their bodies, and where the chains stand now.
func (tx Tx) Views(ctx context.Context) (map[uuid.UUID]View, error) {
	rows, err := tx.Query(ctx, `SELECT s.id, coalesce((SELECT c.seq FROM chain c WHERE c.school_id = s.school_id
		AND c.student_id = s.id ORDER BY c.seq DESC LIMIT 1), 0),
		coalesce(v.seq, -1), coalesce(v.rules, ''), coalesce(v.valid_until, '0001-01-01T00:00:00Z'), NULL::jsonb
		FROM students s LEFT JOIN student_views v ON v.school_id = s.school_id AND v.student_id = s.id
		WHERE s.own_of IS NULL`)
	return viewsOf(rows, err)
}

// ViewsWhole reads the kept views of some students with their bodies.
func (tx Tx) ViewsWhole(ctx context.Context, students []uuid.UUID) (map[uuid.UUID]View, error) {
	rows, err := tx.Query(ctx, `SELECT student_id, seq, seq, rules, valid_until, body FROM student_views
		WHERE student_id = ANY($1)`, students)
	return viewsOf(rows, err)
}

func viewsOf(rows pgx.Rows, err error) (map[uuid.UUID]View, error) {
	if err != nil {
		return nil, fmt.Errorf("read the students' views: %w", err)
	}
	list, err := pgx.CollectRows(rows, pgx.RowToStructByPos[View])
	if err != nil {
		return nil, fmt.Errorf("read the students' views: %w", err)
	}
	out := make(map[uuid.UUID]View, len(list))
	for _, v := range list {
		out[v.StudentID] = v
	}
	return out, nil
}

// KeepView keeps what a student's record comes to.
func (tx Tx) KeepView(ctx context.Context, v View) error {
	_, err := tx.Exec(ctx, `INSERT INTO student_views (school_id, student_id, seq, rules, valid_until, body) VALUES ($1,
		$2, $3, $4, $5, $6)
		ON CONFLICT (school_id, student_id) DO UPDATE SET seq = $3, rules = $4, valid_until = $5, body = $6`,
		tx.School, v.StudentID, v.Seq, v.Rules, v.ValidUntil, v.Body)
	if err != nil {
		return fmt.Errorf("keep the student's view: %w", err)
	}
	return nil
}

// Differing are verdicts of two instructors of one student at one cell within one week.
type Differing struct {
	StudentID uuid.UUID `json:"-"`
	Drill     string    `json:"drill"`
	Side      string    `json:"side"`
	Aids      string    `json:"aids"`
	Week      time.Time `json:"week"`
	Says      []string  `json:"says"` // "NAME 3 of 4", by name
}

// Differ finds, since a moment and among the given students, where instructors judged the
// same student at the same cell in the same week (from Monday, in the school's zone)
// differently: each at least twice, the share of passes of one under a half, and of another
// over it. The newest week comes first.
func (tx Tx) Differ(ctx context.Context, students []uuid.UUID, since time.Time, zone string) ([]Differing, error) {
	rows, err := tx.Query(ctx, `WITH each AS (
			SELECT a.student_id, a.drill, a.side, a.aids, date_trunc('week', a.at AT TIME ZONE $2) AS week, a.recorded_by,
			count(*) AS n, count(*) FILTER (WHERE a.verdict = 'pass') AS passes
			FROM attempts a WHERE a.at >= $1 AND a.student_id = ANY($3) AND a.source = 'observed' AND a.counts
			AND a.verdict <> 'void' AND a.corrects IS NULL AND a.origin = ''
			GROUP BY 1, 2, 3, 4, 5, 6)
		SELECT e.student_id, e.drill, e.side, e.aids, e.week, array_agg(b.name || ' ' || e.passes || ' of ' || e.n
		ORDER BY b.name)
		FROM each e JOIN accounts b ON b.id = e.recorded_by
		GROUP BY 1, 2, 3, 4, 5 HAVING count(*) > 1 AND min(e.n) > 1 AND min(e.passes::float8 / e.n) < 0.5
		AND max(e.passes::float8 / e.n) > 0.5 ORDER BY e.week DESC, e.drill, e.side`, since, zone, students)
	if err != nil {
		return nil, fmt.Errorf("compare the verdicts: %w", err)
	}
	list, err := pgx.CollectRows(rows, pgx.RowToStructByPos[Differing])
	if err != nil {
		return nil, fmt.Errorf("compare the verdicts: %w", err)
	}
	return list, nil
}

// Airtime is how long each student flew in the flights that were begun and landed on field days, and on how many
// packs.
type Airtime struct {
	Hours  float64
	Packs  int
	Passes int       // that were marked in those flights
	Last   time.Time // landing
}

// LastFlew is when a student last flew at the field: the newest landing or the newest attempt, whichever is later.
func LastFlew(landing, attempt time.Time) time.Time {
	if landing.After(attempt) {
		return landing
	}
	return attempt
}

// Airtimes adds up the flights of every student; a flight that was void, or has not ended, is none.
func (tx Tx) Airtimes(ctx context.Context) (map[uuid.UUID]Airtime, error) {
	rows, err := tx.Query(ctx, `WITH flown AS (SELECT f.id, f.school_id, f.student_id, f.begun_at, e.at AS ended
			FROM flights f JOIN flight_events e ON e.flight_id = f.id AND e.kind = 'end'
			WHERE f.student_id IS NOT NULL AND NOT EXISTS (SELECT FROM flight_events v WHERE v.flight_id = f.id
			AND v.kind = 'void')),
		passed AS (SELECT g.student_id, count(*)::int AS passes FROM openings o JOIN flown g ON g.id = o.flight_id
			JOIN attempts a ON a.school_id = o.school_id AND a.id = o.id WHERE a.verdict = 'pass' AND a.source <> 'sim'
			AND NOT EXISTS (SELECT FROM attempts c WHERE c.corrects = a.id) GROUP BY 1),
		total AS (SELECT student_id, sum(extract(epoch FROM ended - begun_at))::float8 / 3600 AS hours,
			count(*)::int AS packs, max(ended) AS last FROM flown GROUP BY 1)
		SELECT t.student_id, t.hours, t.packs, coalesce(p.passes, 0), t.last
		FROM total t LEFT JOIN passed p USING (student_id)`)
	if err != nil {
		return nil, fmt.Errorf("add up the flights: %w", err)
	}
	out := map[uuid.UUID]Airtime{}
	var of uuid.UUID
	var t Airtime
	_, err = pgx.ForEachRow(rows, []any{&of, &t.Hours, &t.Packs, &t.Passes, &t.Last},
		func() error { out[of] = t; return nil })
	if err != nil {
		return nil, fmt.Errorf("add up the flights: %w", err)
	}
	return out, nil
}

// LastLandings is when each student last landed on a field day; a flight that was void is none. A student flies one
// flight after another, so that the last to begin is the last to land.
func (tx Tx) LastLandings(ctx context.Context) (map[uuid.UUID]time.Time, error) {
	rows, err := tx.Query(ctx, `SELECT s.id, l.at FROM students s, LATERAL (SELECT e.at FROM flights f
		JOIN flight_events e ON e.flight_id = f.id AND e.kind = 'end'
		WHERE f.school_id = s.school_id AND f.student_id = s.id AND NOT EXISTS (SELECT FROM flight_events v
		WHERE v.school_id = f.school_id AND v.flight_id = f.id AND v.kind = 'void')
		ORDER BY f.begun_at DESC LIMIT 1) l`)
	if err != nil {
		return nil, fmt.Errorf("find the last landings: %w", err)
	}
	out := map[uuid.UUID]time.Time{}
	var of uuid.UUID
	var at time.Time
	_, err = pgx.ForEachRow(rows, []any{&of, &at}, func() error { out[of] = at; return nil })
	if err != nil {
		return nil, fmt.Errorf("find the last landings: %w", err)
	}
	return out, nil
}

// Looked is one student's attempts at one drill by eye, those that people watched or those that nobody did.
type Looked struct {
	StudentID uuid.UUID
	Drill     string
	Watched   bool
	Attempts  int
	Passes    int
}

// WatchedOrAlone counts attempts that were marked by eye and stand, by student, drill, and whether people looked on;
// of one student, or of all where that is nil. A student whom nobody has ever watched is left out.
func (tx Tx) WatchedOrAlone(ctx context.Context, student *uuid.UUID) ([]Looked, error) {
	rows, err := tx.Query(ctx, `SELECT a.student_id, a.drill, a.watched, count(*),
		count(*) FILTER (WHERE a.verdict = 'pass')
		FROM attempts a WHERE a.source = 'observed' AND a.verdict IN ('pass', 'fail', 'incomplete')
		AND ($1::uuid IS NULL OR a.student_id = $1)
		AND a.student_id IN (SELECT w.student_id FROM attempts w WHERE w.watched)
		AND NOT EXISTS (SELECT FROM attempts c WHERE c.corrects = a.id) GROUP BY 1, 2, 3`, student)
	return many[Looked](rows, err)
}
