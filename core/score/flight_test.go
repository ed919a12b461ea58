package score

import (
	"math"
	"sync"
	"testing"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/track"
)

// pilot writes tracks for the tests: it flies to places in straight lines, at
// a sampling step, without any error of its own.
type pilot struct {
	t                tracked
	dt               float64
	now              float64
	x, y, z, heading float64 // metres and degrees
}

type tracked = track.Track

func newPilot(dt, x, y float64) *pilot {
	p := &pilot{dt: dt, x: x, y: y}
	p.put()
	return p
}

func (p *pilot) put() {
	p.t.T = append(p.t.T, p.now)
	p.t.X, p.t.Y, p.t.Z = append(p.t.X, p.x), append(p.t.Y, p.y), append(p.t.Z, p.z)
	p.t.Heading = append(p.t.Heading, field.Degrees(p.heading))
}

// to moves to a place and heading within some seconds.
func (p *pilot) to(x, y, z, heading, seconds float64) *pilot {
	n := int(math.Round(seconds / p.dt))
	ax, ay, az, ah, at := p.x, p.y, p.z, p.heading, p.now
	for i := 1; i <= n; i++ {
		f := float64(i) / float64(n)
		p.now = at + seconds*f
		p.x, p.y, p.z, p.heading = ax+(x-ax)*f, ay+(y-ay)*f, az+(z-az)*f, ah+(heading-ah)*f
		p.put()
	}
	return p
}

func (p *pilot) wait(seconds float64) *pilot { return p.to(p.x, p.y, p.z, p.heading, seconds) }
func (p *pilot) up(z, seconds float64) *pilot {
	return p.to(p.x, p.y, z, p.heading, seconds)
}
func (p *pilot) slide(dx, dy, seconds float64) *pilot {
	return p.to(p.x+dx, p.y+dy, p.z, p.heading, seconds)
}
func (p *pilot) turn(by, seconds float64) *pilot {
	return p.to(p.x, p.y, p.z, p.heading+by, seconds)
}

var catalogue = sync.OnceValue(drill.Shipped)

func shipped(t testing.TB, key string, side field.Side, level int) drill.Task {
	t.Helper()
	d, err := catalogue().Drill(key)
	if err != nil {
		t.Fatal(err)
	}
	task, err := d.Lay(side, level, craft.Light, nil)
	if err != nil {
		t.Fatal(err)
	}
	return task
}

func scored(t testing.TB, task drill.Task, tr *track.Track) *Result {
	t.Helper()
	r, err := Track(task, tr, FromLog)
	if err != nil {
		t.Fatal(err)
	}
	return r
}

func close3(a *float64, want float64) bool { return a != nil && math.Abs(*a-want) < 2e-3 }

// hover is a clean tail-in hover over the pad of the light box, at (0, 6).
func hover(dt float64) *pilot {
	return newPilot(dt, 0, 6).wait(2).up(1.5, 3).wait(22)
}
