package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"maestrale/core/course"
	"maestrale/core/school"
	"maestrale/core/units"
)

// School is a school as an organisation.
type School struct {
	ID         uuid.UUID
	Name       string
	TimeZone   string
	LengthUnit units.Unit
	SpeedUnit  units.Unit
	CreatedAt  time.Time
	ClosedAt   *time.Time
	// IdleMinutes is after how long a sign-in ends that nobody uses.
	IdleMinutes int
	Light       course.Lit
}

// Units are what the school shows to those who have not chosen.
func (s School) Units() units.System { return units.System{Length: s.LengthUnit, Speed: s.SpeedUnit} }

const schoolColumns = "id, name, time_zone, length_unit, speed_unit, created_at, closed_at, idle_minutes, light"

// AddSchool adds a school with SI units, as the owner of the database: the application's role cannot.
func AddSchool(ctx context.Context, url string, id uuid.UUID, name, zone string) error {
	return CreateSchool(ctx, url, School{ID: id, Name: name, TimeZone: zone, LengthUnit: units.Metre,
		SpeedUnit: units.MetrePerSec}, nil)
}

// CreateSchool adds a school and, in the same transaction, its chief where one is given, as the owner of the database.
func CreateSchool(ctx context.Context, url string, s School, chief *Account) error {
	conn, err := Connect(ctx, url)
	if err != nil {
		return err
	}
	defer func() { _ = conn.Close(ctx) }()
	err = pgx.BeginFunc(ctx, conn, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `SET LOCAL search_path = `+Schema); err != nil {
			return err
		}
		if _, err := tx.Exec(ctx, `INSERT INTO schools (id, name, time_zone, length_unit, speed_unit)
			VALUES ($1, $2, $3, $4, $5)`, s.ID, s.Name, s.TimeZone, s.LengthUnit, s.SpeedUnit); err != nil {
			return err
		}
		if _, err := tx.Exec(ctx, `INSERT INTO school_names (id, school_id, since, name)
			VALUES (gen_random_uuid(), $1, '-infinity', $2)`, s.ID, s.Name); err != nil {
			return err
		}
		if chief == nil {
			return nil
		}
		_, err := tx.Exec(ctx, `INSERT INTO accounts (school_id, id, email, name, role, password_hash)
			VALUES ($1, $2, lower($3), $4, 'chief', $5)`, s.ID, chief.ID, chief.Email, chief.Name, chief.PasswordHash)
		return err
	})
	if violates(err, uniqueViolation) {
		return ErrTaken
	}
	if err != nil {
		return fmt.Errorf("add the school: %w", err)
	}
	return nil
}

// ListSchools lists every school by name, as the owner.
func ListSchools(ctx context.Context, url string) ([]School, error) {
	conn, err := Connect(ctx, url)
	if err != nil {
		return nil, err
	}
	defer func() { _ = conn.Close(ctx) }()
	rows, err := conn.Query(ctx, `SELECT `+schoolColumns+` FROM `+Schema+`.schools ORDER BY name, id`)
	list, err := many[School](rows, err)
	if err != nil {
		return nil, fmt.Errorf("list the schools: %w", err)
	}
	return list, nil
}

// OtherSchool finds a school that did not begin under a name, as the owner; empty where there is none, or no database
// yet.
func OtherSchool(ctx context.Context, url, name string) (other string, err error) {
	conn, err := Connect(ctx, url)
	if err != nil {
		return "", err
	}
	defer func() { _ = conn.Close(ctx) }()
	err = conn.QueryRow(ctx, `SELECT s.name FROM `+Schema+`.schools s WHERE $1 <> coalesce((SELECT n.name
		FROM `+Schema+`.school_names n WHERE n.school_id = s.id ORDER BY n.since LIMIT 1), s.name) LIMIT 1`,
		name).Scan(&other)
	if errors.Is(err, pgx.ErrNoRows) || violates(err, undefinedTable) {
		return "", nil
	}
	if err != nil {
		return "", fmt.Errorf("look for schools: %w", err)
	}
	return other, nil
}

// HasSchools tells whether any school is there, as the owner.
func HasSchools(ctx context.Context, url string) (bool, error) {
	list, err := ListSchools(ctx, url)
	return len(list) > 0, err
}

// Founded tells whether any school is there.
func (s *Store) Founded(ctx context.Context) (is bool, err error) {
	if err = s.pool.QueryRow(ctx, `SELECT has_schools()`).Scan(&is); err != nil {
		return false, fmt.Errorf("look for a school: %w", err)
	}
	return is, nil
}

// KeepSetupCode keeps the hash of a setup code; it keeps none, and says false, once there is a school.
func (s *Store) KeepSetupCode(ctx context.Context, hash []byte) (kept bool, err error) {
	if err = s.pool.QueryRow(ctx, `SELECT keep_setup_code($1)`, hash).Scan(&kept); err != nil {
		return false, fmt.Errorf("keep the setup code: %w", err)
	}
	return kept, nil
}

