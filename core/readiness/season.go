package readiness

import (
	"cmp"
	"slices"
	"time"
)

// DrillWeek is how a school's attempts at a drill went in a week: those at the
// field that count.
type DrillWeek struct {
	Drill string
	Week  time.Time // the Monday at its beginning
	Share
}

// SeasonRow is how a drill went over a season.
type SeasonRow struct {
	Drill string
	Weeks []Share // one for each week of the season, the oldest first
	All   Share
}

// Rate is the share of attempts that passed, between 0 and 1; ok is false where
// there were none.
func (s Share) Rate() (rate float64, ok bool) {
	if s.Attempts == 0 {
		return 0, false
	}
	return float64(s.Passes) / float64(s.Attempts), true
}

// Add puts two shares together.
func (s Share) Add(o Share) Share { return Share{s.Attempts + o.Attempts, s.Passes + o.Passes} }

// SeasonStart returns where a season of some weeks from a Monday on begins, and
// how many weeks it has: with the week of its first attempt, so that it is
// shorter where the first weeks are empty. Without any attempt it is as long as
// it was asked for.
func SeasonStart(list []DrillWeek, monday time.Time, weeks int) (time.Time, int) {
	first := weeks
	for _, w := range list {
		if n, inside := weekOf(w.Week, monday, weeks); inside && w.Attempts > 0 {
			first = min(first, n)
		}
	}
	if first == weeks {
		return monday, weeks
	}
	return monday.AddDate(0, 0, 7*first), weeks - first
}

// weekOf is which week of a season one is, counted from 0, and whether it lies
// in the season. Whole days are counted, so that an hour gained or lost in
// between does not move a week.
func weekOf(week, monday time.Time, weeks int) (n int, inside bool) {
	n = int(dateOf(week).Sub(dateOf(monday)).Hours()/24) / 7
	return n, !week.Before(monday) && n < weeks
}

// Season sorts what happened by drill and week over some weeks from a Monday
// on. Drills follow an order, and those that are not in it come last, by key. A
// drill without attempts is left out, and so is what lies outside the weeks.
func Season(list []DrillWeek, order []string, monday time.Time, weeks int) (out []SeasonRow) {
	at := map[string]*SeasonRow{}
	for _, w := range list {
		n, inside := weekOf(w.Week, monday, weeks)
		if !inside || w.Attempts == 0 {
			continue
		}
		r := at[w.Drill]
		if r == nil {
			r = &SeasonRow{Drill: w.Drill, Weeks: make([]Share, weeks)}
			at[w.Drill] = r
		}
		r.Weeks[n] = r.Weeks[n].Add(w.Share)
		r.All = r.All.Add(w.Share)
	}
	for _, r := range at {
		out = append(out, *r)
	}
	rank := func(d string) int {
		if i := slices.Index(order, d); i >= 0 {
			return i
		}
		return len(order)
	}
	slices.SortFunc(out, func(a, b SeasonRow) int {
		return cmp.Or(cmp.Compare(rank(a.Drill), rank(b.Drill)), cmp.Compare(a.Drill, b.Drill))
	})
	return out
}

// dateOf is a date without its zone, for counting days.
func dateOf(t time.Time) time.Time {
	y, m, d := t.Date()
	return time.Date(y, m, d, 0, 0, 0, 0, time.UTC)
}

// MondayOf is the beginning of the week of a moment in a zone.
func MondayOf(t time.Time, zone *time.Location) time.Time {
	y, m, d := t.In(zone).Date()
	// Noon, which no change of the clocks moves to another day.
	back := (int(time.Date(y, m, d, 12, 0, 0, 0, zone).Weekday()) + 6) % 7
	return time.Date(y, m, d-back, 0, 0, 0, 0, zone)
}
