package score

import (
	"math"
	"slices"

	"maestrale/core/drill"
	"maestrale/core/field"
)

const (
	doneClosed = 0.98 // of its laps from where it was joined
	doneOpen   = 0.90
	turnedBack = 0.15 // of the figure, flown backwards, is the other way round
	legWithin  = field.Angle(5 * math.Pi / 180)
	lookBack   = 0.2 // s between looking for a figure that is flown the other way
	freeJoin   = 2.0 // m within which a figure is joined whose way is not judged
)

// wayCriteria are the tolerances of a path, of the way to a place and of a stop that
// are judged; 0 is not.
type wayCriteria struct {
	cross, height, past, crossing, distance float64
	ratio, endRatio, seconds, rest          float64
	nose, aim, slope, legs                  field.Angle
	speed                                   [2]float64
}

// excursion is a time outside one tolerance: one fault for the whole of it.
type excursion struct {
	code  Code
	limit float64
	open  int
	out   bool
	last  float64
}

// see tells an excursion the error at the end of a segment; it began at from.
func (e *excursion) see(s *sampler, a, b point, v float64, toward func() string) {
	if e.limit <= 0 {
		return
	}
	if v > e.limit {
		if !e.out {
			f := 1.0
			if e.last < e.limit && v > e.last {
				f = (e.limit - e.last) / (v - e.last)
			}
			p := between(a, b, f)
			e.open = s.fault(Fault{TS: p.t, Code: e.code, Value: value(v), Limit: value(e.limit), Toward: toward(), At: &Place{p.x, p.y, p.z}})
			e.out = true
		}
		if w := s.res.Faults[e.open].Value; v > *w {
			*w = v
		}
	} else {
		e.out = false
	}
	e.last = v
}

// flownPoint is a sample of a figure that was flown: how far along, and how far off.
type flownPoint struct {
	point
	way, off, high, speed float64
	nose                  field.Angle
}

// flownWay is what a step of a way leaves behind for its metrics.
type flownWay struct {
	points      []flownPoint
	joined      float64 // along the figure
	rests       []float64
	past        float64 // beyond the place, of a goto
	settled     float64 // s from coming near to standing
	stopS, far  float64 // of a stop
	begun, done bool
	crossAt     *Place // where an eight crossed
	largeAt     *Place // the middle of its larger lobe
}

func (s *sampler) way() *flownWay {
	if s.ways == nil {
		s.ways = map[int]*flownWay{}
	}
	if s.ways[s.step] == nil {
		s.ways[s.step] = &flownWay{}
	}
	return s.ways[s.step]
}

func spotOf(p point) drill.Spot { return drill.Spot{X: p.x, Y: p.y, Z: p.z} }

