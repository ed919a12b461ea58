package score

import (
	"fmt"
	"math"

	"maestrale/core/drill"
	"maestrale/core/field"
)

// What the sticks did explains what the craft did. Nothing is judged by it: the
// figures go into the debrief, and a likely cause is put beside a fault.

const (
	stickMoves   = 0.1  // that count as a reversal of the throttle
	stickEnd     = 0.97 // of a stick at its end
	stickRests   = 0.06 // under which a stick is let go
	slamTime     = 0.4  // s from one end to the other that is a slam
	driftsAway   = 0.2  // m/s outward that wants an answer
	answerIn     = 0.8  // s without an answer before that is a cause
	wrongFor     = 0.15 // s of the wrong way before that is a cause
	lookBefore   = 2.5  // s before a fault in which its cause is looked for
	leakPrimary  = 0.3  // of a stick's axis from which what leaks into the other is looked at
	leakIsACause = 0.35
)

// stickUse is what a pilot did with the sticks in a stretch of a flight. Counts
// and seconds; sticks are shares of their full throw, −1 to 1.
type stickUse struct {
	reversals, slams   int
	seconds, full      float64
	leak               float64 // throttle that goes with the yaw, over the yaw
	wrong, unanswered  float64 // s of the wrong way, longest s without an answer
	wrongEnd, quietEnd float64 // when that was last so
	// The sums of which leak is the quotient.
	secondary, primary2 float64
}

// hasSticks tells whether the log has all four axes, and the nose to turn them
// into the field.
func (s *sampler) hasSticks() bool {
	t := s.t
	return t.StickThrottle != nil && t.StickYaw != nil && t.StickPitch != nil && t.StickRoll != nil && t.Heading != nil
}

// sticksOf reads the sticks between two moments. Where the step has a place, an
// answer is one that pushes back toward it: with the nose as the frame, forward
// is where the nose points.
func (s *sampler) sticksOf(target drill.Target, from, to float64) (u stickUse) {
	t := s.t
	a := max(1, s.t.At(from))
	last, way := t.StickThrottle[a-1], 0.0
	extreme := last
	mean := last
	var lowAt, highAt [4]float64
	for i := range lowAt {
		lowAt[i], highAt[i] = math.Inf(-1), math.Inf(-1)
	}
	quiet := 0.0
	for i := a; i < t.Len() && t.T[i] <= to; i++ {
		dt := t.T[i] - t.T[i-1]
		k := [4]float64{t.StickThrottle[i], t.StickYaw[i], t.StickPitch[i], t.StickRoll[i]}
		u.seconds += dt
		if slammed(&u, k, t.T[i], &lowAt, &highAt) {
			u.full += dt
		}
		// The throttle turns back when it has come far enough from its last extreme.
		// The first move decides the direction; from then on each turn back by
		// stickMoves is a reversal.
		switch d := k[0] - extreme; {
		case way >= 0 && k[0] > extreme, way <= 0 && k[0] < extreme:
			extreme = k[0]
			if way == 0 {
				way = math.Copysign(1, d)
			}
		case math.Abs(d) > stickMoves:
			u.reversals++
			way, extreme = -way, k[0]
		}
		// The throttle's usual place follows it slowly; what differs from that
		// while yawing has leaked.
		mean += dt / 2 * (k[0] - mean)
		// While yawing, whatever the throttle does besides following its usual
		// place has leaked.
		if math.Abs(k[1]) > leakPrimary {
			u.secondary += dt * math.Abs(k[0]-mean)
			u.primary2 += dt * math.Abs(k[1])
		}
		if !target.HasAt {
			continue
		}
		out := field.Point{X: t.X[i] - target.At.X, Y: t.Y[i] - target.At.Y}
		far := math.Hypot(out.X, out.Y)
		if far < 0.1 || dt <= 0 {
			quiet = 0
			continue
		}
		quiet = s.drifting(&u, i, out, far, dt, quiet)
	}
	if u.primary2 > 0 {
		u.leak = u.secondary / u.primary2
	}
	return u
}

