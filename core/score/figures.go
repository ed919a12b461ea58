package score

import (
	"math"

	"maestrale/core/drill"
	"maestrale/core/field"
)

// What a figure came to is measured after it was flown, on the points that
// path.go kept: circles are fitted to lobes and ends, lines to legs and
// diagonals, and their sizes and angles are compared with what was asked.

// measurePath fills in the metrics of step i, a path, from the points that were
// flown of it: how far off it, how high, how fast, and what the form of the
// figure came to. A path of fewer than two points, or without duration, has
// none.
func (s *sampler) measurePath(i int) {
	target, w := s.task.Steps[i], s.ways[i]
	met := s.res.Steps[i].Metrics
	if w == nil || len(w.points) < 2 {
		return
	}
	var sum, most, high, time float64
	var nose field.Angle
	for k := 1; k < len(w.points); k++ {
		a, b := &w.points[k-1], &w.points[k]
		dt := b.t - a.t
		// Off is linear between samples, so its square integrates to dt·(a² +
		// ab + b²)/3.
		sum += dt * (a.off*a.off + a.off*b.off + b.off*b.off) / 3
		time += dt
	}
	for k := range w.points {
		p := &w.points[k]
		most, high, nose = max(most, p.off), max(high, math.Abs(p.high)), max(nose, p.nose.Abs())
	}
	if time <= 0 {
		return
	}
	met["cross_rms_m"], met["cross_max_m"], met["height_max_m"] = math.Sqrt(sum/time), most, high
	if mean, cv, ok := w.speeds(); ok {
		met["speed_mean_mps"], met["speed_cv"] = mean, cv
	}
	if target.Heading.Kind != drill.Free && s.t.Heading != nil {
		// An orbit is about the picture: its nose is held against the subject,
		// and the figure has that name.
		name := "nose_max_deg"
		if target.Path.Shape == drill.Orbit {
			name = "aim_deg"
		}
		met[name] = nose.Deg()
	}
	switch f := target.Path; f.Shape {
	case drill.Eight:
		s.measureEight(f, w, met)
	case drill.Oval:
		measureOval(f, w, met, s.task.Station)
	// All laps are fitted together: what the pilot drew is one circle.
	case drill.Circle, drill.Orbit:
		if c, r, ok := circleFit(w.flat(0, math.Inf(1))); ok {
			met["radius_m"], met["centre_off_m"] = r, c.Dist(f.Centre)
		}
	case drill.Slant:
		measureSlant(f, w, met)
	}
	// The shortest rest is the one that is judged.
	if target.RestS > 0 && len(w.rests) > 0 {
		least := math.Inf(1)
		for _, r := range w.rests {
			least = math.Min(least, r)
		}
		met["rest_s"] = least
		s.res.Steps[i].Rests = append([]float64(nil), w.rests...)
	}
}

// speeds returns the mean speed in m/s, the way over the time, and the
// coefficient of variation: the standard deviation of the chord speeds over
// their mean. ok is false for fewer than two chords.
func (w *flownWay) speeds() (mean, cv float64, ok bool) {
	var n, sum, square, way, time float64
	a := &w.points[0]
	for k := 1; k < len(w.points); k++ {
		b := &w.points[k]
		dt := b.t - a.t
		// Up to the next point that is a chord away; the one after it begins
		// there.
		if dt < chord {
			continue
		}
		d := math.Sqrt((b.x-a.x)*(b.x-a.x) + (b.y-a.y)*(b.y-a.y) + (b.z-a.z)*(b.z-a.z))
		way, time = way+d, time+dt
		n, sum, square = n+1, sum+d/dt, square+d/dt*d/dt
		a = b
	}
	if n < 2 || sum <= 0 {
		return 0, 0, false
	}
	m := sum / n
	return way / time, math.Sqrt(math.Max(0, square/n-m*m)) / m, true
}

// flat returns the places, over the ground, of all points whose way along the
// figure lies from from to to, in metres; nil where there is none.
func (w *flownWay) flat(from, to float64) []field.Point {
	var out []field.Point
	for k := range w.points {
		if p := &w.points[k]; p.way >= from && p.way <= to {
			out = append(out, field.Point{X: p.x, Y: p.y})
		}
	}
	return out
}

