package score

import (
	"math"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/orient"
	"maestrale/core/track"
)

// usualPush is the share of a craft's fastest speed and turn that a careful push makes.
const usualPush = 0.5 // as orient reckons

// EyeOn is an eye on a craft of a type that is lost, flown with some aids in a wind from a
// field heading.
func EyeOn(kind craft.Type, aids craft.Aids, windMps float64, from field.Angle) orient.Eye {
	e := orient.Usual()
	if l, ok := kind.Limits[aids]; ok {
		if l.SpeedMps > 0 {
			e.AirspeedMps = usualPush * l.SpeedMps
		}
		if l.YawDps > 0 {
			e.YawRate = field.Degrees(usualPush * l.YawDps)
		}
	}
	e.WindMps, e.WindFrom = windMps, from
	return e
}

// Watched follows the orientation that was regained in a log, for what could be known at
// each moment. It is nil where the task has none, or the log no sticks or no nose.
func Watched(t *track.Track, task drill.Task, res *Result, e orient.Eye, aids craft.Aids) *orient.Watch {
	if len(task.Steps) == 0 || task.Steps[0].Kind != drill.Regain || len(res.Steps) == 0 || res.Steps[0].StartS == nil {
		return nil
	}
	step := res.Steps[0]
	to := math.Inf(1)
	if step.Done && step.EndS != nil {
		to = *step.EndS
	}
	return WatchTrack(t, task.Station, *step.StartS, to, e, aids)
}

// WatchTrack follows a log between two moments from a pilot's station; aids are those that
// it was flown with where it does not say them. It is nil where the log has no sticks or no
// nose.
func WatchTrack(t *track.Track, station field.Point, from, to float64, e orient.Eye, aids craft.Aids) *orient.Watch {
	if t.StickPitch == nil || t.StickRoll == nil || t.StickYaw == nil || t.Heading == nil {
		return nil
	}
	w := orient.NewWatch(e)
	w.Ask = true
	for i := range t.T {
		if t.T[i] < from || t.T[i] > to {
			continue
		}
		s := orient.Sample{T: t.T[i], X: t.X[i] - station.X, Y: t.Y[i] - station.Y, Heading: t.Heading[i],
			Pitch: t.StickPitch[i], Roll: t.StickRoll[i], Yaw: t.StickYaw[i], Holds: aids == craft.PositionHold}
		if t.Aids != nil {
			s.Holds = t.Aids[i] == string(craft.PositionHold)
		}
		s.VX, s.VY = speedAt(t, i)
		w.Add(s)
	}
	w.End()
	return w
}

// speedAt is the speed over the ground at a sample: the log's own, or from its places.
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
