package plan

import (
	"cmp"
	"math"
	"slices"
)

// placed is one flight that was placed: indices into the problem's lists, −1
// for nobody, and seconds of the day.
type placed struct {
	student, nth, craft, pack, box, teach, spot int
	start, end                                  sec
}

// charged is one charging of a pack on a slot.
type charged struct {
	pack, slot int
	start, end sec
}

// notCharged is a lateness over which a pack is left empty: a slot is better
// kept for another pack that comes soon.
const notCharged = 1e4

// run builds a plan forward in time. At every moment at which something becomes
// free, packs that have cooled go onto free slots, and those who can fly do,
// the most pressing first. (The parallel schedule-generation scheme: R.
// Kolisch, "Serial and parallel resource-constrained project scheduling methods
// revisited", European Journal of Operational Research 90 (1996) 320.) Nothing
// that it places breaks a rule; what does not fit stays left.
type run struct {
	p  *problem
	at start
	// Of each student: flights still to place.
	left []int
	// Of each student: flights of this plan.
	done []int
	// Since when the student could fly.
	waited []sec
	// Of each student: when the newest flight ends.
	aloft []sec
	// Of each student, minutes sooner (negative) or later.
	bias []float64
	want []float64 // of each type
	// Of each student and type: what is added to its load when a craft is
	// chosen.
	lean [][]float64
	// Of each type: 1 + when the next pack is full; 0 = not looked for.
	ready []sec
	// Of each pack: s by which it is taken to be slower; over notCharged it is
	// not charged.
	late []float64
	// Of each type: the full pack to take; −1 = none, −2 = not looked for.
	best []int
	// Of each student: a box and a craft are kept free for when the student can
	// fly.
	expect []bool
	// Nothing is flown before the plan that stood had it.
	hold bool
	// A simple pass in an order of the list, without looking ahead.
	plain   plainPass
	flights []placed
	charges []charged
}

// plainPass is how a simple pass goes through the students.
type plainPass int

const (
	notPlain plainPass = iota
	fromTheTop
	fromTheEnd
)

// newRun makes a run with nothing pressed and nothing placed.
func newRun(p *problem) *run {
	n := len(p.students)
	r := &run{p: p, left: make([]int, n), done: make([]int, n), waited: make([]sec, n), aloft: make([]sec, n),
		bias: make([]float64, n), want: make([]float64, len(p.types)), expect: make([]bool, n), lean: make([][]float64,
			n), best: make([]int, len(p.types)), late: make([]float64, len(p.packs)), ready: make([]sec, len(p.types))}
	for i := range r.lean {
		r.lean[i] = make([]float64, len(p.types))
	}
	return r
}

// reset puts everything where it stands as planning begins, and takes all
// flights away. What is pressed stays.
func (r *run) reset() {
	p := r.p
	b := &p.begun
	copyInto := func(to *[]sec, from []sec) { *to = append((*to)[:0], from...) }
	copyInto(&r.at.craft, b.craft)
	copyInto(&r.at.box, b.box)
	copyInto(&r.at.teach, b.teach)
	copyInto(&r.at.spot, b.spot)
	copyInto(&r.at.student, b.student)
	copyInto(&r.at.slot, b.slot)
	copyInto(&r.at.pack, b.pack)
	r.at.full = append(r.at.full[:0], b.full...)
	r.at.charging = append(r.at.charging[:0], b.charging...)
	for i := range p.students {
		r.left[i], r.done[i], r.waited[i], r.aloft[i] = p.students[i].left, 0, b.student[i], p.begun.aloft[i]
	}
	r.flights, r.charges = r.flights[:0], r.charges[:0]
}

// build makes the plan for what is pressed.
func (r *run) build() {
	r.reset()
	// From moment to moment, as long as something may begin.
	for t := r.p.now; t < r.p.end; {
		r.charge(t)
		// Which pack is best changes only with time and with flights.
		for i := range r.best {
			r.best[i], r.ready[i] = -2, 0
		}
		// One flight at a time, since each takes a box that another wanted.
		for r.fly(t) {
		}
		t = r.next(t)
	}
}

