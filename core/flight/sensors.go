package flight

import (
	"math"

	"maestrale/core/flight/fmath"
)

const (
	goodFix     = 0.4  // slow wander of a good fix, m per axis, DESIGN.md section 5
	poorFix     = 2.5  // of a poor one
	fixTime     = 60.0 // its correlation time, s
	heightError = 0.15 // slow wander of the barometer, m
	heightTime  = 20.0
	washError   = 0.25 // m that the wash puts on the barometer on the ground
	downReaches = 5.0  // height that the downward sensor sees the ground from, m
	washTime    = 0.7  // of the wash near the ground, s
	skidError   = 0.35 // m/s² that it pushes with
	skidTime    = 0.5  // s
	sensorEvery = 5    // ticks between steps of what wanders slowly
)

// What wanders slowly, by what it is multiplied with.
const (
	driftFix = iota
	driftHeight
	driftWash
	driftSkid
	driftCount
)

// sensorState is what the sensors remember.
type sensorState struct {
	wanderX, wanderY, wanderZ float64
	low                       bool    // the downward sensor holds the place
	heldX, heldY              float64 // wander as it was when it took over
	wash                      float64 // wandering of the wash near the ground, −1 to 1
	skidX, skidY              float64 // m/s² that the wash pushes with
}

// sensed is what the autopilot knows.
type sensed struct {
	at, vel Vec
	height  float64 // of the feet
	heading float64
	nose    float64 // where the nose truly points
	held    bool    // there is a position
	near    bool    // the downward sensor sees the ground
	under   bool    // and something between that is not the ground
}

// drift steps a first-order Gauss–Markov process with a correlation time by dt,
// both in s, with the push of its white noise (Gelb, Applied Optimal
// Estimation, 1974, section 2.2).
func drift(v *float64, push, time, dt float64, r *fmath.Rand) {
	*v += float64(dt*(-*v/time)) + float64(push*r.Normal())
}

// driftPush is what the white noise of a drift is multiplied by, for its
// standard deviation.
func driftPush(sigma, time, dt float64) float64 {
	return float64(sigma * math.Sqrt(float64(2*dt)/time))
}

// sense steps the slow errors and fills in what the sensors say.
func (f *Flight) sense(out *sensed, m *mat) {
	s := &f.State
	if !f.cfg.Still && s.every(sensorEvery) {
		dt := float64(sensorEvery * f.dt)
		push := &f.fixed.drift
		drift(&s.sensors.wanderX, push[driftFix], fixTime, dt, &f.noise)
		drift(&s.sensors.wanderY, push[driftFix], fixTime, dt, &f.noise)
		drift(&s.sensors.wanderZ, push[driftHeight], heightTime, dt, &f.noise)
		drift(&s.sensors.wash, push[driftWash], washTime, dt, &f.noise)
		drift(&s.sensors.skidX, push[driftSkid], skidTime, dt, &f.noise)
		drift(&s.sensors.skidY, push[driftSkid], skidTime, dt, &f.noise)
	}
	feet := f.feetHeight()
	near, under := f.craft.Down && s.sensorsOn && feet < downReaches, false
	if near && s.armed && !s.onGround {
		room := f.under(feet)
		under = room < handSeen && room < feet
	}
	out.at, out.vel, out.height, out.nose = s.Pos, s.Vel, feet, m.heading()
	out.heading, out.held, out.near, out.under = wrap(out.nose+s.compass), s.fix, near, under
	switch {
	case near && !s.sensors.low:
		s.sensors.low, s.sensors.heldX, s.sensors.heldY = true, s.sensors.wanderX, s.sensors.wanderY
	case !near:
		s.sensors.low = false
	}
	if s.sensors.low {
		out.at.X += s.sensors.heldX
		out.at.Y += s.sensors.heldY
	} else {
		out.at.X += s.sensors.wanderX
		out.at.Y += s.sensors.wanderY
		out.height += s.sensors.wanderZ + float64(float64(washError*s.sensors.wash)*f.cushion(feet))
	}
}

// cushion is how much of the wash comes back from the ground: 1 on it, 0 from six
// rotor radii up.
func (f *Flight) cushion(feet float64) float64 {
	h := (feet + f.craft.Legs()) / f.craft.Radius
	return clamp((6-h)/5, 0, 1)
}