// IsSetupCode tells whether a setup code is good.
func (s *Store) IsSetupCode(ctx context.Context, hash []byte) (is bool, err error) {
	if err = s.pool.QueryRow(ctx, `SELECT is_setup_code($1)`, hash).Scan(&is); err != nil {
		return false, fmt.Errorf("look for the setup code: %w", err)
	}
	return is, nil
}

// ErrNoCode is returned for a setup code that was never given out, or is used up.
var ErrNoCode = errors.New("not a setup code")

// ErrFounded is returned where a school is already there.
var ErrFounded = errors.New("there is a school already")

// BeginSchool makes the first school and its chief. Of two at the same time one gets ErrFounded.
func (s *Store) BeginSchool(ctx context.Context, code []byte, made School, chief Account) error {
	var said string
	err := s.pool.QueryRow(ctx, `SELECT begin_school($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)`, code, made.ID, made.Name,
		made.TimeZone, made.LengthUnit, made.SpeedUnit, chief.ID, chief.Name, chief.Email, chief.PasswordHash).Scan(&said)
	switch {
	case err != nil:
		return fmt.Errorf("begin the school: %w", err)
	case said == "late":
		return ErrFounded
	case said != "made":
		return ErrNoCode
	}
	return nil
}

// TheSchool is the school of the transaction.
func (tx Tx) TheSchool(ctx context.Context) (School, error) {
	rows, err := tx.Query(ctx, `SELECT `+schoolColumns+` FROM schools`)
	s, err := one[School](rows, err)
	if err != nil && !errors.Is(err, ErrNotFound) {
		return s, fmt.Errorf("read the school: %w", err)
	}
	return s, err
}

// ChangeSchool keeps a school's name, time zone, units and whether it is closed. A new name is kept with its day beside
// the old one.
func (tx Tx) ChangeSchool(ctx context.Context, s School, at time.Time) error {
	before, err := tx.TheSchool(ctx)
	if err != nil {
		return err
	}
	if before.Name != s.Name {
		if _, err := tx.Exec(ctx, `INSERT INTO school_names (id, school_id, since, name) VALUES ($1, $2, $3, $4)`, NewID(),
			tx.School, at, s.Name); err != nil {
			return fmt.Errorf("keep the school's name: %w", err)
		}
	}
	if _, err := tx.Exec(ctx, `UPDATE schools SET name = $2, time_zone = $3, length_unit = $4, speed_unit = $5,
		closed_at = $6, idle_minutes = $7, light = $8 WHERE id = $1`,
		tx.School, s.Name, s.TimeZone, s.LengthUnit, s.SpeedUnit, s.ClosedAt,
		s.IdleMinutes, s.Light); err != nil {
		return fmt.Errorf("change the school: %w", err)
	}
	return nil
}

// NameAt is the name that the school had at a moment.
func (tx Tx) NameAt(ctx context.Context, at time.Time) (name string, err error) {
	if err = tx.QueryRow(ctx, `SELECT name FROM school_names WHERE since <= $1 ORDER BY since DESC LIMIT 1`,
		at).Scan(&name); err != nil {
		return "", fmt.Errorf("read the school's name: %w", err)
	}
	return name, nil
}

// FirstSteps is what a new school has of what its first steps bring, and which of them were skipped.
func (tx Tx) FirstSteps(ctx context.Context) (h school.Has, skipped []school.Step, err error) {
	err = tx.QueryRow(ctx, `SELECT (SELECT count(*)::int FROM sites), (SELECT count(*)::int FROM courses),
		(SELECT count(*)::int FROM craft), (SELECT count(*)::int FROM packs),
		(SELECT count(*)::int FROM accounts WHERE role IN ('instructor', 'spotter') AND disabled_at IS NULL) +
		(SELECT count(*)::int FROM links WHERE kind = 'invitation' AND role <> 'student' AND used_at IS NULL
		AND revoked_at IS NULL AND ends_at > now()),
		(SELECT count(*)::int FROM students WHERE own_of IS NULL), (SELECT count(*)::int FROM (SELECT
		FROM attempts LIMIT 1) a),
		coalesce((SELECT skipped FROM school_settings), '{}')`).Scan(&h.Sites, &h.Courses, &h.Craft, &h.Packs, &h.Staff,
		&h.Students, &h.Attempts, &skipped)
	if err != nil {
		return h, nil, fmt.Errorf("count what the school has: %w", err)
	}
	return h, skipped, nil
}

// SkipStep keeps that a first step was skipped, or that it was taken up again.
func (tx Tx) SkipStep(ctx context.Context, step school.Step, skip bool) error {
	_, err := tx.Exec(ctx, `INSERT INTO school_settings (school_id, skipped) VALUES ($1,
		CASE WHEN $3 THEN ARRAY[$2::text] ELSE '{}' END)
		ON CONFLICT (school_id) DO UPDATE SET skipped = CASE WHEN $3
		THEN array_append(array_remove(school_settings.skipped, $2), $2)
		ELSE array_remove(school_settings.skipped, $2) END`, tx.School, string(step), skip)
	if err != nil {
		return fmt.Errorf("keep the skipped step: %w", err)
	}
	return nil
}
