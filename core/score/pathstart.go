package score

import (
	"math"

	"maestrale/core/drill"
)

// Where a figure was begun is not marked in a log, and what comes before it can
// look much like it. Candidates are tried in order of time: each moment at
// which the craft comes to the start, or anywhere to a closed figure, begins a
// try. A try is given up where the craft stands at a start again or leaves the
// figure altogether, and it holds once the craft has flown so much of the
// figure that coming back is no longer a new beginning.

const (
	scanEvery   = 0.1  // s between the moments at which the start of a figure is looked for
	underWay    = 0.25 // of a lap, after which a figure has been begun
	outOfIt     = 2.0  // times its tolerance off every part of a figure, at which it is not being flown
	converges   = 2.0  // m of a figure, or three times its tolerance, over which a craft may come onto it
	convergeBy  = 0.1  // m nearer that are coming onto it
	pauseWithin = 0.3  // m within which a rest at the start of a figure goes on
)

// begins is where a figure was begun, as path takes it over.
type begins struct {
	i        int     // the sample from which it is judged
	joined   float64 // where on the figure its laps are counted from, m
	progress float64 // how far along it was by then, m
}

// try is one time at which the craft came to the start of a figure. Pilots
// approach, pause, turn the nose, break off and fly it again: each is a try,
// and the one that goes through is the figure.
type try struct {
	i        int
	anchor   float64 // the figure's place there
	home     float64 // how far from that the craft was, m
	progress float64
	left     bool // it has gone from there
	rested   bool // it was at rest there
	out      bool // it has been outside the figure's tolerance since
}

// figureStart finds where a figure was begun among all that comes before it:
// the approach, a pause, a turn of the nose at its start, a first try that was
// broken off and flown again. The figure begins when the craft leaves its start
// along it, or passes the start when it is flying along it already. join is how
// near the craft has to come, in metres. ok is false where it never came to it.
func (s *sampler) figureStart(target *drill.Target, join float64) (b begins, ok bool) {
	z := &startSearch{sampler: s, f: target.Path, join: join, best: try{progress: -1}, tested: -1, looked: math.Inf(-1),
		turned: math.Inf(-1)}
	// An open figure and an eight start in one place; a closed one may be
	// joined anywhere.
	z.fixed = !z.f.Closed || z.f.Shape == drill.Eight
	// Beyond goal a return to the start is part of the figure.
	z.goal = s.committed(z.f, join, z.fixed)
	z.total = z.f.Length
	if z.f.Closed {
		z.total *= float64(max(1, target.Laps))
	}
	for i := s.i; i < s.t.Len(); i++ {
		if s.t.T[i]-z.looked < scanEvery-1e-9 {
			continue
		}
		z.looked = s.t.T[i]
		if z.look(i) {
			break
		}
	}
	switch {
	// Flown the other way round it is judged from where the craft came to it,
	// so that the fault of the order can be noted there.
	case z.order || (z.backwards && !z.begun):
		b = begins{i: z.entered}
		if !z.fixed {
			b.joined, _ = z.f.Nearest(spotOf(s.sample(b.i)), 0, z.f.Length)
		}
		return b, true
	case z.begun:
		return s.judgedFrom(z.f, z.now, join, z.goal), true
	case z.best.progress < math.Max(join, 1) || s.cut: // it came by, and no more is known
		return b, false
	}
	return s.judgedFrom(z.f, z.best, join, math.Max(z.best.progress, 1e-6)), true
}

// startSearch looks for the start of a figure, sample by sample every scanEvery
// seconds.
type startSearch struct {
	*sampler
	f    *drill.Figure
	join float64
	// Metres along the figure.
	goal, total float64 // along the figure: from where it has been begun, and to its end
	fixed       bool    // it starts in one place
	// A try keeps its own progress; the best one is judged where none goes
	// through.
	now, best      try     // the try that goes on, and the one that came farthest
	on             bool    // the craft is at the figure
	raw, net       float64 // where it is on the figure, and how far it went along it, either way
	looked, turned float64 // when that was last looked at
	begun, order   bool
	backwards      bool // it went some way the other way round
	entered        int  // sample at which it came to the figure
	tested         int  // sample at which a rest was looked at, in case it is a new start; -1 while it moves
}

