package plan

import (
	"math"
	"math/rand/v2"
)

// A greedy plan is good where the order of the flights is. The search changes
// that order, and a few other pressures, and keeps what lands earlier.

// Rounds is how often a plan is built anew from what went wrong in the one
// before; three times as often where flights are left out.
const Rounds = 600

// Solve plans a day. The answer is the best of many plans: each is built
// forward, what was left out, came last or waited longest in it is pressed
// more, and it is built again (after D. E. Joslin, D. P. Clements, "Squeaky
// Wheel Optimization", Journal of Artificial Intelligence Research 10 (1999)
// 353). It ends early where the lower bound is reached. The day must have been
// checked, as Read does.
func Solve(d Day) Plan { return ofRounds(&d, nil, Rounds, true) }

// Replan plans the rest of a day of which a plan stood, from d.Now on. What was
// going to be flown is kept to where the rules still allow it, as long as that
// places as many flights as planning afresh and does not land more than
// worseThanAfresh later.
func Replan(d Day, before []Flight) Plan {
	if before == nil {
		before = []Flight{}
	}
	return ofRounds(&d, before, Rounds, true)
}

// ofRounds plans with so many rounds, and explains what is left out where that
// is asked for.
func ofRounds(d *Day, before []Flight, rounds int, explain bool) Plan {
	p := problemOf(d, before)
	// What planning afresh would come to says how much keeping to the old plan
	// may cost.
	if before != nil {
		fresh := problemOf(d, nil)
		p.afresh = fresh.search(Rounds)
		p.latest = fresh.makespan(p.afresh) + worseThanAfresh
	}
	best := p.search(rounds)
	out := p.plan(best)
	if explain && len(out.Unplaced) > 0 {
		p.explain(&out)
	}
	return out
}

// weights of what a plan costs, in minutes of makespan.
const (
	costUnplaced = 1e6 // a flight that is left out
	// A minute that the longest waits over the mean.
	costWait = 0.2
	// A flight at its limit of wind, against one in calm air.
	costWind = 0.5
	// A flight at another time than the plan before had.
	costMoved  = 3.0
	costMinute = 0.1 // each minute of that
	costSwap   = 2.0 // another craft than it had
	// A minute later than what planning afresh allows.
	costLater = 1e3
)

// worseThanAfresh is how much later than a plan afresh one may land that keeps
// to what stood.
const worseThanAfresh = sec(3 * 60)

// search builds a plan, changes what pressed it in one or two places, those
// that went wrong first, and goes on from the change where it is no worse, or
// hardly: less and less is let pass (S. Kirkpatrick et al., "Optimization by
// Simulated Annealing", Science 220 (1983) 671). It returns the best.
func (p *problem) search(rounds int) *run {
	// A fixed seed, so that the same day gives the same plan.
	rng := rand.New(rand.NewPCG(22, uint64(len(p.students))))
	best, cur, r := newRun(p), newRun(p), newRun(p)
	// The first plan keeps to the one that stood, moment by moment.
	cur.hold = p.prev != nil
	cur.build()
	cost := p.cost(cur)
	bestCost := cost
	best.take(cur)
	// Cheap plans of other kinds: one of them may be the best already.
	also := p.firstFits()
	if p.afresh != nil {
		also = append(also, p.afresh)
	}
	for _, other := range also {
		// They are compared whole, and the search goes on from the first.
		if c := p.cost(other); c < bestCost {
			bestCost = c
			best.take(other)
		}
	}
	for round := range 3 * rounds {
		if round == rounds && sum(best.left) == 0 {
			break // where flights are left out, it is worth looking longer
		}
		if bestCost < math.Inf(1) && round%50 == 0 && p.enough(best) {
			break
		}
		// The new run has the pressures of the current one, and one or two of
		// its own.
		r.press(cur)
		p.change(r, cur, rng)
		r.build()
		next := p.cost(r)
		// A worse plan is accepted with a chance that falls with how much worse
		// it is, and with the rounds.
		warm := 0.3 * (1 - float64(round%rounds)/float64(rounds)) // minutes
		if next <= cost || rng.Float64() < math.Exp((cost-next)/math.Max(1e-3, warm)) {
			cur, r, cost = r, cur, next
			if cost < bestCost-1e-9 {
				bestCost = cost
				best.take(cur)
			}
		}
	}
	return best
}

// enough tells whether a plan cannot be made better by much: all is placed, at
// the bound, and nobody waits much longer than the others.
func (p *problem) enough(r *run) bool {
	if len(r.flights) == 0 && len(p.students) == 0 {
		return true
	}
	// With a plan to keep to, or with wind, landing at the bound is not all
	// that counts.
	if p.prev != nil || len(p.wind) > 0 {
		return false
	}
	for _, n := range r.left {
		if n > 0 {
			return false
		}
	}
	if p.least == 0 { // all are placed: it is the same each time
		p.least, _ = p.bound(r.done)
	}
	bound := p.least
	most, mean, _ := p.waits(r)
	return p.makespan(r) <= bound && most < mean+longWait
}

// longWait is how many minutes longer than the mean somebody may wait before it
// is worth looking further.
const longWait = 10

// press takes over what pressed another run.
func (r *run) press(of *run) {
	r.hold = of.hold
	copy(r.bias, of.bias)
	copy(r.expect, of.expect)
	copy(r.late, of.late)
	for i := range r.lean {
		copy(r.lean[i], of.lean[i])
	}
}

