package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// Board is the channel on which the database says that a school's field day changed; the
// message is the school.
const Board = "maestrale_board"

// Changed tells everybody who looks at the school's board, on every server, once the
// transaction is kept.
func (tx Tx) Changed(ctx context.Context) error {
	if _, err := tx.Exec(ctx, `SELECT pg_notify($1, $2)`, Board, tx.School.String()); err != nil {
		return fmt.Errorf("tell the boards: %w", err)
	}
	return nil
}

// Listen hands the school of every change of a field day to take, until the context
// ends or the line breaks. It has a connection of its own.
func (s *Store) Listen(ctx context.Context, begun func(), take func(school uuid.UUID)) error {
	conn, err := pgx.ConnectConfig(ctx, s.pool.Config().ConnConfig.Copy())
	if err != nil {
		return fmt.Errorf("listen: %w", err)
	}
	defer func() { _ = conn.Close(context.WithoutCancel(ctx)) }()
	if _, err := conn.Exec(ctx, "LISTEN "+Board); err != nil {
		return fmt.Errorf("listen: %w", err)
	}
	begun()
	for {
		n, err := conn.WaitForNotification(ctx)
		if err != nil {
			return fmt.Errorf("listen: %w", err)
		}
		if id, err := uuid.Parse(n.Payload); err == nil {
			take(id)
		}
	}
}

// FieldDay is a field day as it stands now.
type FieldDay struct {
	ID           uuid.UUID
	Starts, Ends time.Time
	Seq          int
	Says         string
	By           string
	At           time.Time
	Source       json.RawMessage
	Plan         json.RawMessage
}

const dayNearSQL = `SELECT d.id, d.starts, d.ends, v.seq, v.says, a.name, v.at, v.source, v.plan
		FROM field_days d
		JOIN LATERAL (SELECT * FROM day_versions v WHERE v.day_id = d.id ORDER BY v.seq DESC LIMIT 1) v ON true
		JOIN accounts a ON a.id = v.said_by
		WHERE d.starts > $1::timestamptz - interval '36 hours' AND d.starts < $1::timestamptz + interval '24 hours'
		ORDER BY greatest(d.starts - $1::timestamptz, $1::timestamptz - d.ends, interval '0'), d.starts LIMIT 1`

// DayNear finds the field day that is on at a moment, or the one nearest to it within a
// day.
func (tx Tx) DayNear(ctx context.Context, at time.Time) (FieldDay, error) {
	rows, err := tx.Query(ctx, dayNearSQL, at)
	return one[FieldDay](rows, err)
}

// AddDay makes a field day.
func (tx Tx) AddDay(ctx context.Context, id uuid.UUID, starts, ends time.Time) error {
	if _, err := tx.Exec(ctx, `INSERT INTO field_days (id, school_id, starts, ends) VALUES ($1, $2, $3, $4)`, id,
		tx.School, starts, ends); err != nil {
		return fmt.Errorf("make the day: %w", err)
	}
	return nil
}

// PlanDay keeps a new version of a day, the one after seq.
func (tx Tx) PlanDay(ctx context.Context, day, by uuid.UUID, seq int, at time.Time, says string, source,
	plan any) error {
	what, err := json.Marshal(source)
	if err != nil {
		return fmt.Errorf("keep the day: %w", err)
	}
	how, err := json.Marshal(plan)
	if err != nil {
		return fmt.Errorf("keep the day: %w", err)
	}
	_, err = tx.Exec(ctx, `INSERT INTO day_versions (day_id, seq, school_id, at, says, source, plan, said_by) VALUES ($1,
		$2, $3, $4, $5, $6, $7, $8)`, day, seq+1, tx.School, at, says, string(what), string(how), by)
	if violates(err, uniqueViolation) {
		return ErrElsewhere
	}
	if err != nil {
		return fmt.Errorf("keep the day: %w", err)
	}
	return tx.Changed(ctx)
}

// Flight is one flight as it was begun.
type Flight struct {
	ID           uuid.UUID
	DayID        *uuid.UUID
	StudentID    *uuid.UUID
	Kind         string
	CraftID      uuid.UUID
	PackID       uuid.UUID
	Box          int
	InstructorID *uuid.UUID
	SpotterID    *uuid.UUID
	Drill        string
	Side         string
	Aids         string
	Minutes      float64
	BegunAt      time.Time
	WindMps      *float64
	GustMps      *float64
	BegunBy      uuid.UUID
}

