// Package flight simulates a multirotor: the rigid body on its rotors in moving
// air, its pack, its sensors, the autopilot with its aids, and what goes wrong. A
// flight is a function of its configuration and its sticks alone: the same give
// the same bits on every platform, so that a flight flown in a browser can be
// flown again by the server. To that end the package reads no clock, starts no
// goroutines, has a random source of its own for each concern, and computes with
// what is exactly rounded or in fmath; products that are added are written as
// float64(a*b), so that no compiler fuses them.
//
// A tick is 2 ms; sticks are read every 10 ms. Everything is SI, angles radians.
package flight

import (
	"fmt"
	"math"

	"maestrale/core/flight/fmath"
)

const (
	// Tick is the step of the simulation in s.
	Tick = 0.002
	// TicksPerStick is how many ticks one reading of the sticks holds.
	TicksPerStick = 5

	airEvery      = 5 // ticks between looking at the wind
	takeoffHeight = 1.5
	stopAfter     = 3.0 // s of throttle down on the ground until the motors stop
	lowPack       = 0.15
	emptyPack     = 0.05
	supplyTime    = 0.02 // s
	inflowTime    = 0.05 // s
)

// Sticks is what a pilot holds. Each axis is −1 to 1: up, nose right, forward,
// right; the wheel tilts the gimbal.
type Sticks struct {
	Throttle, Yaw, Pitch, Roll, Wheel float64
	Aids                              Aids
	Frame                             Frame
}

// mode is what flies alone, if anything does.
type mode uint8

const (
	byHand mode = iota
	takingOff
	landing
	goingHome
)

// Energy is where the energy of the pack has gone, in J.
type Energy struct {
	Pack        float64 // taken out of its chemistry
	Inside      float64 // lost in its resistance
	Electronics float64
	Drive       float64 // lost between the pack and the shafts
	Rotor       float64 // done by the rotors on the air
	Spin        float64 // into the turning of the rotors
}

// State is everything that changes in a flight.
type State struct {
	Tick    int64
	Pos     Vec // the middle of the craft
	Vel     Vec
	Att     Quat
	Rate    Vec                 // about the craft's own axes: + nose up, right side down, nose left
	Rotor   [MostRotors]float64 // rad/s
	Charge  float64
	Volts   float64 // under load
	Amps    float64
	UsedAh  float64
	Tilt    float64 // of the gimbal
	Aids    Aids    // as they work now
	Asked   Aids    // as the switch asks
	Frame   Frame
	Energy  Energy
	Crashed bool
	Flat    bool // the pack gave up
	Cause   string

	inflow                   float64
	wind                     windState
	air                      Vec // the wind where the craft is
	sensors                  sensorState
	pilot                    pilotState
	armed, onGround          bool
	touching                 bool
	wasOverIdle              bool
	downFor                  float64
	mode                     mode
	homePhase                uint8
	home                     Vec
	hasHome                  bool
	returnZ                  float64
	compass                  float64
	fix, link, sensorsOn     bool
	gentle                   bool
	fenceRadius, fenceHeight float64
	weak                     [MostRotors]float64
	lostFor                  float64
	last                     Sticks // that came through
	autoFrom                 Sticks // as they were when something began to fly by itself
	warned                   bool
	supply                   float64 // volts at the drives
	margin                   float64 // of the radio, dB over what is just heard
	faded                    bool    // the radio is not heard
	turned, dark             bool    // the stick frame was turned; the picture is lost
	turnedFrom, turnedTo     Frame
	wallDraw                 Vec
	wallNear, handFor        float64
	taken                    int64 // tick at which the pilot took over last, −1 never
}

// Refused is an event that was not carried out, and why.
type Refused struct {
	T     float64
	Event string
	Why   string
}

// Flight is a flight that is being flown.
type Flight struct {
	State   State
	Refused []Refused

	cfg                            Config
	craft                          *Craft
	mix                            Mixer
	gainsBy                        [aidsCount]Gains
	armSquare                      float64 // mean of the squares of the arms, m²
	dt, density, disc              float64
	kThrust, kTorque, rotorInertia float64
	hoverOmega, mostOmega, idle    float64
	hoverInflow, ceilingNear       float64
	windTo                         Vec
	windMps, fullVolts             float64
	gustRand, noise                fmath.Rand
	fixed                          fixed
}

// Now is the time in s since the start.
func (f *Flight) Now() float64 { return float64(float64(f.State.Tick) * f.dt) }

// Ended tells whether nothing more happens: the craft has crashed.
func (f *Flight) Ended() bool { return f.State.Crashed }

// crash ends the flight by a crash of a cause; a second one changes nothing.
func (f *Flight) crash(cause string) {
	s := &f.State
	if s.Crashed {
		return
	}
	s.Crashed, s.Cause, s.armed = true, cause, false
	if s.Flat {
		s.Cause = fmt.Sprintf(msgPackWasEmptyAlso, cause)
	}
}

// every tells whether this tick is one of those that come every n ticks; in 32
// bits, which browsers divide fast.
func (s *State) every(n uint32) bool { return uint32(s.Tick)%n == 0 }

// Step flies one tick with the sticks.
func (f *Flight) Step(k Sticks) {
	s, c := &f.State, f.craft
	if s.Crashed {
		return
	}
	var m mat
	var e sensed
	var want [MostRotors]float64
	s.Att.fill(&m)
	f.blow()
	f.hear()
	f.sense(&e, &m)
	f.watch(&k, &e)
	f.command(&want, &k, &e, &m)

	air := m.in(s.Vel.sub(s.air)) // how the craft goes through the air
	force, torque, shaft := f.rotors(&want, air, &m)
	force = m.out(force.add(f.drag(air)))
	force.Z -= float64(c.Mass * Gravity)
	s.touching = s.onGround
	push, turn := f.stand(&m)
	force = force.add(push)
	torque = torque.add(turn)
	if s.armed && !s.onGround && !f.cfg.Still {
		force = force.add(f.washed().times(c.Mass))
	}
	f.draw(shaft)

	f.move(force, torque)
	f.tilt(k.Wheel)

	if s.Pos.Z <= c.reach()+c.Legs() {
		s.Att.fill(&m)
		f.strikes(&m)
	}
	if s.every(lookEvery) {
		f.meet()
	}
	s.Tick++
}