// path flies along a figure: it is joined, followed by progress that never goes
// back, and done near its end.
func (s *sampler) path() {
	target, c := s.target(), s.judged[s.step].way
	f, w := target.Path, s.way()
	join := target.Limits.Cross
	if join <= 0 {
		join = freeJoin
	}
	total := f.Length
	if f.Closed {
		total *= float64(max(1, target.Laps))
	}
	a := s.from()
	kept := a.heading
	cross, high, nose := excursion{code: "cross-track", limit: c.cross}, excursion{code: Height, limit: c.height}, excursion{code: Nose, limit: c.nose.Deg()}
	if c.aim > 0 {
		nose.limit = c.aim.Deg()
	}
	progress, raw, net := 0.0, 0.0, 0.0
	order, looked := false, math.Inf(-1)
	w.points = make([]flownPoint, 0, s.t.Len()-s.i)
	rests := newRests(f.Corners)
	var due []answer
	for ; s.i < s.t.Len()-1; s.i++ {
		b := s.sample(s.i + 1)
		q := spotOf(b)
		if !w.begun {
			at, off := 0.0, f.Far(must(f.At(0)), q)
			if f.Closed && f.Shape != drill.Eight {
				at, off = f.Nearest(q, 0, f.Length)
			}
			if off <= join {
				w.begun, w.joined, raw = true, at, at
				// Between the samples it came within the tolerance.
				before := f.Far(must(f.At(at)), spotOf(a))
				u := 1.0
				if before > join && before > off {
					u = (before - join) / (before - off)
				}
				s.started(a.t + (b.t-a.t)*u)
			}
			a = b
			if !w.begun {
				s.timeOut(b.t)
				continue
			}
			kept = b.heading
			if owes(*target) {
				due = s.answers(s.start)
				s.owed = true
			}
		}
		if len(due) > 0 && b.t > due[0].at {
			if b.t <= due[0].to {
				s.timeOut(b.t)
				a = b
				continue
			}
			if due[0].due.End {
				w.done, s.owed = true, false
				s.finish(due[0].to)
				return
			}
			due = due[1:]
			s.owed = len(due) > 0
			for _, e := range []*excursion{&cross, &high, &nose} {
				e.out, e.last = false, e.limit
			}
		}
		here := w.joined + progress
		step := math.Abs(b.x-a.x) + math.Abs(b.y-a.y) + math.Abs(b.z-a.z)
		from, to := here-min(progress, join), here+3*join+2*step
		if f.Closed {
			// Not more than a third of the figure ahead: a lobe or a leg beside it is not flown yet.
			to = min(to, here+f.Length/3)
		}
		at, off := f.Nearest(q, from, to)
		progress = max(progress, at-w.joined)
		p := flownPoint{point: b, way: progress, off: off}
		var course field.Angle
		if f.Level && target.Heading.Kind != drill.Along && target.Heading.Kind != drill.Against {
			p.high = b.z - f.Height()
		} else {
			var spot drill.Spot
			spot, course = f.At(w.joined + progress)
			p.high = b.z - spot.Z
		}
		if target.RestS > 0 {
			p.speed, _ = s.speed(s.i + 1)
		}
		p.nose = s.noseOff(target, b, course, kept)
		w.points = append(w.points, p)
		if order { // the rest is all of another figure
			s.timeOut(b.t)
			a = b
			continue
		}
		cross.see(s, a, b, off, func() string {
			away, _ := f.At(at)
			return field.Direction(field.Point{X: b.x - away.X, Y: b.y - away.Y})
		})
		high.see(s, a, b, math.Abs(p.high), func() string {
			if p.high > 0 {
				return "up"
			}
			return "down"
		})
		nose.see(s, a, b, p.nose.Abs().Deg(), func() string {
			if p.nose > 0 {
				return "right"
			}
			return "left"
		})
		// The other way round, or the other lobe first.
		if !order && progress < 0.25*total && b.t-looked >= lookBack {
			looked = b.t
			if r, d := f.Nearest(q, 0, f.Length); d < 2*join {
				change := r - raw
				if f.Closed {
					change = math.Mod(change+1.5*f.Length, f.Length) - f.Length/2
				}
				if math.Abs(change) < f.Length/4 {
					net += change
				}
				raw = r
			}
			other := f.Shape == drill.Eight && progress < 0.1*f.Length && s.inOther(f, q, join)
			if net < -math.Max(turnedBack*f.Length, 2*join) || other {
				order = true
				s.forget("cross-track", Nose)
				s.fault(Fault{TS: b.t, Code: "order", At: &Place{b.x, b.y, b.z}, Toward: ""})
			}
		}
		if target.RestS > 0 {
			rests.see(a, b, w, f, join)
		}
		done := f.Closed && progress >= doneClosed*total
		if !f.Closed && progress > doneOpen*total {
			done = f.Far(must(f.At(f.Length)), q) <= join
		}
		if s.timeOut(b.t); done && !s.owed {
			w.done, w.rests = true, rests.best
			s.i++
			s.pathFaults(b.t)
			s.finish(b.t)
			return
		}
		a = b
	}
	w.rests = rests.best
	if w.begun {
		s.pathFaults(s.t.T[s.t.Len()-1])
	}
}