// FlownFlight is a flight with what was noted of it.
type FlownFlight struct {
	Flight
	EndedAt   *time.Time
	Void      string   // why it does not count
	Incidents []string // in the order they were noted
	Before    string   // calm, tense or shaken
	After     string
}

// InAir tells whether the flight goes on.
func (f *FlownFlight) InAir() bool { return f.EndedAt == nil }

// ErrBusy is returned where somebody or something is in the air already.
var ErrBusy = errors.New("in the air already")

// Begin begins a flight; one whose id is there already is left as it is. It fails with
// ErrBusy, saying what, where its student, craft or pack is in the air.
func (tx Tx) Begin(ctx context.Context, f Flight) (fresh bool, err error) {
	// One flight is begun at a time, so that what is looked at stays so.
	if _, err := tx.Exec(ctx, `SELECT pg_advisory_xact_lock(hashtextextended($1, 13))`, tx.School.String()); err != nil {
		return false, fmt.Errorf("begin the flight: %w", err)
	}
	var there bool
	if err := tx.QueryRow(ctx, `SELECT EXISTS (SELECT FROM flights WHERE id = $1)`, f.ID).Scan(&there); err != nil ||
		there {
		return false, err
	}
	var what string
	err = tx.QueryRow(ctx, `SELECT CASE WHEN f.student_id = $1 THEN s.name WHEN f.craft_id = $2 THEN c.name ELSE p.name END
		FROM flights f LEFT JOIN students s ON s.id = f.student_id JOIN craft c ON c.id = f.craft_id
		JOIN packs p ON p.id = f.pack_id
		WHERE (f.student_id = $1 OR f.craft_id = $2 OR f.pack_id = $3) AND NOT EXISTS (SELECT FROM flight_events e
		WHERE e.flight_id = f.id AND e.kind = 'end') LIMIT 1`,
		f.StudentID, f.CraftID, f.PackID).Scan(&what)
	if err == nil {
		return false, fmt.Errorf("%s is %w", what, ErrBusy)
	}
	if !errors.Is(err, pgx.ErrNoRows) {
		return false, fmt.Errorf("begin the flight: %w", err)
	}
	_, err = tx.Exec(ctx, `INSERT INTO flights (id, school_id, day_id, student_id, kind, craft_id, pack_id, box,
		instructor_id, spotter_id, drill, side, aids, minutes, begun_at, wind_mps, gust_mps, begun_by)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16, $17, $18)`,
		f.ID, tx.School, f.DayID, f.StudentID, f.Kind, f.CraftID, f.PackID, f.Box, f.InstructorID, f.SpotterID, f.Drill,
		f.Side, f.Aids, f.Minutes, f.BegunAt, f.WindMps, f.GustMps, f.BegunBy)
	if violates(err, foreignKeyViolation) {
		return false, ErrNotFound
	}
	if err != nil {
		return false, fmt.Errorf("begin the flight: %w", err)
	}
	return true, tx.Changed(ctx)
}

// NoteFlight notes something of a flight; the same id, and a second end, are kept once.
func (tx Tx) NoteFlight(ctx context.Context, id, flight, by uuid.UUID, at time.Time, kind, body string) (fresh bool,
	err error) {
	tag, err := tx.Exec(ctx, `INSERT INTO flight_events (id, school_id, flight_id, at, kind, body, noted_by) VALUES ($1,
		$2, $3, $4, $5, $6, $7) ON CONFLICT DO NOTHING`,
		id, tx.School, flight, at, kind, body, by)
	if violates(err, foreignKeyViolation) {
		return false, ErrNotFound
	}
	if err != nil {
		return false, fmt.Errorf("note of the flight: %w", err)
	}
	return tag.RowsAffected() == 1, tx.Changed(ctx)
}

