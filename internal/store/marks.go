package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"maestrale/core/score"
)

// Opening is an attempt that is being marked.
type Opening struct {
	ID           uuid.UUID
	StudentID    uuid.UUID
	Drill        string
	Side         string
	Level        int
	Aids         string
	CraftType    string
	Site         string
	OpenedBy     uuid.UUID
	DeviceAt     time.Time
	OpenedAt     time.Time
	DrillSource  string
	CourseSource string // empty = the drill's own template
	FlightID     *uuid.UUID
	DeviceID     *uuid.UUID
	DeviceSeq    *int64     // the device's own counter
	BeganAt      *time.Time // the device's time, set right by the server's clock
	SignIn       *uuid.UUID // that fetched the day; nil = marked before that was noted
	SureS        *float64   // by how much BeganAt may be off; nil = not known
}

// At is when the attempt began, as well as that is known.
func (o *Opening) At() time.Time {
	if o.BeganAt != nil {
		return *o.BeganAt
	}
	return o.DeviceAt
}

const openingColumns = `id, student_id, drill, side, level, aids, craft_type, site, opened_by, device_at, ` +
	`opened_at, drill_source, course_source, flight_id, device_id, device_seq, began_at, ` +
	`sign_in_id, sure_s`

// Open begins an attempt that is being marked, or finds the one with the same
// id: the first that came counts.
func (tx Tx) Open(ctx context.Context, o Opening) (Opening, error) {
	_, err := tx.Exec(ctx, `INSERT INTO openings (id, school_id, student_id, drill, side, level, aids, craft_type, site,
		opened_by, device_at, drill_source, course_source, flight_id, device_id, device_seq, began_at, sign_in_id,
		sure_s)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16, $17, $18, $19)
		ON CONFLICT (id) DO NOTHING`,
		o.ID, tx.School, o.StudentID, o.Drill, o.Side, o.Level, o.Aids, o.CraftType, o.Site, o.OpenedBy, o.DeviceAt,
		o.DrillSource, o.CourseSource, o.FlightID, o.DeviceID, o.DeviceSeq, o.BeganAt, o.SignIn, o.SureS)
	if violates(err, foreignKeyViolation) {
		return o, ErrNotFound
	}
	if err != nil {
		return o, fmt.Errorf("begin the attempt: %w", err)
	}
	return tx.Opening(ctx, o.ID)
}

// Opening finds an attempt that is or was being marked.
func (tx Tx) Opening(ctx context.Context, id uuid.UUID) (Opening, error) {
	rows, err := tx.Query(ctx, `SELECT `+openingColumns+` FROM openings WHERE id = $1`, id)
	return one[Opening](rows, err)
}

// Running are the attempts that are being marked in a flight.
func (tx Tx) Running(ctx context.Context, flight uuid.UUID) ([]Opening, error) {
	rows, err := tx.Query(ctx,
		`SELECT `+openingColumns+` FROM openings o WHERE flight_id = $1 AND NOT EXISTS (SELECT FROM attempts a
		WHERE a.id = o.id)`, flight)
	return many[Opening](rows, err)
}

// Aloft is the flight of a student that goes on; nil for none.
func (tx Tx) Aloft(ctx context.Context, student uuid.UUID) (*uuid.UUID, error) {
	var id uuid.UUID
	err := tx.QueryRow(ctx, `SELECT f.id FROM flights f WHERE f.student_id = $1 AND NOT EXISTS (SELECT
		FROM flight_events e WHERE e.flight_id = f.id AND e.kind = 'end') ORDER BY f.begun_at DESC LIMIT 1`,
		student).Scan(&id)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, nil //nolint:nilnil // not in the air
	}
	if err != nil {
		return nil, fmt.Errorf("look for the flight: %w", err)
	}
	return &id, nil
}

// AddMarks keeps marks of an opening; a mark whose id is there already is
// left as it is.
func (tx Tx) AddMarks(ctx context.Context, opening, by uuid.UUID, marks []score.Mark) error {
	b := &pgx.Batch{}
	for _, m := range marks {
		body, err := json.Marshal(m)
		if err != nil {
			return fmt.Errorf("keep the mark: %w", err)
		}
		b.Queue(`INSERT INTO marks (id, school_id, opening_id, t_s, mark, body, marked_by) VALUES ($1, $2, $3, $4, $5, $6, $7)
			ON CONFLICT (id) DO NOTHING`, m.ID, tx.School, opening, m.TS, m.Mark, string(body), by)
	}
	err := tx.SendBatch(ctx, b).Close()
	if violates(err, foreignKeyViolation) {
		return ErrNotFound
	}
	if err != nil {
		return fmt.Errorf("keep the marks: %w", err)
	}
	return nil
}

// Unknown are the ids of those marks that an opening does not have.
func (tx Tx) Unknown(ctx context.Context, opening uuid.UUID, marks []score.Mark) ([]string, error) {
	rows, err := tx.Query(ctx, `SELECT id::text FROM marks WHERE opening_id = $1`, opening)
	if err != nil {
		return nil, fmt.Errorf("read marks: %w", err)
	}
	has, err := pgx.CollectRows(rows, pgx.RowTo[string])
	if err != nil {
		return nil, fmt.Errorf("read marks: %w", err)
	}
	out := []string{}
	for _, m := range marks {
		if id, err := uuid.Parse(m.ID); err == nil && !slices.Contains(has, id.String()) {
			out = append(out, m.ID)
		}
	}
	return out, nil
}

// Marks reads the marks of an opening in the order of their time.
func (tx Tx) Marks(ctx context.Context, opening uuid.UUID) ([]score.Mark, error) {
	rows, err := tx.Query(ctx, `SELECT body::text FROM marks WHERE opening_id = $1 ORDER BY t_s, id`, opening)
	if err != nil {
		return nil, fmt.Errorf("read marks: %w", err)
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (m score.Mark, err error) {
		var body string
		if err = r.Scan(&body); err == nil {
			err = json.Unmarshal([]byte(body), &m)
		}
		return m, err
	})
}

// Exists tells whether the attempt of an opening has been kept.
func (tx Tx) Exists(ctx context.Context, attempt uuid.UUID) (bool, error) {
	var yes bool
	err := tx.QueryRow(ctx, `SELECT EXISTS (SELECT FROM attempts WHERE id = $1)`, attempt).Scan(&yes)
	if err != nil && !errors.Is(err, pgx.ErrNoRows) {
		return false, fmt.Errorf("look for the attempt: %w", err)
	}
	return yes, nil
}
