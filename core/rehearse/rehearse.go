// Package rehearse writes flights of drills without a craft and without a
// pilot: perfect ones, ones with a single error of known size, and ones with
// the pauses and detours of people. It also does to their logs what receivers
// do. What the scorer says of such a flight can be held against what was put
// in.
package rehearse

import (
	"math"
	"slices"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/track"
)

// Style is how a flight is flown.
type Style struct {
	Speed    float64 // m/s on the way from place to place and along figures
	Sink     float64 // m/s onto the ground
	Sharp    bool    // starts and stops at once, where the others gather speed and lose it evenly
	Rolling  bool    // comes to a figure along it, without stopping at its start
	Lead     float64 // s of rest before a figure and between steps
	Extra    float64 // s that rests and stays last longer than asked
	TwiceUp  bool    // takes off and lands once before the drill
	Retry    bool    // breaks a figure off after a few metres and begins it anew
	Wide     float64 // m that the way to a figure bows out
	HoverEnd float64 // s of hover over the place before it lands
	Joins    float64 // share of a closed figure at which it is joined
}

// Usual is a calm flight.
func Usual() Style { return Style{Speed: 1.2, Sink: 0.5, Lead: 1.5, Extra: 1} }

// pose is where the craft is and where its nose points.
type pose struct {
	x, y, z float64
	heading float64 // radians, not wrapped
}

// leg is a stretch of a flight: its pose at a share of its time.
type leg struct {
	seconds float64
	at      func(u float64) pose
}

// Flight is a flight as it was: a pose at every moment.
type Flight struct {
	legs    []leg
	ends    []float64
	calls   []track.Call
	end     pose
	total   float64
	station field.Point
	style   Style
	err     Error
	rolls   [][2]float64 // times between which it turns over
	motors  [][2]float64 // times between which the motors idle on the ground
}

// Error is a single error of known size, put into a step.
type Error struct {
	Step      int
	Criterion string  // name of the metric that it shows in; empty for a perfect flight
	Size      float64 // in the metric's unit: metres, degrees, m/s, seconds
}

// Start is where a flight of a task takes off: where it lands, or at its first place.
func Start(task drill.Task) field.Point {
	start, found := field.Point{Y: 6}, false
	for _, s := range task.Steps {
		if s.Kind == drill.Land && s.HasAt {
			start, found = s.At, true
		}
	}
	for _, s := range task.Steps {
		if s.HasAt && !found {
			start, found = s.At, true
		}
	}
	return start
}

// Of flies a task.
func Of(task drill.Task, style Style, err Error) *Flight {
	f := &Flight{station: task.Station, style: style, err: err}
	start := Start(task)
	if len(task.Steps) > 0 && task.Steps[0].Kind == drill.Regain {
		s := task.Steps[0]
		f.end = pose{y: task.Station.Y + s.FromM, x: task.Station.X, z: math.Max(2, s.HeightM), heading: math.Pi / 2}
		f.rest(2)
	} else {
		f.end = pose{x: start.X, y: start.Y}
		f.rest(2)
	}
	if style.TwiceUp && len(task.Steps) > 0 && task.Steps[0].Kind == drill.TakeOff {
		f.climb(1.2)
		f.rest(2)
		f.land()
	}
	for i := range task.Steps {
		f.step(i, &task.Steps[i], task.Side)
	}
	f.rest(1.5)
	return f
}

// add appends a stretch of so many seconds; at is the pose by its share, 0 to
// 1.
func (f *Flight) add(seconds float64, at func(u float64) pose) {
	if seconds <= 0 {
		return
	}
	f.legs = append(f.legs, leg{seconds, at})
	f.total += seconds
	f.ends = append(f.ends, f.total)
	f.end = at(1)
}

// rest stays where the craft is.
func (f *Flight) rest(seconds float64) {
	p := f.end
	f.add(seconds, func(float64) pose { return p })
}

// eased is the share of a way at a share of its time: the smoothest motion from
// rest to rest (Flash and Hogan, J. Neurosci. 5 (1985) 1688), or an even one.
func (f *Flight) eased(u float64) float64 {
	if f.style.Sharp {
		return u
	}
	return u * u * u * (10 - 15*u + 6*u*u)
}

// to flies straight to a place.
func (f *Flight) to(x, y, z float64) { f.toBy(x, y, z, 0, 0) }

