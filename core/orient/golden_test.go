package orient

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"testing"
	"time"

	"maestrale/core/field"
	"maestrale/internal/golden"
)

// What the arithmetic of orientation says of made-up flights, calls and answers. A change of a threshold shows here as
// a difference to read. Figures are rounded, so that the last bits do not matter.
func TestOrientationAsItIs(t *testing.T) {
	var out bytes.Buffer
	say := func(what string, v any) {
		data, err := json.Marshal(v)
		if err != nil {
			t.Fatal(err)
		}
		fmt.Fprintf(&out, "%s: %s\n", what, data)
	}
	for seed := range uint64(6) {
		w := made(seed)
		for _, s := range w.Stretches {
			at, share := s.After.Likeliest()
			fmt.Fprintf(&out, "flight %d, %.2f to %.2f s: %q, turned %.1f°, %.2f m/s, %s, moved %v, against %v, aspect %.0f°, "+
				"known %.0f° by %.3f, told %.3f bits, pushed %v %.0f° closing %.3f, before it: %s\n", seed, s.From, s.To,
				s.Input, s.Turned.Deg(), s.SpeedMps, s.Saw, s.Moved, s.Against, s.Aspect.Deg(), at.Deg(), share, s.Bits,
				s.Pushed, s.Push.Deg(), s.Closing, s.Before.Words())
		}
		count, first := WrongInputs(w.Stretches)
		found, ok := Found(w.Stretches, Known)
		fmt.Fprintf(&out, "flight %d: %d wrong from %.2f s, found %.2f %v, missed %d, told most %d\n", seed, count, first,
			found,
			ok, Missed(w.Stretches), ToldMost(w.Stretches))
	}
	for _, l := range Levels {
		var runs []Run
		for i := range 6 {
			due := Due(runs)
			graded := GradedOf(l.Key, runs)
			fmt.Fprintf(&out, "level %s after %d runs: due %s, %+v, begins %v %v %v\n", l.Key, i, due.Key, graded,
				l.Begins(field.Degrees(0)), l.Begins(field.Degrees(80)), l.Begins(field.Degrees(float64(30*i))))
			runs = append(runs, Run{Level: l.Key, Drill: "regain-turn", Pass: i != 2, Coached: i == 3, Ended: i != 2,
				HomeS: float64(8 + i),
				LostM: float64(i), Wrong: i % 2})
		}
	}
	now := time.Date(2026, 5, 2, 20, 0, 0, 0, time.UTC)
	rng := rand.New(rand.NewPCG(8, 8))
	r := ReflexesOf(nil)
	for i := range 400 {
		at := now.Add(time.Duration(i) * 40 * time.Minute)
		item := r.Next(at, rng)
		off := math.Abs((item.Aspect() - field.Degrees(120)).Wrap().Deg())
		r.Add(Answer{Item: item, At: at, Right: rng.Float64() > 0.4*math.Exp(-off/40), Seconds: 0.4 + rng.Float64()})
		if i%80 == 79 {
			say(fmt.Sprintf("reflexes after %d", i+1), rounded(r.Sectors()))
			say("advice", r.Advice([field.Sectors]string{"tail-in"}))
		}
	}
	for _, q := range []float64{0.2, 0.5, 0.79, 0.8, 0.81, 1.2, 1.5, 2.5, 4} {
		for _, right := range []bool{true, false} {
			quality := Answer{Right: right, Seconds: q}.Quality()
			m := Fresh()
			for range 4 {
				m = m.After(quality, now)
			}
			fmt.Fprintf(&out, "answered in %v s, %v: %d, then %+v\n", q, right, quality, m)
		}
	}
	for _, spacing := range []float64{0.03, 0.06, 0.3} {
		for _, light := range []Light{Day, Overcast, Dusk} {
			tell, err := TellDistance(spacing, 1, light)
			fmt.Fprintf(&out, "cue of %v m by %s: %.2f m %v\n", spacing, light, tell, err)
		}
	}
	var calls []Call
	var last []int
	for i := range 40 {
		x, err := SightOf(0.06, 1, Day, calls)
		if err != nil {
			t.Fatal(err)
		}
		mark, aspect, err := NextCall(0.06, Day, calls, 10, last, rng)
		fmt.Fprintf(&out, "calls %d: told to %.2f m, half %.2f (%.2f to %.2f), enough %v, next %.1f m %d %v\n", i, x.TellM,
			x.HalfM,
			x.Low, x.High, x.Enough, mark, aspect, err)
		calls = append(calls, Call{DistanceM: mark, Right: rng.Float64() > mark/90, Light: Day})
		last = append(last, aspect)
	}
	golden.Check(t, "orientation.golden", out.Bytes())
}

// made is a flight by chance from a seed, watched.
func made(seed uint64) *Watch {
	rng := rand.New(rand.NewPCG(seed, 31))
	e := Usual()
	e.WindMps, e.WindFrom = float64(seed%3), field.Degrees(90)
	w := NewWatch(e)
	w.Ask = true
	x, y, heading := 5*rng.NormFloat64(), 60.0, 2*math.Pi*rng.Float64()
	var m Made
	var pitch, roll, yaw float64
	for i := range 900 {
		if i%70 == 0 {
			pitch, roll, yaw = 0, 0, 0
			switch rng.IntN(5) {
			case 0:
				pitch = 0.6
			case 1:
				pitch = -0.5
			case 2:
				roll = 1.2*rng.Float64() - 0.6
			case 3:
				pitch, yaw = 0.5, 0.4
			}
		}
		turn := yaw * 0.02 * float64(e.YawRate)
		heading += turn
		m.Follow(0.02, field.Angle(turn), pitch, roll)
		sin, cos := math.Sincos(heading)
		full := e.AirspeedMps / UsualStick
		vx := full*(m.Ahead*sin+m.Right*cos) - e.WindMps
		vy := full * (m.Ahead*cos - m.Right*sin)
		x, y = x+0.02*vx, y+0.02*vy
		w.Add(Sample{T: 0.02 * float64(i), X: x, Y: y, VX: vx, VY: vy, Heading: field.Angle(heading), Pitch: pitch,
			Roll: roll,
			Yaw:  yaw, Holds: seed%2 == 1 && e.WindMps == 0})
	}
	w.End()
	return w
}

// rounded writes the sectors with few digits.
func rounded(list [field.Sectors]SectorReflex) (out []string) {
	for _, s := range list {
		out = append(out, fmt.Sprintf("%.4v", s))
	}
	return out
}
