package plan

import (
	"math"
	"slices"
	"time"
)

// Thousands of plans are built for one day, so the day is compiled first: names
// become indices, times become seconds, and who can do what is worked out once.

// sec is a moment in seconds from the start of the day.
type sec = int32

// never is a moment that does not come.
const never = sec(math.MaxInt32 / 2)

// problem is a day in numbers: lists by index, and moments in seconds. It is
// compiled once and read by every run.
type problem struct {
	day *Day
	// Nothing starts before now, or lands after end.
	now, end sec
	// How long box and craft stay busy after a flight.
	turn     sec
	boxes    int
	craft    []aCraft
	types    []string
	packs    []aPack
	slots    []aSlot
	students []aStudent
	teach    []aPerson
	spot     []aPerson
	wind     []aWind
	// Where everything stands at now.
	begun start
	// Of each student: the flights of the plan that stood, from now on, in
	// order of time; nil where none stood.
	prev [][]Flight
	// Of each craft: how much is asked of it, or of the packs of its type, for
	// what is there.
	scarce []float64
	// proving is whether some flights come before others.
	proving bool
	// least is the bound for all that are asked; 0 where it is not worked out
	// yet.
	least sec
	// landed is when the last of the flights that were flown landed.
	landed sec
	// afresh is the plan that would be made if none stood, for a day that is
	// planned again, and latest by when the last flight may land.
	afresh *run
	latest sec
}

// aCraft is one craft: its type by index, its limit of wind in m/s, 0 for none,
// and its hours.
type aCraft struct {
	typ         int
	wind        float64
	from, until sec
}

// aPack is one pack: its type by index, and how long it charges and cools.
type aPack struct {
	typ          int
	full         bool
	charge, cool sec
}

// aSlot is one slot of a charger, from 1.
type aSlot struct{ charger, slot int }

// aStudent is one student: what is still to be flown, with what and whom, and
// when.
type aStudent struct {
	kind        string
	left, flown int
	dur, rest   sec
	craft       []int
	from, until sec
	wind        float64
	needsTeach  bool
	needsSpot   bool
	with        int // −1 = anybody
	after       []int
	// The latest moment at which a flight may still land, for wind and hours.
	last sec
}

// aPerson is an instructor or a spotter; paired is whether some student flies
// with nobody else.
type aPerson struct {
	from, until sec
	paired      bool
}

// aWind is the wind from a moment on.
type aWind struct {
	from sec
	mps  float64
}

// start is where everything stands when planning begins.
type start struct {
	// When each is free, rested, or full or cooled.
	craft, box, teach, spot, student, slot, pack []sec
	// Of each student: when the newest flight ends.
	aloft []sec
	full  []bool
	// Of each pack: on which slot it is; −1 = none.
	charging []int
}

// sec is a moment in seconds of the day, rounded up: what limits from below.
func (d *Day) sec(t time.Time) sec { return sec(math.Ceil(t.Sub(d.Start).Seconds())) }

// until is a moment that limits from above, rounded down; or where it is not
// set, and or at most.
func (d *Day) until(t time.Time, or sec) sec {
	if t.IsZero() {
		return or
	}
	return min(or, sec(math.Floor(t.Sub(d.Start).Seconds())))
}

// from is a moment that limits from below; the start of the day where it is not
// set.
func (d *Day) from(t time.Time) sec {
	if t.IsZero() {
		return 0
	}
	return max(0, d.sec(t))
}

// at is the moment of so many seconds.
func (d *Day) at(s sec) time.Time { return d.Start.Add(time.Duration(s) * time.Second) }

// problemOf compiles a day. prev are the flights of the plan that stood before;
// nil for none.
func problemOf(d *Day, prev []Flight) *problem {
	p := &problem{day: d, boxes: d.Boxes, turn: sec(d.Turnaround / time.Second)}
	// The light may end before the day does.
	p.end = min(d.until(d.End, never), d.until(d.Daylight, never))
	// Without it the whole day is planned.
	if !d.Now.IsZero() {
		p.now = max(0, d.sec(d.Now))
	}
	// Types are numbered as they come.
	typeOf := func(t string) int {
		i := slices.Index(p.types, t)
		if i < 0 {
			i, p.types = len(p.types), append(p.types, t)
		}
		return i
	}
	for _, c := range d.Craft {
		p.craft = append(p.craft, aCraft{typ: typeOf(c.Type), wind: c.WindMps, from: d.from(c.From), until: d.until(c.Until,
			p.end)})
	}
	for _, k := range d.Packs {
		p.packs = append(p.packs, aPack{typeOf(k.Type), k.Full, sec(k.Charge / time.Second), sec(k.Cool / time.Second)})
	}
	for i, c := range d.Chargers {
		for s := range c.Slots {
			p.slots = append(p.slots, aSlot{i, s + 1})
		}
	}
	for _, w := range d.Wind {
		p.wind = append(p.wind, aWind{max(0, d.sec(w.From)), w.Mps})
	}
	slices.SortStableFunc(p.wind, func(a, b aWind) int { return int(a.from - b.from) })
	// Students are compiled before what was flown is taken off them, and the
	// weights last, since they look at both.
	p.teach, p.spot = personsOf(d, d.Instructors), personsOf(d, d.Spotters)
	p.readStudents(d)
	p.begin(d)
	p.weigh()
	p.follow(d, prev)
	return p
}

