package score_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/flight/trace"
	"maestrale/core/orient"
	"maestrale/core/rig"
	"maestrale/core/score"
	"maestrale/core/track"
)

// A run of the trainer is watched from its log: what could be known grows, and where the
// nose was is what the log says.
func TestWatched(t *testing.T) {
	cat := drill.Shipped()
	kind := craft.Shipped()["poiana"]
	_, out, err := rig.Lost(trace.Spec{Craft: "poiana", Drill: "regain-turn", Side: "none", Level: 1,
		Aids: "position-hold", Gusts: "none", Seed: 3, Lost: "still"}, cat)
	if err != nil {
		t.Fatal(err)
	}
	rec, log, err := out.Start()
	if err != nil {
		t.Fatal(err)
	}
	for i := range 700 {
		pitch, yaw := 0.0, 0.0
		switch {
		case i > 50 && i < 250:
			pitch = 0.5
		case i >= 250 && i < 350:
			pitch, yaw = 0.5, 0.5
		case i >= 350:
			pitch = 0.5
		}
		rec.Reading(0, yaw, pitch, 0, 0, int(out.Config.Aids), 0)
	}
	log.Hear(rec.Happened())
	tr := &log.Track
	res, err := score.Track(*out.Task, tr, score.Sim)
	if err != nil {
		t.Fatal(err)
	}
	e := score.EyeOn(kind, craft.PositionHold, 0, 0)
	if e.AirspeedMps != 5 || math.Abs(e.YawRate.Deg()-45) > 1e-9 {
		t.Errorf("half of the craft's 10 m/s and 90°/s is %v m/s and %v°/s", e.AirspeedMps, e.YawRate.Deg())
	}
	w := score.Watched(tr, *out.Task, res)
	if w == nil || len(w.Stretches) < 4 {
		t.Fatalf("%+v", w)
	}
	last := w.Stretches[len(w.Stretches)-1]
	if last.After.Entropy() > 6.5 || w.Stretches[0].Before.Next.Input == "" {
		t.Errorf("%.1f bits are not known in the end", last.After.Entropy())
	}
	i := tr.At(last.To)
	was := (tr.Heading[i] - field.Bearing(field.Point{X: tr.X[i], Y: tr.Y[i]})).Wrap()
	if (was - last.Aspect).Wrap().Abs().Deg() > 1 {
		t.Errorf("the aspect was %.0f°, not %.0f°", was.Deg(), last.Aspect.Deg())
	}
	// Without its speeds the log says the same, by its places.
	bare := *tr
	bare.VX, bare.VY = nil, nil
	v := score.Watched(&bare, *out.Task, res)
	a, _ := w.Known().Likeliest()
	b, _ := v.Known().Likeliest()
	if (a - b).Wrap().Abs().Deg() > 10 {
		t.Errorf("with speeds %.0f°, without %.0f°", a.Deg(), b.Deg())
	}
	bare.StickYaw = nil
	hover, _ := cat.Drill("hover-tail-in")
	task, err := hover.Lay(field.NoSide, 1, craft.Light, nil)
	if err != nil {
		t.Fatal(err)
	}
	if score.Watched(&bare, *out.Task, res) != nil || score.Watched(tr, task, res) != nil {
		t.Error("something is known of no sticks, or of another drill")
	}
}

// Along a straight run the yaw that is asked for is v d / (d² + s²), and a nose that is kept
// on the subject turns by it.
func TestYawedAndPlanned(t *testing.T) {
	d, err := drill.Shipped().Drill("subject-run")
	if err != nil {
		t.Fatal(err)
	}
	for _, side := range d.Sides() {
		task, err := d.Lay(side, 1, craft.Light, nil)
		if err != nil {
			t.Fatal(err)
		}
		path := task.Steps[1].Path
		a, _ := path.At(0)
		b, _ := path.At(path.Length * (1 - 1e-12))
		const speed = 1.2
		tr := &track.Track{}
		subject := task.Steps[1].Subject
		long := a.Flat().Dist(b.Flat())
		for s := 0.0; s <= long; s += speed * 0.02 {
			at := field.Point{X: a.X + (b.X-a.X)*s/long, Y: a.Y + (b.Y-a.Y)*s/long}
			tr.T, tr.X, tr.Y, tr.Z = append(tr.T, s/speed), append(tr.X, at.X), append(tr.Y, at.Y), append(tr.Z, 2.5)
			tr.Heading = append(tr.Heading, field.Bearing(field.Point{X: subject.X - at.X, Y: subject.Y - at.Y}))
		}
		from, to := 0.0, tr.T[tr.Len()-1]
		res := &score.Result{Steps: []score.StepResult{{}, {StartS: &from, EndS: &to}, {}}}
		list := score.Yawed(tr, task, res)
		plan, orbit, err := score.PlannedYaw(task, speed, field.Degrees(90))
		if err != nil || orbit || len(list) < 40 {
			t.Fatalf("%v, orbit %v, %d moments", err, orbit, len(list))
		}
		peak := 0.0
		for _, m := range list {
			peak = math.Max(peak, m.Asked.Abs().Deg())
			if (m.Asked - m.Flown).Abs().Deg() > 0.5 {
				t.Errorf("%s: at %.1f s asked %.1f°/s, flown %.1f°/s by a nose that was on it", side, m.T, m.Asked.Deg(),
					m.Flown.Deg())
			}
		}
		if math.Abs(peak-plan.Peak.Deg()) > 0.3 {
			t.Errorf("%s: %.2f°/s at most, planned %.2f°/s", side, peak, plan.Peak.Deg())
		}
	}
	round, _ := drill.Shipped().Drill("orbit")
	task, err := round.Lay(field.LeftSide, 1, craft.Light, nil)
	if err != nil {
		t.Fatal(err)
	}
	if p, orbit, err := score.PlannedYaw(task, 2, field.Degrees(90)); err != nil || !orbit ||
		math.Abs(p.OffsetM-4) > 1e-6 || math.Abs(p.Peak.Deg()-0.5*180/math.Pi) > 1e-6 {
		t.Errorf("an orbit of 4 m at 2 m/s: %+v, %v, %v", p, orbit, err)
	}
	hover, _ := drill.Shipped().Drill("hover-tail-in")
	if task, err = hover.Lay(field.NoSide, 1, craft.Light, nil); err != nil {
		t.Fatal(err)
	}
	if _, _, err := score.PlannedYaw(task, 1, 1); err == nil || len(score.Yawed(&track.Track{}, task,
		&score.Result{})) != 0 {
		t.Error("a hover keeps its nose on a subject")
	}
}

