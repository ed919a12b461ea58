package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"maestrale/core/field"
)

// Site is where the school flies.
type Site struct {
	ID    uuid.UUID
	Name  string
	Notes string
	field.Geo
}

// Sites lists the school's sites by name.
func (tx Tx) Sites(ctx context.Context) ([]Site, error) {
	rows, err := tx.Query(ctx, `SELECT id, name, notes, lat_deg, lon_deg, alt_m FROM sites ORDER BY name`)
	if err != nil {
		return nil, fmt.Errorf("list the sites: %w", err)
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (s Site, err error) {
		err = r.Scan(&s.ID, &s.Name, &s.Notes, &s.LatDeg, &s.LonDeg, &s.AltM)
		return s, err
	})
}

// KeepSite adds a site or changes it.
func (tx Tx) KeepSite(ctx context.Context, s Site) error {
	_, err := tx.Exec(ctx, `INSERT INTO sites (id, school_id, name, notes, lat_deg, lon_deg, alt_m) VALUES ($1, $2, $3,
		$4, $5, $6, $7)
		ON CONFLICT (id) DO UPDATE SET name = $3, notes = $4, lat_deg = $5, lon_deg = $6, alt_m = $7`,
		s.ID, tx.School, s.Name, s.Notes, s.LatDeg, s.LonDeg, s.AltM)
	if violates(err, uniqueViolation) {
		return ErrTaken
	}
	if err != nil {
		return fmt.Errorf("keep the site %s: %w", s.Name, err)
	}
	return nil
}

// Course is a course as it stands now.
type Course struct {
	ID       uuid.UUID
	SiteID   uuid.UUID
	Site     string
	Name     string
	Seq      int
	At       time.Time
	By       string
	Says     string
	Source   string
	SiteNote string
	SiteAltM float64
}

const courseQuery = `SELECT c.id, c.site_id, s.name AS site, c.name, v.seq, v.at, a.name AS by, v.says, v.source,
	s.notes, s.alt_m
	FROM courses c JOIN sites s ON s.id = c.site_id
	JOIN LATERAL (SELECT * FROM course_versions v WHERE v.course_id = c.id ORDER BY v.seq DESC LIMIT 1) v ON true
	JOIN accounts a ON a.id = v.drawn_by `

// Courses lists the school's courses by site and name.
func (tx Tx) Courses(ctx context.Context) ([]Course, error) {
	rows, err := tx.Query(ctx, courseQuery+`ORDER BY s.name, c.name`)
	return many[Course](rows, err)
}

// Course finds a course of the school.
func (tx Tx) Course(ctx context.Context, id uuid.UUID) (Course, error) {
	rows, err := tx.Query(ctx, courseQuery+`WHERE c.id = $1`, id)
	return one[Course](rows, err)
}

// AddCourse adds a course to a site.
func (tx Tx) AddCourse(ctx context.Context, id, site uuid.UUID, name string) error {
	_, err := tx.Exec(ctx, `INSERT INTO courses (id, school_id, site_id, name) VALUES ($1, $2, $3, $4)`, id, tx.School,
		site, name)
	switch {
	case violates(err, uniqueViolation):
		return ErrTaken
	case violates(err, foreignKeyViolation):
		return ErrNotFound
	case err != nil:
		return fmt.Errorf("add the course %s: %w", name, err)
	}
	return nil
}

// ErrElsewhere is returned where a course was changed by somebody else since it
// was read.
var ErrElsewhere = errors.New("changed by somebody else")

// Draw keeps a new version of a course, the one after seq.
func (tx Tx) Draw(ctx context.Context, course, by uuid.UUID, seq int, at time.Time, says, source string) error {
	_, err := tx.Exec(ctx, `INSERT INTO course_versions (course_id, seq, school_id, at, drawn_by, says, source)
		VALUES ($1, $2, $3, $4, $5, $6, $7)`,
		course, seq+1, tx.School, at, by, says, source)
	if violates(err, uniqueViolation) {
		return ErrElsewhere
	}
	if err != nil {
		return fmt.Errorf("keep the course: %w", err)
	}
	return nil
}

// Version is one version of a course.
type Version struct {
	Seq  int
	At   time.Time
	By   string
	Says string
}

// VersionSource reads the text of one version of a course.
func (tx Tx) VersionSource(ctx context.Context, course uuid.UUID, seq int) (string, error) {
	rows, err := tx.Query(ctx, `SELECT source FROM course_versions WHERE course_id = $1 AND seq = $2`, course, seq)
	type row struct{ Source string }
	r, err := one[row](rows, err)
	return r.Source, err
}

// Versions lists the newest versions of a course.
func (tx Tx) Versions(ctx context.Context, course uuid.UUID, most int) ([]Version, error) {
	rows, err := tx.Query(ctx,
		`SELECT v.seq, v.at, a.name, v.says FROM course_versions v JOIN accounts a ON a.id = v.drawn_by
			WHERE v.course_id = $1 ORDER BY v.seq DESC LIMIT $2`, course, most)
	return many[Version](rows, err)
}

// Settings are what the school has set.
type Settings struct {
	CompassKind  string
	CompassKm    float64
	CompassDays  int
	CourseID     *uuid.UUID
	AwayDeg      *float64
	SessionFrom  string
	SessionTo    string
	MeterAddr    string
	MeterZeroDeg float64
	HandCatch    bool
	PositionAddr string // of a craft's position stream; empty = none
	ChargerAddr  string // of the chargers' stream; empty = none
}

// Settings reads what the school has set.
func (tx Tx) Settings(ctx context.Context) (Settings, error) {
	rows, err := tx.Query(ctx,
		`SELECT compass_kind, compass_km, compass_days, course_id, away_deg, session_from, session_to, meter_addr,
			meter_zero_deg, hand_catch, position_addr, charger_addr FROM school_settings`)
	s, err := one[Settings](rows, err)
	if errors.Is(err, ErrNotFound) {
		return Settings{CompassKind: "when-moved", CompassKm: 50, CompassDays: 30, SessionFrom: "08:30", SessionTo: "12:30"},
			nil
	}
	if err != nil {
		return s, fmt.Errorf("read the settings: %w", err)
	}
	return s, nil
}

// KeepSettings keeps what the school sets.
func (tx Tx) KeepSettings(ctx context.Context, s Settings) error {
	_, err := tx.Exec(ctx, `INSERT INTO school_settings (school_id, compass_kind, compass_km, compass_days, course_id,
		away_deg, session_from, session_to, meter_addr, meter_zero_deg, hand_catch, position_addr, charger_addr)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13)
		ON CONFLICT (school_id) DO UPDATE SET compass_kind = $2, compass_km = $3, compass_days = $4, course_id = $5,
		away_deg = $6, session_from = $7, session_to = $8, meter_addr = $9, meter_zero_deg = $10, hand_catch = $11,
		position_addr = $12, charger_addr = $13`,
		tx.School, s.CompassKind, s.CompassKm, s.CompassDays, s.CourseID, s.AwayDeg, s.SessionFrom, s.SessionTo, s.MeterAddr,
		s.MeterZeroDeg, s.HandCatch, s.PositionAddr, s.ChargerAddr)
	if err != nil {
		return fmt.Errorf("keep the settings: %w", err)
	}
	return nil
}

// SetPace keeps the length of a person's pace in metres.
func (tx Tx) SetPace(ctx context.Context, account uuid.UUID, paceM float64) error {
	if _, err := tx.Exec(ctx, `UPDATE accounts SET pace_m = $2 WHERE id = $1`, account, paceM); err != nil {
		return fmt.Errorf("keep the pace: %w", err)
	}
	return nil
}
