package course

import (
	"math"
	"slices"
	"time"

	"maestrale/core/craft"
	"maestrale/core/field"
)

// Ask is what a survey is asked with.
type Ask struct {
	Craft     craft.Type
	Aids      craft.Aids
	Density   float64 // kg/m³
	PaceM     float64
	EyeM      float64
	WindMps   float64
	WindFrom  field.Angle // field heading
	WindKnown bool
	From, To  time.Time // the session; zero = the sun is not asked for
	Envelopes []Envelope
	TellM     float64 // how far the nose is told; 0 = not known
}

// EyeOr is the height of the eye that is reckoned with.
func (a Ask) EyeOr() float64 {
	if a.EyeM == 0 {
		return EyeM
	}
	return a.EyeM
}

// Survey is everything that follows from how a course lies.
type Survey struct {
	Legs       []Leg
	Tapes      []Tape
	DifferM    float64 // of the diagonals
	HasCorners bool
	Sights     []Sight
	Glare      *Glare
	GlareWhy   string // why there is none
	Blinded    []string
	WindTurn   field.Angle // that brings the wind behind
	Clearances []Clearance // the nearest hazard of each drill, and every warning
	Advice     Advice
	Return     ReturnHeight
	Fall       []field.Point // outline round the farthest place
	FallAt     field.Point
	FallM      float64
	Away       field.Angle // to turn away from people, over the centre
	AwayWord   string
	HasPeople  bool
	StopM      float64
	HomeAt     field.Point
	Heavier    craft.Class // that the course is laid out for, where the craft is of a larger one; else empty
	Beyond     []Beyond    // drills that go farther than the nose is told
}

// Beyond is a drill whose farthest place lies beyond where a craft's nose is told.
type Beyond struct {
	Key, Title string
	FarM       float64 // from the pilot's eyes
}

// FarM is how far an envelope takes a craft from the eyes of a pilot at the
// station, up and away together; 0 for one that is begun far out on purpose.
func (e Envelope) FarM(station field.Point, eyeM float64) float64 {
	if e.Far {
		return 0
	}
	return math.Hypot(e.farthestFrom(station).Dist(station), math.Max(0, e.FlownM-eyeM))
}

// Sight is the sight line at a drill.
type Sight struct {
	Key, Title string
	At         field.Point
	DistM      float64
	FlownM     float64 // height that the drill is flown at
	Skyline
	Against bool // it stands against the sky
}

// ConditionsOf takes a craft with its aids into a wind.
func ConditionsOf(a Ask) Conditions {
	brake := a.Craft.Limits[a.Aids].BrakeMps2
	if brake == 0 {
		brake = 1.5
	}
	drag := a.Craft.Drag.BodyM2
	if drag == 0 { // a plate of a third of the span's square
		drag = a.Craft.SpanM * a.Craft.SpanM / 3
	}
	class := a.Craft.Class()
	w := Conditions{CrewM: CrewM(class), CrowdM: BystandersM(class), Braking: brake, EyeM: a.EyeM,
		Falling: Falling{a.Craft.MassKg, Tumbling * drag, a.Density}}
	if a.WindKnown {
		w.Wind = WindVector(a.WindMps, a.WindFrom)
	}
	return w
}

