package store

import (
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"io"
	"net"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
)

// Try counts an attempt under its keys (of the thing from this place, of the thing, and of the place) before it is
// looked at, and tells whether it may be: most are so many of each since a moment.
func (s *Store) Try(ctx context.Context, keys [3][]byte, most [3]int, since, now time.Time) (may bool, err error) {
	err = s.pool.QueryRow(ctx, `SELECT count_sign_in($1, $2, $3, $4)`, keys[:], most[:], since, now).Scan(&may)
	if err != nil {
		return false, fmt.Errorf("count the attempts: %w", err)
	}
	return may, nil
}

// TakeBack takes one attempt back that was counted under each key, and forgets all under the first where it was right.
func (s *Store) TakeBack(ctx context.Context, keys [3][]byte, right bool) error {
	_, err := s.pool.Exec(ctx, `DELETE FROM sign_in_failures WHERE ctid IN (
		SELECT (SELECT f.ctid FROM sign_in_failures f WHERE f.key = k ORDER BY f.at DESC LIMIT 1) FROM unnest($1::bytea[]) k)
		OR $2 AND key = $3`, keys[:], right, keys[0])
	if err != nil {
		return fmt.Errorf("forget an attempt: %w", err)
	}
	return nil
}

// mostBrowsers is how many browsers of an account are known: the newest.
const mostBrowsers = 40

// KnowsBrowser tells whether a browser, by what it keeps, has signed in to an account before.
func (s *Store) KnowsBrowser(ctx context.Context, account uuid.UUID, token string) (is bool, err error) {
	sum := sha256.Sum256([]byte(token))
	err = s.pool.QueryRow(ctx, `SELECT EXISTS (SELECT FROM known_browsers WHERE hash = $1 AND account_id = $2)`, sum[:],
		account).Scan(&is)
	if err != nil {
		return false, fmt.Errorf("look for the browser: %w", err)
	}
	return is, nil
}

// KnowBrowser notes that a browser has signed in to an account.
func (tx Tx) KnowBrowser(ctx context.Context, account uuid.UUID, token string, now time.Time) error {
	sum := sha256.Sum256([]byte(token))
	_, err := tx.Exec(ctx, `INSERT INTO known_browsers (hash, account_id, at) VALUES ($1, $2, $3)`, sum[:], account, now)
	if err == nil {
		_, err = tx.Exec(ctx, `DELETE FROM known_browsers WHERE account_id = $1 AND hash NOT IN (
			SELECT hash FROM known_browsers WHERE account_id = $1 ORDER BY at DESC LIMIT $2)`, account, mostBrowsers)
	}
	if err != nil {
		return fmt.Errorf("note the browser: %w", err)
	}
	return nil
}

// ForgetBrowsers forgets every browser of an account, when its password is a new one.
func (tx Tx) ForgetBrowsers(ctx context.Context, account uuid.UUID) error {
	if _, err := tx.Exec(ctx, `DELETE FROM known_browsers WHERE account_id = $1`, account); err != nil {
		return fmt.Errorf("forget the browsers: %w", err)
	}
	return nil
}

// ForgetSessions forgets the sessions that have ended.
func (s *Store) ForgetSessions(ctx context.Context) error {
	if _, err := s.pool.Exec(ctx, `DELETE FROM sessions WHERE expiry < now()`); err != nil {
		return fmt.Errorf("forget old sessions: %w", err)
	}
	return nil
}

// Backup is a backup that was made of this database.
type Backup struct {
	At    time.Time
	File  string
	Bytes int64
	Why   string
}

// NewestBackup is the newest backup that this database knows of; nil where there is none.
func (s *Store) NewestBackup(ctx context.Context) (*Backup, error) {
	rows, err := s.pool.Query(ctx, `SELECT at, file, bytes, why FROM backups ORDER BY at DESC LIMIT 1`)
	if err != nil {
		return nil, fmt.Errorf("look for backups: %w", err)
	}
	b, err := pgx.CollectExactlyOneRow(rows, pgx.RowToAddrOfStructByPos[Backup])
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, nil //nolint:nilnil // there is none
	}
	return b, err
}

// BadText names what in a text the database does not take; it is empty for every other error.
func BadText(err error) string {
	if violates(err, "22021") || violates(err, "22P05") { // character not in repertoire; untranslatable character
		return msgZeroByteOr
	}
	return ""
}

// Away tells whether an error means that the database does not answer, and not that it refuses.
func Away(err error) bool {
	var p interface{ SQLState() string }
	if errors.As(err, &p) {
		// Shutting down, starting, too many connections, out of memory or disk.
		return slices.Contains([]string{"57P01", "57P02", "57P03", "53000", "53100", "53200", "53300"}, p.SQLState())
	}
	var network net.Error
	return errors.As(err, &network) || lost(err)
}

// Trouble tells whether an error is the database's, and no mistake of whoever asked.
func Trouble(err error) bool {
	var refused *pgconn.PgError
	return Away(err) || errors.Is(err, ErrOverloaded) || errors.Is(err, context.DeadlineExceeded) ||
		errors.Is(err, context.Canceled) || errors.As(err, &refused)
}

// lost tells whether a connection was lost or could not be made.
func lost(err error) bool {
	var c *pgconn.ConnectError
	return errors.As(err, &c) || errors.Is(err, io.ErrUnexpectedEOF) || errors.Is(err, io.EOF) || pgconn.SafeToRetry(err)
}
