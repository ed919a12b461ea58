package attempt

import (
	"context"
	"time"

	"github.com/google/uuid"

	"maestrale/core/marking"
	"maestrale/core/score"
	"maestrale/internal/store"
)

// Seen is what a spotter's device sends.
type Seen struct {
	ID     uuid.UUID `json:"id"`
	Mark   string    `json:"mark"`
	Toward string    `json:"toward"`
	From   *From     `json:"from"`
}

// Check finds what is wrong with it, in a sentence; it is empty if nothing is.
func (in *Seen) Check() string {
	switch in.Mark {
	case "in", "out", "call", "traffic", "stop":
	default:
		return msgSpotterSeesPosition
	}
	switch in.Toward {
	case "", "left", "right", "away", "toward", "up", "down":
	default:
		return msgLeftLeftRight
	}
	if in.ID == uuid.Nil || in.From == nil || len(in.From.Stretches) > maxStretches {
		return msgNoIdUuid
	}
	return ""
}

// Spot keeps what a spotter saw, and adds it to the attempt that is marked at that moment.
func (r Recorder) Spot(ctx context.Context, tx store.Tx, student uuid.UUID, in Seen) error {
	if err := tx.Lock(ctx, student); err != nil {
		return err
	}
	at := r.Now()
	if m, ok := marking.DateOf(in.From.Stretches, in.From.Stretch, in.From.MonoMs); ok && m.At.Before(at) {
		at = m.At
	}
	if err := tx.AddSighting(ctx, store.Sighting{ID: in.ID, Student: student, At: at.Truncate(time.Microsecond),
		Mark: in.Mark, Toward: in.Toward, SeenBy: r.By.ID}); err != nil {
		return err
	}
	open, err := tx.OpenOf(ctx, student, at)
	if err != nil || len(open) == 0 {
		return err
	}
	return r.merge(ctx, tx, open[0], at)
}

// merge adds to an attempt what spotters saw from its beginning to a moment: two who look at one craft are merged by
// time. What comes after the attempt has ended is shown beside it, and changes nothing.
func (r Recorder) merge(ctx context.Context, tx store.Tx, o store.Opening, until time.Time) error {
	list, err := tx.Sightings(ctx, o.StudentID, o.At(), until)
	if err != nil {
		return err
	}
	for _, s := range list {
		if m, ok := s.MarkOf(o.At()); ok {
			if err := tx.AddMarks(ctx, o.ID, s.SeenBy, []score.Mark{m}); err != nil {
				return err
			}
		}
	}
	return nil
}
