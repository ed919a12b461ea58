package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/lock"
)

// How often closing a database is tried where another does it too, and how long is waited between.
const (
	closeTries = 20
	closeWait  = 50 * time.Millisecond
)

//go:embed migrations/*.sql
var migrations embed.FS

// provider brings the database behind a connection up to date, one program at a time.
func provider(db *sql.DB) (*goose.Provider, error) {
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, fmt.Errorf("migrate: %w", err)
	}
	// Tried every second for ten minutes: a large table can take that long.
	locker, err := lock.NewPostgresSessionLocker(lock.WithLockTimeout(1, 600))
	if err != nil {
		return nil, fmt.Errorf("migrate: %w", err)
	}
	p, err := goose.NewProvider(goose.DialectPostgres, db, files, goose.WithSessionLocker(locker))
	if err != nil {
		return nil, fmt.Errorf("migrate: %w", err)
	}
	return p, nil
}

// Newest is the version of the tables that this program knows.
func Newest() int64 {
	entries, err := migrations.ReadDir("migrations")
	if err != nil {
		panic(err) // they are built in
	}
	v, err := goose.NumericComponent(entries[len(entries)-1].Name())
	if err != nil {
		panic(err)
	}
	return v
}

// Migrate brings the database up to date, as the owner that the address names. Of several at once one works and the
// others wait. Afterwards nobody but the owner makes temporary objects in the database.
func Migrate(ctx context.Context, url string) error { return MigrateTo(ctx, url, Newest()) }

// MigrateTo is Migrate to a version before the newest, as an older program would leave it.
func MigrateTo(ctx context.Context, url string, to int64) error {
	cfg, err := Connection(url)
	if err != nil {
		return err
	}
	cfg.RuntimeParams["search_path"] = Schema
	if err := prepareOwner(ctx, url); err != nil {
		return err
	}
	db := stdlib.OpenDB(*cfg)
	defer func() { _ = db.Close() }()
	p, err := provider(db)
	if err != nil {
		return err
	}
	there, err := TablesVersion(ctx, url)
	if err != nil {
		return err
	}
	if there > Newest() {
		return errNewer(there)
	}
	if _, err := p.UpTo(ctx, to); err != nil {
		return fmt.Errorf("migrate: %w", err)
	}
	// Two that migrate at once both close the database; PostgreSQL refuses the one that comes into the middle.
	_, err = db.ExecContext(ctx, closeDatabase)
	for range closeTries {
		if !violates(err, tupleChanged) {
			break
		}
		time.Sleep(closeWait)
		_, err = db.ExecContext(ctx, closeDatabase)
	}
	if err != nil {
		return fmt.Errorf("close the database to temporary objects: %w", err)
	}
	return nil
}

// closeDatabase takes from everybody what only the owner of a database can take: temporary objects.
const closeDatabase = `DO $$ BEGIN
	EXECUTE format('REVOKE TEMPORARY ON DATABASE %I FROM PUBLIC, ` + Role + `', current_database());
END $$`

// RolesSQL makes the server's role in a cluster that does not know it; a plain dump of a database does not carry it.
const RolesSQL = `DO $$ BEGIN
	IF NOT EXISTS (SELECT FROM pg_roles WHERE rolname = '` + Role + `') THEN
		CREATE ROLE ` + Role + ` NOLOGIN NOSUPERUSER NOBYPASSRLS NOCREATEDB NOCREATEROLE;
	END IF;
EXCEPTION WHEN duplicate_object OR unique_violation THEN NULL; -- somebody made it at the same time
END $$;
`

// prepareOwner makes the role of the server and the schema.
func prepareOwner(ctx context.Context, url string) error {
	conn, err := Connect(ctx, url)
	if err != nil {
		return err
	}
	defer func() { _ = conn.Close(ctx) }()
	if err := makeRole(ctx, conn); err != nil {
		return err
	}
	// Not "if not exists" alone: two at once would both try.
	_, err = conn.Exec(ctx, `SELECT pg_advisory_lock(4097083627); CREATE SCHEMA IF NOT EXISTS `+Schema)
	if violates(err, notPermitted) {
		return errors.New("this login may not make the schema; expected the owner of the database, as MIGRATE_URL")
	}
	if err != nil {
		return fmt.Errorf("make the schema: %w", err)
	}
	return nil
}

