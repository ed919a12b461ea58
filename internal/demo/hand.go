// Package demo makes the sample school: invented people, a seeded generator
// that moves a point with the control error of a human hand, and the real
// scorer and rules to judge it. The simulator replaces the generator when it
// is there.
package demo

import (
	"math"
	"math/rand/v2"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/track"
)

// Hand is how well somebody flies, as the standard deviations of what the hand
// lets happen.
type Hand struct {
	PlaceM   float64     // wandering about the place
	HeightM  float64     // and about the height
	Nose     field.Angle // and of the nose
	DriftMps float64     // steady drift that is not noticed, for some seconds at a time
	SinkMps  float64     // mean sink rate at the touch
}

const step = 0.05 // s between samples of a made-up log: 20 Hz

// wander is a smooth random error: white noise through a damped second-order
// system of the given period, scaled to a standard deviation of 1 (the
// stationary variance of x″ + 2ζωx′ + ω²x = w is q/(4ζω³) for noise of
// intensity q).
type wander struct {
	x, v, omega, gain float64
	r                 *rand.Rand
}

func newWander(r *rand.Rand, period float64) *wander {
	const zeta = 0.6
	w := &wander{omega: 2 * math.Pi / period, r: r}
	w.gain = math.Sqrt(4 * zeta * w.omega * w.omega * w.omega)
	w.x, w.v = r.NormFloat64(), r.NormFloat64()*w.omega
	return w
}

func (w *wander) next() float64 {
	const zeta = 0.6
	w.v += (-2*zeta*w.omega*w.v-w.omega*w.omega*w.x)*step + w.gain*math.Sqrt(step)*w.r.NormFloat64()
	w.x += w.v * step
	return w.x
}

// flier carries a craft from step to step of a task.
type flier struct {
	hand                   Hand
	r                      *rand.Rand
	ex, ey, ez, en, gust   *wander
	t, x, y, z             float64
	heading                field.Angle
	ground                 bool
	driftX, driftY, driftT float64
	offX, offY             float64
	out                    *track.Track
}

// Fly makes a flight of a task as that hand would, from take-off to the motors'
// stop. The same seed gives the same flight.
func Fly(task drill.Task, hand Hand, seed uint64) *track.Track {
	r := rand.New(rand.NewPCG(seed, 0x6d61657374))
	f := &flier{hand: hand, r: r, ground: true, out: &track.Track{},
		ex: newWander(r, 5), ey: newWander(r, 6), ez: newWander(r, 4), en: newWander(r, 3), gust: newWander(r, 2)}
	var at field.Point
	for _, s := range task.Steps {
		if s.HasAt {
			at = s.At
			break
		}
	}
	f.x, f.y = at.X, at.Y
	f.heading = field.Bearing(at.Sub(task.Station))
	f.wait(1.5)
	height := 0.0
	for _, s := range task.Steps {
		if s.HasAt {
			at = s.At
		}
		switch s.Kind {
		case drill.TakeOff:
			height = s.ToHeightM
			f.ground = false
			f.glide(at, height, f.heading, 1.5+height/0.8)
		case drill.Hold:
			if s.HeightM > 0 {
				height = s.HeightM
			}
			f.glide(at, height, f.want(s, task.Station), 1+math.Abs(height-f.z)/0.8)
			f.wait(s.Seconds + 2.5)
		case drill.Turn:
			rate := 25 + 15*r.Float64()
			f.glide(at, height, f.heading+s.By, s.By.Abs().Deg()/rate)
			f.wait(1.6)
		case drill.Land:
			f.land(at)
		}
	}
	return f.out
}

func (f *flier) want(s drill.Target, station field.Point) field.Angle {
	switch s.Heading.Kind {
	case drill.Fixed:
		return f.heading + (s.Heading.Angle - f.heading).Wrap()
	case drill.Sight:
		aim := field.Bearing(s.At.Sub(station)) + s.Heading.Angle
		return f.heading + (aim - f.heading).Wrap()
	}
	return f.heading
}

// glide moves the aim to a place, height and heading; the hand follows it.
func (f *flier) glide(at field.Point, z float64, heading field.Angle, seconds float64) {
	n := max(1, int(seconds/step))
	x0, y0, z0, h0 := f.x, f.y, f.z, f.heading
	for i := 1; i <= n; i++ {
		s := float64(i) / float64(n)
		s = s * s * (3 - 2*s) // eased in and out
		f.x, f.y, f.z = x0+(at.X-x0)*s, y0+(at.Y-y0)*s, z0+(z-z0)*s
		f.heading = h0 + (heading-h0)*field.Angle(s)
		f.sample()
	}
}

func (f *flier) wait(seconds float64) {
	for range int(seconds / step) {
		f.sample()
	}
}

// land sinks onto the pad and stands there.
func (f *flier) land(at field.Point) {
	sink := math.Max(0.2, f.hand.SinkMps*(1+0.2*f.r.NormFloat64()))
	for f.z > 0 {
		slow := sink
		if f.z > 1 {
			slow = math.Max(sink, 0.6)
		}
		f.z = math.Max(0, f.z-slow*step)
		f.x += (at.X - f.x) * step
		f.y += (at.Y - f.y) * step
		f.sample()
	}
	f.ground = true
	f.wait(2.5)
}

func (f *flier) sample() {
	h := f.hand
	ex, ey, ez, en := f.ex.next(), f.ey.next(), f.ez.next(), f.en.next()
	if f.driftT -= step; f.driftT <= 0 { // now and then attention slips
		f.driftT = 3 + 6*f.r.Float64()
		a := f.r.Float64() * 2 * math.Pi
		f.driftX, f.driftY = h.DriftMps*math.Cos(a)*f.r.Float64(), h.DriftMps*math.Sin(a)*f.r.Float64()
	}
	if !f.ground {
		f.offX += (f.driftX - 0.4*f.offX) * step
		f.offY += (f.driftY - 0.4*f.offY) * step
	}
	n := len(f.out.T)
	x, y, z := f.x+f.offX+ex*h.PlaceM, f.y+f.offY+ey*h.PlaceM, f.z+ez*h.HeightM*math.Min(1, f.z)
	heading := f.heading + field.Angle(en)*h.Nose
	if f.ground && n > 0 { // it stands where it stood
		x, y, heading = f.out.X[n-1], f.out.Y[n-1], f.out.Heading[n-1]
	}
	if f.ground {
		z = 0
	}
	f.out.T = append(f.out.T, math.Round(f.t*1000)/1000)
	mm := func(v float64) float64 { return math.Round(v*1000) / 1000 }
	f.out.X, f.out.Y, f.out.Z = append(f.out.X, mm(x)), append(f.out.Y, mm(y)), append(f.out.Z, mm(math.Max(0, z)))
	f.out.Heading = append(f.out.Heading, field.Degrees(math.Round(heading.Wrap().Deg()*10)/10))
	lean := field.Degrees(math.Round(math.Abs(ex)*3*10*h.PlaceM) / 10)
	f.out.Roll, f.out.Pitch = append(f.out.Roll, lean), append(f.out.Pitch, field.Degrees(0))
	f.t += step
}
