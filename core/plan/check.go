package plan

import (
	"fmt"
	"slices"
	"time"
)

// Broken is a rule that a plan breaks, in words, and the flight that breaks it.
type Broken struct {
	// Its place in the list; −1 = a charging.
	Flight int    `json:"flight"`
	Says   string `json:"says"`
}

// Check says which rules flights and chargings break: what a change by hand
// would do. An empty answer is a plan that can be flown. Rules are checked one
// by one and not by planning again, so that two programs would have to be wrong
// in the same way.
func Check(d Day, flights []Flight, charges []Charging) []Broken {
	c := checker{d: &d, p: problemOf(&d, nil)}
	for i, f := range flights {
		c.alone(i, f)
		// Each pair once.
		for j := range i {
			c.together(i, f, flights[j])
		}
	}
	c.packs(flights, charges)
	slices.SortStableFunc(c.out, func(a, b Broken) int { return a.Flight - b.Flight })
	return c.out
}

// checker collects what is broken.
type checker struct {
	d   *Day
	p   *problem
	out []Broken
}

// say notes a broken rule.
func (c *checker) say(flight int, what string, args ...any) {
	c.out = append(c.out, Broken{flight, fmt.Sprintf(what, args...)})
}

// hm is a time of day where the day is flown.
func (c *checker) hm(t time.Time) string { return t.In(c.d.Start.Location()).Format("15:04") }

// alone checks a flight on its own: hours, wind, craft, pack and people. What
// was flown is not held to the rules of planning.
func (c *checker) alone(i int, f Flight) {
	d := c.d
	k := slices.IndexFunc(d.Students, func(s Student) bool { return s.ID == f.Student })
	m := slices.IndexFunc(d.Craft, func(x Craft) bool { return x.ID == f.Craft })
	b := slices.IndexFunc(d.Packs, func(x Pack) bool { return x.ID == f.Pack })
	// Nothing else can be asked of what is not there.
	if k < 0 || m < 0 || b < 0 {
		c.say(i, msgNotThereToday, f.Student, f.Craft, f.Pack)
		return
	}
	s, begin, end := &c.p.students[k], d.sec(f.Start), d.sec(f.End)
	name := nameOf(&d.Students[k])
	if !slices.Contains(d.Students[k].Craft, f.Craft) {
		c.say(i, msgDoesNotFly, name, f.Craft)
	}
	if d.Packs[b].Type != d.Craft[m].Type {
		c.say(i, msgDoesNotFit, f.Pack, f.Craft)
	}
	if f.Flown {
		return // it was so
	}
	if begin < c.p.now {
		c.say(i, "%s has passed", c.hm(f.Start))
	}
	if from := max(s.from, d.from(d.Craft[m].From)); begin < from {
		c.say(i, msgTooEarly, name, f.Craft, c.p.clock(from))
	}
	if until := min(s.until, c.p.craft[m].until); end > until {
		c.say(i, msgLandsTooLate, name, c.hm(f.End), c.p.clock(until))
	}
	if w, limit := c.p.blows(begin, end), c.p.limit(s, m); w > limit {
		c.say(i, msgTooWindy, w, limit, name, f.Craft)
	}
	if f.Box < 1 || f.Box > d.Boxes {
		c.say(i, msgNoBox, f.Box)
	}
	c.person(i, f.Instructor, "instructor", s.needsTeach, d.Instructors, f)
	c.person(i, f.Spotter, "spotter", s.needsSpot, d.Spotters, f)
	if with := d.Students[k].With; with != "" && f.Instructor != with {
		c.say(i, "%s flies with %s", name, with)
	}
}

// nameOf is a student's name, or else the id.
func nameOf(s *Student) string {
	if s.Name != "" {
		return s.Name
	}
	return s.ID
}

// person checks one of the people of a flight: id is empty for nobody, what is
// the role, and list who is there.
func (c *checker) person(i int, id, what string, needed bool, list []Person, f Flight) {
	k := slices.IndexFunc(list, func(x Person) bool { return x.ID == id })
	switch {
	case id == "" && needed:
		c.say(i, msgNobodyForFlight, what, f.Student, c.hm(f.Start))
	case id != "" && k < 0:
		c.say(i, msgPersonNotToday, what, id)
	case k >= 0 && (!list[k].From.IsZero() && f.Start.Before(list[k].From) || !list[k].Until.IsZero() &&
		f.End.After(list[k].Until)):
		c.say(i, msgPersonNotThere, id, c.hm(f.Start), c.hm(f.End))
	}
}

