package attempt

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"

	"maestrale/core/drill"
	"maestrale/core/score"
	"maestrale/internal/refusal"
	"maestrale/internal/store"
)

// Void corrects an attempt to void, for a reason. It returns the correction, and store.ErrAlreadyCorrected for an
// attempt that has one.
func (r Recorder) Void(ctx context.Context, tx store.Tx, id uuid.UUID, reason string) (Kept, error) {
	return r.correct(ctx, tx, id, func(e *Evidence) {
		e.Result.Verdict, e.Result.VoidReason, e.Result.Margin = score.Void, reason, nil
		e.Verdict, e.Margin = score.Void, nil
	})
}

// Redate corrects when an attempt was flown.
func (r Recorder) Redate(ctx context.Context, tx store.Tx, id uuid.UUID, at time.Time) error {
	if at.After(r.Now()) {
		return refusal.Error(msgAttemptNotFlown)
	}
	_, err := r.correct(ctx, tx, id, func(e *Evidence) { e.At = at })
	return err
}

// Settle decides which of two attempts of the same flight stands. The other becomes void; the one that stands is
// counted as it was flown.
func (r Recorder) Settle(ctx context.Context, tx store.Tx, conflict, stands uuid.UUID) error {
	k, err := tx.OneConflict(ctx, conflict)
	if err != nil {
		return err
	}
	other := k.FirstID
	if stands == k.FirstID {
		other = k.SecondID
	} else if stands != k.SecondID {
		return store.ErrNotFound
	}
	if _, err := r.Void(ctx, tx, other, msgMarkedTwiceOther); err != nil {
		return err
	}
	if stands == k.SecondID { // it did not count while nobody had decided
		if _, err := r.correct(ctx, tx, stands, func(*Evidence) {}); err != nil {
			return err
		}
	}
	return tx.Settle(ctx, conflict, stands, r.By.ID)
}

// correct stores a correction of an attempt.
func (r Recorder) correct(ctx context.Context, tx store.Tx, id uuid.UUID, change func(*Evidence)) (Kept, error) {
	k, err := tx.Attempt(ctx, id)
	if err != nil {
		return Kept{}, err
	}
	if k.CorrectedBy != nil {
		return Kept{}, store.ErrAlreadyCorrected
	}
	d, err := drill.Parse(k.DrillSource)
	if err != nil {
		return Kept{}, fmt.Errorf("the drill as it was flown: %w", err)
	}
	res := k.Result
	e := Evidence{Attempt: k.Attempt, Student: k.StudentID, Drill: d, By: r.By.ID, Course: k.CourseSource, Result: &res,
		Silent: true}
	e.CraftType = k.CraftType
	e.ID, e.Corrects = store.NewID().String(), k.ID
	change(&e)
	return r.Keep(ctx, tx, e)
}
