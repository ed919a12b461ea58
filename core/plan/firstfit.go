package plan

import (
	"cmp"
	"math"
	"slices"
)

// firstFit is a pass that takes the flights one after another and puts each at
// the first moment at which all that it needs is free. It costs next to
// nothing, so the search begins with several such passes, and no plan leaves
// out a flight that one of them places. (The serial schedule-generation scheme:
// R. Kolisch, as cited at run.)
type firstFit struct {
	p *problem
	// Each list has a lane for each of the things, in the order of the problem.
	craft, box, teach, spot, slot []lane
	// Of each pack: whether it is charged.
	full []bool
	// Of each: from when it is full, or has cooled.
	pack []sec
	// Of each student: rested and there.
	ready []sec
	// The plan so far.
	out *run
}

// lane is when one thing is taken, in order of time.
type lane []span

// span is a time in seconds of the day, the end left out.
type span struct{ from, to sec }

// free tells whether nothing takes the thing between two moments.
func (l lane) free(from, to sec) bool {
	for _, s := range l {
		if s.from < to && from < s.to {
			return false
		}
	}
	return true
}

// gap is the first moment from which so much time is free.
func (l lane) gap(from, long sec) sec {
	for _, s := range l {
		if s.from < from+long && from < s.to {
			from = s.to
		}
	}
	return from
}

// take takes the thing between two moments.
func (l *lane) take(from, to sec) {
	*l = append(*l, span{from, to})
	slices.SortFunc(*l, func(a, b span) int { return cmp.Compare(a.from, b.from) })
}

// firstFits are plans by first-fit passes in several orders of the flights, and
// by simple passes forward in time.
func (p *problem) firstFits() (out []*run) {
	// Three orders: as listed, by who has the least room, by who can begin
	// first.
	slack := func(i int) sec {
		s := &p.students[i]
		return s.last - sec(s.left)*(s.dur+s.rest)
	}
	listed := func(a, b int) int { return cmp.Compare(a, b) }
	pressing := func(a, b int) int { return cmp.Or(cmp.Compare(slack(a), slack(b)), cmp.Compare(a, b)) }
	sooner := func(a, b int) int {
		return cmp.Or(cmp.Compare(p.begun.student[a], p.begun.student[b]), cmp.Compare(a, b))
	}
	for _, by := range []func(a, b int) int{listed, pressing, sooner} {
		out = append(out, p.firstFit(by, true), p.firstFit(by, false))
	}
	for _, plain := range []plainPass{fromTheTop, fromTheEnd} {
		r := newRun(p)
		r.plain = plain
		r.build()
		out = append(out, r)
	}
	return out
}

// firstFit is one pass: the students by an order, each with one flight in turn
// or with all flights at once. What has to be flown before others goes first.
func (p *problem) firstFit(by func(a, b int) int, inTurn bool) *run {
	f := firstFit{p: p, out: newRun(p)}
	f.out.reset()
	b := &p.begun
	// Until now everything is taken.
	lanes := func(busy []sec) []lane {
		out := make([]lane, len(busy))
		for i, until := range busy {
			out[i] = lane{{math.MinInt32 / 2, until}}
		}
		return out
	}
	f.craft, f.box, f.teach, f.spot, f.slot = lanes(b.craft), lanes(b.box), lanes(b.teach), lanes(b.spot), lanes(b.slot)
	f.full, f.pack, f.ready = slices.Clone(b.full), slices.Clone(b.pack), slices.Clone(b.student)
	order := make([]int, len(p.students))
	for i := range order {
		order[i] = i
	}
	rank := func(i int) int { return map[string]int{Proving: -2, Demonstration: -1}[p.students[i].kind] }
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Or(cmp.Compare(rank(a), rank(b)), by(a, b)) })
	// Round after round, until a round places nothing.
	for placed := true; placed; {
		placed = false
		for _, i := range order {
			for f.out.left[i] > 0 && f.place(i) {
				placed = true
				if inTurn && p.students[i].kind == Lesson {
					break
				}
			}
		}
	}
	slices.SortStableFunc(f.out.flights, func(a, b placed) int { return cmp.Compare(a.start, b.start) })
	return f.out
}

// place puts a student's next flight at the first moment at which it fits, and
// tells whether there is one.
func (f *firstFit) place(i int) bool {
	p, s := f.p, &f.p.students[i]
	from := f.ready[i]
	for _, first := range s.after {
		if f.out.left[first] > 0 {
			return false
		}
		from = max(from, f.out.aloft[first])
	}
	for _, t := range f.moments(from) {
		if t+s.dur > min(s.until, p.end) {
			return false
		}
		if g, ok := f.fits(i, t); ok {
			f.keep(g)
			return true
		}
	}
	return false
}

