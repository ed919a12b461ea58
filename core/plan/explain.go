package plan

import (
	"fmt"
	"math"
	"slices"
	"time"
)

// Nobody who is left out is helped by hearing that the day is full. What is
// short is found by planning the day again with more of one thing.

// trial is how often a changed day is built anew when looking for what would fit.
const trial = 12

// explain says of everybody who is left out why, and which smallest change of
// each kind would place all.
func (p *problem) explain(out *Plan) {
	left := map[string]int{}
	for _, u := range out.Unplaced {
		left[u.Student] = u.Flights
	}
	causes := p.causes()
	for i := range out.Unplaced {
		u := &out.Unplaced[i]
		k := slices.IndexFunc(p.day.Students, func(s Student) bool { return s.ID == u.Student })
		u.Why = p.why(k, left, causes)
	}
	out.Fits = p.fitting(*out)
}

// cause is something of which more would let somebody fly, and who is left out
// of the day where there is more of it.
type cause struct {
	says string
	left map[string]int
}

// causes plans the day with more of one thing at a time. What keeps a student
// from flying is the thing of which more would let the student fly: it is
// tried, not guessed from what is used most.
func (p *problem) causes() (out []cause) {
	for _, k := range []struct {
		says string
		more func(d *Day)
	}{
		{msgShortCalm, func(d *Day) { d.Wind = nil }},
		{msgShortPairing, func(d *Day) {
			for i := range d.Students {
				d.Students[i].With = ""
			}
		}},
		{msgShortPacks, func(d *Day) {
			for _, k := range slices.Clone(d.Packs) {
				for n := range manyMore {
					d.Packs = append(d.Packs, Pack{ID: fmt.Sprintf("%s and %d", k.ID, n), Type: k.Type, Full: true})
				}
			}
		}},
		{msgShortCraft, func(d *Day) {
			for _, c := range slices.Clone(d.Craft) {
				id := c.ID + " once more"
				d.Craft = append(d.Craft, Craft{ID: id, Type: c.Type, WindMps: c.WindMps, From: c.From, Until: c.Until})
				for i, s := range d.Students {
					if slices.Contains(s.Craft, c.ID) {
						d.Students[i].Craft = append(slices.Clone(s.Craft), id)
					}
				}
			}
		}},
		{msgShortInstructors, func(d *Day) { d.Instructors = append(d.Instructors, more(manyMore)...) }},
		{msgShortSpotters, func(d *Day) { d.Spotters = append(d.Spotters, more(manyMore)...) }},
		{msgShortBoxes, func(d *Day) { d.Boxes += manyMore }},
		{msgShortSlots, func(d *Day) {
			d.Chargers = append(d.Chargers, Charger{ID: "more", Slots: manyMore})
		}},
		{msgShortPresence, func(d *Day) {
			for i := range d.Students {
				d.Students[i].From, d.Students[i].Until = time.Time{}, time.Time{}
			}
		}},
		{msgShortDay, func(d *Day) {
			d.End, d.Daylight = d.End.Add(maxDay/2), d.Daylight.Add(maxDay/2)
		}},
	} {
		d := p.copied()
		k.more(&d)
		left := map[string]int{}
		for _, u := range ofRounds(&d, nil, trial, false).Unplaced {
			left[u.Student] = u.Flights
		}
		out = append(out, cause{k.says, left})
	}
	return out
}

// manyMore is how many of a thing are tried when looking for what is short.
const manyMore = 8

// copied is the day with lists of its own.
func (p *problem) copied() Day {
	// What lies deeper, such as a student's craft, is cloned where it is
	// changed.
	d := *p.day
	d.Craft, d.Packs, d.Chargers, d.Students = slices.Clone(d.Craft), slices.Clone(d.Packs), slices.Clone(d.Chargers),
		slices.Clone(d.Students)
	d.Instructors, d.Spotters = slices.Clone(d.Instructors), slices.Clone(d.Spotters)
	return d
}

// why says what keeps a student from flying all that was asked; left is who is
// left out, with how many flights. What cannot be helped by more of anything
// comes first.
func (p *problem) why(i int, left map[string]int, causes []cause) string {
	s, asked := &p.students[i], &p.day.Students[i]
	// What the student alone would need: flights with their rests.
	n := sec(s.left)
	need := n*s.dur + (n-1)*s.rest
	begin := p.begun.student[i]
	switch packs := p.packsFor(s); {
	case s.needsTeach && len(p.teach) == 0:
		return msgNoInstructor
	case s.needsSpot && len(p.spot) == 0:
		return msgNoSpotter
	case packs == 0:
		return fmt.Sprintf(msgNoPackType, oneOf(asked.Craft))
	case p.calmFor(s) == 0:
		return fmt.Sprintf(msgWindyAllDay, oneOf(asked.Craft))
	// Even with everything at hand the student's own hours are too short.
	case begin+need > s.until:
		return fmt.Sprintf(msgTooLongForHours, n, words(need),
			words(max(0, s.until-begin)), p.clock(begin), p.clock(s.until))
	case begin+need > s.last:
		return fmt.Sprintf(msgTooLongForWind, n, words(need),
			p.clock(s.last))
	}
	before := p.clock(min(s.last, p.end))
	for _, c := range causes {
		// The first thing of which more would do it alone.
		if c.left[asked.ID] == 0 {
			return fmt.Sprintf(msgNoTimeLeft, before, c.says)
		}
	}
	for _, c := range causes { // who flies more by it, if not all
		if c.left[asked.ID] < left[asked.ID] {
			return fmt.Sprintf(msgNoTimeLeftAmong, before, c.says)
		}
	}
	return fmt.Sprintf(msgNoTimeLeftAtAll, before)
}

