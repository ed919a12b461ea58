package plan

import (
	"fmt"
	"slices"
	"time"
)

// rulesBroken is written from CONTRACTS.md alone and shares nothing with the planner: it
// walks through the day second by second where something changes, and counts.
func rulesBroken(d Day, p Plan) []string {
	c := rulesOf(d, p)
	c.flightsAlone()
	c.leftOut()
	c.moments()
	c.packsAreFull()
	c.order()
	return c.out
}

// ruleCheck holds a plan to the rules of a day, each worked out here once more and in
// another way than the planner does.
type ruleCheck struct {
	d       Day
	p       Plan
	student map[string]Student
	craft   map[string]Craft
	pack    map[string]Pack
	all     []Flight // flown and planned
	flown   map[string]int
	out     []string
}

func rulesOf(d Day, p Plan) *ruleCheck {
	c := &ruleCheck{d: d, p: p, student: map[string]Student{}, craft: map[string]Craft{}, pack: map[string]Pack{},
		all: append(append([]Flight{}, d.Flown...), p.Flights...), flown: map[string]int{}}
	for _, s := range d.Students {
		c.student[s.ID] = s
	}
	for _, x := range d.Craft {
		c.craft[x.ID] = x
	}
	for _, k := range d.Packs {
		c.pack[k.ID] = k
	}
	return c
}

func (c *ruleCheck) say(format string, args ...any) {
	c.out = append(c.out, fmt.Sprintf(format, args...))
}

// flightsAlone checks each planned flight by itself: what it is of, hours, people and wind.
func (c *ruleCheck) flightsAlone() {
	for i, f := range c.all {
		_, okS := c.student[f.Student]
		_, okC := c.craft[f.Craft]
		_, okK := c.pack[f.Pack]
		if !okS || !okC || !okK || f.Box < 1 || f.Box > c.d.Boxes {
			c.say("flight %d is of something that is not there: %+v", i, f)
			continue
		}
		if c.flown[f.Student]++; i >= len(c.d.Flown) {
			c.flightAlone(i, f)
		}
	}
}

func (c *ruleCheck) flightAlone(i int, f Flight) {
	d, s, x, k := &c.d, c.student[f.Student], c.craft[f.Craft], c.pack[f.Pack]
	if f.End.Sub(f.Start) != s.Flight || k.Type != x.Type || !slices.Contains(s.Craft, f.Craft) {
		c.say("flight %d: %+v", i, f)
	}
	if f.Start.Before(d.Start) || f.Start.Before(d.Now) || f.End.After(d.End) || f.End.After(d.Daylight) {
		c.say("flight %d is outside the day", i)
	}
	for _, w := range [][2]time.Time{{s.From, s.Until}, {x.From, x.Until}} {
		if f.Start.Before(w[0]) || !w[1].IsZero() && f.End.After(w[1]) {
			c.say("flight %d is outside the hours of its student or craft", i)
		}
	}
	if s.Instructor && f.Instructor == "" || s.Spotter && f.Spotter == "" || s.With != "" && f.Instructor != s.With {
		c.say("flight %d lacks somebody", i)
	}
	for j, w := range d.Wind {
		blowing := w.From.Before(f.End) && (j+1 == len(d.Wind) || d.Wind[j+1].From.After(f.Start))
		if blowing && (s.WindMps > 0 && w.Mps > s.WindMps || x.WindMps > 0 && w.Mps > x.WindMps) {
			c.say("flight %d is in %g m/s", i, w.Mps)
		}
	}
}

// leftOut checks that what is not planned is said, and why.
func (c *ruleCheck) leftOut() {
	for id, s := range c.student {
		left := 0
		for _, u := range c.p.Unplaced {
			if u.Student == id {
				left = u.Flights
				if u.Why == "" || u.Flights < 1 {
					c.say("%s is left out and nobody says why", id)
				}
			}
		}
		if c.flown[id]+left != max(s.Flights, c.flown[id]) {
			c.say("%s flies %d and is left out of %d of %d", id, c.flown[id], left, s.Flights)
		}
	}
}

