package drill

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"maestrale/core/craft"
	"maestrale/core/field"
)

// pathOf lays a drill that flies a path.
func pathOf(t testing.TB, step string, side field.Side) Target {
	t.Helper()
	d, err := Parse([]byte("format: maestrale-drill/1\nkey: p\ntitle: P\nfamily: f\nsided: " +
		fmt.Sprint(side != field.NoSide) + "\nsetup: {course: eight}\nsteps:\n  - " + step + "\n"))
	if err != nil {
		t.Fatal(err)
	}
	task, err := d.Lay(side, 1, craft.Light, nil)
	if err != nil {
		t.Fatal(err)
	}
	return task.Steps[0]
}

var figures = []string{
	"{kind: path, shape: circle, centre: centre, radius_m: 4, height_m: 2, within: {cross_m: 1}}",
	"{kind: path, shape: oval, centre: centre, length_m: 8, width_m: 6, height_m: 2, within: {cross_m: 1}}",
	"{kind: path, shape: eight, centre: centre, radius_m: 4, height_m: 2, within: {cross_m: 1}}",
	"{kind: path, shape: eight, centre: centre, radius_m: 4, crossing: away, height_m: 2, within: {cross_m: 1}}",
	"{kind: path, shape: eight, centre: centre, radius_m: 4, crossing_deg: 60, height_m: 2, within: {cross_m: 1}}",
	"{kind: path, shape: eight, centre: centre, radius_m: 4, crossing_deg: 90, crossing: away, height_m: 2, within: " +
		"{cross_m: 1}}",
	"{kind: path, shape: orbit, subject: centre, radius_m: 5, height_m: 2, within: {cross_m: 1, aim_deg: 20}}",
	"{kind: path, shape: spiral, centre: centre, from_m: 2, to_m: 6, turns: 2, height_m: 2, within: {cross_m: 1}}",
	"{kind: path, shape: slant, from: [-5, 8, 2], to: [5, 8, 12], within: {cross_m: 1, angle_deg: 5}}",
	"{kind: path, shape: line, points: [[-4, 6, 2], [-4, 6, 6], [4, 6, 6], [4, 6, 2]], rest_s: 5, within: {cross_m: 1}}",
	"{kind: path, shape: line, points: [[-4, 6], [-4, 14], [4, 14], [4, 6]], closed: true, height_m: 3, within: " +
		"{cross_m: 1}}",
}

// Places follow one another without a gap, and, but for lines, so do courses; the
// place nearest to one of the figure is that one; left and right are mirror images
// to the last bit.
func TestFigures(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 3))
	for _, text := range figures {
		left, right := pathOf(t, text, field.LeftSide), pathOf(t, text, field.RightSide)
		f, g := left.Path, right.Path
		const n = 4000
		for i := range n {
			s := f.Length * float64(i) / n
			a, ca := f.At(s)
			b, cb := f.At(s + f.Length/n)
			if d := math.Abs(f.Far(a, b)-f.Length/n) / (f.Length / n); d > 0.3 {
				t.Fatalf("%s: at %.2f of %.2f m it goes %.4f m in %.4f", text, s, f.Length, f.Far(a, b), f.Length/n)
			}
			if f.Shape != Line && (cb-ca).Wrap().Abs() > 0.1 {
				t.Fatalf("%s: at %.2f m the course jumps from %v to %v", text, s, ca.Deg(), cb.Deg())
			}
			if m, cm := g.At(s); m.X != -a.X || m.Y != a.Y || m.Z != a.Z || (cm+ca).Wrap().Abs() > 1e-12 {
				t.Fatalf("%s: the right version is at %v, the left at %v", text, m, a)
			}
			// The way is where it is said to be, whatever comes near it elsewhere.
			off := Spot{a.X + 0.1*r.NormFloat64(), a.Y + 0.1*r.NormFloat64(), a.Z}
			// No place of a stretch is nearer than the one that is said to be.
			if low := f.Length * r.Float64(); i%40 == 0 {
				high := min(f.Length, low+2*r.Float64())
				if _, d := f.Nearest(off, low, high); d > 1e-9+f.Far(off, must(f.At(low+(high-low)*r.Float64()))) ||
					d > 1e-9+f.Far(off, must(f.At(low))) || d > 1e-9+f.Far(off, must(f.At(high-1e-12))) {
					t.Fatalf("%s: of %.2f to %.2f m a place is nearer than %.3f", text, low, high, d)
				}
			}
			if got, d := f.Nearest(off, s-1, s+1); math.Abs(got-s) > 0.9 || d > f.Far(off, a)+1e-12 {
				t.Fatalf("%s: near %.2f m it is found at %.2f, %.3f off", text, s, got, d)
			}
		}
		if f.Closed {
			if a, _ := f.At(0); f.Far(a, must(f.At(f.Length-1e-9))) > 1e-6 {
				t.Errorf("%s does not close", text)
			}
			a, _ := f.At(0.3)
			if s, d := f.Nearest(a, f.Length-1, f.Length+1); math.Abs(s-f.Length-0.3) > 1e-9 || d > 1e-9 {
				t.Errorf("%s: beyond a lap it is found at %v, %v off", text, s, d)
			}
		}
		if len(left.Words()) < 20 {
			t.Errorf("%s says %q", text, left.Words())
		}
	}
}

