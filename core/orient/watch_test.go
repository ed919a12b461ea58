package orient_test

import (
	"math"
	"testing"

	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/core/flight"
	"maestrale/core/orient"
	"maestrale/core/rig"
)

// lost is a craft far off in the simulator, and who watches it.
type lost struct {
	t     *testing.T
	f     *flight.Flight
	w     *orient.Watch
	aids  flight.Aids
	from  float64
	ticks int
}

func lostAt(t *testing.T, aspect float64, aids flight.Aids, windMps, windFrom float64) *lost {
	t.Helper()
	kind, err := rig.Craft(craft.Shipped()["poiana"])
	if err != nil {
		t.Fatal(err)
	}
	f, err := flight.New(flight.Config{Craft: kind, Start: flight.Vec{Y: 50, Z: 10},
		Heading: float64(field.Degrees(aspect)), Airborne: true, Aids: aids, Wind: rig.Wind(windMps,
			windFrom), Still: windMps == 0, Seed: 1})
	if err != nil {
		t.Fatal(err)
	}
	e := orient.Usual()
	e.WindMps, e.WindFrom, e.AirspeedMps, e.YawRate = windMps, field.Degrees(windFrom), 5, field.Degrees(45)
	return &lost{t: t, f: f, w: orient.NewWatch(e), aids: aids, from: 50}
}

// hold keeps the sticks for so many seconds.
func (l *lost) hold(seconds, pitch, yaw float64) {
	k := flight.Sticks{Pitch: pitch, Yaw: yaw, Aids: l.aids}
	for range int(math.Round(seconds / flight.Tick)) {
		l.f.Step(k)
		if l.ticks++; l.ticks%10 == 0 {
			x := l.f.Sample(k)
			l.w.Add(orient.Sample{T: x.T, X: x.X, Y: x.Y, VX: x.VX, VY: x.VY, Heading: field.Angle(x.Heading), Pitch: pitch,
				Yaw: yaw, Holds: l.aids == flight.PositionHold})
		}
	}
}

func (l *lost) distance() float64 {
	x := l.f.Sample(flight.Sticks{})
	return math.Hypot(x.X, x.Y)
}

func (l *lost) aspect() field.Angle {
	x := l.f.Sample(flight.Sticks{})
	return (field.Angle(x.Heading) - field.Bearing(field.Point{X: x.X, Y: x.Y})).Wrap()
}

// What is seen of a craft that the simulator flies leads to where its nose is: a push, a
// turn and a push leave the truth likely whatever the aspect was, in still air and in wind.
func TestWatchingTheSimulatorFindsTheNose(t *testing.T) {
	for name, at := range map[string]struct {
		aids flight.Aids
		wind float64
	}{"position held": {flight.PositionHold, 0}, "position held in wind": {flight.PositionHold,
		4}, "height held": {flight.HeightHold, 0}, "height held in wind": {flight.HeightHold, 2}} {
		within, n, astray := 0.0, 0, 0
		for aspect := -180.0; aspect < 180; aspect += 15 {
			l := lostAt(t, aspect, at.aids, at.wind, 270)
			l.hold(3, 0.5, 0)
			l.hold(1.5, 0.5, 0.6)
			l.hold(2, 0.5, 0)
			l.hold(1.5, 0.5, 0.6)
			l.hold(2, 0.5, 0)
			l.w.End()
			p, share := l.w.Known(), 0.0
			for i, v := range p {
				if (field.Degrees(float64(i)) - l.aspect()).Wrap().Abs().Deg() <= 30 {
					share += v
				}
			}
			within += share
			n++
			if share < 1.0/6 { // no more than chance
				astray++
			}
			for _, s := range l.w.Stretches {
				if s.To <= s.From || s.To-s.From > 1.1 || s.Input == "" {
					t.Errorf("%s: a stretch %+v", name, s.Input)
				}
			}
		}
		mean := within / float64(n)
		t.Logf("%s: %.2f within 30° of the truth in the mean, %d of %d led astray", name, mean, astray, n)
		if mean < 0.7 || astray > n/12 {
			t.Errorf("%s: %.2f within 30° of the truth in the mean, %d of %d led astray", name, mean, astray, n)
		}
	}
}

// Who does what the coach says comes home from every aspect, and hardly loses ground.
func TestTheCoachBringsItHome(t *testing.T) {
	var most, sum, lostM float64
	step := 15.0
	if testing.Short() {
		step = 45
	}
	n := 0.0
	for aspect := -180.0; aspect < 180; aspect += step {
		l := lostAt(t, aspect, flight.PositionHold, 0, 0)
		for l.distance() > 0.8*l.from && l.f.Now() < 60 {
			a := l.w.Advise()
			switch {
			case !a.GoHome && a.Next.Input == orient.Forward:
				l.hold(1.2, 0.5, 0)
			case !a.GoHome && a.Next.Input == orient.Back:
				l.hold(1.2, -0.5, 0)
			case !a.GoHome:
				l.hold(math.Max(0.5, a.Next.Seconds), 0, map[orient.Input]float64{orient.YawLeft: -0.5,
					orient.YawRight: 0.5}[a.Next.Input])
			default:
				if a.Home.Seconds > 0.1 {
					l.hold(a.Home.Seconds, 0, math.Copysign(0.5, float64(a.Home.Turn)))
				}
				l.hold(1, 0.5, 0)
			}
			lostM = math.Max(lostM, l.distance()-l.from)
		}
		took := l.f.Now()
		most, sum, n = math.Max(most, took), sum+took, n+1
	}
	t.Logf("%.1f s in the mean, %.1f s at most, %.1f m lost at most", sum/n, most, lostM)
	if most > 25 || lostM > 10 {
		t.Errorf("%.1f s at most and %.1f m lost; the drill allows 22 s and 10 m", most, lostM)
	}
}

func TestFoundAndToldMost(t *testing.T) {
	l := lostAt(t, 100, flight.PositionHold, 0, 0)
	l.w.Ask = true
	l.hold(2, 0, 0)
	if len(l.w.Stretches) != 0 {
		t.Errorf("a craft that is left alone told something: %+v", l.w.Stretches)
	}
	if _, ok := orient.Found(nil, 0.5); ok || orient.ToldMost(nil) != -1 {
		t.Error("nothing was found")
	}
	l.hold(4, 0.6, 0)
	l.w.End()
	i := orient.ToldMost(l.w.Stretches)
	if i < 0 || l.w.Stretches[i].Input != "ahead" || l.w.Stretches[i].Bits < 0.5 ||
		l.w.Stretches[0].Before.Next.Bits <= 0 {
		t.Fatalf("%d of %d", i, len(l.w.Stretches))
	}
	if at, ok := orient.Found(l.w.Stretches, 0.3); !ok || at <= 2 {
		t.Errorf("found at %v, %v", at, ok)
	}
	if s := l.w.Stretches[0]; !s.Did(orient.Forward) || s.Did(orient.YawLeft) {
		t.Errorf("it did %q", s.Input)
	}
	if saw := l.w.Stretches[len(l.w.Stretches)-1].Saw; saw != orient.FullRight {
		t.Errorf("nose right, ahead: seen to go %s", saw)
	}
}
