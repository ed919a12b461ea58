package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"maestrale/core/preflight"
)

// Check is a check before a flight.
type Check struct {
	ID        uuid.UUID
	CraftID   uuid.UUID
	PackID    *uuid.UUID
	StudentID *uuid.UUID
	CourseID  *uuid.UUID
	Site      string
	Aids      string
	Minutes   float64
	First     bool
	Goggles   bool
	Proving   bool
	BegunBy   uuid.UUID
	BegunAt   time.Time
}

const checkColumns = `id, craft_id, pack_id, student_id, course_id, site, aids, minutes, first, goggles, proving, ` +
	`begun_by, begun_at`

// BeginCheck begins a check.
func (tx Tx) BeginCheck(ctx context.Context, c Check) error {
	_, err := tx.Exec(ctx, `INSERT INTO checks (school_id, `+checkColumns+`) VALUES ($1, $2, $3, $4, $5, $6, $7, $8, `+
		`$9, $10, $11, $12, $13, $14)`,
		tx.School, c.ID, c.CraftID, c.PackID, c.StudentID, c.CourseID, c.Site, c.Aids, c.Minutes, c.First, c.Goggles,
		c.Proving, c.BegunBy, c.BegunAt)
	if violates(err, foreignKeyViolation) {
		return ErrNotFound
	}
	if err != nil {
		return fmt.Errorf("begin the check: %w", err)
	}
	return nil
}

// Check finds a check of the school.
func (tx Tx) Check(ctx context.Context, id uuid.UUID) (Check, error) {
	rows, err := tx.Query(ctx, `SELECT `+checkColumns+` FROM checks WHERE id = $1`, id)
	return one[Check](rows, err)
}

// LockCheck finds a check and lets nobody else write to it meanwhile.
func (tx Tx) LockCheck(ctx context.Context, id uuid.UUID) (Check, error) {
	// An append-only row cannot be locked for update by the application's role;
	// an advisory lock on its id does the same.
	if _, err := tx.Exec(ctx, `SELECT pg_advisory_xact_lock(hashtextextended($1::text, 0))`, id); err != nil {
		return Check{}, fmt.Errorf("lock the check: %w", err)
	}
	return tx.Check(ctx, id)
}

// Entries is what was noted in a check.
type Entries struct {
	preflight.Check
	Seq       int
	ClearedAt *time.Time
	ClearedBy string
	Facts     map[string]string
}

// Entries reads what was noted in a check.
func (tx Tx) Entries(ctx context.Context, check uuid.UUID) (Entries, error) {
	rows, err := tx.Query(ctx,
		`SELECT e.seq, e.at, e.kind, e.item, e.value, e.body, a.name FROM check_entries e
			JOIN accounts a ON a.id = e.noted_by WHERE e.check_id = $1 ORDER BY e.seq`, check)
	if err != nil {
		return Entries{}, fmt.Errorf("read the check: %w", err)
	}
	var out Entries
	var at time.Time
	var kind, item, value, by string
	var body []byte
	_, err = pgx.ForEachRow(rows, []any{&out.Seq, &at, &kind, &item, &value, &body, &by}, func() error {
		switch kind {
		case "answer":
			out.Answers = append(out.Answers, preflight.Answer{Item: item, Value: value, At: at, By: by})
		case "override":
			out.Overrides = append(out.Overrides, preflight.Override{Item: item, Reason: value, At: at, By: by})
		case "cleared":
			when := at
			out.ClearedAt, out.ClearedBy = &when, by
			var kept Cleared
			if err := json.Unmarshal(body, &kept); err != nil {
				return err
			}
			out.Facts = kept.Facts
		}
		return nil
	})
	if err != nil {
		return Entries{}, fmt.Errorf("read the check: %w", err)
	}
	return out, nil
}

// Cleared is what is kept when a craft is clear to fly: what the check rests on,
// and every line as it was judged.
type Cleared struct {
	Facts map[string]string `json:"facts"`
	Lines []ClearedLine     `json:"lines"`
}

// ClearedLine is one line of it.
type ClearedLine struct {
	Item   string `json:"item"`
	State  string `json:"state"`
	Value  string `json:"value,omitempty"`
	Says   string `json:"says,omitempty"`
	Reason string `json:"reason,omitempty"`
	By     string `json:"by,omitempty"`
}

// Note adds an entry to a check, the one after seq.
func (tx Tx) Note(ctx context.Context, check, by uuid.UUID, seq int, at time.Time, kind, item, value string,
	body any) error {
	var data []byte
	if body != nil {
		var err error
		if data, err = json.Marshal(body); err != nil {
			return fmt.Errorf("note in the check: %w", err)
		}
	}
	_, err := tx.Exec(ctx, `INSERT INTO check_entries (check_id, seq, school_id, at, kind, item, value, body, noted_by)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9)`,
		check, seq+1, tx.School, at, kind, item, value, data, by)
	if err != nil {
		return fmt.Errorf("note in the check: %w", err)
	}
	return nil
}

