package daylogs

import (
	"math"
	"slices"
)

const (
	fits      = 0.35      // share of a log and a flight that are one, from which they are thought to belong together
	near      = 120.0     // s within which a clock counts as right, and two shifts as the same
	farthest  = 36 * hour // what a clock is off by at most; beyond that the log is of another day
	rivalling = 0.92      // a second shift that fits so well in comparison leaves the clock in doubt
	weakly    = 0.3       // share of each log that a shift has to explain, to be taken without a question
	handLate  = 45.0      // s by which a flight that a hand noted may be off
	hour      = 3600.0
)

// setClocks estimates for each recorder what has to be added to its times. A
// folder may hold logs of several recorders: what does not fit the first clock
// is tried with a second one.
func (s *sorter) setClocks() {
	groups := map[string][]int{}
	var names []string
	for i := range s.logs {
		if s.out.Logs[i].LeftOut != "" {
			continue
		}
		r := s.at[i].recorder
		if groups[r] == nil {
			names = append(names, r)
		}
		groups[r] = append(groups[r], i)
	}
	slices.Sort(names)
	for _, r := range names {
		rest := groups[r]
		for first := true; len(rest) > 0; first = false {
			c, mine, other := s.clockOf(r, rest)
			if !first && len(mine) < 2 {
				break // one log alone fits somewhere whatever its clock says
			}
			if len(mine) == 0 {
				break
			}
			for _, i := range mine {
				s.at[i].clock, s.at[i].group = c.ClockS, len(s.out.Clocks)
				s.out.Logs[i].ClockS = c.ClockS
			}
			s.out.Clocks = append(s.out.Clocks, c)
			rest = other
		}
	}
}

// clockOf finds the shift under which the logs of a recorder fit the day best,
// and which of them fit.
func (s *sorter) clockOf(recorder string, logs []int) (c Clock, mine, other []int) {
	shifts := []float64{0}
	for _, i := range logs {
		for f := range s.day.Flights {
			if !s.flownBy(recorder, f) {
				continue
			}
			a, b := s.at[i].whole, s.flightSpan(f)
			shifts = append(shifts, b.from-a.from, b.to-a.to)
		}
		for m := range s.day.Marks {
			b := s.markSpan(m)
			for _, a := range s.at[i].aloft {
				if math.Abs(a.length()-b.length()) < handLate {
					shifts = append(shifts, b.from-a.from)
				}
			}
		}
	}
	for k := range shifts {
		shifts[k] = math.Round(shifts[k])
	}
	slices.Sort(shifts)
	shifts = slices.DeleteFunc(slices.Compact(shifts), func(d float64) bool { return math.Abs(d) > farthest })
	best, most := 0.0, -1.0
	scores := make([]float64, len(shifts))
	for k, d := range shifts {
		scores[k] = s.fit(recorder, logs, d)
		// Of two shifts that fit alike the smaller is the likelier.
		if scores[k] > most+1e-9 || scores[k] > most-1e-9 && math.Abs(d) < math.Abs(best) {
			best, most = d, scores[k]
		}
	}
	c = Clock{Recorder: recorder}
	for k, d := range shifts { // a clock that is right, and fits nearly as well, is right
		if math.Abs(d) < near && math.Abs(best) > near && scores[k] > rivalling*most {
			best, most = d, scores[k]
		}
	}
	for k, d := range shifts {
		if math.Abs(best) > near && math.Abs(d-best) > near && scores[k] > rivalling*most {
			c.Doubt = true
		}
	}
	for _, i := range logs {
		if s.belongs(recorder, s.at[i].whole.moved(best)) {
			mine = append(mine, i)
		} else {
			other = append(other, i)
		}
	}
	c.Logs = len(mine)
	c.ClockS, c.SpreadS = s.refined(mine, best)
	if math.Abs(best) > near && (len(mine) < 2 || most < weakly*float64(len(mine))) {
		c.Doubt = true
	}
	return c, mine, other
}

