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
	sensorEvery = 5    // ticks between steps of what wanders slowly
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
	held    bool // there is a position
	near    bool // the downward sensor sees the ground
	under   bool // and something between that is not the ground
}

// drift steps a first-order Gauss–Markov process with a standard deviation and a
// correlation time (Gelb, Applied Optimal Estimation, 1974, section 2.2).
func drift(v *float64, sigma, time, dt float64, r *fmath.Rand) {
	*v += float64(dt*(-*v/time)) + float64(float64(sigma*math.Sqrt(float64(2*dt)/time))*r.Normal())
}

// sense steps the slow errors and returns what the sensors say.
func (f *Flight) sense(m *mat) sensed {
	s := &f.State
	if !f.cfg.Still && s.Tick%sensorEvery == 0 {
		dt := float64(sensorEvery * f.dt)
		sigma := goodFix
		if f.cfg.PoorFix {
			sigma = poorFix
		}
		drift(&s.sensors.wanderX, sigma, fixTime, dt, &f.noise)
		drift(&s.sensors.wanderY, sigma, fixTime, dt, &f.noise)
		drift(&s.sensors.wanderZ, heightError, heightTime, dt, &f.noise)
		drift(&s.sensors.wash, 1, 0.7, dt, &f.noise)
		drift(&s.sensors.skidX, 0.35, 0.5, dt, &f.noise)
		drift(&s.sensors.skidY, 0.35, 0.5, dt, &f.noise)
	}
	feet := f.feetHeight()
	near, under := f.craft.Down && s.sensorsOn && feet < downReaches, false
	if near && s.armed && !s.onGround {
		room := f.under(feet)
		under = room < handSeen && room < feet
	}
	out := sensed{at: s.Pos, vel: s.Vel, height: feet, heading: wrap(m.heading() + s.compass), held: s.fix, near: near,
		under: under}
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
	return out
}

// cushion is how much of the wash comes back from the ground: 1 on it, 0 from six
// rotor radii up.
func (f *Flight) cushion(feet float64) float64 {
	h := (feet + f.craft.Legs()) / f.craft.Radius
	return clamp((6-h)/5, 0, 1)
}
