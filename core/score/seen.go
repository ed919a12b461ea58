package score

import (
	"maestrale/core/drill"
	"maestrale/core/field"
)

// An eye measures times and, where it was marked, where a craft came down.
// Everything else is listed as not judged, so that nobody takes a pass by eye
// for a measured one.

// measureSeen fills in what an eye measured in every step, lists what it did
// not, and returns the shares of limits. An eye cannot measure aspects, so the
// time inside counts for the aspect that the step asks for.
func (o *observer) measureSeen() (shares []float64) {
	for i := range o.task.Steps {
		target := &o.task.Steps[i]
		e := &byEye{o: o, i: i, target: target, lim: &target.Limits, res: &o.res.Steps[i]}
		kindOf(target).measureSeen(e)
		o.measureAnswersSeen(e)
		e.limit("seconds_max", target.SecondsMax, target.Kind != drill.TakeOff)
		shares = append(shares, e.shares...)
	}
	for _, f := range o.inTime {
		target := o.task.Steps[f.step]
		if a, ok := sightOf(target, o.task.Station); ok {
			o.res.AspectS[field.Sector(a)] += f.length()
		}
	}
	return shares
}

// measureAnswersSeen fills in how long the answers of a step took, as they were
// marked. How far the craft was carried an eye does not measure.
func (o *observer) measureAnswersSeen(e *byEye) {
	took, seen := o.replies[e.i]
	for _, d := range e.target.During {
		e.limit("answer_s", d.Seconds, seen)
		if d.FirstWay == "" {
			e.limit("answer_m", d.Distance, false)
		}
		if seen && d.Seconds > 0 {
			e.shares = append(e.shares, took/d.Seconds)
		}
	}
	if seen {
		e.res.Metrics["answer_s"] = took
	}
}
