package flight

import (
	"errors"
	"fmt"
	"math"

	"maestrale/core/flight/fmath"
)

// Config is what a flight is flown with.
type Config struct {
	Craft     Craft
	Wind      Vec // mean velocity of the air at 6 m
	Gusts     Gusts
	Roughness float64 // of the ground, m; 0 = 0.03
	Density   float64 // of the air, kg/m³; 0 = at sea level
	Seed      uint64
	Surface   Surface
	Solids    []Solid
	Station   Vec // the pilot's
	Start     Vec // the feet; Z is the height over the ground
	Heading   float64
	Airborne  bool    // starts in a trimmed hover, armed
	Aids      Aids    // at the start
	Charge    float64 // of the pack; 0 = full
	ReturnM   float64 // return height; 0 = 20 m
	PoorFix   bool
	Still     bool // sensors do not err and the wash does not wander: for tests
	// dt is another tick, for tests.
	dt float64
}

// New makes a flight ready; a configuration that cannot be flown is one clear
// error.
func New(cfg Config) (*Flight, error) {
	if err := cfg.Craft.Check(); err != nil {
		return nil, err
	}
	cfg.fill()
	if err := cfg.check(); err != nil {
		return nil, err
	}
	f := &Flight{cfg: cfg, dt: cfg.dt, density: cfg.Density}
	f.craft = &f.cfg.Craft
	c := f.craft
	f.hoverOmega = float64(2 * math.Pi * c.HoverRps)
	n := float64(len(c.Rotors))
	weight := float64(c.Mass * Gravity)
	f.disc = float64(float64(n*math.Pi) * float64(c.Radius*c.Radius))
	f.kThrust = weight / float64(n*float64(f.hoverOmega*f.hoverOmega))
	// Shaft power of a hover at sea level by momentum theory and the figure of
	// merit (Leishman 2006, chapter 2), shared by the rotors: P = n k_Q Ω³.
	ideal := float64(weight * math.Sqrt(weight/float64(2*float64(SeaLevelDensity*f.disc))))
	f.kTorque = ideal / c.Merit / float64(n*float64(f.hoverOmega*float64(f.hoverOmega*f.hoverOmega)))
	// Propeller and bell: 0.03 R³ kg m², from the weights of propellers of 6 to 38 cm:
	// a reckoning of our own.
	f.rotorInertia = float64(0.03 * float64(c.Radius*float64(c.Radius*c.Radius)))
	f.mostOmega = float64(f.hoverOmega * math.Sqrt(c.FullThrust))
	f.idle = float64(0.25 * f.hoverOmega)
	for _, r := range c.Rotors {
		f.armSquare += float64(r.Arm*r.Arm) / n
	}
	f.hoverInflow = math.Sqrt(weight / float64(2*float64(f.density*f.disc)))
	for a := range f.gainsBy {
		f.gainsBy[a] = gainsOf(c.Limits[a].Gains, c.Lag)
	}
	var err error
	if f.mix, err = NewMixer(c, f.kTorque/f.kThrust); err != nil {
		return nil, err
	}
	f.gustRand = fmath.NewRand(cfg.Seed, 1)
	f.noise = fmath.NewRand(cfg.Seed, 2)
	f.settle()

	f.place()
	if cfg.Airborne {
		f.trim()
	}
	return f, nil
}

// fill puts the usual in the place of what is not said.
func (cfg *Config) fill() {
	if cfg.Roughness == 0 {
		cfg.Roughness = 0.03
	}
	if cfg.Density == 0 {
		cfg.Density = SeaLevelDensity
	}
	if cfg.Charge == 0 {
		cfg.Charge = 1
	}
	if cfg.ReturnM == 0 {
		cfg.ReturnM = 20
	}
	if cfg.dt == 0 {
		cfg.dt = Tick
	}
}

// place puts the craft where it starts, with everything as it is before the first tick.
func (f *Flight) place() {
	cfg, c := &f.cfg, f.craft
	s := &f.State
	s.Att = facing(cfg.Heading)
	s.Pos = Vec{cfg.Start.X, cfg.Start.Y, cfg.Start.Z + c.Legs()}
	if cfg.Start.Z == 0 {
		s.Pos.Z -= footGives
	}
	s.Charge = cfg.Charge
	s.Volts, f.fullVolts = c.rest(s.Charge), c.rest(1)
	s.supply = s.Volts
	s.Aids, s.Asked = cfg.Aids, cfg.Aids
	s.fix, s.link, s.sensorsOn = true, true, true
	s.returnZ = cfg.ReturnM
	s.pilot.wasAids = aidsCount
	s.pilot.holdHeading = cfg.Heading
	s.pilot.frozen = cfg.Heading
	s.taken = -1
	for i := range s.weak {
		s.weak[i] = 1
	}
	f.windTo, f.windMps = Vec{0, 1, 0}, cfg.Wind.flat()
	if f.windMps > 0 {
		f.windTo = cfg.Wind.times(1 / f.windMps)
	}
	s.air = s.wind.at(f.windTo, f.windMps, cfg.Start.Z, cfg.Roughness, f.fixed.meanLog)
}