// together checks two flights against one another.
func (c *checker) together(i int, f, g Flight) {
	// With a time after each flight in which the thing stays busy; the other
	// way round as well.
	overlap := func(after time.Duration) bool {
		return f.Start.Before(g.End.Add(after)) && g.Start.Before(f.End.Add(after))
	}
	turn := c.d.Turnaround
	if f.Craft == g.Craft && overlap(turn) {
		c.say(i, msgCraftTaken, f.Craft, g.Student, c.hm(g.Start),
			c.hm(g.End),
			turn.Minutes())
	}
	if f.Box == g.Box && overlap(turn) {
		c.say(i, msgBoxTaken, f.Box, c.hm(f.Start), g.Student, c.hm(g.Start), c.hm(g.End), turn.Minutes())
	}
	for _, who := range [][2]string{{f.Instructor, g.Instructor}, {f.Spotter, g.Spotter}} {
		if who[0] != "" && who[0] == who[1] && overlap(0) {
			c.say(i, msgPersonTaken, who[0], g.Student, c.hm(g.Start), c.hm(g.End))
		}
	}
	k := slices.IndexFunc(c.d.Students, func(s Student) bool { return s.ID == f.Student })
	if k >= 0 && f.Student == g.Student && overlap(c.d.Students[k].Rest) {
		if overlap(0) {
			c.say(i, msgStudentFlies, nameOf(&c.d.Students[k]), g.Craft)
		} else {
			c.say(i, msgStudentRests, nameOf(&c.d.Students[k]), c.d.Students[k].Rest.Minutes())
		}
	}
	if c.p.proving {
		c.first(i, f, g)
	}
}

// first checks that proving and demonstration flights come first.
func (c *checker) first(i int, f, g Flight) {
	index := func(id string) int {
		return slices.IndexFunc(c.d.Students, func(s Student) bool { return s.ID == id })
	}
	a, b := index(f.Student), index(g.Student)
	if a < 0 || b < 0 {
		return
	}
	// Either of the two may be the one that has to wait.
	for _, v := range [][2]int{{a, b}, {b, a}} {
		early, late := f, g
		if v[0] == b {
			early, late = g, f
		}
		if slices.Contains(c.p.students[v[0]].after, v[1]) && early.Start.Before(late.End) {
			c.say(i, msgWrongOrder, early.Student, c.d.Students[v[1]].Kind, c.hm(late.End))
		}
	}
}

// packs follows every pack through the day: full, flown, cooled, charged; and
// every slot.
func (c *checker) packs(flights []Flight, charges []Charging) {
	for k, pack := range c.d.Packs {
		type event struct {
			at     sec
			flight int // −1 = charging
			end    sec
		}
		var list []event
		for i, f := range flights {
			if f.Pack == pack.ID && !f.Flown {
				list = append(list, event{c.d.sec(f.Start), i, c.d.sec(f.End)})
			}
		}
		for _, g := range charges {
			if g.Pack == pack.ID {
				list = append(list, event{c.d.sec(g.Start), -1, c.d.sec(g.End)})
			}
		}
		slices.SortStableFunc(list, func(a, b event) int { return int(a.at - b.at) })
		// From how the pack stands now, event by event.
		full, ready := c.p.begun.full[k], c.p.begun.pack[k]
		for _, e := range list {
			switch {
			// A charging needs a pack that has cooled, and all of its time.
			case e.flight < 0 && (e.at < ready || e.end-e.at < c.p.packs[k].charge):
				c.say(-1, msgChargedTooSoon, pack.ID, c.p.clock(e.at))
			case e.flight >= 0 && !full:
				c.say(e.flight, msgPackEmpty, pack.ID, c.p.clock(e.at))
			case e.flight >= 0 && e.at < ready:
				c.say(e.flight, msgPackNotFull, pack.ID, c.p.clock(ready))
			}
			if e.flight < 0 {
				full, ready = true, e.end
			} else {
				full, ready = false, e.end+c.p.packs[k].cool
			}
		}
	}
	// And no slot charges two packs at once.
	for i, a := range charges {
		for _, b := range charges[:i] {
			if a.Charger == b.Charger && a.Slot == b.Slot && a.Start.Before(b.End) && b.Start.Before(a.End) {
				c.say(-1, msgSlotTaken, a.Slot, a.Charger, b.Pack, a.Pack)
			}
		}
	}
}
