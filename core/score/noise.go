package score

import (
	"math"

	"maestrale/core/track"
)

// A verdict that comes from a log rests on errors as well as on flying, so they
// are estimated first, from the log alone: the white noise of neighbouring
// samples, the slow wander that the receiver reports, the steps in which places
// are written, and jumps where its satellites change.

const (
	// slowest is the longest time between samples, in seconds, at which third
	// differences tell noise from flying: at 5 Hz a jerk of 3 m/s³ looks like 5
	// mm of noise, at 1 Hz like 0.7 m. Slower logs are measured at their quiet
	// moments alone.
	slowest = 0.2
	// fewest is the smallest number of samples that says anything about noise.
	fewest = 12
	// smallJump and jumpAccel bound what a craft can do between two samples: a
	// step of the position over smallJump + jumpAccel·dt² (metres), with the
	// same speed before and after, is the receiver's and not the craft's.
	smallJump = 0.3
	jumpAccel = 6.0 // m/s²
	// quarterOfNormal is the absolute value that a quarter of a standard
	// normal's draws stay under.
	quarterOfNormal = 0.3186
	medianOfNormal  = 0.6745
	wanderTime      = 60.0 // s in which a receiver's wander forgets where it was (DESIGN, section 5)
)

// noise is what a log says of its own errors. All but step, jump and drift are
// standard deviations in metres: of each horizontal axis, or of the height
// where the name ends with Z.
type noise struct {
	step           float64 // median time between samples, s
	quick, quickZ  float64 // from one sample to the next
	wander         float64 // slow, as the log reports it
	wanderZ        float64
	grain, grainZ  float64 // size of the steps in which places are written, 0 where they are fine
	jump           float64 // size of the largest jump of the receiver, 0 without one
	drift          float64 // m²/s by which the variance of a horizontal place grows with time, at first
	place, heights float64 // all of them together
}

// measureNoise estimates the errors of a log from the log itself, by how places
// change from sample to sample.
//
// The third difference of smooth flight is near nothing, that of white noise of
// deviation σ has the deviation √20·σ (the sum of the squared binomial
// coefficients 1, 3, 3, 1; for uneven times the third divided difference over
// the root of the sum of its squared coefficients). Its median absolute value
// over 0.6745 is a robust measure (Hampel, "The influence curve and its role in
// robust estimation", JASA 69 (1974) 383): sudden moves of the craft are few.
// It is taken from sample to sample and over a fifth of a second, since a
// receiver that smooths hides its noise from neighbouring samples. The reported
// accuracy stands for the slow wander, which cannot be told from flying.
func measureNoise(t *track.Track) noise {
	n := noise{step: t.MedianStep()}
	if n.step > 0 {
		lags := []int{1}
		if far := int(math.Round(slowest / n.step)); far > 1 {
			lags = append(lags, far)
		}
		scratch := make([]float64, 0, 2048)
		var flat [2]float64 // variances at the lags
		for k, lag := range lags {
			x, y := quickNoise(t.T, t.X, lag, n.step, scratch), quickNoise(t.T, t.Y, lag, n.step, scratch)
			flat[k] = (x*x + y*y) / 2
			n.quick = math.Max(n.quick, math.Sqrt(flat[k]))
			n.quickZ = math.Max(n.quickZ, quickNoise(t.T, t.Z, lag, n.step, scratch))
		}
		// What is white is the same at both lags.
		if len(lags) > 1 { // what grows with the lag is a wander, 6/20 of its variance over a lag
			n.drift = math.Max(0, flat[1]-flat[0]) / (0.3 * float64(lags[1]-lags[0]) * n.step)
		}
		n.grain, n.grainZ = grainOf(t.X, t.Y), grainOf(t.Z, nil)
	}
	if t.AccuracyM != nil {
		acc := make([]float64, len(t.AccuracyM))
		copy(acc, t.AccuracyM)
		n.wander = nth(acc, len(acc)/2)
		if n.step > slowest/1.5 { // too slow to see how it moves
			n.drift = math.Max(n.drift, 2*n.wander*n.wander/wanderTime)
		}
	}
	return n.summed()
}

