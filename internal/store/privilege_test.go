package store

import (
	"context"
	"fmt"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"maestrale/core/record"
)

// ownersConn is a connection of the owner of the tables.
func ownersConn(t *testing.T) *pgx.Conn {
	t.Helper()
	conn, err := pgx.Connect(ctx, owner)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = conn.Close(context.Background()) })
	return conn
}

// serversConn is a connection of the server's that nobody uses after the test.
func serversConn(t *testing.T) *pgx.Conn {
	t.Helper()
	c, err := db.pool.Acquire(ctx)
	if err != nil {
		t.Fatal(err)
	}
	conn := c.Hijack()
	t.Cleanup(func() { _ = conn.Close(context.Background()) })
	return conn
}

// What the server's own connection tries in order to leave its role is refused, and leaves it in no other.
func TestTheServersLoginCannotLeaveItsRole(t *testing.T) {
	newSchool(t)
	for _, attack := range []string{
		"SELECT set_config('role', 'none', false)",
		"SELECT set_config('role', 'maestrale', false)",
		"SELECT set_config('session_authorization', 'maestrale', false)",
		"RESET ROLE", "RESET SESSION AUTHORIZATION", "SET ROLE maestrale", "SET ROLE NONE",
		"ALTER ROLE maestrale_app BYPASSRLS", "ALTER ROLE maestrale_app SUPERUSER",
		"SET row_security = off",
	} {
		t.Run(attack, func(t *testing.T) {
			conn := serversConn(t)
			_, refused := conn.Exec(ctx, attack)
			var schools int
			err := conn.QueryRow(ctx, "SELECT count(*) FROM maestrale.schools").Scan(&schools)
			if err == nil && schools > 0 {
				t.Errorf("after it (refused: %v) the server's connection reads %d schools", refused, schools)
			}
		})
	}
}

// Objects in pg_temp never run or stand in for anything as the owner.
func TestTemporaryObjectsAreNotUsedByTheOwner(t *testing.T) {
	s := newSchool(t)
	if _, err := db.pool.Exec(ctx, "CREATE TEMP TABLE mine (x int)"); !violates(err, "42501") {
		t.Errorf("the server may make temporary tables: %v", err)
	}
	// And where somebody gives TEMP back, the functions still look in their own schema.
	conn := ownersConn(t)
	if _, err := conn.Exec(ctx, "GRANT TEMPORARY ON DATABASE postgres TO maestrale_app"); err != nil {
		t.Fatal(err)
	}
	defer conn.Exec(ctx, "REVOKE TEMPORARY ON DATABASE postgres FROM maestrale_app") //nolint:errcheck // a test's end
	app := serversConn(t)
	if _, err := app.Exec(ctx, `CREATE TEMP TABLE schools (id uuid, name text, closed_at timestamptz)`); err != nil {
		t.Fatal(err)
	}
	if _, err := app.Exec(ctx, `CREATE TEMP TABLE accounts (id uuid, school_id uuid, email text, password_hash text,
		disabled_at timestamptz, role text)`); err != nil {
		t.Fatal(err)
	}
	if _, err := app.Exec(ctx, `INSERT INTO pg_temp.accounts SELECT $1, $2, 'planted@x.example', 'planted', NULL, 'chief'`,
		NewID(), s.id); err != nil {
		t.Fatal(err)
	}
	var got int
	if err := app.QueryRow(ctx,
		"SELECT count(*) FROM maestrale.account_by_email('planted@x.example')").Scan(&got); err != nil ||
		got != 0 {
		t.Errorf("a planted table was read by a function that runs as the owner: %d rows, %v", got, err)
	}
	var left string
	if err := conn.QueryRow(ctx, `SELECT coalesce(string_agg(p.oid::regprocedure::text, ', '), '')
		FROM pg_proc p WHERE p.pronamespace = 'maestrale'::regnamespace AND p.prosecdef
		AND NOT coalesce('search_path=maestrale, pg_temp' = ANY (p.proconfig),
		false)`).Scan(&left); err != nil || left != "" {
		t.Errorf("these run as the owner and do not look in pg_temp last: %s (%v)", left, err)
	}
}

// The database recomputes each hash of the chain: what a faulty or hostile server sends is refused.
func TestTheDatabaseRecomputesTheChain(t *testing.T) {
	s := newSchool(t)
	link := record.Link{Student: s.student.String(), Seq: 1, Kind: "attempt", ID: NewID().String(),
		Body: []byte(`{"note": "a < b & c – è \u2028 1e3", "n": [1.50, 2]}`)}
	insert := func(l record.Link, hash record.Hash) error {
		return db.InSchool(ctx, s.id, func(tx Tx) error {
			_, err := tx.Exec(ctx, `INSERT INTO chain (school_id, student_id, seq, kind, entry_id, body, prev, hash)
				VALUES ($1, $2, $3, $4, $5, $6, $7, $8)`, s.id, s.student, l.Seq, l.Kind, l.ID, string(l.Body),
				make([]byte, 32), hash[:])
			return err
		})
	}
	right, err := link.Sum(record.Hash{})
	if err != nil {
		t.Fatal(err)
	}
	wrong := right
	wrong[31] ^= 1
	if err := insert(link, wrong); !violates(err, "23000") {
		t.Errorf("a wrong hash was taken: %v", err)
	}
	if err := db.InSchool(ctx, s.id, func(tx Tx) error {
		_, err := tx.link(ctx, link,
			record.Hash{})
		return err
	}); err != nil {
		t.Errorf("the right one was refused: %v", err)
	}
	other := link
	other.Seq, other.Kind = 2, "signoff"
	if err := db.InSchool(ctx, s.id, func(tx Tx) error { _, err := tx.link(ctx, other, right); return err }); err != nil {
		t.Errorf("the next one was refused: %v", err)
	}
	s.in(t, func(tx Tx) error {
		chain, err := tx.Chain(ctx, s.student)
		if err != nil {
			return err
		}
		if broken, err := record.Verify(chain); broken != 0 || err != nil || len(chain) != 2 {
			t.Errorf("broken at %d of %d, %v", broken, len(chain), err)
		}
		return nil
	})
}

