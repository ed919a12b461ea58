package store

import (
	"context"
	"crypto/hmac"
	"crypto/pbkdf2"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgxpool"
	pgxuuid "github.com/vgarvardt/pgx-google-uuid/v5"

	"maestrale/internal/device"
)

// Connection reads the address of a database; what belongs to a pool in it, such as pool_max_conns, is left out.
func Connection(url string) (*pgx.ConnConfig, error) {
	cfg, err := pgxpool.ParseConfig(url)
	if err != nil {
		return nil, fmt.Errorf("DATABASE_URL: %w", err)
	}
	return cfg.ConnConfig, nil
}

// Connect opens one connection.
func Connect(ctx context.Context, url string) (*pgx.Conn, error) {
	cfg, err := Connection(url)
	if err != nil {
		return nil, err
	}
	conn, err := pgx.ConnectConfig(ctx, cfg)
	if err != nil {
		return nil, fmt.Errorf("connect: %w", err)
	}
	return conn, nil
}

// Await waits until a database answers, for as long as is given, and tells how long that took.
func Await(ctx context.Context, url string, patience time.Duration) (time.Duration, error) {
	begun := time.Now()
	limited, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	for {
		conn, err := Connect(limited, url)
		if err == nil {
			return time.Since(begun), conn.Close(limited)
		}
		if !transient(err) {
			return time.Since(begun), err
		}
		select {
		case <-ctx.Done():
			return time.Since(begun), ctx.Err()
		case <-limited.Done():
			return time.Since(begun), fmt.Errorf("the database did not answer for %s; start it, or wait longer with "+
				"--wait: %w", patience, err)
		case <-time.After(min(250*time.Millisecond, patience)):
		}
	}
}

// transient tells whether waiting can help: nobody listens yet, or the database is starting or stopping.
func transient(err error) bool {
	var refused interface{ SQLState() string }
	if errors.As(err, &refused) {
		return strings.HasPrefix(refused.SQLState(), "57P") || refused.SQLState() == "53300"
	}
	var unread *pgconn.ParseConfigError
	return !errors.As(err, &unread)
}

// loginOf tells as whom the server works. A login that can do no more than the server needs is used as it is. With that
// of the owner, the role maestrale_app is given a password that follows from the owner's, so that every server that was
// given the same address logs in alike.
func loginOf(ctx context.Context, url string) (user, password string, err error) {
	cfg, err := Connection(url)
	if err != nil {
		return "", "", err
	}
	conn, err := Connect(ctx, url)
	if err != nil {
		return "", "", err
	}
	defer func() { _ = conn.Close(ctx) }()
	var mighty, may, taken bool
	// What goes beyond the server's work: to own its tables, or to become somebody who does.
	err = conn.QueryRow(ctx, `SELECT r.rolsuper OR r.rolbypassrls OR r.rolcreaterole OR EXISTS (
		SELECT FROM pg_namespace n WHERE n.nspname = $1 AND pg_has_role(session_user, n.nspowner, 'MEMBER'))
		OR EXISTS (SELECT FROM pg_database d WHERE d.datname = current_database()
			AND pg_has_role(session_user, d.datdba, 'MEMBER')), r.rolsuper OR r.rolcreaterole,
		EXISTS (SELECT FROM pg_roles a WHERE a.rolname = '`+Role+`' AND a.rolcanlogin)
		FROM pg_roles r WHERE r.rolname = session_user`, Schema).Scan(&mighty, &may, &taken)
	if err != nil {
		return "", "", fmt.Errorf("look at the login: %w", err)
	}
	if !mighty {
		return cfg.User, cfg.Password, nil
	}
	secret := derived(cfg.Password)
	as := cfg.Copy()
	as.User, as.Password = Role, secret
	if cfg.Password != "" {
		if app, err := pgx.ConnectConfig(ctx, as); err == nil {
			return Role, secret, app.Close(ctx)
		}
	}
	if !may || taken || cfg.Password == "" {
		return "", "", fmt.Errorf("DATABASE_URL logs in as %q, who owns the tables; expected a login that can only do the "+
			"server's work. Give that address to maestrale migrate as MIGRATE_URL, let an administrator run ALTER ROLE %s "+
			"LOGIN PASSWORD '…', and let DATABASE_URL log in as %s", cfg.User, Role, Role)
	}
	if _, err := conn.Exec(ctx, `ALTER ROLE `+Role+` LOGIN PASSWORD '`+verifier(secret)+`'`); err != nil {
		if violates(err, undefinedRole) {
			return "", "", errOutdated(0)
		}
		return "", "", fmt.Errorf("give the server its login: %w", err)
	}
	return Role, secret, nil
}

