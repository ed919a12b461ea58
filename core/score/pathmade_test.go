package score

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/track"
)

// pathTask lays a drill of one step, on a course where one is given.
func pathTask(t testing.TB, step string, side field.Side, laid *course.Course) drill.Task {
	t.Helper()
	d, err := drill.Parse([]byte("format: maestrale-drill/1\nkey: p\ntitle: P\nfamily: f\nsided: " +
		fmt.Sprint(side != field.NoSide) + "\nsetup: {course: eight}\nsteps:\n  - " + step + "\n"))
	if err != nil {
		t.Fatal(err)
	}
	task, err := d.Lay(side, 1, craft.Light, laid)
	if err != nil {
		t.Fatal(err)
	}
	return task
}

// flight makes a track of places, ten a second unless said.
type flightMade struct {
	t     *track.Track
	r     *rand.Rand
	noise float64
	hz    float64
}

func newFlight(seed uint64) *flightMade {
	return &flightMade{t: &track.Track{}, r: rand.New(rand.NewPCG(seed, 9)), noise: 0.02, hz: 20}
}

func (f *flightMade) put(p drill.Spot, heading field.Angle) {
	n := float64(f.t.Len())
	f.t.T = append(f.t.T, n/f.hz)
	f.t.X, f.t.Y, f.t.Z = append(f.t.X, p.X+f.noise*f.r.NormFloat64()), append(f.t.Y,
		p.Y+f.noise*f.r.NormFloat64()), append(f.t.Z, p.Z+f.noise*f.r.NormFloat64())
	f.t.Heading = append(f.t.Heading, heading)
}

// along follows a figure so far at a speed; bend moves each place.
func (f *flightMade) along(fig *drill.Figure, from, to, speed float64, bend func(s float64, p drill.Spot) drill.Spot) {
	n := int(math.Abs(to-from) / speed * f.hz)
	for i := range n + 1 {
		s := from + (to-from)*float64(i)/float64(max(n, 1))
		p, c := fig.At(s)
		if bend != nil {
			p = bend(s, p)
		}
		f.put(p, c)
	}
}

func (f *flightMade) stay(p drill.Spot, seconds float64) {
	for range int(seconds * f.hz) {
		f.put(p, 0)
	}
}

func judged(t testing.TB, task drill.Task, tr *track.Track) *Result {
	t.Helper()
	r, err := Track(task, tr, FromLog)
	if err != nil {
		t.Fatal(err)
	}
	return r
}

func within(t *testing.T, what string, got, want, tol float64) {
	t.Helper()
	if !(math.Abs(got-want) <= tol) {
		t.Errorf("%s is %.4f; expected %.4f within %v", what, got, want, tol)
	}
}

var sides = []field.Side{field.LeftSide, field.RightSide}