// moments checks every moment at which something begins or ends: nothing is used twice at once.
func (c *ruleCheck) moments() {
	var moments []time.Time
	for _, f := range c.all {
		moments = append(moments, f.Start, f.End, f.End.Add(c.d.Turnaround))
	}
	for _, g := range c.p.Charges {
		moments = append(moments, g.Start, g.End)
		if k, ok := c.pack[g.Pack]; !ok || g.End.Sub(g.Start) < k.Charge || g.Start.Before(c.d.Start) {
			c.say("charging %+v", g)
		}
	}
	slots := 0
	for _, x := range c.d.Chargers {
		slots += x.Slots
	}
	slices.SortFunc(moments, time.Time.Compare)
	for _, t := range slices.Compact(moments) {
		used, charging := c.usedAt(t)
		if charging > slots {
			c.say("%d packs charge at %s", charging, t)
		}
		for what, n := range used {
			if n > 1 {
				c.say("%s is used %d times at once at %s", what, n, t.Format("15:04:05"))
			}
		}
	}
}

// usedAt counts what is used at a moment, and how many packs charge.
func (c *ruleCheck) usedAt(t time.Time) (used map[string]int, charging int) {
	in := func(from, to time.Time) bool { return !t.Before(from) && t.Before(to) }
	used = map[string]int{}
	for _, f := range c.all {
		if in(f.Start, f.End.Add(c.d.Turnaround)) {
			used["craft "+f.Craft]++
			used[fmt.Sprint("box ", f.Box)]++
		}
		if in(f.Start, f.End) {
			used["pack "+f.Pack]++
			if f.Instructor != "" {
				used["instructor "+f.Instructor]++
			}
			if f.Spotter != "" {
				used["spotter "+f.Spotter]++
			}
		}
		if in(f.Start, f.End.Add(c.student[f.Student].Rest)) {
			used["student "+f.Student]++
		}
	}
	for _, g := range c.p.Charges {
		if in(g.Start, g.End) {
			charging++
			used["pack "+g.Pack]++
			used[fmt.Sprint("slot ", g.Charger, g.Slot)]++
		}
	}
	return used, charging
}

// packsAreFull checks that every flight's pack was full at the start of the day, or has cooled and been charged since
// its last flight.
func (c *ruleCheck) packsAreFull() {
	for _, f := range c.p.Flights {
		k := c.pack[f.Pack]
		ready, full := k.From, k.Full
		for _, before := range c.all {
			if before.Pack == f.Pack && before.End.After(ready) && !before.End.After(f.Start) &&
				(before.End.After(c.d.Now) || !before.Flown && c.d.Now.IsZero()) {
				ready, full = before.End.Add(k.Cool), false
			}
		}
		if full && !f.Start.Before(ready) {
			continue
		}
		if !slices.ContainsFunc(c.p.Charges, func(g Charging) bool {
			return g.Pack == f.Pack && !g.Start.Before(ready) && !g.End.After(f.Start)
		}) {
			c.say("%s is not full at %s", f.Pack, f.Start.Format("15:04"))
		}
	}
}

// order checks that proving and demonstration flights come first.
func (c *ruleCheck) order() {
	for _, f := range c.p.Flights {
		for _, g := range c.all {
			first, s := c.student[g.Student], c.student[f.Student]
			proves := first.Kind == Proving && f.Student != g.Student && s.Kind != Proving && slices.ContainsFunc(s.Craft,
				func(x string) bool { return slices.Contains(first.Craft, x) })
			shows := first.Kind == Demonstration && s.Kind == Lesson && (len(first.Before) == 0 || slices.Contains(first.Before,
				f.Student))
			if (proves || shows) && f.Start.Before(g.End) {
				c.say("%s flies before %s has", f.Student, g.Student)
			}
		}
	}
}
