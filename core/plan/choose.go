package plan

import (
	"math"
)

// With what a flight is flown: which craft, which pack, and who is with the
// student. Each choice leaves the others as much as it can.

// fits finds craft, pack and people with which student i can fly at t. Of
// several craft it takes the one of which least is asked by others. ok is false
// where something is lacking.
func (r *run) fits(i int, t sec) (placed, bool) {
	p := r.p
	s := &p.students[i]
	f := placed{student: i, nth: r.done[i], craft: -1, pack: -1, teach: -1, spot: -1, start: t, end: t + s.dur}
	if f.end > s.until || f.end > p.end {
		return f, false
	}
	// A student with nobody to fly with needs no craft, so people are asked
	// first.
	if s.needsTeach {
		if f.teach = r.person(p.teach, r.at.teach, s.with, t, f.end); f.teach < 0 {
			return f, false
		}
	}
	if s.needsSpot {
		if f.spot = r.person(p.spot, r.at.spot, -1, t, f.end); f.spot < 0 {
			return f, false
		}
	}
	wind := p.blows(t, f.end)
	stood := r.before(i)
	least := math.Inf(1)
	for _, c := range s.craft {
		// Not free, gone before the end, or not for this wind.
		if r.at.craft[c] > t || f.end > p.craft[c].until || wind > p.limit(s, c) {
			continue
		}
		k := r.fullPack(p.craft[c].typ, t, stood)
		if k < 0 {
			continue
		}
		// What the search presses is added to how scarce the craft is.
		cost := p.scarce[c] + r.lean[i][p.craft[c].typ]
		if r.plain != notPlain {
			// A simple pass takes the first of the list.
			cost = float64(c)
		}
		// The craft that the plan before had is worth any other.
		if stood != nil && p.day.Craft[c].ID == stood.Craft {
			cost = math.Inf(-1)
		}
		if cost < least {
			least, f.craft, f.pack = cost, c, k
		}
	}
	return f, f.craft >= 0
}

// inTheWay tells whether a flight would take the last box or craft from
// somebody who is expected before it is over. A plan in which nothing ever
// waits for somebody can be far from the best one.
func (r *run) inTheWay(f *placed) bool {
	for j, on := range r.expect {
		if !on || j == f.student || r.left[j] == 0 {
			continue
		}
		// Expected before the flight began, or after it is over, nobody is kept
		// waiting.
		come := r.could(j)
		if come <= f.start || come >= f.end+r.p.turn {
			continue
		}
		if !freeBut(r.at.box, nil, f.box, come) || !freeBut(r.at.craft, r.p.students[j].craft, f.craft, come) {
			return true
		}
	}
	return false
}

// could is the first moment at which a student could fly, for rest, craft and
// packs.
func (r *run) could(j int) sec {
	first := never
	for _, c := range r.p.students[j].craft {
		first = min(first, max(r.at.craft[c], r.soon(r.p.craft[c].typ)))
	}
	return max(first, r.at.student[j])
}

// soon is when the next pack of a type is full, of those that are or are being
// charged; never for none.
func (r *run) soon(typ int) sec {
	if r.ready[typ] == 0 {
		// Kept as one second more, so that 0 means that it was not looked for.
		r.ready[typ] = never
		for i := range r.p.packs {
			if r.p.packs[i].typ == typ && r.at.full[i] {
				r.ready[typ] = min(r.ready[typ], r.at.pack[i]+1)
			}
		}
	}
	return r.ready[typ] - 1
}

// freeBut tells whether one of the list, or of those that are named, other than
// but is free at a moment.
func freeBut(list []sec, named []int, but int, at sec) bool {
	// All of the list are looked at where none are named.
	if named == nil {
		for i, free := range list {
			if i != but && free <= at {
				return true
			}
		}
		return false
	}
	for _, i := range named {
		if i != but && list[i] <= at {
			return true
		}
	}
	return false
}

// person finds somebody who is there and free from t to the end; −1 for nobody.
// Somebody with whom no student is paired comes before one with whom somebody
// is; with is the one that it has to be, −1 for anybody.
func (r *run) person(list []aPerson, free []sec, with int, t, end sec) int {
	ok := func(i int) bool { return free[i] <= t && end <= list[i].until }
	// A student who is paired waits for that instructor.
	if with >= 0 {
		if ok(with) {
			return with
		}
		return -1
	}
	found := -1
	for i := range list {
		if ok(i) {
			// An instructor with whom a student is paired is kept for that one.
			if !list[i].paired {
				return i
			}
			if found < 0 {
				found = i
			}
		}
	}
	return found
}

// fullPack is a full pack of the type; −1 for none. It takes the one that the
// plan before had, else the one that comes back soonest, and of those the one
// that has been full longest.
func (r *run) fullPack(typ int, t sec, stood *Flight) int {
	p := r.p
	if stood != nil {
		for i := range p.packs {
			// The pack that people have in their hands is kept, where it is
			// full.
			if p.packs[i].typ == typ && r.at.full[i] && r.at.pack[i] <= t && p.day.Packs[i].ID == stood.Pack {
				return i
			}
		}
	}
	// The same for everybody until something changes.
	if r.best[typ] != -2 {
		return r.best[typ]
	}
	best, least := -1, 0.0
	for i := range p.packs {
		if k := &p.packs[i]; k.typ != typ || !r.at.full[i] || r.at.pack[i] > t {
			continue
		}
		if again := float64(p.packs[i].cool+p.packs[i].charge) + r.late[i]; best < 0 || again < least || again == least &&
			r.at.pack[i] < r.at.pack[best] {
			best, least = i, again
		}
	}
	r.best[typ] = best
	return best
}
