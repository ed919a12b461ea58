package orient

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
)

// How far a student tells nose from tail decides how far a drill may go. It is
// measured with calls at marked distances, chosen so that each tells most.

// Marks are the distances in m to which the field protocol walks.
var Marks = []float64{10, 15, 20, 25, 30, 40, 50, 60, 80, 100, 130, 160, 200, 250}

// CalledAmong are the aspects that are called in the field protocol, in degrees.
var CalledAmong = []float64{0, 90, 180, -90}

// tells is the chance of a right call up to whose distance an aspect counts as told.
const tells = 0.9

// spread is the factor by which an interval of 80 % may be wide, from its lower
// end to its upper, for the calls to be enough.
const spread = 1.6

// Sight is how far a student tells the aspect of a craft, in a light.
type Sight struct {
	TellM     float64 // to which a call is right nine times of ten
	HalfM     float64 // at which it is right half way between a guess and always; 0 = not known
	Low, High float64 // 80 % interval of HalfM
	CueM      float64 // that the craft's cue allows the eye
	Calls     int
	FromCue   bool // too few calls: TellM is CueM
	Enough    bool // the interval is narrow
}

// SightOf is how far the aspect of a craft with a cue of a spacing can be told:
// by the student's calls or, while there are under eight, by the cue and the
// eye's acuity alone. Calls in another light are taken as calls at the distance
// at which the cue spans as many resolvable angles.
func SightOf(spacingM, acuity float64, light Light, calls []Call) (Sight, error) {
	cue, err := TellDistance(spacingM, acuity, light)
	if err != nil {
		return Sight{}, err
	}
	c, err := callableOf(light, calls)
	if err != nil {
		return Sight{}, err
	}
	s := Sight{TellM: cue, CueM: cue, Calls: len(calls), FromCue: true}
	if m, low, high, ok := c.Threshold(); ok {
		s.HalfM, s.Low, s.High, s.FromCue = m, low, high, false
		s.TellM = c.To(tells)
		s.Enough = high/low <= spread
	}
	return s, nil
}

// callableOf takes calls into a new Callable, each as it would count in a
// light.
func callableOf(light Light, calls []Call) (*Callable, error) {
	c, err := NewCallable(len(CalledAmong))
	if err != nil {
		return nil, err
	}
	for _, k := range calls {
		was, ok := resolves[k.Light]
		if k.Light == "" {
			was, ok = resolves[light], true
		}
		if !ok {
			return nil, fmt.Errorf("a call in the light %.40q; expected day, overcast or dusk", string(k.Light))
		}
		// In better light the same call would have been right farther out.
		k.as = float64(was / resolves[light])
		if err := c.Called(k); err != nil {
			return nil, err
		}
	}
	return c, nil
}

// Chance is that of a right call at a distance, over all that threshold, slope
// and lapses may be.
func (c *Callable) Chance(d float64) (p float64) {
	n := 0
	for _, at := range c.at {
		for _, s := range c.slope {
			tells := c.tells(d, at, s)
			for _, lapse := range c.lapse {
				p += c.w[n] * (c.guess + (1-c.guess-lapse)*tells)
				n++
			}
		}
	}
	return p
}

// To is the distance in metres up to which a call is right with a chance of p
// or more; 0 where it is not so even close by.
func (c *Callable) To(p float64) float64 {
	low, high := 1.0, farthest
	if c.Chance(low) < p {
		return 0
	}
	// Halving the ratio forty times is far finer than a pace.
	for range 40 {
		if mid := math.Sqrt(low * high); c.Chance(mid) >= p {
			low = mid
		} else {
			high = mid
		}
	}
	return low
}

// NextCall is what the field protocol asks next: the mark, no more than two
// from where the craft stands, whose call is expected to tell most, and an
// aspect, no more than twice in a row the same. stands is 0 at the beginning,
// when it is the mark nearest to half of what the cue allows.
func NextCall(spacingM float64, light Light, calls []Call, stands float64, last []int, random *rand.Rand) (mark float64,
	aspect int, err error) {
	c, err := callableOf(light, calls)
	if err != nil {
		return 0, 0, err
	}
	from := Marks
	at := nearestMark(stands)
	if stands <= 0 {
		// The first call: half as far as the cue allows, where most get it
		// right.
		cue, err := TellDistance(spacingM, 1, light)
		if err != nil {
			return 0, 0, err
		}
		at = nearestMark(cue / 2)
		from = Marks[at : at+1]
	} else {
		from = from[max(0, at-2):min(len(from), at+3)]
	}
	mark = c.Next(from)
	// A third time the same would teach that the other one is due.
	aspect = random.IntN(len(CalledAmong))
	if n := len(last); n >= 2 && last[n-1] == last[n-2] && aspect == last[n-1] {
		aspect = (aspect + 1 + random.IntN(len(CalledAmong)-1)) % len(CalledAmong)
	}
	return mark, aspect, nil
}

// nearestMark is the index of the mark that is nearest in the ratio of
// distances.
func nearestMark(m float64) (best int) {
	for i, x := range Marks {
		if math.Abs(math.Log(x/math.Max(1, m))) < math.Abs(math.Log(Marks[best]/math.Max(1, m))) {
			best = i
		}
	}
	return best
}

// Curve is the chance of a right call by distance, for a drawing.
func Curve(light Light, calls []Call, to float64, points int) (out [][2]float64, err error) {
	c, err := callableOf(light, calls)
	if err != nil {
		return nil, err
	}
	for i := range points {
		d := to * float64(i+1) / float64(points)
		out = append(out, [2]float64{d, c.Chance(d)})
	}
	return out, nil
}

// Lights lists the lights.
var Lights = []Light{Day, Overcast, Dusk}

// LightOf reads a light; what is none is day.
func LightOf(s string) Light {
	if slices.Contains(Lights, Light(s)) {
		return Light(s)
	}
	return Day
}
