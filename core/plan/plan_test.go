package plan

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"
)

// On the shipped days no rule is broken, and the last landing is within 8 % of a bound
// that no plan can beat.
func TestTheShippedDays(t *testing.T) {
	for i, d := range shippedDays(t) {
		p := Solve(d)
		for _, b := range rulesBroken(d, p) {
			t.Errorf("day %d: %s", i+1, b)
		}
		for _, b := range Check(d, p.Flights, p.Charges) {
			t.Errorf("day %d: Check: %s", i+1, b.Says)
		}
		over := p.MakespanMinutes/p.LowerBoundMinutes - 1
		t.Logf("day %2d: %2d flights, %d unplaced, %5.1f min, bound %5.1f (%s), %+.1f %%, waits %.0f to %.0f min", i+1,
			len(p.Flights), len(p.Unplaced), p.MakespanMinutes, p.LowerBoundMinutes, p.Bound, 100*over, p.WaitMeanMinutes,
			p.WaitMostMinutes)
		if over > 0.08 || over < 0 {
			t.Errorf("day %d: %.1f min, the bound is %.1f (%s)", i+1, p.MakespanMinutes, p.LowerBoundMinutes, p.Bound)
		}
	}
}

func BenchmarkDay(b *testing.B) {
	d := shippedDays(b)[0]
	for b.Loop() {
		Solve(d)
	}
}

func BenchmarkAgain(b *testing.B) {
	d := shippedDays(b)[0]
	p := Solve(d)
	now, gone := running(d, p, 90*time.Minute), slices.Clone(d.Packs)
	now.Packs = gone[1:]
	for b.Loop() {
		Replan(now, p.Flights)
	}
}

// running is a day as it stands after so long, with the plan flown to the letter.
func running(d Day, p Plan, after time.Duration) Day {
	d.Now = d.Start.Add(after)
	d.Packs, d.Flown = slices.Clone(d.Packs), nil
	for i := range d.Packs {
		k := &d.Packs[i]
		full, ready, on := k.Full, k.From, ""
		for t := d.Start; ; {
			next := time.Time{}
			for _, f := range p.Flights {
				if f.Pack == k.ID && !f.Start.Before(t) && f.Start.Before(d.Now) && (next.IsZero() || f.Start.Before(next)) {
					next, full, ready, on = f.Start, false, f.End.Add(k.Cool), ""
				}
			}
			for _, c := range p.Charges {
				if c.Pack == k.ID && !c.Start.Before(t) && c.Start.Before(d.Now) && (next.IsZero() || c.Start.Before(next)) {
					next, full, ready, on = c.Start, true, c.End, c.Charger
				}
			}
			if next.IsZero() {
				break
			}
			t = next.Add(time.Second)
		}
		k.Full, k.From, k.Charger = full, ready, on
		if !ready.After(d.Now) {
			k.From, k.Charger = time.Time{}, ""
		}
	}
	for _, f := range p.Flights {
		if f.Start.Before(d.Now) {
			f.Flown = true
			d.Flown = append(d.Flown, f)
		}
	}
	return d
}

// No rule is broken on any of many random days, as they begin and as they run on; what
// nobody can fly is left out with a reason, and the bound holds.
func TestRandomDaysBreakNoRule(t *testing.T) {
	rng := rand.New(rand.NewPCG(8, 8))
	days := 150
	if testing.Short() {
		days = 30
	}
	left := 0
	for i := range days {
		raw := makeDay(uint64(1000+i), 2+rng.IntN(12), 1+rng.IntN(3), 2+rng.IntN(12), rng.IntN(3), 1+rng.IntN(3))
		people := raw["students"].([]any)
		if rng.IntN(3) == 0 {
			first := people[0].(doc)
			first["kind"], first["flights"] = []string{Proving, Demonstration}[rng.IntN(2)], 1
		}
		if rng.IntN(3) == 0 {
			people[len(people)-1].(doc)["with"] = "I1"
		}
		d := readDoc(t, raw)
		p := ofRounds(&d, nil, 60, true)
		for _, b := range rulesBroken(d, p) {
			t.Errorf("day %d: %s", i, b)
		}
		for _, b := range Check(d, p.Flights, p.Charges) {
			t.Errorf("day %d: Check: %s", i, b.Says)
		}
		if p.LowerBoundMinutes > p.MakespanMinutes+0.05 {
			t.Errorf("day %d: bound %.1f (%s) over %.1f", i, p.LowerBoundMinutes, p.Bound, p.MakespanMinutes)
		}
		left += len(p.Unplaced)
		if len(p.Unplaced) > 0 && len(p.Fits) == 0 {
			t.Errorf("day %d: nobody says what would fit", i)
		}
		// An hour on, something has happened.
		now := running(d, p, time.Duration(20+rng.IntN(60))*time.Minute)
		switch rng.IntN(4) {
		case 0:
			k := rng.IntN(len(now.Packs))
			if !slices.ContainsFunc(now.Flown, func(f Flight) bool { return f.Pack == now.Packs[k].ID }) {
				now.Packs = slices.Delete(now.Packs, k, k+1)
			}
		case 1:
			now.Students = slices.Clone(now.Students)
			now.Students[rng.IntN(len(now.Students))].Until = now.Now.Add(time.Minute)
		case 2:
			now.Craft = slices.Clone(now.Craft)
			now.Craft[0].Until = now.Now
		case 3:
			now.Wind = append(slices.DeleteFunc(slices.Clone(now.Wind), func(w Wind) bool { return w.From.After(now.Now) }),
				Wind{From: now.Now, Mps: 8})
		}
		again := Replan(now, p.Flights)
		for _, b := range rulesBroken(now, again) {
			t.Errorf("day %d, running: %s", i, b)
		}
		for _, b := range Check(now, append(slices.Clone(now.Flown), again.Flights...), again.Charges) {
			t.Errorf("day %d, running: Check: %s", i, b.Says)
		}
	}
	if left == 0 {
		t.Error("everybody flies all every day")
	}
}

