package score

import (
	"math"
	"testing"

	"maestrale/core/field"
)

// Halts on the way are counted, those at its ends are not.
func TestHalts(t *testing.T) {
	task := pathTask(t, "{kind: path, shape: circle, centre: [0, 12], radius_m: 5, height_m: 2, within: {cross_m: 1}}",
		field.LeftSide, nil)
	fig := task.Steps[0].Path
	for halts := range 4 {
		f := newFlight(uint64(halts))
		f.noise = 0.002
		at := 0.0
		for n := range halts {
			to := fig.Length * (0.2 + 0.2*float64(n))
			f.along(fig, at, to, 2, nil)
			here, _ := fig.At(to)
			f.stay(here, 1)
			at = to
		}
		f.along(fig, at, fig.Length*1.01, 2, nil)
		r := judged(t, task, f.t)
		if got := r.Steps[0].Metrics["halts"]; got != float64(halts) {
			t.Errorf("%v halts of %d", got, halts)
		}
	}
}

// The jerk of a cubic is its own, whatever its times; that of a motion from rest to
// rest (Flash and Hogan 1985: 60 d/T³ at its ends) is met within the fit's window.
func TestJerk(t *testing.T) {
	for seed := range 20 {
		c := 0.2 + 0.3*float64(seed%7)
		var w flownWay
		for i := range 120 {
			at := float64(i)/20 + 0.004*math.Sin(float64(i*seed))
			w.points = append(w.points, flownPoint{point: point{t: at, x: 3 - at + c*at*at*at/6, y: 2 * at, z: 1}})
		}
		j, ok := w.jerk()
		if !ok {
			t.Fatal("no jerk")
		}
		within(t, "the jerk of a cubic", j, c, 1e-6)
	}
	var w flownWay
	const d, T = 100.0, 30.0
	for i := range 1201 {
		at := T * float64(i) / 1200
		u := at / T
		w.points = append(w.points, flownPoint{point: point{t: at, x: d * (10*math.Pow(u, 3) - 15*math.Pow(u, 4) +
			6*math.Pow(u, 5))}})
	}
	j, _ := w.jerk()
	within(t, "the jerk of the smoothest motion", j, 60*d/(T*T*T), 0.15*60*d/(T*T*T))
	if _, ok := (&flownWay{points: []flownPoint{{point: point{t: 0}}, {point: point{t: 1}},
		{point: point{t: 2}}}}).jerk(); ok {
		t.Error("a log at 1 Hz has no jerk")
	}
}

// What the camera does while the craft moves is a share of what it does at all, and
// the tilt is measured against the subject's foot.
func TestCameraWhileMoving(t *testing.T) {
	task := pathTask(t, "{kind: path, shape: orbit, subject: [0, 12], radius_m: 5, height_m: 3, within: {cross_m: 1}}",
		field.LeftSide, nil)
	fig := task.Steps[0].Path
	f := newFlight(3)
	f.noise = 0.001
	f.along(fig, 0, fig.Length/2, 2, nil)
	here, course := fig.At(fig.Length / 2)
	for i := range 60 { // it stands, and the picture goes on turning
		f.put(here, course+field.Degrees(3*float64(i)))
	}
	f.along(fig, fig.Length/2, fig.Length*1.01, 2, nil)
	down := -math.Atan2(3, 5)
	for range f.t.T {
		f.t.GimbalTilt = append(f.t.GimbalTilt, field.Angle(down)+field.Degrees(4))
	}
	r := judged(t, task, f.t)
	m := r.Steps[0].Metrics
	flying := fig.Length * 1.01 / 2
	within(t, "the share", m["camera_moving_share"], flying/(flying+3), 0.05)
	within(t, "the aim up", m["aim_up_deg"], 4, 0.5)
}
