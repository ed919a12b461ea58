package plan

import (
	"slices"
)

// A plan is worth more when it says how much better another one could be at
// most. The bound is worked out from the day alone, one resource at a time, and
// never from a plan.

// bound returns a moment before which the flights that were placed cannot all
// have landed, in seconds from the start of the day, and which resource sets
// it. done is how many flights of each student were placed. Each bound relaxes
// the day to one resource: everything else is there at once and without end.
func (p *problem) bound(done []int) (most sec, by string) {
	by = "students"
	// The largest of all bounds holds, and it is told what sets it.
	take := func(v sec, what string) {
		if v > most {
			most, by = v, what
		}
	}
	any := false
	var total, teach, spot sec
	shortest := never
	for i, n := range done {
		if n == 0 {
			continue
		}
		s := &p.students[i]
		any = true
		shortest = min(shortest, s.dur)
		// A box is taken for the flight and the turnaround; people for the
		// flight alone.
		total += sec(n) * (s.dur + p.turn)
		if s.needsTeach {
			teach += sec(n) * s.dur
		}
		if s.needsSpot {
			spot += sec(n) * s.dur
		}
		// Own flights, one after another with their rests.
		take(p.begun.student[i]+sec(n)*s.dur+sec(n-1)*s.rest, "students")
	}
	take(p.landed, "students")
	if !any {
		return most, by
	}
	// All flights share the boxes; those that need an instructor or a spotter
	// share these as well.
	take(shared(p.begun.box, total, p.turn), "boxes")
	take(p.alongside(done, nil, p.begun.box), "boxes")
	take(shared(p.begun.teach, teach, 0), "instructors")
	take(shared(p.begun.spot, spot, 0), "spotters")
	p.boundCraft(done, take)
	p.boundPacks(done, shortest, take)
	return most, by
}

// shared is the soonest moment at which some work can be done that several
// resources share. Each is free from a moment on, and needs after more after
// each piece save the last. However many of them are used, the least over their
// number holds. It is 0 without work or without resources.
func shared(free []sec, work, after sec) sec {
	if work == 0 || len(free) == 0 {
		return 0
	}
	// With fewer resources than there are, the ones that are free first do
	// best.
	from := slices.Clone(free)
	slices.Sort(from)
	least := never
	sum := sec(0)
	for n, f := range from {
		sum += f
		// The work is shared evenly among k, and rounded up.
		k := sec(n + 1)
		// All of k work until the end: sum of (end − free) ≥ work − k·after.
		v := (sum + work - k*after + k - 1) / k
		least = min(least, v)
	}
	return max(0, least)
}

// alongside bounds by what has to come one after another where there are more
// flights than boxes or craft. Of the k·m + 1 longest flights on m of them,
// some k + 1 are on one, and these take as long as the k + 1 shortest of them
// at least. (M. Dell'Amico, S. Martello, "Optimal scheduling of tasks on
// identical parallel processors", ORSA Journal on Computing 7 (1995) 191, bound
// L3.) set are the craft that count, nil for boxes.
func (p *problem) alongside(done, set []int, free []sec) sec {
	m := len(free)
	if m == 0 {
		return 0
	}
	var list []sec
	for i, n := range done {
		// Who could also fly something outside the set does not have to be on
		// it.
		if set != nil && !within(p.students[i].craft, set) {
			continue
		}
		for range n {
			list = append(list, p.students[i].dur+p.turn)
		}
	}
	slices.SortFunc(list, func(a, b sec) int { return int(b - a) })
	var most sec
	// The longest first: list[k*m-k : k*m+1] are the k + 1 shortest of the
	// first k·m + 1.
	for k := 1; k*m < len(list); k++ {
		sum := sec(0)
		for _, v := range list[k*m-k : k*m+1] {
			sum += v
		}
		// After the last flight no turnaround has to be over.
		most = max(most, slices.Min(free)+sum-p.turn)
	}
	return most
}

// boundCraft bounds by every set of craft that some students are held to: those
// of one student, and the unions of those that overlap. Two hundred sets are
// enough.
func (p *problem) boundCraft(done []int, take func(sec, string)) {
	var sets [][]int
	add := func(set []int) {
		if !slices.ContainsFunc(sets, func(x []int) bool { return slices.Equal(x, set) }) {
			sets = append(sets, set)
		}
	}
	for i := range p.students {
		if done[i] > 0 {
			add(p.students[i].craft)
		}
	}
	// Two sets that share a craft bound together what neither bounds alone.
	for i := 0; i < len(sets) && len(sets) < 200; i++ {
		for j := range i {
			// The list grows while it is gone through, so unions of unions are
			// found too.
			if union := merged(sets[i], sets[j]); len(union) < len(sets[i])+len(sets[j]) {
				add(union)
			}
		}
	}
	for _, set := range sets {
		work := sec(0)
		for i, n := range done {
			if n > 0 && within(p.students[i].craft, set) {
				work += sec(n) * (p.students[i].dur + p.turn)
			}
		}
		free := make([]sec, len(set))
		for i, c := range set {
			free[i] = p.begun.craft[c]
		}
		take(shared(free, work, p.turn), "craft")
		take(p.alongside(done, set, free), "craft")
	}
}

