package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"maestrale/core/score"
)

// VoiceNote is what was said while an attempt was flown.
type VoiceNote struct {
	ID       uuid.UUID
	Student  uuid.UUID
	Attempt  uuid.UUID
	TS       float64 // from the attempt's beginning
	Seconds  float64
	Mime     string
	SpokenBy uuid.UUID
	By       string
}

// AddVoice keeps a voice note. The same again changes nothing, and one that was deleted stays deleted.
func (tx Tx) AddVoice(ctx context.Context, n VoiceNote, sound []byte) error {
	_, err := tx.Exec(ctx, `INSERT INTO voice_notes (id, school_id, student_id, attempt_id, t_s, seconds, mime, sound,
		spoken_by) SELECT $1, $2, $3, $4, $5, $6, $7, $8, $9
		WHERE NOT EXISTS (SELECT FROM voice_notes_gone g WHERE g.id = $1) ON CONFLICT (id) DO NOTHING`,
		n.ID, tx.School, n.Student, n.Attempt, n.TS, n.Seconds, n.Mime, sound, n.SpokenBy)
	if violates(err, foreignKeyViolation) {
		return ErrNotFound
	}
	if err != nil {
		return fmt.Errorf("keep the voice note: %w", err)
	}
	return nil
}

const voiceQuery = `SELECT v.id, v.student_id, v.attempt_id, v.t_s, v.seconds, v.mime, v.spoken_by, a.name
	FROM voice_notes v JOIN accounts a ON a.id = v.spoken_by `

// VoiceOf lists the voice notes of an attempt, in the order of their moments.
func (tx Tx) VoiceOf(ctx context.Context, attempt uuid.UUID) ([]VoiceNote, error) {
	rows, err := tx.Query(ctx, voiceQuery+`WHERE v.attempt_id = $1 ORDER BY v.t_s, v.id`, attempt)
	return many[VoiceNote](rows, err)
}

// Voice finds a voice note.
func (tx Tx) Voice(ctx context.Context, id uuid.UUID) (VoiceNote, error) {
	rows, err := tx.Query(ctx, voiceQuery+`WHERE v.id = $1`, id)
	return one[VoiceNote](rows, err)
}

// Sound is what a voice note sounds like.
func (tx Tx) Sound(ctx context.Context, id uuid.UUID) (sound []byte, err error) {
	err = tx.QueryRow(ctx, `SELECT sound FROM voice_notes WHERE id = $1`, id).Scan(&sound)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, ErrNotFound
	}
	if err != nil {
		return nil, fmt.Errorf("read the voice note: %w", err)
	}
	return sound, nil
}

// DropVoice deletes a voice note for good.
func (tx Tx) DropVoice(ctx context.Context, id, by uuid.UUID) error {
	_, err := tx.Exec(ctx, `INSERT INTO voice_notes_gone (id, school_id, gone_by) VALUES ($1, $2, $3)
		ON CONFLICT (id) DO NOTHING`, id, tx.School, by)
	if err == nil {
		_, err = tx.Exec(ctx, `DELETE FROM voice_notes WHERE id = $1`, id)
	}
	if err != nil {
		return fmt.Errorf("delete the voice note: %w", err)
	}
	return nil
}

// dropVoices deletes every voice note of a student.
func (tx Tx) dropVoices(ctx context.Context, student, by uuid.UUID) error {
	if _, err := tx.Exec(ctx, `WITH gone AS (DELETE FROM voice_notes WHERE student_id = $1 RETURNING id)
		INSERT INTO voice_notes_gone (id, school_id, gone_by) SELECT id, $2, $3 FROM gone`, student, tx.School,
		by); err != nil {
		return fmt.Errorf("delete the voice notes: %w", err)
	}
	return nil
}

// Sighting is what a spotter saw, or called.
type Sighting struct {
	ID      uuid.UUID
	Student uuid.UUID
	At      time.Time
	Mark    string // in, out, call, traffic or stop
	Toward  string
	SeenBy  uuid.UUID
	By      string
}

// AddSighting keeps what a spotter saw; the same again changes nothing.
func (tx Tx) AddSighting(ctx context.Context, s Sighting) error {
	_, err := tx.Exec(ctx, `INSERT INTO sightings (id, school_id, student_id, at, mark, toward, seen_by)
		VALUES ($1, $2, $3, $4, $5, $6, $7) ON CONFLICT (id) DO NOTHING`, s.ID, tx.School, s.Student, s.At, s.Mark, s.Toward,
		s.SeenBy)
	if violates(err, foreignKeyViolation) {
		return ErrNotFound
	}
	if err != nil {
		return fmt.Errorf("keep what the spotter saw: %w", err)
	}
	return nil
}

// Sightings lists what spotters saw of a student in a time, oldest first.
func (tx Tx) Sightings(ctx context.Context, student uuid.UUID, from, to time.Time) ([]Sighting, error) {
	rows, err := tx.Query(ctx, `SELECT s.id, s.student_id, s.at, s.mark, s.toward, s.seen_by, a.name FROM sightings s
		JOIN accounts a ON a.id = s.seen_by WHERE s.student_id = $1 AND s.at BETWEEN $2 AND $3 ORDER BY s.at, s.id`, student,
		from, to)
	return many[Sighting](rows, err)
}

// OpenOf are the attempts of a student that are being marked and began before a moment, the newest first.
func (tx Tx) OpenOf(ctx context.Context, student uuid.UUID, before time.Time) ([]Opening, error) {
	rows, err := tx.Query(ctx, `SELECT `+openingColumns+` FROM openings o WHERE o.student_id = $1
		AND coalesce(o.began_at, o.device_at) BETWEEN $2::timestamptz - interval '1 hour' AND $2
		AND NOT EXISTS (SELECT FROM attempts a WHERE a.id = o.id) ORDER BY coalesce(o.began_at, o.device_at) DESC`,
		student, before)
	return many[Opening](rows, err)
}

// MarkOf is a sighting as a mark of an attempt that began at a moment; false for what is no mark.
func (s Sighting) MarkOf(began time.Time) (score.Mark, bool) {
	switch s.Mark {
	case "in", "out", "call":
		return score.Mark{ID: s.ID.String(), TS: s.At.Sub(began).Seconds(), Mark: s.Mark, Toward: s.Toward}, true
	}
	return score.Mark{}, false
}
