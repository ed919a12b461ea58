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

// colours is the angle at which an eye of acuity 1 by day tells two coloured
// patches apart: half a cycle at 11 cycles a degree, where gratings of colour
// alone end (Mullen, J. Physiol. 359 (1985) 381; black on white it would be a
// minute of arc, ISO 8596:2017).
const colours = 0.5 / 11

// resolves is the same in each light: acuity halves from 100 to about 1 cd/m²
// (Shlaer, J. Gen. Physiol. 21 (1937) 165).
var resolves = map[Light]field.Angle{Day: field.Degrees(colours), Overcast: field.Degrees(1.25 * colours),
	Dusk: field.Degrees(2 * colours)}

// tellFactor is how many resolvable angles the coloured cue has to span before its side
// is told at a glance, and not only found by looking hard: four, as a letter of five
// strokes is read.
const tellFactor = 4.0

// TellDistance is the distance in m to which an aspect can be told from the
// spacing of the craft's colour cue, by an eye of some acuity (1 = reads a
// minute of arc) in a light: d = spacing / (4 · angle / acuity).
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
	// The cue spans tellFactor resolvable angles at that distance.
	return spacingM / math.Tan(tellFactor*float64(a)/acuity), nil
}

// Call is an aspect that a student called at a known distance.
type Call struct {
	DistanceM float64 `json:"distance_m"`
	Right     bool    `json:"right"`
	Light     Light   `json:"light"` // empty = the light that is asked for
	as        float64 // by how much farther it counts in the light that is asked for; 0 = as it is
}

// Callable is how a student's calls depend on the distance: a logistic curve
// over its logarithm, between guessing and all but never wrong,
//
//	p(d) = g + (1 − g − lapse) / (1 + (d / d75)^slope)
//
// so that p(d75) lies half way between a guess and always. What is not known,
// d75, the slope and how often a call is wrong at any distance, is a grid of
// weights (Kontsevich and Tyler, Vision Research 39 (1999) 2729), which also
// chooses the next distance. A lapse rate that is taken for known makes an
// interval too narrow the more calls there are (Wichmann and Hill, Perception &
// Psychophysics 63 (2001) 1293). The curve of a caller whose threshold is
// normal and not logistic lies within a hundredth or two of this one.
type Callable struct {
	guess float64
	at    []float64 // d75, evenly in its logarithm
	slope []float64
	lapse []float64
	w     []float64 // by at, slope and lapse
	n     int
}

const (
	nearest    = 5.0
	farthest   = 400.0
	distances  = 200
	leastCalls = 8 // under which no threshold is told
)

// NewCallable returns one that knows nothing yet. among is how many aspects are
// called from, so that a guess is right one time in so many.
func NewCallable(among int) (*Callable, error) {
	if among < 2 || among > 16 {
		return nil, fmt.Errorf("the aspects are called among %d; expected 2 to 16", among)
	}
	c := &Callable{guess: 1 / float64(among)}
	for i := range distances {
		c.at = append(c.at, nearest*math.Pow(farthest/nearest, float64(i)/(distances-1)))
	}
	// From a caller who fades over a factor of three in distance to one who is
	// sure and then lost.
	c.slope = []float64{1.5, 2.2, 3.2, 4.6, 6.6, 9.5, 14}
	c.lapse = []float64{0.005, 0.02, 0.04, 0.06, 0.085}
	c.w = make([]float64, len(c.at)*len(c.slope)*len(c.lapse))
	for i := range c.w {
		c.w[i] = 1 / float64(len(c.w))
	}
	return c, nil
}

// chance is that of a right call at d metres by somebody with a threshold, a
// slope and a lapse rate.
func (c *Callable) chance(d, at, slope, lapse float64) float64 {
	return c.guess + (1-c.guess-lapse)*c.tells(d, at, slope)
}

