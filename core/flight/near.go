package flight

import (
	"math"

	"maestrale/core/flight/fmath"
)

const (
	radioReach = 1500.0 // m at which the radio is just heard with nothing between
	fullSignal = 30.0   // dB over what is just heard: five bars
	through    = 12.0   // dB that a tree or a wall takes
	dropMargin = -3.0   // dB at which the link is lost; it is back at 0
	hearEvery  = 50     // ticks between looking at the radio

	wallReach = 6.0  // rotor radii from a wall within which wash comes back
	wallDraws = 0.35 // m/s² toward a wall that the rims nearly touch
	handUnder = 0.25 // m under the feet at which a hand reaches up
	handFor   = 2.0  // s
	handSeen  = 0.5  // m at which the downward sensor takes what is under it for near
	handClimb = 0.7  // m/s that it climbs away with
)

// hear steps the strength of the radio: free space loses 20 dB for ten times the
// distance (Friis, "A note on a simple transmission formula", Proc. IRE 34 (1946)
// 254); a tree or a wall on the line takes 12 dB, between what ITU-R P.833 gives for
// one tree at 2.4 GHz and what a brick wall takes. The reach is a reckoning of our
// own for a radio of 0.1 W.
func (f *Flight) hear() {
	s := &f.State
	if !s.every(hearEvery) {
		return
	}
	eye := f.cfg.Station
	eye.Z = 1.6
	to := s.Pos.sub(eye)
	margin := float64(20 * (fmath.Log(radioReach/max(to.length(), 1)) / math.Ln10))
	for i := range f.cfg.Solids {
		if f.cfg.Solids[i].between(eye, s.Pos) {
			margin -= through
		}
	}
	s.margin = margin
	if s.faded {
		s.faded = margin < 0
	} else {
		s.faded = margin < dropMargin
	}
}

// Signal is the strength of the radio, 1 with all its bars and 0 where it is just
// heard or not at all.
func (f *Flight) Signal() float64 {
	if !f.State.link {
		return 0
	}
	return clamp(f.State.margin/fullSignal, 0, 1)
}

// linked is whether the sticks come through.
func (s *State) linked() bool { return s.link && !s.faded }

// between tells whether a thing stands on the straight line from one place to
// another.
func (o *Solid) between(from, to Vec) bool {
	d := Vec{to.X - from.X, to.Y - from.Y, 0}
	l := d.flat()
	if l == 0 {
		return false
	}
	at := 0.0 // how far along the line, 0 to 1
	switch o.Kind {
	case Column:
		t := (float64((o.A.X-from.X)*d.X) + float64((o.A.Y-from.Y)*d.Y)) / float64(l*l)
		off := math.Abs(float64((o.A.X-from.X)*d.Y)-float64((o.A.Y-from.Y)*d.X)) / l
		if t <= 0 || t >= 1 || off > o.Radius {
			return false
		}
		at = t
	case Wall:
		e := Vec{o.B.X - o.A.X, o.B.Y - o.A.Y, 0}
		across := float64(d.X*e.Y) - float64(d.Y*e.X)
		if across == 0 {
			return false
		}
		gap := Vec{o.A.X - from.X, o.A.Y - from.Y, 0}
		t := (float64(gap.X*e.Y) - float64(gap.Y*e.X)) / across
		u := (float64(gap.X*d.Y) - float64(gap.Y*d.X)) / across
		if t <= 0 || t >= 1 || u < 0 || u > 1 {
			return false
		}
		at = t
	default:
		return false
	}
	return from.Z+float64(at*(to.Z-from.Z)) < o.Height
}

// walled is how near a wall the rotors turn, and which way it lies: the wash that
// comes back from it draws the craft toward it and shakes it (Robinson, Chung and
// Ryan, "Computational investigation of micro rotorcraft near-wall hovering
// aerodynamics", ICUAS 2014, for the sign; the size is a reckoning of our own).
func (f *Flight) walled() {
	s, c := &f.State, f.craft
	s.wallDraw, s.wallNear = Vec{}, 0
	feet := f.feetHeight()
	for i := range f.cfg.Solids {
		o := &f.cfg.Solids[i]
		if o.Kind != Wall || feet > o.Height {
			continue
		}
		at := o.nearest(s.Pos)
		to := Vec{at.X - s.Pos.X, at.Y - s.Pos.Y, 0}
		far := to.flat()
		near := clamp(1-(far-c.reach())/float64(wallReach*c.Radius), 0, 1)
		if far == 0 || near == 0 {
			continue
		}
		s.wallDraw = s.wallDraw.add(to.times(float64(float64(wallDraws*near)*near) / far))
		s.wallNear = max(s.wallNear, near)
	}
}

// washed is the acceleration that wash from the ground and from walls pushes the
// craft with: it wanders, and near a wall it draws.
func (f *Flight) washed() Vec {
	s := &f.State
	near := greater(f.cushion(f.feetHeight()), s.wallNear)
	return Vec{float64(near*s.sensors.skidX) + s.wallDraw.X, float64(near*s.sensors.skidY) + s.wallDraw.Y, 0}
}

// under is how high the feet are over what the downward sensor sees: a hand that
// reaches up, or somebody who stands there.
func (f *Flight) under(feet float64) float64 {
	s := &f.State
	room := feet
	if s.handFor > 0 {
		room = min(room, handUnder)
	}
	for i := range f.cfg.Solids {
		o := &f.cfg.Solids[i]
		if o.Kind == Column && o.Height < feet && o.nearest(s.Pos).sub(Vec{s.Pos.X, s.Pos.Y,
			0}).flat() < o.Radius+f.craft.feet() {
			room = min(room, feet-o.Height)
		}
	}
	return room
}
