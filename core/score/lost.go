package score

import (
	"math"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/orient"
	"maestrale/core/track"
)

// A pilot who has lost the orientation cannot be blamed for an input that
// nobody could have known to be wrong. What could be known, from what the craft
// looked like and how it answered the sticks, is followed by core/orient; here
// it is fed from a log.

// EyeOn is the eye on a lost craft of a type, flown with some aids in a wind
// from a field heading. Speeds and turn rates are those of a usual push of the
// stick, a share of what the type's limits with these aids allow; a type
// without limits leaves the usual ones.
func EyeOn(kind craft.Type, aids craft.Aids, windMps float64, from field.Angle) orient.Eye {
	e := orient.Usual()
	if l, ok := kind.Limits[aids]; ok {
		if l.SpeedMps > 0 {
			e.AirspeedMps = orient.UsualStick * l.SpeedMps
		}
		if l.YawDps > 0 {
			e.YawRate = field.Degrees(orient.UsualStick * l.YawDps)
		}
	}
	e.WindMps, e.WindFrom = windMps, from
	return e
}

// Watched follows the lost orientation in a log: what could be known at each
// moment and what was best to do. The verdict's wrong inputs are counted on the
// same watch. It is nil where the task has no such step, the step never began,
// or the log has no sticks or no nose.
func Watched(t *track.Track, task drill.Task, res *Result) *orient.Watch {
	if len(task.Steps) == 0 || task.Steps[0].Kind != drill.Regain || len(res.Steps) == 0 || res.Steps[0].StartS == nil {
		return nil
	}
	step := res.Steps[0]
	to := math.Inf(1)
	if step.Done && step.EndS != nil {
		to = *step.EndS
	}
	return watched(t, task.Station, *step.StartS, to, true)
}

// watched follows a log from one moment to another, in seconds, with the eye
// that the log itself gives (EyeOf). ask is whether the advice of each moment
// is worked out too, which takes far longer. It is nil where the log cannot be
// watched.
func watched(t *track.Track, station field.Point, from, to float64, ask bool) *orient.Watch {
	if !watchable(t) {
		return nil
	}
	return watch(t, station, from, to, EyeOf(t, from, to), ask)
}

// watchable tells whether a log has what a watch needs: three sticks and the
// nose.
func watchable(t *track.Track) bool {
	return t.StickPitch != nil && t.StickRoll != nil && t.StickYaw != nil && t.Heading != nil
}

// WatchTrack follows a log between two moments from a pilot's station, with an
// eye that is known, such as the simulator's. It is nil where the log has no
// sticks or no nose.
func WatchTrack(t *track.Track, station field.Point, from, to float64, e orient.Eye) *orient.Watch {
	if !watchable(t) {
		return nil
	}
	return watch(t, station, from, to, e, true)
}

// watch feeds the samples of a log to a new watch. Places are told from the
// station, where the eye is.
func watch(t *track.Track, station field.Point, from, to float64, e orient.Eye, ask bool) *orient.Watch {
	w := orient.NewWatch(e)
	w.Ask = ask
	for i := range t.T {
		if t.T[i] < from || t.T[i] > to {
			continue
		}
		s := orient.Sample{T: t.T[i], X: t.X[i] - station.X, Y: t.Y[i] - station.Y, Heading: t.Heading[i],
			Pitch: t.StickPitch[i], Roll: t.StickRoll[i], Yaw: t.StickYaw[i],
			Holds: t.Aids != nil && t.Aids[i] == string(craft.PositionHold)}
		s.VX, s.VY = speedAt(t, i)
		w.Add(s)
	}
	w.End()
	return w
}

const (
	leastStick = 0.02 // Variance of the sticks under which a log does not tell how fast a stick makes the craft.
	fastestMps = 20.0 // at full stick, at most
	slowestMps = 1.0  // at full stick, at least
)

// EyeOf is the eye on a lost craft as its log tells of it: the airspeed that a
// usual push makes, and the wind that carries the craft, as a pilot knows both
// from flying it. The speed over the ground is v = k·u + w, where u is the
// stick with the craft's lag, turned into the field frame; k and w are fitted
// by least squares over the samples between two moments. A log with hardly any
// stick, or with no sample there, gives the usual speed.
func EyeOf(t *track.Track, from, to float64) orient.Eye {
	var n, ux, uy, vx, vy, uu, uv float64
	var made orient.Made
	last := -1
	for i := range t.T {
		if t.T[i] < from || t.T[i] > to {
			continue
		}
		if last >= 0 {
			made.Follow(t.T[i]-t.T[last], (t.Heading[i] - t.Heading[last]).Wrap(), t.StickPitch[i], t.StickRoll[i])
		}
		last = i
		sin, cos := math.Sincos(float64(t.Heading[i]))
		x, y := made.Ahead*sin+made.Right*cos, made.Ahead*cos-made.Right*sin
		gx, gy := speedAt(t, i)
		n, ux, uy, vx, vy = n+1, ux+x, uy+y, vx+gx, vy+gy
		uu, uv = uu+x*x+y*y, uv+x*gx+y*gy
	}
	e := orient.Usual()
	if n == 0 {
		return e
	}
	ux, uy, vx, vy = ux/n, uy/n, vx/n, vy/n
	full := e.AirspeedMps / orient.UsualStick
	// k is the covariance of stick and speed over the variance of the stick.
	if spread := uu/n - ux*ux - uy*uy; spread > leastStick {
		full = math.Max(slowestMps, math.Min(fastestMps, (uv/n-ux*vx-uy*vy)/spread))
	}
	e.AirspeedMps = orient.UsualStick * full
	wx, wy := vx-full*ux, vy-full*uy
	e.WindMps, e.WindFrom = math.Hypot(wx, wy), field.Bearing(field.Point{X: -wx, Y: -wy})
	return e
}

// speedAt is the speed over the ground at sample i in m/s: the log's own, or
// from its places over five samples on either side.
func speedAt(t *track.Track, i int) (vx, vy float64) {
	if t.VX != nil && t.VY != nil {
		return t.VX[i], t.VY[i]
	}
	a, b := max(0, i-5), min(t.Len()-1, i+5)
	dt := t.T[b] - t.T[a]
	if dt <= 0 {
		return 0, 0
	}
	return (t.X[b] - t.X[a]) / dt, (t.Y[b] - t.Y[a]) / dt
}
