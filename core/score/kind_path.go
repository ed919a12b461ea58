package score

import (
	"fmt"
	"math"

	"maestrale/core/drill"
)

// pathKind is a figure: a line with corners, a circle, an oval, an eight, an
// orbit, a spiral or a slant. How one is found and followed in a log is in
// path.go and pathstart.go.
type pathKind struct{ plainKind }

// criteria takes the limits of a way, and those of the figure's form.
func (pathKind) criteria(j *judging) { j.way() }

// fly follows the figure (path.go) from where it was begun (pathstart.go).
func (pathKind) fly(s *sampler) { s.path() }

// measure judges what was measured. A figure that was flown to its end was
// measured as it ended; one that was not is measured here.
func (pathKind) measure(s *sampler, i int) {
	if w := s.ways[i]; w != nil && w.begun && len(s.res.Steps[i].Metrics) == 0 {
		s.measurePath(i)
	}
	s.wayShares(i)
}

// see takes the marks of a path: it begins with "moving", rests at its corners
// between "rest" and "moving", and is done with "in". A corner at which nobody
// saw a rest is a fault as the path ends.
func (pathKind) see(o *observer, m Mark) bool {
	begun := !math.IsNaN(o.start)
	switch {
	case m.Mark == "moving" && !begun:
		o.started(m.TS)
	case m.Mark == "moving":
		o.leaveCorner(m.TS)
	case (m.Mark == "rest" || m.Mark == "corner") && begun:
		if o.target().RestS > 0 && math.IsNaN(o.resting) {
			o.resting = m.TS
		}
	case m.Mark == "in":
		if !begun {
			o.started(o.ready)
		}
		o.leaveCorner(m.TS)
		o.missedCorners(m.TS)
		o.in = true
		o.timeOut(m.TS)
		o.finish(m.TS)
		o.enterIfIn()
	case m.Mark == "out":
		o.offPath(m)
	default:
		return false
	}
	return true
}

// measureSeen keeps the rests at the corners, the only figures of a path that
// an eye measures.
func (pathKind) measureSeen(e *byEye) { e.way() }

// waiting is for the start of the figure or, once it has been begun, for its
// end.
func (pathKind) waiting(_ *drill.Target, begun, _ bool) string {
	if !begun {
		return msgWaitsForFigureStart
	}
	return msgWaitsForFigureEnd
}

// faultWords says on which side of its band a speed lay, and the faults of
// answers.
func (pathKind) faultWords(f *Fault, _ *drill.Target, value, limit, at string) string {
	if f.Code != Speed {
		return answerWords(f, value, limit, at)
	}
	if *f.Value < *f.Limit {
		return fmt.Sprintf(msgFlownTooSlowly, value, limit)
	}
	return fmt.Sprintf(msgFlownTooFast, value, limit)
}

// flying is what the pad says of a figure that is under way.
const flying = "flying"

// ask has one question for each state of a figure: not begun, at rest at a
// corner, on the way to a corner, on the way to the end.
func (pathKind) ask(o *observer, _ float64) Ask {
	t, corners, rests := o.target(), 0, len(o.rests[o.step])
	if t.Path != nil && t.RestS > 0 {
		corners = len(t.Path.Corners)
	}
	switch {
	case math.IsNaN(o.start):
		return Ask{Big: "set off", Small: msgTapSettingOff, Tap: "moving"}
	case !math.IsNaN(o.resting):
		return Ask{Small: fmt.Sprintf(msgSecondsAtCorner, t.RestS, rests+1, corners), Tap: "moving", Out: true,
			Clock: true, SinceS: o.resting, NeedS: t.RestS}
	case rests < corners:
		return Ask{Big: fmt.Sprintf("corner %d", rests+1), Small: msgTapAtCorner, Tap: "rest", Out: true}
	}
	return Ask{Big: flying, Small: msgTapAtEnd, Tap: "in", Out: true}
}