// look takes in sample i. It returns true when the search is over: the figure
// has been begun, or is flown in the wrong order.
func (z *startSearch) look(i int) bool {
	q := spotOf(z.sample(i))
	at, off := z.f.Nearest(q, 0, z.f.Length)
	from, away := at, off
	if z.fixed {
		from, away = 0, z.f.Far(spotAt(z.f, 0), q)
	}
	if !z.on {
		// Not at the figure yet.
		if away > z.join {
			return false
		}
		if real := z.best.progress > math.Max(1.5*z.join, z.f.Length/20); real && !z.fixed &&
			z.f.Far(spotAt(z.f, z.best.anchor), q) > z.join && !z.completes(i, at) {
			z.now, z.begun = z.best, true // it went off, and came back elsewhere: it had been begun
			return true
		}
		z.on, z.now, z.raw, z.net, z.entered = true, try{i: i, anchor: from, home: away}, at, 0, i
		return false
	}
	home := z.f.Far(spotAt(z.f, z.now.anchor), q)
	if z.fixed && !z.now.left && home < z.now.home { // it is still on its way to the start
		z.now = try{i: i, home: home}
		return false
	}
	z.now.progress = math.Max(z.now.progress, z.along(z.f, q, z.now, z.join)-z.now.anchor)
	// The try that came farthest counts if none goes through.
	if z.now.progress > z.best.progress {
		z.best = z.now
	}
	if z.now.progress >= z.goal && (z.fixed || z.now.progress >= 2*z.goal) {
		z.begun, z.order = true, z.backwards && !z.completes(z.now.i, z.now.anchor)
		return true
	}
	if z.startsAnew(i, at, off, home) {
		return false
	}
	// Far off every part of the figure, the try is over until the craft comes
	// back.
	if z.now.left = z.now.left || home > 1.5*z.join; off > outOfIt*z.join {
		z.on = false
	}
	z.now.out = z.now.out || (off > z.join && (z.now.left || z.now.progress > z.join))
	return z.on && z.otherWay(i, q, at, off)
}

// startsAnew tells whether the craft is at a new start of the figure: it stands
// on it, or has come back to its start. It then begins a new try there. at and
// off are the place on the figure and the distance from it, home the distance
// from the start of the try.
func (z *startSearch) startsAnew(i int, at, off, home float64) bool {
	v, _ := z.speed(i)
	if v >= drill.RestMps {
		z.tested = -1
	}
	anew := try{i: i, anchor: at, home: off, rested: v < drill.RestMps}
	if z.fixed {
		anew.anchor, anew.home = 0, home
	}
	switch {
	case z.fixed && z.now.left && home <= z.join:
	case v < drill.RestMps && z.now.progress >= pauseWithin && z.now.progress < z.goal && home < z.join/3:
		// It stands at its start again.
	case z.fixed || off > z.join:
		return false
	case z.now.left && home <= z.join && z.now.progress < z.goal:
	case v < drill.RestMps && z.now.progress < math.Min(z.goal, 2*z.join):
		// It is flown from where it stood; a pause on the way is no new start.
		if z.now.rested && z.now.progress >= pauseWithin && off >= z.now.home-z.join/4 {
			return false
		}
	case off < z.join/2 && ((v < drill.RestMps && z.tested < 0) || (v >= drill.RestMps && z.now.out)):
		// What came before was no more than the way to here, if all of it was
		// flown from here.
		if z.tested = i; !z.completes(i, at) {
			return false
		}
	default:
		return false
	}
	z.now, z.net, z.raw = anew, 0, at
	return true
}

// completes tells whether the whole figure is flown from sample i on, joined at
// the place at of it. It looks ahead to the end of the log.
func (z *startSearch) completes(i int, at float64) bool {
	p := try{i: i, anchor: at}
	looked := math.Inf(-1)
	for ; i < z.t.Len(); i++ {
		if z.t.T[i]-looked < scanEvery-1e-9 {
			continue
		}
		looked = z.t.T[i]
		q := spotOf(z.sample(i))
		p.progress = math.Max(p.progress, z.along(z.f, q, p, z.join)-p.anchor)
		if p.progress >= doneClosed*z.total {
			return true
		}
	}
	return false
}

// otherWay looks whether the figure is begun the other way round, or with the
// other lobe. It keeps a running sum of the way along the figure, forward and
// back, and returns true once that settles it.
func (z *startSearch) otherWay(i int, q drill.Spot, at, off float64) bool {
	if z.t.T[i]-z.turned < lookBack {
		return false
	}
	z.turned = z.t.T[i]
	if off > 1.25*z.join {
		z.net, z.raw = 0, at
		return false
	}
	z.net += shortWay(z.f, at, z.raw)
	z.raw = at
	far := z.net < -math.Max(turnedBack*z.f.Length, 2*z.join)
	z.backwards = z.backwards || far
	z.order = z.net < -z.f.Length/2 || (far && z.fixed) || (z.f.Shape == drill.Eight && z.now.progress < 0.1*z.f.Length &&
		z.inOther(z.f, q, z.join))
	if back := shortWay(z.f, at, z.now.anchor); !z.order && !z.fixed && back < 0 && back > -2*z.join &&
		z.now.progress < z.join {
		z.now.i, z.now.anchor, z.now.progress = i, at, 0 // it comes to the figure backwards
	}
	return z.order
}