// SurveyOf measures a course.
func (c *Course) SurveyOf(a Ask) (Survey, error) {
	a.EyeM = a.EyeOr()
	w := ConditionsOf(a)
	a.Envelopes = w.falls(a.Envelopes)
	s := Survey{Legs: c.Legs(a.PaceM), Tapes: c.Tapes()}
	s.DifferM, s.HasCorners = c.Square()
	if a.WindKnown {
		s.WindTurn = Behind(a.WindFrom)
	}
	home, ok := c.Markers["pad"]
	if !ok {
		home = c.Station
	}
	s.HomeAt = home
	if laid := c.LaidFor(); laid != "" && slices.Index(craft.Classes, a.Craft.Class()) > slices.Index(craft.Classes,
		laid) {
		s.Heavier = laid
	}
	var places []field.Point
	top := Envelope{Path: []field.Point{home}}
	for _, e := range a.Envelopes {
		s.Clearances = append(s.Clearances, c.worth(e, w)...)
		s.Sights = append(s.Sights, c.sight(e, a.EyeM))
		if far := e.FarM(c.Station, a.EyeM); a.TellM > 0 && far > a.TellM {
			s.Beyond = append(s.Beyond, Beyond{e.Key, e.Title, far})
		}
		places = append(places, e.Path...)
		if e.HighM > top.HighM || len(top.Path) == 0 {
			top = e
		}
		s.StopM = math.Max(s.StopM, StoppingM(e.SpeedMps, w.Braking))
	}
	if len(places) == 0 {
		places = append(places, home)
	}
	s.Advice = c.Advise(a.Envelopes, w)
	// A craft that is not noticed drifts off before it flies home.
	far := 0.0
	for _, e := range a.Envelopes {
		down, around := drift(e, c.Station, w.Wind)
		far = math.Max(far, e.RadiusM+around+math.Hypot(down.X, down.Y))
	}
	s.Return = c.Return(home, places, math.Max(far, strays))
	s.FallAt = top.farthestFrom(c.Station)
	s.Fall, s.FallM = w.Falling.Area(top.HighM, math.Max(top.SpeedMps, walkingPace), w.Wind)
	centre, ok := c.Markers["centre"]
	if !ok {
		centre = s.FallAt
	}
	s.Away, s.AwayWord, s.HasPeople = c.TurnAway(centre)
	return s, c.glare(&s, a)
}

// worth are the clearances of a drill that are worth saying: those to be warned
// of, and the nearest of the others.
func (c *Course) worth(e Envelope, w Conditions) (out []Clearance) {
	nearest := Clearance{LeftM: math.Inf(1)}
	for _, k := range c.Clear(e, w) {
		if k.Warn() {
			out = append(out, k)
		} else if k.LeftM < nearest.LeftM {
			nearest = k
		}
	}
	if !math.IsInf(nearest.LeftM, 1) {
		out = append(out, nearest)
	}
	return out
}

// glare adds where the sun stands during the session, and which drills it blinds.
func (c *Course) glare(s *Survey, a Ask) error {
	if a.From.IsZero() {
		s.GlareWhy = msgNoSession
		return nil
	}
	if c.Plane == nil {
		s.GlareWhy = msgCourseNotTied
		return nil
	}
	g, err := c.GlareOver(a.From, a.To)
	if err != nil {
		return err
	}
	s.Glare = &g
	for _, e := range a.Envelopes {
		if c.blinded(e, a) {
			s.Blinded = append(s.Blinded, e.Title)
		}
	}
	return nil
}

const walkingPace = 1.5

// strays is how far beyond its drill a craft may be, in m, when it is sent home:
// lost from sight, or its link gone in the middle of a correction.
const strays = 50.0

// farthestFrom is the place of the path that lies farthest from p; p itself
// where there is none.
func (e Envelope) farthestFrom(p field.Point) field.Point {
	best, at := -1.0, p
	for _, q := range e.Path {
		if d := q.Dist(p); d > best {
			best, at = d, q
		}
	}
	return at
}

// sight is how a drill is seen from the station: how far it goes, and what
// stands behind it.
func (c *Course) sight(e Envelope, eyeM float64) Sight {
	at := e.farthestFrom(c.Station)
	flown := e.FlownM
	sky := c.SightLine(at, eyeM)
	return Sight{e.Key, e.Title, at, at.Dist(c.Station), flown, sky, flown >= sky.LowestM}
}

// blinded tells whether a drill is flown in the sun's glare at some time of the
// session.
func (c *Course) blinded(e Envelope, a Ask) bool {
	for at := a.From; !at.After(a.To); at = at.Add(grain) {
		sun, err := SunAt(at, c.Plane.Origin())
		if err != nil {
			return false
		}
		sun.Azimuth = c.Plane.ToFieldHeading(sun.Azimuth)
		for _, p := range e.Path {
			if c.Blinds(sun, p, e.HighM, a.EyeM) {
				return true
			}
		}
	}
	return false
}