const flightColumns = `f.id, f.day_id, f.student_id, f.kind, f.craft_id, f.pack_id, f.box, f.instructor_id,
	f.spotter_id, f.drill, f.side, f.aids, f.minutes, f.begun_at, f.wind_mps, f.gust_mps, f.begun_by,
	(SELECT e.at FROM flight_events e WHERE e.flight_id = f.id AND e.kind = 'end'),
	coalesce((SELECT e.body FROM flight_events e WHERE e.flight_id = f.id AND e.kind = 'void' ORDER BY e.noted_at
		LIMIT 1), ''),
	coalesce((SELECT array_agg(e.body ORDER BY e.at) FROM flight_events e WHERE e.flight_id = f.id
		AND e.kind = 'incident'), '{}'),
	coalesce((SELECT e.body FROM flight_events e WHERE e.flight_id = f.id AND e.kind = 'before' ORDER BY e.noted_at DESC
		LIMIT 1), ''),
	coalesce((SELECT e.body FROM flight_events e WHERE e.flight_id = f.id AND e.kind = 'after' ORDER BY e.noted_at DESC
		LIMIT 1), '')`

// FlightsOf lists the flights of a day, the first first.
func (tx Tx) FlightsOf(ctx context.Context, day uuid.UUID) ([]FlownFlight, error) {
	return tx.flights(ctx, `f.day_id = $1 ORDER BY f.begun_at, f.id`, day)
}

// FlightsBy lists the newest flights of a student.
func (tx Tx) FlightsBy(ctx context.Context, student uuid.UUID, most int) ([]FlownFlight, error) {
	return tx.flights(ctx, `f.student_id = $1 ORDER BY f.begun_at DESC, f.id LIMIT $2`, student, most)
}

// OneFlight finds a flight.
func (tx Tx) OneFlight(ctx context.Context, id uuid.UUID) (FlownFlight, error) {
	list, err := tx.flights(ctx, `f.id = $1`, id)
	if err == nil && len(list) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return FlownFlight{}, err
	}
	return list[0], nil
}

func (tx Tx) flights(ctx context.Context, where string, args ...any) ([]FlownFlight, error) {
	rows, err := tx.Query(ctx, `SELECT `+flightColumns+` FROM flights f WHERE `+where, args...)
	if err != nil {
		return nil, fmt.Errorf("list the flights: %w", err)
	}
	list, err := pgx.CollectRows(rows, func(r pgx.CollectableRow) (f FlownFlight, err error) {
		err = r.Scan(&f.ID, &f.DayID, &f.StudentID, &f.Kind, &f.CraftID, &f.PackID, &f.Box, &f.InstructorID, &f.SpotterID,
			&f.Drill, &f.Side, &f.Aids, &f.Minutes, &f.BegunAt, &f.WindMps, &f.GustMps, &f.BegunBy,
			&f.EndedAt, &f.Void, &f.Incidents, &f.Before, &f.After)
		return f, err
	})
	if err != nil {
		return nil, fmt.Errorf("list the flights: %w", err)
	}
	return list, nil
}

// Hold is a call to everybody to stop, or to go on.
type Hold struct {
	On  bool
	Why string
	At  time.Time
	By  string
}

// CallHold holds everybody, or lets them go on.
func (tx Tx) CallHold(ctx context.Context, id, day, by uuid.UUID, on bool, why string) error {
	if _, err := tx.Exec(ctx,
		`INSERT INTO holds (id, school_id, day_id, on_hold, why, called_by) VALUES ($1, $2, $3, $4, $5, $6)
			ON CONFLICT (id) DO NOTHING`, id, tx.School, day, on, why, by); err != nil {
		return fmt.Errorf("hold: %w", err)
	}
	return tx.Changed(ctx)
}

// HoldNow is the newest hold of a day; a zero one where nobody called any.
func (tx Tx) HoldNow(ctx context.Context, day uuid.UUID) (Hold, error) {
	rows, err := tx.Query(ctx,
		`SELECT h.on_hold, h.why, h.at, a.name FROM holds h JOIN accounts a ON a.id = h.called_by WHERE h.day_id = $1
			ORDER BY h.at DESC LIMIT 1`, day)
	h, err := one[Hold](rows, err)
	if errors.Is(err, ErrNotFound) {
		return Hold{}, nil
	}
	return h, err
}

// Staff are those who are at the field: chiefs, instructors and spotters, by name.
func (tx Tx) Staff(ctx context.Context) ([]Account, error) {
	rows, err := tx.Query(ctx,
		`SELECT id, email, name, role, student_id, '' FROM accounts WHERE role <> 'student' AND disabled_at IS NULL
			ORDER BY name`)
	return many[Account](rows, err)
}

