// Package backup copies the whole database into one file, and puts such a file into an empty database and proves that
// the copy is the same. A file is a ZIP archive of a dump, as pg_dump writes it, and of a manifest that says what is in
// it.
package backup

import (
	"archive/zip"
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"hash"
	"io"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"maestrale/internal/localpg"
	"maestrale/internal/store"
)

// Format names the manifest.
const Format = "maestrale-backup/1"

const (
	manifestName = "manifest.json"
	dumpName     = "database.dump"
)

// Why a backup was made.
const (
	Asked           = "asked"
	Daily           = "daily"
	BeforeMigration = "before-migration"
)

// Manifest is maestrale-backup/1: what is in a backup.
type Manifest struct {
	Format     string    `json:"format"`
	At         time.Time `json:"at"`
	Why        string    `json:"why"`
	Program    string    `json:"program"`
	Version    int64     `json:"tables_version"`
	PostgreSQL string    `json:"postgresql"`
	Tables     []Table   `json:"tables"`
	Chains     []Chain   `json:"chains"`
	Guards     Guards    `json:"guards"`
	Dump       Dump      `json:"dump"`
}

// Table is how many rows a table has.
type Table struct {
	Name string `json:"name"`
	Rows int64  `json:"rows"`
}

// Chain is how far a student's chain goes, and the hash of its last entry.
type Chain struct {
	School  string `json:"school"`
	Student string `json:"student"`
	Entries int64  `json:"entries"`
	Head    string `json:"head"`
}

// Guards count what keeps schools apart and records as they are.
type Guards struct {
	RowSecurity int64 `json:"row_security"` // tables with it
	Policies    int64 `json:"policies"`
	Triggers    int64 `json:"triggers"`
	Functions   int64 `json:"functions"`
	Grants      int64 `json:"grants"` // what the server's role may do with tables
	Sequences   int64 `json:"sequences"`
}

// Dump is the part of the file that holds the database.
type Dump struct {
	Name   string `json:"name"`
	Bytes  int64  `json:"bytes"`
	SHA256 string `json:"sha256"`
}

// Made is a backup that was made.
type Made struct {
	Manifest
	File   string
	Bytes  int64
	SHA256 [sha256.Size]byte
}

// program finds one of PostgreSQL's programs: that of the newest server, else the one in the path.
func program(name string) (string, error) {
	if dir, err := localpg.Binaries(); err == nil {
		if _, err := os.Stat(filepath.Join(dir, name)); err == nil {
			return filepath.Join(dir, name), nil
		}
	}
	p, err := exec.LookPath(name)
	if err != nil {
		return "", fmt.Errorf("%s is not installed; install Debian's package postgresql-client", name)
	}
	return p, nil
}

// command prepares one of PostgreSQL's programs to work on a database. The password stands in the environment, where
// other people of the machine do not read it.
func command(ctx context.Context, name, address string, args ...string) (*exec.Cmd, error) {
	p, err := program(name)
	if err != nil {
		return nil, err
	}
	cfg, err := store.Connection(address)
	if err != nil {
		return nil, err
	}
	cmd := exec.CommandContext(ctx, p, append(args, "--dbname", withoutPassword(address))...)
	cmd.Env = append(os.Environ(), "PGPASSWORD="+cfg.Password, "PGAPPNAME=maestrale backup")
	return cmd, nil
}

// withoutPassword leaves out of an address what programs of PostgreSQL must not or cannot read.
func withoutPassword(address string) string {
	u, err := url.Parse(address)
	if err != nil || u.Scheme == "" {
		var out []string
		for _, word := range strings.Fields(address) {
			if !strings.HasPrefix(word, "password=") && !strings.HasPrefix(word, "pool_") {
				out = append(out, word)
			}
		}
		return strings.Join(out, " ")
	}
	if u.User != nil {
		u.User = url.User(u.User.Username())
	}
	q := u.Query()
	for k := range q {
		if strings.HasPrefix(k, "pool_") || k == "password" {
			q.Del(k)
		}
	}
	u.RawQuery = q.Encode()
	return u.String()
}

