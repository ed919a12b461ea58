package score

import (
	"math"
	"strings"

	"maestrale/core/drill"
	"maestrale/core/field"
)

// An instructor marks with one hand while watching the craft, so marks are few
// and late. What a mark means depends on the step that runs and on what was
// marked before; the observer keeps that, and tells the machine only what has
// surely happened.

// observer turns marks into the machine's events: what sampler is for samples,
// this is for an eye. Maps go by the index of the step.
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

// settleSteps lets time pass up to t, through as many steps as that completes.
// A step that begins with the craft in position is inside from its beginning.
func (o *observer) settleSteps(t float64) {
	for o.advance(t) {
		o.enterIfIn()
	}
}

// enterIfIn carries "in position" over into the next step, where that is flown
// in the same place.
func (o *observer) enterIfIn() {
	if !o.over() && o.step > 0 && Moves(o.task.Steps[o.step-1], *o.target()) {
		o.in = false // in position for the step before is not for this one
	}
	if !o.over() && o.in && o.target().Kind == drill.Hold {
		o.enter(o.ready)
	}
}

// see takes one mark. First time passes up to it; then what waits for an answer
// may take it, then the kind of the step that runs, and what neither takes
// means the same in every step.
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

// Moves tells whether the step s is flown in another place or at another height
// than before, the step before it, so that being in position has to be seen
// anew. 5 cm are no other place.
func Moves(before, s drill.Target) bool {
	if s.Kind != drill.Hold || (before.Kind != drill.Hold && before.Kind != drill.GoTo) {
		return false
	}
	return s.At.Dist(before.At) > 0.05 || math.Abs(s.HeightM-before.HeightM) > 0.05
}

// seeAnswer takes a call, or the mark that something befell the craft, and then
// the rest or the place in which that was answered. It returns false for a mark
// that has nothing to do with either, which the kind of the step then takes.
func (o *observer) seeAnswer(m Mark) bool {
	kind := o.target().Kind
	if kind != drill.Hold && kind != drill.Path {
		return false
	}
	during := o.target().During
	switch n := o.happens[o.step]; {
	// The next thing happens. Whatever stay went on ends here; with a limit its
	// answer is awaited, without one the next thing may come.
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
	// It is answered: the time is kept, and the step ends with it where the
	// drill says so.
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

// leaveCorner ends the rest at a corner at t, if there is one, and notes one
// that was too short.
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

// missedCorners notes, as a path ends, a rest of 0 s for every corner at which
// nobody saw one.
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

// stood notes that a stop stands at t, and how long it took. The machine
// completes the step settle seconds later.
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

// out takes a mark that the craft left its place; toward says in which
// direction, and makes it a fault of the height where that is up or down.
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

// touchOffset notes how far from its place the craft came down, as it was
// marked: metres away from the pilot and to the right of the pad. The mark must
// have both.
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
