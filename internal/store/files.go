package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// SchoolFile is a version of a drill or a programme of a school's own; an empty
// Source takes the own one back.
type SchoolFile struct {
	Format    string
	Key       string
	Version   int
	Source    string
	By        string
	WrittenAt time.Time
}

// ErrChanged is returned where somebody else has written a newer version than the one that was changed.
var ErrChanged = errors.New("somebody else has written a newer version")

// AddFileAfter is AddFile for a text that was made from a version; 0 is for none of the school's own.
func (tx Tx) AddFileAfter(ctx context.Context, by uuid.UUID, f SchoolFile, seen int) (version int, err error) {
	// Of two who write at once the second waits here, and then sees what the first has written.
	if _, err := tx.Exec(ctx, `SELECT pg_advisory_xact_lock(hashtextextended($1, 25))`,
		tx.School.String()+" "+f.Format+" "+f.Key); err != nil {
		return 0, fmt.Errorf("keep the file: %w", err)
	}
	var newest int
	if err := tx.QueryRow(ctx, `SELECT coalesce(max(version), 0) FROM school_files WHERE format = $1 AND key = $2`,
		f.Format,
		f.Key).Scan(&newest); err != nil {
		return 0, fmt.Errorf("keep the file: %w", err)
	}
	if newest != seen {
		return 0, ErrChanged
	}
	return tx.AddFile(ctx, by, f)
}

// AddFile keeps the next version of a file, and returns its number.
func (tx Tx) AddFile(ctx context.Context, by uuid.UUID, f SchoolFile) (version int, err error) {
	err = tx.QueryRow(ctx, `INSERT INTO school_files (id, school_id, format, key, version, source, account_id)
		SELECT $1, $2, $3, $4, coalesce(max(version), 0) + 1, $5, $6 FROM school_files WHERE format = $3 AND key = $4
		RETURNING version`,
		NewID(), tx.School, f.Format, f.Key, f.Source, by).Scan(&version)
	if err != nil {
		return 0, fmt.Errorf("keep the file: %w", err)
	}
	return version, nil
}

const fileColumns = `f.format, f.key, f.version, f.source, a.name AS by, ` +
	`f.written_at FROM school_files f JOIN accounts a ON a.id = f.account_id`

const filesSQL = `SELECT DISTINCT ON (f.format, f.key) ` + fileColumns + ` ORDER BY f.format, f.key, f.version DESC`

// Files are the files that are in force.
func (tx Tx) Files(ctx context.Context) ([]SchoolFile, error) {
	return tx.files(ctx, filesSQL)
}

// FileVersions are the versions of a file, the newest first.
func (tx Tx) FileVersions(ctx context.Context, format, key string) ([]SchoolFile, error) {
	return tx.files(ctx, `SELECT `+fileColumns+` WHERE f.format = $1 AND f.key = $2 ORDER BY f.version DESC`, format, key)
}

func (tx Tx) files(ctx context.Context, sql string, args ...any) ([]SchoolFile, error) {
	rows, err := tx.Query(ctx, sql, args...)
	if err == nil {
		var list []SchoolFile
		if list, err = pgx.CollectRows(rows, pgx.RowToStructByPos[SchoolFile]); err == nil {
			return list, nil
		}
	}
	return nil, fmt.Errorf("read the school's files: %w", err)
}
