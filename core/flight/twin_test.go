package flight

import (
	"bytes"
	"fmt"
	"math"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"

	"maestrale/core/flight/fmath"
)

const twinTicks = 30_000

var twinSticks = Sticks{Pitch: 0.2, Yaw: 0.1}

// twinFlight is a minute with position hold in gusts. The craft is a quadrotor of 0.9 kg of no make.
func twinFlight(t testing.TB) *Flight {
	t.Helper()
	c := Craft{Mass: 0.9, Span: 0.35, Radius: 0.115, HoverRps: 95, FullThrust: 2.1, Merit: 0.6, Drive: 0.8, Pitch: 0.13,
		Lag: 0.045, Electronics: 6, Inertia: Vec{0.006, 0.007, 0.012}, RotorDrag: 0.25, BodyDrag: 0.012, Down: true,
		Cells: 4, CapacityAh: 5, OhmPerCell: 0.004, EmptyVolts: 3,
		Curve: [11]float64{3.27, 3.69, 3.73, 3.77, 3.79, 3.82, 3.87, 3.92, 3.98, 4.08, 4.2}}
	for i := range 4 {
		c.Rotors = append(c.Rotors, Rotor{Arm: 0.175, Angle: float64(2*i+1) * math.Pi / 4, Clockwise: i%2 == 0})
	}
	c.Limits[PositionHold] = Limits{Has: true, Lean: 0.5, Speed: 8, Climb: 3, Descend: 2, YawMax: 1.5, Brake: 2.5}
	f, err := New(Config{Craft: c, Wind: Vec{X: 4}, Gusts: Moderate, Seed: 7, Start: Vec{Y: 10, Z: 8}, Airborne: true})
	if err != nil {
		t.Fatal(err)
	}
	return f
}

// twinNumbers are the numbers that the twin reads, in the order of bench/twin/twin.c.
func twinNumbers(f *Flight) []byte {
	var b bytes.Buffer
	c, s, x := f.craft, &f.State, &f.fixed
	g, lim, p := f.gains(), &f.craft.Limits[PositionHold], &f.State.pilot
	one := func(name string, v float64) { fmt.Fprintf(&b, "%s %x\n", name, v) }
	down := 0.0
	if c.Down {
		down = 1
	}
	for _, n := range []struct {
		name string
		v    float64
	}{
		{"ticks", twinTicks}, {"dt", f.dt}, {"pitch", twinSticks.Pitch}, {"yaw", twinSticks.Yaw}, {"n", float64(f.mix.N)},
		{"mass", c.Mass}, {"span", c.Span}, {"radius", c.Radius}, {"hoverInflow", f.hoverInflow}, {"hoverPitch", c.Pitch},
		{"kThrust", f.kThrust}, {"mostOmega", f.mostOmega}, {"idle", f.idle}, {"density", f.density},
		{"inertiaX", c.Inertia.X}, {"inertiaY", c.Inertia.Y}, {"inertiaZ", c.Inertia.Z}, {"rotorInertia", f.rotorInertia},
		{"rotorDrag", c.RotorDrag}, {"bodyDrag", c.BodyDrag}, {"drive", c.Drive}, {"electronics", c.Electronics},
		{"cells", float64(c.Cells)}, {"capacity", c.CapacityAh}, {"emptyVolts", c.EmptyVolts}, {"fullVolts", f.fullVolts},
		{"perMass", x.perMass}, {"lagStep", x.lagStep}, {"inertiaStep", x.inertiaStep}, {"thrust", x.thrust},
		{"drag", x.drag}, {"throughput", x.throughput}, {"supplyStep", x.supplyStep}, {"inflowStep", x.inflowStep},
		{"meanLog", x.meanLog}, {"driftFix", x.drift[driftFix]}, {"driftHeight", x.drift[driftHeight]},
		{"driftWash", x.drift[driftWash]}, {"driftSkid", x.drift[driftSkid]}, {"packOhm", x.packOhm}, {"draw", x.draw},
		{"place", g.Place}, {"speed", g.Speed}, {"lean", g.Lean}, {"rate", g.Rate}, {"height", g.Height}, {"climb", g.Climb},
		{"limLean", lim.Lean}, {"limSpeed", lim.Speed}, {"limYaw", lim.YawMax}, {"limClimb", lim.Climb},
		{"limDescend", lim.Descend}, {"limBrake", lim.Brake}, {"down", down}, {"gusts", float64(f.cfg.Gusts)},
		{"roughness", f.cfg.Roughness}, {"windMps", f.windMps}, {"windToX", f.windTo.X}, {"windToY", f.windTo.Y},
	} {
		one(n.name, n.v)
	}
	list := func(name string, of func(i int) float64) {
		for i := range 11 {
			v := 0.0
			if i < MostRotors || name == "curve" || name == "weak" {
				v = of(i)
			}
			one(name, v)
		}
	}
	list("mixX", func(i int) float64 { return f.mix.X[i] })
	list("mixY", func(i int) float64 { return f.mix.Y[i] })
	for j := range 4 {
		list(fmt.Sprintf("inverse%d", j), func(i int) float64 { return f.mix.inverse[i][j] })
	}
	list("clockwise", func(i int) float64 { return x.clockwise[i] })
	list("weak", func(i int) float64 {
		if i < MostRotors {
			return s.weak[i]
		}
		return s.Rotor[0] // the ninth is the speed at which every rotor starts
	})
	list("curve", func(i int) float64 { return c.Curve[i] })
	for name, v := range inOrder("posX", s.Pos.X, "posY", s.Pos.Y, "posZ", s.Pos.Z, "velX", s.Vel.X, "velY", s.Vel.Y,
		"velZ", s.Vel.Z, "attW", s.Att.W, "attX", s.Att.X, "attY", s.Att.Y, "attZ", s.Att.Z, "rateX", s.Rate.X,
		"rateY", s.Rate.Y, "rateZ", s.Rate.Z, "charge", s.Charge, "volts", s.Volts, "supply", s.supply, "inflow", s.inflow,
		"airX", s.air.X, "airY", s.air.Y, "airZ", s.air.Z, "leanX", p.leanX, "leanY", p.leanY, "lift", p.lift,
		"holdX", p.holdX, "holdY", p.holdY, "holdZ", p.holdZ, "holdHeading", p.holdHeading) {
		one(name, v)
	}
	for _, r := range []*fmath.Rand{&f.gustRand, &f.noise} {
		high, low := r.State()
		fmt.Fprintf(&b, "%x %x\n", high, low)
	}
	return b.Bytes()
}

