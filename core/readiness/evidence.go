package readiness

import (
	"cmp"
	"fmt"
	"maps"
	"math"
	"slices"
	"time"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/record"
	"maestrale/core/score"
)

// Standing is asked for hundreds of cells of hundreds of students, so evidence
// is kept by what can bear on one another, sorted once, and each cell reads one
// short list.

// lane is what can bear on one another: the attempts at one drill and side on
// one class.
type lane struct {
	drill string
	side  field.Side
	class craft.Class
}

// seen is what the rules see of an attempt, with the date on which it was flown
// in the school's time zone, as a day number. It is kept small, since a record
// may have tens of thousands.
type seen struct {
	id    string
	us    int64   // when, in microseconds of Unix time
	wind  float32 // mean in m/s; under 0 = not known
	day   int32
	site  int32 // 0 = not said, else a word of the evidence
	light int32
	flies int32 // the type
	level int16
	rank  int8 // of the aids: more is fewer
	pass  bool
	asked bool // flown while answering questions
}

// at is when it was flown, in UTC.
func (s *seen) at() time.Time { return time.UnixMicro(s.us).UTC() }

// Evidence is the attempts of one student, as known at a moment. Add takes them
// in any order; the first Cell that is asked for sorts them. It is not safe for
// use by several goroutines at once.
type Evidence struct {
	// at is the moment that everything is held against, and zone the one of the
	// school.
	at   time.Time
	zone *time.Location
	// drills are those whose rules decide what counts; nil takes what was
	// recorded.
	drills map[string]drill.Drill
	// Attempts at the field and in the simulator are never mixed.
	field, sim lanes
	// recent are the lists that were added to last, and turn the one that gives
	// way next.
	recent [8]recent
	turn   int
	// corrected are the ids that a correction stands in the place of.
	corrected map[string]bool
	// days are the dates on which anything was flown, in the field or in the
	// simulator, by dayOf.
	days   map[int]bool
	sorted bool
	// notCounted is practice, in the order in which it came.
	notCounted []NotCounted
	count      int
	simCount   int
	last       time.Time
	newest     int64 // of what is held against the moment, in microseconds of Unix time
	// words number sites, kinds of light and craft types, so that an attempt
	// holds a number in place of a string.
	words  map[string]int32
	lately drill.Drill // the one that was looked up last
	room   int         // for how many attempts a lane is made
	date   date        // the one that was worked out last
	prior  Prior       // how the school's students learn
}

// At is the moment that the evidence is held against, in the school's time
// zone.
func (e *Evidence) At() time.Time { return e.at.In(e.zone) }

// AsOf is the same evidence as it stood at an earlier moment, but not before
// its newest attempt. The attempts are shared; nothing may be added afterwards.
func (e *Evidence) AsOf(at time.Time) *Evidence {
	if newest := time.UnixMicro(e.newest); e.newest != 0 && at.Before(newest) {
		at = newest
	}
	if !at.Before(e.at) {
		return e
	}
	e.sort() // what both hold is put in order once
	was := *e
	was.at = at
	return &was
}

// Expect sets how common the kinds of learners are at the school, for
// estimates.
func (e *Evidence) Expect(p Prior) { e.prior = p }

// date is a date of the school's calendar: its number, and when it begins and
// ends.
type date struct {
	number   int
	from, to time.Time
}

// dayOf numbers the date of a moment. Attempts come day by day, so the date
// that was worked out last is kept.
func (e *Evidence) dayOf(t time.Time) int {
	if t.Before(e.date.from) || !t.Before(e.date.to) {
		y, m, d := t.In(e.zone).Date()
		e.date = date{dayNumber(t, e.zone), time.Date(y, m, d, 0, 0, 0, 0, e.zone), time.Date(y, m, d+1, 0, 0, 0, 0, e.zone)}
		e.days[e.date.number] = true
	}
	return e.date.number
}

// word numbers a word, from 1; 0 is the empty one.
func (e *Evidence) word(w string) int32 {
	if w == "" {
		return 0
	}
	n, ok := e.words[w]
	if !ok {
		n = int32(len(e.words) + 1)
		e.words[w] = n
	}
	return n
}

// NotCounted is an attempt that is practice only, with the reason.
type NotCounted struct {
	ID  string `json:"id"`
	Why string `json:"why"`
}

// NewEvidence makes an empty body of evidence, held against a moment in the
// school's zone. Attempts are held to the rules of the drills that are given,
// and one at a drill that is not among them does not count. With no drills at
// all (nil), whether an attempt counts is taken as it was recorded, but for the
// rules that need no drill.
func NewEvidence(drills map[string]drill.Drill, at time.Time, zone *time.Location) *Evidence {
	return &Evidence{at: at, zone: zone, drills: drills, field: lanes{}, sim: lanes{}, corrected: map[string]bool{},
		days: map[int]bool{}, words: map[string]int32{}}
}

