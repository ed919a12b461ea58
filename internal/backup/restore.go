package backup

import (
	"archive/zip"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"time"

	"github.com/jackc/pgx/v5"

	"maestrale/core/record"
	"maestrale/internal/store"
)

// maxManifest is the largest manifest that is read: one of some 200,000 students.
const maxManifest = 64 << 20

// Archive is a backup that was opened and found whole.
type Archive struct {
	Manifest
	z *zip.ReadCloser
}

// Open opens a backup, and compares its sums with its manifest.
func Open(file string) (a *Archive, err error) {
	z, err := zip.OpenReader(file)
	if err != nil {
		return nil, fmt.Errorf("%s: %w; expected a backup, as maestrale backup writes it", file, err)
	}
	defer func() {
		if err != nil {
			_ = z.Close()
			a, err = nil, fmt.Errorf("%s: %w", file, err)
		}
	}()
	a = &Archive{z: z}
	m, err := z.Open(manifestName)
	if err != nil {
		return a, errors.New("there is no manifest in it; expected a backup, as maestrale backup writes it")
	}
	words, err := io.ReadAll(io.LimitReader(m, maxManifest))
	if err = errors.Join(err, m.Close()); err != nil {
		return a, fmt.Errorf("its manifest is damaged: %w", err)
	}
	if err := json.Unmarshal(words, &a.Manifest); err != nil {
		return a, fmt.Errorf("its manifest cannot be read: %w", err)
	}
	if a.Format != Format {
		return a, fmt.Errorf("its format is %q; expected %s", a.Format, Format)
	}
	d, err := z.Open(dumpName)
	if err != nil {
		return a, errors.New("there is no database in it; it is not whole")
	}
	sum := sha256.New()
	n, err := io.Copy(sum, d)
	if err = errors.Join(err, d.Close()); err != nil {
		return a, fmt.Errorf("it is damaged: %w", err)
	}
	if got := hex.EncodeToString(sum.Sum(nil)); got != a.Dump.SHA256 || n != a.Dump.Bytes {
		return a, fmt.Errorf("it is damaged: its database has %d bytes with SHA-256 %s; expected %d with %s", n, got,
			a.Dump.Bytes, a.Dump.SHA256)
	}
	return a, nil
}

// Close closes the file.
func (a *Archive) Close() error { return a.z.Close() }

// Proof is what was compared after a restore.
type Proof struct {
	Tables   int           `json:"tables"`
	Rows     int64         `json:"rows"`
	Chains   int           `json:"chains"`
	Entries  int64         `json:"chain_entries"`
	Guards   Guards        `json:"guards"`
	Migrated bool          `json:"brought_up_to_date"` // the backup was of an older version
	Page     string        `json:"page_served"`
	Took     time.Duration `json:"-"`
}

// Restore puts a backup into the empty database at an address, which is the owner's, compares the copy with the
// manifest entry by entry, and lets served serve a page of it. What is not the same is taken out again.
func (a *Archive) Restore(ctx context.Context, address string, served func(context.Context) (string, error)) (p Proof,
	err error) {
	begun := time.Now()
	if a.Version > store.Newest() {
		return p, fmt.Errorf("this backup is newer than this program: its tables have version %d, and this program knows "+
			"%d; "+
			"install the newer program", a.Version, store.Newest())
	}
	if err := store.Empty(ctx, address); err != nil {
		return p, err
	}
	if err := store.MakeRole(ctx, address); err != nil {
		return p, err
	}
	defer func() {
		if err != nil { // a copy by half would be taken for whole
			err = errors.Join(err, store.Reset(context.WithoutCancel(ctx), address))
		}
	}()
	dump, err := a.z.Open(dumpName)
	if err != nil {
		return p, fmt.Errorf("read the backup: %w", err)
	}
	defer func() { _ = dump.Close() }()
	cmd, err := command(ctx, "pg_restore", address, "--no-owner", "--exit-on-error", "--single-transaction",
		"--no-password")
	if err != nil {
		return p, err
	}
	if err := runWith(cmd, dump, nil); err != nil {
		return p, err
	}
	if p, err = a.compare(ctx, address); err != nil {
		return p, err
	}
	p.Migrated = a.Version < store.Newest()
	// Also where nothing is to be brought up to date: a dump does not carry what the database denies to everybody.
	if err := store.Migrate(ctx, address); err != nil {
		return p, err
	}
	if p.Page, err = served(ctx); err != nil {
		return p, fmt.Errorf("the copy was made, and no page of it could be served: %w", err)
	}
	p.Took = time.Since(begun)
	return p, nil
}

