package flight

import (
	"math"

	"maestrale/core/flight/fmath"
)

// Frame is what forward on the stick refers to.
type Frame uint8

// The stick frames.
const (
	Nose   Frame = iota
	Frozen       // a direction captured on request and kept while the craft turns
	Pilot        // back comes closer to the pilot's station
	frameCount
)

// FrameNames are the words of the frames.
var FrameNames = [frameCount]string{"nose", "frozen", "pilot"}

// String is the word for the frame.
func (f Frame) String() string { return FrameNames[f] }

// FrameOf returns the frame of a word.
func FrameOf(word string) (Frame, bool) { return ofWord[Frame](FrameNames[:], word) }

const (
	dead      = 0.04 // of the stick, within which it is let go
	yawHold   = 3.0  // 1/s
	fastestYa = 3.0  // rad/s at most while a heading is held
)

// pilotState is what the autopilot remembers.
type pilotState struct {
	holding      bool // a place is held
	holdX, holdY float64
	heightHeld   bool
	holdZ        float64
	turning      bool
	holdHeading  float64
	askX, askY   float64 // velocity that is asked for, on its way to the stick
	leanX, leanY float64 // steady acceleration against the wind, field frame
	lift         float64 // steady acceleration up
	trimX, trimY float64 // steady torque over inertia
	trimZ        float64
	frozen       float64 // heading of the frozen frame
	wasAids      Aids
}

// command is what the cascade asks of the mixer.
type command struct {
	thrust float64 // N; under 0: idle
	direct bool    // throttle sets the rotors' speed and not their thrust
	power  float64 // 0 to 1, for direct
	torque Vec
}

// gains are those of the aids as they work.
func (f *Flight) gains() *Gains { return &f.gainsBy[f.State.Aids] }

// headingOf is the heading of a vector over the ground, clockwise from y.
func headingOf(v Vec) float64 { return fmath.Atan2(v.X, v.Y) }

// forward is the heading that forward on the stick means now.
func (f *Flight) forward(k *Sticks, e *sensed) float64 {
	switch k.Frame {
	case Frozen:
		return f.State.pilot.frozen
	case Pilot:
		d := Vec{e.at.X - f.cfg.Station.X, e.at.Y - f.cfg.Station.Y, 0}
		if d.flat() > 0.5 {
			return headingOf(d)
		}
	}
	return e.heading
}

// gentle is the share of speed, lean and yaw that the switch leaves.
func (f *Flight) gentle(speed, lean, yaw float64) (float64, float64, float64) {
	if f.State.gentle {
		return float64(0.4 * speed), float64(0.6 * lean), float64(0.5 * yaw)
	}
	return speed, lean, yaw
}

// expo takes the dead part of a stick away.
func expo(v float64) float64 {
	if math.Abs(v) <= dead {
		return 0
	}
	return beyondDead(v)
}

// beyondDead is expo for a stick that is out of its dead part; apart from it,
// so that the usual case is inlined.
func beyondDead(v float64) float64 {
	v = clamp(v, -1, 1)
	return math.Copysign((math.Abs(v)-dead)/(1-dead), v)
}

// fly is the cascade: sticks to place, to speed, to lean, to rates, to torques,
// cut where the aids end.
func (f *Flight) fly(out *command, k *Sticks, e *sensed, m *mat) {
	s, g := &f.State, f.gains()
	p := &s.pilot
	a := s.Aids
	lim := &f.craft.Limits[a]
	speed, lean, yawMax := f.gentle(lim.Speed, lim.Lean, lim.YawMax)
	if a != p.wasAids {
		p.holding, p.heightHeld, p.wasAids = false, false, a
	}
	throttle, yaw, pitch, roll := expo(k.Throttle), expo(k.Yaw), expo(k.Pitch), expo(k.Roll)

	if a >= Tumble && (a == RateOnly || math.Abs(k.Pitch) > 0.85 || math.Abs(k.Roll) > 0.85) {
		fast := max(yawMax, math.Pi)
		out.direct, out.power = true, float64(0.5*(clamp(k.Throttle, -1, 1)+1))
		out.torque = f.turn(Vec{-float64(fast * pitch), float64(fast * roll), -float64(yawMax * yaw)})
		return
	}

	// What lean is wanted, as an acceleration over the ground in the field frame.
	var push Vec
	held := a == PositionHold && e.held
	front := f.forward(k, e)
	// The autopilot turns by the heading that it believes; with a compass that errs
	// the push goes where the error sends it.
	astray := wrap(e.nose - e.heading)
	switch {
	case held:
		push = f.heldPush(f.believed(e, astray), ahead(front, float64(speed*pitch), float64(speed*roll)).atMost(speed), speed,
			lean)
	default:
		if a == PositionHold || a == HeightHold {
			p.leanX, p.leanY, p.holding = 0, 0, false
			p.askX, p.askY = e.vel.X, e.vel.Y
		}
		push = leaned(front, pitch, roll, lean)
	}
	if astray != 0 {
		sin, cos := fmath.Sincos(astray)
		push = Vec{float64(push.X*cos) + float64(push.Y*sin), float64(push.Y*cos) - float64(push.X*sin), 0}
	}
	up := Vec{push.X, push.Y, Gravity}
	up = up.times(1 / up.length())

	rates := f.levelling(m.in(up))
	rates.Z = f.yawing(yaw, yawMax, e)
	out.torque = f.turn(rates)

	if a >= SelfLevel {
		out.direct, out.power = true, float64(0.5*(clamp(k.Throttle, -1, 1)+1))
		return
	}
	climb := f.climb(throttle, lim, e)
	ask := float64(g.Climb * (climb - e.vel.Z))
	if !s.onGround {
		p.lift = clamp(p.lift+float64(float64(float64(0.5*g.Height)*ask)*f.dt), -4, 6)
	}
	out.thrust = float64(f.craft.Mass*(Gravity+clamp(ask+p.lift, float64(-0.6*Gravity), Gravity))) / clamp(m.z.Z, 0.5, 1)
}

