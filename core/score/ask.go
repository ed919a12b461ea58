package score

import (
	"math"

	"maestrale/core/drill"
)

// Ask is what the pad asks of the instructor who marks, at one moment of an
// attempt. The pad draws it and decides nothing: the words, which mark a tap
// makes and until when a tap is ignored are all here, so that the browser and
// the server ask the same.
type Ask struct {
	Big      string  `json:"big,omitempty"`   // in the middle of the ring, where no clock runs
	Small    string  `json:"small,omitempty"` // under it
	Tap      string  `json:"tap,omitempty"`   // the mark that a tap on the ring makes; empty for none
	Main     string  `json:"main"`            // what the large button says
	MainMark string  `json:"main_mark"`       // the mark that it makes
	Out      bool    `json:"out"`             // it can be marked in which direction the craft was lost
	Clock    bool    `json:"clock"`           // the ring shows a clock
	SinceS   float64 `json:"since_s"`         // from when the clock runs, or the step settles
	NeedS    float64 `json:"need_s"`          // for how long; 0 = until the next tap
	// NotBefore is until when a tap is none: it belongs to the tap before it,
	// or the step settles by itself.
	NotBefore float64 `json:"not_before_s"`
}

// tapsApart is the least time in seconds between two taps that mean two things.
// A quicker second tap is a double tap by mistake.
const tapsApart = 0.4

// asks says what to mark next, at now seconds of the attempt. Once the last
// step is done, or the attempt was ended, that is "done"; while an answer is
// awaited, "rest"; else the kind of the step that runs says it.
func (o *observer) asks(now float64) Ask {
	after := o.lastMark + tapsApart
	if o.over() || o.ended {
		return Ask{Big: "down", Small: msgTapFinish, Tap: "done", Main: "Done", MainMark: "done", NotBefore: after}
	}
	t := o.target()
	if !math.IsNaN(o.asked) {
		return Ask{Small: msgTapWhenAnswered, Tap: "rest", Main: "Answered", MainMark: "rest", Clock: true,
			SinceS: o.asked, NotBefore: after}
	}
	a := kindOf(t).ask(o, now)
	if due := o.happensNext(t); due != nil {
		a.Main, a.MainMark = due.What(), "call"
		// What is to happen is the next event of a craft that flies as it should.
		if a.Tap == "out" || a.Big == flying {
			a.Tap, a.Small = "call", msgTapYouCall
		}
	}
	// A step that settles by itself ignores taps until it has: the state would
	// be left by a tap that only confirms it.
	if a.NotBefore = after; a.Big == "standing" || a.Big == "stands" {
		a.NotBefore = max(after, a.SinceS+a.NeedS)
	}
	// There is always a large button, and it never does nothing.
	if a.Main == "" {
		a.Main, a.MainMark = "Stop attempt", "done"
	}
	return a
}

// happensNext returns what is to happen next in the step t, or nil where
// nothing is left. How many have happened is counted by their marks.
func (o *observer) happensNext(t *drill.Target) *drill.Due {
	if n := o.happens[o.step]; n < len(t.During) {
		return &t.During[n]
	}
	return nil
}
