package score

import (
	"math"

	"maestrale/core/track"
)

// Noise hurts in two ways: it looks like movement, so that no rest is ever
// found, and it throws single samples over a limit. Where it is large enough
// for either, the places are replaced by local fits and the speeds are read off
// those. How well both are known then is kept beside them: the judging widens
// its limits by that.

const (
	// fine is the noise in metres up to which a log is taken as it is: a speed
	// over a fifth of a second is then known to 6 cm/s.
	fine = 0.008
	// knotEvery is the time in seconds over which samples are averaged before
	// anything is fitted.
	knotEvery = 0.1
	// placeTo and speedTo are what the fits aim at: windows are widened until
	// places are known to placeTo metres and speeds to speedTo metres a second,
	// or until they reach placeMost and speedMost seconds, beyond which they
	// would smooth away what a pilot does.
	placeTo, placeMost = 0.015, 0.5
	speedTo, speedMost = 0.05, 1.2
	// sparse is the longest time between samples over which a straight line is
	// good enough: a swing of two seconds loses a hundredth of its height in
	// it.
	sparse = 0.1
	// roaming is the growth of a wander's variance in m²/s from which it looks
	// like movement: a speed over a fifth of a second is then known to 8 cm/s.
	// A jerk of 3 m/s³ looks like half of it.
	roaming = 1e-3
	// most is how many standard deviations noise alone is taken to reach.
	most = 3.0
	// wanders is how many standard deviations of slow wander are taken to be no
	// fault: a wander about two axes passes it in one of three thousand looks.
	wanders = 4.0
)

// steady is a flight as it is scored: the track with its noise taken out, its
// speeds, and how well both are known.
type steady struct {
	flight *track.Track
	noise  noise
	noisy  bool
	speeds []float64 // m/s at each sample; nil where differences of the places are good enough

	place, height float64 // standard deviation of a place on one axis and of a height, white noise left, m
	pace, sink    float64 // of a speed and of a sink rate, m/s
	blur          float64 // s by which the moment of a change of speed is uncertain
	window        float64 // s over which a speed was taken
	own           bool    // the speeds are those of the log's own columns
	ground        float64 // height under which the craft may stand on the ground, m

	sigma, sigmaZ float64 // of a place and of a height, slow errors included, m
	reach, reachZ float64 // as far as noise alone takes a place or a height, m
}

// steadied prepares a track for scoring, given the noise n of its log. A fine
// and dense log is returned as it is; a sparse one gets samples in between; a
// noisy one is fitted. The errors that are left, and how far they reach, are
// worked out for the judging.
func steadied(t *track.Track, n noise) steady {
	s := steady{flight: t, noise: n, ground: grounded, place: n.quick, height: n.quickZ,
		pace: math.Sqrt2 * n.quick / restWindow, sink: math.Sqrt2 * n.quickZ / sinkWindow, window: restWindow}
	s.noisy = n.quick > fine || n.quickZ > fine || n.wander > 0 || n.grain > 0 || n.grainZ > 0 || n.jump > 0
	if t.Len() >= fewest && (n.quick > fine || n.quickZ > fine || n.drift > roaming) {
		s.fit()
	} else if n.step > sparse+1e-9 {
		s.flight = denser(t, nil)
	}
	s.sigma = math.Sqrt(s.place*s.place + n.wander*n.wander + n.grain*n.grain/12 + n.jump*n.jump)
	s.sink = math.Max(s.sink, math.Sqrt2*n.grainZ/math.Sqrt(12)/sinkWindow)
	// A slow log cannot see the last of the braking.
	if n.step > sinkWindow { // between two samples it may have braked by 1 m/s²
		s.sink = math.Hypot(s.sink, 0.5*n.step)
	}
	s.sigmaZ = math.Sqrt(s.height*s.height + n.wanderZ*n.wanderZ + n.grainZ*n.grainZ/12)
	if s.noisy {
		s.ground = grounded + most*n.quickZ + 0.6*n.grainZ + 2*n.wanderZ
		s.reach = math.Hypot(wanders*n.wander, most*s.place) + n.jump + n.grain
		s.reachZ = math.Hypot(wanders*n.wanderZ, most*s.height) + 0.6*n.grainZ
	}
	return s
}

// knots are the samples averaged over knotEvery seconds: fewer of them, with
// less noise, for the fits to run over.
type knots struct {
	t, n    []float64    // time, number of samples
	p       [3][]float64 // mean place
	fit     [3][]float64 // place on the fitted curve, and its slope
	slope   [3][]float64
	speed   []float64
	sumP    float64 // variance of a place and of a speed, in that of a sample, summed over the knots
	sumV    float64
	hp, hv  float64
	samples float64 // per second
}

