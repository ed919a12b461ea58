package score

import (
	"errors"
	"fmt"
	"math"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/track"
)

// Track scores a sampled flight against a task. Between samples the craft is
// taken to move in a straight line, and the nose to turn evenly the short way.
// src is FromLog or Sim; only a log has errors, and so a likelihood. A track
// with fewer than two samples, or one that lies far from the course, is an
// error.
func Track(task drill.Task, t *track.Track, src Source) (*Result, error) {
	s, err := scoredTrack(task, t, src)
	if err != nil {
		return nil, err
	}
	if s.noisy && src != Sim {
		p := s.likelihood()
		if s.res.Verdict != Pass && s.noise.wander > 0 {
			p = math.Min(p, s.repeats(task, t, src))
		}
		s.res.Likelihood = value(round(p, 3))
	}
	return s.res, nil
}

// Flown is the flight of a log as it is judged: without the noise, the jumps
// and the wander of its heights that the log was found to have. Drawings show
// it. A fine and dense log is returned as it is.
func Flown(t *track.Track) *track.Track {
	if t.Len() < 2 {
		return t
	}
	n := measureNoise(t)
	flight, jump := mended(t, n)
	n.jump = jump
	flight, n = levelled(flight, n)
	return steadied(flight, n.summed()).flight
}

// scoredTrack prepares a track, runs it through the task and measures it. The
// sampler is returned for what it knows besides the result.
func scoredTrack(task drill.Task, t *track.Track, src Source) (*sampler, error) {
	if t.Len() < 2 {
		return nil, errors.New("the track has fewer than two samples")
	}
	if far := farFrom(task, t); far > anotherPlace {
		return nil, fmt.Errorf("the log lies %.0f m from the course; expected one that was flown on it", far)
	}
	n := measureNoise(t)
	t, n.jump = mended(t, n)
	t, n = levelled(t, n)
	n = n.summed()
	// After a gap in the air nobody knows what was flown.
	raw, gap := upToGap(t, n.step)
	s := &sampler{steady: steadied(raw, n), raw: raw, cut: gap > 0}
	s.t, s.machine = s.flight, newMachine(task, src, raw.T[0])
	q := n.quality()
	q.Gaps = bridged(t, n.step)
	s.res.Log = &q
	if gap > 0 {
		s.res.Unjudged = append(s.res.Unjudged,
			fmt.Sprintf(msgCutAtGap,
				raw.T[raw.Len()-1], gap, bridges(t, n.step)))
	}
	// Which limits this log can judge is decided before anything is flown.
	s.judged = make([]criteria, len(task.Steps))
	for i := range task.Steps {
		s.judged[i] = s.criteriaOf(i)
	}
	for !s.over() && s.i < s.t.Len()-1 {
		// Each kind follows the samples until its step is done, or the log
		// ends.
		before := s.step
		kindOf(s.target()).fly(s)
		if s.step == before {
			break // the log ended within the step
		}
	}
	s.stop(s.t.T[s.t.Len()-1])
	s.measure()
	s.sticks()
	s.judge(s.shares)
	return s, nil
}

const (
	longestGap   = 1.0   // s without a sample that are bridged at least
	anotherPlace = 300.0 // m from the course at which a log is of another place
)

// bridges is the longest time in seconds without a sample that is bridged by a
// straight line: a slow log may miss two in a row, and one that misses many now
// and then some more.
func bridges(t *track.Track, step float64) float64 {
	mean := t.Duration() / float64(max(1, t.Len()-1))
	longest := math.Max(longestGap, 3.5*math.Max(step, mean))
	if step < 0.95*mean {
		longest = math.Max(longest, math.Min(8*step, 2.5))
	}
	return longest
}

// upToGap cuts a track at the first gap in the air that is too long to bridge.
// gap is how long that gap is in seconds, 0 where there is none. A gap on the
// ground loses nothing.
func upToGap(t *track.Track, step float64) (cut *track.Track, gap float64) {
	longest := bridges(t, step) + 1e-9
	for i := 1; i < t.Len(); i++ {
		if d := t.T[i] - t.T[i-1]; d > longest && (t.Z[i] > grounded || t.Z[i-1] > grounded) && i > 1 {
			return t.Until(i), d
		}
	}
	return t, 0
}

