package drill

import (
	"fmt"
	"math"
	"slices"

	"maestrale/core/field"
)

// An attempt that is not flown as the drill means it teaches, and is kept, but
// says nothing about what the student can do alone. What it takes to count is
// decided here and nowhere else.

// Flown is how an attempt was flown, as far as that decides whether the attempt
// counts toward standing. The zero value was flown as every drill wants: by
// hand, by eye, with the nose as the stick frame, in an unknown wind.
type Flown struct {
	Frame string // stick frame: nose, frozen or pilot; empty = nose
	// Zoom shows the craft larger than an eye would see it.
	Zoom      bool     // with the zoom inset
	Eyes      string   // on the craft, a screen or goggles; empty = craft
	Automatic []string // takeoff, landing or figure
	// Nil where the wind is not known.
	WindMps     *float64 // mean
	WindFromDeg *float64 // field heading from which it blows
	Side        field.Side
}

// breeze is the wind in m/s under which its direction is not asked for.
const breeze = 1.0

// Counts tells whether an attempt that was flown so counts toward standing and,
// if not, why in words. What does not count is practice, and is kept (DESIGN.md
// section 7). An unknown wind is no reason.
func (d *Drill) Counts(f Flown) (ok bool, why string) {
	switch {
	// First what would make any attempt easier than it is at the field.
	case f.Frame != "" && f.Frame != "nose":
		return false, fmt.Sprintf(msgOtherStickFrame, f.Frame)
	case f.Zoom:
		return false, msgWithZoom
	case f.Eyes != "" && f.Eyes != "craft":
		return false, fmt.Sprintf(msgEyesElsewhere, f.Eyes)
	// Then what the craft did in the pilot's place.
	case d.ManualTakeoff && slices.Contains(f.Automatic, "takeoff"):
		return false, msgAutomaticTakeOff
	case slices.Contains(f.Automatic, "landing") && d.ManualLanding():
		return false, msgAutomaticLanding
	// Landing by itself is one way of not finding the nose.
	case slices.Contains(f.Automatic, "landing") && len(d.Steps) > 0 && d.Steps[0].Kind == Regain:
		return false, msgFlownHomeItself
	case slices.Contains(f.Automatic, "figure"):
		return false, msgAutomaticFigure
	// Then the wind, where it is known.
	case f.WindMps != nil && d.Wind.MaxMps > 0 && *f.WindMps > d.Wind.MaxMps:
		return false, fmt.Sprintf(msgTooMuchWind, *f.WindMps, d.Wind.MaxMps)
	// In a light wind nobody can tell from where it comes.
	case f.WindMps != nil && *f.WindMps > breeze && f.WindFromDeg != nil && !d.Wind.On(f.Side).fits(*f.WindFromDeg):
		return false, fmt.Sprintf(msgWindFromElsewhere, *f.WindFromDeg,
			map[string]string{
				"behind": "behind", "ahead": "ahead of", "left": msgLeftOf, "right": msgRightOf}[d.Wind.On(f.Side).From])
	}
	return true, ""
}

// On is the wind that a side of the drill wants. A drill is written for its
// left side; on its right side, a wind from one side is one from the other.
func (w Wind) On(side field.Side) Wind {
	if side == field.RightSide {
		w.From = map[string]string{"left": "right", "right": "left", "ahead": "ahead", "behind": "behind",
			"any": "any"}[w.From]
	}
	return w
}

// fits tells whether a wind from a field heading in degrees is the one that the
// drill wants, within 45° either way. Any wind fits a drill that names none.
func (w Wind) fits(fromDeg float64) bool {
	// Field headings of the four directions; any wind is none of them.
	want, asked := map[string]float64{"ahead": 0, "right": 90, "behind": 180, "left": 270}[w.From]
	if !asked {
		return true
	}
	return math.Abs(math.Remainder(fromDeg-want, 360)) <= 45
}

// Circumstances are how an attempt was flown, and whatever else decides whether
// it counts toward standing.
type Circumstances struct {
	Flown
	// Coached runs were flown with advice.
	Coached bool   // the coach of a trainer was asked
	Closed  string // why the drill was closed to the student; empty = it was open
	Twice   bool   // somebody else marked the same flight, and nobody has decided which mark stands
}

// MarkedTwice is why an attempt does not count while the marks of two people of
// one flight wait for a decision.
const MarkedTwice = msgMarkedByTwo

// CountsIn tells whether an attempt of the drill counts in these circumstances
// and, if not, the first reason why: what holds for every way of flying comes
// first.
func (d *Drill) CountsIn(x Circumstances) (ok bool, why string) {
	switch {
	case x.Closed != "":
		return false, x.Closed
	case x.Twice:
		return false, MarkedTwice
	}
	if ok, why = d.Counts(x.Flown); ok && x.Coached {
		return false, msgCoachAsked
	}
	return ok, why
}
