package daylogs

import (
	"fmt"
	"slices"

	"maestrale/core/misread"
)

// Answer puts an answer to an item's question, and says what follows: one item,
// or, where it was asked whose flight a log is, all that is in it. Nothing that
// follows asks again; what stays open then is left out.
func Answer(day Day, logs []Log, lay Lay, it Item, answer string) ([]Item, error) {
	if it.Asks == Certain {
		return nil, misread.At(0, "an item that asks something", "nothing is asked of this one")
	}
	if !slices.ContainsFunc(it.Choices, func(c Choice) bool { return c.Key == answer }) {
		return nil, misread.At(0, "one of the answers that are offered", "the answer is %.40q", answer)
	}
	s := sorter{day: day, logs: logs, lay: lay, out: &Found{Logs: make([]Said, len(logs))}, at: make([]place, len(logs))}
	if it.Answer = answer; answer == Neither {
		it.Result = nil
		return []Item{it}, nil
	}
	switch it.Asks {
	case Whose:
		flight := slices.IndexFunc(day.Flights, func(f Flight) bool { return f.ID == answer })
		if flight < 0 {
			return nil, fmt.Errorf("flight %s is not of this day", answer)
		}
		s.leaveOut()
		p := &s.at[it.Log]
		p.clock = it.At.Sub(day.Starts).Seconds() - p.whole.from
		// Where the log's own clock leads elsewhere it begins as the flight does.
		f, t := s.flightSpan(flight), p.whole.moved(p.clock)
		if t.alike(f) < likelyFlight && !s.within(t, flight) {
			p.clock = f.from - p.whole.from
		}
		list := s.drillsOf(it.Log, flight)
		for k := range list {
			list[k].settle()
		}
		return list, nil
	case WhichDrill:
		for _, f := range day.Flights {
			for _, c := range f.Drills {
				if f.ID != it.Flight || Key(c) != answer {
					continue
				}
				it.Cell = c
				r, err := s.score(&it)
				it.Result = r
				return []Item{it}, err
			}
		}
		return nil, fmt.Errorf("the drill %s is not likely on this flight", answer)
	}
	return []Item{it}, nil
}

// settle answers what an item would still ask, with what does least: the mark
// stands, and the first drill was meant.
func (it *Item) settle() {
	switch it.Asks {
	case WhichStands:
		it.Answer = TheMark
	case WhichDrill, IsClose:
		it.Answer = it.Choices[0].Key
	}
}

// Keeps tells whether something is kept of an item: it is certain or answered,
// and has a result.
func (it *Item) Keeps() bool {
	return it.Result != nil && (it.Asks == Certain || it.Answer != "" && it.Answer != Neither)
}