// charge puts packs that have cooled onto the slots that are free at t: the
// type first of which most is still asked for each pack that is full or on its
// way.
func (r *run) charge(t sec) {
	p := r.p
	for slot := range r.at.slot {
		if r.at.slot[slot] > t {
			continue
		}
		// Of packs of one type the one that charges quickest.
		best, most := -1, 0.0
		for i := range r.want {
			r.want[i] = -1
		}
		for i := range p.packs {
			// Full, still flying or cooling, or kept for later.
			if r.at.full[i] || r.at.pack[i] > t || r.late[i] > notCharged {
				continue
			}
			want := r.want[p.packs[i].typ]
			if want < 0 {
				want = r.wanted(p.packs[i].typ)
				r.want[p.packs[i].typ] = want
			}
			if r.plain != notPlain { // in the order of the list
				best = i
				break
			}
			if want > most || best >= 0 && want == most &&
				float64(p.packs[i].charge)+r.late[i] < float64(p.packs[best].charge)+r.late[best] {
				best, most = i, want
			}
		}
		if best < 0 {
			return
		}
		end := t + p.packs[best].charge
		r.at.slot[slot], r.at.pack[best], r.at.full[best], r.at.charging[best] = end, end, true, slot
		r.charges = append(r.charges, charged{best, slot, t, end})
	}
}

// wanted is how many flights are still asked of a type, for which no pack is
// full or being charged, for each pack that is; 0 where there are enough.
func (r *run) wanted(typ int) float64 {
	asked, ready := 0.0, 0
	for i := range r.p.students {
		s := &r.p.students[i]
		if r.left[i] == 0 {
			continue
		}
		for _, c := range s.craft {
			if r.p.craft[c].typ == typ {
				asked += float64(r.left[i])
				break
			}
		}
	}
	for i := range r.p.packs {
		if r.p.packs[i].typ == typ && r.at.full[i] {
			ready++
		}
	}
	// Each full pack is one flight that needs no charging.
	if asked <= float64(ready) {
		return 0
	}
	// One is added below, so that a type with no full pack has a figure too.
	return (asked - float64(ready)) / (1 + float64(ready))
}

// fly places the most pressing flight that can begin at t, and tells whether
// there was one.
func (r *run) fly(t sec) bool {
	p := r.p
	box := r.freeBox(t)
	if box < 0 {
		return false
	}
	best, bestKey := placed{student: -1}, math.Inf(1)
	for i := range p.students {
		if r.left[i] == 0 || r.at.student[i] > t || !r.mayBegin(i, t) {
			continue
		}
		key := r.key(i, t)
		// The order is cheap and the fit is dear, so the fit is asked only of
		// who would go first.
		if key >= bestKey {
			continue
		}
		if f, ok := r.fits(i, t); ok {
			f.box = box
			if r.inTheWay(&f) {
				continue
			}
			best, bestKey = f, key
		}
	}
	if best.student < 0 {
		return false
	}
	r.place(best)
	return true
}

// freeBox is the first box that is free at a moment; −1 for none.
func (r *run) freeBox(t sec) int {
	for i, free := range r.at.box {
		if free <= t {
			return i
		}
	}
	return -1
}

// mayBegin tells whether those that have to fly before a student have flown,
// and whether the plan that stood, where it is kept to, had the student in the
// air by then.
func (r *run) mayBegin(i int, t sec) bool {
	if r.hold {
		if f := r.before(i); f != nil && r.p.day.sec(f.Start) > t {
			return false
		}
	}
	// All flights of who goes before have to be placed, and to have landed.
	for _, first := range r.p.students[i].after {
		if r.left[first] > 0 || r.aloft[first] > t {
			return false
		}
	}
	return true
}

