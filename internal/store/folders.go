package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
)

// LogFolder is the logs of a field day that somebody gave in one go.
type LogFolder struct {
	ID     uuid.UUID
	DayID  uuid.UUID
	At     time.Time
	Found  *string // JSON of what is in them; nil until it was looked for
	KeptAt *time.Time
	Files  int
	Bytes  int64
}

// DayOfLogs is a field day whose logs can be given.
type DayOfLogs struct {
	ID     uuid.UUID
	Starts time.Time
	Ends   time.Time
}

// DayOfLogs finds one of them.
func (tx Tx) DayOfLogs(ctx context.Context, id uuid.UUID) (DayOfLogs, error) {
	rows, err := tx.Query(ctx, `SELECT id, starts, ends FROM field_days WHERE id = $1`, id)
	return one[DayOfLogs](rows, err)
}

// DaysOfLogs are the field days of a time that have begun, the newest first.
func (tx Tx) DaysOfLogs(ctx context.Context, from, now time.Time) ([]DayOfLogs, error) {
	rows, err := tx.Query(ctx, `SELECT id, starts, ends FROM field_days WHERE starts BETWEEN $1 AND $2
		ORDER BY starts DESC`, from, now)
	return many[DayOfLogs](rows, err)
}

// FolderLog is one file of a folder.
type FolderLog struct {
	Name      string
	ChangedAt *time.Time
	File      []byte
}

// What a folder holds at most.
const (
	MostFolderLogs  = 200
	MostFolderBytes = 512 << 20
)

// ErrFolderFull is returned where a folder would hold more than it may.
var ErrFolderFull = errors.New("the folder is full")

// ErrFolderSorted is a folder that was sorted already: nothing is added to it.
var ErrFolderSorted = errors.New("the folder was sorted already")

// BeginFolder begins a folder; those of yesterday and before are forgotten. One that is there is left as it is.
func (tx Tx) BeginFolder(ctx context.Context, id, day, by uuid.UUID) error {
	if _, err := tx.Exec(ctx, `DELETE FROM log_folders WHERE at < now() - interval '1 day'`); err != nil {
		return fmt.Errorf("forget old folders: %w", err)
	}
	_, err := tx.Exec(ctx, `INSERT INTO log_folders (id, school_id, account_id, day_id) VALUES ($1, $2, $3, $4)
		ON CONFLICT (id) DO NOTHING`, id, tx.School, by, day)
	if err != nil {
		return fmt.Errorf("begin the folder: %w", err)
	}
	return nil
}

// Folder finds a folder of a person, and holds it until the transaction ends: two tabs do one thing after the other.
func (tx Tx) Folder(ctx context.Context, id, by uuid.UUID) (LogFolder, error) {
	rows, err := tx.Query(ctx, `SELECT f.id, f.day_id, f.at, f.found, f.kept_at,
		(SELECT count(*) FROM folder_logs l WHERE l.folder_id = f.id),
		(SELECT coalesce(sum(l.file_bytes), 0)::bigint FROM folder_logs l WHERE l.folder_id = f.id)
		FROM log_folders f WHERE f.id = $1 AND f.account_id = $2 FOR UPDATE OF f`, id, by)
	return one[LogFolder](rows, err)
}

// AddToFolder puts a file into a folder; one of the same name takes its place.
func (tx Tx) AddToFolder(ctx context.Context, f LogFolder, l FolderLog) error {
	if f.Files >= MostFolderLogs || f.Bytes+int64(len(l.File)) > MostFolderBytes {
		return ErrFolderFull
	}
	_, err := tx.Exec(ctx, `INSERT INTO folder_logs (folder_id, school_id, name, changed_at, file, file_bytes)
		VALUES ($1, $2, $3, $4, $5, $6) ON CONFLICT (folder_id, name)
		DO UPDATE SET changed_at = $4, file = $5, file_bytes = $6`,
		f.ID, tx.School, l.Name, l.ChangedAt, packer.EncodeAll(l.File, nil), len(l.File))
	if err != nil {
		return fmt.Errorf("hold the log: %w", err)
	}
	return nil
}

// FolderLogs reads the files of a folder, by name.
func (tx Tx) FolderLogs(ctx context.Context, id uuid.UUID) ([]FolderLog, error) {
	rows, err := tx.Query(ctx, `SELECT name, changed_at, file FROM folder_logs WHERE folder_id = $1 ORDER BY name`, id)
	list, err := many[FolderLog](rows, err)
	for i := range list {
		if list[i].File, err = unpacker.DecodeAll(list[i].File, nil); err != nil {
			return nil, fmt.Errorf("unpack %s: %w", list[i].Name, err)
		}
	}
	return list, err
}