func makeRole(ctx context.Context, conn *pgx.Conn) error {
	if _, err := conn.Exec(ctx, RolesSQL); err != nil {
		if violates(err, notPermitted) {
			return fmt.Errorf("this login may not make the role of the server; let an administrator run CREATE ROLE %s "+
				"LOGIN PASSWORD '…' once, and try again", Role)
		}
		return fmt.Errorf("make the server's role: %w", err)
	}
	return nil
}

// MakeRole makes the server's role where the cluster does not know it.
func MakeRole(ctx context.Context, url string) error {
	conn, err := Connect(ctx, url)
	if err != nil {
		return err
	}
	defer func() { _ = conn.Close(ctx) }()
	return makeRole(ctx, conn)
}

// Empty refuses a database that holds any table, whoever made it.
func Empty(ctx context.Context, url string) error {
	conn, err := Connect(ctx, url)
	if err != nil {
		return err
	}
	defer func() { _ = conn.Close(ctx) }()
	var first string
	err = conn.QueryRow(ctx, `SELECT n.nspname || '.' || c.relname FROM pg_class c JOIN pg_namespace n
		ON n.oid = c.relnamespace WHERE c.relkind IN ('r', 'p', 'v', 'm', 'S') AND n.nspname <> 'information_schema'
		AND n.nspname NOT LIKE 'pg\_%' ORDER BY n.nspname = $1 DESC, 1 LIMIT 1`, Schema).Scan(&first)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil
	}
	if err != nil {
		return fmt.Errorf("look at the database: %w", err)
	}
	return fmt.Errorf("this database is not empty: %s is in it; expected an empty one, so that nothing is overwritten",
		first)
}

// TablesVersion tells which version the tables at an address have, 0 where there are none.
func TablesVersion(ctx context.Context, url string) (int64, error) {
	conn, err := Connect(ctx, url)
	if err != nil {
		return 0, err
	}
	defer func() { _ = conn.Close(ctx) }()
	return VersionOf(ctx, conn)
}

// VersionOf tells which version the tables of a connection have, 0 where there are none.
func VersionOf(ctx context.Context, on interface {
	QueryRow(context.Context, string, ...any) pgx.Row
}) (v int64, err error) {
	err = on.QueryRow(ctx, `SELECT coalesce(max(version_id), 0)
		FROM `+Schema+`.goose_db_version WHERE is_applied`).Scan(&v)
	switch {
	case violates(err, undefinedTable) || violates(err, undefinedSchema) || violates(err, notPermitted):
		return 0, nil // none, or older than the right to read it
	case err != nil:
		return 0, fmt.Errorf("read the version of the tables: %w", err)
	}
	return v, nil
}

func errNewer(there int64) error {
	return fmt.Errorf("this database is newer than this program: its tables have version %d, and this program knows %d; "+
		"install the newer program", there, Newest())
}

func errOutdated(there int64) error {
	if there == 0 {
		return errors.New("there are no tables of Maestrale in this database yet; run maestrale migrate, with the owner's " +
			"login in MIGRATE_URL")
	}
	return fmt.Errorf("the tables of this database have version %d, and this program needs %d; make a backup and run "+
		"maestrale migrate, with the owner's login in MIGRATE_URL", there, Newest())
}

// known refuses tables of another version than the program's.
func (s *Store) known(ctx context.Context) error {
	v, err := VersionOf(ctx, s.pool)
	switch {
	case err != nil:
		return err
	case v > Newest():
		return errNewer(v)
	case v < Newest():
		return errOutdated(v)
	}
	return nil
}

// Analyze lets the database count its tables anew: it forgets its figures when it is killed, and guesses badly then.
func Analyze(ctx context.Context, url string) error {
	conn, err := Connect(ctx, url)
	if err != nil {
		return err
	}
	defer func() { _ = conn.Close(ctx) }()
	if _, err := conn.Exec(ctx, "ANALYZE"); err != nil {
		return fmt.Errorf("count the tables anew: %w", err)
	}
	return nil
}
