package plan

import (
	"math"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/readiness"
)

// A plan needs a chance for items that were hardly flown. A student who can
// hover nose-left will likely hover nose-right: neighbours speak for an item
// until it speaks for itself.

// What an item that was hardly flown owes to its neighbours: shares of the
// weight that its own attempts would have.
const (
	// The other side of the same drill, and the same drill with other aids.
	ofOtherSide = 0.5
	ofOtherAids = 0.7
	// A drill that builds it: another drill, so it says least.
	ofBuilds = 0.25
	// First tries that the usual chance is worth.
	firstFirm = 8.0
	// Log odds that one level of aids is worth.
	aidsApart = 0.4
	// Own attempts that weigh as much as all of the neighbours together.
	ownFirm = 2.0
)

// guess returns the chance of a pass, and about how many attempts give so many.
// An item that was flown seldom is judged by its other side, the same drill
// with other aids, and what builds it, as well.
func (l *lesson) guess(c drill.Cell, passes int) (chance, tries float64) {
	k := guessed{c, max(1, passes)}
	g, ok := l.guesses[k]
	if !ok {
		g[0], g[1] = l.own(c, k.passes)
		// Own attempts count by their number; the neighbours' by theirs, up to
		// four.
		n := float64(len(l.known.Evidence.Tries(readiness.Key{Cell: c, Class: l.ask.Class})))
		own := logOdds(g[0])
		if n == 0 {
			// A first try at anything is what can be told.
			own = l.firstTries()
		}
		odds, weight := l.neighbours(c)
		firm := n/ownFirm + 0.6
		p := 1 / (1 + math.Exp(-(own*firm+odds*weight)/(firm+weight)))
		// A lower chance takes more attempts, and the other way round.
		g[1] *= math.Min(2, math.Max(0.5, g[0]/p))
		g[0] = p
		l.guesses[k] = g
	}
	return g[0], g[1]
}

// logOdds are the natural log odds of a chance.
func logOdds(p float64) float64 { return math.Log(p / (1 - p)) }

// firstTries are the log odds of a first try: those of everybody, and of this
// student's first three tries at each item.
func (l *lesson) firstTries() float64 {
	if l.first3 == nil {
		p, _ := l.own(drill.Cell{}, 1)
		pass, n := firstFirm*p, firstFirm
		for _, run := range l.known.Evidence.Runs() {
			// Three tries show how somebody begins; later ones show what was
			// learned.
			for _, t := range run[:min(3, len(run))] {
				if n++; t.Pass {
					pass++
				}
			}
		}
		odds := logOdds(pass / n)
		l.first3 = &odds
	}
	return *l.first3
}

// own is a guess from the item's own attempts alone; what was never flown is
// all alike.
func (l *lesson) own(c drill.Cell, passes int) (chance, tries float64) {
	k := guessed{c, passes}
	if len(l.known.Evidence.Tries(readiness.Key{Cell: c, Class: l.ask.Class})) == 0 {
		// One entry for all of them, since the answer is the same.
		k.cell = drill.Cell{}
	}
	g, ok := l.owns[k]
	if !ok {
		g[0], g[1] = l.known.Evidence.Guess(readiness.Key{Cell: k.cell, Class: l.ask.Class}, passes, l.ask.WindMps)
		l.owns[k] = g
	}
	return g[0], g[1]
}

// neighbours are the log odds that an item's neighbours speak for, and how much
// they weigh; 0, 0 where none was flown.
func (l *lesson) neighbours(c drill.Cell) (odds, weight float64) {
	add := func(o drill.Cell, share, shift float64) {
		n := float64(len(l.known.Evidence.Tries(readiness.Key{Cell: o, Class: l.ask.Class})))
		if n == 0 {
			return
		}
		p, _ := l.own(o, 1)
		// Four attempts say as much of a neighbour as is taken over.
		w := share * math.Min(1, n/4)
		odds += w * (logOdds(p) + shift)
		weight += w
	}
	// The other side, as hard as this one.
	if c.Side != field.NoSide {
		o := c
		o.Side = c.Side.Other()
		add(o, ofOtherSide, 0)
	}
	for _, a := range craft.AidsOrder {
		if o := c; a != c.Aids {
			o.Aids = a
			// A pass with fewer aids says that more aids will be easier, so the
			// odds are moved by each level between.
			add(o, ofOtherAids, aidsApart*float64(a.Rank()-c.Aids.Rank()))
		}
	}
	if d := l.drills(c.Drill); d != nil {
		for _, b := range d.Builds {
			o := drill.Cell{Drill: b, Side: c.Side, Aids: c.Aids, Level: 1}
			if !l.known.Catalogue.Drills[b].Sided {
				o.Side = field.NoSide
			}
			// What is built on it is a little harder.
			add(o, ofBuilds, -0.3)
		}
	}
	// No neighbour was flown: there is nothing to divide by.
	if weight == 0 {
		return 0, 0
	}
	return odds / weight, weight
}

// guessed is what a guess is for.
type guessed struct {
	cell   drill.Cell
	passes int
}
