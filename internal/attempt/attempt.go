// Package attempt is the only way to store an attempt. Whatever an attempt is made of (marks of the pad, marks of a
// device that was offline, a run of the simulator, a log, a followed flight, a correction, another school's record),
// it arrives here as Evidence; here it is decided whether it counts, and here it is stored.
package attempt

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"

	"maestrale/core/air"
	"maestrale/core/drill"
	"maestrale/core/marking"
	"maestrale/core/readiness"
	"maestrale/core/record"
	"maestrale/core/score"
	"maestrale/internal/knowledge"
	"maestrale/internal/store"
)

// Recorder stores attempts for one person.
type Recorder struct {
	Cat *drill.Catalogue // the school's
	Now func() time.Time
	By  *store.Person // who asks; nil where every piece of evidence names its own recorder
	// SignIn is the sign-in that what is recorded belongs to; nil without one, as from the command line.
	SignIn *uuid.UUID
}

// Evidence is what an attempt is made of.
type Evidence struct {
	record.Attempt             // when, what and how it was flown; Keep decides Counts and WhyNot
	Student        uuid.UUID   //
	Drill          drill.Drill // the version that was flown
	Result         *score.Result
	By             uuid.UUID // who recorded it
	RecordedAt     time.Time // zero = now
	Course         string    // the course as it was laid out; empty = the drill's own
	Marks          []score.Mark
	Track          *store.TrackFile
	Coached        bool       // the coach of a trainer was asked
	Closed         string     // why the drill was closed to the student
	Twice          *uuid.UUID // another attempt of the same flight; Keep finds it
	Device         *uuid.UUID // on which it was marked; nil for none
	Claim          *Claim     // for an attempt that another school recorded
	Silent         bool       // nobody waits to hear what it did to the standing
	FromS, UntilS  float64    // when it was flown, in seconds from At; UntilS is zero where that is not known
}

// Claim is what another school, or a paper, says of an attempt, and what the chief instructor makes of it.
type Claim struct {
	School   string // the school that recorded it; empty for a paper
	By       string // who vouches for a pass on paper
	Known    bool   // the drill is in this school's catalogue
	Accepted bool   // the chief lets the other school's passes count
}

// Kept is an attempt that was stored.
type Kept struct {
	Attempt record.Attempt
	New     bool // false if an attempt with this id was there already
	// Verdict says what came of it. Before and After are what was known of the student without it and with it; they
	// are nil for silent evidence.
	Verdict       marking.Verdict
	Before, After *knowledge.Student
}

func (r Recorder) book() knowledge.Book {
	b := knowledge.Book{Cat: r.Cat, Now: r.Now, Zone: time.UTC}
	if r.By != nil {
		b.Zone = r.By.Zone()
	}
	return b
}

// Keep decides whether an attempt counts, stores it in the student's chain, and says what it did to the standing
// and the gates. Evidence with an id that is there already changes nothing.
func (r Recorder) Keep(ctx context.Context, tx store.Tx, e Evidence) (Kept, error) {
	if err := e.findTwice(ctx, tx); err != nil {
		return Kept{}, err
	}
	n, err := r.KeepAll(ctx, tx, e.Student, &e)
	if err != nil {
		return Kept{}, err
	}
	k := Kept{Attempt: e.Attempt, New: n > 0}
	if e.Twice != nil && k.New {
		id, err := uuid.Parse(e.ID)
		if err != nil {
			return k, err
		}
		if err := tx.AddConflict(ctx, e.Student, *e.Twice, id); err != nil {
			return k, err
		}
	}
	if e.Silent {
		k.Verdict = marking.VerdictOf(e.Attempt, e.Result, e.Drill, readiness.Cell{}, readiness.Cell{})
		k.Verdict.Standing = ""
		return k, nil
	}
	st, err := tx.Student(ctx, e.Student)
	if err != nil {
		return k, err
	}
	now := r.Now()
	if e.At.After(now) {
		now = e.At
	}
	if k.Before, k.After, err = r.book().Around(ctx, tx, st, e.ID, now); err != nil {
		return k, err
	}
	key := readiness.Key{Class: e.CraftClass,
		Cell: drill.Cell{Drill: e.Drill.Key, Side: e.Side, Aids: e.Aids, Level: e.Level}}
	before, after := k.Before.Evidence.Cell(key), k.After.Evidence.Cell(key)
	k.Verdict = marking.VerdictOf(e.Attempt, e.Result, e.Drill, before, after)
	if e.Source != score.Sim {
		k.Verdict.Advice, err = r.book().Advice(ctx, tx, e.Student)
	}
	return k, err
}

// findTwice looks whether another attempt is of the same flight: whatever it is known from, by eye or from a log. Runs
// of the simulator, what other schools and papers say, corrections and voids stand in nobody's way.
func (e *Evidence) findTwice(ctx context.Context, tx store.Tx) error {
	if e.Claim != nil || e.Corrects != "" || e.UntilS <= 0 || e.Verdict == score.Void ||
		e.Source != score.Observed && e.Source != score.FromLog {
		return nil
	}
	id, err := uuid.Parse(e.ID)
	if err != nil {
		return err
	}
	after := func(s float64) time.Time { return e.At.Add(time.Duration(s * float64(time.Second))) }
	e.Twice, err = tx.Overlapping(ctx, store.Span{ID: id, Student: e.Student, By: e.By, Device: e.Device,
		From: after(e.FromS), Until: after(e.UntilS), Marked: e.Source == score.Observed})
	return err
}

// KeepAll decides and stores attempts of one student in the order given, and returns how many are new.
func (r Recorder) KeepAll(ctx context.Context, tx store.Tx, student uuid.UUID, list ...*Evidence) (int, error) {
	rows := make([]store.NewAttempt, len(list))
	for i, e := range list {
		e.decide()
		rows[i] = store.NewAttempt{Attempt: e.Attempt, StudentID: student, CraftType: e.CraftType, Result: e.Result,
			Drill: e.Drill, CourseSource: e.Course, By: e.By, RecordedAt: e.RecordedAt, Track: e.Track, Marks: e.Marks,
			FromS: e.FromS, UntilS: e.UntilS}
	}
	return tx.Keep(ctx, student, rows...)
}

// decide says whether the attempt counts, and why not.
func (e *Evidence) decide() {
	c := e.Claim
	switch {
	case e.Corrects != "" && c == nil && e.Verdict == score.Void:
		return // what was decided of the attempt stands beside the reason of the void
	case c == nil:
		e.Counts, e.WhyNot = e.Drill.CountsIn(drill.Circumstances{
			Flown: e.Flown(), Coached: e.Coached, Closed: e.Closed, Twice: e.Twice != nil})
	case !c.Known:
		e.Counts, e.WhyNot = false, fmt.Sprintf(msgDrillNotKnown, e.Drill.Key)
	case c.School == "":
		e.Counts, e.WhyNot = c.Accepted && e.Verdict == score.Pass, ""
		if !e.Counts {
			e.WhyNot = fmt.Sprintf(msgBroughtFromPaper, c.By)
		}
	case e.Counts && !c.Accepted:
		e.Counts, e.WhyNot = false, fmt.Sprintf(msgRecordedNotTaken, c.School)
	}
}

// windAt fills in the wind that was measured when the attempt was flown, if it was.
func (r Recorder) windAt(a *record.Attempt, at time.Time) {
	if p := r.By; p.WindAt != nil && air.Near(at.Sub(*p.WindAt)) {
		a.WindMps, a.GustMps, a.WindFromDeg = p.WindMps, p.GustMps, p.From()
	}
}