// bridged counts the gaps that are bridged, in which several samples are
// missing. usual is the median time between samples.
func bridged(t *track.Track, usual float64) (n int) {
	longest := bridges(t, usual)
	for i := 1; i < t.Len(); i++ {
		if d := t.T[i] - t.T[i-1]; usual > 0 && d > 3*usual && d > 0.15 && d <= longest {
			n++
		}
	}
	return n
}

// farFrom is how far the track stays, at its nearest, from every place of the
// task, in metres. It is 0 for a task without places. Some five hundred samples
// are enough to tell.
func farFrom(task drill.Task, t *track.Track) float64 {
	far := math.Inf(1)
	for _, s := range task.Steps {
		at := s.At
		if s.Path != nil {
			spot, _ := s.Path.At(0)
			at = spot.Flat()
		} else if !s.HasAt {
			continue
		}
		for i := 0; i < t.Len(); i += 1 + t.Len()/500 {
			far = math.Min(far, at.Dist(field.Point{X: t.X[i], Y: t.Y[i]}))
		}
	}
	if math.IsInf(far, 1) {
		return 0
	}
	return far
}

// sampler turns the samples of a log into the machine's events. Maps go by the
// index of the step.
type sampler struct {
	*machine
	steady
	t   *track.Track // the flight that is scored: the log with its noise taken out
	raw *track.Track // the log
	cut bool         // the log has a gap in the air; what comes after it is left out
	i   int          // the last sample at or before the moment that is looked at
	// What the judging leaves for the margin and the likelihood.
	shares  []float64       // of the limits, of everything that was judged
	looks   []look          // what was judged, with how well it is known
	stands  rests           // after a touch
	tooFine map[string]bool // what has been said to be too fine
	judged  []criteria
	rates   map[int]float64 // of the turns, radians a second
	beyond  map[int]float64 // how far past the asked angle each turn went, radians
	lands   map[int]landing
	ways    map[int]*flownWay

	replies    map[int][]answer // to what happened in each step
	recoveries map[int]*recovery
	scratch    []float64 // for the 95 % of a hold
}

// point is the craft at a moment: seconds, metres, heading.
type point struct {
	t, x, y, z float64
	heading    field.Angle
}

// sample is the craft at sample i; its heading is 0 where the log has none.
func (s *sampler) sample(i int) point {
	p := point{t: s.t.T[i], x: s.t.X[i], y: s.t.Y[i], z: s.t.Z[i]}
	if s.t.Heading != nil {
		p.heading = s.t.Heading[i]
	}
	return p
}

// between returns the craft a share f of the way from a to b, the heading the
// short way.
func between(a, b point, f float64) point {
	return point{
		t: a.t + (b.t-a.t)*f, x: a.x + (b.x-a.x)*f, y: a.y + (b.y-a.y)*f, z: a.z + (b.z-a.z)*f,
		heading: a.heading + (b.heading-a.heading).Wrap()*field.Angle(f),
	}
}

// when returns the craft at time t, interpolated, and held at the ends of the
// log.
func (s *sampler) when(t float64) point {
	i := s.t.At(t)
	if i < 0 {
		return s.sample(0)
	}
	if i >= s.t.Len()-1 {
		return s.sample(s.t.Len() - 1)
	}
	a, b := s.sample(i), s.sample(i+1)
	return between(a, b, (t-a.t)/(b.t-a.t))
}

// from sets the sampler to the moment at which the current step may begin, and
// returns the craft then.
func (s *sampler) from() point {
	s.i = max(0, s.t.At(s.ready))
	return s.when(s.ready)
}

