package rig

import (
	"slices"
	"sort"
	"strings"

	"maestrale/core/field"
	"maestrale/core/flight"
	"maestrale/core/flight/trace"
	"maestrale/core/track"
)

// Recorder gathers the samples of a flight into a track with every column of the
// field form. What it says is where the craft was, not what its sensors thought,
// so that its accuracy is 0 m.
type Recorder struct {
	Track  track.Track
	rotors int
}

// NewRecorder records a craft.
func NewRecorder(c *flight.Craft) *Recorder {
	return &Recorder{rotors: len(c.Rotors), Track: track.Track{Rotors: make([][]float64, len(c.Rotors))}}
}

// Start begins a flight of a setup whose readings are recorded: its trace,
// which meets what the drill lets happen, and its log.
func (s *Setup) Start() (*trace.Recorder, *Recorder, error) {
	f, err := flight.New(s.Config)
	if err != nil {
		return nil, nil, err
	}
	rec, log := trace.Record(f), NewRecorder(&s.Config.Craft)
	rec.Follow(s.Gates)
	rec.Visit = log.Add
	return rec, log, nil
}

// Add takes one sample.
func (r *Recorder) Add(s flight.Sample) {
	t := &r.Track
	t.T = append(t.T, s.T)
	t.X, t.Y, t.Z = append(t.X, s.X), append(t.Y, s.Y), append(t.Z, s.Z)
	t.Heading, t.Roll, t.Pitch = append(t.Heading, field.Angle(s.Heading)), append(t.Roll,
		field.Angle(s.Roll)), append(t.Pitch, field.Angle(s.Pitch))
	t.VX, t.VY, t.VZ = append(t.VX, s.VX), append(t.VY, s.VY), append(t.VZ, s.VZ)
	t.StickThrottle, t.StickYaw = append(t.StickThrottle, s.Sticks.Throttle), append(t.StickYaw, s.Sticks.Yaw)
	t.StickPitch, t.StickRoll, t.StickWheel = append(t.StickPitch, s.Sticks.Pitch), append(t.StickRoll,
		s.Sticks.Roll), append(t.StickWheel, s.Sticks.Wheel)
	t.PackV, t.AccuracyM = append(t.PackV, s.PackV), append(t.AccuracyM, 0)
	t.GimbalTilt = append(t.GimbalTilt, field.Angle(s.Tilt))
	t.Aids, t.Frame, t.Armed = append(t.Aids, s.Aids.String()), append(t.Frame, s.Sticks.Frame.String()), append(t.Armed,
		s.Armed)
	for i := range r.rotors {
		t.Rotors[i] = append(t.Rotors[i], s.Rps[i])
	}
	for range s.Calls {
		t.Calls = append(t.Calls, track.Call{T: s.T, Text: "call"})
	}
}

// Hear adds to the log's calls what the drill let happen and what the pilot asked
// for, by their names; calls are there already.
func (r *Recorder) Hear(events []trace.Happens) {
	for _, e := range events {
		word, _, _ := strings.Cut(e.Event, "=")
		if e.Event == "call" || (e.By != trace.ByDrill && !slices.Contains([]string{"home", "link-lost", "link-back", "pack"},
			word)) {
			continue
		}
		r.Track.Calls = append(r.Track.Calls, track.Call{T: float64(e.Reading) * readingS, Text: e.Event})
	}
	sort.SliceStable(r.Track.Calls, func(i, j int) bool { return r.Track.Calls[i].T < r.Track.Calls[j].T })
}

const readingS = 0.01
