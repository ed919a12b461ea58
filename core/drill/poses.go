package drill

import (
	"maestrale/core/field"
)

// A drill is understood from a drawing sooner than from words. What is drawn is
// the craft at each step, and along a figure.

// Pose is where the craft is in a step and where its nose points: what a
// drawing of a drill shows, and what it plays.
type Pose struct {
	Step int // index of the step
	// At is over the ground, in metres in the field frame.
	At      field.Point
	Heading field.Angle
	Turned  field.Angle // signed, from the pose before it, by a step that turns; 0 for none
}

// posesOfPath are the shares of a path at which it is drawn.
var posesOfPath = []float64{0, 0.25, 0.5, 0.75, 1}

// Poses are the poses of a task in order: one for most steps, five for a path.
// The craft begins tail-in at the first place. A heading that a rule leaves
// open stays as it was; a turn to a called angle is drawn as a quarter turn.
func (t Task) Poses() []Pose {
	var out []Pose
	now := Pose{Heading: field.Away}
	for _, s := range t.Steps {
		if s.HasAt {
			now.At = s.At
			break
		}
		if s.Path != nil {
			at, _ := s.Path.At(0)
			now.At = at.Flat()
			break
		}
	}
	for i, s := range t.Steps {
		now.Step, now.Turned = i, 0
		if s.HasAt {
			now.At = s.At
		}
		switch s.Kind {
		case Turn:
			// Nobody knows a called angle yet: a quarter turn stands for it.
			by := s.By
			if s.RandomTurn {
				by = field.Degrees(90)
				if t.Side == field.LeftSide {
					by = -by
				}
			}
			now.Heading, now.Turned = (now.Heading + by).Wrap(), by
		case Path:
			for _, share := range posesOfPath {
				// Just short of its end, so that a closed figure does not begin
				// again.
				at, course := s.Path.At(share * s.Path.Length * (1 - 1e-9))
				now.At = at.Flat()
				aim := field.Bearing(s.Subject.Sub(now.At))
				if h, ok := s.Heading.OfPath(course, aim); ok {
					now.Heading = h
				} else {
					now.Heading = s.Heading.at(now, t.Station)
				}
				out = append(out, now)
			}
			continue
		default:
			now.Heading = s.Heading.at(now, t.Station)
		}
		out = append(out, now)
	}
	return out
}

// at is the heading that a rule asks for at a pose; where it asks for none, the
// one that the craft has.
func (r Rule) at(p Pose, station field.Point) field.Angle {
	switch r.Kind {
	case Fixed:
		return r.Angle
	case Sight:
		return (field.Bearing(p.At.Sub(station)) + r.Angle).Wrap()
	}
	return p.Heading
}
