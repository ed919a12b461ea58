package score

import (
	"fmt"
	"math"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/orient"
	"maestrale/core/track"
)

// YawMoment is, at one moment of a flight, the yaw rate that a subject asked
// for and the one that was flown, each an angle per second.
type YawMoment struct {
	T            float64
	Asked, Flown field.Angle
}

// yawOver is the time in s over which rates are taken: what a picture shows of a turn.
const yawOver = 0.5

// Yawed follows the yaw over the first path of a task on which the nose is kept
// on a subject. The bearing to the subject turns at (r × v) / |r|², with r from
// the craft to the subject and v the speed over the ground; for a straight run
// that is v·d / (d² + s²). Ten moments a second; none where the task has no
// such path, it was not begun, or the log has no nose.
func Yawed(t *track.Track, task drill.Task, res *Result) (out []YawMoment) {
	if t.Heading == nil {
		return nil
	}
	for i, st := range task.Steps {
		if st.Kind != drill.Path || st.Heading.Kind != drill.Subject || i >= len(res.Steps) || res.Steps[i].StartS == nil {
			continue
		}
		from, to := *res.Steps[i].StartS, t.T[t.Len()-1]
		if res.Steps[i].EndS != nil {
			to = *res.Steps[i].EndS
		}
		next := from
		for j := range t.T {
			if t.T[j] < next || t.T[j] > to {
				continue
			}
			a, b := max(0, t.At(t.T[j]-yawOver/2)), max(0, t.At(t.T[j]+yawOver/2))
			if b <= a {
				continue
			}
			dt := t.T[b] - t.T[a]
			bearing := func(k int) field.Angle {
				return field.Bearing(field.Point{X: st.Subject.X - t.X[k], Y: st.Subject.Y - t.Y[k]})
			}
			var turned field.Angle
			for k := a; k < b; k++ {
				turned += (t.Heading[k+1] - t.Heading[k]).Wrap()
			}
			out = append(out, YawMoment{t.T[j], field.Angle(float64((bearing(b) - bearing(a)).Wrap()) / dt),
				field.Angle(float64(turned) / dt)})
			next = t.T[j] + 0.1
		}
		return out
	}
	return nil
}

// PlannedYaw plans the yaw of a task whose nose is kept on a subject, flown at
// a speed in m/s: of its first such path, a straight run or an orbit. fastest
// is the fastest that the craft yaws, per second. A task without such a path is
// an error.
func PlannedYaw(task drill.Task, speedMps float64, fastest field.Angle) (p orient.YawPlan, orbit bool, err error) {
	for _, st := range task.Steps {
		if st.Kind != drill.Path || st.Heading.Kind != drill.Subject {
			continue
		}
		first, _ := st.Path.At(0)
		last, _ := st.Path.At(st.Path.Length * (1 - 1e-12))
		a, b := first.Flat(), last.Flat()
		if st.Path.Closed {
			p, err = orient.Orbit(speedMps, a.Dist(st.Subject), fastest)
			return p, true, err
		}
		way := b.Sub(a)
		to := st.Subject.Sub(a)
		p, err = orient.PastSubject(speedMps, math.Abs(way.X*to.Y-way.Y*to.X)/a.Dist(b), fastest)
		return p, false, err
	}
	return p, false, fmt.Errorf("the drill %s keeps no nose on a subject", task.Drill.Key)
}