func must(s drill.Spot, _ field.Angle) drill.Spot { return s }

// noseOff is how far the nose is from the rule of a path at a point of it.
func (s *sampler) noseOff(target *drill.Target, b point, course, kept field.Angle) field.Angle {
	at := field.Point{X: b.x, Y: b.y}
	switch rule := target.Heading; rule.Kind {
	case drill.Free:
		return 0
	case drill.Along, drill.Against, drill.Subject:
		var aim field.Angle
		if rule.Kind == drill.Subject {
			aim = field.Bearing(target.Subject.Sub(at))
		}
		want, _ := rule.OfPath(course, aim)
		return (b.heading - want).Wrap()
	default:
		var seen field.Angle
		if rule.Kind == drill.Sight {
			seen = field.Bearing(at.Sub(s.task.Station))
		}
		return rule.Deviation(b.heading, seen, kept)
	}
}

// forget takes back faults of the current step: they follow from another one.
func (m *machine) forget(codes ...Code) {
	m.res.Faults = slices.DeleteFunc(m.res.Faults, func(f Fault) bool { return f.Step == m.step && slices.Contains(codes, f.Code) })
}

// inOther is whether the craft is well into the lobe that should come second.
func (s *sampler) inOther(f *drill.Figure, q drill.Spot, join float64) bool {
	_, own := f.Nearest(q, 0, f.Parts[0])
	at, other := f.Nearest(q, f.Parts[0], f.Parts[1])
	into := math.Min(at-f.Parts[0], f.Parts[1]-at)
	return other < own-join && into > 0.2*(f.Parts[1]-f.Parts[0])
}

// restClock times the rests at the corners of a line.
type restClock struct {
	corners []float64
	best    []float64
	now     []float64 // when the rest at each began, NaN
	last    float64   // speed at the sample before
}

func newRests(corners []float64) *restClock {
	r := &restClock{corners: corners, best: make([]float64, len(corners)), now: make([]float64, len(corners))}
	for i := range r.now {
		r.now[i] = math.NaN()
	}
	return r
}

// see follows the newest point: at rest within reach of a corner its time runs,
// with the moments at which the speed passed the threshold interpolated.
func (r *restClock) see(a, b point, w *flownWay, f *drill.Figure, reach float64) {
	p := &w.points[len(w.points)-1]
	for i, c := range r.corners {
		near := f.Far(must(f.At(c)), spotOf(b)) <= reach
		switch resting := near && p.speed < restSpeed; {
		case resting && math.IsNaN(r.now[i]):
			u := 1.0
			if r.last > restSpeed {
				u = (r.last - restSpeed) / (r.last - p.speed)
			}
			r.now[i] = a.t + (b.t-a.t)*u
		case !resting && !math.IsNaN(r.now[i]):
			u := 0.0
			if near && p.speed > r.last {
				u = (restSpeed - r.last) / (p.speed - r.last)
			}
			r.best[i] = math.Max(r.best[i], a.t+(b.t-a.t)*u-r.now[i])
			r.now[i] = math.NaN()
		}
		if !math.IsNaN(r.now[i]) {
			r.best[i] = math.Max(r.best[i], b.t-r.now[i])
		}
	}
	r.last = p.speed
}

