package plan

import (
	"fmt"
	"slices"
	"time"
)

// rulesBroken is written from CONTRACTS.md alone and shares nothing with the planner: it
// walks through the day second by second where something changes, and counts.
func rulesBroken(d Day, p Plan) (out []string) {
	say := func(format string, args ...any) { out = append(out, fmt.Sprintf(format, args...)) }
	student, craft, pack := map[string]Student{}, map[string]Craft{}, map[string]Pack{}
	for _, s := range d.Students {
		student[s.ID] = s
	}
	for _, c := range d.Craft {
		craft[c.ID] = c
	}
	for _, k := range d.Packs {
		pack[k.ID] = k
	}
	slots := 0
	for _, c := range d.Chargers {
		slots += c.Slots
	}
	flown := map[string]int{}
	var moments []time.Time
	all := append(append([]Flight{}, d.Flown...), p.Flights...)
	for i, f := range all {
		s, okS := student[f.Student]
		c, okC := craft[f.Craft]
		k, okK := pack[f.Pack]
		if !okS || !okC || !okK || f.Box < 1 || f.Box > d.Boxes {
			say("flight %d is of something that is not there: %+v", i, f)
			continue
		}
		moments = append(moments, f.Start, f.End, f.End.Add(d.Turnaround))
		flown[f.Student]++
		if i < len(d.Flown) {
			continue
		}
		if f.End.Sub(f.Start) != s.Flight || k.Type != c.Type || !slices.Contains(s.Craft, f.Craft) {
			say("flight %d: %+v", i, f)
		}
		if f.Start.Before(d.Start) || f.Start.Before(d.Now) || f.End.After(d.End) || f.End.After(d.Daylight) {
			say("flight %d is outside the day", i)
		}
		for _, w := range [][2]time.Time{{s.From, s.Until}, {c.From, c.Until}} {
			if f.Start.Before(w[0]) || !w[1].IsZero() && f.End.After(w[1]) {
				say("flight %d is outside the hours of its student or craft", i)
			}
		}
		if s.Instructor && f.Instructor == "" || s.Spotter && f.Spotter == "" || s.With != "" && f.Instructor != s.With {
			say("flight %d lacks somebody", i)
		}
		for j, w := range d.Wind {
			blowing := w.From.Before(f.End) && (j+1 == len(d.Wind) || d.Wind[j+1].From.After(f.Start))
			if blowing && (s.WindMps > 0 && w.Mps > s.WindMps || c.WindMps > 0 && w.Mps > c.WindMps) {
				say("flight %d is in %g m/s", i, w.Mps)
			}
		}
	}
	for id, s := range student {
		left := 0
		for _, u := range p.Unplaced {
			if u.Student == id {
				left = u.Flights
				if u.Why == "" || u.Flights < 1 {
					say("%s is left out and nobody says why", id)
				}
			}
		}
		if flown[id]+left != max(s.Flights, flown[id]) {
			say("%s flies %d and is left out of %d of %d", id, flown[id], left, s.Flights)
		}
	}
	for _, g := range p.Charges {
		moments = append(moments, g.Start, g.End)
		if k, ok := pack[g.Pack]; !ok || g.End.Sub(g.Start) < k.Charge || g.Start.Before(d.Start) {
			say("charging %+v", g)
		}
	}
	in := func(t, from, to time.Time) bool { return !t.Before(from) && t.Before(to) }
	slices.SortFunc(moments, time.Time.Compare)
	for _, t := range slices.Compact(moments) {
		used := map[string]int{}
		for _, f := range all {
			if in(t, f.Start, f.End.Add(d.Turnaround)) {
				used["craft "+f.Craft]++
				used[fmt.Sprint("box ", f.Box)]++
			}
			if in(t, f.Start, f.End) {
				used["pack "+f.Pack]++
				if f.Instructor != "" {
					used["instructor "+f.Instructor]++
				}
				if f.Spotter != "" {
					used["spotter "+f.Spotter]++
				}
			}
			if in(t, f.Start, f.End.Add(student[f.Student].Rest)) {
				used["student "+f.Student]++
			}
		}
		charging := 0
		for _, g := range p.Charges {
			if in(t, g.Start, g.End) {
				charging++
				used["pack "+g.Pack]++
				used[fmt.Sprint("slot ", g.Charger, g.Slot)]++
			}
		}
		if charging > slots {
			say("%d packs charge at %s", charging, t)
		}
		for what, n := range used {
			if n > 1 {
				say("%s is used %d times at once at %s", what, n, t.Format("15:04:05"))
			}
		}
	}
	// Every flight's pack was full at the start of the day, or has cooled and been charged
	// since its last flight.
	for _, f := range p.Flights {
		k := pack[f.Pack]
		ready, full := k.From, k.Full
		for _, before := range all {
			if before.Pack == f.Pack && before.End.After(ready) && !before.End.After(f.Start) && (before.End.After(d.Now) ||
				!before.Flown && d.Now.IsZero()) {
				ready, full = before.End.Add(k.Cool), false
			}
		}
		if full && !f.Start.Before(ready) {
			continue
		}
		if !slices.ContainsFunc(p.Charges, func(g Charging) bool {
			return g.Pack == f.Pack && !g.Start.Before(ready) && !g.End.After(f.Start)
		}) {
			say("%s is not full at %s", f.Pack, f.Start.Format("15:04"))
		}
	}
	for _, f := range p.Flights {
		for _, g := range all {
			first := student[g.Student]
			s := student[f.Student]
			proves := first.Kind == Proving && f.Student != g.Student && s.Kind != Proving && slices.ContainsFunc(s.Craft,
				func(c string) bool { return slices.Contains(first.Craft, c) })
			shows := first.Kind == Demonstration && s.Kind == Lesson && (len(first.Before) == 0 || slices.Contains(first.Before,
				f.Student))
			if (proves || shows) && f.Start.Before(g.End) {
				say("%s flies before %s has", f.Student, g.Student)
			}
		}
	}
	return out
}
