package score

import (
	"fmt"
	"math"

	"maestrale/core/drill"
)

// goToKind is the way to a place, and the rest there that a drill may ask for.
// Its measuring is shared with paths: wayShares, and way below.
type goToKind struct{ plainKind }

// criteria takes the limits of a way: across the line, height, nose, overshoot.
func (goToKind) criteria(j *judging) { j.way() }

// fly follows the way and the rest at its end (goto.go).
func (goToKind) fly(s *sampler) { s.goTo() }

// measure is that of every way; what a way to a place has of its own is in
// goToShares.
func (goToKind) measure(s *sampler, i int) { s.wayShares(i) }

// see takes "in" and "rest", which both say that the craft is there and begin
// its rest; "moving" ends the rest, and "out" says that the craft is off its
// line.
func (goToKind) see(o *observer, m Mark) bool {
	if math.IsNaN(o.start) {
		o.started(o.ready)
	}
	switch m.Mark {
	case "in", "rest":
		o.in = true
		o.enter(m.TS)
		o.settleSteps(m.TS)
	case "moving":
		o.clock.leave(m.TS)
	case "out":
		o.offPath(m)
	default:
		return false
	}
	return true
}

// measureSeen keeps the rest, as for a path.
func (goToKind) measureSeen(e *byEye) { e.way() }

// due is when the rest is long enough; where no rest is asked, as the place is
// reached.
func (goToKind) due(m *machine) float64 { return m.clock.since + m.target().RestS }

// waiting is always for the rest: a way has no other end.
func (goToKind) waiting(*drill.Target, bool, bool) string {
	return msgWaitsForRestThere
}

// faultWords names the place that the craft went past; every other fault is
// said as in every step.
func (goToKind) faultWords(f *Fault, s *drill.Target, value, limit, at string) string {
	if f.Code == Overshoot {
		place := s.Place
		if place == "" {
			place = "the place"
		}
		return fmt.Sprintf(msgWentPastPlace, value, place, at, limit)
	}
	return ""
}

// ask says "tap when it is there" on the way. At rest the ring counts, and the
// next tap says that the craft moves again.
func (goToKind) ask(o *observer, _ float64) Ask {
	if !o.clock.on {
		return Ask{Big: msgOnItsWay, Small: msgTapThere, Tap: "rest", Out: true}
	}
	rest := o.target().RestS
	return Ask{Small: fmt.Sprintf(msgSecondsAtRest, rest), Tap: "moving", Out: true, Clock: true, SinceS: o.clock.since,
		NeedS: rest}
}

// way fills in the limits of a path, or of the way to a place, and the band of
// speed that a figure may ask for.
func (j *judging) way() {
	w, t := &j.c.way, j.target
	j.s.wayCriteria(w, j)
	w.rest = j.judge("rest_s", t.RestS, true, "")
	if w.speed = t.SpeedMps; w.speed[1] > 0 {
		j.sets("speed_min_mps", w.speed[0])
		j.sets("speed_max_mps", w.speed[1])
	}
}

// offPath takes a mark that the craft is off its path: across it, or above or
// below where the mark says so.
func (o *observer) offPath(m Mark) {
	code := CrossTrack
	if m.Toward == "up" || m.Toward == "down" {
		code = Height
	}
	o.fault(Fault{TS: m.TS, Code: code, Toward: m.Toward})
	o.in = false
}

// way writes down what an eye can measure of a path or of the way to a place,
// which is only the rests. Every other limit is listed as not judged. A rest
// that was too short takes its share off the margin, 0.01 s at least so that
// none is divided by nothing.
func (e *byEye) way() {
	e.limit("cross_max_m", e.lim.Cross, false)
	e.limit("height_max_m", e.lim.Height, false)
	e.limit("nose_max_deg", e.lim.Nose.Deg(), false)
	e.limit("overshoot_m", e.lim.Past, false)
	e.limit("radius_ratio", e.lim.Ratio, false)
	e.limit("crossing_m", e.lim.Crossing, false)
	e.limit("end_ratio", e.lim.EndRatio, false)
	e.limit("legs_angle_deg", e.lim.Legs.Deg(), false)
	e.limit("angle_deg", e.lim.Slope.Deg(), false)
	e.limit("aim_deg", e.lim.Aim.Deg(), false)
	e.limit("speed_max_mps", e.target.SpeedMps[1], false)
	e.limit("rest_s", e.target.RestS, true)
	rests := e.o.rests[e.i]
	if len(rests) == 0 {
		return
	}
	least := rests[0]
	for _, r := range rests {
		least = math.Min(least, r)
	}
	e.res.Rests, e.res.Metrics["rest_s"] = rests, least
	if least < e.target.RestS {
		e.shares = append(e.shares, e.target.RestS/math.Max(least, 0.01))
	}
}