// The same day gives the same plan, and one that is planned again without a change keeps
// every flight.
func TestAPlanThatStandsIsKept(t *testing.T) {
	for _, d := range shippedDays(t)[:6] {
		p := Solve(d)
		if again := Solve(d); !slices.Equal(p.Flights, again.Flights) {
			t.Fatal("the same day gives another plan")
		}
		now := running(d, p, 45*time.Minute)
		same := Replan(now, p.Flights)
		if c := same.Changed; c == nil || c.Moved+c.Swaps+c.Gone > 0 || c.Same+len(now.Flown) != len(p.Flights) {
			t.Errorf("nothing happened: %+v of %d", c, len(p.Flights))
		}
	}
}

// When a pack dies, a student leaves or a craft is grounded, flights stay where they were as far as the day still ends
// within three minutes of what planning afresh reaches: on this full day that is a part of them. Those of the craft
// that is grounded are all elsewhere.
func TestWhatAChangeDisturbs(t *testing.T) {
	d := shippedDays(t)[0]
	p := Solve(d)
	now := running(d, p, 60*time.Minute)
	kept := func(what string, changed Day, least float64) Plan {
		again := Replan(changed, p.Flights)
		for _, b := range rulesBroken(changed, again) {
			t.Errorf("%s: %s", what, b)
		}
		total := len(p.Flights) - len(now.Flown)
		if share := float64(again.Changed.Same) / float64(total); share < least {
			t.Errorf("%s: %+v of %d", what, *again.Changed, total)
		} else {
			t.Logf("%s: %+v of %d, %d left out", what, *again.Changed, total, len(again.Unplaced))
		}
		return again
	}
	next := p.Flights[slices.IndexFunc(p.Flights, func(f Flight) bool { return f.Start.After(now.Now) })]
	dead := now
	dead.Packs = slices.DeleteFunc(slices.Clone(now.Packs), func(k Pack) bool { return k.ID == next.Pack })
	dead.Flown = slices.DeleteFunc(slices.Clone(now.Flown), func(f Flight) bool { return f.Pack == next.Pack })
	kept("a pack dies", dead, 0.1)
	gone := now
	gone.Students = slices.Clone(now.Students)
	gone.Students[slices.IndexFunc(gone.Students,
		func(s Student) bool { return s.ID == next.Student })].Until = now.Now.Add(time.Second)
	if again := kept("a student leaves", gone, 0.1); slices.ContainsFunc(again.Flights,
		func(f Flight) bool { return f.Student == next.Student }) {
		t.Error("who has left still flies")
	}
	ground := now
	ground.Craft = slices.Clone(now.Craft)
	ground.Craft[slices.IndexFunc(ground.Craft, func(c Craft) bool { return c.ID == next.Craft })].Until = now.Now
	if again := kept("a craft is grounded", ground, 0.1); slices.ContainsFunc(again.Flights,
		func(f Flight) bool { return f.Craft == next.Craft }) {
		t.Error("a grounded craft flies")
	}
}

