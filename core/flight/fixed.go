package flight

import "maestrale/core/flight/fmath"

// fixed is what a flight computes with at every tick and what does not change
// in it: worked out once.
type fixed struct {
	perMass      float64             // s/kg: a tick over the mass
	lagStep      float64             // share of the way that a rotor goes in a tick
	inertiaStep  float64             // kg m²/s: of a rotor, over a tick
	thrust, drag float64             // of a rotor over the square of its speed, in this air
	throughput   float64             // kg/m: twice the air of the discs
	supplyStep   float64             // share of the way that the supply goes in a tick
	inflowStep   float64             // and the air through the rotors
	meanLog      float64             // logarithm of the profile at the mean height
	drift        [driftCount]float64 // what white noise is multiplied by, for each slow error
	clockwise    [MostRotors]float64 // + where a rotor turns clockwise, − where it does not
	packOhm      float64             // of the whole pack
	draw         float64             // N m s: what holds back the turning of the whole craft
}

// settle works out what is fixed.
func (f *Flight) settle() {
	c := f.craft
	density := f.density / SeaLevelDensity
	f.fixed = fixed{perMass: f.dt / c.Mass, lagStep: min(f.dt/c.Lag, 1), inertiaStep: f.rotorInertia / f.dt,
		thrust: float64(f.kThrust * density), drag: float64(f.kTorque * density),
		throughput: float64(2 * float64(f.density*f.disc)), supplyStep: min(1, f.dt/supplyTime),
		inflowStep: min(1, f.dt/inflowTime),
		meanLog:    fmath.Log((meanHeight + f.cfg.Roughness) / f.cfg.Roughness),
		packOhm:    float64(float64(c.Cells) * c.OhmPerCell),
		draw:       float64(float64(c.Mass*c.RotorDrag) * f.armSquare)}
	for i, r := range c.Rotors {
		f.fixed.clockwise[i] = -1
		if r.Clockwise {
			f.fixed.clockwise[i] = 1
		}
	}
	sigma := goodFix
	if f.cfg.PoorFix {
		sigma = poorFix
	}
	dt := float64(sensorEvery * f.dt)
	f.fixed.drift = [driftCount]float64{driftPush(sigma, fixTime, dt), driftPush(heightError, heightTime, dt),
		driftPush(1, washTime, dt), driftPush(skidError, skidTime, dt)}
}
