package score

import (
	"math"
	"slices"

	"maestrale/core/drill"
	"maestrale/core/field"
)

// A figure is followed by progress: how far along it the craft has come since
// it joined it. Progress never goes back. At every sample the nearest place on
// the figure is looked for in a window around the progress only, so that a lobe
// or a leg that lies beside the one being flown does not attract it. How far
// off that place the craft is, is the deviation that limits hold; what shows
// only over the whole figure, its form and its mean speed, is judged as it
// ends.

const (
	doneClosed = 0.98 // of its laps from where it was joined
	doneOpen   = 0.90
	turnedBack = 0.15 // of the figure, flown backwards, is the other way round
	legWithin  = field.Angle(5 * math.Pi / 180)
	lookBack   = 0.2 // s between looking for a figure that is flown the other way
	freeJoin   = 2.0 // m within which a figure is joined whose way is not judged
)

// wayCriteria are the tolerances of a path, of the way to a place and of a stop
// that the log can judge; 0 is not judged. Distances are in metres, ratios
// above 1, speed is the band in m/s from and to.
type wayCriteria struct {
	cross, height, past, crossing, distance float64
	from                                    float64 // m/s at which a stop begins at least
	ratio, endRatio, seconds, rest          float64
	nose, aim, slope, legs                  field.Angle
	speed                                   [2]float64
}

// excursion is the time for which the craft is outside one tolerance: it is one
// fault, however long it lasts, with its largest value.
type excursion struct {
	code  Code
	limit float64 // over which it is a fault
	own   float64 // the limit as it is said, where noise makes the other wider; 0 else
	// open is the index of its fault, and out whether it goes on.
	open int
	out  bool
	// last is the error at the sample before, in the unit of limit.
	last float64
}

// see tells an excursion the error v at the end of the segment from a to b. It
// begins where the error passed the limit, interpolated between the samples;
// toward names the direction, and is asked only then.
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
			said := e.limit
			if e.own > 0 {
				said = e.own
			}
			e.open = s.fault(Fault{TS: p.t, Code: e.code, Value: value(v), Limit: value(said), Toward: toward(),
				At: &Place{p.x, p.y, p.z}})
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

// flownPoint is a sample of a figure, or of a way, that was flown: way is how
// far along it in metres, off how far from it over the ground, high how far
// above it, speed in m/s where a rest may be asked, and nose how far off its
// rule.
type flownPoint struct {
	point
	way, off, high, speed float64
	nose                  field.Angle
}

// flownWay is what a step of a path, of a way to a place or of a stop leaves
// behind for its metrics.
type flownWay struct {
	points   []flownPoint
	joined   float64   // along the figure
	rests    []float64 // longest at each corner, and what it may have been
	restsMay []float64
	// Of a way to a place: how far beyond the place the craft came, and how far
	// off its height, in metres.
	past, high float64 // beyond the place and off the height, of a goto
	settled    float64 // s from coming near to standing
	// Of a stop: seconds from the call to standing, and metres from there.
	stopS, far  float64 // of a stop
	came        float64 // m/s, just before it
	begun, done bool
	speedHidden bool   // noise hides whether the speed was kept
	restHidden  bool   // noise hides whether a rest was long enough
	crossAt     *Place // where an eight crossed
	largeAt     *Place // the middle of its larger lobe
}

// way returns what the current step leaves behind, made at its first use.
func (s *sampler) way() *flownWay {
	if s.ways == nil {
		s.ways = map[int]*flownWay{}
	}
	if s.ways[s.step] == nil {
		s.ways[s.step] = &flownWay{}
	}
	return s.ways[s.step]
}

// spotOf is the place of a point.
func spotOf(p point) drill.Spot { return drill.Spot{X: p.x, Y: p.y, Z: p.z} }

// figureRun is a figure as it is being flown: where along it the craft is, what
// is held against the samples, and what is awaited.
type figureRun struct {
	*sampler
	target *drill.Target
	f      *drill.Figure
	w      *flownWay
	// join is how near the figure the craft has to be to be at it, total how
	// far it has to be flown, both in metres.
	join, total       float64
	kept              field.Angle // heading with which it was begun
	cross, high, nose excursion
	progress          float64 // along the figure from where it was joined, never back
	raw, net, looked  float64 // where it was at the last look for the other way round, how far it went, when
	order             bool
	rests             *restClock
	due               []answer
}