// derived makes the server's password from the owner's.
func derived(ownersPassword string) string {
	h := hmac.New(sha256.New, []byte(ownersPassword))
	h.Write([]byte("the login of " + Role))
	return base64.RawURLEncoding.EncodeToString(h.Sum(nil))
}

// verifier is a password as PostgreSQL keeps it (RFC 5803, SCRAM-SHA-256), so that the password itself is never sent.
func verifier(secret string) string {
	const rounds = 4096
	salt := make([]byte, 16)
	_, _ = rand.Read(salt) // never fails
	salted, err := pbkdf2.Key(sha256.New, secret, salt, rounds, sha256.Size)
	if err != nil {
		panic(err) // only for lengths that no hash has
	}
	under := func(key []byte, words string) []byte {
		h := hmac.New(sha256.New, key)
		h.Write([]byte(words))
		return h.Sum(nil)
	}
	stored := sha256.Sum256(under(salted, "Client Key"))
	b64 := base64.StdEncoding.EncodeToString
	return fmt.Sprintf("SCRAM-SHA-256$%d:%s$%s:%s", rounds, b64(salt), b64(stored[:]), b64(under(salted, "Server Key")))
}

// UsualConnections is how many connections to the database the server holds where nothing else is said.
const UsualConnections = 10

// Open connects as the server: with a login that can do its work and nothing else. It refuses tables of a version that
// this program does not know. The tracer may be nil.
func Open(ctx context.Context, url string, tracer pgx.QueryTracer) (*Store, error) {
	return OpenPool(ctx, url, 0, tracer)
}

// OpenPool is Open with a number of connections; 0 is what the address says, else the usual number.
func OpenPool(ctx context.Context, url string, connections int, tracer pgx.QueryTracer) (*Store, error) {
	if connections < 0 || connections > 0 && connections < 3 {
		return nil, fmt.Errorf("%d connections to the database; expected 3 or more", connections)
	}
	user, password, err := loginOf(ctx, url)
	if err != nil {
		return nil, err
	}
	role := Role
	if user == Role {
		role = ""
	}
	return openAs(ctx, url, login{user, password, role}, connections, tracer)
}

// OpenAsOwner opens with the owner's own login, for a look at a copy and never to serve people.
func OpenAsOwner(ctx context.Context, url string) (*Store, error) {
	cfg, err := Connection(url)
	if err != nil {
		return nil, err
	}
	return openAs(ctx, url, login{cfg.User, cfg.Password, ""}, 0, nil)
}

// login is who connects, and as which role the sessions work; empty = as that login.
type login struct{ user, password, role string }

func openAs(ctx context.Context, url string, l login, connections int, tracer pgx.QueryTracer) (*Store, error) {
	cfg, err := pgxpool.ParseConfig(url)
	if err != nil {
		return nil, fmt.Errorf("DATABASE_URL: %w", err)
	}
	if !strings.Contains(url, "pool_max_conns") {
		cfg.MaxConns = UsualConnections
	}
	if connections > 0 {
		cfg.MaxConns = int32(min(connections, 1000))
	}
	cfg.ConnConfig.User, cfg.ConnConfig.Password = l.user, l.password
	if l.role != "" {
		// Set at the start of the session, so that even RESET ROLE comes back here.
		cfg.ConnConfig.RuntimeParams["role"] = l.role
	}
	cfg.ConnConfig.RuntimeParams["search_path"] = Schema
	cfg.ConnConfig.RuntimeParams["application_name"] = "maestrale"
	cfg.ConnConfig.Tracer = tracer
	cfg.AfterConnect = func(_ context.Context, conn *pgx.Conn) error {
		pgxuuid.Register(conn.TypeMap()) // ids come and go as sixteen bytes, and not as texts that are parsed
		return nil
	}
	pool, err := pgxpool.NewWithConfig(ctx, cfg)
	if err != nil {
		return nil, fmt.Errorf("connect: %w", err)
	}
	if !strings.HasPrefix(cfg.ConnConfig.Host, "/") {
		device.Deny(ctx, cfg.ConnConfig.Host, cfg.ConnConfig.Port)
	}
	// Two connections are left for the short questions that come before any school is known.
	s := &Store{pool, newTurns(int(cfg.MaxConns) - 2)}
	if err := s.known(ctx); err != nil {
		pool.Close()
		return nil, err
	}
	return s, nil
}
