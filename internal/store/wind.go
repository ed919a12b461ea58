package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
)

// Wind is a wind reading; FromDeg is the field heading from which it blows,
// FromTrueDeg the true direction.
type Wind struct {
	Mps         float64
	GustMps     *float64
	FromDeg     *float64
	FromTrueDeg *float64
}

// AddWind keeps a wind reading that a person typed; the same id again is kept
// once.
func (tx Tx) AddWind(ctx context.Context, id, by uuid.UUID, at time.Time, w Wind) error {
	_, err := tx.Exec(ctx, `INSERT INTO wind_readings (id, school_id, at, mps, gust_mps, from_deg, from_true_deg, read_by)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8)
		ON CONFLICT (id) DO NOTHING`, id, tx.School, at, w.Mps, w.GustMps, w.FromDeg, w.FromTrueDeg, by)
	if err != nil {
		return fmt.Errorf("keep the wind: %w", err)
	}
	return nil
}

// WindNow is the wind as the meter has it.
type WindNow struct {
	At              time.Time // of the newest sound sentence; zero while there was none
	Mps, Gust, From float64
	LongMps         float64
	LongGust        float64
	LongFrom        float64
	Steady          float64
	Sound           int64
	Dropped         int64
	Flooded         int64
	Stuck           bool
	Why             string
}

// SetWindNow puts the meter's wind in the place of the one before. Of a meter
// that has said nothing sound only the counts are kept: what was heard before
// stays, as old as it is.
func (tx Tx) SetWindNow(ctx context.Context, w WindNow) error {
	set := `at = $2, mps = $3, gust_mps = $4, from_true_deg = $5, long_mps = $6, long_gust_mps = $7, ` +
		`long_from_true_deg = $8, steady = $9, stuck = $13, `
	if w.At.IsZero() {
		set = ""
	}
	_, err := tx.Exec(ctx, `INSERT INTO wind_now (school_id, at, mps, gust_mps, from_true_deg, long_mps, long_gust_mps,
		long_from_true_deg, steady, sound, dropped, flooded, stuck, why)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14)
		ON CONFLICT (school_id) DO UPDATE SET `+set+`sound = $10, dropped = $11, flooded = $12, why = $14`,
		tx.School, whenSet(w.At), w.Mps, w.Gust, w.From, w.LongMps, w.LongGust, w.LongFrom, w.Steady, w.Sound, w.Dropped,
		w.Flooded, w.Stuck, w.Why)
	if err != nil {
		return fmt.Errorf("keep the meter's wind: %w", err)
	}
	return nil
}

func whenSet(at time.Time) *time.Time {
	if at.IsZero() {
		return nil
	}
	return &at
}

// KeepWindNow keeps the meter's wind as a reading, for the record.
func (tx Tx) KeepWindNow(ctx context.Context, w WindNow) error {
	_, err := tx.Exec(ctx, `INSERT INTO wind_readings (id, school_id, at, mps, gust_mps, from_true_deg, metered)
		VALUES ($1, $2, $3, $4, $5, $6, true)`,
		NewID(), tx.School, w.At, w.Mps, max(w.Gust, w.Mps), w.From)
	if err != nil {
		return fmt.Errorf("keep the meter's wind: %w", err)
	}
	return nil
}

// WindNow reads the meter's wind; ErrNotFound where it was never heard.
func (tx Tx) WindNow(ctx context.Context) (WindNow, error) {
	rows, err := tx.Query(ctx,
		`SELECT coalesce(at, '0001-01-01T00:00:00Z') AS at, mps, gust_mps, from_true_deg, long_mps, long_gust_mps,
			long_from_true_deg, steady, sound, dropped, flooded, stuck, why FROM wind_now`)
	w, err := one[WindNow](rows, err)
	if err != nil && !errors.Is(err, ErrNotFound) {
		return w, fmt.Errorf("read the meter's wind: %w", err)
	}
	return w, err
}

// MeterOf is a wind meter that a school listens to.
type MeterOf struct {
	School  uuid.UUID
	Addr    string
	ZeroDeg float64
}

// Meters lists the wind meters of every school.
func (s *Store) Meters(ctx context.Context) ([]MeterOf, error) {
	rows, err := s.pool.Query(ctx, `SELECT school_id, addr, zero_deg FROM wind_meters()`)
	list, err := many[MeterOf](rows, err)
	if err != nil {
		return nil, fmt.Errorf("list the wind meters: %w", err)
	}
	return list, nil
}

// HasMeter tells whether the school still listens to a meter: what was heard of
// one that was taken away a moment ago is not the wind any more.
func (tx Tx) HasMeter(ctx context.Context, m MeterOf) (bool, error) {
	var has bool
	err := tx.QueryRow(ctx, `SELECT EXISTS (SELECT FROM school_settings WHERE school_id = $1 AND meter_addr = $2
		AND meter_zero_deg = $3)`, tx.School, m.Addr, m.ZeroDeg).Scan(&has)
	if err != nil {
		return false, fmt.Errorf("ask for the wind meter: %w", err)
	}
	return has, nil
}
