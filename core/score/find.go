package score

import (
	"maestrale/core/drill"
	"maestrale/core/track"
)

// A log often holds more than one attempt: a first hop, the drill, a second
// try. It is cut into flights at the ground, and each is scored by itself.

// Found is one flight within a longer log, from and to in seconds of the log,
// with its result as a drill.
type Found struct {
	FromS  float64 `json:"from_s"`
	ToS    float64 `json:"to_s"`
	Result *Result `json:"result"`
}

const (
	aloftAt  = 0.3 // m of height from which the craft flies
	downTime = 1.0 // s on the ground that end a flight
	shortest = 3.0 // s of flying that are worth a look
	margin   = 2.0 // s on the ground that belong to a flight, before and after
)

// Flights returns the flights of a log, each as the index of its first sample
// and the one after its last. A flight goes from the ground to the ground, with
// up to margin seconds of standing at both ends; shorter than shortest it is a
// hop, and left out. A log that never stands is one flight; one that never
// flies has none.
func Flights(t *track.Track) [][2]int {
	var out [][2]int
	start, down := -1, -1
	// end closes the flight that goes on, whose last sample in the air is last.
	end := func(last int) {
		if t.T[last]-t.T[start] >= shortest {
			i := start
			for i > 0 && t.Z[i-1] < grounded && t.T[start]-t.T[i-1] <= margin {
				i--
			}
			j := last
			for j < t.Len()-1 && t.Z[j+1] < grounded && t.T[j+1]-t.T[last] <= margin {
				j++
			}
			out = append(out, [2]int{i, j + 1})
		}
		start, down = -1, -1
	}
	for i := range t.T {
		switch low := t.Z[i] < grounded; {
		// Off the ground: the flight began when the craft left it, which is
		// before it was at aloftAt.
		case start < 0 && t.Z[i] > aloftAt:
			for start = i; start > 0 && t.Z[start] >= grounded; {
				start--
			}
		case start >= 0 && low && down < 0:
			down = i
		case start >= 0 && low && t.T[i]-t.T[down] >= downTime:
			end(i)
		case start >= 0 && !low:
			down = -1
		}
	}
	if start >= 0 {
		end(t.Len() - 1)
	}
	return out
}

// Find scores every flight of a log against the task, in the order in which
// they were flown. A log without a flight gives an empty list; an error of one
// flight is the error of all.
func Find(task drill.Task, t *track.Track, src Source) ([]Found, error) {
	var out []Found
	for _, f := range Flights(t) {
		one := t.Slice(f[0], f[1])
		r, err := Track(task, one, src)
		if err != nil {
			return nil, err
		}
		out = append(out, Found{one.T[0], one.T[one.Len()-1], r})
	}
	return out, nil
}

// Proposed returns the index of the flight for which a log was likely kept, or
// −1 for an empty list. It is the first that was flown to its end and was not
// far off, as another drill would be; else the first that was flown to its end;
// else the one with the most steps done, and of those the longest.
func Proposed(list []Found) int {
	best, first := -1, -1
	for i, f := range list {
		n := done(f.Result)
		if n == len(f.Result.Steps) {
			if first < 0 {
				first = i
			}
			if m := f.Result.Margin; m == nil || *m >= farOff {
				return i
			}
		}
		if best < 0 || n > done(list[best].Result) || (n == done(list[best].Result) &&
			f.ToS-f.FromS > list[best].ToS-list[best].FromS) {
			best = i
		}
	}
	if first >= 0 {
		return first
	}
	return best
}

// farOff is the margin under which a flight to its end was hardly meant as this
// drill: twice its limits.
const farOff = -1.0

// done counts the steps that were done.
func done(r *Result) (n int) {
	for _, s := range r.Steps {
		if s.Done {
			n++
		}
	}
	return n
}

// Attempt scores the flight for which a log was kept: the whole log where that
// passes or is one flight, else the proposed one of its flights. from and to
// are that flight's times in seconds, and both 0 where the whole log was
// scored.
func Attempt(task drill.Task, t *track.Track, src Source) (r *Result, from, to float64, err error) {
	if r, err = Track(task, t, src); err != nil || r.Verdict == Pass {
		return r, 0, 0, err
	}
	list, err := Find(task, t, src)
	if err != nil || len(list) < 2 {
		return r, 0, 0, err
	}
	f := list[Proposed(list)]
	// Cut into flights it must not come to less than as a whole.
	if done(f.Result) < done(r) {
		return r, 0, 0, nil
	}
	return f.Result, f.FromS, f.ToS, nil
}