// toBy flies to a place, off the straight line by bow metres in the middle, to
// the right, and by up metres of height.
func (f *Flight) toBy(x, y, z, bow, up float64) {
	a := f.end
	d := math.Sqrt((x-a.x)*(x-a.x) + (y-a.y)*(y-a.y) + (z-a.z)*(z-a.z))
	if d < 1e-9 {
		return
	}
	flat := math.Max(math.Hypot(x-a.x, y-a.y), 1e-9)
	rx, ry := (y-a.y)/flat, -(x-a.x)/flat
	seconds := (d + 2*math.Abs(bow)) / f.style.Speed
	if !f.style.Sharp {
		seconds *= 1.9
	}
	f.add(math.Max(seconds, 0.5), func(u float64) pose {
		s := f.eased(u)
		b := bump(s)
		return pose{a.x + (x-a.x)*s + bow*b*rx, a.y + (y-a.y)*s + bow*b*ry, a.z + (z-a.z)*s + up*b, a.heading}
	})
}

// bump rises from nothing to one and falls back, with no corner anywhere.
func bump(u float64) float64 {
	if u <= 0 || u >= 1 {
		return 0
	}
	s := math.Sin(math.Pi * u)
	return s * s
}

// turnTo turns the nose in place at 45° a second, the short way.
func (f *Flight) turnTo(heading field.Angle) {
	f.turnBy(float64((heading - field.Angle(f.end.heading)).Wrap()), 45)
}

// turnBy turns the nose by radians at a rate in degrees a second.
func (f *Flight) turnBy(by, dps float64) {
	if math.Abs(by) < 1e-6 {
		return
	}
	a := f.end
	f.add(math.Abs(by)*180/math.Pi/dps, func(u float64) pose {
		p := a
		p.heading += by * u
		return p
	})
}

// climb rises straight up to a height.
func (f *Flight) climb(z float64) {
	a := f.end
	seconds := math.Abs(z-a.z) / 0.7
	if !f.style.Sharp {
		seconds *= 1.5
	}
	f.add(math.Max(seconds, 0.4), func(u float64) pose {
		p := a
		p.z += (z - a.z) * f.eased(u)
		return p
	})
}

// land comes down to 0.6 m and then evenly onto the ground.
func (f *Flight) land() {
	if f.end.z > 1.6 {
		f.climb(1.4)
	}
	a := f.end
	f.add(a.z/f.style.Sink, func(u float64) pose {
		p := a
		p.z = a.z * (1 - u)
		return p
	})
	f.end.z = 0
	f.rest(2)
}

// at is the pose at a moment, held at the ends.
func (f *Flight) at(t float64) pose {
	if len(f.legs) == 0 {
		return f.end
	}
	lo, hi := 0, len(f.ends)-1
	for lo < hi {
		mid := (lo + hi) / 2
		if f.ends[mid] < t {
			lo = mid + 1
		} else {
			hi = mid
		}
	}
	l := f.legs[lo]
	return l.at(math.Max(0, math.Min(1, (t-(f.ends[lo]-l.seconds))/l.seconds)))
}

// Seconds is how long the flight lasts.
func (f *Flight) Seconds() float64 { return f.total }

// Track is the flight as an exact log of so many samples a second.
func (f *Flight) Track(hz float64) *track.Track {
	n := int(f.total*hz) + 1
	times := make([]float64, n)
	for i := range times {
		times[i] = float64(i) / hz
	}
	return f.Sampled(times)
}

// Sampled is the flight as an exact log at given moments.
func (f *Flight) Sampled(times []float64) *track.Track {
	t := &track.Track{T: times, Calls: f.calls}
	for _, s := range times {
		p := f.at(s)
		roll := 0.0
		for _, r := range f.rolls {
			if s > r[0] && s < r[1] {
				roll = 2 * math.Pi * (s - r[0]) / (r[1] - r[0])
			}
		}
		t.X, t.Y, t.Z = append(t.X, p.x), append(t.Y, p.y), append(t.Z, p.z)
		t.Heading = append(t.Heading, field.Angle(p.heading).Wrap())
		t.Roll, t.Pitch = append(t.Roll, field.Angle(roll).Wrap()), append(t.Pitch, 0)
		if len(f.motors) > 0 { // a log of a flight without such a step need not say it
			t.Armed = append(t.Armed, p.z > 0 || slices.ContainsFunc(f.motors, func(m [2]float64) bool {
				return s >= m[0] && s < m[1]
			}))
		}
	}
	return t
}

// Speeds adds the true speeds of the flight to a log of it.
func (f *Flight) Speeds(t *track.Track) {
	const d = 0.005
	for _, s := range t.T {
		a, b := f.at(s-d), f.at(s+d)
		t.VX, t.VY, t.VZ = append(t.VX, (b.x-a.x)/(2*d)), append(t.VY, (b.y-a.y)/(2*d)), append(t.VZ, (b.z-a.z)/(2*d))
	}
}
