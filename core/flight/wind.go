package flight

import (
	"math"

	"maestrale/core/flight/fmath"
)

// Gusts is how gusty the air is.
type Gusts uint8

// The gusts, with the wind at 6 m that MIL-F-8785C names them by.
const (
	NoGusts  Gusts = iota
	Light          // 15 kt
	Moderate       // 30 kt
	Severe         // 45 kt
	gustsCount
)

// GustsNames are the words of the gusts.
var GustsNames = [gustsCount]string{"none", "light", "moderate", "severe"}

// GustsOf returns the gusts of a word.
func GustsOf(word string) (Gusts, bool) { return ofWord[Gusts](GustsNames[:], word) }

const (
	knot       = 0.514444
	foot       = 0.3048
	meanHeight = 6.0 // the height that the mean wind is told at, m
	gustEvery  = 10  // ticks between steps of the gust filters
	gustBlow   = 2.0 // how long a single gust blows, s
)

// windState is what the air remembers.
type windState struct {
	along, across, acrossMemory, up, upMemory float64
	blow, blowFor                             float64 // a single gust in m/s, and for how long yet
}

// profile is how strong the mean wind is at a height, over its strength at 6 m:
// the logarithmic law over ground of a roughness (Stull, An Introduction to
// Boundary Layer Meteorology, 1988, section 9.7). meanLog is its logarithm at 6 m.
func profile(z, roughness, meanLog float64) float64 {
	return fmath.Log((greater(0, z)+roughness)/roughness) / meanLog
}

// gust steps the three filters of the Dryden model by a time: MIL-F-8785C (1980)
// section 3.7.2 at low altitude, intensities and lengths by height, as state
// equations driven by white noise. The scales use 2 m/s of air speed and 3 m of
// height at least, where the model would be singular.
func (w *windState) gust(g Gusts, z, airSpeed, dt float64, r *fmath.Rand) {
	if g == NoGusts {
		return
	}
	h := clamp(z, 3, 300) / foot
	v := max(airSpeed, 2)
	base := 0.177 + float64(0.000823*h)
	up := float64(0.1 * float64(15*float64(g)*knot))
	log := fmath.Log(base)
	along := up / fmath.Exp(float64(0.4*log)) // base^0.4
	lengthUp := float64(h * foot)
	length := float64(h/fmath.Exp(float64(1.2*log))) * foot
	noise := 1 / math.Sqrt(dt)

	// First order: σ √(2V/L) white noise through 1/(s + V/L).
	k := v / length
	push := float64(float64(along*math.Sqrt(float64(2*k))) * float64(noise*r.Normal()))
	w.along += float64(dt * (push - float64(k*w.along)))
	second := func(value, memory *float64, sigma, length float64) {
		// σ √(V/L) (V/L + √3 s) / (s + V/L)²: two states, the second through the first.
		k := v / length
		in := float64(noise * r.Normal())
		a := *memory + float64(dt*(in-float64(k**memory)))
		*memory = a
		push := float64(float64(sigma*math.Sqrt(k)) * (float64(k*a) + float64(math.Sqrt(3)*(in-float64(k*a)))))
		*value += float64(dt * (push - float64(k**value)))
	}
	second(&w.across, &w.acrossMemory, along, length)
	second(&w.up, &w.upMemory, up, lengthUp)
}

// at is the velocity of the air at a height, in the field frame, for a mean wind
// of a strength at 6 m that goes toward a direction.
func (w *windState) at(to Vec, strength, z, roughness, meanLog float64) Vec {
	along := w.along
	if strength > 0 {
		along += float64(strength * profile(z, roughness, meanLog))
	}
	if w.blowFor > 0 { // one minus cosine, MIL-F-8785C section 3.7.3
		along += float64(float64(0.5*w.blow) * (1 - fmath.Cos(float64(2*math.Pi*(1-float64(w.blowFor/gustBlow))))))
	}
	return Vec{float64(to.X*along) + float64(to.Y*w.across), float64(to.Y*along) - float64(to.X*w.across), w.up}
}
