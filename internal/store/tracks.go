package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/klauspost/compress/zstd"
)

// TrackFile is a flight log as it was given, and how its columns were read.
type TrackFile struct {
	File    []byte
	Reading Reading
}

// Reading says how a log was read.
type Reading struct {
	Rename     map[string]string `json:"rename,omitempty"`
	Semicolons bool              `json:"semicolons,omitempty"`
	Origin     *[3]float64       `json:"origin,omitempty"` // latitude, longitude, metres
	AwayDeg    float64           `json:"away_deg,omitempty"`
	Heights    string            `json:"heights,omitempty"` // sea or pad
	Part       *[2]float64       `json:"part,omitempty"`    // s of it, where it holds more than one flight
}

var (
	packer, _   = zstd.NewWriter(nil, zstd.WithEncoderLevel(zstd.SpeedDefault), zstd.WithEncoderConcurrency(1))
	unpacker, _ = zstd.NewReader(nil, zstd.WithDecoderConcurrency(0), zstd.WithDecoderMaxMemory(256<<20))
)

func (tx Tx) keepTrack(ctx context.Context, attempt string, t *TrackFile) (string, error) {
	reading, err := json.Marshal(t.Reading)
	if err != nil {
		return "", fmt.Errorf("keep the track: %w", err)
	}
	sum := sha256.Sum256(t.File)
	_, err = tx.Exec(ctx, `INSERT INTO tracks (attempt_id, school_id, sha256, file, file_bytes, reading) VALUES ($1, $2,
		$3, $4, $5, $6)`,
		attempt, tx.School, sum[:], packer.EncodeAll(t.File, nil), len(t.File), string(reading))
	if err != nil {
		return "", fmt.Errorf("keep the track: %w", err)
	}
	return hex.EncodeToString(sum[:]), nil
}

// Track reads the log of an attempt, or of the one that it corrects.
func (tx Tx) Track(ctx context.Context, attempt uuid.UUID) (*TrackFile, error) {
	var file []byte
	var reading string
	err := tx.QueryRow(ctx, `SELECT t.file, t.reading::text FROM attempts a
		JOIN tracks t ON t.attempt_id = coalesce(a.corrects, a.id) WHERE a.id = $1`, attempt).Scan(&file, &reading)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, ErrNotFound
	}
	if err != nil {
		return nil, fmt.Errorf("read the track: %w", err)
	}
	t := &TrackFile{}
	if t.File, err = unpacker.DecodeAll(file, nil); err != nil {
		return nil, fmt.Errorf("unpack the track: %w", err)
	}
	if err := json.Unmarshal([]byte(reading), &t.Reading); err != nil {
		return nil, fmt.Errorf("read the track: %w", err)
	}
	return t, nil
}

// Upload is a log that was given and not yet kept.
type Upload struct {
	ID        uuid.UUID
	StudentID uuid.UUID
	Name      string
	File      []byte
	At        time.Time
}

// AddUpload keeps a log until it is scored or thrown away; those of yesterday
// and before are forgotten.
func (tx Tx) AddUpload(ctx context.Context, u Upload, by uuid.UUID) error {
	if _, err := tx.Exec(ctx, `DELETE FROM uploads WHERE at < now() - interval '1 day'`); err != nil {
		return fmt.Errorf("forget old uploads: %w", err)
	}
	_, err := tx.Exec(ctx, `INSERT INTO uploads (id, school_id, student_id, account_id, name, file, file_bytes)
		VALUES ($1, $2, $3, $4, $5, $6, $7)`,
		u.ID, tx.School, u.StudentID, by, u.Name, packer.EncodeAll(u.File, nil), len(u.File))
	if err != nil {
		return fmt.Errorf("hold the upload: %w", err)
	}
	return nil
}

// Upload reads a log that is held.
func (tx Tx) Upload(ctx context.Context, id, student uuid.UUID) (Upload, error) {
	rows, err := tx.Query(ctx, `SELECT id, student_id, name, file, at FROM uploads WHERE id = $1 AND student_id = $2`, id,
		student)
	u, err := one[Upload](rows, err)
	if err != nil {
		return u, err
	}
	if u.File, err = unpacker.DecodeAll(u.File, nil); err != nil {
		return u, fmt.Errorf("unpack the upload: %w", err)
	}
	return u, nil
}

// DropUpload throws a held log away.
func (tx Tx) DropUpload(ctx context.Context, id uuid.UUID) error {
	if _, err := tx.Exec(ctx, `DELETE FROM uploads WHERE id = $1`, id); err != nil {
		return fmt.Errorf("throw the upload away: %w", err)
	}
	return nil
}

// Beside is an attempt that another can be compared with: one of the same drill that
// has a track.
type Beside struct {
	ID      uuid.UUID
	At      time.Time
	Side    string
	Aids    string
	Verdict string
	Margin  *float64
	Shown   string // who showed it: one of those who teach
}

// Beside lists the newest attempts of a student at a drill that have a track, and those
// that one who teaches has flown on the same type of craft.
func (tx Tx) Beside(ctx context.Context, student uuid.UUID, drill, craftType string, most int) ([]Beside, error) {
	rows, err := tx.Query(ctx, `SELECT a.id, a.at, a.side, a.aids, a.verdict, a.margin,
		CASE WHEN s.id <> $1 THEN s.name ELSE '' END AS shown
		FROM attempts a JOIN tracks t ON t.attempt_id = a.id JOIN students s ON s.id = a.student_id
		WHERE (s.id = $1 OR s.own_of IS NOT NULL AND a.craft_type = $4) AND a.drill = $2 AND a.corrects IS NULL
		AND a.verdict <> 'void' ORDER BY a.at DESC, a.id DESC LIMIT $3`, student, drill, most, craftType)
	list, err := many[Beside](rows, err)
	if err != nil {
		return nil, fmt.Errorf("list what it can be compared with: %w", err)
	}
	return list, nil
}