// newKnots averages the samples of a track over knotEvery, where it has more.
// step is the median time between samples; a log that is no denser than the
// knots keeps its samples. All columns share one allocation.
func newKnots(t *track.Track, step float64) *knots {
	n := t.Len()
	k := &knots{}
	room := n
	if d := t.Duration(); step < 0.8*knotEvery {
		room = min(n, int(d/knotEvery)+2)
	}
	all := make([]float64, 12*room)
	take := func() []float64 {
		part := all[:0:room]
		all = all[room:]
		return part
	}
	k.t, k.n = take(), take()
	for a := range 3 {
		k.p[a], k.fit[a], k.slope[a] = take(), take(), take()
	}
	k.speed = take()
	k.samples = 1 / step
	for i := 0; i < n; {
		end := t.T[i] + knotEvery - 1e-9
		var st, sx, sy, sz, c float64
		for first := true; i < n && (first || (step < 0.8*knotEvery && t.T[i] < end && len(k.t) < room-1)); i++ {
			st, sx, sy, sz, c = st+t.T[i]-end, sx+t.X[i], sy+t.Y[i], sz+t.Z[i], c+1
			first = false
		}
		k.t, k.n = append(k.t, end+st/c), append(k.n, c)
		k.p[0], k.p[1], k.p[2] = append(k.p[0], sx/c), append(k.p[1], sy/c), append(k.p[2], sz/c)
	}
	return k
}

// fit takes the noise out of the places by local quadratics and reads speeds
// off local lines (Savitzky and Golay, Anal. Chem. 36 (1964) 1627; Cleveland,
// "Robust locally weighted regression", JASA 74 (1979) 829, without its
// weights). A window of T seconds at r samples a second tells the place to
// σ·√(9/(4 r T)) in its middle and the speed to σ·√(12/(r T³)); both windows
// are as wide as it takes to come to placeTo and speedTo. Of a wander whose
// variance grows by D a second, a line over T leaves 6 D/(5 T) of variance in
// the speed. The variances are those of the windows that were really used, in
// their mean.
func (s *steady) fit() {
	t := s.flight
	noise := math.Max(s.noise.quick, s.noise.quickZ)
	// The half widths of both windows, in seconds: hp of the quadratics, hv of
	// the lines.
	k := newKnots(t, s.noise.step)
	k.hp = math.Min(placeMost+2*math.Max(0, noise-0.05), 9*noise*noise/(8*k.samples*placeTo*placeTo))
	k.hv = math.Max(restWindow, math.Min(speedMost,
		math.Cbrt(12*noise*noise/(k.samples*speedTo*speedTo))+1.2*s.noise.drift/(speedTo*speedTo))) / 2
	s.window, s.blur = 2*k.hv, math.Max(0, 0.7*k.hv-restWindow/2)
	lo, hi, plo, phi := 0, 0, 0, 0
	least := 2 // knots on either side of a quadratic
	if s.noise.step > 0.25 {
		least = 1
	}
	last := len(k.t) - 1
	for i := range k.t {
		now := k.t[i]
		lo, hi = window(k.t, lo, hi, i, now, k.hv)
		plo, phi = window(k.t, plo, phi, i, now, k.hp)
		v := k.line(i, max(0, min(lo, i-1)), min(last, max(hi, i+1)))
		k.quadratic(i, max(0, min(plo, i-least)), min(last, max(phi, i+least)), 2*least, v)
	}
	count := float64(len(k.t))
	s.place, s.height = s.noise.quick*math.Sqrt(k.sumP/count), s.noise.quickZ*math.Sqrt(k.sumP/count)
	perAxis := math.Sqrt(k.sumV / count)
	s.pace, s.sink = math.Hypot(noise*perAxis, math.Sqrt(1.2*s.noise.drift/(2*k.hv))), s.noise.quickZ*perAxis
	if s.noise.step > sparse+1e-9 {
		s.flight = denser(t, k)
	} else {
		c := *t
		s.flight = &c
	}
	n := s.flight.Len()
	all := make([]float64, 4*n)
	s.flight.X, s.flight.Y, s.flight.Z, s.speeds = all[:n:n], all[n:2*n:2*n], all[2*n:3*n:3*n], all[3*n:]
	k.sample(s.flight.T, s.flight.X, s.flight.Y, s.flight.Z, s.speeds)
	s.ownSpeeds(t)
}