// before is the student's next flight in the plan that stood; nil for none.
func (r *run) before(i int) *Flight {
	if r.p.prev == nil || r.done[i] >= len(r.p.prev[i]) {
		return nil
	}
	return &r.p.prev[i][r.done[i]]
}

// key is how soon a student should fly, in minutes; the least comes first. Who
// runs out of day or of calm air goes first, then whose flights and rests still
// take longest, then who has waited longest.
func (r *run) key(i int, t sec) float64 {
	s := &r.p.students[i]
	switch r.plain {
	case fromTheTop:
		return float64(i)
	case fromTheEnd:
		return -float64(i)
	}
	if f := r.before(i); f != nil {
		return float64(r.p.day.sec(f.Start)-t)/60 + r.bias[i]
	}
	// What is left, one flight after another with the rests between, and none
	// after the last.
	chain := sec(r.left[i])*(s.dur+s.rest) - s.rest
	k := -float64(chain)/60 - 0.5*float64(t-r.waited[i])/60 + r.bias[i]
	// Under three quarters of an hour of room the student becomes more pressing
	// by the minute.
	if slack := float64(s.last-t-chain) / 60; slack < 45 {
		k -= 45 - slack
	}
	// Proving and showing come first whatever presses.
	if s.kind != Lesson {
		k -= 1e4
	}
	return k
}

// place takes what a flight needs, until it is free again.
func (r *run) place(f placed) {
	p := r.p
	s := &p.students[f.student]
	r.left[f.student]--
	r.done[f.student]++
	r.aloft[f.student] = f.end
	r.at.student[f.student], r.waited[f.student] = f.end+s.rest, f.end+s.rest
	r.at.craft[f.craft], r.at.box[f.box] = f.end+p.turn, f.end+p.turn
	r.best[p.packs[f.pack].typ], r.ready[p.packs[f.pack].typ] = -2, 0
	// The pack lands empty, and may be charged once it has cooled.
	r.at.full[f.pack], r.at.pack[f.pack], r.at.charging[f.pack] = false, f.end+p.packs[f.pack].cool, -1
	// An instructor is free as the craft lands; box and craft stay busy for the
	// turnaround.
	if f.teach >= 0 {
		r.at.teach[f.teach] = f.end
	}
	if f.spot >= 0 {
		r.at.spot[f.spot] = f.end
	}
	r.flights = append(r.flights, f)
}

// next is the next moment after t at which something becomes free or the wind
// changes; never where nothing does.
func (r *run) next(t sec) sec {
	n := never
	soonest := func(list []sec) {
		for _, v := range list {
			if v > t && v < n {
				n = v
			}
		}
	}
	soonest(r.at.box)
	soonest(r.at.craft)
	soonest(r.at.student)
	soonest(r.at.teach)
	soonest(r.at.spot)
	soonest(r.at.slot)
	soonest(r.at.pack)
	// Whoever waits for another's flight may begin when that lands.
	if r.p.proving {
		soonest(r.aloft)
	}
	for _, w := range r.p.wind {
		if w.from > t && w.from < n {
			n = w.from
		}
	}
	if r.hold {
		for i := range r.left {
			if f := r.before(i); f != nil {
				if v := r.p.day.sec(f.Start); v > t && v < n {
					n = v
				}
			}
		}
	}
	return n
}

// needed drops the chargings after which the pack is not flown again. The
// others are in the order of their begin.
func (r *run) needed() []charged {
	// A charging that ends after the last use of its pack was for nothing.
	lastUse := make([]sec, len(r.p.packs))
	for _, f := range r.flights {
		lastUse[f.pack] = max(lastUse[f.pack], f.start+1)
	}
	var out []charged
	for _, c := range r.charges {
		if lastUse[c.pack] > c.end {
			out = append(out, c)
		}
	}
	slices.SortFunc(out, func(a, b charged) int {
		return cmp.Or(cmp.Compare(a.start, b.start), cmp.Compare(a.slot,
			b.slot))
	})
	return out
}
