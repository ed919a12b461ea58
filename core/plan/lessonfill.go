package plan

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/readiness"
)

// fill puts the blocks on the packs, the best first.
func (l *lesson) fill() {
	minutes := float64(l.ask.Packs) * l.ask.PackMinutes
	like, liked := l.liked()
	last := 0.0
	if liked && minutes >= enjoyFrom {
		last = math.Min(enjoyMinutes, l.ask.PackMinutes)
	}
	keep := slices.Clone(l.ask.Keep)
	for pack := 1; pack <= l.ask.Packs; pack++ {
		left := l.ask.PackMinutes
		if pack == l.ask.Packs {
			left -= last
		}
		rest := 0.0
		if pack > 1 && (l.ask.Tense || pack%2 == 1) {
			rest = restMinutes
		}
		add := func(b Block) {
			b.Pack, b.Rest = pack, rest
			rest = 0
			left -= b.Minutes
			l.out.Blocks = append(l.out.Blocks, b)
		}
		for i := 0; i < len(keep); i++ {
			if b := keep[i]; b.Pack == pack {
				add(l.kept(b, left))
			}
		}
		for left >= leastBlock {
			o := l.best()
			if o == nil {
				break
			}
			m := l.minutesOf(o)
			if m > left || left-m < leastBlock {
				m = left
			}
			b := Block{Cell: o.cell, Minutes: m, Passes: int(math.Ceil(o.useful - math.Min(o.planned, o.useful))),
				Answer: o.answer && o.chance >= 0.5, Why: l.why(o), Fallback: l.fallback(o.cell)}
			o.planned += math.Max(0.3, o.chance) * math.Max(1, m/attemptTakes)
			if n := len(l.out.Blocks); n > 0 && l.out.Blocks[n-1].Pack == pack && !l.out.Blocks[n-1].Kept &&
				l.out.Blocks[n-1].Cell == o.cell {
				// The same again is one longer block, with what was enough of it.
				l.out.Blocks[n-1].Minutes += m
				left -= m
				continue
			}
			add(b)
		}
		if pack == l.ask.Packs && last > 0 {
			add(Block{Cell: like.Cell, Minutes: last, Why: "to end with what goes well: " + fmt.Sprintf("%d of %d passed",
				like.Passes, like.Attempts), Fallback: l.fallback(like.Cell)})
		}
	}
	if len(l.out.Blocks) == 0 {
		l.out.Says = "there is nothing that may be flown with these aids in this wind"
	}
}

// kept is a block that the instructor has chosen, as long as there is room for it.
func (l *lesson) kept(b Block, left float64) Block {
	b.Minutes, b.Kept = math.Min(b.Minutes, math.Max(leastBlock, left)), true
	if b.Why == "" {
		b.Why = "chosen by the instructor"
	}
	if o := l.options[b.Cell]; o != nil {
		o.planned += o.chance * b.Minutes / attemptTakes
	}
	b.Fallback = l.fallback(b.Cell)
	return b
}

// minutesOf is how long a block takes: as many attempts as give the passes that are of use
// today, and no more than is usual for the drill.
func (l *lesson) minutesOf(o *option) float64 {
	m := l.known.Catalogue.Drills[o.cell.Drill].Minutes
	if m == 0 {
		m = usualBlock
	}
	if l.ask.Tense {
		m = math.Min(m, tenseBlock)
	}
	wanted := math.Ceil((o.useful-math.Min(o.planned, o.useful-0.5))/math.Max(0.25, o.chance)) * attemptTakes
	return math.Max(leastBlock, math.Min(m, wanted))
}

// best is the option that is worth most now. Of a drill with two sides the weaker comes
// first, and the sides alternate.
func (l *lesson) best() *option {
	var best *option
	top := 0.0
	for _, o := range l.order {
		if v := l.worth(o); best == nil || v > top {
			best, top = o, v
		}
	}
	if best == nil || top <= 0 {
		return nil
	}
	other := best.cell
	if other.Side = best.cell.Side.Other(); other.Side == field.NoSide {
		return best
	}
	o := l.options[other]
	if o == nil {
		return best
	}
	for _, b := range slices.Backward(l.out.Blocks) { // the other side of what was flown last
		if b.Cell == best.cell {
			return o
		}
		if b.Cell == other {
			return best
		}
	}
	d := l.known.Catalogue.Drills[best.cell.Drill]
	if readiness.WeakerSide(d, best.cell, l.cell) == best.cell.Side {
		return best
	}
	return o
}