// compassSpoils is the error of the compass, in rad, at which position hold has
// no sense of its own speed left.
const compassSpoils = 40 * math.Pi / 180

// believed is what position hold takes for true while the nose points so far
// astray of the heading that it believes.
func (f *Flight) believed(e *sensed, astray float64) *sensed {
	if astray == 0 {
		return e
	}
	return f.misled(e, astray)
}

// misled is what position hold believes with a compass that errs. The speed
// that it damps with comes from the inertial sensors, turned to the field by
// the heading that it believes; the satellites correct it slowly. With the
// heading goes that speed, and with it the damping: by a third of a right angle
// it circles, wider and wider.
func (f *Flight) misled(e *sensed, astray float64) *sensed {
	out := *e
	left := greater(0, 1-math.Abs(astray)/compassSpoils)
	out.vel.X, out.vel.Y = float64(e.vel.X*left), float64(e.vel.Y*left)
	return &out
}

// heldPush is the acceleration over the ground, in the field frame, that brings
// a craft with position hold to a wanted velocity of at most speed, and holds
// its place where none is wanted; it leans by lean at most.
func (f *Flight) heldPush(e *sensed, want Vec, speed, lean float64) Vec {
	s, g, brake := &f.State, f.gains(), f.craft.Limits[f.State.Aids].Brake
	p := &s.pilot
	if brake <= 0 {
		brake = 1.5
	}
	if s.mode == goingHome {
		want = f.homeward(e, speed)
	} else if s.mode != byHand && s.mode != landing {
		want = Vec{}
	}
	if len(f.cfg.Solids) > 0 {
		want = f.heldBack(want, brake, e.heading)
	}
	if s.fenceRadius > 0 {
		want = f.fenced(want, brake)
	}
	step := float64(brake * f.dt)
	change := Vec{want.X - p.askX, want.Y - p.askY, 0}.atMost(step)
	p.askX, p.askY = p.askX+change.X, p.askY+change.Y
	ask := Vec{p.askX, p.askY, 0}
	if want.X == 0 && want.Y == 0 && ask.flat() < 0.05 {
		if !p.holding && e.vel.flat() < 0.5 {
			p.holding, p.holdX, p.holdY = true, e.at.X, e.at.Y
		}
	} else {
		p.holding = false
	}
	if p.holding {
		ask = Vec{float64(g.Place * (p.holdX - e.at.X)), float64(g.Place * (p.holdY - e.at.Y)),
			0}.atMost(greater(1, float64(0.5*speed)))
	}
	miss := Vec{ask.X - e.vel.X, ask.Y - e.vel.Y, 0}
	most := float64(Gravity * lesser(lean, 0.7))
	if !s.onGround {
		p.leanX = clamp(p.leanX+float64(float64(float64(0.35*g.Place)*float64(g.Speed*f.dt))*miss.X), -most, most)
		p.leanY = clamp(p.leanY+float64(float64(float64(0.35*g.Place)*float64(g.Speed*f.dt))*miss.Y), -most, most)
	}
	return Vec{float64(g.Speed*miss.X) + p.leanX, float64(g.Speed*miss.Y) + p.leanY, 0}.atMost(most)
}

// leaned is the acceleration of a craft that leans as far as the sticks say, of
// lean at most.
func leaned(front, pitch, roll, lean float64) Vec {
	tan := func(v float64) float64 {
		sin, cos := fmath.Sincos(float64(lesser(1.3, lean) * v))
		return float64(Gravity * (sin / cos))
	}
	size := lesser(1, math.Sqrt(float64(pitch*pitch)+float64(roll*roll)))
	if size > 0 {
		by := tan(size) / math.Sqrt(float64(pitch*pitch)+float64(roll*roll))
		return ahead(front, float64(by*pitch), float64(by*roll))
	}
	return Vec{}
}