// check refuses a configuration that cannot be flown; the error says which
// number and what was expected.
func (c *Config) check() error {
	for _, n := range []struct {
		name      string
		v         float64
		low, high float64
	}{
		{"wind in m/s", c.Wind.length(), 0, 40}, {msgStartRight, c.Start.X, -10_000, 10_000}, {msgStartAway,
			c.Start.Y, -10_000, 10_000}, {msgStartHeight, c.Start.Z, 0, 1000},
		{msgStartHeading, c.Heading, -7, 7}, {"charge", c.Charge, 0, 1}, {msgDensity, c.Density, 0.3,
			2}, {msgReturnHeight, c.ReturnM, 0, 500},
		{msgStationRight, c.Station.X, -10_000, 10_000}, {msgStationAway, c.Station.Y, -10_000,
			10_000}, {"roughness in m", c.Roughness, 1e-5, 2}, {"tick in s", c.dt, 1e-4, 0.005},
	} {
		if !(n.v >= n.low && n.v <= n.high) {
			return fmt.Errorf("the %s is %v; expected %v to %v", n.name, n.v, n.low, n.high)
		}
	}
	switch {
	case c.Aids >= aidsCount || !c.Craft.Limits[c.Aids].Has:
		return fmt.Errorf("the craft does not fly with the aids asked for; expected one of its own, as %s", c.Craft.Most())
	case c.Gusts >= gustsCount || c.Surface >= surfaceCount:
		return errors.New("the gusts or the surface are not known")
	case c.Airborne && c.Start.Z < 0.2:
		return fmt.Errorf("airborne at %v m; expected a start 0.2 m over the ground or higher", c.Start.Z)
	case len(c.Solids) > MostSolids:
		return fmt.Errorf("%d things stand on the course; expected %d at most", len(c.Solids), MostSolids)
	}
	for _, o := range c.Solids {
		if !(math.Abs(o.A.X)+math.Abs(o.A.Y)+math.Abs(o.B.X)+math.Abs(o.B.Y) < 1e6 && o.Height >= 0 && o.Height < 1e4 &&
			o.Radius >= 0 && o.Radius < 1e4) {
			return fmt.Errorf("%s stands at no place, or has no size; expected metres", o.Name)
		}
	}
	return nil
}

// trim puts the craft into a hover over the ground in the mean wind: leaned so
// that its drag is balanced, its rotors at what that takes.
func (f *Flight) trim() {
	s, c := &f.State, f.craft
	s.armed, s.wasOverIdle = true, true
	s.home, s.hasHome = Vec{s.Pos.X, s.Pos.Y, 0}, true
	s.inflow = f.hoverInflow
	held := s.Aids == PositionHold
	if !held {
		s.Vel = Vec{s.air.X, s.air.Y, 0}
	} else {
		back := f.drag(s.air.times(-1)).times(-1 / c.Mass) // the acceleration it takes
		s.pilot.leanX, s.pilot.leanY = back.X, back.Y
		up := Vec{back.X, back.Y, Gravity}
		up = up.times(1 / up.length())
		// From straight up to the lean: half the way is the axis of the turn.
		half := Vec{up.X, up.Y, up.Z + 1}
		half = half.times(1 / half.length())
		q := Quat{W: half.Z, X: -half.Y, Y: half.X}
		h := s.Att
		s.Att = Quat{float64(q.W*h.W) - float64(q.Z*h.Z), float64(q.X*h.W) + float64(q.Y*h.Z),
			float64(q.Y*h.W) - float64(q.X*h.Z), float64(q.W*h.Z) + float64(q.Z*h.W)}
		s.pilot.holding, s.pilot.holdX, s.pilot.holdY = true, s.Pos.X, s.Pos.Y
	}
	s.pilot.heightHeld, s.pilot.holdZ = true, f.cfg.Start.Z
	s.pilot.wasAids = s.Aids
	m := s.Att.mat()
	w := math.Sqrt(float64(c.Mass*Gravity) / max(m.z.Z,
		0.3) / float64(float64(float64(f.mix.N)*f.kThrust)*(f.density/SeaLevelDensity)))
	for i := range f.mix.N {
		s.Rotor[i] = w
	}
}