// CheckRow is a check in a list.
type CheckRow struct {
	ID        uuid.UUID
	BegunAt   time.Time
	By        string
	Student   string
	Pack      string
	Site      string
	Cleared   *time.Time
	Answers   int
	Overrides int
}

// ChecksOf lists the newest checks of a craft.
func (tx Tx) ChecksOf(ctx context.Context, craft uuid.UUID, most int) ([]CheckRow, error) {
	rows, err := tx.Query(ctx, `SELECT c.id, c.begun_at, a.name, coalesce(s.name, ''), coalesce(p.name, ''), c.site,
			(SELECT max(e.at) FROM check_entries e WHERE e.check_id = c.id AND e.kind = 'cleared'),
			(SELECT count(*)::int FROM check_entries e WHERE e.check_id = c.id AND e.kind = 'answer'),
			(SELECT count(*)::int FROM check_entries e WHERE e.check_id = c.id AND e.kind = 'override')
		FROM checks c JOIN accounts a ON a.id = c.begun_by LEFT JOIN students s ON s.id = c.student_id LEFT
		JOIN packs p ON p.id = c.pack_id
		WHERE c.craft_id = $1 ORDER BY c.begun_at DESC LIMIT $2`, craft, most)
	return many[CheckRow](rows, err)
}

// LastCleared finds the newest check of a craft, other than one, that was
// cleared; ErrNotFound where there is none.
func (tx Tx) LastCleared(ctx context.Context, craft, except uuid.UUID) (uuid.UUID, error) {
	rows, err := tx.Query(ctx, `SELECT c.id FROM checks c WHERE c.craft_id = $1 AND c.id <> $2
		AND EXISTS (SELECT FROM check_entries e WHERE e.check_id = c.id AND e.kind = 'cleared') ORDER BY c.begun_at DESC
		LIMIT 1`, craft, except)
	type row struct{ ID uuid.UUID }
	r, err := one[row](rows, err)
	return r.ID, err
}

// OpenCheck finds the newest check of a craft that was begun after a moment and
// is not cleared.
func (tx Tx) OpenCheck(ctx context.Context, craft uuid.UUID, after time.Time) (uuid.UUID, error) {
	rows, err := tx.Query(ctx, `SELECT c.id FROM checks c WHERE c.craft_id = $1 AND c.begun_at > $2
		AND NOT EXISTS (SELECT FROM check_entries e WHERE e.check_id = c.id AND e.kind = 'cleared') ORDER BY c.begun_at DESC
		LIMIT 1`, craft, after)
	type row struct{ ID uuid.UUID }
	r, err := one[row](rows, err)
	return r.ID, err
}

// CheckNow is how the newest check of a craft stands.
type CheckNow struct {
	CraftID, ID uuid.UUID
	Cleared     *time.Time // nil where it is not over
	Fence       string     // what was answered of the fence, in m; empty for nothing
}

// ChecksSince are, by craft, the newest checks that were begun since a moment; one that was cleared before one that is
// open.
func (tx Tx) ChecksSince(ctx context.Context, since time.Time) (map[uuid.UUID]CheckNow, error) {
	rows, err := tx.Query(ctx, `SELECT DISTINCT ON (c.craft_id) c.craft_id, c.id, e.cleared, coalesce(e.fence, '')
		FROM checks c CROSS JOIN LATERAL (SELECT max(at) FILTER (WHERE kind = 'cleared') AS cleared,
			(array_agg(value ORDER BY seq DESC) FILTER (WHERE kind = 'answer' AND item = 'fence'))[1] AS fence
			FROM check_entries WHERE check_id = c.id) e
		WHERE c.begun_at >= $1 ORDER BY c.craft_id, e.cleared DESC NULLS LAST, c.begun_at DESC`, since)
	list, err := many[CheckNow](rows, err)
	out := map[uuid.UUID]CheckNow{}
	for _, k := range list {
		out[k.CraftID] = k
	}
	return out, err
}

// PilotFlown tells on how many days a student has flown in the field, and the
// strongest mean wind in which an attempt with a craft class was passed.
func (tx Tx) PilotFlown(ctx context.Context, student uuid.UUID, class, zone string) (days int, best float64,
	err error) {
	err = tx.QueryRow(ctx, `SELECT count(DISTINCT (at AT TIME ZONE $3)::date)::int,
			coalesce(max(wind_mps) FILTER (WHERE verdict = 'pass' AND counts AND craft_class = $2), 0)
		FROM attempts WHERE student_id = $1 AND source <> 'sim'`, student, class, zone).Scan(&days, &best)
	if err != nil {
		return 0, 0, fmt.Errorf("read what the pilot has flown: %w", err)
	}
	return days, best, nil
}
