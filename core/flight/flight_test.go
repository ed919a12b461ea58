package flight_test

import (
	"math"
	"testing"

	"maestrale/core/craft"
	"maestrale/core/flight"
	"maestrale/core/rig"
)

func craftOf(t testing.TB, key string, fitted ...craft.Aids) flight.Craft {
	t.Helper()
	c, err := rig.Craft(craft.Shipped()[key], fitted...)
	if err != nil {
		t.Fatal(err)
	}
	return c
}

// hover is a craft in a trimmed hover without gusts or errors of its sensors.
func hover(t testing.TB, key string, aids flight.Aids, change func(*flight.Config)) *flight.Flight {
	t.Helper()
	cfg := flight.Config{Craft: craftOf(t, key), Start: flight.Vec{Y: 10, Z: 8}, Airborne: true, Aids: aids, Still: true,
		Seed: 1}
	if change != nil {
		change(&cfg)
	}
	f, err := flight.New(cfg)
	if err != nil {
		t.Fatal(err)
	}
	return f
}

// fly flies so many seconds with the sticks and visits every tick.
func fly(f *flight.Flight, seconds float64, k flight.Sticks, visit func()) {
	for range int(seconds/flight.Tick + 0.5) {
		f.Step(k)
		if visit != nil {
			visit()
		}
	}
}

func near(t *testing.T, what string, got, want, tol float64) {
	t.Helper()
	if !(math.Abs(got-want) <= tol) {
		t.Errorf("%s is %.4f; expected %.4f within %v", what, got, want, tol)
	}
}

func flat(v flight.Vec) float64 { return math.Hypot(v.X, v.Y) }

func at(a flight.Aids) flight.Sticks { return flight.Sticks{Aids: a} }

// Hands off in height hold the speed over the ground becomes the wind's; in
// position hold the craft stays, and leans into the wind by the angle whose
// tangent is its drag over its weight.
func TestHandsOffInAWind(t *testing.T) {
	for _, key := range []string{"poiana", "airone"} {
		wind := func(c *flight.Config) { c.Wind = flight.Vec{X: 3, Y: -4} }
		f := hover(t, key, flight.HeightHold, func(c *flight.Config) { wind(c); c.Start.Z = 6 })
		f.State.Vel = flight.Vec{} // it was held until now
		fly(f, 60, at(flight.HeightHold), nil)
		near(t, key+" drifts to the right", f.State.Vel.X, 3, 0.06)
		near(t, key+" drifts toward", f.State.Vel.Y, -4, 0.08)
		near(t, key+"'s height", f.Sample(flight.Sticks{}).Z, 6, 0.1)

		f = hover(t, key, flight.PositionHold, func(c *flight.Config) { wind(c); c.Start.Z = 6 })
		fly(f, 40, at(flight.PositionHold), nil)
		near(t, key+" held, aside", f.State.Pos.X, 0, 0.1)
		near(t, key+" held, away", f.State.Pos.Y, 10, 0.1)
		c := craftOf(t, key)
		drag := c.Mass*c.RotorDrag*5 + 0.5*flight.SeaLevelDensity*c.BodyDrag*25
		s := f.Sample(flight.Sticks{})
		lean := math.Acos(math.Cos(s.Roll) * math.Cos(s.Pitch))
		near(t, key+"'s lean in degrees", lean*180/math.Pi, math.Atan(drag/(c.Mass*flight.Gravity))*180/math.Pi, 0.25)
		if s.Roll > 0 || s.Pitch > 0 { // wind from the left and from away: left side and nose down into it
			t.Errorf("%s leans %.3f, %.3f: not into the wind", key, s.Roll, s.Pitch)
		}
	}
}

