package rig

import (
	"bytes"
	"errors"
	"fmt"

	"maestrale/core/course"
	"maestrale/core/drill"
	"maestrale/core/flight"
	"maestrale/core/flight/trace"
	"maestrale/core/score"
	"maestrale/core/track"
)

// Judge scores a recorded flight against a task; a crash is a fault of it.
func (r *Recorder) Judge(task drill.Task, o flight.Outcome) (*score.Result, error) {
	result, err := score.Track(task, &r.Track, score.Sim)
	if err != nil {
		return nil, err
	}
	if o.Ended == "crashed" {
		t, last := &r.Track, r.Track.Len()-1
		result.Crashed(task.Drill.MaxFaults, t.T[last], score.Place{X: t.X[last], Y: t.Y[last], Z: t.Z[last]}, o.Cause)
	}
	return result, nil
}

// Rerun is a run flown again.
type Rerun struct {
	Setup
	Outcome flight.Outcome
	Result  *score.Result // nil for free flight
	Flown   *track.Track  // where there is a result
}

// CSV is what was flown, as a log; nil for free flight.
func (r *Rerun) CSV() ([]byte, error) {
	if r.Flown == nil {
		return nil, nil
	}
	var file bytes.Buffer
	if err := track.WriteCSV(&file, r.Flown); err != nil {
		return nil, fmt.Errorf("write the track: %w", err)
	}
	return file.Bytes(), nil
}

// ErrOther is a run that does not end as was sent.
var ErrOther = errors.New("flown again it ends in another state than was sent")

// Replay flies a run again from its trace, on a course where it was flown on
// one. The error says what does not fit.
func Replay(tr *trace.Trace, cat *drill.Catalogue, laid *course.Course) (Rerun, error) {
	setup, err := SetUp(tr.Spec, cat, laid)
	r := Rerun{Setup: setup}
	if err != nil {
		return r, err
	}
	f, err := flight.New(setup.Config)
	if err != nil {
		return r, err
	}
	rec := NewRecorder(&setup.Config.Craft)
	var wrong error
	r.Outcome, wrong = tr.FlyBy(f, setup.Gates, rec.Add)
	if r.Outcome.Hash != tr.Hash {
		return r, ErrOther
	}
	if wrong != nil {
		return r, wrong
	}
	if setup.Task == nil {
		return r, nil
	}
	rec.Hear(tr.Events)
	if r.Result, err = rec.Judge(*setup.Task, r.Outcome); err != nil {
		return r, err
	}
	r.Flown = &rec.Track
	return r, nil
}
