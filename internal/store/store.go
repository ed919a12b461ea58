// Package store keeps the schools' data in PostgreSQL. The database itself
// keeps schools apart (row-level security by school) and records from being
// changed (append-only tables): a wrong query here cannot undo either.
package store

import (
	"context"
	"errors"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgxpool"
)

// Schema holds every table of the application.
const Schema = "maestrale"

// Role is what the application works as: it owns nothing and sees one school.
const Role = "maestrale_app"

// ErrNotFound is returned for what does not exist in the school that asks,
// whether or not it exists in another.
var ErrNotFound = errors.New("not found")

// Reset removes every table of the application, as the owner.
func Reset(ctx context.Context, url string) error {
	conn, err := Connect(ctx, url)
	if err != nil {
		return err
	}
	defer func() { _ = conn.Close(ctx) }()
	if _, err := conn.Exec(ctx, "DROP SCHEMA IF EXISTS "+Schema+" CASCADE"); err != nil {
		return fmt.Errorf("reset: %w", err)
	}
	return nil
}

// Store is the application's way to the database.
type Store struct {
	pool  *pgxpool.Pool
	turns *turns
}

// Pool gives the sessions their connections.
func (s *Store) Pool() *pgxpool.Pool { return s.pool }

// Close ends the connections.
func (s *Store) Close() { s.pool.Close() }

// Ready tells whether the database answers.
func (s *Store) Ready(ctx context.Context) error { return s.pool.Ping(ctx) }

// Tx is a transaction that works for one school.
type Tx struct {
	pgx.Tx
	School uuid.UUID
}

// InSchool runs f in a transaction that sees one school; it is kept whole when
// f returns nil and leaves nothing behind otherwise.
func (s *Store) InSchool(ctx context.Context, school uuid.UUID, f func(Tx) error) error {
	give, err := s.turns.take(ctx)
	if err != nil {
		return err
	}
	defer give()
	// Both in one round trip; a UUID has nothing to quote.
	options := pgx.TxOptions{BeginQuery: "BEGIN; SET LOCAL maestrale.school = '" + school.String() + "'"}
	var said error // what f returned, which is passed on as it is
	err = pgx.BeginTxFunc(ctx, s.pool, options, func(tx pgx.Tx) error {
		said = f(Tx{tx, school})
		return said
	})
	if err != nil && said == nil {
		return fmt.Errorf("transaction: %w", err)
	}
	return err
}

// one turns pgx's "no rows" into ErrNotFound.
func one[T any](rows pgx.Rows, err error) (T, error) {
	var zero T
	if err != nil {
		return zero, err
	}
	v, err := pgx.CollectExactlyOneRow(rows, pgx.RowToStructByPos[T])
	if errors.Is(err, pgx.ErrNoRows) {
		return zero, ErrNotFound
	}
	return v, err
}

func many[T any](rows pgx.Rows, err error) ([]T, error) {
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[T])
}

// violates tells whether an error is a certain kind of refusal by the database.
func violates(err error, code string) bool {
	var p *pgconn.PgError
	return errors.As(err, &p) && p.Code == code
}

const (
	uniqueViolation     = "23505"
	foreignKeyViolation = "23503"
	undefinedTable      = "42P01"
	undefinedRole       = "42704"
	undefinedSchema     = "3F000"
	notPermitted        = "42501"
	tupleChanged        = "XX000" // two change the rights of one database at once
)

// NewID makes a UUIDv7.
func NewID() uuid.UUID { return uuid.Must(uuid.NewV7()) }
