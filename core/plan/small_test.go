package plan

import (
	"fmt"
	"math/rand/v2"
	"testing"
	"time"
)

// exhaustive tries every order in which flights and chargings can begin, each as soon as
// what it needs is there, and returns the earliest last landing in seconds. Some best plan
// is among these: moving anything earlier that can be never makes the last landing later.
type exhaustive struct {
	d                             Day
	craft, box, slot, ready, rest []int // when each is free
	full                          []bool
	left                          []int
	best                          int
	nodes                         int
}

func optimum(d Day) (best, nodes int) {
	e := exhaustive{d: d, craft: make([]int, len(d.Craft)), box: make([]int, d.Boxes), ready: make([]int, len(d.Packs)),
		rest: make([]int, len(d.Students)), best: int(d.End.Sub(d.Start).Seconds()) + 1}
	for _, c := range d.Chargers {
		e.slot = append(e.slot, make([]int, c.Slots)...)
	}
	for _, p := range d.Packs {
		e.full = append(e.full, p.Full)
	}
	for _, s := range d.Students {
		e.left = append(e.left, s.Flights)
	}
	e.try(0, 0)
	return e.best, e.nodes
}

func seconds(d time.Duration) int { return int(d.Seconds()) }

func (e *exhaustive) try(from, last int) {
	e.nodes++
	done := true
	for s, n := range e.left {
		if n == 0 {
			continue
		}
		done = false
		st := e.d.Students[s]
		for c, kind := range e.d.Craft {
			if !contains(st.Craft, kind.ID) {
				continue
			}
			for p, pk := range e.d.Packs {
				if !e.full[p] || pk.Type != kind.Type {
					continue
				}
				b := earliest(e.box)
				at := max(e.craft[c], e.box[b], e.ready[p], e.rest[s])
				end := at + seconds(st.Flight)
				if at < from || end >= e.best {
					continue
				}
				oc, ob, op, or := e.craft[c], e.box[b], e.ready[p], e.rest[s]
				e.craft[c], e.box[b] = end+seconds(e.d.Turnaround), end+seconds(e.d.Turnaround)
				e.ready[p], e.full[p], e.rest[s] = end+seconds(pk.Cool), false, end+seconds(st.Rest)
				e.left[s]--
				e.try(at, max(last, end))
				e.left[s]++
				e.craft[c], e.box[b], e.ready[p], e.full[p], e.rest[s] = oc, ob, op, true, or
			}
		}
	}
	if done {
		e.best = min(e.best, last)
		return
	}
	for p, pk := range e.d.Packs {
		if e.full[p] || len(e.slot) == 0 {
			continue
		}
		s := earliest(e.slot)
		at := max(e.slot[s], e.ready[p])
		if at < from || at+seconds(pk.Charge) >= e.best {
			continue
		}
		os, op := e.slot[s], e.ready[p]
		e.slot[s], e.ready[p], e.full[p] = at+seconds(pk.Charge), at+seconds(pk.Charge), true
		e.try(at, last)
		e.slot[s], e.ready[p], e.full[p] = os, op, false
	}
}

func earliest(list []int) int {
	at := 0
	for i, v := range list {
		if v < list[at] {
			at = i
		}
	}
	return at
}

func contains(list []string, s string) bool {
	for _, v := range list {
		if v == s {
			return true
		}
	}
	return false
}

// On days small enough to try everything the bound is never over the best that there is,
// the plan never under it, and the plan is the best or near it.
func TestSmallDaysAgainstTryingEverything(t *testing.T) {
	rng := rand.New(rand.NewPCG(4, 4))
	days, over := 0, 0.0
	for days < 60 {
		boxes := 1 + rng.IntN(2)
		d := Day{Start: time.Date(2026, 5, 1, 9, 0, 0, 0, time.UTC), Boxes: boxes, Turnaround: 3 * time.Minute}
		d.End = d.Start.Add(10 * time.Hour)
		d.Daylight = d.End
		kinds := 1 + rng.IntN(2)
		for i := range 2 {
			d.Craft = append(d.Craft, Craft{ID: fmt.Sprint("c", i), Type: types[i%kinds]})
		}
		for i := range 2 + rng.IntN(2) {
			d.Packs = append(d.Packs, Pack{ID: fmt.Sprint("p", i), Type: types[i%kinds], Full: rng.IntN(3) > 0,
				Charge: time.Duration(15+5*rng.IntN(6)) * time.Minute, Cool: time.Duration(5*rng.IntN(3)) * time.Minute})
		}
		d.Chargers = []Charger{{ID: "C", Slots: 1 + rng.IntN(2)}}
		flights := 0
		for i := range 2 + rng.IntN(2) {
			n := 1 + rng.IntN(2)
			if flights += n; flights > 5 {
				break
			}
			s := Student{ID: fmt.Sprint("s", i), Kind: Lesson, Flights: n, Flight: time.Duration(6+2*rng.IntN(5)) * time.Minute,
				Rest: time.Duration(5*rng.IntN(4)) * time.Minute}
			for _, c := range d.Craft {
				if rng.IntN(3) > 0 {
					s.Craft = append(s.Craft, c.ID)
				}
			}
			if s.Craft == nil {
				s.Craft = []string{"c0"}
			}
			d.Students = append(d.Students, s)
		}
		best, _ := optimum(d)
		if best > seconds(d.End.Sub(d.Start)) {
			continue // somebody has no pack at all
		}
		days++
		p := Solve(d)
		for _, b := range rulesBroken(d, p) {
			t.Errorf("%s", b)
		}
		opt := tenths(float64(best) / 60)
		if p.LowerBoundMinutes > opt+0.01 {
			t.Errorf("the bound is %.1f (%s), and there is a plan of %.1f: %+v", p.LowerBoundMinutes, p.Bound, opt, d)
		}
		if p.MakespanMinutes < opt-0.01 || len(p.Unplaced) > 0 {
			t.Errorf("%.1f min, and nothing under %.1f can be; %v", p.MakespanMinutes, opt, p.Unplaced)
		}
		gap := p.MakespanMinutes/opt - 1
		over += gap
		if gap > 0.15 {
			t.Errorf("%.1f min, and %.1f can be: %+v", p.MakespanMinutes, opt, d)
		}
	}
	if mean := over / float64(days); mean > 0.01 {
		t.Errorf("%.2f %% over the best in the mean", 100*mean)
	} else {
		t.Logf("%d days, %.2f %% over the best in the mean", days, 100*mean)
	}
}