// window moves a window of half-width h, in seconds, along to the moment now of
// knot i, and returns its first and last knot. lo and hi are those of the knot
// before, so that moving over all knots takes linear time.
func window(t []float64, lo, hi, i int, now, h float64) (int, int) {
	for lo < i && now-t[lo] > h+1e-9 {
		lo++
	}
	hi = max(hi, i)
	for hi+1 < len(t) && t[hi+1]-now <= h+1e-9 {
		hi++
	}
	return lo, hi
}

// line fits straight lines to the knots lo to hi, weighted by their samples;
// their slopes are the velocity at knot i, in m/s, and are returned. The speed
// is kept.
func (k *knots) line(i, lo, hi int) (v [3]float64) {
	var n, st, stt, x, y, z, tx, ty, tz float64
	mid, px, py, pz := k.t[i], k.p[0], k.p[1], k.p[2]
	for j := lo; j <= hi; j++ {
		w := k.n[j]
		d := w * (k.t[j] - mid)
		n, st, stt = n+w, st+d, stt+d*(k.t[j]-mid)
		x, y, z = x+w*px[j], y+w*py[j], z+w*pz[j]
		tx, ty, tz = tx+d*px[j], ty+d*py[j], tz+d*pz[j]
	}
	// The slope of least squares, and its variance in that of one sample.
	if den := stt - st*st/n; den > 1e-12 {
		v = [3]float64{(tx - st*x/n) / den, (ty - st*y/n) / den, (tz - st*z/n) / den}
		k.sumV += 1 / den
	}
	k.speed = append(k.speed, math.Sqrt(v[0]*v[0]+v[1]*v[1]+v[2]*v[2]))
	return v
}

// quadratic fits quadratics to the knots lo to hi for the place and the slope
// at knot i; beyond the window it takes few knots at most. Where too few are
// within reach it keeps the place as it is, with the slope v.
func (k *knots) quadratic(i, lo, hi, few int, v [3]float64) {
	var s0, s1, s2, s3, s4, x0, x1, x2, y0, y1, y2, z0, z1, z2 float64
	mid, px, py, pz := k.t[i], k.p[0], k.p[1], k.p[2]
	reach := 1.0 // s, across which nothing is known of a curve
	if hi-lo > few {
		reach = math.Min(reach, k.hp+1e-9)
	}
	for j := lo; j <= hi; j++ {
		d, w := k.t[j]-mid, k.n[j]
		if math.Abs(d) > reach {
			continue
		}
		wd := w * d
		wdd := wd * d
		s0, s1, s2, s3, s4 = s0+w, s1+wd, s2+wdd, s3+wdd*d, s4+wdd*d*d
		x0, x1, x2 = x0+w*px[j], x1+wd*px[j], x2+wdd*px[j]
		y0, y1, y2 = y0+w*py[j], y1+wd*py[j], y2+wdd*py[j]
		z0, z1, z2 = z0+w*pz[j], z1+wd*pz[j], z2+wdd*pz[j]
	}
	// Cramer's rule for the three normal equations; c0/det is the variance of
	// the place in that of one sample.
	c0, c1, c2 := s2*s4-s3*s3, s2*s3-s1*s4, s1*s3-s2*s2
	det := s0*c0 + s1*c1 + s2*c2
	if det <= 1e-9*s0*s0*s0 {
		for a := range 3 {
			k.fit[a], k.slope[a] = append(k.fit[a], k.p[a][i]), append(k.slope[a], v[a])
		}
		k.sumP += 1 / k.n[i]
		return
	}
	c0, c1, c2 = c0/det, c1/det, c2/det
	d1, d2 := (s0*s4-s2*s2)/det, (s1*s2-s0*s3)/det
	k.fit[0], k.slope[0] = append(k.fit[0], c0*x0+c1*x1+c2*x2), append(k.slope[0], c1*x0+d1*x1+d2*x2)
	k.fit[1], k.slope[1] = append(k.fit[1], c0*y0+c1*y1+c2*y2), append(k.slope[1], c1*y0+d1*y1+d2*y2)
	k.fit[2], k.slope[2] = append(k.fit[2], c0*z0+c1*z1+c2*z2), append(k.slope[2], c1*z0+d1*z1+d2*z2)
	k.sumP += c0
}