// personsOf compiles people.
func personsOf(d *Day, list []Person) (out []aPerson) {
	for _, x := range list {
		out = append(out, aPerson{from: d.from(x.From), until: d.until(x.Until, never)})
	}
	return out
}

// readStudents compiles the students, and who has to fly before whom.
func (p *problem) readStudents(d *Day) {
	for _, s := range d.Students {
		a := aStudent{kind: s.Kind, left: s.Flights, dur: sec(s.Flight / time.Second), rest: sec(s.Rest / time.Second),
			from: d.from(s.From), until: d.until(s.Until, p.end),
			wind: s.WindMps, needsTeach: s.Instructor, needsSpot: s.Spotter, with: -1}
		for i, c := range d.Craft {
			if slices.Contains(s.Craft, c.ID) {
				a.craft = append(a.craft, i)
			}
		}
		// The day was checked, so the instructor is on the list.
		if s.With != "" {
			a.with = slices.IndexFunc(d.Instructors, func(x Person) bool { return x.ID == s.With })
			p.teach[a.with].paired = true
		}
		p.students = append(p.students, a)
	}
	for i := range p.students {
		s := &p.students[i]
		for j, other := range d.Students {
			first := &p.students[j]
			switch {
			// Nobody waits for one who has nothing to fly, and who proves a
			// craft waits for nobody.
			case i == j || first.left == 0 || s.kind == Proving:
			// A craft that is to be proven is flown by nobody before that; a
			// demonstration comes before the lessons that it is for.
			case first.kind == Proving && slices.ContainsFunc(s.craft, func(c int) bool {
				return slices.Contains(first.craft,
					c)
			}),
				first.kind == Demonstration && s.kind == Lesson && (len(other.Before) == 0 || slices.Contains(other.Before,
					d.Students[i].ID)):
				s.after = append(s.after, j)
				p.proving = true
			}
		}
		s.last = p.lastLanding(s)
	}
}

// weigh works out how much is asked of each craft: the share of the day for
// which it would fly, or of its type's packs for which they would, whichever is
// more, where those who can fly several share out evenly.
func (p *problem) weigh() {
	p.scarce = make([]float64, len(p.craft))
	flights, minutes := make([]float64, len(p.types)), make([]float64, len(p.craft))
	for i := range p.students {
		s := &p.students[i]
		for _, c := range s.craft {
			// Who can fly several takes an even share of each.
			share := float64(s.left) / float64(len(s.craft))
			flights[p.craft[c].typ] += share
			minutes[c] += share * float64(s.dur+p.turn)
		}
	}
	day := math.Max(1, float64(p.end-p.now))
	for c := range p.craft {
		typ := p.craft[c].typ
		can := 0.0 // flights that the packs of the type give in the day
		for i, k := range p.packs {
			if k.typ == typ {
				// A pack comes round once in a flight of ten minutes, its
				// cooling and its charge.
				can += math.Max(1, day/float64(600+k.cool+k.charge))
				if p.begun.full[i] {
					can++
				}
			}
		}
		p.scarce[c] = math.Max(minutes[c]/day, flights[typ]/math.Max(0.5, can))
	}
}

// blows is the strongest mean wind in m/s that is expected between two moments.
func (p *problem) blows(from, to sec) float64 {
	most, before := 0.0, 0.0
	for _, w := range p.wind {
		// The wind that was there as it began counts as well.
		if w.from <= from {
			before = w.mps
		} else if w.from < to {
			most = math.Max(most, w.mps)
		}
	}
	return math.Max(most, before)
}

// limit is the wind in m/s that a student may fly a craft in; +Inf for any.
func (p *problem) limit(s *aStudent, c int) float64 {
	limit := math.Inf(1)
	if s.wind > 0 {
		limit = s.wind
	}
	if w := p.craft[c].wind; w > 0 {
		limit = math.Min(limit, w)
	}
	return limit
}

