package score

import (
	"maestrale/core/drill"
	"math"
)

// A rest is a time in which the craft is slower than drill.RestMps. In a noisy
// log its speed is uncertain, so two are followed side by side: one that surely
// is a rest and one that may be.

// stillness follows for how long the craft has been slower than a limit, with
// the moments at which it passed the limit interpolated.
type stillness struct {
	// limit is the speed under which the craft is at rest.
	limit float64 // m/s
	// since is the moment at which it became slower than that.
	since float64 // NaN while it moves
	last  float64 // speed at the sample before

	// longest goes on growing while a rest does, so that one that the log cuts
	// off counts.
	longest float64 // s that it lasted at most
}

// see takes in the segment between two moments, with the speed at its end; in
// is whether a rest counts there. Outside, the rest ends.
func (w *stillness) see(from, to, speed float64, in bool) {
	switch rests := in && speed < w.limit; {
	case !rests && !math.IsNaN(w.since):
		u := 0.0
		if in && speed > w.last {
			u = math.Max(0, (w.limit-w.last)/(speed-w.last))
		}
		w.longest = math.Max(w.longest, from+(to-from)*u-w.since)
		w.since = math.NaN()
	case !rests:
	case math.IsNaN(w.since):
		u := 1.0
		if w.last > w.limit {
			u = (w.last - w.limit) / (w.last - speed)
		}
		w.since = from + (to-from)*u
	}
	if !math.IsNaN(w.since) {
		w.longest = math.Max(w.longest, to-w.since)
	}
	w.last = speed
}

// lasted is for how many seconds the craft has been still at t, 0 while it
// moves.
func (w *stillness) lasted(t float64) float64 {
	if math.IsNaN(w.since) {
		return 0
	}
	return t - w.since
}

// rests follows a rest in a log whose noise may hide it: sure is what the speed
// as estimated says, may what it could be within two deviations of its error.
// In a fine log they are the same.
type rests struct{ sure, may stillness }

// newRest returns a rest that has not begun, with the limits that this log
// needs.
func (s *sampler) newRest() rests {
	r := rests{stillness{limit: drill.RestMps, since: math.NaN()}, stillness{limit: drill.RestMps, since: math.NaN()}}
	if s.noisy {
		r.may.limit += 2 * s.pace
	}
	return r
}

// see takes in a segment, as stillness does.
func (r *rests) see(from, to, speed float64, in bool) {
	r.sure.see(from, to, speed, in)
	r.may.see(from, to, speed, in)
}

// enough tells whether a rest of so many seconds may have been flown by t, and
// whether it surely was. How blurred the moments are is taken off the first,
// down to three tenths.
func (s *sampler) enough(r *rests, t, seconds float64) (may, sure bool) {
	return r.may.lasted(t) >= math.Max(0.3*seconds, seconds-2*s.blur), r.sure.lasted(t) >= seconds
}

// surely tells whether a rest that may have lasted long enough goes on until it
// surely has. It looks ahead in the log and changes nothing.
func (s *sampler) surely(r rests, seconds float64) bool {
	for i := s.i + 2; i < s.t.Len(); i++ {
		speed, _ := s.speed(i)
		r.see(s.t.T[i-1], s.t.T[i], speed, true)
		if math.IsNaN(r.may.since) {
			return false
		}
		if r.sure.lasted(s.t.T[i]) >= seconds {
			return true
		}
	}
	return false
}

// since is from when the craft has been at rest, as well as is known; NaN while
// it moves.
func (r *rests) since() float64 {
	if math.IsNaN(r.sure.since) {
		return r.may.since
	}
	return r.sure.since
}
