package flight_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"maestrale/core/flight"
)

func TestReadSticks(t *testing.T) {
	rows, err := flight.ReadSticks(strings.NewReader("\ufefft_s,throttle,yaw,pitch,roll,gimbal,aids,frame,event\n"+
		"0,-1,0,0,0,,,,arm\n0.5,0,0.5,-0.25,1,0.2,height-hold,pilot,takeoff; call\n"+
		"2,0,0,0,0,,,,fence=30/12;compass=-40\n"), "s.csv", flight.PositionHold)
	if err != nil || len(rows) != 3 {
		t.Fatalf("%+v, %v", rows, err)
	}
	if r := rows[1]; r.Sticks != (flight.Sticks{Throttle: 0, Yaw: 0.5, Pitch: -0.25, Roll: 1, Wheel: 0.2,
		Aids: flight.HeightHold, Frame: flight.Pilot}) || len(r.Events) != 2 || r.Events[1].Kind != flight.CallOut {
		t.Errorf("%+v", r)
	}
	if r := rows[2]; r.Sticks.Aids != flight.HeightHold || r.Sticks.Frame != flight.Pilot ||
		r.Events[0] != (flight.Event{Kind: flight.Fence, Value: 30, More: 12}) || r.Events[1].Value != -40 {
		t.Errorf("aids and frame do not hold: %+v", r)
	}
	const head = "t_s,throttle,yaw,pitch,roll\n"
	for _, c := range []struct{ text, want string }{
		{"", "s.csv:1: no header line; expected t_s,throttle"},
		{"t_s,throttle,yaw,pitch\n", "s.csv:1: the column roll is missing"},
		{"t_s,throttle,yaw,pitch,roll,roll\n", "stands twice"},
		{head, "s.csv:2: no rows"},
		{head + "0,NaN,0,0,0\n", `s.csv:2: throttle is "NaN"; expected a number from -1 to 1`},
		{head + "0,0,0,1.2,0\n", `s.csv:2: pitch is "1.2"`},
		{head + "0,0,0,0\n", `s.csv:2: roll is ""`},
		{head + "1,0,0,0,0\n1,0,0,0,0\n", "s.csv:3: t_s is 1 after 1; expected times that rise"},
		{head + "-1,0,0,0,0\n", "s.csv:2: t_s"},
		{head + "9999,0,0,0,0\n", "s.csv:2: t_s"},
		{head + "0,\"0,0,0,0\n", "s.csv:"},
		{"t_s,throttle,yaw,pitch,roll,event\n0,0,0,0,0,explode\n", `s.csv:2: the event "explode"; expected arm, disarm`},
		{"t_s,throttle,yaw,pitch,roll,event\n0,0,0,0,0,fence=20\n", "expected RADIUS/HEIGHT"},
		{"t_s,throttle,yaw,pitch,roll,aids\n0,0,0,0,0,magic\n", `s.csv:2: aids are "magic"`},
		{"t_s,throttle,yaw,pitch,roll,frame\n0,0,0,0,0,moon\n", `the frame is "moon"`},
	} {
		if _, err := flight.ReadSticks(strings.NewReader(c.text), "s.csv", flight.PositionHold); err == nil ||
			!strings.Contains(err.Error(), c.want) {
			t.Errorf("%q: %v; expected %q", c.text, err, c.want)
		}
	}
}

func TestEventsAreWrittenAndRead(t *testing.T) {
	for _, text := range []string{"arm", "disarm", "takeoff", "land", "home", "cancel", "freeze", "fix-lost", "fix-back",
		"link-lost", "link-back", "compass=-40", "pack=12.5", "rotor=2:60", "gentle=on", "gentle=off", "fence=30/12",
		"sensors=off", "gust=6", "call"} {
		e, err := flight.ParseEvent(text)
		if err != nil || e.String() != text {
			t.Errorf("%s: %q, %v", text, e, err)
		}
	}
	for _, text := range []string{"", "ARM", "arm=1", "compass", "compass=x", "compass=400", "pack=-1", "rotor=0:50",
		"rotor=9:50", "rotor=2", "rotor=2:200", "gentle", "gentle=maybe", "fence=a/b", "fence=-1/2", "gust=NaN", "gust=99"} {
		if e, err := flight.ParseEvent(text); err == nil {
			t.Errorf("%q is read as %+v", text, e)
		}
	}
}