// lastLanding is the latest moment at which the student may still land, for
// hours and wind.
func (p *problem) lastLanding(s *aStudent) sec {
	last := sec(0)
	for _, c := range s.craft {
		limit, stop := p.limit(s, c), min(s.until, p.craft[c].until)
		// From when on it is too windy for good.
		calm := never
		for i, w := range p.wind {
			if i == 0 {
				calm = w.from
			}
			// Calm enough here, so it is too windy from the next entry on at
			// the soonest.
			if w.mps <= limit {
				calm = never
				if i+1 < len(p.wind) {
					calm = p.wind[i+1].from
				}
			}
		}
		last = max(last, min(stop, calm))
	}
	return last
}

// begin works out where everything stands at now, from what has been flown.
func (p *problem) begin(d *Day) {
	b := &p.begun
	b.craft, b.box, b.teach, b.spot, b.student, b.aloft = make([]sec, len(p.craft)), make([]sec, p.boxes), make([]sec,
		len(p.teach)), make([]sec, len(p.spot)), make([]sec, len(p.students)), make([]sec, len(p.students))
	b.slot, b.pack, b.full, b.charging = make([]sec, len(p.slots)), make([]sec, len(p.packs)), make([]bool,
		len(p.packs)), make([]int, len(p.packs))
	for i, c := range p.craft {
		b.craft[i] = max(p.now, c.from)
	}
	for i := range b.box {
		b.box[i] = p.now
	}
	for i := range b.slot {
		b.slot[i] = p.now
	}
	for i, s := range p.students {
		b.student[i] = max(p.now, s.from)
	}
	for i, x := range p.teach {
		b.teach[i] = max(p.now, x.from)
	}
	for i, x := range p.spot {
		b.spot[i] = max(p.now, x.from)
	}
	for i, k := range d.Packs {
		b.full[i], b.pack[i], b.charging[i] = k.Full, max(p.now, d.from(k.From)), -1
		// A pack that is being charged holds its slot.
		if k.Full && k.Charger != "" && b.pack[i] > p.now {
			for s, at := range p.slots {
				if d.Chargers[at.charger].ID == k.Charger && b.slot[s] == p.now {
					b.slot[s], b.charging[i] = b.pack[i], s
					break
				}
			}
		}
	}
	for i := range d.Flown {
		p.takeFlown(d, &d.Flown[i])
	}
}

// takeFlown takes a flight that was flown, or is in the air, off what is asked,
// and holds what it uses until that is free again.
func (p *problem) takeFlown(d *Day, f *Flight) {
	b := &p.begun
	end := d.sec(f.End)
	p.landed = max(p.landed, end)
	// Who or what is not known by its id any more has index −1, and holds
	// nobody up.
	later := func(list []sec, i int, t sec) {
		if i >= 0 && i < len(list) {
			list[i] = max(list[i], t)
		}
	}
	if i := slices.IndexFunc(d.Students, func(s Student) bool { return s.ID == f.Student }); i >= 0 {
		// A flight that was flown is one fewer to plan, even one more than
		// was asked.
		p.students[i].left = max(0, p.students[i].left-1)
		p.students[i].flown++
		later(b.student, i, end+p.students[i].rest)
		later(b.aloft, i, end)
	}
	later(b.craft, slices.IndexFunc(d.Craft, func(c Craft) bool { return c.ID == f.Craft }), end+p.turn)
	later(b.box, f.Box-1, end+p.turn)
	later(b.teach, slices.IndexFunc(d.Instructors, func(x Person) bool { return x.ID == f.Instructor }), end)
	later(b.spot, slices.IndexFunc(d.Spotters, func(x Person) bool { return x.ID == f.Spotter }), end)
	// What landed before now is told by the pack itself.
	if i := slices.IndexFunc(d.Packs, func(k Pack) bool { return k.ID == f.Pack }); i >= 0 && end > p.now {
		b.full[i], b.pack[i], b.charging[i] = false, end+p.packs[i].cool, -1 // it is in the air now
	}
}

// follow notes what the plan before had for each student's flights, in order.
func (p *problem) follow(d *Day, prev []Flight) {
	if prev == nil {
		return
	}
	p.prev = make([][]Flight, len(p.students))
	for i, s := range d.Students {
		for _, f := range prev {
			// What was to begin before now and has not been flown is planned
			// afresh.
			if f.Student == s.ID && !f.Start.Before(d.at(p.now)) && !f.Flown {
				p.prev[i] = append(p.prev[i], f)
			}
		}
		slices.SortFunc(p.prev[i], func(a, b Flight) int { return a.Start.Compare(b.Start) })
	}
}