// path follows a figure from where it was begun. The craft's progress along it
// never goes back, so that a wobble is no return; the figure is done near its
// end. What is to happen on the way is looked for first. A log in which the
// figure was never begun leaves the step undone.
func (s *sampler) path() {
	target, c := s.target(), s.judged[s.step].way
	s.from()
	join := s.joinWithin(target)
	start, ok := s.figureStart(target, join)
	if !ok {
		s.i = s.t.Len() - 1
		return
	}
	// From here on everything is counted from where the figure was joined.
	a := s.sample(start.i)
	r := &figureRun{sampler: s, target: target, f: target.Path, w: s.way(), join: join, total: target.Path.Length,
		kept:  a.heading,
		cross: excursion{code: CrossTrack, limit: c.cross, own: target.Limits.Cross}, high: excursion{code: Height,
			limit: c.height, own: target.Limits.Height},
		nose: excursion{code: Nose, limit: c.nose.Deg(),
			own: target.Limits.Nose.Deg()}, progress: start.progress, raw: start.joined +
			start.progress, looked: math.Inf(-1), rests: s.newRests(target.Path.Corners)}
	if c.aim > 0 {
		r.nose.limit, r.nose.own = c.aim.Deg(), target.Limits.Aim.Deg()
	}
	if r.f.Closed {
		r.total *= float64(max(1, target.Laps))
	}
	r.w.begun, r.w.joined = true, start.joined
	r.w.points = make([]flownPoint, 0, s.t.Len()-start.i)
	s.started(a.t)
	if asksResponse(*target) {
		r.due = s.answers(s.start)
		s.awaitingResponse = true
	}
	step := s.step
	for k := start.i; k < s.t.Len(); k++ {
		b := s.sample(k)
		s.i = k - 1
		// While an answer is awaited time passes, and nothing is asked of the
		// path.
		switch waits := r.waits(b); {
		case s.step != step:
			return
		case waits:
			s.timeOut(b.t)
		case r.see(a, b, k):
			return
		}
		a = b
	}
	s.i = s.t.Len() - 1
	r.w.rests, r.w.restsMay = r.rests.best()
	s.pathFaults(s.t.T[s.t.Len()-1])
}

// joinWithin is how near a figure the craft has to come to be at it, in metres:
// the tolerance across the line, or freeJoin where that is not judged.
func (s *sampler) joinWithin(target *drill.Target) float64 {
	if target.Limits.Cross <= 0 {
		return freeJoin
	}
	return math.Max(target.Limits.Cross, s.reach)
}

// waits tells whether the answer to what happened is still awaited at b:
// meanwhile nothing is asked of the path. It ends the step where the drill says
// that the answer does.
func (r *figureRun) waits(b point) bool {
	if len(r.due) == 0 || b.t <= r.due[0].at {
		return false
	}
	if b.t <= r.due[0].to {
		return true
	}
	if r.due[0].due.End {
		r.w.done, r.awaitingResponse = true, false
		r.finish(r.due[0].to)
		return false
	}
	r.due = r.due[1:]
	r.awaitingResponse = len(r.due) > 0
	// What the answer carried off the path is not held against it: an excursion
	// begins anew.
	for _, e := range []*excursion{&r.cross, &r.high, &r.nose} {
		e.out, e.last = false, e.limit
	}
	return false
}

