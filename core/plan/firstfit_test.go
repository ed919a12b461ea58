package plan

import (
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"
)

// placedBySimplePass walks through a day minute by minute: packs that have cooled go on free slots in their order, and
// the first student in the list who can fly does. It shares no code with the planner. Turned about, the list is taken
// from its end.
func placedBySimplePass(d Day, about bool) (placed int) {
	type use struct{ until time.Time }
	craft, packs := make([]use, len(d.Craft)), make([]use, len(d.Packs))
	box, slots := make([]use, d.Boxes), []use{}
	teach, spot, rested := make([]use, len(d.Instructors)), make([]use, len(d.Spotters)), make([]use, len(d.Students))
	for _, c := range d.Chargers {
		slots = append(slots, make([]use, c.Slots)...)
	}
	full, left := make([]bool, len(d.Packs)), make([]int, len(d.Students))
	order := make([]int, len(d.Students))
	for i, s := range d.Students {
		left[i], order[i] = s.Flights, i
	}
	if about {
		slices.Reverse(order)
	}
	for i, k := range d.Packs {
		full[i], packs[i].until = k.Full, k.From
	}
	end := d.End
	if d.Daylight.Before(end) {
		end = d.Daylight
	}
	calm := func(from, to time.Time, limit float64) bool {
		if limit == 0 {
			return true
		}
		for i, w := range d.Wind {
			over := i+1 < len(d.Wind) && !d.Wind[i+1].From.After(from)
			if w.Mps > limit && w.From.Before(to) && !over {
				return false
			}
		}
		return true
	}
	for t := d.Start; t.Before(end); t = t.Add(time.Minute) {
		free := func(list []use, ok func(i int) bool) int {
			return slices.IndexFunc(indices(len(list)), func(i int) bool { return !list[i].until.After(t) && ok(i) })
		}
		any := func(int) bool { return true }
		for k := range packs {
			if s := free(slots, any); s >= 0 && !full[k] && !packs[k].until.After(t) {
				full[k], packs[k].until = true, t.Add(d.Packs[k].Charge)
				slots[s].until = packs[k].until
			}
		}
		for _, i := range order {
			s := &d.Students[i]
			lands := t.Add(s.Flight)
			if left[i] == 0 || rested[i].until.After(t) || s.From.After(t) || lands.After(end) ||
				!s.Until.IsZero() && lands.After(s.Until) {
				continue
			}
			in := func(p Person) bool {
				return !p.From.After(t) && (p.Until.IsZero() || !lands.After(p.Until)) && (s.With == "" || p.ID == s.With)
			}
			b, w, o := free(box, any), -1, -1
			if s.Instructor {
				w = free(teach, func(i int) bool { return in(d.Instructors[i]) })
			}
			if s.Spotter {
				o = free(spot, func(i int) bool { p := d.Spotters[i]; p.ID = s.With; return in(p) })
			}
			if b < 0 || s.Instructor && w < 0 || s.Spotter && o < 0 {
				continue
			}
			k := -1
			c := free(craft, func(i int) bool {
				x := d.Craft[i]
				if !slices.Contains(s.Craft, x.ID) || x.From.After(t) || !x.Until.IsZero() && lands.After(x.Until) ||
					!calm(t, lands, x.WindMps) || !calm(t, lands, s.WindMps) {
					return false
				}
				k = free(packs, func(i int) bool { return full[i] && d.Packs[i].Type == x.Type })
				return k >= 0
			})
			if c < 0 {
				continue
			}
			left[i], placed = left[i]-1, placed+1
			full[k], packs[k].until = false, lands.Add(d.Packs[k].Cool)
			craft[c].until, box[b].until = lands.Add(d.Turnaround), lands.Add(d.Turnaround)
			rested[i].until = lands.Add(s.Rest)
			if w >= 0 {
				teach[w].until = lands
			}
			if o >= 0 {
				spot[o].until = lands
			}
		}
	}
	return placed
}

func indices(n int) []int {
	out := make([]int, n)
	for i := range out {
		out[i] = i
	}
	return out
}

// Where packs are short, no simple pass over the day places a flight more than the plan does.
func TestNoSimplePassPlacesMore(t *testing.T) {
	rng := rand.New(rand.NewPCG(20, 11))
	days := 60
	if testing.Short() {
		days = 25
	}
	short := 0
	for i := range days {
		d := readDoc(t, makeDay(uint64(52_000+i), 3+rng.IntN(12), 1+rng.IntN(4), 1+rng.IntN(6), 1+rng.IntN(2),
			1+rng.IntN(3)))
		p := Solve(d)
		for _, about := range []bool{false, true} {
			if simple := placedBySimplePass(d, about); simple > len(p.Flights) {
				t.Errorf("day %d: a simple pass places %d flights, the plan %d", i, simple, len(p.Flights))
			}
		}
		if len(p.Unplaced) > 0 {
			short++
		}
	}
	if short < days/4 {
		t.Errorf("packs are short on %d of %d days only", short, days)
	}
}