// sample fills x, y, z and speed with the places and speeds at the times t,
// which must rise: cubics with the fitted places and slopes at the knots
// (Hermite), straight on beyond the ends, and speeds on straight lines. All
// slices must have one length, and there must be two knots.
func (k *knots) sample(t, x, y, z, speed []float64) {
	j, last := 0, len(k.t)-1
	for i, at := range t {
		for j+2 <= last && k.t[j+1] <= at {
			j++
		}
		h := k.t[j+1] - k.t[j]
		u := (at - k.t[j]) / h
		if u < 0 || u > 1 {
			x[i], y[i], z[i] = k.beyond(0, j, u, h), k.beyond(1, j, u, h), k.beyond(2, j, u, h)
			u = math.Max(0, math.Min(1, u))
		} else {
			v := 1 - u
			p, a, q, b := v*v*(1+2*u), u*v*v*h, u*u*(3-2*u), -u*u*v*h
			x[i] = p*k.fit[0][j] + a*k.slope[0][j] + q*k.fit[0][j+1] + b*k.slope[0][j+1]
			y[i] = p*k.fit[1][j] + a*k.slope[1][j] + q*k.fit[1][j+1] + b*k.slope[1][j+1]
			z[i] = p*k.fit[2][j] + a*k.slope[2][j] + q*k.fit[2][j+1] + b*k.slope[2][j+1]
		}
		speed[i] = k.speed[j] + u*(k.speed[j+1]-k.speed[j])
	}
}

// beyond is the place on axis a before the first knot or after the last.
func (k *knots) beyond(a, j int, u, h float64) float64 {
	return hermite(k.fit[a][j], k.fit[a][j+1], k.slope[a][j]*h, k.slope[a][j+1]*h, u)
}

// hermite is the cubic from p to q, at u from 0 to 1, whose slopes over the
// whole step are a at p and b at q; beyond its ends it goes on straight.
func hermite(p, q, a, b, u float64) float64 {
	switch {
	case u < 0:
		return p + u*a
	case u > 1:
		return q + (u-1)*b
	}
	v := 1 - u
	return p*v*v*(1+2*u) + a*u*v*v + q*u*u*(3-2*u) - b*u*u*v
}

// ownSpeeds takes the speeds of the log's own columns, where it has them, they
// agree with its places, and they are known better than what the places tell.
// raw is the log before it was fitted.
func (s *steady) ownSpeeds(raw *track.Track) {
	if raw.VX == nil || raw.VY == nil || raw.VZ == nil || raw.Len() < fewest {
		return
	}
	var own float64
	scratch := make([]float64, 0, 2048)
	for _, v := range [][]float64{raw.VX, raw.VY, raw.VZ} {
		// The noise of the speeds, measured as that of the places is.
		own = math.Max(own, quickNoise(raw.T, v, 1, s.noise.step, scratch))
	}
	if own >= s.pace || !s.agrees(raw) {
		return
	}
	j := 0
	for i, at := range s.flight.T {
		for j+2 < raw.Len() && raw.T[j+1] <= at {
			j++
		}
		u := math.Max(0, math.Min(1, (at-raw.T[j])/(raw.T[j+1]-raw.T[j])))
		mix := func(v []float64) float64 { return v[j] + u*(v[j+1]-v[j]) }
		x, y, z := mix(raw.VX), mix(raw.VY), mix(raw.VZ)
		s.speeds[i] = math.Sqrt(x*x + y*y + z*z)
	}
	s.own, s.pace, s.blur, s.window = true, own, 0, s.noise.step
	if z := quickNoise(raw.T, raw.VZ, 1, s.noise.step, scratch); z < s.sink {
		s.sink = z
	}
}

// agrees tells whether the speeds of a log lead from place to place: over
// seconds they come to what the places moved, within the noise and a tenth, in
// nine of ten seconds. Fewer than three seconds tell nothing. A receiver that
// reports the speed of something else, or in another frame, is found so.
func (s *steady) agrees(t *track.Track) bool {
	good, all, from := 0, 0, 0
	var dx, dy, dz float64
	for i := 1; i < t.Len(); i++ {
		dt := t.T[i] - t.T[i-1]
		dx, dy, dz = dx+dt*(t.VX[i]+t.VX[i-1])/2, dy+dt*(t.VY[i]+t.VY[i-1])/2, dz+dt*(t.VZ[i]+t.VZ[i-1])/2
		if t.T[i]-t.T[from] < 1 {
			continue
		}
		way := math.Sqrt(dx*dx + dy*dy + dz*dz)
		ex, ey, ez := t.X[i]-t.X[from]-dx, t.Y[i]-t.Y[from]-dy, t.Z[i]-t.Z[from]-dz
		all++
		if math.Sqrt(ex*ex+ey*ey+ez*ez) < 0.05+0.1*way+4*math.Max(s.noise.quick, s.noise.quickZ) {
			good++
		}
		from, dx, dy, dz = i, 0, 0, 0
	}
	return all >= 3 && 10*good >= 9*all
}
