package score

import (
	"math"

	"maestrale/core/drill"
	"maestrale/core/field"
)

// How evenly a path was flown is shown and never judged: a picture is spoilt by
// what no tolerance of place would notice.

const (
	haltSpeed  = 0.15 // m/s under which a craft on its way halts
	haltLasts  = 0.5  // s before that counts
	jerkWindow = 1.0  // s over which a cubic is fitted
	lookEvery  = 0.1  // s between the moments that are looked at
	jerkEvery  = 0.5  // s between the places where that is done
	jerkPoints = 12   // samples that it is fitted to, at most
	craftMoves = 0.3  // m/s over which the craft moves
	cameraRate = 2.0  // °/s over which a picture turns or tilts
)

// smoothness measures how evenly the path of step i was flown: halts, the
// largest jerk, how much of what the camera turned or tilted it did while the
// craft moved too, and how far the camera's tilt was off the subject. Nothing
// is judged by it, so other kinds of steps and short paths are left out.
func (s *sampler) smoothness(i int) {
	w, target := s.ways[i], s.task.Steps[i]
	if w == nil || !w.begun || len(w.points) < 8 || target.Kind != drill.Path {
		return
	}
	met := s.res.Steps[i].Metrics
	s.motion(i)
	if j, ok := w.jerk(); ok {
		met["jerk_max_mps3"] = j
	}
}

// motion goes once over the way of step i. It counts how often the craft stood,
// though not at the ends and not at corners where a rest is asked. And it
// measures the picture: how much of its turning and tilting fell into the time
// in which the craft moved as well, and how far the tilt was off the subject's
// foot.
func (s *sampler) motion(i int) {
	w, target, met := s.ways[i], s.task.Steps[i], s.res.Steps[i].Metrics
	tilt := s.t.GimbalTilt
	subject := target.Heading.Kind == drill.Subject
	halts := haltClock{since: math.NaN()}
	turned, both, off := 0.0, 0.0, 0.0
	total := w.points[len(w.points)-1].way
	first := max(0, s.t.At(w.points[0].t))
	q := 0 // the point from which a speed is taken
	seen := w.points[0].t
	for k := 1; k < len(w.points); k++ {
		p := &w.points[k]
		if p.t-seen < lookEvery-1e-9 {
			continue
		}
		before := seen
		seen = p.t
		for q < k-1 && p.t-w.points[q+1].t >= restWindow-1e-9 {
			q++
		}
		from := &w.points[q]
		dt := p.t - from.t
		if dt <= 0 {
			continue
		}
		speed := math.Sqrt((p.x-from.x)*(p.x-from.x)+(p.y-from.y)*(p.y-from.y)+(p.z-from.z)*(p.z-from.z)) / dt
		rate := (p.heading - from.heading).Wrap().Abs().Deg() / dt
		if tilt != nil {
			for first < s.t.Len()-1 && s.t.T[first] < p.t {
				first++
			}
			now := tilt[first]
			rate = math.Max(rate, (now-tilt[max(0, first-(k-q))]).Abs().Deg()/dt)
			if subject {
				d := math.Hypot(target.Subject.X-p.x, target.Subject.Y-p.y)
				off = math.Max(off, (now + field.Angle(math.Atan2(p.z, d))).Wrap().Abs().Deg())
			}
		}
		if rate > cameraRate {
			step := p.t - before
			turned += step
			if speed > craftMoves {
				both += step
			}
		}
		moves := speed >= haltSpeed || p.way < 0.03*total || p.way > 0.97*total || restsAt(target, p.way)
		halts.see(moves, from.t, p.t)
	}
	met["halts"] = float64(halts.n)
	if turned > 0 {
		met["camera_moving_share"] = both / turned
	}
	if subject && tilt != nil {
		met["aim_up_deg"] = off
	}
}

// haltClock counts the halts of a way: each lasts for haltLasts seconds at
// least.
type haltClock struct {
	n       int
	since   float64 // NaN while the craft moves
	counted bool    // the one that goes on
}

// see takes in whether the craft moves between two moments. A place where no
// halt would count is moving as well.
func (h *haltClock) see(moves bool, from, at float64) {
	if moves {
		h.since, h.counted = math.NaN(), false
		return
	}
	if math.IsNaN(h.since) {
		h.since = from
	}
	if !h.counted && at-h.since >= haltLasts {
		h.n, h.counted = h.n+1, true
	}
}

// restsAt tells whether a rest is asked near a place of the way, in metres
// along it.
func restsAt(target drill.Target, way float64) bool {
	if target.RestS <= 0 {
		return false
	}
	for _, c := range target.Path.Corners {
		if math.Abs(way-c) < freeJoin {
			return true
		}
	}
	return false
}

// jerk is the largest third derivative of the place in m/s³: of a cubic fitted
// by least squares over jerkWindow, after Savitzky and Golay, "Smoothing and
// differentiation of data by simplified least squares procedures", Anal. Chem.
// 36 (1964) 1627. ok is false where the log has fewer than six samples in every
// window.
func (w *flownWay) jerk() (most float64, ok bool) {
	last := math.Inf(-1)
	from := 0
	var some [jerkPoints]flownPoint
	for k := range w.points {
		for w.points[k].t-w.points[from].t > jerkWindow+1e-9 {
			from++
		}
		n := k - from + 1
		if w.points[k].t-last < jerkEvery || w.points[k].t-w.points[from].t < 0.9*jerkWindow || n < 6 {
			continue
		}
		last = w.points[k].t
		few := min(n, jerkPoints)
		for i := range few {
			some[i] = w.points[from+i*(n-1)/(few-1)]
		}
		x, y, z := third(some[:few])
		most, ok = math.Max(most, math.Sqrt(x*x+y*y+z*z)), true
	}
	return most, ok
}

// third is the third derivative, on each axis, of the cubics that fit a stretch
// of points: the coefficients of polynomials that are orthogonal over the very
// times of the samples, by their three-term recurrence p(k+1) = (t − a) p(k) −
// b p(k−1) (Forsythe, "Generation and use of orthogonal polynomials for
// data-fitting with a digital computer", J. SIAM 5 (1957) 74). It is 0 for
// points at fewer than four moments; there may be jerkPoints at most.
func third(points []flownPoint) (x, y, z float64) {
	mid := (points[0].t + points[len(points)-1].t) / 2
	var before, now [jerkPoints]float64
	for i := range points {
		now[i] = 1
	}
	normBefore := 1.0
	for k := 0; ; k++ {
		norm, tt := 0.0, 0.0
		x, y, z = 0, 0, 0
		for i := range points {
			p, v := &points[i], now[i]
			norm += v * v
			tt += (p.t - mid) * v * v
			x += v * p.x
			y += v * p.y
			z += v * p.z
		}
		if norm < 1e-15 {
			return 0, 0, 0
		}
		// The polynomial of degree 3 is monic, so its third derivative is 6.
		if k == 3 {
			return 6 * x / norm, 6 * y / norm, 6 * z / norm
		}
		a, b := tt/norm, 0.0
		if k > 0 {
			b = norm / normBefore
		}
		for i := range points {
			now[i], before[i] = (points[i].t-mid-a)*now[i]-b*before[i], now[i]
		}
		normBefore = norm
	}
}
