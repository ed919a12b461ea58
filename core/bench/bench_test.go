package bench_test

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"maestrale/core/bench"
	"maestrale/core/craft"
	"maestrale/core/flight"
	"maestrale/core/rig"
)

// craftOf is a shipped type as it flies.
func craftOf(t testing.TB, key string) flight.Craft {
	t.Helper()
	c, err := rig.Craft(craft.Shipped()[key])
	if err != nil {
		t.Fatal(err)
	}
	return c
}

func onBench(t testing.TB, key string) *bench.Bench {
	t.Helper()
	b, err := bench.New(craftOf(t, key))
	if err != nil {
		t.Fatal(err)
	}
	return b
}

func rest(b *bench.Bench, seconds float64) {
	for range int(seconds * 50) {
		b.Step(0.02)
	}
}

var benches = []string{"rondine", "gheppio", "poiana", "airone"}

// On the bench a stick does what it does in the air: throttle climbs, yaw turns the
// nose its way, pitch and roll lean the craft theirs, and nothing else happens.
func TestBenchFollowsTheSticks(t *testing.T) {
	for _, key := range benches {
		for _, c := range []struct {
			k    flight.Sticks
			want bench.Motion
		}{
			{flight.Sticks{}, bench.Motion{}},
			{flight.Sticks{Throttle: 0.5}, bench.Motion{Climb: 1}}, {flight.Sticks{Throttle: -0.5}, bench.Motion{Climb: -1}},
			{flight.Sticks{Yaw: 0.7}, bench.Motion{Turn: 1}}, {flight.Sticks{Yaw: -0.7}, bench.Motion{Turn: -1}},
			{flight.Sticks{Pitch: 0.7}, bench.Motion{Ahead: 1}}, {flight.Sticks{Pitch: -0.7}, bench.Motion{Ahead: -1}},
			{flight.Sticks{Roll: 0.7}, bench.Motion{Right: 1}}, {flight.Sticks{Roll: -0.7}, bench.Motion{Right: -1}},
		} {
			b := onBench(t, key)
			b.Sticks(c.k)
			if got := b.Motion(); got != c.want || !b.State.Kept.All() {
				t.Errorf("%s with %+v %s and keeps %+v; expected that it %s", key, c.k, got.Words(), b.State.Kept, c.want.Words())
			}
			rest(b, 1)
			s := b.State
			for _, p := range []struct {
				name string
				v    float64
				want int
			}{{"heading", s.Heading, c.want.Turn}, {"roll", s.Roll, c.want.Right}, {"pitch", -s.Pitch, c.want.Ahead}, {"height",
				s.Height, c.want.Climb}} {
				if (p.want == 0) != (math.Abs(p.v) < 0.02) || p.v*float64(p.want) < 0 {
					t.Errorf("%s with %+v: %s %.3f", key, c.k, p.name, p.v)
				}
			}
			// Let go, nothing turns it further and it dies away; the spring levels it.
			b.Sticks(flight.Sticks{})
			rest(b, 6)
			if s := b.State; math.Abs(s.Turning)+math.Abs(s.Roll)+math.Abs(s.Pitch)+math.Abs(s.Climb) > 0.02 {
				t.Errorf("%s let go: %+v", key, s)
			}
		}
	}
}

// The reaction torques of the rotors add up to what turns the craft, and each
// pushes against its own spin.
func TestBenchTorquesAgainstTheSpin(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 4))
	for _, key := range benches {
		b, c := onBench(t, key), craftOf(t, key)
		for range 200 {
			shares := make([]float64, len(c.Rotors))
			for i := range shares {
				shares[i] = b.Fastest() * r.Float64()
			}
			if err := b.Rotors(shares); err != nil {
				t.Fatal(err)
			}
			rest(b, 2)
			sum := 0.0
			for i := range shares {
				sum += b.State.Torque[i]
				if (b.State.Torque[i] > 0) == c.Rotors[i].Clockwise {
					t.Fatalf("%s: rotor %d pushes with its spin", key, i+1)
				}
			}
			if math.Abs(sum) > 1e-4*c.Mass && (sum > 0) != (b.State.Yaw > 0) {
				t.Fatalf("%s: torques of %v and a yaw of %v", key, sum, b.State.Yaw)
			}
		}
	}
}

// Every question is answered by what the mixer does for it, and by nothing that
// goes another way; what is shown for the sticks is the motion that is wanted.
func TestBenchQuestions(t *testing.T) {
	for _, key := range benches {
		b := onBench(t, key)
		all := b.Questions()
		if len(all) != 16 {
			t.Fatalf("%d questions", len(all))
		}
		for i, q := range all {
			for j, other := range all {
				if other.Rotors {
					continue
				}
				if err := b.Rotors(other.Shown); err != nil {
					t.Fatal(err)
				}
				right, why, err := b.Answer(q.Key)
				if err != nil || right != (q.Want == other.Want) || len(why) < 20 || strings.Contains(why, ": .") {
					t.Errorf("%s: question %d by what is shown for %d: %v %q %v", key, i, j, right, why, err)
				}
			}
		}
		if _, _, err := b.Answer("sideways"); err == nil {
			t.Error("an unknown question is answered")
		}
	}
	b := onBench(t, "gheppio")
	b.Sticks(flight.Sticks{Yaw: 1})
	if _, why, _ := b.Answer("right-rotors"); !strings.Contains(why, "rotors that spin counter-clockwise turn faster") {
		t.Error(why)
	}
}

// What cannot all be had gives up yaw first, then thrust moves, roll and pitch stay.
func TestBenchShowsWhatIsGivenUp(t *testing.T) {
	b := onBench(t, "poiana")
	b.Sticks(flight.Sticks{Throttle: 1, Yaw: 1, Pitch: 1, Roll: 1})
	if k := b.State.Kept; k.Yaw >= 1 || k.Lean != 1 {
		t.Errorf("%+v", k)
	}
	b.Sticks(flight.Sticks{Throttle: -1, Pitch: 1, Roll: 1})
	if k := b.State.Kept; k.Moved < 0 || k.Lean != 1 {
		t.Errorf("%+v", k)
	}
	for _, bad := range [][]float64{{1, 1, 1}, {1, 1, 1, 9}, {1, 1, 1, math.NaN()}, {1, -1, 1, 1}} {
		if err := b.Rotors(bad); err == nil {
			t.Errorf("%v is taken", bad)
		}
	}
}
