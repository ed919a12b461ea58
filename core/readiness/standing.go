// Package readiness says what a student holds: the standing of each cell, by
// rules that decide and are always shown with the evidence behind them
// (DESIGN.md section 7).
//
// # Rules and estimates
//
// Two kinds of answers are kept apart. Rules decide: a cell is held with three
// passes among the newest four attempts, on two dates at least, as long as that
// is current; a gate is ready when everything that it asks for is met. They are
// arithmetic over the record, and anybody can check them. Estimates advise: how
// likely the next attempt passes, and how many more it takes. They come from a
// bank of made-up learners that are weighed by what the student flew (Learn),
// carry an interval, are held to what came (Calibrate), and decide nothing.
//
// # Where to begin
//
// Evidence is the attempts of one student, as known at a moment. Known adds the
// programme, the craft, and the acts and sign-offs; every screen asks one.
// JudgeGate holds a gate to it, Ready reports all of it.
//
// Times are those of the school's zone where a rule is about dates.
package readiness

import (
	"fmt"
	"time"

	"maestrale/core/craft"
	"maestrale/core/drill"
)

// Standing is what a cell is worth today, in the order from nothing to held.
type Standing int

// The standings.
const (
	Untried Standing = iota
	Building
	Lapsed
	Held
)

var standingWords = []string{"untried", "building", "lapsed", "held"}

// String is the standing as a word.
func (s Standing) String() string { return standingWords[s] }

// MarshalText writes the standing as its word.
func (s Standing) MarshalText() ([]byte, error) { return []byte(s.String()), nil }

// The rule of a held cell.
const (
	window      = 4  // newest attempts that are looked at
	wanted      = 3  // passes among them
	wantedDates = 2  // different dates with a pass
	firstDays   = 14 // currency with two dates; it doubles with each further date
	longestDays = 90
)

// Cell is the standing of a drill, side, aids and level on a craft class, with
// what it rests on.
type Cell struct {
	drill.Cell
	Class craft.Class
	// Standing is by the attempts at the field, SimStanding by those in the
	// simulator.
	Standing     Standing
	SimStanding  Standing
	Attempts     int // field attempts that bear on the cell
	Passes       int
	Dates        int       // different dates with a pass
	Newest       time.Time // of those attempts; zero where there are none
	NewestPass   time.Time // of the passes among them; zero where there are none
	CurrentUntil time.Time // where it is or was last held
	Needs        int       // passes still to fly, from today
	OtherDates   int       // how many dates among them have to be new ones
	Why          string
	passedLately int   // passes among the newest attempts
	lastBits     uint8 // the newest attempts, a bit for each pass, the newest in bit 0
}

// Key names a cell on a craft class.
type Key struct {
	drill.Cell
	Class craft.Class
}

// bears tells whether an attempt is evidence for a cell: it was flown as the
// cell says, or it is a pass with fewer aids or at a higher level. A fail with
// fewer aids, or at a higher level, counts only where it was flown.
func (s *seen) bears(rank, level int) bool {
	r, l := int(s.rank), int(s.level)
	return r == rank && l == level || s.pass && l >= level && r >= rank
}

// tally is what the rules see of a cell's evidence.
type tally struct {
	// attempts are those that bear on the cell.
	attempts, passes int
	dates            int          // different dates with a pass; the list is in order of time
	lastDay          int          // the newest of them
	last             [window]bool // newest first
	newest           time.Time
	newestPass       time.Time // from which currency is counted
	// everHeld is whether the rule was met after any of the attempts.
	everHeld bool
}

// count goes through the attempts of a lane, in order of time, for a cell.
func count(list []seen, c drill.Cell) tally {
	var t tally
	var newest, pass *seen
	rank := c.Aids.Rank()
	for i := range list {
		s := &list[i]
		if !s.bears(rank, c.Level) {
			continue
		}
		t.attempts++
		// Newest first.
		copy(t.last[1:], t.last[:window-1])
		t.last[0] = s.pass
		if s.pass {
			if t.passes++; t.dates == 0 || int(s.day) != t.lastDay {
				t.dates, t.lastDay = t.dates+1, int(s.day)
			}
		}
		if newest = s; s.pass {
			pass = s
		}
		// The rule is asked after every attempt, since lapsed means that it was
		// met once.
		t.everHeld = t.everHeld || t.rule()
	}
	if newest != nil {
		t.newest = newest.at()
	}
	if pass != nil {
		t.newestPass = pass.at()
	}
	return t
}

// rule is what makes a cell held, but for its age. One fail among the newest
// four does not take a held cell away: an instructor who must fear one bad
// attempt stops recording attempts.
func (t *tally) rule() bool {
	return t.lately() >= wanted && t.dates >= wantedDates
}

// lately counts the passes among the newest attempts.
func (t *tally) lately() int {
	n := 0
	for _, p := range t.last {
		if p {
			n++
		}
	}
	return n
}

// standing is where the cell stands at a moment; it has lapsed where it was
// ever held and is not now.
func (t *tally) standing(at time.Time, zone *time.Location) Standing {
	switch {
	case t.rule() && Current(t.newestPass, t.dates, at, zone):
		return Held
	case t.everHeld:
		return Lapsed
	case t.attempts > 0:
		return Building
	}
	return Untried
}

// needs returns how many passes in a row, from now, make the cell held, and how
// many dates among them have to be ones that have no pass yet, beyond the first
// where there is none at all.
func (t *tally) needs(st Standing) (passes, otherDates int) {
	if st == Held {
		return 0, 0
	}
	next := *t
	for k := 1; ; k++ {
		copy(next.last[1:], next.last[:window-1])
		next.last[0] = true
		// More passes than dates can come of one day, so the fewest passes are
		// those of which each may have its own; how many dates that takes is
		// told beside them.
		dates := t.dates + k // were each on a day of its own
		if next.lately() >= wanted && dates >= wantedDates {
			return k, max(0, wantedDates-max(1, t.dates))
		}
	}
}

