package orient

import (
	"fmt"
	"math"

	"maestrale/core/field"
)

// Light is the light in which a craft is looked at.
type Light string

// The lights.
const (
	Day      Light = "day"
	Overcast Light = "overcast"
	Dusk     Light = "dusk"
)

// colours is the angle at which an eye of acuity 1 by day tells two coloured patches apart:
// half a cycle at 11 cycles a degree, where gratings of colour alone end (Mullen, J.
// Physiol. 359 (1985) 381; black on white it would be a minute of arc, ISO 8596:2017).
const colours = 0.5 / 11

// resolves is the same in each light: acuity halves from 100 to about 1 cd/m² (Shlaer, J.
// Gen. Physiol. 21 (1937) 165).
var resolves = map[Light]field.Angle{Day: field.Degrees(colours), Overcast: field.Degrees(1.25 * colours), Dusk: field.Degrees(2 * colours)}

// tellFactor is how many resolvable angles the coloured cue has to span before its side
// is told at a glance, and not only found by looking hard: four, as a letter of five
// strokes is read.
const tellFactor = 4.0

// TellDistance is the distance in m to which an aspect can be told from the spacing of the
// craft's colour cue, by an eye of some acuity (1 = reads a minute of arc) in a light:
// d = spacing / (4 · angle / acuity).
func TellDistance(spacingM, acuity float64, light Light) (float64, error) {
	a, ok := resolves[light]
	switch {
	case !ok:
		return 0, fmt.Errorf("the light is %q; expected day, overcast or dusk", string(light))
	case !(spacingM > 0 && spacingM <= 5):
		return 0, fmt.Errorf("the cue's spacing is %v m; expected over 0 and 5 at most", spacingM)
	case !(acuity >= 0.05 && acuity <= 3):
		return 0, fmt.Errorf("the acuity is %v; expected 0.05 to 3", acuity)
	}
	return spacingM / math.Tan(tellFactor*float64(a)/acuity), nil
}

// Call is an aspect that a student called at a known distance.
type Call struct {
	DistanceM float64 `json:"distance_m"`
	Right     bool    `json:"right"`
	Light     Light   `json:"light"` // empty = the light that is asked for
	as        float64 // by how much farther it counts in the light that is asked for; 0 = as it is
}

// Callable is how a student's calls depend on the distance: a logistic curve over its
// logarithm between guessing and all but never wrong,
//
//	p(d) = g + (1 − g − lapse) / (1 + (d / d75)^slope)
//
// so that p(d75) lies half way between a guess and always. What is not known, d75
// and the slope, is a grid of weights (Kontsevich and Tyler, Vision Research 39 (1999)
// 2729), which also chooses the next distance.
type Callable struct {
	guess float64
	at    []float64 // d75, evenly in its logarithm
	slope []float64
	w     []float64
	n     int
}

const (
	callLapse  = 0.02
	nearest    = 5.0
	farthest   = 400.0
	distances  = 120
	leastCalls = 8 // under which no threshold is told
)

// NewCallable knows nothing yet; among is how many aspects are called from.
func NewCallable(among int) (*Callable, error) {
	if among < 2 || among > 16 {
		return nil, fmt.Errorf("the aspects are called among %d; expected 2 to 16", among)
	}
	c := &Callable{guess: 1 / float64(among)}
	for i := range distances {
		c.at = append(c.at, nearest*math.Pow(farthest/nearest, float64(i)/(distances-1)))
	}
	c.slope = []float64{1.5, 2.5, 4, 6, 9, 14}
	c.w = make([]float64, len(c.at)*len(c.slope))
	for i := range c.w {
		c.w[i] = 1 / float64(len(c.w))
	}
	return c, nil
}

// chance is that of a right call at a distance by somebody with a threshold and slope.
func (c *Callable) chance(d, at, slope float64) float64 {
	return c.guess + (1-c.guess-callLapse)/(1+math.Pow(d/at, slope))
}

// Called takes in a call. Distances out of 1 to 1000 m are an error.
func (c *Callable) Called(k Call) error {
	if !(k.DistanceM >= 1 && k.DistanceM <= 1000) {
		return fmt.Errorf("a call at %v m; expected 1 to 1000", k.DistanceM)
	}
	sum := 0.0
	d := k.DistanceM * k.as
	if k.as == 0 {
		d = k.DistanceM
	}
	for i, at := range c.at {
		for j, s := range c.slope {
			p := c.chance(d, at, s)
			if !k.Right {
				p = 1 - p
			}
			c.w[i*len(c.slope)+j] *= p
			sum += c.w[i*len(c.slope)+j]
		}
	}
	for i := range c.w {
		c.w[i] /= sum
	}
	c.n++
	return nil
}

// Threshold is the distance at which a call is right half way between a guess and always,
// with its 80 % interval; it is not ok under 8 calls.
func (c *Callable) Threshold() (m, low, high float64, ok bool) {
	mean, sum := 0.0, 0.0
	low, high = c.at[0], c.at[len(c.at)-1]
	set := false
	for i, at := range c.at {
		w := 0.0
		for j := range c.slope {
			w += c.w[i*len(c.slope)+j]
		}
		mean += w * math.Log(at)
		if sum += w; !set && sum >= 0.1 {
			low, set = at, true
		}
		if sum <= 0.9 {
			high = at
		}
	}
	return math.Exp(mean), low, math.Max(low, high), c.n >= leastCalls
}

// Next is the distance, of those that can be walked to, at which a call is expected to tell
// most of the threshold and slope.
func (c *Callable) Next(from []float64) (best float64) {
	top := math.Inf(1)
	for _, d := range from {
		var right, e1, e0 float64
		for i, at := range c.at {
			for j, s := range c.slope {
				w := c.w[i*len(c.slope)+j]
				if w < 1e-12 {
					continue
				}
				p := c.chance(d, at, s)
				a, b := w*p, w*(1-p)
				right += a
				e1 -= a * math.Log(a)
				e0 -= b * math.Log(b)
			}
		}
		// The expected entropy after the call.
		if h := e1 + right*math.Log(right) + e0 + (1-right)*math.Log(1-right); h < top {
			top, best = h, d
		}
	}
	return best
}
