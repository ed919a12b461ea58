package flight

import "maestrale/core/flight/fmath"

// SetTick makes a configuration fly with another tick.
func SetTick(c *Config, dt float64) { c.dt = dt }

// Mix shares thrust and torques out as a craft's mixer does.
func Mix(c *Craft, torquePerThrust, thrust float64, torque Vec, low, high float64) ([MostRotors]float64, bool, error) {
	m, err := NewMixer(c, torquePerThrust)
	if err != nil {
		return [MostRotors]float64{}, false, err
	}
	out, kept := m.Share(thrust, torque, low, high)
	return out, !kept.All(), nil
}

// AirAt steps the air of a flight so many times and visits it.
func AirAt(f *Flight, steps int, visit func(along, across, up float64)) {
	s := &f.State
	for range steps {
		s.wind.gust(f.cfg.Gusts, f.feetHeight(), 2, gustEvery*Tick, &f.gustRand)
		visit(s.wind.along, s.wind.across, s.wind.up)
	}
}

// Profile is the mean wind at a height over that at 6 m.
func Profile(z, roughness float64) float64 {
	return profile(z, roughness, fmath.Log((meanHeight+roughness)/roughness))
}

// Coast flies a tick with every motor asked for the speed that its rotor has.
func (f *Flight) Coast() {
	s := &f.State
	m := s.Att.mat()
	f.blow()
	want := s.Rotor
	force, torque, _ := f.rotors(&want, m.in(s.Vel.sub(s.air)), &m)
	f.move(m.out(force), torque)
}