// summed returns n with place and heights set: the independent errors added up
// by their squares. A value that is rounded to steps of q has the standard
// deviation q/√12 (Widrow, "A study of rough amplitude quantization", IRE
// Trans. Circuit Theory 3 (1956) 266).
func (n noise) summed() noise {
	const uniform = 3.4641016151377544 // √12
	n.place = math.Sqrt(n.quick*n.quick + n.wander*n.wander + n.grain*n.grain/12 + n.jump*n.jump)
	n.heights = math.Hypot(math.Hypot(n.quickZ, n.wanderZ), n.grainZ/uniform)
	return n
}

// quality is what a result says of the log: rate, noise and jumps, rounded.
func (n noise) quality() LogQuality {
	q := LogQuality{PlaceM: round(n.place, 4), HeightM: round(n.heights, 4), JumpM: round(n.jump, 2)}
	if n.step > 0 {
		q.RateHz = round(1/n.step, 2)
	}
	return q
}

// quickNoise is the standard deviation of the white noise in the column v over
// the times t, by third divided differences over samples that lie lag apart.
// step is the median time between samples; where it is longer than slowest,
// only the quietest quarter of the differences is taken for noise. It is 0 for
// a column that is too short to tell. scratch is overwritten.
func quickNoise(t, v []float64, lag int, step float64, scratch []float64) float64 {
	if len(v) < fewest+3*lag {
		return 0
	}
	// A thousand differences spread over the log tell it to 3 %.
	stride := max(1, len(v)/1000)
	d := scratch[:0]
	for i := 3 * lag; i < len(v); i += stride {
		// The third divided difference of the four samples i−3·lag … i, whose
		// weights are scaled to a sum of squares of 1.
		a, b, c, e := i-3*lag, i-2*lag, i-lag, i
		ab, ac, ae := t[a]-t[b], t[a]-t[c], t[a]-t[e]
		bc, be, ce := t[b]-t[c], t[b]-t[e], t[c]-t[e]
		wa, wb, wc, we := bc*be*ce, -ac*ae*ce, ab*ae*be, -ab*ac*bc
		norm := math.Sqrt(wa*wa + wb*wb + wc*wc + we*we)
		if norm == 0 {
			continue
		}
		d = append(d, math.Abs(wa*v[a]+wb*v[b]+wc*v[c]+we*v[e])/norm)
	}
	if len(d) < fewest {
		return 0
	}
	if step > slowest {
		return nth(d, len(d)/4) / quarterOfNormal
	}
	return nth(d, len(d)/2) / medianOfNormal
}

// grainOf is the size in metres of the steps in which a place is written, 0
// where they are fine. In a rounded log the place stands for some samples, then
// changes alone by at least one step. y may be nil for a single column, such as
// heights.
func grainOf(x, y []float64) float64 {
	moved := func(i int) float64 {
		if y == nil {
			return math.Abs(x[i] - x[i-1])
		}
		return math.Abs(x[i]-x[i-1]) + math.Abs(y[i]-y[i-1])
	}
	const finest = 0.01 // m of a step that matters
	stride := max(1, len(x)/4000)
	alone, changes, least := 0, 0, math.Inf(1)
	for i := 2; i+1 < len(x); i += stride {
		d := moved(i)
		if d == 0 {
			continue
		}
		// One change that is finer than any step that matters: not rounded.
		if changes++; d < finest {
			return 0
		}
		least = math.Min(least, d)
		if moved(i-1) == 0 && moved(i+1) == 0 {
			alone++
		}
	}
	if (alone < 3 || 4*alone < changes) && (y != nil || !onSteps(x, least)) {
		return 0
	}
	if y != nil { // a step along either of two rotated axes
		return least / math.Sqrt2 * 1.2
	}
	return least
}

// coarseStep is a step in metres that no exact column keeps to by chance.
const coarseStep = 0.2

