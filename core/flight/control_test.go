package flight_test

import (
	"math"
	"strings"
	"testing"

	"maestrale/core/flight"
)

func TestCompassError(t *testing.T) {
	off := func(deg, from, to float64) (far float64, f *flight.Flight) {
		f = hover(t, "poiana", flight.PositionHold, nil)
		f.Happen(flight.Event{Kind: flight.CompassError, Value: deg}, at(flight.PositionHold))
		f.State.Vel = flight.Vec{X: 0.6} // a nudge
		fly(f, from, at(flight.PositionHold), nil)
		fly(f, to-from, at(flight.PositionHold), func() { far = math.Max(far, math.Hypot(f.State.Pos.X, f.State.Pos.Y-10)) })
		return far, f
	}
	for _, deg := range []float64{0, 15, -15} {
		if far, _ := off(deg, 30, 40); far > 0.1 {
			t.Errorf("with %v° it is still %.2f m off", deg, far)
		}
	}
	// A third of a right angle is enough.
	var f *flight.Flight
	for _, deg := range []float64{30, -30, 45} {
		first, _ := off(deg, 0, 4)
		then, _ := off(deg, 8, 12)
		var late float64
		late, f = off(deg, 30, 40)
		if then < 1.3*first || late < 2*then {
			t.Errorf("with %v° it is %.2f m off at first, %.2f m then and %.2f m later: it does not grow", deg, first, then,
				late)
		}
	}
	// Out of position hold it flies level, and only drag is left.
	v := flat(f.State.Vel)
	fly(f, 12, at(flight.HeightHold), nil)
	if flat(f.State.Vel) > 0.35*v {
		t.Errorf("out of position hold it still goes %.2f m/s of %.2f", flat(f.State.Vel), v)
	}
}

func TestHalfTheTick(t *testing.T) {
	end := func(dt float64) (flight.Vec, float64) {
		f := hover(t, "poiana", flight.PositionHold, func(c *flight.Config) {
			c.Wind = flight.Vec{X: 2}
			flight.SetTick(c,
				dt)
		})
		rows := []flight.Row{{T: 0, Sticks: at(flight.PositionHold)}}
		for i := range 14 {
			x := math.Sin(float64(i))
			rows = append(rows, flight.Row{T: 1 + 2*float64(i), Sticks: flight.Sticks{Throttle: x / 4,
				Pitch: math.Cos(float64(3 * i)), Roll: x, Yaw: -x / 2}})
		}
		if _, err := f.Run(rows, 30, nil); err != nil {
			t.Fatal(err)
		}
		s := f.Sample(flight.Sticks{})
		return flight.Vec{X: s.X, Y: s.Y, Z: s.Z}, s.Heading
	}
	a, ha := end(flight.Tick)
	b, hb := end(flight.Tick / 2)
	near(t, "aside", a.X, b.X, 0.04)
	near(t, "away", a.Y, b.Y, 0.04)
	near(t, "height", a.Z, b.Z, 0.04)
	near(t, "heading", ha, hb, math.Pi/180)
}

func TestStickFrames(t *testing.T) {
	moved := func(heading float64, k flight.Sticks, before func(*flight.Flight)) flight.Vec {
		f := hover(t, "poiana", flight.PositionHold, func(c *flight.Config) {
			c.Heading, c.Start = heading,
				flight.Vec{X: 4, Y: 9, Z: 5}
		})
		if before != nil {
			before(f)
		}
		k.Aids = flight.PositionHold
		fly(f, 2, k, nil)
		return flight.Vec{X: f.State.Pos.X - 4, Y: f.State.Pos.Y - 9}
	}
	if d := moved(math.Pi, flight.Sticks{Roll: 0.5}, nil); d.X > -1 || math.Abs(d.Y) > 0.3 {
		t.Errorf("nose-in, right stick: %+v", d)
	}
	if d := moved(0, flight.Sticks{Roll: 0.5}, nil); d.X < 1 {
		t.Errorf("tail-in, right stick: %+v", d)
	}
	for h := -3.0; h < 3.1; h += 0.7 {
		d := moved(h, flight.Sticks{Pitch: -0.5, Frame: flight.Pilot}, nil)
		if was, is := math.Hypot(4, 9), math.Hypot(4+d.X, 9+d.Y); is > was-1 {
			t.Errorf("heading %.1f, back in frame pilot: %.2f m became %.2f", h, was, is)
		}
		turned := func(f *flight.Flight) {
			f.Happen(flight.Event{Kind: flight.Freeze}, flight.Sticks{})
			fly(f, 2, flight.Sticks{Aids: flight.PositionHold, Yaw: 0.7}, nil)
			fly(f, 2, at(flight.PositionHold), nil)
		}
		d = moved(h, flight.Sticks{Pitch: 0.5, Frame: flight.Frozen}, turned)
		if along := d.X*math.Sin(h) + d.Y*math.Cos(h); along < 1 || math.Abs(d.X*math.Cos(h)-d.Y*math.Sin(h)) > 0.4 {
			t.Errorf("heading %.1f, forward in the frozen frame after turning: %+v", h, d)
		}
	}
}

