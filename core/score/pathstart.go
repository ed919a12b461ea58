package score

import (
	"math"

	"maestrale/core/drill"
)

const (
	scanEvery  = 0.1  // s between the moments at which the start of a figure is looked for
	underWay   = 0.25 // of a lap, after which a figure has been begun
	outOfIt    = 2.0  // times its tolerance off every part of a figure, at which it is not being flown
	converges  = 2.0  // m of a figure, or twice its tolerance, over which a craft may come onto it
	convergeBy = 0.1  // m nearer that are coming onto it
)

// begins is where a figure was begun.
type begins struct {
	i        int     // the sample from which it is judged
	joined   float64 // where on the figure its laps are counted from, m
	progress float64 // how far along it was by then, m
}

// try is one time at which the craft came to the start of a figure.
type try struct {
	i        int
	anchor   float64 // the figure's place there
	progress float64
	left     bool
}

// figureStart finds where a figure was begun, among all that comes before it: the approach, a
// pause, a turn of the nose at its start, a first try that was broken off and flown again from the
// start. The figure begins when the craft leaves its start along it, or passes the start when it is
// flying along it already. ok is false where the craft never came to it.
func (s *sampler) figureStart(target *drill.Target, join float64) (b begins, ok bool) {
	f := target.Path
	fixed := !f.Closed || f.Shape == drill.Eight
	goal := s.committed(f, join, fixed)
	var now, best try
	on, looked := false, math.Inf(-1)
	raw, net, turned := 0.0, 0.0, math.Inf(-1)
	best.progress = -1
	for i := s.i; i < s.t.Len(); i++ {
		if s.t.T[i]-looked < scanEvery-1e-9 {
			continue
		}
		looked = s.t.T[i]
		q := spotOf(s.sample(i))
		at, off := f.Nearest(q, 0, f.Length)
		from, away := at, off
		if fixed {
			from, away = 0, f.Far(spotAt(f, 0), q)
		}
		if !on {
			if away > join {
				continue
			}
			if real := best.progress > math.Max(1.5*join, f.Length/20); real && !fixed && f.Far(spotAt(f, best.anchor), q) > join {
				break // it went off, and came back elsewhere: it had been begun
			}
			on, now, raw, net = true, try{i: i, anchor: from}, at, 0
		}
		now.progress = math.Max(now.progress, s.along(f, q, now, join)-now.anchor)
		if now.progress > best.progress {
			best = now
		}
		if now.progress >= goal {
			return s.judgedFrom(f, now, join, goal), true
		}
		home := f.Far(spotAt(f, now.anchor), q)
		now.left = now.left || home > 1.5*join
		switch {
		case off > outOfIt*join:
			on = false
		case now.left && home <= join:
			now, net = try{i: i, anchor: from}, 0
		}
		if !on || s.t.T[i]-turned < lookBack {
			continue
		}
		// The other way round, or the other lobe first: that is how it was begun.
		turned = s.t.T[i]
		if off < 2*join {
			net += shortWay(f, at, raw)
			raw = at
		}
		if net < -math.Max(turnedBack*f.Length, 2*join) || (f.Shape == drill.Eight && now.progress < 0.1*f.Length && s.inOther(f, q, join)) {
			return begins{i: now.i, joined: now.anchor}, true
		}
	}
	if best.progress < 0 {
		return b, false
	}
	return s.judgedFrom(f, best, join, math.Max(best.progress, 1e-6)), true
}

// shortWay is the change between two places of a figure, the short way round a closed one; 0 where
// that is too far to be flown between two looks.
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

// along is how far along a figure a place lies, from what has been flown of it.
func (s *sampler) along(f *drill.Figure, q drill.Spot, now try, join float64) float64 {
	here := now.anchor + now.progress
	to := here + 3*join + 2*scanEvery
	if f.Closed {
		to = math.Min(to, here+f.Length/3)
	}
	at, _ := f.Nearest(q, here-math.Min(now.progress, join), to)
	return at
}

// committed is how far a figure has to be flown before a return to its start is no new beginning:
// a quarter of it, and less where the figure itself comes back to its start before that.
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
		case far > 2*join:
			away = true
		case away:
			return 0.9 * at
		}
	}
	return goal
}

// judgedFrom finds the sample from which a try is judged: at rest or at its start for the last
// time before it had gone some way along the figure, and no longer coming onto it.
func (s *sampler) judgedFrom(f *drill.Figure, now try, join, goal float64) begins {
	gone := math.Min(goal, math.Max(join, 0.5))
	p := try{i: now.i, anchor: now.anchor}
	i := now.i
	for ; i < s.t.Len()-1 && p.progress < gone; i++ {
		p.progress = math.Max(p.progress, s.along(f, spotOf(s.sample(i)), p, join)-p.anchor)
	}
	start, course := f.At(now.anchor)
	sin, cos := math.Sincos(float64(course))
	for ; i > now.i; i-- {
		q := s.sample(i)
		if v, _ := s.speed(i); v < restSpeed {
			break
		}
		if f.Level && (q.x-start.X)*sin+(q.y-start.Y)*cos <= 0 && f.Far(start, spotOf(q)) <= 2*join {
			break
		}
	}
	b := begins{i: i, joined: now.anchor}
	// Coming onto the figure: as long as it comes nearer.
	p = try{anchor: now.anchor}
	first, least, nearest := math.NaN(), math.Inf(1), i
	near := math.Max(0.05, most*s.place)
	reach := math.Min(goal, math.Max(converges, 2*join))
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
		if off < least-near {
			nearest = k // it comes nearer yet
		}
		least = math.Min(least, off)
	}
	if first-least > convergeBy {
		b.i = nearest
	}
	p = try{anchor: now.anchor}
	for k := i; k <= b.i; k++ {
		p.progress = math.Max(p.progress, s.along(f, spotOf(s.sample(k)), p, join)-p.anchor)
	}
	b.progress = p.progress
	return b
}

// spotAt is the place so far along a figure.
func spotAt(f *drill.Figure, s float64) drill.Spot {
	at, _ := f.At(s)
	return at
}