// Yaw right speeds up the rotors that spin counter-clockwise; thrust and height
// hold meanwhile; with the stick let go a brief reversal stops it.
func TestYawComesFromTheTorques(t *testing.T) {
	for _, key := range []string{"poiana", "airone"} {
		f := hover(t, key, flight.HeightHold, nil)
		c := craftOf(t, key)
		sums := func() (cw, ccw float64) {
			for i, r := range c.Rotors {
				if w := f.State.Rotor[i]; r.Clockwise {
					cw += w
				} else {
					ccw += w
				}
			}
			return cw, ccw
		}
		fly(f, 0.1, flight.Sticks{Aids: flight.HeightHold, Yaw: 1}, nil)
		cw, ccw := sums()
		if ccw <= cw*1.002 {
			t.Errorf("%s: yaw right gives %.1f rad/s to those counter-clockwise and %.1f to the others", key, ccw, cw)
		}
		fly(f, 3, flight.Sticks{Aids: flight.HeightHold, Yaw: 1}, nil)
		near(t, key+" turns right in deg/s", -f.State.Rate.Z*180/math.Pi, c.Limits[flight.HeightHold].YawMax*180/math.Pi, 4)
		near(t, key+"'s height", f.Sample(flight.Sticks{}).Z, 8, 0.15)
		reversed := false
		fly(f, 1.5, at(flight.HeightHold), func() {
			cw, ccw := sums()
			reversed = reversed || cw > ccw*1.002
		})
		if !reversed {
			t.Errorf("%s stops without a reversal", key)
		}
		near(t, key+" stands in deg/s", f.State.Rate.Z*180/math.Pi, 0, 3)
	}
}

// With the rotors at one speed nothing turns the craft further, and drag slows what
// turns it already: by m k r² over its inertia a second, k the drag of the rotors
// and r their arms.
func TestEqualSpeedsTurnNothing(t *testing.T) {
	for _, key := range []string{"gheppio", "poiana", "airone"} {
		c := craftOf(t, key)
		f := hover(t, key, c.Most(), func(cfg *flight.Config) { cfg.Start.Z = 60 })
		turning := func(rate, seconds float64) float64 {
			f.State.Rate = flight.Vec{Z: rate}
			equal := f.State.Rotor
			for range int(seconds/flight.Tick + 0.5) {
				for i := range c.Rotors {
					equal[i] = 2 * math.Pi * c.HoverRps
				}
				f.State.Rotor = equal
				// Throttle closed and the motors off: nothing asks the rotors to differ.
				f.Coast()
			}
			return f.State.Rate.Z
		}
		if got := turning(0, 0.5); math.Abs(got) > 1e-9 {
			t.Errorf("%s: turned from rest to %v rad/s", key, got)
		}
		arms := 0.0
		for _, r := range c.Rotors {
			arms += r.Arm * r.Arm / float64(len(c.Rotors))
		}
		near(t, key+" slows from 3 rad/s in a second to", turning(3, 1), 3*math.Exp(-c.Mass*c.RotorDrag*arms/c.Inertia.Z),
			0.03)
	}
}

// hoverThrottle finds the throttle at which a craft without height hold neither
// climbs nor falls.
func hoverThrottle(t *testing.T, key string, aids flight.Aids) float64 {
	low, high := -1.0, 1.0
	for range 30 {
		k := flight.Sticks{Aids: aids, Throttle: (low + high) / 2}
		f := hover(t, key, aids, nil)
		fly(f, 0.6, k, nil)
		if f.State.Vel.Z > 0 {
			high = k.Throttle
		} else {
			low = k.Throttle
		}
	}
	return (low + high) / 2
}