// FolderFound keeps what was found in a folder; kept says that it became attempts.
func (tx Tx) FolderFound(ctx context.Context, id uuid.UUID, found string, kept bool) error {
	_, err := tx.Exec(ctx, `UPDATE log_folders SET found = $2, kept_at = CASE WHEN $3 THEN now() ELSE kept_at END
		WHERE id = $1`, id, found, kept)
	if err != nil {
		return fmt.Errorf("keep what was found: %w", err)
	}
	return nil
}

// DropFolder throws a folder away.
func (tx Tx) DropFolder(ctx context.Context, id, by uuid.UUID) error {
	if _, err := tx.Exec(ctx, `DELETE FROM log_folders WHERE id = $1 AND account_id = $2`, id, by); err != nil {
		return fmt.Errorf("throw the folder away: %w", err)
	}
	return nil
}

// KeptLogs are the check sums of the logs that attempts since a moment were made of.
func (tx Tx) KeptLogs(ctx context.Context, since time.Time) (map[[32]byte]bool, error) {
	rows, err := tx.Query(ctx, `SELECT DISTINCT t.sha256 FROM tracks t JOIN attempts a ON a.id = t.attempt_id
		WHERE a.at > $1 AND a.source = 'track'`, since)
	sums, err := many[struct{ Sum []byte }](rows, err)
	out := map[[32]byte]bool{}
	for _, s := range sums {
		out[[32]byte(s.Sum)] = true
	}
	return out, err
}

// MarkedAttempt is an attempt that was marked by eye, with when it was flown.
type MarkedAttempt struct {
	ID        uuid.UUID
	StudentID uuid.UUID
	CraftType string
	Drill     string
	Side      string
	Aids      string
	Level     int
	From      time.Time
	To        time.Time
	Verdict   string
	By        string
}

// MarkedBetween are the attempts that were marked by eye and begun in a time, and stand.
func (tx Tx) MarkedBetween(ctx context.Context, from, to time.Time) ([]MarkedAttempt, error) {
	rows, err := tx.Query(ctx, `SELECT a.id, a.student_id, coalesce(a.craft_type, ''), a.drill, a.side, a.aids, a.level,
		a.at, a.at + make_interval(secs => coalesce(a.until_s,
			(SELECT max(m.t_s) FROM marks m WHERE m.opening_id = a.id), 0)), a.verdict, b.name
		FROM attempts a JOIN accounts b ON b.id = a.recorded_by
		WHERE a.source = 'observed' AND a.verdict <> 'void' AND a.corrects IS NULL AND a.at BETWEEN $1 AND $2
		AND NOT EXISTS (SELECT FROM attempts c WHERE c.corrects = a.id) ORDER BY a.at`, from, to)
	return many[MarkedAttempt](rows, err)
}

// BothJudged is an attempt that somebody marked and a log holds too.
type BothJudged struct {
	By    uuid.UUID
	Name  string
	Drill string
	Eye   string
	Log   string
	Found string // the log's result, as JSON
}

// JudgedByBoth are all attempts that somebody marked and a log holds too, as each of the two said at first.
func (tx Tx) JudgedByBoth(ctx context.Context) ([]BothJudged, error) {
	rows, err := tx.Query(ctx, `SELECT e.recorded_by, b.name, e.drill, e.verdict, l.verdict, l.result::text
		FROM conflicts c
		JOIN attempts e ON e.id IN (c.first_id, c.second_id) AND e.source = 'observed'
		JOIN attempts l ON l.id IN (c.first_id, c.second_id) AND l.source = 'track'
		JOIN accounts b ON b.id = e.recorded_by
		WHERE e.drill = l.drill AND e.side = l.side AND e.level = l.level AND e.verdict IN ('pass', 'fail')
		AND l.verdict IN ('pass', 'fail') ORDER BY b.name, e.drill, e.at`)
	return many[BothJudged](rows, err)
}

// ConflictOf finds the conflict that an attempt is in and nobody has settled.
func (tx Tx) ConflictOf(ctx context.Context, attempt uuid.UUID) (Conflict, error) {
	rows, err := tx.Query(ctx, conflictQuery+`AND $1 IN (c.first_id, c.second_id) LIMIT 1`, attempt)
	return one[Conflict](rows, err)
}