// CurrencyDays returns for how many days a held cell stays current with passes
// on so many different dates: 14 × 2^(dates − 2), no fewer than 14 and no more
// than 90.
func CurrencyDays(dates int) int {
	days := firstDays
	// The loop ends at the limit, so a long record cannot overflow it.
	for i := wantedDates; i < dates && days < longestDays; i++ {
		days *= 2
	}
	return min(days, longestDays)
}

// Until returns the moment up to which a cell stays current: so many calendar
// days in the school's time zone after the newest pass, at the same wall-clock
// time. A time that does not exist moves to the next that does; of one that
// comes twice the first is meant.
func Until(newest time.Time, dates int, zone *time.Location) time.Time {
	l := newest.In(zone)
	y, m, d := l.Date()
	want := time.Date(y, m, d+CurrencyDays(dates), l.Hour(), l.Minute(), l.Second(), l.Nanosecond(), zone)
	// Where the clocks are put back a time of day comes twice: an hour, or in
	// some zones half of one, earlier.
	for _, back := range []time.Duration{time.Hour, 30 * time.Minute} {
		if e := want.Add(-back); e.Hour() == want.Hour() && e.Minute() == want.Minute() {
			return e
		}
	}
	if want.Hour() == l.Hour() && want.Minute() == l.Minute() {
		return want
	}
	// The clocks were put forward over it: the next time that exists is the
	// moment of the change.
	from, to := want.ZoneBounds()
	if !from.IsZero() && want.Sub(from) < 6*time.Hour {
		return from
	}
	return to
}

// Current tells whether a cell is still current at a moment, the last minute
// included.
func Current(newest time.Time, dates int, at time.Time, zone *time.Location) bool {
	until := Until(newest, dates, zone)
	// People are shown a minute, so it holds up to that minute's end.
	return at.Before(until.Truncate(time.Minute).Add(time.Minute))
}

// Cell judges one cell, with its words.
func (e *Evidence) Cell(k Key) Cell {
	c, t := e.cell(k)
	c.Why = why(c, t, e.zone)
	return c
}

// Plain judges one cell and leaves the words away, which cost more than the
// rules.
func (e *Evidence) Plain(k Key) Cell {
	c, _ := e.cell(k)
	return c
}

// cell judges one cell and returns what it rests on.
func (e *Evidence) cell(k Key) (Cell, *tally) {
	e.sort()
	l := lane{k.Drill, k.Side, k.Class}
	t := count(e.field.of(l), k.Cell)
	c := Cell{Cell: k.Cell, Class: k.Class, Attempts: t.attempts, Passes: t.passes, Dates: t.dates, Newest: t.newest,
		NewestPass: t.newestPass}
	c.Standing = t.standing(e.at, e.zone)
	sim := count(e.sim.of(l), k.Cell)
	c.SimStanding = sim.standing(e.at, e.zone)
	c.Needs, c.OtherDates = t.needs(c.Standing)
	if t.rule() {
		// Told of a lapsed cell too: it says since when it is no longer held.
		c.CurrentUntil = Until(t.newestPass, t.dates, e.zone)
	}
	c.passedLately = t.lately()
	for i, p := range t.last {
		if p {
			c.lastBits |= 1 << i
		}
	}
	return c, &t
}

// why says the standing and what it rests on.
func why(c Cell, t *tally, zone *time.Location) string {
	const day = "2 Jan 2006 15:04"
	switch c.Standing {
	case Untried:
		return msgNotFlownYet
	case Held:
		return fmt.Sprintf(msgCurrentUntil, t.recent(), dates(c.Dates), c.CurrentUntil.In(zone).Format(day))
	case Lapsed:
		if t.rule() {
			return fmt.Sprintf(msgLapsedByAge, t.newestPass.In(zone).Format(day),
				c.CurrentUntil.In(zone).Format(day))
		}
		return fmt.Sprintf(msgLapsedByFails, t.recent())
	}
	// Two reasons why it is only building: too few passes, or all of them on
	// one date.
	if t.lately() < wanted {
		return fmt.Sprintf("%s; %d are asked", t.recent(), wanted)
	}
	return fmt.Sprintf(msgTooFewDates, t.recent(), dates(c.Dates), wantedDates)
}

// dates is a number of dates in words.
func dates(n int) string {
	if n == 1 {
		return "one date"
	}
	return fmt.Sprintf("%d dates", n)
}

// recent says how many of the newest attempts were passed.
func (t *tally) recent() string {
	return fmt.Sprintf(msgNewestPasses, t.lately(), min(window, t.attempts))
}

// NeedsWords say what is still missing: "one more pass, on another day"; empty
// for a held cell.
func (c Cell) NeedsWords() string {
	n := []string{"", msgOneMorePass, msgTwoMorePasses, msgThreeMorePasses, msgFourMorePasses}
	if c.Passes == 0 {
		n = []string{"", "one pass", "two passes", "three passes", "four passes"}
	}
	switch {
	case c.Needs == 0:
		return ""
	case c.OtherDates > 0 && c.Dates == 0:
		return fmt.Sprintf(msgOverTwoDays, n[min(c.Needs, 4)])
	case c.OtherDates > 0 && c.Needs == 1:
		return fmt.Sprintf(msgAnotherDay, n[1])
	case c.OtherDates > 0:
		return fmt.Sprintf(msgOneOnAnotherDay, n[min(c.Needs, 4)])
	}
	return n[min(c.Needs, 4)]
}