// Feels is how a student last said to feel since a moment; empty where nothing was said.
func (tx Tx) Feels(ctx context.Context, student uuid.UUID, since time.Time) (string, error) {
	var feels string
	err := tx.QueryRow(ctx, `SELECT coalesce((SELECT e.body FROM flight_events e JOIN flights f ON f.id = e.flight_id
		WHERE f.student_id = $1 AND e.kind IN ('before', 'after') AND e.at >= $2 ORDER BY e.at DESC LIMIT 1), '')`,
		student, since).Scan(&feels)
	if err != nil {
		return "", fmt.Errorf("read how the student feels: %w", err)
	}
	return feels, nil
}

// Days lists the field days that begin between two moments, the first first, as they
// stand now.
func (tx Tx) Days(ctx context.Context, from, to time.Time) ([]FieldDay, error) {
	rows, err := tx.Query(ctx, `SELECT d.id, d.starts, d.ends, v.seq, v.says, a.name, v.at, v.source, v.plan
		FROM field_days d
		JOIN LATERAL (SELECT * FROM day_versions v WHERE v.day_id = d.id ORDER BY v.seq DESC LIMIT 1) v ON true
		JOIN accounts a ON a.id = v.said_by
		WHERE d.starts BETWEEN $1 AND $2 ORDER BY d.starts LIMIT 400`, from, to)
	return many[FieldDay](rows, err)
}

// SetFeed keeps the hash of a person's calendar address; the one before is worth nothing
// from then on.
func (tx Tx) SetFeed(ctx context.Context, account uuid.UUID, hash []byte) error {
	_, err := tx.Exec(ctx, `INSERT INTO calendar_feeds (account_id, school_id, hash) VALUES ($1, $2, $3)
		ON CONFLICT (account_id) DO UPDATE SET hash = $3, made_at = now()`, account, tx.School, hash)
	if err != nil {
		return fmt.Errorf("keep the calendar's address: %w", err)
	}
	return nil
}

// ByFeed finds whose calendar an address is.
func (s *Store) ByFeed(ctx context.Context, hash []byte) (Person, error) {
	var id *uuid.UUID
	if err := s.pool.QueryRow(ctx, `SELECT account_of_feed($1)`, hash).Scan(&id); err != nil {
		return Person{}, fmt.Errorf("look up the calendar: %w", err)
	}
	if id == nil {
		return Person{}, ErrNotFound
	}
	return s.ByAccount(ctx, *id)
}

// Practice is how long a student has flown for a drill, side and aids, and on how many
// packs.
type Practice struct {
	Drill, Side, Aids string
	Minutes           float64
	Packs             int
	Last              time.Time
}

// Practised lists a student's practice at the field, the longest first. The minutes of a
// flight are those of the attempts that were marked in it, each for its own drill; what is
// left of it is for the drill that it was planned for.
func (tx Tx) Practised(ctx context.Context, student uuid.UUID) ([]Practice, error) {
	rows, err := tx.Query(ctx, `WITH own AS (
			SELECT f.id, f.drill, f.side, f.aids, f.begun_at, extract(epoch FROM e.at - f.begun_at)::float8 / 60 AS minutes
			FROM flights f JOIN flight_events e ON e.flight_id = f.id AND e.kind = 'end'
			WHERE f.student_id = $1 AND NOT EXISTS (SELECT FROM flight_events v WHERE v.flight_id = f.id AND v.kind = 'void')),
		marked AS (
			SELECT o.flight_id, o.drill, o.side, o.aids, (SELECT coalesce(max(m.t_s), 0) FROM marks m
			WHERE m.opening_id = o.id) / 60 AS minutes
			FROM openings o JOIN own ON own.id = o.flight_id),
		parts AS (
			SELECT m.flight_id AS id, m.drill, m.side, m.aids, least(m.minutes, own.minutes) AS minutes, own.begun_at
			FROM marked m JOIN own ON own.id = m.flight_id
			UNION ALL
			SELECT own.id, own.drill, own.side, own.aids, greatest(0, own.minutes - coalesce((SELECT sum(m.minutes)
			FROM marked m WHERE m.flight_id = own.id), 0)), own.begun_at FROM own)
		SELECT drill, side, aids, sum(minutes), count(DISTINCT id)::int, max(begun_at) FROM parts GROUP BY drill, side,
		aids HAVING sum(minutes) > 0 ORDER BY sum(minutes) DESC, drill, side`, student)
	return many[Practice](rows, err)
}