func must(s Spot, _ field.Angle) Spot { return s }

// The eight comes toward the pilot at its crossing, the left lobe first, or goes
// away; its diagonals cross at the angle that is asked for.
func TestTheEight(t *testing.T) {
	for _, c := range []struct {
		more     string
		course   float64 // at the start, degrees
		crossing float64
	}{{"", 180, 0}, {", crossing: away", 0, 0}, {", crossing_deg: 60", -150, 60}, {", crossing_deg: 60, crossing: away",
		-30, 60}} {
		f := pathOf(t, "{kind: path, shape: eight, centre: centre, radius_m: 4, height_m: 2, within: {cross_m: 1}"+c.more+"}",
			field.LeftSide).Path
		at, start := f.At(0)
		mid, cross := f.At(f.Parts[0])
		if f.Far(at, Spot{f.Centre.X, f.Centre.Y, 2}) > 1e-9 || f.Far(mid, at) > 1e-9 {
			t.Errorf("%s: it starts at %v and crosses at %v", c.more, at, mid)
		}
		if d := (start - field.Degrees(c.course)).Wrap().Abs().Deg(); d > 1e-6 {
			t.Errorf("%s: it starts on %v°", c.more, start.Deg())
		}
		if d := (cross - start).Wrap().Abs().Deg(); math.Abs(d-c.crossing) > 1e-6 {
			t.Errorf("%s: it crosses at %v°", c.more, d)
		}
		if first, _ := f.At(f.Parts[0] / 2); first.X > f.Centre.X-4 {
			t.Errorf("%s: the first lobe lies at %v", c.more, first)
		}
		if near, course := f.At(f.Parts[0] / 4); c.course == 180 && (near.Y > f.Centre.Y || course.Abs() < 1) {
			t.Errorf("coming toward the pilot it turns away on the near side: %v on %v°", near, course.Deg())
		}
	}
}

// Paths that cannot be are refused at their line.
func TestFiguresAreRefused(t *testing.T) {
	for step, want := range map[string]string{
		"{kind: path, shape: star, within: {cross_m: " +
			"1}}": "7: ",
		"{kind: path, shape: circle, centre: centre, radius_m: 4, within: {cross_m: " +
			"1}}": "flown at no height",
		"{kind: path, shape: circle, centre: centre, height_m: 2, within: {cross_m: " +
			"1}}": "radius_m",
		"{kind: path, shape: circle, centre: centre, radius_m: 4, height_m: " +
			"2}": "within",
		"{kind: path, shape: circle, centre: centre, radius_m: 4, height_m: 2, rest_s: 3, within: {cross_m: " +
			"1}}": "no corner to rest at",
		"{kind: path, shape: circle, centre: centre, radius_m: 4, height_m: 2, heading: subject, within: {cross_m: " +
			"1}}": "no subject",
		"{kind: path, shape: line, points: [[0, 1]], within: {cross_m: " +
			"1}}": "too few points",
		"{kind: path, shape: slant, from: [0, 1], to: [0, 1, 5], within: {cross_m: " +
			"1}}": "has no height",
		"{kind: path, shape: circle, centre: centre, radius_m: 4, height_m: 2, within: {cross_m: 1, ratio: " +
			"1.2}}": "ratio",
		"{kind: hold, at: centre, height_m: 2, heading: along, seconds: 3, within: {radius_m: 1, nose_deg: " +
			"20}}": "no path for the nose",
		"{kind: stop, after: call, within: {}}": "the stop has no limit",
		"{kind: stop, after: soon, within: {seconds: " +
			"3}}": "soon",
		"{kind: goto, to: centre, within: {overshoot_m: " +
			"1}}": "flown at no height",
		"{kind: goto, to: centre, height_m: 2, within: {cross_m: " +
			"1}}": "overshoot_m",
	} {
		_, err := Parse([]byte("format: maestrale-drill/1\nkey: p\ntitle: P\nfamily: f\nsteps:\n  - {kind: takeoff, " +
			"to_height_m: 2}\n  - " + step + "\n"))
		if err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v; expected %q", step, err, want)
		}
	}
}