// Sort makes the evidence of a list of attempts, in any order.
func Sort(attempts []record.Attempt, drills map[string]drill.Drill, at time.Time, zone *time.Location) *Evidence {
	e := NewEvidence(drills, at, zone)
	e.room = min(512, len(attempts)/8)
	for i := range attempts {
		e.Add(&attempts[i])
	}
	return e
}

// Add takes one attempt; a itself is not kept. Attempts later than the moment
// that is judged are counted but left out, void ones as well, and corrected
// ones give way to their corrections.
func (e *Evidence) Add(a *record.Attempt) {
	e.count++
	if a.Source == score.Sim {
		e.simCount++
	} else if a.At.After(e.last) {
		e.last = a.At
	}
	if a.Corrects != "" {
		e.corrected[a.Corrects] = true
	}
	if a.At.After(e.at) {
		return
	}
	// What is later than the moment was counted, and is left out of everything
	// else.
	e.newest = max(e.newest, a.At.UnixMicro())
	s := seen{id: a.ID, us: a.At.UnixMicro(), day: int32(e.dayOf(a.At)), level: int16(min(a.Level, math.MaxInt16)),
		rank: int8(a.Aids.Rank()), pass: a.Verdict == score.Pass,
		asked: a.Answering, wind: -1, site: e.word(a.Site), light: e.word(a.Light), flies: e.word(a.CraftType)}
	// A wind that was not measured stays under 0, and is no calm.
	if a.WindMps != nil {
		s.wind = float32(*a.WindMps)
	}
	// A void attempt is evidence of nothing, and is not listed as practice
	// either.
	if a.Verdict == score.Void {
		return
	}
	ok, why := a.Counts, a.WhyNot
	// Most attempts are at the drill of the one before.
	if ok && e.drills != nil && e.lately.Key != a.Drill {
		e.lately = e.drills[a.Drill]
	}
	switch {
	// A drill that is not in the catalogue has no rules to hold the attempt to.
	case ok && e.drills != nil && e.lately.Key == "":
		ok, why = false, fmt.Sprintf(msgDrillNotKnown, a.Drill)
	case ok:
		ok, why = e.lately.Counts(a.Flown())
	}
	if !ok {
		e.notCounted = append(e.notCounted, NotCounted{a.ID, why})
		return
	}
	e.sorted = false
	list := e.laneOf(lane{a.Drill, a.Side, a.CraftClass}, a.Source == score.Sim)
	*list = append(*list, s)
}

// lanes are attempts by what can bear on one another.
type lanes map[lane]*[]seen

// of are the attempts of a lane; nil for none.
func (l lanes) of(k lane) []seen {
	if list := l[k]; list != nil {
		return *list
	}
	return nil
}

// laneOf finds the list that an attempt goes on. A student flies few drills in
// turn, so the last few lists are looked through first.
func (e *Evidence) laneOf(k lane, sim bool) *[]seen {
	for i := range e.recent {
		if r := &e.recent[i]; r.list != nil && r.sim == sim && r.lane == k {
			return r.list
		}
	}
	all := e.field
	if sim {
		all = e.sim
	}
	list := all[k]
	if list == nil {
		list = new([]seen)
		*list = make([]seen, 0, e.room)
		all[k] = list
	}
	e.recent[e.turn%len(e.recent)] = recent{k, sim, list}
	e.turn++
	return list
}

// recent is a list that was added to lately.
type recent struct {
	lane lane
	sim  bool
	list *[]seen
}

// sort puts the evidence in the order of time, equal times by id, and takes out
// what was corrected. It does so once after the last Add.
func (e *Evidence) sort() {
	if e.sorted {
		return
	}
	e.sorted = true
	for _, all := range []lanes{e.field, e.sim} {
		for _, list := range all {
			// What was corrected is known only once all have come, since a
			// correction may be added before what it stands for.
			if len(e.corrected) > 0 {
				*list = slices.DeleteFunc(*list, func(s seen) bool { return e.corrected[s.id] })
			}
			slices.SortFunc(*list, func(a, b seen) int {
				if a.us != b.us {
					return cmp.Compare(a.us, b.us)
				}
				return cmp.Compare(a.id, b.id)
			})
		}
	}
}

// NotCounted lists the attempts that are practice only, without those that were
// corrected.
func (e *Evidence) NotCounted() []NotCounted {
	return slices.DeleteFunc(slices.Clone(e.notCounted), func(n NotCounted) bool { return e.corrected[n.ID] })
}

// Count is the number of attempts, whether they count or not.
func (e *Evidence) Count() int { return e.count }

// SimCount is how many of them were flown in the simulator.
func (e *Evidence) SimCount() int { return e.simCount }