// measureEight fits a circle to each lobe, over all laps, and finds where the
// flown lines cross: where the diagonals do or, where the lobes touch and there
// are no diagonals, the place between them. It writes the radii, their ratio,
// the gap, the crossing and its angle into met. A lobe that no circle fits
// leaves its figures out.
func (s *sampler) measureEight(f *drill.Figure, w *flownWay, met map[string]float64) {
	var lobes, diagonals [2][]field.Point
	// Near the crossing a lobe and a diagonal run into each other; what lies
	// within margin of it is fitted to neither.
	margin := f.Diagonal + 0.06*(f.Length-4*f.Diagonal)
	for k := range w.points {
		p := &w.points[k]
		// Every lap lies on top of the first; the diagonals are read off the
		// first lap alone, whose crossing is judged.
		lap := p.way - f.Length*math.Floor(p.way/f.Length)
		at := field.Point{X: p.x, Y: p.y}
		switch {
		case lap > margin && lap < f.Parts[0]-margin:
			lobes[0] = append(lobes[0], at)
		case lap > f.Parts[0]+margin && lap < f.Length-margin:
			lobes[1] = append(lobes[1], at)
		case lap < 0.8*f.Diagonal && p.way < f.Length:
			diagonals[0] = append(diagonals[0], at)
		case math.Abs(lap-f.Parts[0]) < 0.8*f.Diagonal && p.way < f.Length:
			diagonals[1] = append(diagonals[1], at)
		}
	}
	c1, r1, ok1 := circleFit(lobes[0])
	c2, r2, ok2 := circleFit(lobes[1])
	if ok1 {
		met["lobe1_radius_m"] = r1
	}
	if ok2 {
		met["lobe2_radius_m"] = r2
	}
	if !ok1 || !ok2 {
		return
	}
	d := c1.Dist(c2)
	// A fault of uneven lobes is drawn at the larger one.
	w.largeAt = &Place{c1.X, c1.Y, f.Height()}
	if r2 > r1 {
		w.largeAt = &Place{c2.X, c2.Y, f.Height()}
	}
	met["radius_ratio"], met["lobe_gap_m"] = math.Max(r1, r2)/math.Min(r1, r2), d-r1-r2
	w.measureCrossing(f, met, c1, r1, c2, r2, diagonals)
}

// measureCrossing writes where an eight crossed and at which angle, and how far
// from its centre that is. The lobes are circles round c1 and c2 with the radii r1
// and r2; without diagonals they touch.
func (w *flownWay) measureCrossing(f *drill.Figure, met map[string]float64, c1 field.Point, r1 float64,
	c2 field.Point, r2 float64, diagonals [2][]field.Point) {
	d := c1.Dist(c2)
	if f.Diagonal < 1e-6 {
		// The lobes' gap, or overlap, is shared between them: the crossing is
		// its middle.
		u := (r1 + (d-r1-r2)/2) / d
		at := field.Point{X: c1.X + (c2.X-c1.X)*u, Y: c1.Y + (c2.Y-c1.Y)*u}
		met["crossing_m"] = at.Dist(f.Centre)
		w.crossAt = &Place{at.X, at.Y, f.Height()}
		// Two circles cross at the angle between their tangents; apart they do not.
		met["crossing_angle_deg"] = 180 - field.Angle(math.Acos(math.Max(-1, math.Min(1, (r1*r1+r2*r2-d*d)/(2*r1*r2))))).Deg()
		return
	}
	at1, course1, ok1 := lineFit(diagonals[0])
	at2, course2, ok2 := lineFit(diagonals[1])
	if turn := (course2 - course1).Wrap(); ok1 && ok2 && turn.Abs() > 0.1 {
		met["crossing_angle_deg"] = turn.Abs().Deg()
		// How far along the first line the second one lies.
		sin2, cos2 := math.Sincos(float64(course2))
		sin1, cos1 := math.Sincos(float64(course1))
		u := ((at2.X-at1.X)*cos2 - (at2.Y-at1.Y)*sin2) / (sin1*cos2 - cos1*sin2)
		w.crossAt = &Place{at1.X + u*sin1, at1.Y + u*cos1, f.Height()}
		met["crossing_m"] = math.Hypot(w.crossAt.X-f.Centre.X, w.crossAt.Y-f.Centre.Y)
	}
}

