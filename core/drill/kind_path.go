package drill

import (
	"fmt"
	"math"
)

// pathKind is a figure: a line with corners, a circle, an oval, an eight, an
// orbit, a spiral or a slant.
type pathKind struct{}

// read wants the figure and how far off it the craft may be. Each shape has
// limits of its own form; a rest needs corners, and a nose on the subject needs
// a subject.
func (pathKind) read(s *Step, r *stepReader) {
	m, w := r.keys, r.limits
	s.Figure = readFigure(m)
	s.Heading = readHeading(m.Get("heading"))
	// An orbit is flown with the nose on its subject unless the file says
	// otherwise.
	if s.Figure.Shape == Orbit && !m.Get("heading").Present() {
		s.Heading = Rule{Kind: Subject}
	}
	s.HeightM = readLimit(m.Get("height_m"), 0, 120)
	s.RestS = m.Get("rest_s").Number(0, 600)
	if v := m.Get("speed_mps"); v.Present() {
		s.SpeedMps = readBand(v, 0, 40)
	}
	s.Within.CrossM = readLimit(w.Need("cross_m"), 0.01, 1000)
	s.Within.HeightM = readLimit(w.Get("height_m"), 0.01, 100)
	s.Within.NoseDeg = readLimit(w.Get("nose_deg"), 0.1, 180)
	m.Need("within")
	switch s.Figure.Shape {
	case Eight:
		s.Within.Ratio = readLimit(w.Get("ratio"), 1.01, 10)
		s.Within.CrossingM = readLimit(w.Get("crossing_m"), 0.01, 1000)
	case Oval:
		s.Within.EndRatio = readLimit(w.Get("end_ratio"), 1.01, 10)
		s.Within.LegsDeg = readLimit(w.Get("legs_angle_deg"), 0.1, 90)
	case Orbit:
		s.Within.AimDeg = readLimit(w.Get("aim_deg"), 0.1, 180)
	case Slant:
		s.Within.AngleDeg = readLimit(w.Get("angle_deg"), 0.1, 90)
	}
	// The points of a line and a slant can have heights of their own.
	if s.Figure.Shape != Slant && s.Figure.Shape != Line {
		s.needHeight(m)
	}
	if s.RestS > 0 && (s.Figure.Shape != Line || len(s.Figure.Points) < 3) {
		r.fail(msgRestWithoutCorner, msgWantCorners)
	}
	if s.Heading.Kind == Subject && s.Figure.Subject == nil {
		r.fail(msgNoSubject, msgWantSubject)
	}
}

// say names the figure first, then the limits: of the line, the height, the
// rests, the nose and the form.
func (pathKind) say(t *Target, w *saying) {
	w.parts = append(w.parts, t.pathWords())
	w.some(t.Limits.Cross, msgStayWithin)
	w.some(t.Limits.Height, msgKeepHeightWithin)
	w.some(t.RestS, msgRestAtCorners)
	if t.Limits.Aim == 0 { // which says it with its limit
		w.nose(t)
	}
	if t.Limits.Ratio > 0 {
		w.add(msgLobesEqual, num(100*(t.Limits.Ratio-1)))
	}
	w.some(t.Limits.Crossing, msgCrossNearCentre)
	w.someAngle(t.Limits.Slope, msgKeepSlope)
	w.someAngle(t.Limits.Aim, msgKeepNoseOnSubject)
	w.someAngle(t.Limits.Legs, msgKeepParallel)
	if t.Limits.EndRatio > 0 {
		w.add(msgEndsEqual, num(100*(t.Limits.EndRatio-1)))
	}
}

// pathWords names the figure: "Fly a circle of 6 m, turning left, 2 laps".
func (s *Target) pathWords() string {
	f := s.Path
	// side is the direction of the first arc; a figure without arcs has none.
	side := func() string {
		for _, p := range f.pieces {
			if p.r > 0 {
				if p.by < 0 {
					return ", turning left"
				}
				return ", turning right"
			}
		}
		return ""
	}
	var w string
	switch f.Shape {
	case Circle:
		w = fmt.Sprintf(msgFlyCircle, num(f.Radius), side())
	case Orbit:
		w = fmt.Sprintf(msgFlyOrbit, num(f.Radius), side())
	case Oval:
		w = fmt.Sprintf(msgFlyOval, num(f.Legs), num(2*f.Radius), side())
	case Eight:
		first := "left"
		if at, _ := f.At(f.Parts[0] / 2); at.X > f.Centre.X {
			first = "right"
		}
		w = fmt.Sprintf(msgFlyEight, num(f.Radius), first)
	case Spiral:
		w = msgFlySpiral
	case Slant:
		a, _ := f.At(0)
		b, _ := f.At(f.Length)
		way := "up"
		if b.Z < a.Z {
			way = "down"
		}
		w = fmt.Sprintf(msgFlySlant, num(a.Z), way, num(b.Z))
	default:
		// A line over corners at different heights is named by its lowest and
		// highest.
		low, high := math.Inf(1), math.Inf(-1)
		for _, p := range f.pieces {
			low, high = math.Min(low, math.Min(p.a.Z, p.b.Z)), math.Max(high, math.Max(p.a.Z, p.b.Z))
		}
		if w = fmt.Sprintf(msgFlyLine, num(f.Length)); !f.Level {
			w = fmt.Sprintf(msgFlyOverCorners, len(f.Corners), num(low), num(high))
		} else if f.Closed {
			w = fmt.Sprintf(msgFlyRoundCorners, len(f.Corners)+1, num(f.Length))
		}
	}
	if s.Laps > 1 {
		w += fmt.Sprintf(", %d laps", s.Laps)
	}
	return w
}