func FuzzReadSticks(f *testing.F) {
	f.Add("t_s,throttle,yaw,pitch,roll,gimbal,aids,frame,event\n0,-1,0,0,0,,self-level,pilot,arm;rotor=1:50\n")
	f.Fuzz(func(t *testing.T, text string) {
		rows, err := flight.ReadSticks(strings.NewReader(text), "s", flight.PositionHold)
		if (err == nil) != (len(rows) > 0) {
			t.Errorf("%v, %d rows", err, len(rows))
		}
		for i, r := range rows {
			if i > 0 && r.T <= rows[i-1].T {
				t.Errorf("row %d does not come later", i)
			}
			for _, v := range []float64{r.Sticks.Throttle, r.Sticks.Yaw, r.Sticks.Pitch, r.Sticks.Roll, r.Sticks.Wheel} {
				if !(v >= -1 && v <= 1) {
					t.Errorf("row %d holds %v", i, v)
				}
			}
		}
	})
}

// finite tells whether everything that moves is a number, and a possible one.
func finite(f *flight.Flight) bool {
	s := &f.State
	for _, v := range []float64{s.Pos.X, s.Pos.Y, s.Pos.Z, s.Vel.X, s.Vel.Y, s.Vel.Z, s.Att.W, s.Att.X, s.Att.Y, s.Att.Z,
		s.Rate.X, s.Rate.Y, s.Rate.Z, s.Charge, s.Volts, s.Amps, s.Tilt} {
		if !(math.Abs(v) < 1e6) {
			return false
		}
	}
	for _, w := range s.Rotor {
		if !(w >= 0 && w < 1e5) {
			return false
		}
	}
	q := s.Att
	return math.Abs(q.W*q.W+q.X*q.X+q.Y*q.Y+q.Z*q.Z-1) < 1e-9
}

// anyFlight flies sticks and events of chance.
func anyFlight(t *testing.T, seed uint64, data []byte) {
	r := rand.New(rand.NewPCG(seed, 1))
	key := []string{"poiana", "airone", "gheppio", "rondine"}[r.IntN(4)]
	c := craftOf(t, key)
	aids := c.Most()
	cfg := flight.Config{Craft: c, Aids: aids, Seed: seed, Start: flight.Vec{Y: 8},
		Wind: flight.Vec{X: 20*r.Float64() - 10,
			Y: 20*r.Float64() - 10}, Gusts: flight.Gusts(r.IntN(4)), Surface: flight.Surface(r.IntN(6)), PoorFix: r.IntN(2) == 0,
		Solids: []flight.Solid{solid(flight.Column, "the post", 3, 8, 3, 8, 0.1, 3), solid(flight.Ceiling, "the ceiling", -50,
			-50, 50, 50, 0, 6), solid(flight.Strand, "the wire", -9, 20, 9, 20, 0, 4)}}
	if r.IntN(2) == 0 {
		cfg.Airborne, cfg.Start.Z = true, 0.3+5*r.Float64()
	}
	f, err := flight.New(cfg)
	if err != nil {
		t.Fatal(err)
	}
	words := []string{"arm", "disarm", "takeoff", "land", "home", "cancel", "freeze", "fix-lost", "fix-back", "link-lost",
		"link-back", "compass=180", "compass=-70", "pack=0", "pack=100", "rotor=1:0", "rotor=3:40", "gentle=on",
		"fence=0.5/0.5", "fence=0/0", "sensors=off", "gust=30", "gust=-30", "call"}
	axis := func(b byte) float64 { return float64(int(b)-128) / 127.5 }
	for i := 0; i+6 < len(data) && !f.Ended(); i += 7 {
		k := flight.Sticks{Throttle: axis(data[i]), Yaw: axis(data[i+1]), Pitch: axis(data[i+2]), Roll: axis(data[i+3]),
			Wheel: axis(data[i+4]), Aids: flight.Aids(data[i+5] % 7), Frame: flight.Frame(data[i+5] / 7 % 4)}
		if data[i+6] < 200 {
			e, err := flight.ParseEvent(words[int(data[i+6])%len(words)])
			if err != nil {
				t.Fatal(err)
			}
			f.Happen(e, k)
		}
		for range 100 {
			f.Step(k)
		}
		if !finite(f) {
			t.Fatalf("%s after %.1f s: %+v", key, f.Now(), f.State)
		}
		f.Sample(k)
	}
}

// Nothing that a pilot does makes a state that is no number.
func TestNothingBreaksTheNumbers(t *testing.T) {
	r := rand.New(rand.NewPCG(6, 6))
	for seed := range uint64(150) {
		data := make([]byte, 7*60)
		for i := range data {
			data[i] = byte(r.IntN(256))
			if i >= 7 && r.IntN(3) > 0 {
				data[i] = data[i-7] // sticks are held for a while
			}
		}
		anyFlight(t, seed, data)
	}
}

func FuzzFlight(f *testing.F) {
	f.Add(uint64(1), []byte("\x00\x80\x80\x80\x80\x00\x00\xff\x80\xff\x00\x80\x00\x02"))
	f.Fuzz(func(t *testing.T, seed uint64, data []byte) {
		if len(data) > 7*40 {
			data = data[:7*40]
		}
		anyFlight(t, seed, data)
	})
}

