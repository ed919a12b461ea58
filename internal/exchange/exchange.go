// Package exchange takes over records that another school has signed. What comes keeps
// its origin, and counts only as the chief instructor decides.
package exchange

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"

	"maestrale/core/drill"
	"maestrale/core/misread"
	"maestrale/core/record"
	"maestrale/core/score"
	"maestrale/internal/attempt"
	"maestrale/internal/store"
)

// Taking is a record that is taken over.
type Taking struct {
	Record  *record.Exported
	Found   *record.Verification
	File    []byte
	Student uuid.UUID // whose it is here
	By      uuid.UUID
	Counts  bool // as the chief decides
	Now     time.Time
	// Drills are those that are known here.
	Drills map[string]drill.Drill
}

// Taken is what came of it.
type Taken struct {
	New     int      // attempts that were not here
	Unknown []string // drills that are not known here: kept, and not counted
}

// ErrNotSound is returned for a record that does not verify.
var ErrNotSound = errors.New("the record does not verify")

// Take keeps the record as it came, and its attempts under the student. Nothing is kept of
// a record that does not verify, that is this school's own, or that holds an attempt of
// the future.
func Take(ctx context.Context, tx store.Tx, t Taking) (out Taken, err error) {
	if !t.Found.Sound {
		return out, fmt.Errorf("%w: %s", ErrNotSound, t.Found.Why)
	}
	own, _, err := tx.SchoolName(ctx)
	if err != nil {
		return out, err
	}
	from := t.Record.School
	if from == "" {
		from = "another school"
	}
	key, err := tx.SigningKey(ctx)
	if err != nil {
		return out, err
	}
	if pub, err := record.ReadKey(t.Found.Signature.Key); err == nil && pub.Equal(key.Public()) {
		return out, misread.At(0, "a record of another school", "the record was signed by %s itself", own)
	}
	var list []*attempt.Evidence
	unknown := map[string]bool{}
	for i, a := range t.Record.Attempts {
		if a.At.After(t.Now.Add(time.Hour)) {
			return out, misread.At(0, "a time that has come", "attempts[%d].at is %s", i, a.At.Format(time.RFC3339))
		}
		d, known := t.Drills[a.Drill]
		if !known {
			d = drill.Drill{Key: a.Drill}
			if !unknown[a.Drill] {
				unknown[a.Drill] = true
				out.Unknown = append(out.Unknown, a.Drill)
			}
		}
		n := &attempt.Evidence{Attempt: a, Student: t.Student, Drill: d, By: t.By, RecordedAt: t.Now, Result: resultOf(a,
			from),
			Claim: &attempt.Claim{School: from, Known: known, Accepted: t.Counts}}
		n.Origin = from
		n.ID = idOf(tx.School, t.Found.Signature.Key, a.ID)
		if a.Corrects != "" {
			n.Corrects = idOf(tx.School, t.Found.Signature.Key, a.Corrects)
		}
		list = append(list, n)
	}
	err = tx.AddImport(ctx, store.Import{ID: store.NewID(), StudentID: t.Student, From: from, Key: t.Found.Signature.Key,
		Attempts: len(list), Counts: t.Counts, At: t.Now}, t.By, t.File)
	if errors.Is(err, store.ErrTwice) {
		return out, misread.At(0, "a record that was not taken over yet", "this very file was taken over already")
	}
	if err != nil {
		return out, err
	}
	out.New, err = attempt.Recorder{}.KeepAll(ctx, tx, t.Student, list...)
	return out, err
}

// resultOf is what is known of the judging of another school's attempt: its verdict.
func resultOf(a record.Attempt, from string) *score.Result {
	return &score.Result{Format: "maestrale-result/1", Drill: a.Drill, Side: a.Side, CraftClass: string(a.CraftClass),
		Verdict: a.Verdict, Margin: a.Margin, Source: a.Source, Unjudged: []string{fmt.Sprintf(msgEverythingRecorded, from)},
		Steps: []score.StepResult{}, Faults: []score.Fault{}}
}

// idOf is the id of an attempt here, made of this school, the other's key and the id there:
// always the same, so that a newer record of the same student adds only what is new.
func idOf(school uuid.UUID, key, id string) string {
	return uuid.NewSHA1(school, []byte("maestrale-record:"+key+":"+id)).String()
}