// Who cannot fly is told why, in words of the day, and the smallest change that would fit
// everybody does.
func TestADayThatCannotFit(t *testing.T) {
	base := func() doc {
		return doc{"format": "maestrale-day/1", "start": "2026-05-01T09:00:00+02:00", "end": "2026-05-01T10:00:00+02:00",
			"boxes": 1, "turnaround_minutes": 3,
			"craft": []any{doc{"id": "poiana-1", "type": "poiana"}}, "packs": []any{doc{"id": "P1", "type": "poiana",
				"full": true, "charge_minutes": 50}, doc{"id": "P2", "type": "poiana", "full": true, "charge_minutes": 50}},
			"chargers": []any{}, "students": []any{doc{"id": "S1", "flights": 3, "minutes": 10, "craft": []string{"poiana-1"}}}}
	}
	for what, k := range map[string]struct {
		change func(doc)
		why    string
		fits   string
	}{
		"packs": {func(doc) {}, "charged packs", "1 more charged pack of the type poiana"},
		"hours": {func(d doc) { d["end"] = "2026-05-01T09:25:00+02:00" },
			"3 flights with their rests take 30 min, and there are 25 min", ""},
		"wind": {func(d doc) {
			d["wind"] = []any{doc{"from": "2026-05-01T08:00:00+02:00", "mps": 9}}
			d["craft"].([]any)[0].(doc)["wind_mps"] = 8
		}, "over the limit", ""},
		"rising": {func(d doc) {
			d["wind"] = []any{doc{"from": "2026-05-01T09:20:00+02:00", "mps": 9}}
			d["craft"].([]any)[0].(doc)["wind_mps"] = 8
		}, "the wind passes the limit at 09:20", ""},
		"spotter": {func(d doc) { d["students"].([]any)[0].(doc)["needs"] = []string{"spotter"}; d["spotters"] = 0 },
			"no spotter is there", ""},
		"no pack": {func(d doc) { d["packs"] = []any{} }, "there is no pack", "3 more charged packs of the type poiana"},
	} {
		raw := base()
		k.change(raw)
		d := readDoc(t, raw)
		p := Solve(d)
		if len(p.Unplaced) != 1 || !strings.Contains(p.Unplaced[0].Why, k.why) || k.fits != "" && !slices.Contains(p.Fits,
			k.fits) {
			t.Errorf("%s: %+v %q", what, p.Unplaced, p.Fits)
		}
		if n := 0; k.fits != "" {
			if _, err := fmt.Sscanf(k.fits, "%d more charged", &n); err != nil {
				t.Fatal(err)
			}
			for i := range n {
				d.Packs = append(d.Packs, Pack{ID: fmt.Sprint("X", i), Type: "poiana", Full: true})
			}
			if again := Solve(d); len(again.Unplaced) > 0 {
				t.Errorf("%s: %q does not fit", what, k.fits)
			}
		}
	}
}

// Check names what a change by hand breaks.
func TestCheckNamesWhatBreaks(t *testing.T) {
	d := shippedDays(t)[0]
	p := Solve(d)
	later := func(f *Flight, by time.Duration) { f.Start, f.End = f.Start.Add(by), f.End.Add(by) }
	for what, k := range map[string]struct {
		change func([]Flight)
		want   string
	}{
		"two craft at once": {func(l []Flight) { l[1].Student = l[0].Student; l[1].Start, l[1].End = l[0].Start, l[0].End },
			"is on"},
		"before the day": {func(l []Flight) { later(&l[0], -time.Hour) }, "is there from"},
		"after the day":  {func(l []Flight) { later(&l[0], 24*time.Hour) }, "lands at"},
		"a taken craft": {func(l []Flight) { l[1].Craft = l[0].Craft; l[1].Start, l[1].End = l[0].Start, l[0].End },
			"is made ready for 3 min"},
		"an empty pack": {func(l []Flight) {
			for i := range l[1:] {
				if l[i+1].Craft[:3] == l[0].Craft[:3] && l[i+1].Start.After(l[0].End) {
					l[i+1].Pack = l[0].Pack
					return
				}
			}
		}, "is empty at"},
		"a moon":   {func(l []Flight) { l[0].Craft = "moon" }, "is not there today"},
		"no box":   {func(l []Flight) { l[0].Box = 9 }, "there is no box 9"},
		"no teach": {func(l []Flight) { l[0].Instructor = "" }, "no instructor is there"},
	} {
		flights := slices.Clone(p.Flights)
		k.change(flights)
		broken := Check(d, flights, p.Charges)
		if !slices.ContainsFunc(broken, func(b Broken) bool { return strings.Contains(b.Says, k.want) }) {
			t.Errorf("%s: %+v", what, broken)
		}
	}
}
