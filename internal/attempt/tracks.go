package attempt

import (
	"bytes"
	"context"
	"errors"
	"time"

	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/flight/trace"
	"maestrale/core/record"
	"maestrale/core/rig"
	"maestrale/core/score"
	"maestrale/core/track"
	"maestrale/internal/store"
)

// OptionsOf is how a log is read that was kept with a reading.
func OptionsOf(how store.Reading) (track.Options, error) {
	o := track.CSVOptions{Rename: how.Rename, Semicolons: how.Semicolons}
	if how.Origin != nil {
		p, err := field.NewPlane(field.Geo{LatDeg: how.Origin[0], LonDeg: how.Origin[1], AltM: how.Origin[2]}, how.AwayDeg)
		if err != nil {
			return track.Options{}, err //nolint:wrapcheck // it says what is wrong with the place
		}
		o.Plane = p
	}
	return track.Options{CSVOptions: o, Heights: track.Heights(how.Heights)}, nil
}

// ReadLog reads a log as it was kept: the part of it that the attempt is.
func ReadLog(file []byte, how store.Reading) (*track.Track, []string, error) {
	o, err := OptionsOf(how)
	if err != nil {
		return nil, nil, err
	}
	t, notes, err := track.Read(bytes.NewReader(file), o)
	if err == nil && how.Part != nil {
		t = t.Between(how.Part[0], how.Part[1])
	}
	return t, notes, err //nolint:wrapcheck // it says what is wrong, and where
}

// Log is a flight that a log or a followed position tells of.
type Log struct {
	ID      uuid.UUID
	Student uuid.UUID
	At      time.Time
	Drill   drill.Drill
	Cell    drill.Cell
	Craft   craft.Type
	Course  Course
	Result  *score.Result
	Track   *store.TrackFile
	Wind    *float64 // mean in m/s as a person gave it; nil = what was measured, for a followed flight
	Follow  bool     // it was followed live
}

// KeepLog stores the attempt of a log or a followed flight.
func (r Recorder) KeepLog(ctx context.Context, tx store.Tx, l Log) (Kept, error) {
	closed, err := r.closed(ctx, tx, l.Student, l.Drill)
	if err != nil {
		return Kept{}, err
	}
	e := Evidence{Student: l.Student, Drill: l.Drill, By: r.By.ID, Result: l.Result, Track: l.Track,
		Course: l.Course.Source, Closed: closed, Silent: true}
	e.Attempt = record.Attempt{ID: l.ID.String(), At: l.At, Drill: l.Drill.Key, Side: l.Cell.Side, Aids: l.Cell.Aids,
		Level: l.Cell.Level, CraftClass: l.Craft.Class(), CraftType: l.Craft.Key, Source: score.FromLog,
		Verdict: l.Result.Verdict, Margin: l.Result.Margin, WindMps: l.Wind, Site: l.Course.Site}
	for _, step := range l.Result.Steps {
		if step.StartS != nil && e.UntilS == 0 {
			e.FromS = *step.StartS
		}
		for _, t := range []*float64{step.StartS, step.EndS} {
			if t != nil {
				e.UntilS = max(e.UntilS, *t)
			}
		}
	}
	if l.Follow {
		r.windAt(&e.Attempt, l.At)
	}
	return r.Keep(ctx, tx, e)
}

// KeepRun stores a run of the simulator as it was sent, and the attempt that it became when it was flown again. A run
// without a result is stored alone. Refused is why the run is no attempt: it was refused before, or another run has
// its id. A run that is sent again changes nothing.
func (r Recorder) KeepRun(
	ctx context.Context, tx store.Tx, run store.Run, tr *trace.Trace, again rig.Rerun, file []byte, on Course,
) (kept Kept, refused string, err error) {
	fresh, err := tx.AddRun(ctx, run)
	if err != nil {
		return kept, "", err
	}
	if !fresh {
		old, err := tx.Run(ctx, run.ID)
		if errors.Is(err, store.ErrNotFound) ||
			err == nil && (old.StudentID != run.StudentID || old.Claimed != run.Claimed) {
			return kept, msgAnotherRunId, nil
		}
		if err != nil {
			return kept, "", err
		}
	}
	if run.Refused != "" || again.Result == nil {
		return kept, run.Refused, nil
	}
	d := again.Task.Drill
	closed, err := r.closed(ctx, tx, run.StudentID, d)
	if err != nil {
		return kept, "", err
	}
	aids, frame, automatic := tr.Flown()
	wind, from := tr.WindMps, tr.WindFromDeg
	e := Evidence{Student: run.StudentID, Drill: d, By: run.SentBy, Result: again.Result,
		Track: &store.TrackFile{File: file}, Course: on.Source, Coached: tr.Coach, Closed: closed}
	e.Attempt = record.Attempt{ID: run.ID.String(), At: run.FlownAt, Drill: d.Key, Side: again.Task.Side,
		Aids: craft.Aids(aids.String()), Level: again.Task.Level, Frame: frame.String(), CraftClass: again.Task.Class,
		CraftType: tr.Craft, Source: score.Sim, Verdict: again.Result.Verdict, Margin: again.Result.Margin,
		WindMps: &wind, WindFromDeg: &from, Automatic: automatic, Zoom: tr.Zoom, Site: on.Site}
	kept, err = r.Keep(ctx, tx, e)
	return kept, "", err
}