// fit is how well a shift explains logs: the sum over them of how much they are
// one with a flight of the day, and over their own flights with the marks.
func (s *sorter) fit(recorder string, logs []int, shift float64) (sum float64) {
	for _, i := range logs {
		_, f := s.bestFlight(recorder, s.at[i].whole.moved(shift))
		sum += f
		for _, a := range s.at[i].aloft {
			best := 0.0
			for m := range s.day.Marks {
				best = math.Max(best, a.moved(shift).alike(s.markSpan(m)))
			}
			sum += best / float64(len(s.at[i].aloft))
		}
	}
	return sum
}

// bestFlight is the flight of the day that a time is most alike to.
func (s *sorter) bestFlight(recorder string, t span) (flight int, score float64) {
	flight = -1
	for f := range s.day.Flights {
		if v := s.flightSpan(f).alike(t); v > score && s.flownBy(recorder, f) {
			flight, score = f, v
		}
	}
	return flight, score
}

// belongs tells whether a time is a flight of the day, or lies within one: a
// pack is noted from its first minute to its last, and a log may hold a part of
// it.
func (s *sorter) belongs(recorder string, t span) bool {
	for f := range s.day.Flights {
		if s.flownBy(recorder, f) && (s.flightSpan(f).alike(t) >= fits || s.within(t, f)) {
			return true
		}
	}
	return false
}

// within tells whether a time lies in a flight of the day, as exactly as a hand
// notes one.
func (s *sorter) within(t span, flight int) bool {
	f := s.flightSpan(flight)
	return t.from > f.from-handLate && t.to < f.to+handLate
}

// setCraft finds out which craft a recorder was on, where its name does not say
// so: the one whose flights explain its logs clearly better than those of any
// other.
func (s *sorter) setCraft() {
	sums := map[int]map[string]float64{}
	for i := range s.at {
		p := &s.at[i]
		if p.group < 0 || p.recorder == "" || s.isTail(p.recorder) {
			continue
		}
		best := map[string]float64{}
		for f := range s.day.Flights {
			tail := s.day.Flights[f].Tail
			best[tail] = math.Max(best[tail], s.explains(i, f))
		}
		if sums[p.group] == nil {
			sums[p.group] = map[string]float64{}
		}
		for tail, v := range best {
			sums[p.group][tail] += v
		}
	}
	for i := range s.at {
		if by := sums[s.at[i].group]; by != nil {
			if tail := clearlyMost(by); tail != "" {
				s.at[i].recorder = tail
			}
		}
	}
}

// clearlyMost is the key with the largest sum, where no other has more than a
// share of it.
func clearlyMost(by map[string]float64) string {
	most, second, key := 0.0, 0.0, ""
	for k, v := range by {
		if v > most {
			most, second, key = v, most, k
		} else {
			second = math.Max(second, v)
		}
	}
	if second > clearly*most {
		return ""
	}
	return key
}

// refined is a shift made exact by the marks, which are timed as the motors
// start, and how far they differ: half of them lie within the spread. Where
// nothing was marked the flights tell it.
func (s *sorter) refined(logs []int, shift float64) (exact, spread float64) {
	var by []float64
	for _, i := range logs {
		for _, a := range s.at[i].aloft {
			for m := range s.day.Marks {
				if b := s.markSpan(m); a.moved(shift).alike(b) > 0.5 && math.Abs(b.from-a.from-shift) < handLate {
					by = append(by, b.from-a.from)
				}
			}
		}
	}
	if len(by) == 0 {
		for _, i := range logs {
			f, alike := s.bestFlight(s.at[i].recorder, s.at[i].whole.moved(shift))
			if alike < fits { // a part of a flight says nothing of when that began
				continue
			}
			by = append(by, s.flightSpan(f).from-s.at[i].whole.from)
		}
	}
	if len(by) == 0 {
		return shift, 0
	}
	exact = median(by)
	for k, d := range by {
		by[k] = math.Abs(d - exact)
	}
	return exact, median(by)
}

// median is the median of v, which it sorts; v must not be empty.
func median(v []float64) float64 {
	slices.Sort(v)
	if n := len(v); n%2 == 0 {
		return (v[n/2-1] + v[n/2]) / 2
	}
	return v[len(v)/2]
}