// Leaned in self-level without more throttle it starts down at g(1 − cos lean); let
// go it goes on over the ground until the other stick brakes it.
func TestLeanCostsLift(t *testing.T) {
	th := hoverThrottle(t, "gheppio", flight.SelfLevel)
	f := hover(t, "gheppio", flight.SelfLevel, nil)
	k := flight.Sticks{Aids: flight.SelfLevel, Throttle: th}
	fly(f, 0.5, k, nil)
	k.Pitch = 0.6
	fly(f, 0.45, k, nil)
	m := f.Sample(k)
	lean := math.Acos(math.Cos(m.Roll) * math.Cos(m.Pitch))
	was := f.State.Vel.Z
	fly(f, 0.02, k, nil)
	down := (was - f.State.Vel.Z) / 0.02
	want := flight.Gravity * (1 - math.Cos(lean))
	// What little speed it has gained blows its wash away, and it falls already: both
	// lift it a little.
	if lean < 0.2 || down < 0.6*want || down > 1.15*want {
		t.Errorf("leaned %.1f° it starts down at %.2f m/s²; g(1 − cos) is %.2f", lean*180/math.Pi, down, want)
	}
	k.Pitch = 0
	fly(f, 0.5, k, nil)
	v := f.State.Vel.Y
	fly(f, 1, k, nil)
	if coast := f.State.Vel.Y; coast < 0.55*v {
		t.Errorf("let go it slows from %.2f to %.2f m/s in a second by itself", v, coast)
	}
	k.Pitch = -0.6
	was = f.State.Vel.Y
	fly(f, 0.7, k, nil)
	if f.State.Vel.Y > was-1 {
		t.Errorf("braked it slows from %.2f to %.2f m/s only", was, f.State.Vel.Y)
	}
}

// The rotors hover slower near the ground, by the square root of what Cheeseman
// and Bennett give.
func TestGroundEffect(t *testing.T) {
	for z, want := range map[float64]float64{1: 16.0 / 15, 2: 64.0 / 63, 0.5: 4.0 / 3, 0.2: 4.0 / 3, 6: 1, 9: 1} {
		near(t, "the effect", flight.GroundEffect(z*0.119, 0.119), want, 1e-12)
	}
	mean := func(z float64) float64 {
		f := hover(t, "poiana", flight.PositionHold, func(c *flight.Config) { c.Start.Z = z })
		fly(f, 5, at(flight.PositionHold), nil)
		sum := 0.0
		for i := range 4 {
			sum += f.State.Rotor[i]
		}
		return sum
	}
	c := craftOf(t, "poiana")
	high, low := mean(8), mean(0.3)
	plane := 0.3 + 0.3*c.Span // the plane of the rotors
	near(t, "rotor speed near the ground over that high up", low/high, 1/math.Sqrt(flight.GroundEffect(plane, c.Radius)),
		0.002)
	if low >= high {
		t.Error("the cushion carries nothing")
	}
}

// Straight down fast it settles into its own wash; the same throttle with speed
// along does not.
func TestSettling(t *testing.T) {
	if flight.Settling(1.1, 0) != 0.4 || flight.Settling(1.1, 1.3) != 0 || flight.Settling(0.3, 0) != 0 ||
		flight.Settling(2.1, 0) != 0 {
		t.Error("the loss does not stand where it should")
	}
	last := 0.0
	for d := 0.4; d <= 1.1; d += 0.01 {
		if l := flight.Settling(d, 0.3); l < last {
			t.Errorf("at %v the loss falls", d)
		} else {
			last = l
		}
	}
	sink := func(along float64) float64 {
		f := hover(t, "poiana", flight.HeightHold, func(c *flight.Config) { c.Start.Z = 120 })
		f.State.Vel = flight.Vec{Y: along, Z: -4.6}
		held := f.State.Rotor
		down := 0.0
		for range 250 { // its rotors at the speed of a hover
			f.State.Rotor = held
			f.Step(at(flight.HeightHold))
			down = -f.State.Vel.Z
		}
		return down
	}
	straight, moving := sink(0), sink(9)
	if straight <= moving+0.5 {
		t.Errorf("straight down it sinks at %.2f m/s after half a second, moving at %.2f", straight, moving)
	}
}

