package score

import (
	"fmt"
	"math"

	"maestrale/core/drill"
)

// pathKind is a figure: a line with corners, a circle, an oval, an eight, an orbit, a spiral or a slant.
type pathKind struct{ plainKind }

func (pathKind) criteria(j *judging) { j.way() }

func (pathKind) fly(s *sampler) { s.path() }

func (pathKind) measure(s *sampler, i int) {
	if w := s.ways[i]; w != nil && w.begun && len(s.res.Steps[i].Metrics) == 0 {
		s.measurePath(i)
	}
	s.wayShares(i)
}

// A path begins with moving, rests at its corners between rest and moving, and is done with in.
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

func (pathKind) measureSeen(e *byEye) { e.way() }

func (pathKind) waiting(_ *drill.Target, begun, _ bool) string {
	if !begun {
		return msgCraftStartFigure
	}
	return msgEndFigure
}

func (pathKind) faultWords(f *Fault, _ *drill.Target, value, limit, at string) string {
	if f.Code != Speed {
		return answerWords(f, value, limit, at)
	}
	if *f.Value < *f.Limit {
		return fmt.Sprintf(msgFlownSlowest, value, limit)
	}
	return fmt.Sprintf(msgFlownFastest, value, limit)
}

// flying is what the pad says of a figure that is under way.
const flying = "flying"

func (pathKind) ask(o *observer, _ float64) Ask {
	t, corners, rests := o.target(), 0, len(o.rests[o.step])
	if t.Path != nil && t.RestS > 0 {
		corners = len(t.Path.Corners)
	}
	switch {
	case math.IsNaN(o.start):
		return Ask{Big: "set off", Small: msgTapSetsOff, Tap: "moving"}
	case !math.IsNaN(o.resting):
		return Ask{Small: fmt.Sprintf(msgOfCornerOf, t.RestS, rests+1, corners), Tap: "moving", Out: true,
			Clock: true, SinceS: o.resting, NeedS: t.RestS}
	case rests < corners:
		return Ask{Big: fmt.Sprintf("corner %d", rests+1), Small: msgTapWhenRests, Tap: "rest", Out: true}
	}
	return Ask{Big: flying, Small: msgTapEnd, Tap: "in", Out: true}
}
