package attempt

import (
	"context"
	"strings"
	"time"

	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/record"
	"maestrale/core/score"
	"maestrale/internal/refusal"
	"maestrale/internal/store"
)

// paper stands before the name of who vouches for a pass on paper, where the record says who recorded it.
const paper = "paper: "

// Paper is a pass that was kept on paper.
type Paper struct {
	Student uuid.UUID
	At      time.Time
	Cell    drill.Cell
	Craft   craft.Type
	By      string // who vouches for it
}

// Evidence is what is stored of it: a pass without measures, that does not count until the chief instructor says so.
func (p Paper) Evidence(cat *drill.Catalogue, by uuid.UUID) *Evidence {
	d := cat.Drills[p.Cell.Drill]
	res := &score.Result{Format: "maestrale-result/1", Drill: d.Key, Side: p.Cell.Side, Level: p.Cell.Level,
		CraftClass: string(p.Craft.Class()), Verdict: score.Pass, Source: score.Claimed,
		Unjudged: []string{msgEverythingBroughtFrom}}
	return &Evidence{Attempt: record.Attempt{ID: store.NewID().String(), At: p.At, Drill: d.Key, Side: p.Cell.Side,
		Aids: p.Cell.Aids, Level: p.Cell.Level, CraftClass: p.Craft.Class(), CraftType: p.Craft.Key, Source: score.Claimed,
		Verdict: score.Pass, Frame: "nose", Eyes: "craft", Light: "day", Origin: paper + p.By}, Student: p.Student,
		Drill: d, Result: res, By: by, Silent: true, Claim: &Claim{Known: true, By: p.By}}
}

// Decide lets a pass on paper count, or takes that back: a correction that says who decided.
func (r Recorder) Decide(ctx context.Context, tx store.Tx, id uuid.UUID, counts bool) error {
	k, err := tx.Attempt(ctx, id)
	if err != nil {
		return err
	}
	if k.Source != score.Claimed {
		return refusal.Error(msgOnlyPassesBrought)
	}
	if k.Counts == counts {
		return nil
	}
	_, err = r.correct(ctx, tx, id, func(e *Evidence) {
		e.Claim = &Claim{Known: true, By: strings.TrimPrefix(e.Origin, paper), Accepted: counts}
	})
	return err
}