// A wind that moves a lost craft by itself is no answer of the nose: with a push that shows
// a side against the drift, the way home is no wrong input.
func TestAWindIsNoAnswer(t *testing.T) {
	cat := drill.Shipped()
	wrong := map[bool]float64{}
	for _, foolish := range []bool{false, true} {
		for seed := range uint32(12) {
			_, out, err := rig.Lost(trace.Spec{Craft: "poiana", Drill: "regain-turn", Side: "none", Level: 1,
				Aids: "height-hold", WindMps: 3, WindFromDeg: 90, Gusts: "none", Seed: 50 * seed, Lost: "wind"}, cat)
			if err != nil {
				t.Fatal(err)
			}
			rec, log, err := out.Start()
			if err != nil {
				t.Fatal(err)
			}
			hold := func(seconds, pitch, yaw float64) {
				for range int(seconds * 100) {
					rec.Reading(0, yaw, pitch, 0, 0, int(out.Config.Aids), 0)
				}
			}
			hold(3, 0, 0) // it goes with the wind
			hold(1.5, 0.5, 0)
			hold(3, 0, 0)
			// The pilot of this test knows the nose: it is turned home, or away, and flown there.
			s := log.Track
			i := s.Len() - 1
			to := field.Bearing(field.Point{X: out.Task.Station.X - s.X[i], Y: out.Task.Station.Y - s.Y[i]})
			if foolish {
				to += math.Pi
			}
			turn := (to - s.Heading[i]).Wrap()
			hold(math.Abs(turn.Deg())/45, 0, math.Copysign(0.5, float64(turn)))
			for range 3 {
				hold(1.5, 0.5, 0)
				hold(0.5, 0, 0)
			}
			log.Hear(rec.Happened())
			res, err := score.Track(*out.Task, &log.Track, score.Sim)
			if err != nil {
				t.Fatal(err)
			}
			wrong[foolish] += res.Steps[0].Metrics["wrong_inputs"]
		}
	}
	t.Logf("%v wrong inputs on the way home of twelve, %v on the way off", wrong[false], wrong[true])
	if wrong[false] > 2 || wrong[true] < 12 {
		t.Errorf("%v wrong inputs on the way home of twelve, %v on the way off", wrong[false], wrong[true])
	}
}

// The speed of a push and the wind are found in the log itself, whatever the sticks and the nose did.
func TestEyeOfALog(t *testing.T) {
	for seed := range uint64(20) {
		rng := rand.New(rand.NewPCG(seed, 5))
		full, wind, from := 2+10*rng.Float64(), 4*rng.Float64(), field.Degrees(360*rng.Float64())
		tr, made := &track.Track{}, orient.Made{}
		var x, y, heading, pitch, roll float64
		for i := range 2000 {
			if i%100 == 0 {
				pitch, roll = 1.4*rng.Float64()-0.7, 1.4*rng.Float64()-0.7
			}
			heading += 0.01 * math.Sin(float64(i)/150)
			if i > 0 {
				made.Follow(0.02, field.Angle(0.01*math.Sin(float64(i)/150)), pitch, roll)
			}
			sin, cos := math.Sincos(heading)
			vx := full*(made.Ahead*sin+made.Right*cos) - wind*math.Sin(float64(from))
			vy := full*(made.Ahead*cos-made.Right*sin) - wind*math.Cos(float64(from))
			x, y = x+0.02*vx, y+0.02*vy
			tr.T, tr.X, tr.Y, tr.Z = append(tr.T, 0.02*float64(i)), append(tr.X, x), append(tr.Y, y), append(tr.Z, 10)
			tr.VX, tr.VY = append(tr.VX, vx), append(tr.VY, vy)
			tr.Heading = append(tr.Heading, field.Angle(heading))
			tr.StickPitch, tr.StickRoll, tr.StickYaw = append(tr.StickPitch, pitch), append(tr.StickRoll,
				roll), append(tr.StickYaw, 0)
		}
		e := score.EyeOf(tr, 0, math.Inf(1))
		if math.Abs(e.AirspeedMps-full/2) > 0.1 || math.Abs(e.WindMps-wind) > 0.1 || wind > 0.5 &&
			(e.WindFrom-from).Wrap().Abs().Deg() > 5 {
			t.Errorf("seed %d: %.2f m/s, wind %.2f from %.0f°; want %.2f, %.2f from %.0f°", seed, e.AirspeedMps, e.WindMps,
				e.WindFrom.Deg(), full/2, wind, from.Deg())
		}
		still := *tr
		still.StickPitch, still.StickRoll = make([]float64, tr.Len()), make([]float64, tr.Len())
		if e := score.EyeOf(&still, 0, math.Inf(1)); e.AirspeedMps != orient.Usual().AirspeedMps {
			t.Errorf("a log without a push says %.2f m/s", e.AirspeedMps)
		}
	}
}
