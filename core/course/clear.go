package course

import (
	"fmt"
	"math"
	"slices"

	"maestrale/core/craft"
	"maestrale/core/field"
)

// Envelope is the room that a drill takes: the places it passes, the tolerance
// round them, its heights, and its speed over the ground.
type Envelope struct {
	Key, Title string
	Path       []field.Point
	RadiusM    float64
	FlownM     float64 // height that it is flown at
	HighM      float64
	SpeedMps   float64
	Aids       craft.Aids
	ToHand     bool    // it ends in a hand
	Far        bool    // begun far out on purpose, within a fence of its own
	fallM      float64 // how far it may fall, once that was worked out
}

// Conditions are what clearances depend on besides the course.
type Conditions struct {
	Wind    field.Point // where the air goes, m/s
	Braking float64     // m/s² with the sticks let go
	Falling Falling
	EyeM    float64
	CrewM   float64 // that the drills stay from pilot, instructor and spotter
	CrowdM  float64 // and, at least, from everybody else
}

const (
	// reaction is the time in s until a pilot who is surprised acts (Green, "How
	// long does it take to stop?", Transportation Human Factors 2 (2000): about
	// 1.5 s for what comes as a surprise).
	reaction = 1.5
	// unnoticed is how long a drift may go on without being seen, in s.
	unnoticed = 60.0
	// fixWander is how far a poor satellite fix wanders, in m (DESIGN.md section 5).
	fixWander = 2.5
	// seen is the slowest turn of a sight line that an eye notices against an
	// empty sky, in rad/s: 20 minutes of arc a second, the upper end of what has
	// been measured without anything near to compare (Aubert 1886; Leibowitz 1955).
	seen = 20.0 / 60 * math.Pi / 180
	// under is how far a craft has to stay under a ceiling, in m.
	under = 0.5
)

// StoppingM is how far a craft goes until it stands: a reaction at full speed and
// v²/2a.
func StoppingM(speed, braking float64) float64 {
	if braking <= 0 {
		braking = 1
	}
	return speed*reaction + speed*speed/(2*braking)
}

// drift is where a minute of drift that nobody notices takes the craft, and how
// far it goes to every side besides. A craft that holds its place wanders with its
// fix. Another goes down the wind, as fast as the wind and no faster than an eye
// at that distance would see.
func drift(e Envelope, station field.Point, wind field.Point) (down field.Point, around float64) {
	if e.Aids == craft.PositionHold {
		return field.Point{}, fixWander
	}
	mps := math.Hypot(wind.X, wind.Y)
	if mps == 0 || len(e.Path) == 0 {
		return field.Point{}, 0
	}
	far := 0.0
	for _, p := range e.Path {
		far = math.Max(far, p.Dist(station))
	}
	way := math.Min(mps, seen*far) * unnoticed
	return field.Point{X: wind.X / mps * way, Y: wind.Y / mps * way}, 0
}

// Clearance is how much room a drill leaves to one hazard.
type Clearance struct {
	Drill   string
	Title   string
	Hazard  int // index in Hazards; −1−i is crowd line i
	Name    string
	At      field.Point // of the hazard, nearest
	DistM   float64     // from the drill's tolerance to the hazard
	StopM   float64
	DriftM  float64 // what a minute of drift takes of it
	FallM   float64 // for people: how far it may fall
	LeftM   float64 // what remains; under 0 is a warning
	Ceiling bool
	Crew    bool    // somebody who belongs to the flight
	WantedM float64 // of people: by the class of the craft
}

// Warn tells whether the drill comes too near.
func (c Clearance) Warn() bool { return c.LeftM < 0 }

// Says says it in words.
func (c Clearance) Says() string {
	if c.Ceiling {
		return fmt.Sprintf(msgTooLowOver, c.Title, c.DistM, c.Name, c.DistM-c.LeftM)
	}
	if c.Crew {
		if c.DistM < 0 {
			return fmt.Sprintf(msgFliesInto, c.Title, c.Name, c.WantedM)
		}
		return fmt.Sprintf(msgTooNear, c.Title, c.DistM, c.Name, c.WantedM)
	}
	need := c.DistM - c.LeftM
	what := fmt.Sprintf(msgRoomToStop, c.StopM, c.DriftM)
	if c.FallM > c.StopM+c.DriftM {
		what = fmt.Sprintf(msgRoomToFall, c.FallM)
	}
	if need <= c.WantedM+1e-9 {
		what = msgRoomOfClass
	}
	return fmt.Sprintf("%s: %.1f m to %s, %.1f m wanted (%s)", c.Title, c.DistM, c.Name, need, what)
}

