package store

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"maestrale/core/pack"
)

// ChargersOf is a stream of chargers that a school listens to.
type ChargersOf struct {
	School uuid.UUID
	Addr   string
}

// Chargers lists the streams of every school.
func (s *Store) Chargers(ctx context.Context) ([]ChargersOf, error) {
	rows, err := s.pool.Query(ctx, `SELECT school_id, addr FROM charger_streams()`)
	list, err := many[ChargersOf](rows, err)
	if err != nil {
		return nil, fmt.Errorf("list the chargers: %w", err)
	}
	return list, nil
}

// HasChargers tells whether the school still listens to a stream, and keeps every other
// server that listens to it waiting until the transaction ends: what a charger says is
// noted once.
func (tx Tx) HasChargers(ctx context.Context, k ChargersOf) (bool, error) {
	rows, err := tx.Query(ctx,
		`SELECT charger_addr FROM school_settings WHERE school_id = $1 AND charger_addr = $2 FOR UPDATE`, tx.School, k.Addr)
	if err != nil {
		return false, fmt.Errorf("ask for the chargers: %w", err)
	}
	list, err := pgx.CollectRows(rows, pgx.RowTo[string])
	if err != nil {
		return false, fmt.Errorf("ask for the chargers: %w", err)
	}
	return len(list) > 0, nil
}

// SetCharger puts what a charger says of a slot in the place of what it said before.
func (tx Tx) SetCharger(ctx context.Context, at time.Time, t pack.Told) error {
	_, err := tx.Exec(ctx, `INSERT INTO charger_now (school_id, charger, slot, at, state, pack, charge, amps, mah, says)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)
		ON CONFLICT (school_id, charger, slot) DO UPDATE SET at = $4, state = $5, pack = $6, charge = $7, amps = $8,
		mah = $9, says = $10`,
		tx.School, t.Charger, t.Slot, at, t.State, t.Pack, t.Charge, t.Amps, t.Mah, t.Says)
	if err != nil {
		return fmt.Errorf("keep what the charger says: %w", err)
	}
	return nil
}

// SlotNow is what a charger last said of a slot.
type SlotNow struct {
	Charger string
	Slot    int
	At      time.Time
	State   string
	Pack    string
	Charge  float64
	Amps    float64
	Mah     float64
	Says    string
}

// SlotsNow lists what the chargers said since a moment.
func (tx Tx) SlotsNow(ctx context.Context, since time.Time) ([]SlotNow, error) {
	rows, err := tx.Query(ctx,
		`SELECT charger, slot, at, state, pack, charge, amps, mah, says FROM charger_now WHERE at >= $1 ORDER BY charger,
			slot`, since)
	return many[SlotNow](rows, err)
}
