package flight_test

import (
	"math"
	"strings"
	"testing"

	"maestrale/core/flight"
)

func solid(kind flight.SolidKind, name string, x0, y0, x1, y1, radius, height float64) flight.Solid {
	return flight.Solid{Kind: kind, Name: name, A: flight.Vec{X: x0, Y: y0}, B: flight.Vec{X: x1, Y: y1}, Radius: radius,
		Height: height}
}

// What is met ends the flight with its cause; guards bounce at a walking pace; the
// sides with a sensor stop, the others do not, and nobody sees a wire.
func TestSurroundings(t *testing.T) {
	wall := solid(flight.Wall, "the wall", -30, 30, 30, 30, 0, 9)
	wire := solid(flight.Strand, "the wire", -30, 30, 30, 30, 0, 8.1)
	post := solid(flight.Column, "the post", 0, 30, 0, 30, 0.1, 9)
	for _, c := range []struct {
		name, want string
		solid      flight.Solid
		heading    float64
		k          flight.Sticks
		off        bool
	}{
		{"a wall ahead", "", wall, 0, flight.Sticks{Pitch: 0.7}, false},
		{"a wall ahead, sensors off", "struck the wall", wall, 0, flight.Sticks{Pitch: 0.7}, true},
		{"a wall behind", "", wall, math.Pi, flight.Sticks{Pitch: -0.7}, false},
		{"a wall at its right side", "struck the wall", wall, -math.Pi / 2, flight.Sticks{Roll: 0.7}, false},
		{"a post ahead", "", post, 0, flight.Sticks{Pitch: 0.7}, false},
		{"a wire ahead", "struck the wire", wire, 0, flight.Sticks{Pitch: 0.7}, false},
		{"a wall that is lower", "", solid(flight.Wall, "the wall", -30, 30, 30, 30, 0, 6), 0, flight.Sticks{Pitch: 0.7},
			true},
		{"a ceiling", "struck the ceiling", solid(flight.Ceiling, "the ceiling", -9, -9, 40, 40, 0, 10), 0,
			flight.Sticks{Throttle: 1}, false},
		{"down into water", "came down in the pond", solid(flight.Water, "the pond", -9, -9, 40, 40, 0, 0), 0,
			flight.Sticks{Throttle: -1}, false},
	} {
		f := hover(t, "poiana", flight.PositionHold, func(cfg *flight.Config) {
			cfg.Solids,
				cfg.Heading = []flight.Solid{c.solid}, c.heading
		})
		if c.off {
			f.Happen(event(t, "sensors=off"), low)
		}
		closest := math.Inf(1)
		fly(f, 12, c.k, func() { closest = math.Min(closest, math.Abs(f.State.Pos.Y-30)) })
		if (c.want == "") == f.Ended() || !strings.Contains(f.State.Cause, c.want) {
			t.Errorf("%s: ended %v, %q; expected %q", c.name, f.Ended(), f.State.Cause, c.want)
		}
		if c.want == "" && !c.off && closest < 1.5 {
			t.Errorf("%s: it came as near as %.2f m", c.name, closest)
		}
	}
	// A ducted craft bounces off what a bare one is broken by.
	hit := func(speed float64) *flight.Flight {
		f := hover(t, "rondine", flight.SelfLevel, func(cfg *flight.Config) {
			cfg.Solids, cfg.Start = []flight.Solid{solid(flight.Wall, "the wall", -30, 12, 30, 12, 0, 9)}, flight.Vec{Y: 11,
				Z: 4}
		})
		f.State.Vel = flight.Vec{Y: speed}
		fly(f, 1, flight.Sticks{Aids: flight.SelfLevel, Throttle: hoverThrottle(t, "rondine", flight.SelfLevel)}, nil)
		return f
	}
	if f := hit(1.3); f.Ended() || f.State.Vel.Y > 0 {
		t.Errorf("guards at 1.3 m/s: %s, %.2f m/s", f.State.Cause, f.State.Vel.Y)
	}
	if f := hit(4); !f.Ended() {
		t.Error("guards bear 4 m/s")
	}
}

func TestTheGround(t *testing.T) {
	drop := func(height float64, surface flight.Surface, change func(*flight.Flight)) *flight.Flight {
		f := parked(t, "poiana", func(c *flight.Config) { c.Start.Z, c.Surface = height, surface })
		if change != nil {
			change(f)
		}
		fly(f, 3, low, nil)
		return f
	}
	if f := drop(0.3, flight.Hardstanding, nil); f.Ended() || !f.OnGround() || math.Abs(f.Sample(low).Z+0.004) > 0.002 ||
		flat(f.State.Vel) > 0.01 {
		t.Errorf("dropped 0.3 m: %+v %s", f.Sample(low), f.State.Cause)
	}
	if f := drop(1, flight.Hardstanding, nil); !f.Ended() || !strings.Contains(f.State.Cause, "hit the ground at 4.") {
		t.Errorf("dropped a metre: %q", f.State.Cause)
	}
	slid := func(s flight.Surface) float64 {
		f := drop(0, s, func(f *flight.Flight) { f.State.Vel.X = 2 })
		return f.State.Pos.X
	}
	hard, grass := slid(flight.Hardstanding), slid(flight.ShortGrass)
	near(t, "slides on hardstanding: v²/2μg", hard, 4/(2*0.6*flight.Gravity), 0.1)
	if grass >= hard {
		t.Errorf("on grass it slides %.2f m, on hardstanding %.2f", grass, hard)
	}
	if f := drop(0, flight.Hardstanding, func(f *flight.Flight) { f.State.Rate.Y = 25 }); !f.Ended() {
		t.Error("thrown on its side it lives")
	}
	f := parked(t, "rondine", func(c *flight.Config) { c.Surface = flight.LongGrass })
	fly(f, 0.2, low, nil)
	f.Happen(event(t, "arm"), low)
	fly(f, 1, flight.Sticks{Aids: flight.SelfLevel, Throttle: 0.8}, nil)
	if !strings.Contains(f.State.Cause, "grass stopped a rotor") {
		t.Errorf("in long grass: %q", f.State.Cause)
	}
}

func TestGimbal(t *testing.T) {
	f := hover(t, "poiana", flight.PositionHold, nil)
	fly(f, 1, flight.Sticks{Wheel: -0.5}, nil)
	near(t, "half a wheel for a second, degrees", f.State.Tilt*180/math.Pi, -60*(0.5-0.04)/0.96, 0.5)
	fly(f, 9, flight.Sticks{Wheel: -1}, nil)
	near(t, "straight down", f.State.Tilt*180/math.Pi, -90, 1e-9)
}
