package fly

import (
	"math"

	"maestrale/core/course"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/flight/trace"
	"maestrale/core/score"
	"maestrale/core/track"
)

// StepNow is where a run in the simulator stands in its drill: what the pilot's page shows and marks in the scene.
type StepNow struct {
	Step   int         `json:"step"` // from 1
	Of     int         `json:"of"`
	Asked  string      `json:"asked"`
	Place  string      `json:"place,omitempty"` // the marker that the step is at
	At     *[3]float64 `json:"at,omitempty"`    // and where that is, m in the field frame; the height as the step asks it
	Words  string      `json:"words"`
	Inside bool        `json:"inside"`
	Done   bool        `json:"done"`
}

const (
	everyS    = 1.0    // s of the run between two answers
	mostShown = 20_000 // pictures of a run that is followed: half an hour
	atMarker  = 0.1    // m
)

// follower scores a run while it is flown, by the pictures that its page sends.
type follower struct {
	task   drill.Task
	course *course.Course
	track  track.Track
	told   float64
}

// field places in a picture's state.
var at = func() map[string]int {
	out := map[string]int{}
	for i, name := range trace.Fields {
		out[name] = i
	}
	return out
}()

// add takes a picture, and says where the run stands once a second of it has passed; nil in between.
func (f *follower) add(p Picture) *StepNow {
	if len(p.State) != len(trace.Fields) || f.track.Len() >= mostShown {
		return nil
	}
	for _, v := range p.State {
		if math.IsNaN(v) || math.Abs(v) > 1e6 {
			return nil
		}
	}
	s := func(name string) float64 { return p.State[at[name]] }
	t := &f.track
	if n := t.Len(); n > 0 && s("t") <= t.T[n-1] {
		return nil
	}
	t.T = append(t.T, s("t"))
	t.X, t.Y, t.Z = append(t.X, s("x")), append(t.Y, s("y")), append(t.Z, s("z"))
	t.VX, t.VY, t.VZ = append(t.VX, s("vx")), append(t.VY, s("vy")), append(t.VZ, s("vz"))
	t.Heading = append(t.Heading, field.Angle(s("heading")))
	t.AccuracyM, t.Armed = append(t.AccuracyM, 0), append(t.Armed, s("armed") > 0)
	if t.Len() < 5 || s("t")-f.told < everyS {
		return nil
	}
	f.told = s("t")
	return f.now()
}

// now scores what was flown so far.
func (f *follower) now() *StepNow {
	l, err := score.LiveOf(f.task, &f.track)
	if err != nil {
		return nil
	}
	out := &StepNow{Step: l.Step + 1, Of: len(f.task.Steps), Asked: l.Asked, Words: l.Words, Inside: l.Inside,
		Done: l.Done}
	if l.Done {
		return out
	}
	if s := f.task.Steps[l.Step]; s.HasAt {
		out.At = &[3]float64{s.At.X, s.At.Y, s.HeightM}
		out.Place = s.Place
	}
	return out
}
