package score

import (
	"fmt"
	"math"

	"maestrale/core/drill"
	"maestrale/core/field"
)

// landKind is a landing in a place: the touch is measured, and the step is done
// after a second of standing still.
type landKind struct{ plainKind }

// criteria judges the touch by its offset, sink rate, lean and nose. Bounces
// can be told only where the log knows heights to half of what counts as the
// ground.
func (landKind) criteria(j *judging) {
	tilt := j.s.t.Roll != nil && j.s.t.Pitch != nil
	l := &j.c.land
	l.offset = j.flat("offset_m", j.lim.Offset)
	l.sink = j.known("sink_mps", j.lim.Sink, j.s.sink, 0, "m/s")
	l.tilt, l.nose = j.angle("tilt_deg", j.lim.Tilt, tilt, noTilt), j.nose("nose_deg", j.lim.Nose)
	height := j.s.noise.heights
	if l.bounces = grounded >= 2*height; !l.bounces {
		j.s.hidden(j.i, "bounces", height, grounded, "m")
	}
}

// fly follows the descent, the touch and the second of standing (land.go).
func (landKind) fly(s *sampler) { s.land() }

// measure writes down what touchDown measured.
func (landKind) measure(s *sampler, i int) { s.measureLanding(i) }

// see takes the touch. That the craft then stands is left to the instructor,
// who marks the touch when it does; how far off the pad it came down may be
// marked with it.
func (landKind) see(o *observer, m Mark) bool {
	if m.Mark != "touch" {
		return false
	}
	o.touched(m.TS)
	if m.AwayM != nil {
		o.touchOffset(m)
	}
	o.finish(m.TS)
	o.in = false
	return true
}

// measureSeen keeps the offset, where it was marked with the touch. Nothing
// else of a touch is measured by eye.
func (landKind) measureSeen(e *byEye) {
	d, seen := e.o.offsets[e.i]
	e.limit("offset_m", e.lim.Offset, seen)
	e.limit("sink_mps", e.lim.Sink, false)
	e.limit("tilt_deg", e.lim.Tilt.Deg(), false)
	e.limit("nose_deg", e.lim.Nose.Deg(), false)
	if seen {
		e.measured("offset_m", d, e.lim.Offset)
	}
}

// waiting is for the touch and, after it, for the second of standing.
func (landKind) waiting(_ *drill.Target, _, touched bool) string {
	if !touched {
		return msgWaitsForTouch
	}
	return msgWaitsForStandingStill
}

// summary is the offset and the sink rate, where they were measured.
func (landKind) summary(r *StepResult) string {
	out := ""
	if v, ok := r.Metrics["offset_m"]; ok {
		out = fmt.Sprintf("%.1f m off", v)
	}
	if v, ok := r.Metrics["sink_mps"]; ok {
		out += fmt.Sprintf(", %.1f m/s", v)
	}
	return out
}

// overPad is for pads without a limit of their own: nearer, a craft is over its
// place.
const overPad = 0.3 // m within which a craft is over its place at least

// stands tells how far off its pad the craft is or, over it, how high.
func (landKind) stands(t *drill.Target, at field.Point, z float64) (string, bool, bool) {
	off := at.Sub(t.At)
	if t.HasAt && math.Hypot(off.X, off.Y) > math.Max(overPad, t.Limits.Offset) {
		return "land: " + offWords(off), false, true
	}
	return fmt.Sprintf(msgOverPad, math.Max(0, z)), true, true
}

// ask has one question: tap at the touch.
func (landKind) ask(*observer, float64) Ask {
	return Ask{Big: "land", Small: msgTapTouch, Tap: "touch", Main: "Landed", MainMark: "touch"}
}
