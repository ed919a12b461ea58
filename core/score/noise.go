package score

import (
	"math"

	"maestrale/core/track"
)

// slowest is the longest time between samples at which quick noise can be told
// from flying: at 5 Hz a jerk of 3 m/s³ looks like 5 mm of noise, at 1 Hz like
// 0.7 m.
const slowest = 0.2

// quality estimates the quick position noise of a log from the log itself.
//
// The third difference of smooth flight is near nothing, that of white noise
// of deviation σ has the deviation √20·σ (the sum of the squared binomial
// coefficients 1, 3, 3, 1). Its median absolute value, over 0.6745, is a
// robust measure (Hampel, 1974): sudden moves of the craft are few. The
// reported accuracy, where the log has it, stands for the slow wander, which
// cannot be told from flying (see DESIGN: field logs are noisy).
func quality(t *track.Track) LogQuality {
	q := LogQuality{}
	step := t.MedianStep()
	if step > 0 {
		q.RateHz = round(1/step, 2)
	}
	if step > 0 && step <= slowest {
		nx, ny := quickNoise(t.X), quickNoise(t.Y)
		q.PlaceM = math.Sqrt((nx*nx + ny*ny) / 2)
		q.HeightM = quickNoise(t.Z)
	}
	if t.AccuracyM != nil {
		acc := make([]float64, len(t.AccuracyM))
		copy(acc, t.AccuracyM)
		q.PlaceM = math.Hypot(q.PlaceM, nth(acc, len(acc)/2))
	}
	q.PlaceM, q.HeightM = round(q.PlaceM, 4), round(q.HeightM, 4)
	return q
}

func quickNoise(v []float64) float64 {
	if len(v) < 50 {
		return 0
	}
	// Two thousand differences spread over the log tell it to 2 %.
	stride := max(1, len(v)/2000)
	d := make([]float64, 0, len(v)/stride+2)
	for i := 3; i < len(v); i += stride {
		d = append(d, math.Abs(v[i]-3*v[i-1]+3*v[i-2]-v[i-3]))
	}
	return nth(d, len(d)/2) / 0.6745 / math.Sqrt(20)
}

// nth returns the value that would stand at place k if v were sorted; it
// disorders v (Hoare's selection, 1961, with the middle as pivot).
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
