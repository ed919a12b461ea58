package score

import (
	"math"

	"maestrale/core/drill"
)

// Ask is what a pad asks of the hand that marks, at a moment of an attempt.
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
}

// asks says what to mark next.
func (o *observer) asks(now float64) Ask {
	done := Ask{Big: "down", Small: "press Done", Tap: "touch", Main: "Done", MainMark: "done"}
	if o.over() || o.ended {
		return done
	}
	t := o.target()
	if !math.IsNaN(o.asked) {
		return Ask{Small: "s, tap when answered", Tap: "rest", Main: "Answered", MainMark: "rest", Clock: true,
			SinceS: o.asked}
	}
	a := kindOf(t).ask(o, now)
	if due := o.happensNext(t); due != nil {
		a.Main, a.MainMark = due.What(), "call"
	}
	if a.Main == "" {
		a.Main, a.MainMark = "Stop attempt", "done"
	}
	return a
}

// happensNext is what is to happen next in a step; nil for nothing.
func (o *observer) happensNext(t *drill.Target) *drill.Due {
	if n := o.happens[o.step]; n < len(t.During) {
		return &t.During[n]
	}
	return nil
}