// merged is the union of two sets, in order.
func merged(a, b []int) []int {
	out := append(slices.Clone(a), b...)
	slices.Sort(out)
	return slices.Compact(out)
}

// within tells whether all of a are in set.
func within(a, set []int) bool {
	for _, c := range a {
		if !slices.Contains(set, c) {
			return false
		}
	}
	return true
}

// unions are the sets of n types as bits: all where they are few, else each
// alone and all together.
func unions(n int) (out []uint64) {
	if n <= 6 {
		// The empty set is left out: nobody flies on nothing.
		for set := range uint64(1<<n) - 1 {
			out = append(out, set+1)
		}
		return out
	}
	for i := range n {
		out = append(out, 1<<i)
	}
	return append(out, 1<<n-1)
}

// boundPacks bounds by the packs of each type, and of types together, with
// every flight as short as the shortest. It does so twice: once with a queue at
// the chargers and every pack as quick as the quickest, where flying and
// charging each as soon as it can be is best; and once by how often each pack
// can come round, and how much the slots can charge.
func (p *problem) boundPacks(done []int, shortest sec, take func(sec, string)) {
	var demands []demand
	for _, set := range unions(len(p.types)) {
		// Whoever can only fly craft of these types flies on their packs.
		n, dur, flying := 0, never, 0
		for i, k := range done {
			s := &p.students[i]
			if k > 0 && !slices.ContainsFunc(s.craft, func(c int) bool { return set&(1<<p.craft[c].typ) == 0 }) {
				n += k
				dur, flying = min(dur, s.dur), flying+k*int(s.dur)
			}
		}
		if n == 0 {
			continue
		}
		take(p.soonest(set, n, dur), "packs")
		demands = append(demands, demand{set, n, dur, flying})
	}
	if len(demands) == 0 {
		return
	}
	// What can be done by a moment can be done by every later one: halve the
	// time between.
	// Eight days are longer than any day's flights take, so the high end always
	// holds.
	low, high := p.now, p.now+8*24*3600
	for low < high {
		mid := low + (high-low)/2
		if p.canCharge(mid, demands, shortest) {
			high = mid
		} else {
			low = mid + 1
		}
	}
	take(low, "packs")
}

// demand is how many flights can be flown on the packs of a set of types alone.
type demand struct {
	// set has a bit for each type, by its index.
	set    uint64
	n      int
	dur    sec // of the shortest
	flying int // s, of all
}

// slotRoom is for how many seconds all slots together can charge for flights
// that have landed by t. A pack that was flown reaches a slot only after it has
// landed and cooled, and one that was charged has yet to be flown; the boxes
// let only so many land, and begin, in a time.
func (p *problem) slotRoom(t, shortest sec) int {
	cool, cooled := never, 0
	for i, k := range p.packs {
		cool = min(cool, k.cool)
		if !p.begun.full[i] {
			cooled++
		}
	}
	free := slices.Clone(p.begun.slot)
	slices.Sort(free)
	boxes, cycle := sec(max(1, p.boxes)), shortest+p.turn
	// A slot for which no pack has cooled waits for the first flights to land:
	// one for each box at a time.
	if len(p.begun.box) > 0 {
		for i := cooled; i < len(free); i++ {
			round := sec(i-cooled) / boxes
			free[i] = max(free[i], slices.Min(p.begun.box)+round*cycle+shortest+cool)
		}
	}
	room := 0
	for i, f := range free {
		// And its last charge ends so early that the flight can still land by
		// t.
		last := t - shortest - sec(i)/boxes*cycle
		room += int(max(0, last-f))
	}
	return room
}

