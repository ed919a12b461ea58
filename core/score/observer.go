package score

import (
	"math"
	"strings"

	"maestrale/core/drill"
	"maestrale/core/field"
)

// observer turns marks into the machine's events.
type observer struct {
	*machine
	in      bool // in position, as last marked
	ended   bool
	void    string
	offsets map[int]float64
	rests   map[int][]float64 // at the corners of each path
	resting float64           // from when the craft rests at a corner, NaN
	stops   map[int]float64   // from the call to standing
	happens map[int]int       // how much of what is to happen in each step has
	asked   float64           // when what waits for its answer happened, NaN
	replies map[int]float64   // the longest answer of each step
	// lastMark is when the newest mark was made, s.
	lastMark float64
}

// settleSteps lets time pass up to t, through as many steps as it completes;
// a step that begins with the craft in position is inside from its beginning.
func (o *observer) settleSteps(t float64) {
	for o.advance(t) {
		o.enterIfIn()
	}
}

func (o *observer) enterIfIn() {
	if !o.over() && o.step > 0 && Moves(o.task.Steps[o.step-1], *o.target()) {
		o.in = false // in position for the step before is not for this one
	}
	if !o.over() && o.in && o.target().Kind == drill.Hold {
		o.enter(o.ready)
	}
}

func (o *observer) see(m Mark) {
	o.settleSteps(m.TS)
	if !o.over() && (o.seeAnswer(m) || kindOf(o.target()).see(o, m)) {
		return
	}
	switch m.Mark {
	case "in":
		o.in = true
	case "out":
		o.out(m.TS, m.Toward)
	case "touch":
		if o.over() && o.step > 0 && o.task.Steps[o.step-1].Kind == drill.Land {
			o.fault(Fault{TS: m.TS, Code: Bounce, Toward: "up"})
		} else { // out of a step that is still being flown
			o.out(m.TS, "down")
		}
	case "fault":
		o.fault(Fault{TS: m.TS, Code: m.Code, Toward: m.Toward})
	case "void":
		o.void = strings.TrimSpace(m.Reason)
	case "done":
		o.ended = true
	}
}

// Moves tells whether a step is flown in another place or at another height than the
// one before it, so that being in position has to be seen anew.
func Moves(before, s drill.Target) bool {
	if s.Kind != drill.Hold || (before.Kind != drill.Hold && before.Kind != drill.GoTo) {
		return false
	}
	return s.At.Dist(before.At) > 0.05 || math.Abs(s.HeightM-before.HeightM) > 0.05
}

// seeAnswer takes a call, or the mark that something befell the craft, and the rest
// or the place in which it was answered.
func (o *observer) seeAnswer(m Mark) bool {
	kind := o.target().Kind
	if kind != drill.Hold && kind != drill.Path {
		return false
	}
	during := o.target().During
	switch n := o.happens[o.step]; {
	case m.Mark == "call" && n < len(during) && math.IsNaN(o.asked):
		if kind == drill.Path && math.IsNaN(o.start) {
			o.started(o.ready)
		}
		o.countTime(m.TS)
		o.clock.leave(m.TS)
		o.happens[o.step]++
		if o.in = false; during[n].Seconds > 0 || during[n].Distance > 0 {
			o.asked = m.TS
		} else {
			o.awaitingResponse = n+1 < len(during)
		}
	case (m.Mark == "in" || m.Mark == "rest") && !math.IsNaN(o.asked):
		due := during[n-1]
		took := m.TS - o.asked
		o.asked = math.NaN()
		o.replies[o.step] = math.Max(o.replies[o.step], took)
		if due.Seconds > 0 && took > due.Seconds {
			o.fault(Fault{TS: m.TS - took + due.Seconds, Code: Late, Value: value(took), Limit: value(due.Seconds)})
		}
		o.awaitingResponse = n < len(during)
		if due.End {
			if math.IsNaN(o.start) {
				o.started(o.ready)
			}
			o.finish(m.TS)
			o.enterIfIn()
			return true
		}
		return m.Mark == "rest" || kind == drill.Path
	default:
		// A figure is not done before what is to happen in it has.
		return m.Mark == "in" && kind == drill.Path && o.awaitingResponse
	}
	return true
}

// leaveCorner ends a rest at a corner.
func (o *observer) leaveCorner(t float64) {
	if math.IsNaN(o.resting) {
		return
	}
	rest := t - o.resting
	o.resting = math.NaN()
	o.rests[o.step] = append(o.rests[o.step], rest)
	if asked := o.target().RestS; rest < asked {
		o.fault(Fault{TS: t, Code: Rest, Value: value(rest), Limit: value(asked)})
	}
}

// missedCorners notes the corners at which nobody saw a rest.
func (o *observer) missedCorners(t float64) {
	target := o.target()
	if target.RestS <= 0 || target.Path == nil {
		return
	}
	for range len(target.Path.Corners) - len(o.rests[o.step]) {
		o.rests[o.step] = append(o.rests[o.step], 0)
		o.fault(Fault{TS: t, Code: Rest, Value: value(0), Limit: value(target.RestS)})
	}
}

// stood notes how long a stop took; a second later it is done.
func (o *observer) stood(t float64) {
	if o.clock.on {
		return
	}
	took := t - o.start
	o.stops[o.step] = took
	if limit := o.target().Limits.Seconds; limit > 0 && took > limit {
		o.fault(Fault{TS: o.start + limit, Code: Late, Value: value(took), Limit: value(limit)})
	}
	o.enter(t)
}

// out marks that the craft left its place.
func (o *observer) out(t float64, toward string) {
	was := o.in
	o.in = false
	f := Fault{Code: LeftBox, Toward: toward}
	if toward == "up" || toward == "down" {
		f.Code = Height
	}
	if !o.over() {
		kindOf(o.target()).left(o, t, f, was)
	}
}

// touchOffset notes how far from its place the craft came down.
func (o *observer) touchOffset(m Mark) {
	d := math.Hypot(*m.AwayM, *m.RightM)
	o.offsets[o.step] = d
	target := o.target()
	if limit := target.Limits.Offset; limit > 0 && d > limit {
		off := field.Point{X: *m.RightM, Y: *m.AwayM}
		o.fault(Fault{TS: m.TS, Code: Offset, Value: value(d), Limit: value(limit), Toward: field.Direction(off),
			At: &Place{target.At.X + off.X, target.At.Y + off.Y, 0}})
	}
}