// pathFaults notes what shows only over the whole of a figure: its speed, its rests
// and its form.
func (s *sampler) pathFaults(t float64) {
	i := s.step
	target, c, w := s.target(), s.judged[i].way, s.ways[i]
	met := s.res.Steps[i].Metrics
	note := func(code Code, v, limit float64, passed bool) {
		if limit > 0 && passed {
			f := Fault{TS: t, Code: code, Value: value(v), Limit: value(limit)}
			switch code {
			case "uneven":
				f.At = w.largeAt
			case "crossing":
				f.At = w.crossAt
			}
			s.fault(f)
		}
	}
	s.measurePath(i)
	if v, ok := met["speed_mean_mps"]; ok && c.speed[1] > 0 {
		limit := c.speed[0]
		if v > c.speed[1] {
			limit = c.speed[1]
		}
		note(Speed, v, limit, v < c.speed[0] || v > c.speed[1])
	}
	if target.RestS > 0 {
		for k, rest := range w.rests {
			at := must(target.Path.At(target.Path.Corners[k]))
			if rest < c.rest && (w.done || s.passed(w, target.Path.Corners[k])) {
				s.fault(Fault{TS: t, Code: "rest", Value: value(rest), Limit: value(c.rest), At: &Place{at.X, at.Y, at.Z}})
			}
		}
	}
	for _, m := range []struct {
		code  Code
		name  string
		limit float64
	}{{"uneven", "radius_ratio", c.ratio}, {"crossing", "crossing_m", c.crossing}, {"uneven", "end_ratio", c.endRatio}, {"angle", "legs_angle_deg", c.legs.Deg()}, {"angle", "angle_deg", c.slope.Deg()}} {
		if v, ok := met[m.name]; ok {
			note(m.code, v, m.limit, v > m.limit)
		}
	}
}

// passed is whether the craft has gone on past a place of the figure.
func (s *sampler) passed(w *flownWay, at float64) bool {
	return len(w.points) > 0 && w.points[len(w.points)-1].way > at+0.5
}

// chord is the time over which a speed along a figure is taken, s: the noise of a log
// would lengthen the way from sample to sample.
const chord = 0.5

// wayShares fills in what is measured of a way and returns the shares of its limits.
func (s *sampler) wayShares(i int, share func(v, limit float64)) {
	target, c, w, met := s.task.Steps[i], s.judged[i].way, s.ways[i], s.res.Steps[i].Metrics
	if w == nil || !w.begun {
		return
	}
	switch target.Kind {
	case drill.Stop:
		if w.done {
			met["stop_s"], met["stop_m"] = w.stopS, w.far
			share(w.stopS, c.seconds)
			share(w.far, c.distance)
		}
		return
	case drill.GoTo:
		sum, time, most, nose := 0.0, 0.0, 0.0, field.Angle(0)
		for k := range w.points {
			p := &w.points[k]
			most, nose = math.Max(most, p.off), max(nose, p.nose.Abs())
			if k > 0 {
				dt := p.t - w.points[k-1].t
				sum, time = sum+dt*p.off*p.off, time+dt
			}
		}
		if time > 0 {
			met["cross_rms_m"], met["cross_max_m"] = math.Sqrt(sum/time), most
		}
		met["overshoot_m"] = w.past
		if target.RestS > 0 && w.done {
			met["settle_s"] = w.settled
		}
		if c.nose > 0 {
			met["nose_max_deg"] = nose.Deg()
		}
		share(most, c.cross)
		share(w.past, c.past)
		share(float64(nose), float64(c.nose))
		return
	}
	share(met["cross_max_m"], c.cross)
	share(met["height_max_m"], c.height)
	share(field.Degrees(met["nose_max_deg"]).Deg(), c.nose.Deg())
	share(met["aim_deg"], c.aim.Deg())
	if v, ok := met["speed_mean_mps"]; ok && c.speed[1] > 0 {
		mid, half := (c.speed[0]+c.speed[1])/2, (c.speed[1]-c.speed[0])/2
		share(math.Abs(v-mid), half)
	}
	if v, ok := met["radius_ratio"]; ok && c.ratio > 1 {
		share(v-1, c.ratio-1)
	}
	if v, ok := met["end_ratio"]; ok && c.endRatio > 1 {
		share(v-1, c.endRatio-1)
	}
	share(met["crossing_m"], c.crossing)
	share(met["legs_angle_deg"], c.legs.Deg())
	share(met["angle_deg"], c.slope.Deg())
	if c.rest > 0 {
		if v, ok := met["rest_s"]; ok && v < c.rest {
			share(c.rest, math.Max(v, 0.01))
		}
	}
}
