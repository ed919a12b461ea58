package rehearse

import (
	"math"
	"math/rand/v2"
	"slices"

	"maestrale/core/track"
)

// Receiver is what a receiver does to the places that it logs. The zero value
// logs them as they are.
type Receiver struct {
	White   float64 // m of noise from sample to sample, standard deviation on each axis
	Wander  float64 // m of slow wander on each horizontal axis, standard deviation
	WanderZ float64 // the same of the height
	WanderS float64 // s over which it wanders (correlation time); 60 where not said
	Reports bool    // it reports its wander as its accuracy
	JumpM   float64 // m by which the place steps aside when satellites change
	JumpS   float64 // s between such jumps, in the mean
	SmoothS float64 // s of its own smoothing
	Grain   float64 // m to which horizontal places are rounded
	GrainZ  float64 // m to which heights are rounded
	Drops   float64 // share of samples that are missing
	Bunched bool    // two samples come close together, then none for twice the time
	Speeds  bool    // it logs speeds as well
}

// Log is a flight as the receiver logs it at so many samples a second.
func (r Receiver) Log(f *Flight, hz float64, seed uint64) *track.Track {
	rnd := rand.New(rand.NewPCG(seed, 0x7265686561727365)) //nolint:gosec // made-up noise, not secrets
	n := int(f.Seconds()*hz) + 1
	times := make([]float64, 0, n)
	for i := range n {
		at := float64(i) / hz
		if r.Bunched && i%2 == 1 {
			at -= 0.7 / hz
		}
		if i > 0 && i < n-1 && rnd.Float64() < r.Drops {
			continue
		}
		times = append(times, at)
	}
	t := f.Sampled(times)
	if r.Speeds {
		f.Speeds(t)
	}
	tau := r.WanderS
	if tau == 0 {
		tau = 60
	}
	var wander, jump, smooth, seen [3]float64
	size := [3]float64{r.Wander, r.Wander, r.WanderZ}
	for a := range wander {
		wander[a] = size[a] * rnd.NormFloat64()
	}
	last := times[0]
	for i, at := range times {
		dt := at - last
		last = at
		keep := math.Exp(-dt / tau)
		for a := range wander {
			wander[a] = wander[a]*keep + size[a]*math.Sqrt(1-keep*keep)*rnd.NormFloat64()
		}
		if r.JumpM > 0 && rnd.Float64() < dt/math.Max(r.JumpS, 1) {
			th := 2 * math.Pi * rnd.Float64()
			jump = [3]float64{r.JumpM * math.Sin(th), r.JumpM * math.Cos(th), 0}
		}
		grain := [3]float64{r.Grain, r.Grain, r.GrainZ}
		for a, v := range [3]*float64{&t.X[i], &t.Y[i], &t.Z[i]} {
			*v += wander[a] + jump[a] + r.White*rnd.NormFloat64()
			if r.SmoothS > 0 {
				if i == 0 {
					smooth[a] = *v
				}
				smooth[a] += (1 - math.Exp(-dt/r.SmoothS)) * (*v - smooth[a])
				*v = smooth[a]
			}
			if grain[a] > 0 {
				*v = grain[a] * math.Round(*v/grain[a])
			}
			seen[a] = *v
		}
	}
	if r.Reports {
		t.AccuracyM = slices.Repeat([]float64{r.Wander}, t.Len())
	}
	return t
}