// see takes in the segment from a to b, which is sample k: progress,
// deviations, direction, rests. It returns true when that ends the figure.
func (r *figureRun) see(a, b point, k int) bool {
	q := spotOf(b)
	// The place on the figure is looked for from a little behind the progress
	// to as far as the craft can have come.
	here := r.w.joined + r.progress
	step := math.Abs(b.x-a.x) + math.Abs(b.y-a.y) + math.Abs(b.z-a.z)
	from, to := here-min(r.progress, r.join), here+3*r.join+2*step
	if r.f.Closed {
		// Not more than a third of the figure ahead: a lobe or a leg beside it
		// is not flown yet.
		to = min(to, here+r.f.Length/3)
	}
	at, off := r.f.Nearest(q, from, to)
	r.progress = max(r.progress, at-r.w.joined)
	p := flownPoint{point: b, way: r.progress, off: off}
	var course field.Angle
	// A level figure has one height, and a nose that does not follow it needs
	// no course: looking the place up is what takes time here.
	if r.f.Level && r.target.Heading.Kind != drill.Along && r.target.Heading.Kind != drill.Against {
		p.high = b.z - r.f.Height()
	} else {
		var spot drill.Spot
		spot, course = r.f.At(r.w.joined + r.progress)
		p.high = b.z - spot.Z
	}
	if r.target.RestS > 0 {
		p.speed, _ = r.speed(k)
	}
	p.nose = r.noseOff(r.target, b, course, r.kept)
	r.w.points = append(r.w.points, p)
	if r.order { // the rest is all of another figure
		r.timeOut(b.t)
		return false
	}
	r.cross.see(r.sampler, a, b, off, func() string { return offToward(r.f, at, q) })
	r.high.see(r.sampler, a, b, math.Abs(p.high), func() string { return upOrDown(p.high) })
	r.nose.see(r.sampler, a, b, p.nose.Abs().Deg(), func() string { return leftOrRight(p.nose) })
	r.otherWay(b, q)
	if r.target.RestS > 0 {
		r.rests.see(a, b, p.speed, r.f, r.join)
	}
	// A closed figure is done by its progress; an open one when the craft has
	// also come to its end.
	done := r.f.Closed && r.progress >= doneClosed*r.total-r.reach
	if !r.f.Closed && r.progress > doneOpen*r.total-r.reach {
		done = r.f.Far(spotAt(r.f, r.f.Length), q) <= r.join
	}
	if r.timeOut(b.t); !done || r.awaitingResponse {
		return false
	}
	r.w.done = true
	r.w.rests, r.w.restsMay = r.rests.best()
	r.i = k
	r.pathFaults(b.t)
	r.finish(b.t)
	return true
}

// offToward is the direction in which the place q lies off a figure whose
// nearest place is at metres along it; up or down where the figure climbs and
// the height is what is wrong.
func offToward(f *drill.Figure, at float64, q drill.Spot) string {
	on := spotAt(f, at)
	if up := q.Z - on.Z; !f.Level && math.Abs(up) > math.Hypot(q.X-on.X, q.Y-on.Y) {
		return upOrDown(up)
	}
	return field.Direction(field.Point{X: q.X - on.X, Y: q.Y - on.Y})
}

// otherWay looks, in the first quarter, whether the figure is flown the other
// way round or the other lobe first. That is one fault, and takes back those of
// the line and the nose: they only follow from it.
func (r *figureRun) otherWay(b point, q drill.Spot) {
	if r.order || r.progress >= 0.25*r.total || b.t-r.looked < lookBack {
		return
	}
	r.looked = b.t
	// Only near the figure does a place on it mean anything.
	if at, d := r.f.Nearest(q, 0, r.f.Length); d < 2*r.join {
		r.net += shortWay(r.f, at, r.raw)
		r.raw = at
	}
	other := r.f.Shape == drill.Eight && r.progress < 0.1*r.f.Length && r.inOther(r.f, q, r.join)
	if r.net < -math.Max(turnedBack*r.f.Length, 2*r.join) || other {
		r.order = true
		r.forget(CrossTrack, Nose)
		r.fault(Fault{TS: b.t, Code: Order, At: &Place{b.x, b.y, b.z}, Toward: ""})
	}
}

// noseOff is how far the nose at b is off the rule of a path, positive to the
// right. course is that of the path there and kept the heading with which it
// was begun.
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

// forget takes back the faults of the current step that have one of these
// codes.
func (m *machine) forget(codes ...Code) {
	m.res.Faults = slices.DeleteFunc(m.res.Faults, func(f Fault) bool {
		return f.Step == m.step && slices.Contains(codes,
			f.Code)
	})
}