// Last is when the newest attempt at the field was flown; zero where there is
// none.
func (e *Evidence) Last() time.Time { return e.last }

// Days is the number of dates on which anything was flown.
func (e *Evidence) Days() int { return len(e.days) }

// dayNumber numbers the dates of the school's calendar, in days since 1970.
func dayNumber(t time.Time, zone *time.Location) int {
	y, m, d := t.In(zone).Date()
	return int(time.Date(y, m, d, 0, 0, 0, 0, time.UTC).Unix() / 86400)
}

// Keys lists every cell that the evidence bears on, in the order of SortKeys:
// those that were flown and those that a pass with fewer aids, or at a higher
// level, serves as well.
func (e *Evidence) Keys() []Key {
	e.sort()
	set := map[Key]bool{}
	type flown struct {
		rank, level int
		pass        bool
	}
	for _, all := range []lanes{e.field, e.sim} {
		for l, list := range all {
			// Thousands of attempts are flown in a few ways.
			done, last := map[flown]bool{}, flown{}
			for i := range *list {
				s := &(*list)[i]
				f := flown{int(s.rank), int(s.level), s.pass}
				// Attempts come in runs of the same kind, so most are the one
				// before.
				if f == last || done[f] {
					continue
				}
				last, done[f] = f, true
				// The cell as it was flown, whether passed or not.
				set[Key{drill.Cell{Drill: l.drill, Side: l.side, Aids: craft.AidsOrder[s.rank], Level: int(s.level)},
					l.class}] = true
				if !s.pass {
					continue
				}
				// A pass serves every cell with more aids, at this level and up
				// to nine lower.
				for _, a := range craft.AidsOrder[:s.rank+1] {
					for level := int(s.level); level >= 1 && level > int(s.level)-10; level-- {
						set[Key{drill.Cell{Drill: l.drill, Side: l.side, Aids: a, Level: level}, l.class}] = true
					}
				}
			}
		}
	}
	keys := make([]Key, 0, len(set))
	for k := range set {
		keys = append(keys, k)
	}
	SortKeys(keys)
	return keys
}

// SortKeys orders cells by drill, side, aids, level and class.
func SortKeys(keys []Key) {
	slices.SortFunc(keys, func(a, b Key) int {
		return cmp.Or(cmp.Compare(a.Drill, b.Drill), cmp.Compare(a.Side, b.Side), cmp.Compare(a.Aids.Rank(), b.Aids.Rank()),
			cmp.Compare(a.Level, b.Level), cmp.Compare(a.Class, b.Class))
	})
}

// Passed lists the drills of which a pass is known, in the field or in the
// simulator, by key.
func (e *Evidence) Passed() []string {
	e.sort()
	set := map[string]bool{}
	for _, all := range []lanes{e.field, e.sim} {
		for l, list := range all {
			if !set[l.drill] && slices.ContainsFunc(*list, func(s seen) bool { return s.pass }) {
				set[l.drill] = true
			}
		}
	}
	return slices.Sorted(maps.Keys(set))
}

// stuckRests is how many lessons a cell rests after it was given up: it comes
// back in the second lesson after.
const stuckRests = 2

// GaveUp tells when a cell was given up: on the date on which it was flown last
// it failed stuckFails times in a row, with nothing passed after. lessons is
// how many have come since; one is a date on which anything was flown, and
// today.
func (e *Evidence) GaveUp(k Key) (at time.Time, lessons int, ok bool) {
	list := e.tries(k)
	if len(list) == 0 {
		return at, 0, false
	}
	at = list[len(list)-1].At
	last := dayNumber(at, e.zone)
	fails := 0
	// From the newest backwards, as far as that date goes and nothing was
	// passed.
	for i := len(list) - 1; i >= 0 && dayNumber(list[i].At, e.zone) == last && !list[i].Pass; i-- {
		fails++
	}
	today := dayNumber(e.at, e.zone)
	// Today counts as a lesson, even where nothing has been flown yet: the
	// question is asked to plan it.
	if today > last {
		lessons++
	}
	// Dates between the last try and today are lessons that went by.
	for d := range e.days {
		if d > last && d < today {
			lessons++
		}
	}
	return at, lessons, fails >= stuckFails
}

// Resting tells whether a cell was given up, and fewer than stuckRests lessons
// have come since.
func (e *Evidence) Resting(k Key) bool {
	_, lessons, ok := e.GaveUp(k)
	return ok && lessons < stuckRests
}

// FlownSince tells whether a drill was flown on a class after a moment.
func (e *Evidence) FlownSince(d string, class craft.Class, at time.Time) (yes bool) {
	e.sort()
	e.lanesOf(d, class, func(s *seen) { yes = yes || s.at().After(at) })
	return yes
}