// levelling are the rates that turn the thrust to where it should point, which
// is in in the craft's own frame: in proportion to the angle between the two,
// about the axis across both.
func (f *Flight) levelling(in Vec) Vec {
	g := f.gains()
	if l := in.flat(); l > 1e-9 {
		var r float64
		if l < 0.2 && in.Z > 0 { // the series of the arc sine, to a millionth
			ll := float64(l * l)
			r = float64(g.Lean * (1 + float64(ll*(1.0/6+float64(ll*(3.0/40))))))
		} else {
			r = float64(g.Lean*lesser(1.5, fmath.Atan2(l, in.Z))) / l
		}
		return Vec{-float64(r * in.Y), float64(r * in.X), 0}
	}
	if in.Z < 0 {
		return Vec{0, float64(g.Lean * 1.5), 0}
	}
	return Vec{}
}

// yawing is the rate about the craft's own axis: as the stick says, else what
// holds the heading at which the turn ended.
func (f *Flight) yawing(yaw, yawMax float64, e *sensed) float64 {
	s := &f.State
	p := &s.pilot
	if yaw != 0 || s.onGround {
		p.turning = true
		return -float64(yawMax * yaw)
	}
	if p.turning && math.Abs(s.Rate.Z) < 0.35 {
		p.turning, p.holdHeading = false, e.heading
	}
	if !p.turning {
		return -clamp(float64(yawHold*wrap(p.holdHeading-e.heading)), -fastestYa, fastestYa)
	}
	return 0
}

// turn asks for the torques that bring the craft to rates about its own axes:
// proportional, with a slow part that trims what is uneven.
func (f *Flight) turn(rates Vec) Vec {
	s, g, i := &f.State, f.gains(), f.craft.Inertia
	p := &s.pilot
	miss := rates.sub(s.Rate)
	if !s.onGround {
		k := float64(float64(0.5*g.Rate) * f.dt)
		p.trimX = clamp(p.trimX+float64(k*miss.X), -60, 60)
		p.trimY = clamp(p.trimY+float64(k*miss.Y), -60, 60)
		p.trimZ = clamp(p.trimZ+float64(k*miss.Z), -20, 20)
	}
	return Vec{
		float64(i.X * (float64(g.Rate*miss.X) + p.trimX)),
		float64(i.Y * (float64(g.Rate*miss.Y) + p.trimY)),
		float64(i.Z * (float64(float64(0.7*g.Rate)*miss.Z) + p.trimZ)),
	}
}

// climb is the vertical speed that is asked for: by the throttle, by the height
// that is held, or by what flies by itself.
func (f *Flight) climb(throttle float64, lim *Limits, e *sensed) float64 {
	s, g := &f.State, f.gains()
	p := &s.pilot
	up, down := lim.Climb, lim.Descend
	if s.gentle {
		up, down = float64(0.5*up), float64(0.5*down)
	}
	to := func(z float64) float64 { return clamp(float64(g.Height*(z-e.height)), -down, up) }
	ask := 0.0
	switch {
	case e.under: // it takes what is under it for an obstacle, and climbs away from it
		p.heightHeld = false
		return handClimb
	case s.mode == takingOff:
		if e.height < takeoffHeight-0.15 {
			return clamp(to(takeoffHeight)+0.2, 0, 1)
		}
		return to(takeoffHeight)
	case s.mode == landing || (s.mode == goingHome && s.homePhase == 2):
		ask = -min(down, clamp(float64(0.4*e.height), 0.35, 2))
		p.heightHeld = false
		return ask
	case s.mode == goingHome:
		return to(s.returnZ)
	case throttle != 0:
		p.heightHeld = false
		ask = float64(up * throttle)
		if throttle < 0 {
			ask = float64(down * throttle)
			if e.near {
				ask = greater(ask, -slowed(e.height))
			}
		}
	default:
		if !p.heightHeld && math.Abs(e.vel.Z) < 0.3 {
			p.heightHeld, p.holdZ = true, e.height
			if e.near && p.holdZ < 0.3 {
				p.holdZ = 0.3 // over the ground it keeps off it until it is pulled down
			}
		}
		if p.heightHeld {
			ask = to(p.holdZ)
		}
	}
	if s.fenceHeight > 0 {
		ask = lesser(ask, float64(g.Height*(s.fenceHeight-e.height)))
	}
	return ask
}

// slowsBy is how much a descent is braked toward the last metre, in m/s².
const slowsBy = 0.8

// slowed is how fast a craft that sees the ground sinks at most: the last metre
// is slow and wants the stick held down, and it is begun early enough that a
// full stick is slow there too.
func slowed(height float64) float64 {
	if height < 1 {
		return max(0.3, float64(0.8*height))
	}
	return math.Sqrt(0.64 + float64(2*slowsBy*(height-1)))
}

// fenced takes from a wanted velocity what leads over the fence that there is.
func (f *Flight) fenced(want Vec, brake float64) Vec {
	s := &f.State
	out := Vec{s.Pos.X - f.cfg.Station.X, s.Pos.Y - f.cfg.Station.Y, 0}
	far := out.flat()
	if far == 0 {
		return want
	}
	out = out.times(1 / far)
	room := s.fenceRadius - far
	most := -1.0 // beyond it, back
	if room > 0 {
		most = f.stopsWithin(room, s.Vel.dot(out), brake)
	}
	if v := want.dot(out); v > most {
		want = want.sub(out.times(v - most))
	}
	return want
}
