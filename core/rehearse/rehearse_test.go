package rehearse

import (
	"math"
	"testing"

	"maestrale/core/craft"
	"maestrale/core/drill"
)

// Every drill's flight is one motion: no place jumps, and it ends on the ground where the drill lands.
func TestFlightsAreMotions(t *testing.T) {
	n := 0
	for _, d := range drill.Shipped().InOrder() {
		for _, side := range d.Sides() {
			task, err := d.Lay(side, 1, craft.Light, nil)
			if err != nil {
				continue
			}
			f := Of(task, Usual(), Error{})
			tr := f.Track(100)
			for i := 1; i < tr.Len(); i++ {
				if step := math.Sqrt(sq(tr.X[i]-tr.X[i-1]) + sq(tr.Y[i]-tr.Y[i-1]) + sq(tr.Z[i]-tr.Z[i-1])); step > 0.1 {
					t.Fatalf("%s %s: a step of %.2f m at %.2f s", d.Key, side, step, tr.T[i])
				}
			}
			if last := task.Steps[len(task.Steps)-1]; last.Kind == drill.Land && tr.Z[tr.Len()-1] > 1e-9 {
				t.Errorf("%s %s ends %.2f m up", d.Key, side, tr.Z[tr.Len()-1])
			}
			n++
		}
	}
	if n < 100 {
		t.Errorf("%d flights", n)
	}
}

func sq(v float64) float64 { return v * v }

// What a receiver does to a log is what it says.
func TestReceivers(t *testing.T) {
	d, err := drill.Shipped().Drill("hover-tail-in")
	if err != nil {
		t.Fatal(err)
	}
	task, err := d.Lay(d.Sides()[0], 1, craft.Light, nil)
	if err != nil {
		t.Fatal(err)
	}
	f := Of(task, Usual(), Error{})
	exact := f.Track(50)
	rms := func(r Receiver) float64 {
		sum, n := 0.0, 0.0
		for seed := range uint64(40) {
			got := r.Log(f, 50, seed)
			for i := range got.T {
				sum, n = sum+sq(got.X[i]-exact.X[i])+sq(got.Y[i]-exact.Y[i]), n+2
			}
		}
		return math.Sqrt(sum / n)
	}
	if v := rms(Receiver{White: 0.05}); math.Abs(v-0.05) > 0.002 {
		t.Errorf("white noise of 5 cm has the deviation %.4f", v)
	}
	if v := rms(Receiver{Wander: 0.4}); math.Abs(v-0.4) > 0.08 {
		t.Errorf("a wander of 0.4 m has the deviation %.3f", v)
	}
	rounded := Receiver{GrainZ: 1}.Log(f, 10, 1)
	for i, z := range rounded.Z {
		if z != math.Round(z) {
			t.Fatalf("sample %d is %v m up", i, z)
		}
	}
	if got := (Receiver{Drops: 0.2}).Log(f, 50, 1).Len(); math.Abs(float64(got)/float64(exact.Len())-0.8) > 0.03 {
		t.Errorf("%d of %d samples are left", got, exact.Len())
	}
	if got := (Receiver{Wander: 0.4, Reports: true, Speeds: true}).Log(f, 10, 1); got.AccuracyM[0] != 0.4 ||
		len(got.VX) != got.Len() {
		t.Error("it reports no accuracy, or no speeds")
	}
}