// fresh makes an empty database on the tests' server and tells its address.
func fresh(t *testing.T) string {
	t.Helper()
	name := "t" + strings.ReplaceAll(uuid.NewString(), "-", "")
	conn := ownersConn(t)
	if _, err := conn.Exec(ctx, "CREATE DATABASE "+name); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		_, _ = conn.Exec(context.Background(), "DROP DATABASE "+name+" WITH (FORCE)")
	})
	return strings.Replace(owner, "/postgres?", "/"+name+"?", 1)
}

// Servers that start at once bring the database up to date once.
func TestMigrationsDoNotRace(t *testing.T) {
	url := fresh(t)
	var all sync.WaitGroup
	failed := make(chan error, 8)
	for range cap(failed) {
		all.Go(func() { failed <- Migrate(ctx, url) })
	}
	all.Wait()
	for range cap(failed) {
		if err := <-failed; err != nil {
			t.Error(err)
		}
	}
}

// Addresses may carry settings of the pool, which a single connection does not know.
func TestPoolSettingsInTheAddress(t *testing.T) {
	url := fresh(t) + "&pool_max_conns=3&pool_max_conn_idle_time=1m"
	if err := Migrate(ctx, url); err != nil {
		t.Fatal(err)
	}
	if _, err := HasSchools(ctx, url); err != nil {
		t.Error(err)
	}
	st, err := Open(ctx, url, nil)
	if err != nil {
		t.Fatal(err)
	}
	defer st.Close()
	if got := st.Pool().Config().MaxConns; got != 3 {
		t.Errorf("%d connections, 3 were asked for", got)
	}
}

// A server serves the version of the tables that it knows, and says what to do about another.
func TestServingAnotherVersion(t *testing.T) {
	url := fresh(t)
	if _, err := Open(ctx, url, nil); err == nil || !strings.Contains(err.Error(), "maestrale migrate") {
		t.Errorf("an empty database: %v", err)
	}
	if err := Migrate(ctx, url); err != nil {
		t.Fatal(err)
	}
	conn, err := pgx.Connect(ctx, url)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = conn.Close(ctx) }()
	for _, c := range []struct {
		change string
		says   string
	}{
		{"DELETE FROM maestrale.goose_db_version WHERE version_id = (SELECT max(version_id) FROM maestrale.goose_db_version)",
			"maestrale migrate"},
		{"INSERT INTO maestrale.goose_db_version (version_id, is_applied) VALUES (99999, true)", "newer"},
	} {
		if _, err := conn.Exec(ctx, c.change); err != nil {
			t.Fatal(err)
		}
		if st, err := Open(ctx, url, nil); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v", c.change, err)
			if st != nil {
				st.Close()
			}
		}
	}
	if err := Migrate(ctx, url); err == nil || !strings.Contains(err.Error(), "newer") {
		t.Errorf("an older program migrates a newer database: %v", err)
	}
}

// A login that owns the database and nothing else can migrate, once an administrator has made the server's role.
func TestAnOrdinaryOwnerMigrates(t *testing.T) {
	url := fresh(t)
	cfg, err := pgx.ParseConfig(url)
	if err != nil {
		t.Fatal(err)
	}
	conn := ownersConn(t)
	name := "owner_" + cfg.Database[:8]
	for _, q := range []string{"CREATE ROLE " + name + " LOGIN PASSWORD 'an-owner'",
		fmt.Sprintf("ALTER DATABASE %s OWNER TO %s", cfg.Database, name)} {
		if _, err := conn.Exec(ctx, q); err != nil {
			t.Fatal(err)
		}
	}
	mine := fmt.Sprintf("postgres://%s:an-owner@%s:%d/%s?sslmode=disable", name, cfg.Host, cfg.Port, cfg.Database)
	if err := Migrate(ctx, mine); err != nil {
		t.Fatal(err)
	}
	// The server has a login of its own, which an administrator made.
	server := "server_" + cfg.Database[:8]
	if _, err := conn.Exec(ctx, "CREATE ROLE "+server+" LOGIN PASSWORD 'the-server' IN ROLE maestrale_app"); err != nil {
		t.Fatal(err)
	}
	st, err := Open(ctx, fmt.Sprintf("postgres://%s:the-server@%s:%d/%s?sslmode=disable", server, cfg.Host, cfg.Port,
		cfg.Database), nil)
	if err != nil {
		t.Fatal(err)
	}
	st.Close()
	if _, err := Open(ctx, mine, nil); err == nil || !strings.Contains(err.Error(), "owns the tables") {
		t.Errorf("the server works as the owner of the tables: %v", err)
	}
}

// A database that is down is waited for, for as long as was said.
func TestADatabaseThatIsDown(t *testing.T) {
	begun := time.Now()
	_, err := Await(ctx, "postgres://x:y@127.0.0.1:1/x?sslmode=disable", 300*time.Millisecond)
	if err == nil || time.Since(begun) < 300*time.Millisecond || !strings.Contains(err.Error(), "300ms") {
		t.Errorf("%v after %v", err, time.Since(begun))
	}
	if strings.Contains(err.Error(), ":y@") {
		t.Errorf("the password stands in the error: %v", err)
	}
}
