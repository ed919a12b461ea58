package weeks

import (
	"bytes"
	"fmt"

	"maestrale/core/drill"
	"maestrale/core/flight"
	"maestrale/core/flight/trace"
	"maestrale/core/rig"
	"maestrale/core/score"
	"maestrale/core/track"
)

// Judge gives every flight the result that the scorer of today has for it, from what was kept of it: the log, the
// marks, or the trace of the sticks. Who flew what stays as it was.
func Judge(cat *drill.Catalogue, list []Flight) error {
	for i := range list {
		if err := list[i].judge(cat); err != nil {
			return fmt.Errorf("flight %d of the weeks: %w", i+1, err)
		}
	}
	return nil
}

// spec is what the flight was flown with.
func (f *Flight) spec() trace.Spec {
	spec := trace.Spec{Craft: Learners[f.Learner].Craft, Drill: f.Drill, Side: string(f.Side), Level: f.Level,
		Aids: string(f.Aids), WindMps: f.Wind.Mps, WindFromDeg: f.Wind.From, Gusts: flight.GustsNames[flight.NoGusts],
		Seed: f.Seed}
	if f.Wind.Mps > 4.5 {
		spec.Gusts = flight.GustsNames[flight.Light]
	}
	return spec
}

func (f *Flight) judge(cat *drill.Catalogue) error {
	if f.Source == score.Sim {
		tr, err := trace.Read(bytes.NewReader(f.Run))
		if err != nil {
			return err
		}
		run, err := rig.Replay(tr, cat, nil)
		f.Result = run.Result
		return err
	}
	setup, err := rig.SetUp(f.spec(), cat, nil)
	if err != nil {
		return err
	}
	if f.Source == score.Observed {
		f.Result = score.Marks(*setup.Task, f.Marks).Result
		return nil
	}
	log, _, err := track.ReadCSV(bytes.NewReader(f.Log), track.CSVOptions{})
	if err != nil {
		return err
	}
	if f.Result, err = score.Track(*setup.Task, log, score.FromLog); err != nil {
		return err
	}
	if f.Crash != nil {
		f.Result.Crashed(cat.Drills[f.Drill].MaxFaults, f.Crash.T, f.Crash.At, f.Crash.Cause)
	}
	return nil
}
