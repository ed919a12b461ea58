package score

import (
	"math"

	"maestrale/core/track"
)

// Satellite heights wander by metres while the craft stands still. But a craft
// begins and ends on the ground, so that the log tells its own error there.

const (
	standsFor  = 1.0 // s without movement that are a stand on the ground
	standsIn   = 0.1 // m within which it does not move, besides noise
	flewOver   = 0.5 // m over both stands that are a flight
	levelKnown = 2.0 // times as far off as noise goes that a stand has to be for its height to wander
)

// levelled takes the wander of the height out of a log whose receiver reports
// one. A craft stands on the ground at the beginning and at the end, and the
// ground is at 0: what the log says there is the height's own error, and is
// taken off on a straight line from one stand to the other. What wanders
// between the stands is a Brownian bridge, whose standard deviation in its
// middle is √(D·T/4) (D the growth of the variance per second, T the time
// between them).
//
// Where the stands are at 0 as they should be, the height does not wander with
// the place, and t is returned as it is. With one stand only, its error is
// taken off everywhere and the height stays as uncertain as the place.
func levelled(t *track.Track, n noise) (*track.Track, noise) {
	if n.wander <= 0 || t.Len() < fewest {
		return t, n
	}
	in := standsIn + 2*most*n.quickZ
	first, z0, ok0 := groundStand(t, in, 1)
	last, z1, ok1 := groundStand(t, in, -1)
	// A stand that is off by more than noise can explain is no stand on the
	// ground: on a roof, or a log cut in the air.
	far := 5 * n.wander
	if ok0 = ok0 && math.Abs(z0) <= far; !ok0 && ok1 && math.Abs(z1) <= far { // it begins in the air
		first, z0 = last-1, z1
	} else if !ok0 || first >= last {
		return t, n
	}
	// Without a flight between the two stands they are one.
	top := math.Inf(-1)
	for i := range t.Z[:last+1] {
		top = math.Max(top, t.Z[i])
	}
	if ok1 = ok1 && math.Abs(z1) < far && top > math.Max(z0, z1)+flewOver; !ok1 {
		z1 = z0
	}
	known := levelKnown * (grounded/2 + n.quickZ)
	if math.Abs(z0) < known && math.Abs(z1) < known {
		return t, n
	}
	drift := 2 * n.wander * n.wander / wanderTime
	n.wanderZ = math.Min(n.wander, math.Sqrt(drift*(t.T[last]-t.T[first])/4))
	if !ok0 || !ok1 {
		n.wanderZ = n.wander
	}
	c := *t
	c.Z = make([]float64, t.Len())
	for i, z := range t.Z {
		u := math.Max(0, math.Min(1, (t.T[i]-t.T[first])/(t.T[last]-t.T[first])))
		c.Z[i] = z - z0 - u*(z1-z0)
	}
	return &c, n
}

// groundStand finds the stand at the beginning of a log or, with way −1, at its
// end: the sample at which it ends or begins, its mean height in metres, and
// whether it lasted for standsFor. in is how far from the mean a sample may
// lie.
func groundStand(t *track.Track, in float64, way int) (edge int, z float64, ok bool) {
	i, end := 0, t.Len()
	if way < 0 {
		i, end = t.Len()-1, -1
	}
	from, sum, count := i, 0.0, 0.0
	for ; i != end && (count < 1 || math.Abs(t.Z[i]-sum/count) < in); i += way {
		sum, count = sum+t.Z[i], count+1
	}
	edge = i - way
	return edge, sum / count, math.Abs(t.T[edge]-t.T[from]) >= standsFor
}
