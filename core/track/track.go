// Package track holds sampled flights and reads and writes their open
// formats. Times are seconds, places metres in the field frame, angles radians.
package track

import (
	"slices"
	"time"

	"maestrale/core/field"
)

// MaxBytes is the largest file that is read.
const MaxBytes = 64 << 20

// What of a file is read at most: no log of a flight has more columns, or more
// samples than two hours at 100 Hz and a little.
const (
	MaxColumns = 256
	MaxSamples = 1_000_000
)

// Track is a flight as samples at strictly rising times. X, Y and Z are always
// as long as T; every other column is either as long as T or nil where the
// source does not have it.
type Track struct {
	Start time.Time // time of t = 0 where the source knows it
	T     []float64
	X     []float64
	Y     []float64
	Z     []float64 // height of the feet

	Heading, Roll, Pitch              []field.Angle
	VX, VY, VZ                        []float64
	StickThrottle, StickYaw           []float64
	StickPitch, StickRoll, StickWheel []float64 // StickWheel turns the gimbal
	PackV, AccuracyM                  []float64
	GimbalTilt                        []field.Angle
	Aids, Frame                       []string
	Armed                             []bool
	Rotors                            [][]float64 // revolutions a second, + clockwise from above

	Calls []Call
}

// Call is a call to the pilot, heard at a moment.
type Call struct {
	T    float64
	Text string
}

// Len returns the number of samples.
func (t *Track) Len() int { return len(t.T) }

// Duration returns the time from the first sample to the last.
func (t *Track) Duration() float64 {
	if len(t.T) == 0 {
		return 0
	}
	return t.T[len(t.T)-1] - t.T[0]
}

// At returns the index of the last sample at or before time s, −1 if there is
// none.
func (t *Track) At(s float64) int {
	i, found := slices.BinarySearch(t.T, s)
	if found {
		return i
	}
	return i - 1
}

// MedianStep returns the median time between samples in seconds, 0 for fewer
// than two.
func (t *Track) MedianStep() float64 {
	if len(t.T) < 2 {
		return 0
	}
	// A thousand steps spread over the log tell its rate.
	stride := max(1, (len(t.T)-1)/1000)
	steps := make([]float64, 0, 1001)
	for i := 1; i < len(t.T); i += stride {
		steps = append(steps, t.T[i]-t.T[i-1])
	}
	slices.Sort(steps)
	return steps[len(steps)/2]
}

// Until returns the first n samples, without copying them.
func (t *Track) Until(n int) *Track { return t.Slice(0, n) }

// Slice returns the samples from i to before j, without copying them; the calls of
// that time go with them.
func (t *Track) Slice(i, j int) *Track {
	out := *t
	out.T, out.X, out.Y, out.Z = part(t.T, i, j), part(t.X, i, j), part(t.Y, i, j), part(t.Z, i, j)
	out.Heading, out.Roll, out.Pitch, out.GimbalTilt = part(t.Heading, i, j), part(t.Roll, i, j), part(t.Pitch, i,
		j), part(t.GimbalTilt, i, j)
	out.VX, out.VY, out.VZ = part(t.VX, i, j), part(t.VY, i, j), part(t.VZ, i, j)
	out.StickThrottle, out.StickYaw = part(t.StickThrottle, i, j), part(t.StickYaw, i, j)
	out.StickPitch, out.StickRoll, out.StickWheel = part(t.StickPitch, i, j), part(t.StickRoll, i, j), part(t.StickWheel,
		i, j)
	out.PackV, out.AccuracyM = part(t.PackV, i, j), part(t.AccuracyM, i, j)
	out.Aids, out.Frame, out.Armed = part(t.Aids, i, j), part(t.Frame, i, j), part(t.Armed, i, j)
	out.Rotors, out.Calls = nil, nil
	for _, r := range t.Rotors {
		out.Rotors = append(out.Rotors, part(r, i, j))
	}
	for _, c := range t.Calls {
		if j > i && c.T >= t.T[i] && c.T <= t.T[j-1] {
			out.Calls = append(out.Calls, c)
		}
	}
	return &out
}

// part is a column from sample i to before j; a nil column stays nil.
func part[T any](v []T, i, j int) []T {
	if v == nil {
		return nil
	}
	return v[i:j]
}

// Between returns the samples of a time, of the whole where that is empty.
func (t *Track) Between(from, to float64) *Track {
	i, j := max(0, t.At(from)), t.At(to)+1
	if j <= i {
		return t
	}
	return t.Slice(i, j)
}