// Clear returns the clearance of a drill to every hazard and crowd line, after
// stopping and a minute of drift. To people it is at least as far as a craft that
// loses its power could fall.
func (c *Course) Clear(e Envelope, w Conditions) []Clearance {
	down, around := drift(e, c.Station, w.Wind)
	stop := StoppingM(e.SpeedMps, w.Braking)
	fall := e.fallM
	if fall == 0 {
		_, fall = w.Falling.Area(e.HighM, e.SpeedMps, w.Wind)
	}
	still, swept := sweep(e.Path, field.Point{}), sweep(e.Path, down)
	out := make([]Clearance, 0, len(c.Hazards)+len(c.Crowd))
	one := func(i int, name string, at []field.Point, closed, people bool) Clearance {
		k := Clearance{Drill: e.Key, Title: e.Title, Hazard: i, Name: name, StopM: stop}
		stands, where := distanceTo(still, at, closed)
		drifted, after := stands, where
		if down != (field.Point{}) {
			drifted, after = distanceTo(swept, at, closed)
		}
		k.DistM, k.At = stands-e.RadiusM, after
		k.DriftM = stands - drifted + around
		k.LeftM = k.DistM - k.DriftM - stop
		if people {
			k.FallM = fall
			k.WantedM = w.CrowdM
			k.LeftM = math.Min(k.LeftM, k.DistM-math.Max(fall, w.CrowdM))
		}
		return k
	}
	for i, h := range c.Hazards {
		switch {
		case h.Kind == "ceiling":
			out = append(out, ceiling(e, i, h, still))
		case !h.IsCrew():
			out = append(out, one(i, h.Words(), h.At, h.Closed, h.Kind == Bystanders))
		}
	}
	for i, l := range c.Crowd {
		out = append(out, one(-1-i, msgCrowdLine, l, false, true))
	}
	return append(out, c.crewClear(e, w, still)...)
}

// sweep is the drill's path, and the path that it drifts along from every place.
func sweep(path []field.Point, by field.Point) []seg {
	var out []seg
	for i, p := range path {
		if i > 0 {
			out = append(out, seg{path[i-1], p})
		}
		if by != (field.Point{}) || len(path) == 1 {
			out = append(out, seg{p, field.Point{X: p.X + by.X, Y: p.Y + by.Y}})
		}
	}
	return out
}

// ceiling is how much is left between the heights of a drill and a hazard that
// lies above its path.
func ceiling(e Envelope, i int, h Hazard, path []seg) Clearance {
	k := Clearance{Drill: e.Key, Title: e.Title, Hazard: i, Name: h.Words(), Ceiling: true, LeftM: math.Inf(1),
		DistM: math.Inf(1)}
	if d, at := distanceTo(path, h.At, h.Closed); d <= e.RadiusM {
		k.At, k.DistM = at, h.HeightM-e.HighM
		k.LeftM = k.DistM - under
	}
	return k
}

// Advice is what to change so that every drill is clear.
type Advice struct {
	OK    bool        // nothing has to change
	Found bool        // turning helps
	Turn  field.Angle // of the pilot, + clockwise
	MoveM float64     // else: step back from what is nearest by this
	From  string      // the hazard
	// left, right, toward or away: where to move the course; empty where that
	// brings it nearer to people
	Toward string
}

// Advise looks for the smallest turn of the course, in steps of 5° to 90° either
// way, with which every drill is clear; where none is, it says how far to move
// away from the worst.
func (c *Course) Advise(envelopes []Envelope, w Conditions) Advice {
	envelopes = w.falls(envelopes)
	worst, clear := c.worst(envelopes, w, math.Inf(1))
	if clear {
		return Advice{OK: true}
	}
	all := c
	c = c.within(reach(envelopes, c.Station, w))
	c.Plane = nil // turned by itself, the frame stays where the drills were laid in it
	for deg := 5.0; deg <= 90; deg += 5 {
		for _, sign := range []float64{1, -1} {
			by := field.Degrees(sign * deg)
			next := c.Clone()
			if next.Turn(by) != nil {
				continue
			}
			turnedWind := w
			turnedWind.Wind = turned(w.Wind, field.Point{}, -by)
			if _, ok := next.worst(envelopes, turnedWind, 0); ok {
				return Advice{Found: true, Turn: by}
			}
		}
	}
	a := Advice{MoveM: math.Ceil(-worst.LeftM*2) / 2, From: worst.Name}
	if centre, ok := all.middle(envelopes); ok {
		a.Toward = field.Direction(centre.Sub(worst.At))
		if way, ok := field.Way(a.Toward); !ok || all.nearerToPeople(envelopes, w, field.Point{X: way.X * a.MoveM,
			Y: way.Y * a.MoveM}) {
			a.Toward, a.MoveM = "", 0 // nobody is told to fly nearer to people
		}
	}
	return a
}