// inOrder visits pairs of a name and a number.
func inOrder(pairs ...any) func(func(string, float64) bool) {
	return func(yield func(string, float64) bool) {
		for i := 0; i < len(pairs); i += 2 {
			if !yield(pairs[i].(string), pairs[i+1].(float64)) {
				return
			}
		}
	}
}

// twinState is what the twin prints after the last tick, in its order.
func twinState(f *Flight) (out []string) {
	s, e := &f.State, &f.State.Energy
	w := &s.sensors
	for _, v := range []float64{s.Pos.X, s.Pos.Y, s.Pos.Z, s.Vel.X, s.Vel.Y, s.Vel.Z, s.Rate.X, s.Rate.Y, s.Rate.Z,
		s.Att.W, s.Att.X, s.Att.Y, s.Att.Z, s.Rotor[0], s.Rotor[1], s.Rotor[2], s.Rotor[3], s.Charge, s.Volts, s.Amps,
		s.UsedAh, s.air.X, s.air.Y, s.air.Z, w.wanderX, w.wanderY, w.wanderZ, w.wash, w.skidX, w.skidY, s.inflow,
		s.supply, s.margin, e.Pack, e.Inside, e.Electronics, e.Drive, e.Rotor, e.Spin} {
		out = append(out, fmt.Sprintf("%016x", math.Float64bits(v)))
	}
	return out
}

// runTwin builds the twin, flies it so many times, and returns its state and the ns of a tick.
func runTwin(t testing.TB, times int) (state []string, ns float64) {
	t.Helper()
	cc, err := exec.LookPath("cc")
	if err != nil {
		t.Skip("this machine has no C compiler")
	}
	twin := filepath.Join(t.TempDir(), "twin")
	if said, err := exec.Command(cc, "-O2", "-ffp-contract=off", "-Wall", "-Wextra", "-o", twin, "../../bench/twin/twin.c",
		"-lm").CombinedOutput(); err != nil || len(said) > 0 {
		t.Fatalf("%v\n%s", err, said)
	}
	run := exec.Command(twin, strconv.Itoa(times))
	run.Stdin = bytes.NewReader(twinNumbers(twinFlight(t)))
	said, err := run.Output()
	if err != nil {
		t.Fatal(err)
	}
	lines := strings.Fields(string(said))
	ns, err = strconv.ParseFloat(lines[len(lines)-1], 64)
	if err != nil {
		t.Fatal(err)
	}
	return lines[:len(lines)-1], ns
}

func flyTwin(t testing.TB) *Flight {
	f := twinFlight(t)
	for range twinTicks {
		f.Step(twinSticks)
	}
	return f
}

// The C twin, which a tick is timed against, ends with the same bits after a minute.
func TestTheTwinFliesTheSameBits(t *testing.T) {
	want := twinState(flyTwin(t))
	got, _ := runTwin(t, 1)
	if strings.Join(got, " ") != strings.Join(want, " ") {
		t.Errorf("after %d ticks the twin in C has\n%s\nand not\n%s", twinTicks, got, want)
	}
}

// BenchmarkTwin times a tick of the C twin and of the same flight in Go, in turn.
func BenchmarkTwin(b *testing.B) {
	const flights = 60
	for b.Loop() {
		begun := time.Now()
		for range flights {
			if f := flyTwin(b); f.Ended() {
				b.Fatal(f.State.Cause)
			}
		}
		b.ReportMetric(float64(time.Since(begun).Nanoseconds())/flights/twinTicks, "ns/tick-Go")
		_, ns := runTwin(b, flights)
		b.ReportMetric(ns, "ns/tick-C")
	}
}