// takeOff follows a take-off until its height is reached. It begins at the last
// moment on the ground.
func (s *sampler) takeOff() {
	// Reached within ReachedM of the height; where heights are uncertain, half
	// of what noise reaches is granted besides.
	enough := math.Max(s.target().ToHeightM-drill.ReachedM-s.reachZ/2, s.ground)
	if !s.noisy {
		enough = math.Max(s.target().ToHeightM-drill.ReachedM, grounded)
	}
	a := s.from()
	if a.z < s.ground {
		s.started(a.t)
	}
	for ; s.i < s.t.Len()-1; s.i++ {
		b := s.sample(s.i + 1)
		switch {
		// Still on the ground, or between the two samples off it.
		case b.z < s.ground:
			s.started(b.t)
		case a.z < s.ground:
			s.started(a.t + (b.t-a.t)*(s.ground-a.z)/(b.z-a.z))
		}
		if !math.IsNaN(s.start) && b.z >= enough {
			f := 1.0
			if a.z < enough {
				f = (enough - a.z) / (b.z - a.z)
			}
			s.reached(math.Max(s.start, a.t+(b.t-a.t)*f))
			return
		}
		a = b
	}
}

// hold follows a hold until one stay inside every tolerance is long enough.
// What is to happen in it comes first: from then until it is answered nothing
// is asked of the place, and the stay begins anew.
func (s *sampler) hold() {
	c := s.judged[s.step]
	c.kept = s.when(s.ready).heading
	from := s.ready
	if asksResponse(*s.target()) {
		for _, a := range s.answers(s.ready) {
			s.stay(&c, from, a.at)
			s.countTime(a.at)
			s.clock.leave(a.at)
			if math.IsInf(a.to, 1) {
				s.i = s.t.Len() - 1
				return
			}
			if a.due.End {
				if math.IsNaN(s.start) {
					s.started(s.ready)
				}
				s.i = max(0, s.t.At(a.to))
				s.finish(a.to)
				return
			}
			from = a.to
		}
		s.awaitingResponse = false
	}
	s.stay(&c, from, math.Inf(1))
}

// stay follows a hold from one moment to its end, or to the moment until at
// which something happens.
func (s *sampler) stay(c *criteria, from, until float64) {
	s.i = max(0, s.t.At(from))
	a := s.when(from)
	ea := c.errors(a)
	if c.inside(ea) {
		s.enter(a.t)
	}
	// Inside for long, most samples need no deviation: they are skipped until
	// something is due, or one is not inside.
	left, step, skipped := byNothing, s.step, false
	var end, late float64
	for ; s.i < s.t.Len()-1 && s.t.T[s.i+1] <= until; s.i++ {
		if s.clock.on {
			if !skipped { // while samples are skipped, nothing changes
				end, late = s.quiet()
			}
			if t := s.t.T[s.i+1]; t < end && t <= late && c.insideAt(s.t, s.i+1) {
				skipped = true // inside at both ends is inside between them
				continue
			}
		}
		if skipped {
			a, skipped = s.sample(s.i), false
			ea = c.errors(a)
		}
		b := s.sample(s.i + 1)
		eb := c.errors(b)
		if in := c.inside(eb); in != s.clock.on || !in {
			left = s.cross(c, a, b, ea, eb, left)
			if s.step != step {
				return
			}
		}
		if s.advance(b.t) {
			return
		}
		a, ea = b, eb
	}
}

// cross handles a segment from a to b that is not wholly inside: it finds the
// moments at which the craft comes inside or leaves, and tells the machine.
// left is the criterion that it last left by; the one that holds afterwards is
// returned.
func (s *sampler) cross(c *criteria, a, b point, ea, eb deviation, left criterion) criterion {
	in, out, by := c.stretch(ea, eb)
	at := func(f float64) float64 { return a.t + (b.t-a.t)*f }
	if !s.clock.on && in < out {
		s.enter(at(in))
	}
	if s.clock.on && out < 1 {
		t := at(out)
		if s.advance(t) {
			return left
		}
		s.leave(t, c.leaving(by, between(a, b, out)))
		left = by
	}
	if !s.clock.on {
		s.outside(eb.size(left))
	}
	return left
}
