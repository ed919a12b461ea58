package trace

import (
	"math"

	"maestrale/core/flight"
)

// ByDrill is who lets the events of a drill happen.
const ByDrill = "the drill"

// Gate is the place at which a step of a drill begins, so far as it decides when
// something happens in it: no sooner than MinS after the gate before and what
// happened there, and within Reach of one of its points, between two heights.
type Gate struct {
	MinS      float64
	StayS     float64 // how long it stays there first
	ReachM    float64 // 0 = wherever the craft is
	Low, High float64 // of the feet; 0, 0 = at any height
	Nose      float64 // heading, rad
	NoseOff   float64 // how far the nose may be off it; 0 = points anywhere
	SlowMps   float64 // how fast it may be; 0 = at any speed
	Points    []flight.Vec
	Cues      []Cue
}

// Cue is something that happens so long after its gate.
type Cue struct {
	AfterS float64
	Event  string
	Say    string // what the pilot hears, empty where it is not announced
}

// Schedule lets the events of a drill happen as a flight comes to them. The same
// flight meets the same events.
type Schedule struct {
	Gates   []Gate
	gate    int     // that is waited for
	reached float64 // when the one before was, s
	next    int     // cue of the one before
	ready   bool
	inside  bool
	since   float64 // when it came to the gate that is waited for
}

// due returns the next cue that is due; call it until there is none.
func (s *Schedule) due(t float64, at flight.Vec, heading, speed float64) (Cue, bool) {
	for {
		if s.ready { // within a gate that was reached
			cues := s.Gates[s.gate].Cues
			if s.next < len(cues) {
				if t < s.reached+cues[s.next].AfterS-1e-9 {
					return Cue{}, false
				}
				s.next++
				s.reached = t // what comes next is counted from what happened
				return cues[s.next-1], true
			}
			s.gate, s.next, s.ready = s.gate+1, 0, false
		}
		if s.gate >= len(s.Gates) {
			return Cue{}, false
		}
		g := &s.Gates[s.gate]
		if t < s.reached+g.MinS || !g.holds(at, heading, speed) {
			s.inside = false
			return Cue{}, false
		}
		if !s.inside {
			s.inside, s.since = true, t
		}
		if t < s.since+g.StayS-1e-9 {
			return Cue{}, false
		}
		s.ready, s.reached, s.inside = true, t, false
	}
}

// holds tells whether a place, a heading and a speed are what the gate waits
// for.
func (g *Gate) holds(at flight.Vec, heading, speed float64) bool {
	if g.SlowMps > 0 && speed > g.SlowMps {
		return false
	}
	if g.NoseOff > 0 && math.Abs(math.Remainder(heading-g.Nose, 2*math.Pi)) > g.NoseOff {
		return false
	}
	if (g.Low != 0 || g.High != 0) && (at.Z < g.Low || at.Z > g.High) {
		return false
	}
	if g.ReachM <= 0 || len(g.Points) == 0 {
		return true
	}
	for _, p := range g.Points {
		if dx, dy := p.X-at.X, p.Y-at.Y; dx*dx+dy*dy <= float64(g.ReachM*g.ReachM) {
			return true
		}
	}
	return false
}

// Follow gives the recorder what its drill lets happen.
func (r *Recorder) Follow(gates []Gate) { r.schedule.Gates = gates }

// cue lets happen what is due.
func (r *Recorder) cue() {
	r.schedule.each(r.Session, func(c Cue) {
		if err := r.Event(c.Event, ByDrill); err == nil && c.Say != "" {
			r.Said = append(r.Said, c.Say)
		}
	})
}

// each gives what is due as a session stands now.
func (s *Schedule) each(at *flight.Session, happens func(Cue)) {
	if s.gate >= len(s.Gates) {
		return
	}
	x := at.Sample(flight.Sticks{})
	for {
		c, ok := s.due(x.T, flight.Vec{X: x.X, Y: x.Y, Z: math.Max(0, x.Z)}, x.Heading,
			math.Sqrt(float64(x.VX*x.VX)+float64(x.VY*x.VY)+float64(x.VZ*x.VZ)))
		if !ok {
			return
		}
		happens(c)
	}
}

// Happened are the events so far, in their order.
func (r *Recorder) Happened() []Happens { return r.events }

// FlattenGates writes a schedule as numbers and names, for the simulator in the
// browser.
func FlattenGates(gates []Gate) (numbers []float64, names []string) {
	w := &wire{out: true}
	w.gates(&gates)
	return w.numbers, w.names
}

// UnflattenGates reads what FlattenGates wrote.
func UnflattenGates(numbers []float64, names []string) ([]Gate, error) {
	w := &wire{numbers: numbers, names: names}
	var gates []Gate
	w.gates(&gates)
	return gates, w.end()
}

// gates writes or reads a list of gates.
func (w *wire) gates(gates *[]Gate) {
	list(w, gates, func(g *Gate) {
		for _, p := range []*float64{&g.MinS, &g.StayS, &g.ReachM, &g.Low, &g.High, &g.Nose, &g.NoseOff, &g.SlowMps} {
			w.f(p)
		}
		list(w, &g.Points, w.v)
		list(w, &g.Cues, func(c *Cue) {
			w.f(&c.AfterS)
			w.name(&c.Event)
			w.name(&c.Say)
		})
	})
}