// To makes a backup of the database at an address, which is the owner's, and writes it into a file that appears when it
// is whole. People go on working meanwhile: everything in it is of one moment. The database notes that it was made.
func To(ctx context.Context, address, file, why, version string, now time.Time) (*Made, error) {
	if _, err := os.Stat(file); err == nil {
		return nil, fmt.Errorf("%s is there already; expected the name of a new file", file)
	}
	part := file + ".part"
	f, err := os.OpenFile(part, os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o600)
	if err != nil {
		return nil, fmt.Errorf("backup: %w", err)
	}
	m, err := Write(ctx, address, f, why, version, now)
	if err == nil {
		err = f.Sync()
	}
	if err = errors.Join(err, f.Close()); err == nil {
		err = os.Rename(part, file)
	}
	if err != nil {
		_ = os.Remove(part)
		return nil, fmt.Errorf("backup to %s: %w", file, err)
	}
	m.File = file
	if err := Note(ctx, address, m); err != nil {
		return m, err
	}
	return m, nil
}

// Note tells the database that a backup was made, for the School page. One that is noted already is not noted twice.
func Note(ctx context.Context, address string, m *Made) error {
	conn, err := store.Connect(ctx, address)
	if err != nil {
		return err
	}
	defer func() { _ = conn.Close(ctx) }()
	_, err = conn.Exec(ctx, `INSERT INTO `+store.Schema+`.backups (id, at, file, bytes, sha256, why)
		SELECT $1, $2, $3, $4, $5, $6 WHERE NOT EXISTS (SELECT FROM `+store.Schema+`.backups WHERE file = $3 AND at = $2)`,
		store.NewID(), m.At, m.File, m.Bytes, m.SHA256[:], m.Why)
	if err != nil && m.Version >= firstNoted {
		return fmt.Errorf("the backup was made, and could not be noted: %w", err)
	}
	return nil
}

// firstNoted is the first version of the tables that notes backups.
const firstNoted = 25

// Write makes a backup and writes it.
func Write(ctx context.Context, address string, to io.Writer, why, version string, now time.Time) (*Made, error) {
	conn, err := store.Connect(ctx, address)
	if err != nil {
		return nil, err
	}
	defer func() { _ = conn.Close(context.WithoutCancel(ctx)) }()
	tx, err := conn.BeginTx(ctx, pgx.TxOptions{IsoLevel: pgx.RepeatableRead, AccessMode: pgx.ReadOnly})
	if err != nil {
		return nil, fmt.Errorf("begin: %w", err)
	}
	defer func() { _ = tx.Rollback(context.WithoutCancel(ctx)) }()
	m, err := look(ctx, tx)
	if err != nil {
		return nil, err
	}
	m.Format, m.At, m.Why, m.Program = Format, now.UTC().Truncate(time.Second), why, version
	var snapshot string
	if err := tx.QueryRow(ctx, `SELECT pg_export_snapshot()`).Scan(&snapshot); err != nil {
		return nil, fmt.Errorf("hold the moment: %w", err)
	}
	whole := &summed{to: to, sum: sha256.New()}
	z := zip.NewWriter(whole)
	head := zip.FileHeader{Name: dumpName, Method: zip.Store, Modified: m.At} // the dump is compressed already
	part, err := z.CreateHeader(&head)
	if err != nil {
		return nil, fmt.Errorf("write: %w", err)
	}
	dump := &summed{to: part, sum: sha256.New()}
	cmd, err := command(ctx, "pg_dump", address, "--format", "custom", "--schema", store.Schema, "--no-owner",
		"--snapshot",
		snapshot, "--compress", "5", "--no-password", "--lock-wait-timeout", "60s")
	if err != nil {
		return nil, err
	}
	if err := runWith(cmd, nil, dump); err != nil {
		return nil, err
	}
	m.Dump = Dump{dumpName, dump.n, hex.EncodeToString(dump.sum.Sum(nil))}
	words, err := json.MarshalIndent(m, "", "  ")
	if err != nil {
		return nil, fmt.Errorf("manifest: %w", err)
	}
	part, err = z.CreateHeader(&zip.FileHeader{Name: manifestName, Method: zip.Deflate, Modified: m.At})
	if err == nil {
		_, err = part.Write(words)
	}
	if err := errors.Join(err, z.Close()); err != nil {
		return nil, fmt.Errorf("write: %w", err)
	}
	return &Made{Manifest: *m, Bytes: whole.n, SHA256: [32]byte(whole.sum.Sum(nil))}, nil
}