// The rest of a day that is planned again places as many flights as planning it afresh, and lands within three minutes.
func TestPlanningAgainIsHardlyWorseThanAfresh(t *testing.T) {
	rng := rand.New(rand.NewPCG(20, 12))
	days := 60
	if testing.Short() {
		days = 12
	}
	for i := range days {
		d := readDoc(t, makeDay(uint64(61_000+i), 3+rng.IntN(10), 1+rng.IntN(3), 2+rng.IntN(10), rng.IntN(3), 1+rng.IntN(3)))
		p := ofRounds(&d, nil, 100, false)
		now := running(d, p, time.Duration(10+rng.IntN(80))*time.Minute)
		switch i % 3 {
		case 0:
			now.Students = slices.Clone(now.Students)
			now.Students[rng.IntN(len(now.Students))].Until = now.Now.Add(time.Minute)
		case 1:
			now.Packs = slices.DeleteFunc(slices.Clone(now.Packs), func(k Pack) bool {
				return k.ID == d.Packs[0].ID && !slices.ContainsFunc(now.Flown, func(f Flight) bool { return f.Pack == k.ID })
			})
		}
		again, afresh := Replan(now, p.Flights), Solve(now)
		more := again.MakespanMinutes - afresh.MakespanMinutes
		if len(again.Flights) < len(afresh.Flights) || len(again.Flights) == len(afresh.Flights) && more > 3.05 {
			t.Errorf("day %d: again %d flights to minute %.1f, afresh %d to %.1f", i, len(again.Flights),
				again.MakespanMinutes, len(afresh.Flights), afresh.MakespanMinutes)
		}
	}
}

// Who is left out is told the thing of which more would do: with the packs, craft or people that are named as short,
// the student flies, and with any other the reason is another.
func TestLeftOutForItsTrueReason(t *testing.T) {
	for what, k := range map[string]struct {
		change func(doc)
		why    string
	}{
		"craft": {func(d doc) { d["craft"] = d["craft"].([]any)[:1] }, "there are too few craft"},
		"boxes": {func(d doc) { d["boxes"] = 1 }, "there are too few flying boxes"},
		"teach": {func(d doc) { d["instructors"] = 1 }, "there are too few instructors"},
		"packs": {func(d doc) { d["packs"] = d["packs"].([]any)[:2]; d["chargers"] = []any{} },
			"there are too few charged packs"},
		"pair": {func(d doc) {
			for _, s := range d["students"].([]any) {
				s.(doc)["with"] = "I1"
			}
		}, "the instructor with whom the student is paired has no more time"},
	} {
		raw := doc{"format": "maestrale-day/1", "start": "2026-05-01T09:00:00+02:00", "end": "2026-05-01T10:00:00+02:00",
			"boxes": 3, "instructors": 3, "turnaround_minutes": 2, "chargers": []any{}}
		var craft, packs, people []any
		for i := range 3 {
			id := []string{"poiana-1", "poiana-2", "poiana-3"}[i]
			craft = append(craft, doc{"id": id, "type": "poiana"})
			people = append(people, doc{"id": "S" + id, "flights": 2, "minutes": 12, "rest_minutes": 5,
				"needs": []string{"instructor"},
				"craft": []string{"poiana-1", "poiana-2", "poiana-3"}})
		}
		for i := range 8 {
			packs = append(packs, doc{"id": string(rune('A' + i)), "type": "poiana", "full": true, "charge_minutes": 50})
		}
		raw["craft"], raw["packs"], raw["students"] = craft, packs, people
		if p := Solve(readDoc(t, raw)); len(p.Unplaced) > 0 {
			t.Fatalf("the whole day: %+v", p.Unplaced)
		}
		k.change(raw)
		for _, s := range raw["students"].([]any) {
			if what == "craft" {
				s.(doc)["craft"] = []string{"poiana-1"}
			}
		}
		p := Solve(readDoc(t, raw))
		if len(p.Unplaced) == 0 {
			t.Errorf("%s: nobody is left out", what)
		}
		for _, u := range p.Unplaced {
			if !strings.Contains(u.Why, k.why) {
				t.Errorf("%s: %s", what, u.Why)
			}
		}
	}
}