// moments are when something may become free, from one of them on, in order.
func (f *firstFit) moments(from sec) []sec {
	out := []sec{from}
	for _, lanes := range [][]lane{f.craft, f.box, f.teach, f.spot} {
		for _, l := range lanes {
			for _, s := range l {
				out = append(out, s.to)
			}
		}
	}
	for k := range f.pack {
		at, _ := f.charged(k)
		out = append(out, at)
	}
	for _, w := range f.p.wind {
		out = append(out, w.from)
	}
	slices.Sort(out)
	out = slices.Compact(out)
	at, _ := slices.BinarySearch(out, from)
	return out[at:]
}

// charged returns when a pack is full, and on which slot it is charged before,
// −1 where it is not; never without a slot.
func (f *firstFit) charged(k int) (at sec, slot int) {
	if f.full[k] {
		return f.pack[k], -1
	}
	// The slot on which it is full first; with equal times, the first of the
	// list.
	at, slot = never, -1
	for s := range f.slot {
		if full := f.slot[s].gap(f.pack[k], f.p.packs[k].charge) + f.p.packs[k].charge; full < at {
			at, slot = full, s
		}
	}
	return at, slot
}

// fits finds what a flight at t needs; ok is false where something is lacking.
func (f *firstFit) fits(i int, t sec) (placed, bool) {
	p, s := f.p, &f.p.students[i]
	end := t + s.dur
	g := placed{student: i, nth: f.out.done[i], craft: -1, pack: -1, teach: -1, spot: -1, start: t, end: end}
	// A flight takes its box and its craft for the turnaround as well.
	g.box = slices.IndexFunc(f.box, func(l lane) bool { return l.free(t, end+p.turn) })
	if g.box < 0 {
		return g, false
	}
	// The first who is free for the whole flight; only is the one whom the
	// student flies with, −1 for anybody.
	anybody := func(lanes []lane, list []aPerson, only int) int {
		for k, l := range lanes {
			if (only < 0 || k == only) && l.free(t, end) && end <= list[k].until {
				return k
			}
		}
		return -1
	}
	if s.needsTeach {
		if g.teach = anybody(f.teach, p.teach, s.with); g.teach < 0 {
			return g, false
		}
	}
	if s.needsSpot {
		if g.spot = anybody(f.spot, p.spot, -1); g.spot < 0 {
			return g, false
		}
	}
	// The craft of which least is asked by others.
	wind, least := p.blows(t, end), math.Inf(1)
	for _, c := range s.craft {
		if end > p.craft[c].until || wind > p.limit(s, c) || !f.craft[c].free(t, end+p.turn) || p.scarce[c] >= least {
			continue
		}
		if k := f.packFor(p.craft[c].typ, t); k >= 0 {
			g.craft, g.pack, least = c, k, p.scarce[c]
		}
	}
	return g, g.craft >= 0
}

// packFor is the pack of a type that is full by t and comes back soonest; −1
// where there is none.
func (f *firstFit) packFor(typ int, t sec) int {
	best, least := -1, never
	for k, x := range f.p.packs {
		if x.typ != typ {
			continue
		}
		// The one that is soonest there again leaves the others for later
		// flights.
		if at, _ := f.charged(k); at <= t && x.cool+x.charge < least {
			best, least = k, x.cool+x.charge
		}
	}
	return best
}

// keep takes what a flight needs.
func (f *firstFit) keep(g placed) {
	p := f.p
	// A pack that is not full takes the slot before the flight takes the pack.
	if at, slot := f.charged(g.pack); slot >= 0 {
		begun := at - p.packs[g.pack].charge
		f.slot[slot].take(begun, at)
		f.out.charges = append(f.out.charges, charged{g.pack, slot, begun, at})
	}
	f.full[g.pack], f.pack[g.pack] = false, g.end+p.packs[g.pack].cool
	f.craft[g.craft].take(g.start, g.end+p.turn)
	f.box[g.box].take(g.start, g.end+p.turn)
	if g.teach >= 0 {
		f.teach[g.teach].take(g.start, g.end)
	}
	if g.spot >= 0 {
		f.spot[g.spot].take(g.start, g.end)
	}
	f.out.left[g.student]--
	f.out.done[g.student]++
	f.out.aloft[g.student] = g.end
	f.ready[g.student] = g.end + p.students[g.student].rest
	f.out.flights = append(f.out.flights, g)
}