// runWith runs a program; what it complained about is the error.
func runWith(cmd *exec.Cmd, in io.Reader, out io.Writer) error {
	var complaint bytes.Buffer
	cmd.Stdin, cmd.Stdout, cmd.Stderr = in, out, &complaint
	if err := cmd.Run(); err != nil {
		words := strings.TrimSpace(complaint.String())
		if len(words) > 600 {
			words = words[:600] + " …"
		}
		return fmt.Errorf("%s: %w: %s", filepath.Base(cmd.Path), err, words)
	}
	return nil
}

// summed counts and sums what goes through.
type summed struct {
	to  io.Writer
	sum hash.Hash
	n   int64
}

func (s *summed) Write(p []byte) (int, error) {
	n, err := s.to.Write(p)
	s.n += int64(n)
	s.sum.Write(p[:n])
	return n, err
}

// look counts what a database holds.
func look(ctx context.Context, tx pgx.Tx) (*Manifest, error) {
	m := &Manifest{Tables: []Table{}, Chains: []Chain{}}
	err := tx.QueryRow(ctx, `SELECT current_setting('server_version')`).Scan(&m.PostgreSQL)
	if err != nil {
		return nil, fmt.Errorf("look at the database: %w", err)
	}
	if m.Version, err = store.VersionOf(ctx, tx); err != nil {
		return nil, err
	}
	if m.Version == 0 {
		return nil, errors.New("there is no school in this database: it holds no tables of Maestrale")
	}
	rows, err := tx.Query(ctx, `SELECT tablename FROM pg_tables WHERE schemaname = $1 ORDER BY 1`, store.Schema)
	if err != nil {
		return nil, fmt.Errorf("look at the tables: %w", err)
	}
	names, err := pgx.CollectRows(rows, pgx.RowTo[string])
	if err != nil {
		return nil, fmt.Errorf("look at the tables: %w", err)
	}
	for _, name := range names {
		t := Table{Name: name}
		if err := tx.QueryRow(ctx, `SELECT count(*) FROM `+pgx.Identifier{store.Schema,
			name}.Sanitize()).Scan(&t.Rows); err != nil {
			return nil, fmt.Errorf("count %s: %w", name, err)
		}
		m.Tables = append(m.Tables, t)
	}
	rows, err = tx.Query(ctx, `SELECT DISTINCT ON (school_id, student_id) school_id::text, student_id::text, seq,
		encode(hash, 'hex') FROM `+store.Schema+`.chain ORDER BY school_id, student_id, seq DESC`)
	if err == nil {
		m.Chains, err = pgx.CollectRows(rows, pgx.RowToStructByPos[Chain])
	}
	if err != nil {
		return nil, fmt.Errorf("look at the chains: %w", err)
	}
	err = tx.QueryRow(ctx, `SELECT
		(SELECT count(*) FROM pg_tables WHERE schemaname = $1 AND rowsecurity),
		(SELECT count(*) FROM pg_policies WHERE schemaname = $1),
		(SELECT count(*) FROM pg_trigger g JOIN pg_class c ON c.oid = g.tgrelid
			WHERE c.relnamespace = $1::regnamespace AND NOT g.tgisinternal AND g.tgenabled = 'O'),
		(SELECT count(*) FROM pg_proc WHERE pronamespace = $1::regnamespace),
		(SELECT count(*) FROM information_schema.role_table_grants WHERE table_schema = $1 AND grantee = $2),
		(SELECT count(*) FROM pg_sequences WHERE schemaname = $1)`, store.Schema, store.Role).Scan(&m.Guards.RowSecurity,
		&m.Guards.Policies, &m.Guards.Triggers, &m.Guards.Functions, &m.Guards.Grants, &m.Guards.Sequences)
	if err != nil {
		return nil, fmt.Errorf("look at the guards: %w", err)
	}
	return m, nil
}