// What leaves the pack is what the rotors do and what is lost, within 1 %.
func TestEnergyBooksBalance(t *testing.T) {
	for _, key := range []string{"poiana", "airone", "gheppio"} {
		c := craftOf(t, key)
		f := hover(t, key, c.Most(), func(cfg *flight.Config) {
			cfg.Still, cfg.Gusts, cfg.Wind = false, flight.Moderate,
				flight.Vec{Y: 5}
		})
		before := f.State.Charge
		for i := range 20 {
			x := float64(i%5)/2 - 1
			fly(f, 1, flight.Sticks{Aids: c.Most(), Throttle: x / 3, Pitch: x, Roll: -x / 2, Yaw: x}, nil)
		}
		e := f.State.Energy
		near(t, key+": what was taken over what was used", e.Pack/(e.Inside+e.Electronics+e.Drive+e.Rotor+e.Spin), 1, 0.01)
		near(t, key+": the charge that left in Ah", (before-f.State.Charge)*c.CapacityAh, f.State.UsedAh, 1e-9)
		if e.Rotor <= 0 || e.Inside <= 0 {
			t.Errorf("%s: %+v", key, e)
		}
	}
}

// The pack arithmetic and the simulator agree on what a hover takes.
func TestHoverPowerIsThatOfMomentumTheory(t *testing.T) {
	for _, key := range []string{"rondine", "gheppio", "poiana", "airone"} {
		c := craftOf(t, key)
		k := at(c.Most())
		if k.Aids >= flight.SelfLevel {
			k.Throttle = hoverThrottle(t, key, k.Aids)
		}
		f := hover(t, key, k.Aids, nil)
		before := f.State.Energy
		fly(f, 1, k, nil)
		area := float64(len(c.Rotors)) * math.Pi * c.Radius * c.Radius
		w := c.Mass * flight.Gravity
		want := w*math.Sqrt(w/(2*flight.SeaLevelDensity*area))/c.Merit/c.Drive + c.Electronics
		near(t, key+"'s hover in W over momentum theory's", f.State.Volts*f.State.Amps/want, 1, 0.06)
		e := f.State.Energy
		near(t, key+"'s second of a hover in J over that", (e.Pack-before.Pack-e.Inside+before.Inside)/want, 1, 0.06)
	}
}

// With a compass that errs by 15° position hold still settles; by 30° it circles
// and grows; without position hold that stops.
// Half the tick changes a flight of 30 s by less than 4 cm and a degree.
// What the eye has to solve: nose-in, the right stick moves it to the pilot's
// left; in frame pilot back always comes closer; in frame frozen forward keeps its
// direction while the craft turns.
// The same inputs and seed give the same state, another seed other gusts.
// The gusts have the strength that the standard gives them: at 20 ft a tenth of
// the wind up and down, and that over 0.193^0.4 along and across.
func TestGustsAsStrongAsTheStandardSays(t *testing.T) {
	f := hover(t, "poiana", flight.PositionHold, func(c *flight.Config) {
		c.Gusts, c.Start.Z = flight.Moderate,
			20*0.3048
	})
	var n, a, b, c float64
	flight.AirAt(f, 2_000_000, func(along, across, up float64) {
		a, b, c, n = a+along*along, b+across*across, c+up*up, n+1
	})
	up := 0.1 * 30 * 0.514444
	along := up / math.Pow(0.177+0.000823*20, 0.4)
	near(t, "along", math.Sqrt(a/n), along, 0.05*along)
	near(t, "across", math.Sqrt(b/n), along, 0.05*along)
	near(t, "up", math.Sqrt(c/n), up, 0.05*up)
	near(t, "the profile at 6 m", flight.Profile(6, 0.03), 1, 1e-12)
	near(t, "the profile at 2 m", flight.Profile(2, 0.03), math.Log(2.03/0.03)/math.Log(6.03/0.03), 1e-12)
}

// A tick allocates nothing.
func BenchmarkTick(b *testing.B) {
	for _, key := range []string{"poiana", "airone"} {
		b.Run(key, func(b *testing.B) {
			f := hover(b, key, flight.PositionHold, func(c *flight.Config) {
				c.Still, c.Gusts, c.Wind, c.Charge = false, flight.Moderate, flight.Vec{X: 4}, 1
			})
			k := flight.Sticks{Pitch: 0.2, Yaw: 0.1}
			for b.Loop() {
				f.Step(k)
				f.State.Charge = 0.9
			}
		})
	}
}
