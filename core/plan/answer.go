package plan

import (
	"math"
	"slices"
	"time"
)

// What is told of a plan: its flights and charges by name and time, what found
// no place, and what it does to the plan that stood.

// Plan is the answer: maestrale-day-plan/1. Its lists are never nil.
type Plan struct {
	Format  string     `json:"format"`
	Flights []Flight   `json:"flights"`
	Charges []Charging `json:"charges"`
	// MakespanMinutes is from the start of the day to the last landing, those
	// that were flown included; 0 with no flight.
	MakespanMinutes float64 `json:"makespan_minutes"`
	// LowerBoundMinutes is what no plan of the same flights can land before,
	// and Bound the reason in words.
	LowerBoundMinutes float64 `json:"lower_bound_minutes"`
	Bound             string  `json:"bound"`
	// Unplaced are the flights that found no place.
	Unplaced []Unplaced `json:"unplaced"`
	// Fits are the smallest changes that would place all.
	Fits []string `json:"would_fit"`
	// WaitMostMinutes and WaitMeanMinutes are the longest and the mean wait of a
	// student, between and before own flights, beyond the rests.
	WaitMostMinutes float64 `json:"wait_most_minutes"`
	WaitMeanMinutes float64 `json:"wait_mean_minutes"`
	// Changed is what it does to the plan that stood; nil where none did.
	Changed *Changed `json:"changed,omitempty"`
}

// Unplaced says who is left out, with how many flights, and why.
type Unplaced struct {
	// Student is an id; Flights counts those that are left out, 1 and over.
	Student string `json:"student"`
	Flights int    `json:"flights"`
	Why     string `json:"why"`
}

// Changed is what a plan does to the one that stood before.
type Changed struct {
	// Same counts flights at their time and on their craft, Moved those at
	// another time, Swaps those on another craft, and Gone those that are flown
	// no more.
	Same  int `json:"same"`
	Moved int `json:"moved"`
	Swaps int `json:"swaps"`
	Gone  int `json:"gone"`
}

// plan writes a run as the answer.
func (p *problem) plan(r *run) Plan {
	d := p.day
	out := Plan{Format: "maestrale-day-plan/1", Flights: []Flight{}, Charges: []Charging{}, Unplaced: []Unplaced{},
		Fits: []string{}}
	// Counted anew from the flights themselves, which are what is told.
	r.done = make([]int, len(p.students))
	for _, f := range r.flights {
		r.done[f.student]++
		r.aloft[f.student] = max(r.aloft[f.student], f.end)
		g := Flight{Student: d.Students[f.student].ID, Craft: d.Craft[f.craft].ID, Pack: d.Packs[f.pack].ID, Box: f.box + 1,
			Start: d.at(f.start), End: d.at(f.end)}
		if k := d.Students[f.student].Kind; k != Lesson {
			g.Kind = k
		}
		if f.teach >= 0 {
			g.Instructor = d.Instructors[f.teach].ID
		}
		if f.spot >= 0 {
			g.Spotter = d.Spotters[f.spot].ID
		}
		out.Flights = append(out.Flights, g)
	}
	// By time, and from box to box, as the day is read aloud.
	slices.SortStableFunc(out.Flights, func(a, b Flight) int {
		if c := a.Start.Compare(b.Start); c != 0 {
			return c
		}
		return a.Box - b.Box
	})
	for _, c := range r.needed() {
		at := p.slots[c.slot]
		out.Charges = append(out.Charges, Charging{Pack: d.Packs[c.pack].ID, Charger: d.Chargers[at.charger].ID,
			Slot: at.slot, Start: d.at(c.start), End: d.at(c.end)})
	}
	for i, n := range r.left {
		if n > 0 {
			out.Unplaced = append(out.Unplaced, Unplaced{Student: d.Students[i].ID, Flights: n})
		}
	}
	out.MakespanMinutes = tenths(float64(p.makespan(r)) / 60)
	bound, by := p.bound(r.done)
	out.LowerBoundMinutes, out.Bound = tenths(float64(bound)/60), by
	most, mean, _ := p.waits(r)
	out.WaitMostMinutes, out.WaitMeanMinutes = tenths(most), tenths(mean)
	if p.prev != nil {
		out.Changed = p.changed(out.Flights)
	}
	return out
}

// tenths keeps a tenth of a minute. Makespan and bound are rounded alike, so
// that the one does not fall under the other.
func tenths(v float64) float64 { return math.Round(v*10) / 10 }

// changed counts what a plan does to the one that stood.
func (p *problem) changed(now []Flight) *Changed {
	c := &Changed{}
	nth := map[string]int{}
	index := map[string]int{}
	for i, s := range p.day.Students {
		index[s.ID] = i
	}
	total := 0
	for _, list := range p.prev {
		total += len(list)
	}
	kept := 0
	for _, f := range now {
		i, n := index[f.Student], nth[f.Student]
		nth[f.Student]++
		if n >= len(p.prev[i]) {
			continue
		}
		kept++
		was := p.prev[i][n]
		switch {
		// Another craft is told even where the time has changed as well.
		case f.Craft != was.Craft:
			c.Swaps++
		case f.Start.Sub(was.Start).Abs() >= time.Minute:
			c.Moved++
		default:
			c.Same++
		}
	}
	c.Gone = total - kept
	return c
}