// tells is the share of the way from a guess to always: 1 close by, 1/2 at the
// threshold.
func (c *Callable) tells(d, at, slope float64) float64 { return 1 / (1 + math.Pow(d/at, slope)) }

// Called takes in a call. A distance that is not 1 to 1000 m is an error, and
// changes nothing.
func (c *Callable) Called(k Call) error {
	if !(k.DistanceM >= 1 && k.DistanceM <= 1000) {
		return fmt.Errorf("a call at %v m; expected 1 to 1000", k.DistanceM)
	}
	sum := 0.0
	// In another light the call counts at the distance at which it would have
	// been as hard.
	d := k.DistanceM * k.as
	if k.as == 0 {
		d = k.DistanceM
	}
	n := 0
	for _, at := range c.at {
		for _, s := range c.slope {
			tells := c.tells(d, at, s)
			for _, lapse := range c.lapse {
				p := c.guess + (1-c.guess-lapse)*tells
				if !k.Right {
					p = 1 - p
				}
				c.w[n] *= p
				sum += c.w[n]
				n++
			}
		}
	}
	for i := range c.w {
		c.w[i] /= sum
	}
	c.n++
	return nil
}

// Threshold returns the distance in metres at which a call is right half way
// between a guess and always, with its 80 % interval. ok is false under 8
// calls.
func (c *Callable) Threshold() (m, low, high float64, ok bool) {
	each := len(c.slope) * len(c.lapse)
	step := math.Log(c.at[1] / c.at[0])
	// The threshold is the mean of its logarithm: a factor either way is as
	// likely.
	mean, sum := 0.0, 0.0
	// The weight of a distance is spread evenly over its step of the grid.
	quantile := func(q float64) float64 {
		below := 0.0
		for i, at := range c.at {
			w := 0.0
			for _, v := range c.w[i*each : (i+1)*each] {
				w += v
			}
			if below+w >= q && w > 0 {
				return at * math.Exp(step*((q-below)/w-0.5))
			}
			below += w
		}
		return c.at[len(c.at)-1]
	}
	for i, at := range c.at {
		for _, w := range c.w[i*each : (i+1)*each] {
			mean, sum = mean+w*math.Log(at), sum+w
		}
	}
	m = math.Exp(mean / sum)
	// The interval leaves a little more than a tenth on either side, as calls
	// near a threshold come in whole numbers.
	return m, math.Min(m, quantile(0.11)), math.Max(m, quantile(0.89)), c.n >= leastCalls
}

// entropyCells is how finely the entropy of a right or wrong call is tabled.
const entropyCells = 4096

// entropyOf is the entropy, by natural logarithms, of a call that is right with
// the chance i / entropyCells.
var entropyOf = func() (t [entropyCells + 1]float64) {
	for i := 1; i < entropyCells; i++ {
		p := float64(i) / entropyCells
		t[i] = -p*math.Log(p) - (1-p)*math.Log(1-p)
	}
	return t
}()

// Next returns the distance, of those that can be walked to, at which a call is
// expected to tell most of threshold, slope and lapses: where what is not known
// of the call itself, less what would still not be known of it if all three
// were, is largest. It is 0 where there are none to choose from.
func (c *Callable) Next(from []float64) (best float64) {
	top := math.Inf(-1)
	for _, d := range from {
		right, noise, n := 0.0, 0.0, 0
		for _, at := range c.at {
			far := math.Log(d / at)
			for _, s := range c.slope {
				// The same curve as tells, with the power written as an
				// exponential.
				tells := 1 / (1 + math.Exp(s*far))
				for _, lapse := range c.lapse {
					p := c.guess + (1-c.guess-lapse)*tells
					// What is not known of the call, and on average what would
					// still not be known of it.
					right += c.w[n] * p
					noise += c.w[n] * entropyOf[int(p*entropyCells+0.5)]
					n++
				}
			}
		}
		if told := entropyOf[int(right*entropyCells+0.5)] - noise; told > top {
			top, best = told, d
		}
	}
	return best
}