// onSteps tells whether the column x only ever changes by whole numbers of
// steps, four times at least and by more than one step now and then. A step of
// coarseStep or more needs no larger change to be believed.
func onSteps(x []float64, step float64) bool {
	changes, more := 0, step >= coarseStep
	for i := 1; i < len(x); i++ {
		n := math.Abs(x[i]-x[i-1]) / step
		if math.Abs(n-math.Round(n)) > 1e-4*(1+n) {
			return false
		}
		if n > 0.5 {
			changes, more = changes+1, more || n > 1.5
		}
	}
	return changes >= 4 && more
}

// mended takes the jumps of a receiver out of a track: where its satellites
// change, the place steps aside between two samples while the speed stays as it
// was. What comes after is moved back, so that the flight goes on where it was.
// Which of the two places was the true one is not known, so the size of the
// largest jump, in metres, is an error of the place from then on.
//
// A track without jumps is returned itself, with the size 0. On the ground
// nothing is moved back: there the craft is carried.
func mended(t *track.Track, n noise) (*track.Track, float64) {
	out, size, dx, dy := t, 0.0, 0.0, 0.0
	limit := func(dt float64) float64 { return math.Max(smallJump, 8*n.quick) + jumpAccel*dt*dt }
	for i := 1; i < t.Len(); i++ {
		dt := t.T[i] - t.T[i-1]
		jx, jy := t.X[i]-t.X[i-1], t.Y[i]-t.Y[i-1]
		if jx*jx+jy*jy > 0.09 && t.Z[i] > aloftAt && jumps(t, i, limit(dt)) {
			bx, by := speedAround(t, i-1, -1)
			if out == t {
				c := *t
				c.X, c.Y = append([]float64(nil), t.X...), append([]float64(nil), t.Y...)
				out = &c
			}
			// Moved back by the jump alone: what the speed before it would have
			// flown is kept.
			dx, dy = dx+jx-bx*dt, dy+jy-by*dt
			size = math.Max(size, math.Hypot(dx, dy))
		}
		if out != t {
			out.X[i], out.Y[i] = t.X[i]-dx, t.Y[i]-dy
		}
	}
	return out, size
}

// jumps tells whether the place steps aside before sample i by more than limit
// metres, seen from the speeds before and after it. A change of speed with it
// is the craft's own doing, as in a collision. The three samples at each end of
// a log are never jumps.
func jumps(t *track.Track, i int, limit float64) bool {
	if i < 3 || i+3 > t.Len() {
		return false
	}
	bx, by := speedAround(t, i-1, -1)
	ax, ay := speedAround(t, i, 1)
	dt := t.T[i] - t.T[i-1]
	jx, jy := t.X[i]-t.X[i-1], t.Y[i]-t.Y[i-1]
	if math.Hypot(ax-bx, ay-by) > 1+limit {
		return false
	}
	return math.Hypot(jx-bx*dt, jy-by*dt) > limit && math.Hypot(jx-ax*dt, jy-ay*dt) > limit
}

// speedAround is the speed over the ground in m/s over a few samples from i,
// forward (way 1) or back (way −1). There must be two samples in that
// direction.
func speedAround(t *track.Track, i, way int) (vx, vy float64) {
	j := i + 2*way
	for k := 0; k < 8 && math.Abs(t.T[j]-t.T[i]) < 0.1 && j+way >= 0 && j+way < t.Len(); k++ {
		j += way
	}
	dt := t.T[j] - t.T[i]
	return (t.X[j] - t.X[i]) / dt, (t.Y[j] - t.Y[i]) / dt
}

// nth returns the value that would stand at index k if v were sorted (Hoare's
// selection, "Algorithm 65: Find", CACM 4 (1961) 321, with the middle as
// pivot). It disorders v, and takes linear time where sorting would not. v must
// have more than k values.
func nth(v []float64, k int) float64 {
	lo, hi := 0, len(v)-1
	for lo < hi {
		p := v[lo+(hi-lo)/2]
		i, j := lo, hi
		for i <= j {
			for v[i] < p {
				i++
			}
			for p < v[j] {
				j--
			}
			if i <= j {
				v[i], v[j] = v[j], v[i]
				i++
				j--
			}
		}
		switch {
		case k <= j:
			hi = j
		case k >= i:
			lo = i
		default:
			return v[k]
		}
	}
	return v[k]
}
