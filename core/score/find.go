package score

import (
	"maestrale/core/drill"
	"maestrale/core/track"
)

// Found is a flight within a longer log, and what it is as a drill.
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

// Flights finds the flights of a log, as the first sample of each and the one after its last: from the ground to the
// ground. A log that never stands is one flight.
func Flights(t *track.Track) [][2]int {
	var out [][2]int
	start, down := -1, -1
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

// Find scores every flight of a log as a drill, in the order in which they were
// flown.
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

// Proposed is the flight that a log is likely to have been kept for: the first that was flown to
// its end and not far off, as another drill would be, else the first that was flown to its end,
// else the one with the most steps done, the longest of them; −1 where there is none.
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

// farOff is the margin under which a flight was hardly meant as the drill.
const farOff = -1.0

func done(r *Result) (n int) {
	for _, s := range r.Steps {
		if s.Done {
			n++
		}
	}
	return n
}

// Attempt scores the flight that a log was kept for: the whole log where it is one flight, else the
// proposed one of its flights. from and to are its times where it is a part, both 0 else.
func Attempt(task drill.Task, t *track.Track, src Source) (r *Result, from, to float64, err error) {
	if r, err = Track(task, t, src); err != nil || r.Verdict == Pass {
		return r, 0, 0, err
	}
	list, err := Find(task, t, src)
	if err != nil || len(list) < 2 {
		return r, 0, 0, err
	}
	f := list[Proposed(list)]
	if done(f.Result) < done(r) {
		return r, 0, 0, nil
	}
	return f.Result, f.FromS, f.ToS, nil
}