// take takes over another run whole.
func (r *run) take(of *run) {
	r.press(of)
	r.flights, r.charges = append(r.flights[:0], of.flights...), append(r.charges[:0], of.charges...)
	copy(r.left, of.left)
	copy(r.done, of.done)
	copy(r.aloft, of.aloft)
}

// mostExpected is for how many students a box and a craft are kept free at
// once, at most.
const mostExpected = 3

// change presses a run otherwise than the one before was pressed: those that were left
// out, came last or waited longest more often than others.
func (p *problem) change(r, before *run, rng *rand.Rand) {
	n := len(r.bias)
	if n == 0 {
		return
	}
	// One or two changes, drawn evenly from nine kinds.
	for range 1 + rng.IntN(2) {
		who := rng.IntN(n)
		switch rng.IntN(9) {
		case 0, 1:
			// Whoever lands last makes the day long, so that one flies sooner.
			who = lastToLand(before, who)
			r.bias[who] -= 30 * rng.Float64()
		case 2: // who waits longest
			if _, _, by := p.waits(before); by >= 0 {
				r.bias[by] -= 20 * rng.Float64()
			}
		case 3:
			// Somebody at random, sooner or later by some twenty minutes.
			r.bias[who] += rng.NormFloat64() * 20
		case 4:
			// Whether a box and a craft are kept free for somebody who comes
			// later.
			on := 0
			for _, e := range r.expect {
				if e {
					on++
				}
			}
			r.expect[who] = !r.expect[who] && on < mostExpected
		case 5:
			// Which types of craft somebody flies by preference.
			for k := range r.lean[who] {
				r.lean[who][k] = rng.NormFloat64() * 0.3
			}
		case 6:
			// A pack is taken to charge as it does, slower or quicker, or not
			// at all.
			if k := len(r.late); k > 0 {
				r.late[rng.IntN(k)] = [...]float64{0, rng.NormFloat64() * 1200, 2 * notCharged}[rng.IntN(3)]
			}
		case 7: // all, by a little
			for i := range r.bias {
				r.bias[i] += rng.NormFloat64() * 5
			}
		case 8:
			// Two students change places; a plan that stood is kept to or let
			// go.
			other := rng.IntN(n)
			r.bias[who], r.bias[other] = r.bias[other], r.bias[who]
			if p.prev != nil {
				r.hold = !r.hold
			}
		}
	}
	r.pressLeftOut(before, rng)
}

// pressLeftOut presses whoever the plan before left out, one time in three.
func (r *run) pressLeftOut(before *run, rng *rand.Rand) {
	for i := range before.left {
		if before.left[i] > 0 && rng.IntN(3) == 0 {
			r.bias[i] -= 40 * rng.Float64()
		}
	}
}

// lastToLand is the student who lands last; who where nobody flies.
func lastToLand(r *run, who int) int {
	last := sec(-1)
	for _, f := range r.flights {
		if f.end > last {
			last, who = f.end, f.student
		}
	}
	return who
}

// waits are the longest and the mean wait of those who fly, in minutes, and who
// waits longest: from when they could fly to their last landing, less flights
// and rests. Lessons alone wait; by is −1 for none.
func (p *problem) waits(r *run) (most, mean float64, by int) {
	by = -1
	n := 0
	for i := range p.students {
		s := &p.students[i]
		// Who proves a craft or shows something is at work, and does not wait.
		if r.done[i] == 0 || s.kind != Lesson {
			continue
		}
		w := float64(r.aloft[i]-p.begun.student[i]-sec(r.done[i])*s.dur-sec(r.done[i]-1)*s.rest) / 60
		mean += w
		n++
		if w > most || by < 0 {
			most, by = w, i
		}
	}
	if n > 0 {
		mean /= float64(n)
	}
	return most, mean, by
}

// makespan is when the last flight lands, of those flown and those planned.
func (p *problem) makespan(r *run) sec {
	last := p.landed
	for _, f := range r.flights {
		last = max(last, f.end)
	}
	return last
}

// cost is what a plan costs, in minutes of makespan; less is better.
func (p *problem) cost(r *run) float64 {
	most, mean, _ := p.waits(r)
	// No saving of time is worth a flight.
	cost := costUnplaced*float64(sum(r.left)) + float64(p.makespan(r))/60 + costWait*(most-mean)
	// A flight near its limit of wind is better flown in calmer air.
	if len(p.wind) > 0 {
		for _, f := range r.flights {
			if limit := p.limit(&p.students[f.student], f.craft); !math.IsInf(limit, 1) {
				// By the square, so that two flights at half the limit cost
				// less than one at it.
				share := p.blows(f.start, f.end) / limit
				cost += costWind * share * share
			}
		}
	}
	if p.prev != nil {
		// A plan that places more than one afresh may land as late as it must.
		if p.afresh != nil && sum(r.left) >= sum(p.afresh.left) {
			cost += costLater * float64(max(0, p.makespan(r)-p.latest)) / 60
		}
		for _, f := range r.flights {
			if f.nth >= len(p.prev[f.student]) {
				continue
			}
			// Moving a flight costs something for being moved at all, since
			// somebody has to be told.
			was := p.prev[f.student][f.nth]
			if off := math.Abs(float64(f.start-p.day.sec(was.Start))) / 60; off >= 1 {
				cost += costMoved + costMinute*off
			}
			if p.day.Craft[f.craft].ID != was.Craft {
				cost += costSwap
			}
		}
	}
	return cost
}

// sum adds up a list.
func sum(list []int) (n int) {
	for _, v := range list {
		n += v
	}
	return n
}
