// Package store keeps the schools' data in PostgreSQL. The database itself
// keeps schools apart (row-level security by school) and records from being
// changed (append-only tables): a wrong query here cannot undo either.
package store

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"io/fs"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
)

// Schema holds every table of the application.
const Schema = "maestrale"

// Role is what the application works as: it owns nothing and sees one school.
const Role = "maestrale_app"

// ErrNotFound is returned for what does not exist in the school that asks,
// whether or not it exists in another.
var ErrNotFound = errors.New("not found")

//go:embed migrations/*.sql
var migrations embed.FS

// Migrate brings the database up to date, as the owner that the URL names.
func Migrate(ctx context.Context, url string) error {
	cfg, err := pgx.ParseConfig(url)
	if err != nil {
		return fmt.Errorf("DATABASE_URL: %w", err)
	}
	cfg.RuntimeParams["search_path"] = Schema
	db := stdlib.OpenDB(*cfg)
	defer func() { _ = db.Close() }()
	if _, err := db.ExecContext(ctx, "CREATE SCHEMA IF NOT EXISTS "+Schema); err != nil {
		return fmt.Errorf("make the schema: %w", err)
	}
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return fmt.Errorf("migrate: %w", err)
	}
	p, err := goose.NewProvider(goose.DialectPostgres, db, files)
	if err != nil {
		return fmt.Errorf("migrate: %w", err)
	}
	if _, err := p.Up(ctx); err != nil {
		return fmt.Errorf("migrate: %w", err)
	}
	return nil
}

// Reset removes every table of the application, as the owner.
func Reset(ctx context.Context, url string) error {
	conn, err := pgx.Connect(ctx, url)
	if err != nil {
		return fmt.Errorf("connect: %w", err)
	}
	defer func() { _ = conn.Close(ctx) }()
	if _, err := conn.Exec(ctx, "DROP SCHEMA IF EXISTS "+Schema+" CASCADE"); err != nil {
		return fmt.Errorf("reset: %w", err)
	}
	return nil
}

// Store is the application's way to the database.
type Store struct{ pool *pgxpool.Pool }

// Open connects as the application's role; tracer may be nil.
func Open(ctx context.Context, url string, tracer pgx.QueryTracer) (*Store, error) {
	cfg, err := pgxpool.ParseConfig(url)
	if err != nil {
		return nil, fmt.Errorf("DATABASE_URL: %w", err)
	}
	// Set at the start of the session, so that even RESET ROLE comes back here.
	cfg.ConnConfig.RuntimeParams["role"] = Role
	cfg.ConnConfig.RuntimeParams["search_path"] = Schema
	cfg.ConnConfig.RuntimeParams["application_name"] = "maestrale"
	cfg.ConnConfig.Tracer = tracer
	pool, err := pgxpool.NewWithConfig(ctx, cfg)
	if err != nil {
		return nil, fmt.Errorf("connect: %w", err)
	}
	if err := pool.Ping(ctx); err != nil {
		pool.Close()
		return nil, fmt.Errorf("connect: %w", err)
	}
	return &Store{pool}, nil
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
	// Both in one round trip; a UUID has nothing to quote.
	options := pgx.TxOptions{BeginQuery: "BEGIN; SET LOCAL maestrale.school = '" + school.String() + "'"}
	var said error // what f returned, which is passed on as it is
	err := pgx.BeginTxFunc(ctx, s.pool, options, func(tx pgx.Tx) error {
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
)

// NewID makes a UUIDv7.
func NewID() uuid.UUID { return uuid.Must(uuid.NewV7()) }