// move steps speeds, place and attitude: semi-implicit, the speeds first, then
// the place with them.
func (f *Flight) move(force, torque Vec) {
	s, c := &f.State, f.craft
	s.Vel = s.Vel.add(force.times(f.fixed.perMass))
	s.Pos = s.Pos.add(s.Vel.times(f.dt))
	i := c.Inertia
	spin := s.Rate.cross(Vec{float64(i.X * s.Rate.X), float64(i.Y * s.Rate.Y), float64(i.Z * s.Rate.Z)})
	torque = torque.sub(spin)
	s.Rate = s.Rate.add(Vec{float64(torque.X*f.dt) / i.X, float64(torque.Y*f.dt) / i.Y, float64(torque.Z*f.dt) / i.Z})
	// Air holds back what spins fast: a bound that a tumbling craft cannot pass.
	s.Rate = Vec{clamp(s.Rate.X, -60, 60), clamp(s.Rate.Y, -60, 60), clamp(s.Rate.Z, -60, 60)}
	s.Att = s.Att.turned(s.Rate, f.dt)
}

// blow steps the air.
func (f *Flight) blow() {
	s := &f.State
	if s.wind.blowFor > 0 {
		s.wind.blowFor = greater(0, s.wind.blowFor-f.dt)
	}
	feet := f.feetHeight()
	if s.every(gustEvery) {
		s.wind.gust(f.cfg.Gusts, feet, s.Vel.sub(s.air).length(), float64(gustEvery*f.dt), &f.gustRand)
	}
	if f.cfg.Surface == Indoors && f.cfg.Gusts == NoGusts && f.cfg.Wind == (Vec{}) && s.wind.blowFor == 0 {
		s.air = Vec{}
		return
	}
	if s.every(airEvery) {
		s.air = s.wind.at(f.windTo, f.windMps, feet, f.cfg.Roughness, f.fixed.meanLog)
	}
}

// draw takes the power of the shafts and the electronics out of the pack.
func (f *Flight) draw(shaft float64) {
	s, c := &f.State, f.craft
	drive := shaft / c.Drive
	power := drive + c.Electronics
	volts, amps := loaded(c.rest(s.Charge), f.fixed.packOhm, power)
	got := float64(volts * amps)
	s.Volts, s.Amps = volts, amps
	used := float64(amps*f.dt) / 3600
	s.UsedAh += used
	s.Charge = greater(0, s.Charge-used/c.CapacityAh)
	e := &s.Energy
	e.Pack += float64(float64(c.rest(s.Charge)*amps) * f.dt)
	e.Inside += float64(float64(float64(amps*amps)*f.fixed.packOhm) * f.dt)
	e.Electronics += float64(c.Electronics * f.dt)
	e.Drive += float64((got - c.Electronics - shaft) * f.dt)
	if s.Charge == 0 || (volts < float64(float64(c.Cells)*c.EmptyVolts) && s.Charge < 0.1) {
		s.Flat = true
		s.armed = false
	}
}

// tilt turns the gimbal by its wheel: 60°/s, from straight down to 20° up.
func (f *Flight) tilt(wheel float64) {
	if !f.craft.Gimbal || wheel == 0 {
		return
	}
	s := &f.State
	s.Tilt = clamp(s.Tilt+float64(float64(expo(wheel)*(math.Pi/3))*f.dt), -math.Pi/2, math.Pi/9)
}

// command turns what the pilot and the autopilot want into speeds of the rotors.
func (f *Flight) command(want *[MostRotors]float64, k *Sticks, e *sensed, m *mat) {
	s := &f.State
	if !s.armed {
		return
	}
	// The drives' capacitors smooth what the pack gives: without them a tick's pull
	// would lower the next tick's push.
	s.supply += float64(f.fixed.supplyStep * (s.Volts - s.supply))
	share := clamp(s.supply/f.fullVolts, 0.3, 1)
	most := float64(f.mostOmega * share)
	low, high := float64(float64(f.kThrust*f.idle)*f.idle), float64(float64(f.kThrust*most)*most)
	var out command
	f.fly(&out, k, e, m)
	thrust := out.thrust
	if out.direct {
		w := f.idle + float64(out.power*(most-f.idle))
		thrust = float64(float64(float64(f.mix.N)*f.kThrust) * float64(w*w))
	}
	if f.resting(k, &out) {
		for i := range f.mix.N {
			want[i] = f.idle
		}
		s.pilot.lift, s.pilot.trimX, s.pilot.trimY, s.pilot.trimZ = 0, 0, 0, 0
		return
	}
	f.mix.share(want, thrust, out.torque, low, high)
	for i := range min(f.mix.N, MostRotors) {
		w := math.Sqrt(want[i] / f.kThrust)
		// Twice the step that is wanted: the lead that halves the lag.
		want[i] = clamp(s.Rotor[i]+float64(2*(w-s.Rotor[i])), 0, most)
	}
}

// resting is whether the rotors only idle: on the ground, with nothing asked.
func (f *Flight) resting(k *Sticks, out *command) bool {
	s := &f.State
	if !s.onGround || s.mode == takingOff {
		return false
	}
	if out.direct {
		return k.Throttle <= -0.97
	}
	return k.Throttle < 0.1
}