// canCharge tells whether all could have landed by t as far as packs and slots
// go. Each pack comes round so often at most, what has to be charged is charged
// on the packs that charge quickest, and the slots can do so much.
func (p *problem) canCharge(t sec, demands []demand, shortest sec) bool {
	room := p.slotRoom(t, shortest)
	each := 0 // what the types on their own need
	for _, d := range demands {
		turns, there, flights, need := p.turnsOf(t, d)
		slices.SortFunc(turns, func(a, b turn) int { return int(a.again - b.again) })
		// First by time: every flight but a pack's first is preceded by cooling
		// and charging, the quickest packs taking most of them.
		busy := d.flying
		for _, x := range turns {
			n := min(max(0, flights), x.times)
			flights -= n
			busy += n * int(x.again)
		}
		// The packs would be in use for longer than they are there.
		if busy > there {
			return false
		}
		slices.SortFunc(turns, func(a, b turn) int { return int(a.charge - b.charge) })
		// Then by the slots: what has to be charged, on the packs that charge
		// quickest.
		work := 0
		for _, x := range turns {
			if need <= 0 {
				break
			}
			n := min(need, x.times)
			need -= n
			work += n * int(x.charge)
		}
		// Some flights would find no charged pack, or the slots could not
		// charge so much.
		if need > 0 || work > room {
			return false
		}
		// Types that are looked at alone share no pack, so their charging adds
		// up.
		if d.set&(d.set-1) == 0 {
			each += work
		}
	}
	return each <= room
}

// turn is how often a pack can come round again, with how long that takes.
type turn struct {
	charge sec
	times  int
	again  sec // to cool and to charge
}

// turnsOf returns how often each pack of a demand can come round by t, and for how
// many seconds the packs are there for it, all together. flights is how many of the
// demanded flights are left once every pack has flown once, and need how many of
// them a full pack does not fly without charging.
func (p *problem) turnsOf(t sec, d demand) (turns []turn, there, flights, need int) {
	flights, need = d.n, d.n
	for i := range p.packs {
		k := p.packs[i]
		if d.set&(1<<k.typ) == 0 {
			continue
		}
		// A pack that is full flies once without charging; one that is
		// empty charges first.
		first := p.begun.pack[i]
		cycle := max(1, d.dur+k.cool+k.charge)
		if p.begun.full[i] {
			if first+d.dur <= t {
				need--
				flights--
				there += int(t - first)
			}
			turns = append(turns, turn{k.charge, int(max(0, t-d.dur-first) / cycle), k.cool + k.charge})
		} else if first+k.charge+d.dur <= t {
			flights--
			there += int(t - first - k.charge)
			turns = append(turns, turn{k.charge, 1 + int((t-d.dur-first-k.charge)/cycle), k.cool + k.charge})
		}
	}
	return turns, there, flights, need
}

// readyPack is a pack that is full, or has cooled, from a moment on.
type readyPack struct {
	ready sec
	full  bool
}

// soonestOf is the index of the least of a list, which has one entry at least.
func soonestOf(list []sec) int {
	at := 0
	for i := range list {
		if list[i] < list[at] {
			at = i
		}
	}
	return at
}

// chargeCooled puts every pack that has cooled on a slot as soon as one is free, the
// first that cooled first; each charges for so long.
func chargeCooled(packs []readyPack, slots []sec, charge sec) {
	for len(slots) > 0 {
		first := -1
		for i := range packs {
			if !packs[i].full && (first < 0 || packs[i].ready < packs[first].ready) {
				first = i
			}
		}
		if first < 0 {
			break
		}
		slot := soonestOf(slots)
		slots[slot] = max(slots[slot], packs[first].ready) + charge
		packs[first] = readyPack{slots[slot], true}
	}
}

// soonest is a moment before which the last of n flights of a set of types
// cannot have landed, by their packs, the chargers and the boxes. Every flight
// is as short as the shortest, every pack as quick as the quickest, and each
// comes as soon as it can, which for flights that are all alike is the best
// that can be.
func (p *problem) soonest(set uint64, n int, dur sec) sec {
	var packs []readyPack
	charge, cool := never, never
	for i := range p.packs {
		if k := p.packs[i]; set&(1<<k.typ) != 0 {
			packs = append(packs, readyPack{p.begun.pack[i], p.begun.full[i]})
			charge, cool = min(charge, k.charge), min(cool, k.cool)
		}
	}
	if len(packs) == 0 || p.boxes == 0 {
		return 0
	}
	slots, boxes := slices.Clone(p.begun.slot), slices.Clone(p.begun.box)
	var begun sec
	for range n {
		chargeCooled(packs, slots, charge)
		best := -1
		for i := range packs {
			if packs[i].full && (best < 0 || packs[i].ready < packs[best].ready) {
				best = i
			}
		}
		if best < 0 {
			break
		}
		// The pack that is full first flies from the box that is free first.
		box := soonestOf(boxes)
		at := max(packs[best].ready, boxes[box])
		begun = max(begun, at)
		boxes[box] = at + dur + p.turn
		packs[best] = readyPack{at + dur + cool, false}
	}
	return begun + dur
}