// compare compares a copy with the manifest: rows, guards, and every chain, whose hashes are computed anew.
func (a *Archive) compare(ctx context.Context, address string) (p Proof, err error) {
	conn, err := store.Connect(ctx, address)
	if err != nil {
		return p, err
	}
	defer func() { _ = conn.Close(ctx) }()
	if _, err := conn.Exec(ctx, "ANALYZE"); err != nil {
		return p, fmt.Errorf("count the rows: %w", err)
	}
	err = pgx.BeginTxFunc(ctx, conn, pgx.TxOptions{AccessMode: pgx.ReadOnly}, func(tx pgx.Tx) error {
		got, err := look(ctx, tx)
		if err != nil {
			return err
		}
		if err := a.Manifest.differs(got); err != nil {
			return err
		}
		p = Proof{Tables: len(got.Tables), Chains: len(got.Chains), Guards: got.Guards}
		for _, t := range got.Tables {
			p.Rows += t.Rows
		}
		p.Entries, err = verifyChains(ctx, tx)
		return err
	})
	return p, err
}

// differs names the first difference between what a backup says and what a copy holds.
func (m *Manifest) differs(got *Manifest) error {
	for i, t := range m.Tables {
		if i >= len(got.Tables) || got.Tables[i] != t {
			return fmt.Errorf("the copy is not the same: table %s with %d rows is not as it was", t.Name, t.Rows)
		}
	}
	if len(got.Tables) != len(m.Tables) {
		return fmt.Errorf("the copy is not the same: it has %d tables, and the backup %d", len(got.Tables), len(m.Tables))
	}
	if !slices.Equal(m.Chains, got.Chains) {
		return errors.New("the copy is not the same: the chains of the records do not end as they did")
	}
	if m.Guards != got.Guards {
		return fmt.Errorf("the copy is not guarded as it was: %+v; expected %+v", got.Guards, m.Guards)
	}
	return nil
}

// verifyChains computes every hash of every chain anew.
func verifyChains(ctx context.Context, tx pgx.Tx) (entries int64, err error) {
	rows, err := tx.Query(ctx, `SELECT student_id::text, seq, kind, entry_id::text, body::text, hash FROM `+store.Schema+
		`.chain ORDER BY school_id, student_id, seq`)
	if err != nil {
		return 0, fmt.Errorf("read the chains: %w", err)
	}
	var l record.Link
	var body string
	var sum []byte
	prev, of, next := record.Hash{}, "", int64(1)
	_, err = pgx.ForEachRow(rows, []any{&l.Student, &l.Seq, &l.Kind, &l.ID, &body, &sum}, func() error {
		if l.Student != of {
			prev, of, next = record.Hash{}, l.Student, 1
		}
		l.Body = json.RawMessage(body)
		got, err := l.Sum(prev)
		if err != nil {
			return err
		}
		if l.Seq != next || got != record.Hash(sum) {
			return fmt.Errorf("the chain of student %s does not hold at entry %d", l.Student, l.Seq)
		}
		prev = got
		next++
		entries++
		return nil
	})
	if err != nil {
		return entries, fmt.Errorf("verify the chains: %w", err)
	}
	return entries, nil
}