// measureOval finds the two legs of an oval, each the stretch whose course is
// within legWithin of its own line, and fits circles to the two ends. It writes
// the length of the near and the far leg, the angle between them and the ratio
// of the ends. station tells which leg is the near one.
func measureOval(f *drill.Figure, w *flownWay, met map[string]float64, station field.Point) {
	half := f.Length / 2
	// Along the figure from its first corner: near leg, right end, far leg, left end.
	part := func(way float64) float64 { return math.Mod(way+w.joined, f.Length) }
	var legs [2]leg
	for n, from := range [2]float64{0, half} {
		var run []flownPoint
		for k := range w.points {
			// A leg that was flown too long reaches into the ends: look a third
			// of an end farther on both sides.
			if at := part(w.points[k].way); at >= from-0.35*(half-f.Legs) && at <= from+f.Legs+0.35*(half-f.Legs) {
				run = append(run, w.points[k])
			}
		}
		legs[n] = legOf(run, from, f.Legs, part)
	}
	names := [2]string{"near_leg_m", "far_leg_m"}
	// The figure counts its legs from its first corner, an instructor by how
	// near they are.
	if legs[0].ok && legs[1].ok && legs[1].middle.Dist(station) < legs[0].middle.Dist(station) {
		names[0], names[1] = names[1], names[0]
	}
	for n := range legs {
		if legs[n].ok {
			met[names[n]] = legs[n].length
		}
	}
	if legs[0].ok && legs[1].ok {
		// The legs are flown in opposite directions: parallel ones differ by
		// 180°.
		d := (legs[0].course - legs[1].course).Wrap().Abs()
		met["legs_angle_deg"] = math.Min(d.Deg(), 180-d.Deg())
	}
	var ends [2][]field.Point
	for k := range w.points {
		p := &w.points[k]
		switch at := part(p.way); {
		// The ends without their first and last twelfth, where a leg runs into
		// them.
		case at > f.Legs+0.08*half && at < half-0.08*half:
			ends[0] = append(ends[0], field.Point{X: p.x, Y: p.y})
		case at > half+f.Legs+0.08*half && at < f.Length-0.08*half:
			ends[1] = append(ends[1], field.Point{X: p.x, Y: p.y})
		}
	}
	_, r1, ok1 := circleFit(ends[0])
	_, r2, ok2 := circleFit(ends[1])
	if ok1 && ok2 {
		met["end_ratio"] = math.Max(r1, r2) / math.Min(r1, r2)
	}
}

// leg is a straight stretch that was flown: its course, its length in metres
// and its middle. ok is false where no line fits.
type leg struct {
	course field.Angle
	length float64
	middle field.Point
	ok     bool
}

// legOf finds the leg in run, the points that were flown around a leg of the
// figure. It begins with the line through the middle three fifths, and then
// takes the points whose course is within legWithin of the line, until the line
// changes no more. from and legs are where the leg begins along the figure and
// how long it is; part says where on it a point lies.
func legOf(run []flownPoint, from, legs float64, part func(float64) float64) (l leg) {
	var middle []field.Point
	for k := range run {
		if at := part(run[k].way); at >= from+0.2*legs && at <= from+0.8*legs {
			middle = append(middle, field.Point{X: run[k].x, Y: run[k].y})
		}
	}
	at, course, ok := lineFit(middle)
	if !ok {
		return l
	}
	// Four rounds are enough; the second hardly ever changes anything.
	for range 4 {
		var on []field.Point
		low, high := math.Inf(1), math.Inf(-1)
		// The course at a point is taken over two points on either side:
		// between neighbours noise would turn it.
		for k := 2; k+2 < len(run); k++ {
			d := field.Point{X: run[k+2].x - run[k-2].x, Y: run[k+2].y - run[k-2].y}
			p := field.Point{X: run[k].x, Y: run[k].y}
			if math.Hypot(d.X, d.Y) < 1e-6 || (field.Bearing(d)-course).Wrap().Abs() > legWithin {
				continue
			}
			on = append(on, p)
			low, high = math.Min(low, along(at, course, p)), math.Max(high, along(at, course, p))
		}
		a2, c2, ok := lineFit(on)
		if !ok {
			return l
		}
		same := (c2 - course).Wrap().Abs() < 1e-4
		at, course = a2, c2
		l = leg{course, high - low, at, true}
		if same {
			break
		}
	}
	return l
}

// measureSlant fits the slope of a slant between a tenth and nine tenths of it,
// where neither the start nor the stop bends it. It writes the angle that was
// flown and its difference from the angle asked, in degrees.
func measureSlant(f *drill.Figure, w *flownWay, met map[string]float64) {
	a, b := spotAt(f, 0), spotAt(f, f.Length)
	// own is the angle that the figure asks for.
	own := field.Angle(math.Atan2(b.Z-a.Z, math.Hypot(b.X-a.X, b.Y-a.Y)))
	var way, z []float64
	at, course := a.Flat(), field.Bearing(b.Flat().Sub(a.Flat()))
	for k := range w.points {
		if p := &w.points[k]; p.way > 0.1*f.Length && p.way < 0.9*f.Length {
			way, z = append(way, along(at, course, field.Point{X: p.x, Y: p.y})), append(z, p.z)
		}
	}
	if slope, ok := slopeFit(way, z); ok {
		met["flown_angle_deg"], met["angle_deg"] = slope.Deg(), (slope - own).Abs().Deg()
	}
}
