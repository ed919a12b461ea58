package flight

import (
	"math"
)

// watch applies what happens by itself before the sticks are used: the link, the
// pack, taking over, what flies alone, and the stop on the ground.
func (f *Flight) watch(k *Sticks, e *sensed) {
	s := &f.State
	if s.turned = s.turned && k.Frame == s.turnedFrom; s.turned {
		k.Frame = s.turnedTo
	}
	s.Asked, s.Frame = k.Aids, k.Frame
	if s.linked() {
		s.lostFor, s.last = 0, *k
	} else {
		s.lostFor += f.dt
		*k = s.last // nothing new comes through
		if s.lostFor > 1 {
			*k = Sticks{Aids: k.Aids, Frame: k.Frame}
			if s.mode != goingHome && s.mode != landing && s.armed && !s.onGround {
				f.alone()
			}
		}
	}
	if s.handFor > 0 {
		s.handFor = greater(0, s.handFor-f.dt)
	}
	f.settleAids()
	if s.mode != byHand && s.linked() && f.takenOver(k) {
		s.mode, s.taken = byHand, s.Tick // the pilot has it
		s.pilot.holding, s.pilot.heightHeld = false, false
	}
	if s.armed && s.Charge < lowPack && !s.warned && s.Aids == PositionHold && s.mode == byHand && !s.onGround {
		s.warned = true
		f.alone()
	}
	if s.armed && s.Charge < emptyPack && s.Aids <= HeightHold && s.mode != landing && !s.onGround {
		f.begin(landing)
	}
	if k.Throttle > -0.9 {
		s.wasOverIdle = s.wasOverIdle || s.armed
	}
	down := k.Throttle <= -0.97 || (s.mode == landing && s.onGround) || (s.mode == goingHome && s.homePhase == 2 &&
		s.onGround)
	switch {
	case s.armed && s.onGround && down && s.wasOverIdle:
		s.downFor += f.dt
		wait := stopAfter
		if s.mode != byHand {
			wait = 1
		}
		if s.downFor >= wait {
			s.armed, s.downFor, s.mode = false, 0, byHand
		}
	default:
		s.downFor = 0
	}
	// At its height it waits there until the throttle is in the middle.
	if s.mode == takingOff && f.feetHeight() > takeoffHeight-0.15 && math.Abs(k.Throttle) <= takeOver {
		s.mode = byHand
		s.pilot.heightHeld, s.pilot.holdZ = true, takeoffHeight
	}
}

// takeOver is how far a stick has to be out of the middle, and from where it was
// when something began to fly by itself, for the pilot to have it again: who still
// holds the throttle low, or a stick over in fright, does not take over by that.
const takeOver = 0.15

// takenOver tells whether a stick was moved so far from where it was when the
// craft began to fly alone that the pilot has taken over.
func (f *Flight) takenOver(k *Sticks) bool {
	s := &f.State
	from := &s.autoFrom
	for _, a := range [4][2]float64{{k.Throttle, from.Throttle}, {k.Yaw, from.Yaw}, {k.Pitch, from.Pitch},
		{k.Roll, from.Roll}} {
		if math.Abs(a[0]) > takeOver && math.Abs(a[0]-a[1]) > takeOver {
			return true
		}
	}
	return false
}

// begin lets something fly by itself.
func (f *Flight) begin(m mode) {
	f.State.mode, f.State.autoFrom = m, f.State.last
}

// settleAids is what the aids come to: what the switch asks, of what the craft has
// and what its sensors allow. Without a position, position hold holds height alone;
// what flies by itself wants position hold.
func (f *Flight) settleAids() {
	s := &f.State
	a := s.Asked
	if a >= aidsCount || !f.craft.Limits[a].Has {
		a = s.Aids
	}
	if s.mode == goingHome || !s.linked() || s.mode == takingOff || s.mode == landing {
		if best := f.craft.Most(); best < a {
			a = best
		}
	}
	if a == PositionHold && !s.fix {
		if f.craft.Limits[HeightHold].Has {
			a = HeightHold
		}
		if s.mode == goingHome {
			f.begin(landing)
		}
	}
	s.Aids = a
}

// alone flies home, or lands where there is no position; a craft that holds no
// height can only stop its motors.
func (f *Flight) alone() {
	s := &f.State
	if s.fix && s.hasHome && f.craft.Limits[PositionHold].Has {
		f.goHome()
		return
	}
	if f.craft.Most() <= HeightHold {
		f.begin(landing)
		return
	}
	s.armed = false
}

// goHome begins a flight home.
func (f *Flight) goHome() {
	s := &f.State
	f.begin(goingHome)
	s.homePhase = 0
	s.returnZ = max(f.cfg.ReturnM, f.feetHeight())
	s.pilot.holding = false
}

// homeward is the velocity over the ground that leads home: none while it climbs,
// then straight home, then over it.
func (f *Flight) homeward(e *sensed, speed float64) Vec {
	s := &f.State
	to := Vec{s.home.X - e.at.X, s.home.Y - e.at.Y, 0}
	far := to.flat()
	switch s.homePhase {
	case 0:
		if e.height > s.returnZ-0.5 {
			s.homePhase = 1
		}
		return Vec{}
	case 1:
		if far < 0.4 && e.vel.flat() < 0.5 {
			s.homePhase = 2
		}
	}
	// As fast as it can still brake.
	most := min(float64(0.8*speed), math.Sqrt(far)+float64(0.3*far))
	if far < 1e-6 {
		return Vec{}
	}
	return to.times(min(most, float64(0.6*far)+0.05) / far)
}

// Armed tells whether the motors run.
func (f *Flight) Armed() bool { return f.State.armed }

// OnGround tells whether the craft stands.
func (f *Flight) OnGround() bool { return f.State.onGround }

// TakenOver is when the pilot last took over from what flew by itself, in s; −1
// for never.
func (f *Flight) TakenOver() float64 {
	if f.State.taken < 0 {
		return -1
	}
	return float64(float64(f.State.taken) * f.dt)
}

// Modes are the words for what flies.
var Modes = [4]string{"by hand", "taking off", "landing", "going home"}

// Mode says in words what flies.
func (f *Flight) Mode() string { return Modes[f.State.mode] }

// ModeNumber is the place of Mode in Modes.
func (f *Flight) ModeNumber() int { return int(f.State.mode) }

// Picture tells whether the craft's camera still shows something.
func (f *Flight) Picture() bool { return !f.State.dark }

// Air is the velocity of the air where the craft is.
func (f *Flight) Air() Vec { return f.State.air }