// packsFor is how many packs fit a craft that the student may fly.
func (p *problem) packsFor(s *aStudent) (n int) {
	for _, k := range p.packs {
		if slices.ContainsFunc(s.craft, func(c int) bool { return p.craft[c].typ == k.typ }) {
			n++
		}
	}
	return n
}

// calmFor is how many of the student's craft can be flown at some time of the
// day, looked at every five minutes.
func (p *problem) calmFor(s *aStudent) (n int) {
	for _, c := range s.craft {
		limit := p.limit(s, c)
		for t := p.now; t+s.dur <= p.end; t += 300 {
			if p.blows(t, t+s.dur) <= limit {
				n++
				break
			}
		}
	}
	return n
}

// clock is a moment as a time of day.
func (p *problem) clock(s sec) string { return p.day.at(s).Format("15:04") }

// words are seconds in whole minutes, rounded up.
func words(s sec) string { return fmt.Sprintf("%d min", int(math.Ceil(float64(s)/60))) }

// oneOf names one of several.
func oneOf(list []string) string {
	switch len(list) {
	case 1:
		return list[0]
	case 2:
		return list[0] + " or " + list[1]
	}
	return fmt.Sprintf("%s or %d others", list[0], len(list)-1)
}

// fitting tries changes of each kind, the smaller ones first, and says of each
// kind the first with which everybody flies all that was asked. Where none
// helps it says how many flights fewer would do.
func (p *problem) fitting(out Plan) []string {
	list := []string{}
	try := func(change func(d *Day)) bool {
		d := p.copied()
		change(&d)
		return len(ofRounds(&d, nil, trial, false).Unplaced) == 0
	}
	// Steps that somebody at a field would consider.
	for _, more := range []int{10, 20, 30, 45, 60, 90, 120, 180} {
		later := time.Duration(more) * time.Minute
		if try(func(d *Day) {
			d.End, d.Daylight = d.End.Add(later), d.Daylight.Add(later)
		}) {
			words := fmt.Sprintf(msgFitLongerDay, more)
			// Longer into the dark is something to be told.
			if p.day.Daylight.Before(p.day.End) {
				words += msgBeyondDaylight
			}
			list = append(list, words)
			break
		}
	}
	list = append(list, p.moreOfTypes(try)...)
	for _, k := range []struct {
		what string
		more func(d *Day, n int)
	}{
		{"flying box", func(d *Day, n int) { d.Boxes += n }},
		{"charger slot", func(d *Day, n int) { d.Chargers = append(d.Chargers, Charger{ID: "more", Slots: n}) }},
		{"instructor", func(d *Day, n int) { d.Instructors = append(d.Instructors, more(n)...) }},
		{"spotter", func(d *Day, n int) { d.Spotters = append(d.Spotters, more(n)...) }},
	} {
		if n := firstOf(2, func(n int) bool { return try(func(d *Day) { k.more(d, n) }) }); n > 0 {
			list = append(list, fmt.Sprintf("%d more %s", n, plural(k.what, n)))
		}
	}
	if len(list) == 0 { // each flight fewer that it takes is one that is left out
		n := 0
		for _, u := range out.Unplaced {
			n += u.Flights
		}
		list = append(list, fmt.Sprintf("%d %s fewer", n, plural("flight", n)))
	}
	return list
}

// moreOfTypes says how many more packs or craft of each type would make
// everything fit.
func (p *problem) moreOfTypes(try func(func(*Day)) bool) (out []string) {
	for _, typ := range p.types {
		// One more of a type is like those that are there.
		like := slices.IndexFunc(p.day.Packs, func(k Pack) bool { return k.Type == typ })
		pack := Pack{Type: typ, Full: true, Charge: time.Hour}
		if like >= 0 {
			pack = p.day.Packs[like]
			pack.Full, pack.From, pack.Charger = true, time.Time{}, ""
		}
		if n := firstOf(6, func(n int) bool {
			return try(func(d *Day) {
				for i := range n {
					pack.ID = fmt.Sprintf("more %d", i)
					d.Packs = append(d.Packs, pack)
				}
			})
		}); n > 0 {
			out = append(out, fmt.Sprintf(msgFitMorePacks, n, plural("pack", n), typ))
		}
		if n := firstOf(2, func(n int) bool {
			return try(func(d *Day) {
				for i := range n {
					id := fmt.Sprintf("more %d", i)
					d.Craft = append(d.Craft, Craft{ID: id, Type: typ, WindMps: windOf(p.day.Craft, typ)})
					for k := range d.Students {
						if slices.ContainsFunc(p.students[k].craft, func(c int) bool { return p.types[p.craft[c].typ] == typ }) {
							d.Students[k].Craft = append(slices.Clone(d.Students[k].Craft), id)
						}
					}
				}
			})
		}); n > 0 {
			out = append(out, fmt.Sprintf(msgFitMoreCraft, n, typ))
		}
	}
	return out
}

// windOf is the wind limit of the craft of a type; 0 for none.
func windOf(list []Craft, typ string) float64 {
	for _, c := range list {
		if c.Type == typ {
			return c.WindMps
		}
	}
	return 0
}

// more are n people who are there all day.
func more(n int) (out []Person) {
	for i := range n {
		out = append(out, Person{ID: fmt.Sprintf("more %d", i)})
	}
	return out
}

// firstOf is the first of 1 to most that does; 0 for none.
func firstOf(most int, ok func(int) bool) int {
	for n := 1; n <= most; n++ {
		if ok(n) {
			return n
		}
	}
	return 0
}

// plural is a word for n of a thing.
func plural(word string, n int) string {
	switch {
	case n == 1:
		return word
	case word == "flying box":
		return "flying boxes"
	}
	return word + "s"
}