// shortWay is the change in metres from one place of a figure to another, the
// short way round a closed one. It is 0 where that is a quarter of the figure
// or more, too far to be flown between two looks.
func shortWay(f *drill.Figure, at, before float64) float64 {
	change := at - before
	if f.Closed {
		change = math.Mod(change+1.5*f.Length, f.Length) - f.Length/2
	}
	if math.Abs(change) >= f.Length/4 {
		return 0
	}
	return change
}

// along is how far along a figure the place q lies, looked for around what the
// try has flown of it.
func (s *sampler) along(f *drill.Figure, q drill.Spot, now try, join float64) float64 {
	here := now.anchor + now.progress
	to := here + 3*join + 2*scanEvery
	if f.Closed {
		to = math.Min(to, here+f.Length/3)
	}
	at, _ := f.Nearest(q, here-math.Min(now.progress, join), to)
	return at
}

// committed is how far, in metres, a figure has to be flown before a return to
// its start is no new beginning: a quarter of it, or less where the figure
// itself comes back to its start before that, as an eight does.
func (s *sampler) committed(f *drill.Figure, join float64, fixed bool) float64 {
	goal := underWay * f.Length
	if !fixed {
		return goal
	}
	start := spotAt(f, 0)
	const looks = 60
	away := false
	for k := range looks {
		at := goal * float64(k) / looks
		switch far := f.Far(start, spotAt(f, at)); {
		// First away from the start, then near it again: that is where the
		// figure itself comes back.
		case far > 2*join:
			away = true
		case away:
			return 0.9 * at
		}
	}
	return goal
}

// judgedFrom finds the sample from which a try is judged: the last at which the
// craft was at rest or at its start, before it had gone some way along the
// figure, and at which it is no longer coming onto it.
func (s *sampler) judgedFrom(f *drill.Figure, now try, join, goal float64) begins {
	// gone is how far along the craft surely was under way.
	gone := math.Min(goal, math.Max(join, 0.5))
	p := try{i: now.i, anchor: now.anchor}
	i := now.i
	for ; i < s.t.Len()-1 && p.progress < gone; i++ {
		p.progress = math.Max(p.progress, s.along(f, spotOf(s.sample(i)), p, join)-p.anchor)
	}
	// Back to the last sample at rest, or behind the start.
	start, course := f.At(now.anchor)
	sin, cos := math.Sincos(float64(course))
	for ; i > now.i; i-- {
		q := s.sample(i)
		if v, _ := s.speed(i); v < drill.RestMps {
			break
		}
		if f.Level && (q.x-start.X)*sin+(q.y-start.Y)*cos <= 0 && f.Far(start, spotOf(q)) <= 2*join {
			break
		}
	}
	b := begins{i: i, joined: now.anchor}
	// Coming onto the figure: as long as it comes nearer.
	p = try{anchor: now.anchor}
	first, least, onto, nearest := math.NaN(), math.Inf(1), math.Inf(1), i
	// Nearer by less than noise, or 5 cm, is not nearer.
	near := math.Max(0.05, most*s.place)
	reach := math.Min(goal, math.Max(converges, 3*join))
	for k := i; k < s.t.Len() && p.progress < reach; k++ {
		q := spotOf(s.sample(k))
		at := s.along(f, q, p, join)
		p.progress = math.Max(p.progress, at-p.anchor)
		off := f.Far(spotAt(f, at), q)
		if math.IsNaN(first) {
			first = off
		}
		if off > least+near {
			break
		}
		if off < onto-near {
			onto, nearest = off, k // it comes nearer yet
		}
		least = math.Min(least, off)
	}
	// Only the start of a closed figure is a line to come onto.
	fixed := !f.Closed || f.Shape == drill.Eight // its start is a place to come to, not a line to come onto
	if first-least > convergeBy && (!fixed || first > 0.8*join) {
		b.i = nearest
	}
	p = try{anchor: now.anchor}
	for k := i; k <= b.i; k++ {
		p.progress = math.Max(p.progress, s.along(f, spotOf(s.sample(k)), p, join)-p.anchor)
	}
	b.progress = p.progress
	return b
}

// spotAt is the place s metres along a figure.
func spotAt(f *drill.Figure, s float64) drill.Spot {
	at, _ := f.At(s)
	return at
}