// For any layout the mixer gives what is asked where it can; where it cannot it
// gives up yaw first and roll and pitch last.
func TestMixer(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 4))
	for _, n := range []int{4, 6, 8} {
		var c flight.Craft
		for i := range n {
			c.Rotors = append(c.Rotors, flight.Rotor{Arm: 0.3, Angle: 2 * math.Pi * (float64(i) + 0.5) / float64(n),
				Clockwise: i%2 == 0})
		}
		const turn = 0.015
		got := func(f [flight.MostRotors]float64) (thrust float64, torque flight.Vec) {
			for i, rotor := range c.Rotors {
				x, y := rotor.Arm*math.Sin(rotor.Angle), rotor.Arm*math.Cos(rotor.Angle)
				thrust += f[i]
				torque.X += y * f[i]
				torque.Y -= x * f[i]
				if rotor.Clockwise {
					torque.Z += turn * f[i]
				} else {
					torque.Z -= turn * f[i]
				}
			}
			return thrust, torque
		}
		full := 0
		for range 2000 {
			thrust := 4 + 30*r.Float64()
			want := flight.Vec{X: 2 * r.NormFloat64(), Y: 2 * r.NormFloat64(), Z: 0.15 * r.NormFloat64()}
			f, saturated, err := flight.Mix(&c, turn, thrust, want, 0.3, 8)
			if err != nil {
				t.Fatal(err)
			}
			for i := range n {
				if f[i] < 0.3-1e-9 || f[i] > 8+1e-9 {
					t.Fatalf("a rotor is asked for %v N", f[i])
				}
			}
			gotThrust, torque := got(f)
			if !saturated {
				full++
				if math.Abs(gotThrust-thrust) > 1e-9 ||
					math.Abs(torque.X-want.X)+math.Abs(torque.Y-want.Y)+math.Abs(torque.Z-want.Z) > 1e-9 {
					t.Fatalf("%d rotors: %v N and %+v of %v N and %+v", n, gotThrust, torque, thrust, want)
				}
				continue
			}
			// Roll and pitch keep their direction, and their size where it fits at all.
			if cross := torque.X*want.Y - torque.Y*want.X; math.Abs(cross) > 1e-6*(1+math.Abs(want.X*want.Y)) {
				t.Fatalf("%d rotors: leans toward %+v and not %+v", n, torque, want)
			}
			if math.Abs(torque.Z) > math.Abs(want.Z)+1e-9 || torque.Z*want.Z < -1e-9 {
				t.Fatalf("%d rotors: yaw %v of %v", n, torque.Z, want.Z)
			}
		}
		if full < 100 {
			t.Errorf("%d rotors: only %d of the wishes could be had", n, full)
		}
		// Yaw alone is given up before thrust is.
		f, saturated, _ := flight.Mix(&c, turn, float64(n)*7.9, flight.Vec{Z: 5}, 0.3, 8)
		if thrust, torque := got(f); !saturated || math.Abs(thrust-float64(n)*7.9) > 1e-9 || torque.Z <= 0 || torque.Z >= 5 {
			t.Errorf("%d rotors: %v N and yaw %v", n, thrust, torque.Z)
		}
	}
}

func TestRunRefuses(t *testing.T) {
	f := hover(t, "poiana", flight.PositionHold, nil)
	for _, s := range []float64{0, -1, math.NaN(), 1e6} {
		if _, err := f.Run([]flight.Row{{}}, s, nil); err == nil || !strings.Contains(err.Error(), "expected over 0") {
			t.Errorf("%v s: %v", s, err)
		}
	}
	if _, err := f.Run(nil, 1, nil); err == nil || !strings.Contains(err.Error(), "no sticks") {
		t.Errorf("%v", err)
	}
}

// A row counts from the first reading of the sticks at or after its time, and
// samples come at 50 Hz with the calls between them.
func TestRowsAndSamples(t *testing.T) {
	rows := []flight.Row{{Sticks: at(flight.PositionHold)}, {T: 0.503, Sticks: flight.Sticks{Yaw: 1},
		Events: []flight.Event{{Kind: flight.CallOut}, {Kind: flight.CallOut}}}}
	f := hover(t, "poiana", flight.PositionHold, nil)
	var said []string
	n, calls := 0, 0
	o, err := f.Run(rows, 2, func(s flight.Sample) {
		if s.Sticks.Yaw == 1 && len(said) == 0 {
			said = append(said, fmt.Sprintf("%.2f", s.T))
		}
		n, calls = n+1, calls+s.Calls
	})
	if err != nil || o.Ticks != 1000 || n != 101 || calls != 2 || len(said) != 1 || said[0] != "0.52" {
		t.Errorf("%+v, %v: %d samples, %d calls, the yaw begins at %v", o, err, n, calls, said)
	}
}