// slammed notes sticks that are at an end at t, and those that came there from
// the other end within slamTime; it tells whether any is at an end. lowAt and
// highAt are when each stick was last at its ends.
func slammed(u *stickUse, k [4]float64, t float64, lowAt, highAt *[4]float64) (atEnd bool) {
	for j, v := range k {
		if v >= stickEnd {
			if t-lowAt[j] <= slamTime {
				u.slams++
				lowAt[j] = math.Inf(-1)
			}
			highAt[j], atEnd = t, true
		} else if v <= -stickEnd {
			if t-highAt[j] <= slamTime {
				u.slams++
				highAt[j] = math.Inf(-1)
			}
			lowAt[j], atEnd = t, true
		}
	}
	return atEnd
}

// drifting notes a drift from the step's place, from which the craft is out,
// far metres: whether it was pushed on the wrong way, and whether it was not
// answered, for quiet seconds so far. It returns for how long it has not been
// answered now.
func (s *sampler) drifting(u *stickUse, i int, out field.Point, far, dt, quiet float64) float64 {
	t := s.t
	k := [4]float64{2: t.StickPitch[i], 3: t.StickRoll[i]}
	// How fast the craft goes outward, and how much of the push does.
	outward := ((t.X[i]-t.X[i-1])*out.X + (t.Y[i]-t.Y[i-1])*out.Y) / far / dt
	sin, cos := math.Sincos(float64(t.Heading[i]))
	push := ((k[2]*sin+k[3]*cos)*out.X + (k[2]*cos-k[3]*sin)*out.Y) / far
	if outward > driftsAway && push > 2*stickRests {
		u.wrong += dt
		u.wrongEnd = t.T[i]
	}
	if outward > driftsAway && math.Hypot(k[2], k[3]) < stickRests {
		if quiet += dt; quiet > u.unanswered {
			u.unanswered, u.quietEnd = quiet, t.T[i]
		}
	} else {
		quiet = 0
	}
	return quiet
}

// sticks fills in how the sticks were used in each step, and the likely cause
// of each fault. A take-off, and a stretch of less than a second, tell nothing.
func (s *sampler) sticks() {
	if !s.hasSticks() {
		return
	}
	for i, target := range s.task.Steps {
		sp := s.spans[i]
		if target.Kind == drill.TakeOff || math.IsNaN(sp.to) {
			continue
		}
		from := sp.from
		if math.IsNaN(from) {
			from = s.readies[i]
		}
		u := s.sticksOf(target, from, sp.to)
		if u.seconds < 1 {
			continue
		}
		met := s.res.Steps[i].Metrics
		met["reversals_per_min"] = float64(u.reversals) / u.seconds * 60
		met["slams"], met["full_share"] = float64(u.slams), u.full/u.seconds
		met["leak"] = u.leak
		if target.HasAt {
			met["wrong_way_s"], met["unanswered_s"] = u.wrong, u.unanswered
		}
	}
	for i := range s.res.Faults {
		f := &s.res.Faults[i]
		if f.Cause == "" && f.Step < len(s.task.Steps) {
			f.Cause = s.cause(f)
		}
	}
}

// cause says what in the sticks is likely to have led to a fault, from the
// lookBefore seconds before it; empty where nothing shows.
func (s *sampler) cause(f *Fault) string {
	target := s.task.Steps[f.Step]
	u := s.sticksOf(target, math.Max(s.t.T[0], f.TS-lookBefore), f.TS)
	switch f.Code {
	// Lost its place: the wrong push explains more than no push, and that more
	// than a slam.
	case LeftBox, CrossTrack:
		switch {
		case u.wrong >= wrongFor:
			return fmt.Sprintf(msgCauseWrongWay, u.wrong)
		case u.unanswered >= answerIn:
			return fmt.Sprintf(msgCauseNoAnswer, u.unanswered)
		case u.slams > 0:
			return msgCauseSlam
		}
	// Lost its height: in a turn by the yaw hand, else by a throttle that is
	// chased.
	case Height:
		if target.Kind == drill.Turn && u.leak > leakIsACause {
			return msgCauseYawHand
		}
		if float64(u.reversals)/lookBefore > 1.5 {
			return msgCauseThrottleHand
		}
	}
	return ""
}
