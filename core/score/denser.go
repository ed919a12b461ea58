package score

import (
	"math"

	"maestrale/core/field"
	"maestrale/core/track"
)

// A log of one sample a second is too sparse for straight lines: they cut every
// curve. More samples are put in between, on curves.

// denser puts samples between those of a log that is sparser than sparse
// seconds, at most twenty between two. Places lie on cubics whose slope at each
// sample is that between its neighbours (Catmull and Rom, "A class of local
// interpolating splines", 1974), unless knots k are given, which place them
// later. Angles turn evenly the short way, and every other column keeps the
// value of the sample before. The original samples stay where they are; t is
// not changed.
func denser(t *track.Track, k *knots) *track.Track {
	n := t.Len()
	total := 1
	// parts is into how many pieces the time between samples i and i+1 is cut.
	parts := func(i int) int {
		return max(1, min(20, int(math.Ceil((t.T[i+1]-t.T[i])/sparse-1e-6))))
	}
	for i := range n - 1 {
		total += parts(i)
	}
	d := &track.Track{Start: t.Start, Calls: t.Calls, T: make([]float64, 0, total)}
	// from and share say for each new sample between which two it lies and how
	// far, 0 to 1.
	from, share := make([]int, 0, total), make([]float64, 0, total)
	for i := range n - 1 {
		m := parts(i)
		for p := range m {
			u := float64(p) / float64(m)
			d.T, from, share = append(d.T, t.T[i]+u*(t.T[i+1]-t.T[i])), append(from, i), append(share, u)
		}
	}
	d.T, from, share = append(d.T, t.T[n-1]), append(from, n-1), append(share, 0)
	if k == nil {
		d.X, d.Y, d.Z = curved(t.T, t.X, from, share), curved(t.T, t.Y, from, share), curved(t.T, t.Z, from, share)
	}
	for _, c := range []struct{ to, of *[]float64 }{{&d.VX, &t.VX}, {&d.VY, &t.VY}, {&d.VZ, &t.VZ}, {&d.StickThrottle,
		&t.StickThrottle}, {&d.StickYaw, &t.StickYaw},
		{&d.StickPitch, &t.StickPitch}, {&d.StickRoll, &t.StickRoll}, {&d.StickWheel, &t.StickWheel}, {&d.PackV,
			&t.PackV}, {&d.AccuracyM, &t.AccuracyM}} {
		*c.to = lasting(*c.of, from)
	}
	for _, c := range []struct{ to, of *[]field.Angle }{{&d.Heading, &t.Heading}, {&d.Roll, &t.Roll}, {&d.Pitch, &t.Pitch},
		{&d.GimbalTilt, &t.GimbalTilt}} {
		*c.to = turned(*c.of, from, share)
	}
	d.Aids, d.Frame, d.Armed = lasting(t.Aids, from), lasting(t.Frame, from), lasting(t.Armed, from)
	return d
}

// curved samples the column v, over the times t, on its Catmull-Rom cubics at
// the moments that from and share name. Where the column turns a corner, a
// slope is at most three times the flatter of the two beside it, so that no
// cubic swings past what was logged (Fritsch and Carlson, SIAM J. Numer. Anal.
// 17 (1980) 238). v must have at least two values.
func curved(t, v []float64, from []int, share []float64) []float64 {
	// slope is the derivative at sample i, per second.
	slope := func(i int) float64 {
		a, b := max(0, i-1), min(len(v)-1, i+1)
		m := (v[b] - v[a]) / (t[b] - t[a])
		if a == i || b == i {
			return m
		}
		before, after := (v[i]-v[a])/(t[i]-t[a]), (v[b]-v[i])/(t[b]-t[i])
		if before*after >= 0 {
			most := 3 * math.Min(math.Abs(before), math.Abs(after))
			m = math.Max(-most, math.Min(most, m))
		}
		return m
	}
	out := make([]float64, len(from))
	for k, i := range from {
		if share[k] == 0 {
			out[k] = v[i]
			continue
		}
		h := t[i+1] - t[i]
		out[k] = hermite(v[i], v[i+1], slope(i)*h, slope(i+1)*h, share[k])
	}
	return out
}

// lasting samples a column whose values last until the next sample, such as a
// stick or the state of an aid. A nil column stays nil.
func lasting[T any](v []T, from []int) []T {
	if v == nil {
		return nil
	}
	out := make([]T, len(from))
	for k, i := range from {
		out[k] = v[i]
	}
	return out
}

// turned samples a column of angles that turn evenly between samples, the short
// way. Where a turn goes back, its slope at the turning point is the mean of
// the two beside it, so that the nose comes to a stop and does not bounce. A
// nil column stays nil.
func turned(v []field.Angle, from []int, share []float64) []field.Angle {
	if v == nil {
		return nil
	}
	// back is the slope at a sample, over one step, where the angle turns back there.
	back := func(i int) (field.Angle, bool) {
		if i == 0 || i+1 >= len(v) {
			return 0, false
		}
		before, after := (v[i] - v[i-1]).Wrap(), (v[i+1] - v[i]).Wrap()
		return (before + after) / 2, before*after < 0
	}
	out := make([]field.Angle, len(from))
	for k, i := range from {
		out[k] = v[i]
		if share[k] == 0 {
			continue
		}
		by := (v[i+1] - v[i]).Wrap()
		a, b := by, by
		if m, ok := back(i); ok {
			a = m
		}
		if m, ok := back(i + 1); ok {
			b = m
		}
		out[k] += field.Angle(hermite(0, float64(by), float64(a), float64(b), share[k]))
	}
	return out
}