// reach is how far from the station anything can matter to the drills: turning
// keeps that distance.
func reach(envelopes []Envelope, station field.Point, w Conditions) float64 {
	far := 0.0
	for _, e := range envelopes {
		down, around := drift(e, station, w.Wind)
		need := math.Max(around+math.Hypot(down.X, down.Y)+StoppingM(e.SpeedMps, w.Braking), e.fallM)
		far = math.Max(far, e.farthestFrom(station).Dist(station)+e.RadiusM+need)
	}
	return far
}

// within returns the course with the hazards that come that near to the station.
func (c *Course) within(far float64) *Course {
	out := *c
	out.Hazards = nil
	for _, h := range c.Hazards {
		if d, _ := distanceTo([]seg{{c.Station, c.Station}}, h.At, h.Closed); d <= far {
			out.Hazards = append(out.Hazards, h)
		}
	}
	return &out
}

// falls works out how far each drill's craft may fall, once for each height and
// speed: it is the same whichever way the course is turned.
func (w Conditions) falls(envelopes []Envelope) []Envelope {
	known := map[[2]float64]float64{}
	envelopes = slices.Clone(envelopes)
	for i := range envelopes {
		e := &envelopes[i]
		k := [2]float64{e.HighM, e.SpeedMps}
		if _, ok := known[k]; !ok {
			_, known[k] = w.Falling.Area(e.HighM, e.SpeedMps, w.Wind)
		}
		e.fallM = known[k]
	}
	return envelopes
}

// worst is the smallest clearance; it stops looking once one is under a limit.
func (c *Course) worst(envelopes []Envelope, w Conditions, stopUnder float64) (Clearance, bool) {
	worst := Clearance{LeftM: math.Inf(1)}
	for _, e := range envelopes {
		for _, k := range c.Clear(e, w) {
			if k.LeftM < worst.LeftM {
				worst = k
			}
		}
		if stopUnder == 0 && worst.LeftM < 0 {
			return worst, false
		}
	}
	return worst, worst.LeftM >= 0
}

// middle is the middle of all places that the drills name; ok is false where
// they name none.
func (c *Course) middle(envelopes []Envelope) (field.Point, bool) {
	var sum field.Point
	n := 0.0
	for _, e := range envelopes {
		for _, p := range e.Path {
			sum.X, sum.Y, n = sum.X+p.X, sum.Y+p.Y, n+1
		}
	}
	return field.Point{X: sum.X / n, Y: sum.Y / n}, n > 0
}

// TurnAway is where a craft over a place turns to leave the people: the direction
// straight away from the nearest crowd line or people, and how the pilot calls it.
// ok is false where there are none.
func (c *Course) TurnAway(at field.Point) (heading field.Angle, word string, ok bool) {
	best := math.Inf(1)
	var near field.Point
	try := func(pts []field.Point, closed bool) {
		if d, p := distanceTo([]seg{{at, at}}, pts, closed); d < best {
			best, near = d, p
		}
	}
	for _, l := range c.Crowd {
		try(l, false)
	}
	for _, h := range c.Hazards {
		if h.Kind == Bystanders {
			try(h.At, h.Closed)
		}
	}
	if math.IsInf(best, 1) || best == 0 {
		return 0, "", false
	}
	v := at.Sub(near)
	return field.Bearing(v), field.Direction(v), true
}

// PeopleFrom is how near to a place people stand or a crowd line runs; 0 where
// there are none.
func (c *Course) PeopleFrom(at field.Point) float64 {
	best := math.Inf(1)
	from := []seg{{at, at}}
	for _, l := range c.Crowd {
		d, _ := distanceTo(from, l, false)
		best = math.Min(best, d)
	}
	for _, h := range c.Hazards {
		if h.Kind == Bystanders {
			d, _ := distanceTo(from, h.At, h.Closed)
			best = math.Min(best, d)
		}
	}
	if math.IsInf(best, 1) {
		return 0
	}
	return best
}

// Reach is how far from home the rooms reach that are flown within one fence.
func Reach(rooms []Envelope, home field.Point) (m float64) {
	for _, e := range rooms {
		for _, p := range e.Path {
			if !e.Far {
				m = max(m, p.Dist(home)+e.RadiusM)
			}
		}
	}
	return m
}