// inOther tells whether the craft is well into the lobe of an eight that should
// come second: nearer to it than to the first, and a fifth of the lobe from
// both of its ends.
func (s *sampler) inOther(f *drill.Figure, q drill.Spot, join float64) bool {
	_, own := f.Nearest(q, 0, f.Parts[0])
	at, other := f.Nearest(q, f.Parts[0], f.Parts[1])
	into := math.Min(at-f.Parts[0], f.Parts[1]-at)
	return other < own-join && into > 0.2*(f.Parts[1]-f.Parts[0])
}

// restClock times the rests at the corners of a line, each by its place along
// the line.
type restClock struct {
	corners []float64
	at      []rests
}

// newRests returns a clock for corners, which lie so many metres along.
func (s *sampler) newRests(corners []float64) *restClock {
	r := &restClock{corners: corners, at: make([]rests, len(corners))}
	for i := range r.at {
		r.at[i] = s.newRest()
	}
	return r
}

// see follows the newest segment: at rest within reach of a corner, the time of
// that corner runs. The moments at which the speed passed the threshold are
// interpolated.
func (r *restClock) see(a, b point, speed float64, f *drill.Figure, reach float64) {
	for i, c := range r.corners {
		r.at[i].see(a.t, b.t, speed, f.Far(spotAt(f, c), spotOf(b)) <= reach)
	}
}

// best returns the longest rest at each corner in seconds, and the longest that
// it may have been within the noise.
func (r *restClock) best() (sure, may []float64) {
	for i := range r.at {
		sure, may = append(sure, r.at[i].sure.longest), append(may, r.at[i].may.longest)
	}
	return sure, may
}

// pathFaults notes, at t, what shows only over the whole of a figure: its mean
// speed, its rests and its form.
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
	if v, ok := met["speed_mean_mps"]; ok && c.speed[1] > 0 && (v < c.speed[0] || v > c.speed[1]) {
		limit := c.speed[0]
		if v > c.speed[1] {
			limit = c.speed[1]
			// Within the reach of noise the log cannot tell whether the band was
			// left.
		}
		if reach := s.speedReach(i); math.Abs(v-limit) > reach {
			note(Speed, v, limit, true)
		} else {
			w.speedHidden = true
			s.hidden(i, "speed_mean_mps", reach/most, limit, "m/s")
		}
	}
	if target.RestS > 0 {
		for k, rest := range w.rests {
			at := spotAt(target.Path, target.Path.Corners[k])
			// A corner that the craft has not come to yet lacks no rest.
			if rest >= c.rest || (!w.done && !s.passed(w, target.Path.Corners[k])) {
				continue
			}
			if s.noisy && w.restsMay[k] >= math.Max(0.3*c.rest, c.rest-2*s.blur) {
				w.restHidden = true
				s.hidden(i, "rest_s", s.pace, drill.RestMps, "m/s")
			} else {
				s.fault(Fault{TS: t, Code: Rest, Value: value(rest), Limit: value(c.rest), At: &Place{at.X, at.Y, at.Z}})
			}
		}
	}
	for _, m := range []struct {
		code  Code
		name  string
		limit float64
	}{{Uneven, "radius_ratio", c.ratio}, {Crossing, "crossing_m", c.crossing}, {Uneven, "end_ratio",
		c.endRatio}, {AngleOff, "legs_angle_deg", c.legs.Deg()}, {AngleOff, "angle_deg", c.slope.Deg()}} {
		if v, ok := met[m.name]; ok {
			note(m.code, v, m.limit, v > m.limit)
		}
	}
}

// speedReach is as far as noise alone takes the mean speed along the figure of
// step i, in m/s: both ends of the way are uncertain, and with them where the
// figure is taken to end. It is 0 in a fine log, and infinite where the figure
// is no longer than four times the reach of the noise.
func (s *sampler) speedReach(i int) float64 {
	sp := s.spans[i]
	to := s.t.T[min(s.i, s.t.Len()-1)]
	if !s.noisy || to <= sp.from {
		return 0
	}
	if total := s.task.Steps[i].Path.Length; 4*s.reach > total {
		return math.Inf(1) // it may have been taken to end long before it did
	}
	return 2 * s.reach / (to - sp.from)
}

// passed tells whether the craft has gone on past a place of the figure, by
// half a metre.
func (s *sampler) passed(w *flownWay, at float64) bool {
	return len(w.points) > 0 && w.points[len(w.points)-1].way > at+0.5
}
