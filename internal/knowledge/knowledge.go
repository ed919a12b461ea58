// Package knowledge reads what is known about a student from the school's records. It is the one way in for the
// screens; the rules themselves are in core/readiness.
package knowledge

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/orient"
	"maestrale/core/readiness"
	"maestrale/core/record"
	"maestrale/core/score"
	"maestrale/internal/refusal"
	"maestrale/internal/store"
)

// Book reads about the students of one school.
type Book struct {
	Cat  *drill.Catalogue
	Now  func() time.Time
	Zone *time.Location // the school's
	// Shelf holds views that were read before; nil = none are held.
	Shelf *Shelf
}

// Student is a student with all that is known about them.
type Student struct {
	*readiness.Known
	Student store.Student
	Fitted  store.LearningFit // how the school's students learn
	// With and Without are the seconds flown inside tolerance by sector of the ring, with position hold and without.
	With, Without []float32
}

// Of reads a student.
func (b Book) Of(ctx context.Context, tx store.Tx, id uuid.UUID) (*Student, error) {
	st, err := tx.StudentWhole(ctx, id)
	if err != nil {
		return nil, err
	}
	e := b.NoEvidence()
	e.Expect(st.Fit.Prior)
	if err = tx.Evidence(ctx, []uuid.UUID{id}, func(_ uuid.UUID, a *record.Attempt) { e.Add(a) }); err != nil {
		return nil, err
	}
	seen, signs, err := tx.Decisions(ctx, id)
	if err != nil {
		return nil, err
	}
	s := b.Judge(st.Student, e)
	s.Seen, s.Signs, s.Fitted, s.With, s.Without = seen, signs, st.Fit, st.With, st.Without
	return s, nil
}

// Around reads a student as they stood without one attempt, and as they stand with it. Now is the moment for both.
func (b Book) Around(
	ctx context.Context, tx store.Tx, st store.Student, attempt string, now time.Time,
) (before, after *Student, err error) {
	without, with := readiness.NewEvidence(nil, now, b.Zone), readiness.NewEvidence(nil, now, b.Zone)
	err = tx.Evidence(ctx, []uuid.UUID{st.ID}, func(_ uuid.UUID, a *record.Attempt) {
		with.Add(a)
		if a.ID != attempt {
			without.Add(a)
		}
	})
	if err != nil {
		return nil, nil, err
	}
	seen, signs, err := tx.Decisions(ctx, st.ID)
	if err != nil {
		return nil, nil, err
	}
	before, after = b.Judge(st, without), b.Judge(st, with)
	before.Seen, before.Signs, after.Seen, after.Signs = seen, signs, seen, signs
	return before, after, nil
}

// NoEvidence begins a body of evidence as of now. Whether an attempt counts was decided when it was recorded, by
// the drill as it was then.
func (b Book) NoEvidence() *readiness.Evidence { return readiness.NewEvidence(nil, b.Now(), b.Zone) }

// Judge holds a student's evidence to the rules.
func (b Book) Judge(st store.Student, e *readiness.Evidence) *Student {
	return &Student{Known: readiness.Know(b.Cat, st.Programme, st.CraftType, e, nil, nil), Student: st}
}

// IsOpen refuses a drill that is closed to a student.
func (b Book) IsOpen(ctx context.Context, tx store.Tx, s *Student, d drill.Drill) error {
	if d.Closed == drill.Open {
		return nil
	}
	set, err := tx.Settings(ctx)
	if err != nil {
		return err
	}
	if why := s.Shut(d, set.HandCatch); why != "" {
		return refusal.Error(why + ".")
	}
	return nil
}

// Advice is what the rules for a session say about a student now: stuck, tired or tense. It is empty for nothing.
func (b Book) Advice(ctx context.Context, tx store.Tx, student uuid.UUID) (out []string, err error) {
	list, err := tx.Latest(ctx, student, 40)
	if err != nil {
		return nil, err
	}
	now := b.Now()
	feels, err := tx.Feels(ctx, student, now.Add(-tenseFor))
	if err != nil {
		return nil, err
	}
	var flown []record.Attempt
	for _, f := range list {
		flown = append(flown, f.Attempt)
	}
	session := readiness.Session(flown, now, b.Zone)
	for _, a := range readiness.Advise(session, readiness.Feeling(feels), b.Cat.Drills) {
		out = append(out, a.Words)
	}
	return out, nil
}

// MostCalls is how many of the newest calls are used to estimate how far a student can tell nose from tail.
const MostCalls = 300

// Sight estimates how far a student can tell the nose of the craft that they fly from its tail, in this light.
func (b Book) Sight(ctx context.Context, tx store.Tx, student uuid.UUID, light string) (orient.Sight, error) {
	st, err := tx.Student(ctx, student)
	if err != nil {
		return orient.Sight{}, err
	}
	return b.SightOn(ctx, tx, student, b.Cat.Craft[st.CraftType], orient.LightOf(light))
}

// SightOn is Sight for a craft type that is named. It is zero for a craft whose file says no cue.
func (b Book) SightOn(
	ctx context.Context, tx store.Tx, student uuid.UUID, kind craft.Type, light orient.Light,
) (orient.Sight, error) {
	if kind.CueSpaceM <= 0 {
		return orient.Sight{}, nil
	}
	calls, err := tx.Calls(ctx, student, kind.Key, MostCalls)
	if err != nil {
		return orient.Sight{}, err
	}
	x, err := sightOf(kind.CueSpaceM, light, store.OrientCalls(calls))
	if err != nil {
		return x, fmt.Errorf("the visual range: %w", err)
	}
	return x, nil
}

// TellM is how far in metres a student can tell nose from tail by day; 0 where the craft's file says no cue.
func (b Book) TellM(ctx context.Context, tx store.Tx, student uuid.UUID) (float64, error) {
	x, err := b.Sight(ctx, tx, student, "")
	return x.TellM, err
}

// LostRuns are runs of the lost-craft trainer as core/orient reads them.
func LostRuns(list []store.LostRun) (out []orient.Run) {
	for _, r := range list {
		x := orient.Run{Level: r.Lost, Drill: r.Drill, Pass: r.Verdict == string(score.Pass), Coached: r.Coach,
			Ended: r.HomeS != nil}
		if r.HomeS != nil {
			x.HomeS = *r.HomeS
		}
		if r.LostM != nil {
			x.LostM = *r.LostM
		}
		if r.Wrong != nil {
			x.Wrong = *r.Wrong
		}
		out = append(out, x)
	}
	return out
}

// Onlookers says whether a student, or with a nil id everybody of the school, passes more or less while people look
// on; empty where nobody knows.
func Onlookers(ctx context.Context, tx store.Tx, student *uuid.UUID) (string, error) {
	rows, err := tx.WatchedOrAlone(ctx, student)
	if err != nil {
		return "", err
	}
	type key struct {
		student uuid.UUID
		drill   string
	}
	at := map[key]int{}
	var list []readiness.Looked
	for _, r := range rows {
		k := key{r.StudentID, r.Drill}
		i, ok := at[k]
		if !ok {
			i, at[k] = len(list), len(list)
			list = append(list, readiness.Looked{})
		}
		s := readiness.Share{Attempts: r.Attempts, Passes: r.Passes}
		if r.Watched {
			list[i].Watched = s
		} else {
			list[i].Alone = s
		}
	}
	return readiness.CompareOnlookers(list), nil
}