func TestSticksHoldEveryAxisTheRightWay(t *testing.T) {
	f := hover(t, "gheppio", flight.RateOnly, nil)
	th := hoverThrottle(t, "gheppio", flight.SelfLevel)
	for _, c := range []struct {
		name string
		k    flight.Sticks
		got  func() float64
	}{
		{"forward: nose down", flight.Sticks{Pitch: 0.5}, func() float64 { return -f.State.Rate.X }},
		{"right: right side down", flight.Sticks{Roll: 0.5}, func() float64 { return f.State.Rate.Y }},
		{"yaw: nose right", flight.Sticks{Yaw: 0.5}, func() float64 { return -f.State.Rate.Z }},
	} {
		f = hover(t, "gheppio", flight.RateOnly, nil)
		c.k.Aids, c.k.Throttle = flight.RateOnly, th
		fly(f, 0.2, c.k, nil)
		if c.got() < 0.8 {
			t.Errorf("%s: %.2f rad/s", c.name, c.got())
		}
		s := f.Sample(c.k)
		if c.k.Pitch > 0 && s.Pitch >= 0 || c.k.Roll > 0 && s.Roll <= 0 || c.k.Yaw > 0 && s.Heading <= 0 {
			t.Errorf("%s: the track says roll %.2f, pitch %.2f, heading %.2f", c.name, s.Roll, s.Pitch, s.Heading)
		}
	}
}

func TestRunsRepeat(t *testing.T) {
	run := func(seed uint64, g flight.Gusts) string {
		f := hover(t, "airone", flight.PositionHold, func(c *flight.Config) {
			c.Still, c.Seed, c.Gusts, c.Wind = false, seed,
				g, flight.Vec{X: 3}
		})
		o, err := f.Run([]flight.Row{{Sticks: at(flight.PositionHold)}, {T: 3, Sticks: flight.Sticks{Pitch: 0.4}}}, 20, nil)
		if err != nil || o.Ended != "airborne" || o.Ticks != 10_000 {
			t.Fatalf("%+v, %v", o, err)
		}
		return o.Hash
	}
	a := run(7, flight.Light)
	if a != run(7, flight.Light) {
		t.Error("the same flight is another one")
	}
	if a == run(8, flight.Light) || a == run(7, flight.Moderate) || a == run(7, flight.NoGusts) {
		t.Error("other gusts change nothing")
	}
}

func TestNewRefuses(t *testing.T) {
	for _, c := range []struct {
		change func(*flight.Config)
		want   string
	}{
		{func(c *flight.Config) { c.Craft.FullThrust = 0.9 }, "cannot lift itself"},
		{func(c *flight.Config) { c.Craft.Inertia.Y = 0 }, "inertia about roll"},
		{func(c *flight.Config) { c.Craft.Mass = math.NaN() }, "mass"},
		{func(c *flight.Config) { c.Start.Z = -1 }, "start height"},
		{func(c *flight.Config) { c.Airborne, c.Start.Z = true, 0 }, "airborne"},
		{func(c *flight.Config) { c.Wind.X = 60 }, "wind"},
		{func(c *flight.Config) { c.Aids = flight.RateOnly }, "does not fly with the aids"},
		{func(c *flight.Config) { c.Craft.Rotors = c.Craft.Rotors[:2] }, "2 rotors"},
		{func(c *flight.Config) { c.Craft.Curve[4] = 1 }, "rest volts"},
		{func(c *flight.Config) { c.Charge = 2 }, "charge"},
		{func(c *flight.Config) { c.Solids = make([]flight.Solid, 999) }, "999 things"},
		{func(c *flight.Config) { c.Solids = []flight.Solid{{Name: "the post", Height: math.NaN()}} }, "the post"},
		{func(c *flight.Config) {
			for i := range c.Craft.Rotors {
				c.Craft.Rotors[i].Clockwise = true
			}
		}, "layout"},
	} {
		cfg := flight.Config{Craft: craftOf(t, "poiana")}
		c.change(&cfg)
		if _, err := flight.New(cfg); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%v; expected %q", err, c.want)
		}
	}
}

func TestStepAllocatesNothing(t *testing.T) {
	f := hover(t, "airone", flight.PositionHold, func(c *flight.Config) {
		c.Still, c.Gusts, c.Wind = false,
			flight.Moderate, flight.Vec{X: 4}
	})
	if n := testing.AllocsPerRun(500, func() { f.Step(flight.Sticks{Pitch: 0.2}) }); n != 0 {
		t.Errorf("%v allocations a tick", n)
	}
}

// A craft's own gains take the place of those that follow from its rotors' lag.
func TestGainsOfTheCraft(t *testing.T) {
	back := func(g flight.Gains) float64 {
		f := hover(t, "poiana", flight.PositionHold, func(c *flight.Config) { c.Craft.Limits[flight.PositionHold].Gains = g })
		f.State.Pos.X = 2 // set aside
		fly(f, 1.5, at(flight.PositionHold), nil)
		return f.State.Pos.X
	}
	usual, slow := back(flight.Gains{}), back(flight.Gains{Place: 0.1})
	if slow < usual+0.3 {
		t.Errorf("after a second and a half it is %.2f m off, with a sixth of the gain %.2f m", usual, slow)
	}
	cfg := flight.Config{Craft: craftOf(t, "poiana")}
	cfg.Craft.Limits[flight.PositionHold].Gains.Rate = -3
	if _, err := flight.New(cfg); err == nil || !strings.Contains(err.Error(),
		"a gain of the craft with position-hold is -3") {
		t.Errorf("%v", err)
	}
}
