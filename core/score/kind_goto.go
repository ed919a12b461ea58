package score

import (
	"fmt"
	"math"

	"maestrale/core/drill"
)

// goToKind is the way to a place, and a rest there.
type goToKind struct{ plainKind }

func (goToKind) criteria(j *judging) { j.way() }

func (goToKind) fly(s *sampler) { s.goTo() }

func (goToKind) measure(s *sampler, i int) { s.wayShares(i) }

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

func (goToKind) measureSeen(e *byEye) { e.way() }

func (goToKind) due(m *machine) float64 { return m.clock.since + m.target().RestS }

func (goToKind) waiting(*drill.Target, bool, bool) string {
	return msgCraftRestNext
}

func (goToKind) faultWords(f *Fault, s *drill.Target, value, limit, at string) string {
	if f.Code == Overshoot {
		place := s.Place
		if place == "" {
			place = "the place"
		}
		return fmt.Sprintf(msgWentPastLimit, value, place, at, limit)
	}
	return ""
}

func (goToKind) ask(o *observer, _ float64) Ask {
	if !o.clock.on {
		return Ask{Big: msgOnItsWay, Small: msgTapWhenThere, Tap: "rest", Out: true}
	}
	rest := o.target().RestS
	return Ask{Small: fmt.Sprintf(msgOfAtRest, rest), Tap: "moving", Out: true, Clock: true, SinceS: o.clock.since,
		NeedS: rest}
}

// way fills in the limits of a path or of the way to a place.
func (j *judging) way() {
	w, t := &j.c.way, j.target
	j.s.wayCriteria(w, j)
	w.rest = j.judge("rest_s", t.RestS, true, "")
	if w.speed = t.SpeedMps; w.speed[1] > 0 {
		j.sets("speed_min_mps", w.speed[0])
		j.sets("speed_max_mps", w.speed[1])
	}
}

// offPath takes that the craft was marked as off its path.
func (o *observer) offPath(m Mark) {
	code := CrossTrack
	if m.Toward == "up" || m.Toward == "down" {
		code = Height
	}
	o.fault(Fault{TS: m.TS, Code: code, Toward: m.Toward})
	o.in = false
}

// way writes down what an eye measured of a path or of the way to a place: the rests.
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
