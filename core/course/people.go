package course

import (
	"math"

	"maestrale/core/craft"
	"maestrale/core/field"
)

// Kinds of hazards that are people. Those who belong to the flight look at the
// craft and can step aside; others do not know what it will do next. The pilot
// stands at the station.
const (
	Bystanders = "people"
	Instructor = "instructor"
	Spotter    = "spotter"
)

// IsCrew tells whether a hazard is somebody who belongs to the flight.
func (h Hazard) IsCrew() bool { return h.Kind == Instructor || h.Kind == Spotter }

// IsPeople tells whether a hazard is people of any kind.
func (h Hazard) IsPeople() bool { return h.Kind == Bystanders || h.IsCrew() }

// CrewM is how far the tolerance of a drill stays from the pilot, the
// instructor and the spotter, in m, by the class of the craft: about two spans
// of a large craft of the class. It is a reckoning of our own; local rules may
// ask for more.
func CrewM(class craft.Class) float64 {
	return map[craft.Class]float64{craft.Micro: 0.3, craft.Light: 0.8, craft.Medium: 1.5, craft.Heavy: 2.5}[class]
}

// BystandersM is how far it stays from other people and from the crowd line, in
// m, at least, however short it stops or falls. It is a reckoning of our own;
// local rules may ask for more.
func BystandersM(class craft.Class) float64 {
	return map[craft.Class]float64{craft.Micro: 3, craft.Light: 5, craft.Medium: 10, craft.Heavy: 20}[class]
}

// ThePilot is the place of the pilot among what a drill is held against: no
// hazard of the file has it.
const ThePilot = math.MinInt32

// crewClear is how much room a drill leaves to those who belong to the flight.
func (c *Course) crewClear(e Envelope, w Conditions, still []seg) (out []Clearance) {
	one := func(i int, name string, at []field.Point, closed bool) {
		k := Clearance{Drill: e.Key, Title: e.Title, Hazard: i, Name: name, Crew: true, WantedM: w.CrewM}
		d, where := distanceTo(still, at, closed)
		k.DistM, k.At = d-e.RadiusM, where
		if k.LeftM = k.DistM - w.CrewM; math.Abs(k.LeftM) < 1e-6 {
			k.LeftM = 0 // as near as it may come
		}
		out = append(out, k)
	}
	if !e.ToHand && !e.Far { // what is caught by hand comes to a hand
		one(ThePilot, "the pilot", []field.Point{c.Station}, false)
	}
	for i, h := range c.Hazards {
		if h.IsCrew() {
			one(i, h.Words(), h.At, h.Closed)
		}
	}
	return out
}

// LaidFor is the class that a course is laid out for: the one that its file
// names, else the largest for which its four corners stand far enough from the
// pilot and from one another; empty where it has none.
func (c *Course) LaidFor() (out craft.Class) {
	left, ok1 := c.Markers["near-left"]
	right, ok2 := c.Markers["near-right"]
	switch {
	case c.Class != "":
		return c.Class
	case !ok1 || !ok2:
		return ""
	}
	const enough = 0.9 // of what a template has
	near := math.Min(left.Dist(c.Station), right.Dist(c.Station))
	for _, class := range craft.Classes {
		if s := sizes[class]; near >= enough*(s.dist-s.half) && left.Dist(right) >= enough*2*s.half {
			out = class
		}
	}
	return out
}

// HowToLay is the distance of the centre and of its corners, in m, for a class:
// by how much a course grows for a larger craft.
func HowToLay(class craft.Class) (centreM, acrossM float64) {
	s := sizes[class]
	return s.dist, 2 * s.half
}

// nearerToPeople tells whether the drills, moved by so much, come nearer to
// anybody than what is wanted.
func (c *Course) nearerToPeople(envelopes []Envelope, w Conditions, by field.Point) bool {
	moved := make([]Envelope, len(envelopes))
	for i, e := range envelopes {
		path := make([]field.Point, len(e.Path))
		for j, p := range e.Path {
			path[j] = field.Point{X: p.X + by.X, Y: p.Y + by.Y}
		}
		e.Path = path
		moved[i] = e
	}
	before := c.toPeople(envelopes, w)
	for i, left := range c.toPeople(moved, w) {
		if left < before[i]-1e-9 && left < 0 {
			return true
		}
	}
	return false
}

// toPeople is what is left to each of those who stand there, by the nearest drill.
func (c *Course) toPeople(envelopes []Envelope, w Conditions) map[int]float64 {
	out := map[int]float64{}
	for _, e := range envelopes {
		for _, k := range c.Clear(e, w) {
			crowd := k.Hazard < 0 && k.Hazard != ThePilot
			if !k.Crew && !crowd && !c.Hazards[k.Hazard].IsPeople() {
				continue
			}
			if was, ok := out[k.Hazard]; !ok || k.LeftM < was {
				out[k.Hazard] = k.LeftM
			}
		}
	}
	return out
}