// worth is the expected progress of an attempt.
func (l *lesson) worth(o *option) float64 {
	v := o.serves
	if o.planned >= o.useful {
		v *= 0.05 * math.Pow(0.5, math.Floor(o.planned-o.useful))
	}
	// Of what is worth the same, that in which a pass is more likely than not: nobody
	// learns from a lesson of fails alone.
	return v * (0.7 + 0.3*o.chance)
}

// liked is what the student is best at among what was passed with the lesson's aids or
// more: the lesson ends with it.
func (l *lesson) liked() (best readiness.Cell, ok bool) {
	top := 0.0
	for _, k := range l.known.Evidence.Keys() {
		if k.Class != l.ask.Class || k.Aids.Rank() > l.ask.Aids.Rank() || k.Level != 1 {
			continue
		}
		d := l.drills(k.Drill)
		c := l.cell(k.Cell)
		if d == nil || c.Passes < 2 || l.barred(d, k.Cell) || l.tooFar(d, k.Cell) {
			continue
		}
		// The share of passes, a little lower for what was flown seldom.
		if v := (float64(c.Passes) + 1) / (float64(c.Attempts) + 3); v > top {
			best, top, ok = c, v, true
		}
	}
	return best, ok
}

// fallback is the drill to go back to where a block does not go: of those that build it
// the one that stands best.
func (l *lesson) fallback(c drill.Cell) string {
	best, top := "", -1
	for _, b := range l.known.Catalogue.Drills[c.Drill].Builds {
		if !l.practised[b] {
			continue
		}
		bc := drill.Cell{Drill: b, Side: c.Side, Aids: c.Aids, Level: 1}
		if !l.known.Catalogue.Drills[b].Sided {
			bc.Side = field.NoSide
		}
		if s := int(l.cell(bc).Standing); s > top && !l.tooFar(l.drills(b), bc) {
			best, top = b, s
		}
	}
	return best
}

// why says what a block is for.
func (l *lesson) why(o *option) string {
	var says []string
	titles := func(keys []string) string {
		var out []string
		for _, k := range keys {
			out = append(out, l.known.Catalogue.Drills[k].Title)
		}
		return strings.Join(out, ", ")
	}
	switch {
	case len(o.unlocks) > 0 && o.now.Standing == readiness.Untried:
		says = append(says, "builds "+titles(o.unlocks)+", and was not practised yet")
	case o.lapsed && o.now.Needs == 1:
		says = append(says, "held before; one pass renews it")
	case o.now.Needs > 0 && o.gate != "" && o.open > 1:
		says = append(says, fmt.Sprintf("%s, one of %d open cells of %s", o.now.NeedsWords(), o.open, o.gate))
	case o.now.Needs > 0 && o.gate != "":
		says = append(says, fmt.Sprintf("%s, the last open cell of %s", o.now.NeedsWords(), o.gate))
	case o.now.Needs > 0:
		says = append(says, o.now.NeedsWords())
	case !o.wind && !o.answer:
		says = append(says, "keeps it current")
	}
	if o.cell.Side != field.NoSide {
		other := o.cell
		other.Side = o.cell.Side.Other()
		if x := l.cell(other); x.Standing > o.now.Standing || x.Standing == o.now.Standing && x.Passes > o.now.Passes {
			says = append(says, "the weaker side")
		}
	}
	if o.wind {
		says = append(says, fmt.Sprintf("in %.1f m/s it meets the wind clause", l.ask.WindMps))
	}
	if o.answer {
		says = append(says, "a pass while answering questions is still asked by "+o.gate)
	}
	says = append(says, fmt.Sprintf("chance of a pass about %.0f %%", 100*o.chance))
	return strings.Join(says, "; ")
}
