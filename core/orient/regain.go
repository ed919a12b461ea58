// Package orient holds what can be known of the aspect of a craft, what the
// sticks do at one, and how a pilot is trained in both.
//
// A craft far away is a dot that moves. What an eye can tell of it, and with
// which error, is an Eye; what follows from everything seen is a Posterior over
// the aspects, kept by a Filter. Advise weighs what a look would tell against
// flying home at once. The same model counts wrong inputs in a log (Watch,
// WrongInputs), so that nobody is blamed for what could not be known.
//
// Besides: how far a student tells nose from tail (Callable, Sight), the reflex
// trainer (Item, Memory), the field protocol for losing the orientation on
// purpose (Protocol), and the yaw that keeps a nose on a subject (YawPlan).
//
// Aspects are radians from tail-in, positive to the right; distances metres,
// times seconds.
package orient

import (
	"fmt"
	"math"

	"maestrale/core/field"
)

// Input is what a pilot does with the sticks to find the nose again.
type Input string

// The inputs. A push stays on while the craft is yawed after it.
const (
	Forward  Input = "forward"
	Back     Input = "back"
	YawLeft  Input = "yaw-left"
	YawRight Input = "yaw-right"
)

// Inputs lists them.
var Inputs = []Input{Forward, Back, YawLeft, YawRight}

// Seen is what the eye saw.
type Seen string

// What an eye at the edge of sight can tell of a dot: whether it moves across, to which
// side, and whether slowly or as fast as it can.
const (
	None      Seen = "none"
	SlowLeft  Seen = "slow left"
	FullLeft  Seen = "full left"
	SlowRight Seen = "slow right"
	FullRight Seen = "full right"
)

// Sights lists them, from the left to the right.
var Sights = []Seen{FullLeft, SlowLeft, None, SlowRight, FullRight}

// Eye is how a craft is seen. The apparent sideways rate is (airspeed ·
// sin(aspect of the motion) + crosswind) / distance; a rate under the threshold
// is not seen; what is seen is off by a normal error, and now and then (Lapse)
// the eye takes anything for anything.
type Eye struct {
	DistanceM    float64
	AirspeedMps  float64     // of a push
	WindMps      float64     // across and along, in height hold the craft goes with it
	WindFrom     field.Angle // field heading where it comes from, the craft straight ahead
	YawRate      field.Angle // a second
	ThresholdRps float64     // rad/s
	Error        float64     // standard error, as a share of the rate of a push straight across
	Lapse        float64
}

// Usual is an eye as people have it: against an empty sky a motion of under a
// third of a degree a second is not seen (without a frame of reference the
// threshold is some ten times that with one, 1 to 2 minutes of arc a second:
// Aubert, Pflügers Archiv 39 (1886) 347), a quarter of a push's rate for the
// error, and one look in twenty wrong altogether (MeanLapse).
func Usual() Eye {
	return Eye{DistanceM: 60, AirspeedMps: 5, YawRate: field.Degrees(90), ThresholdRps: float64(field.Degrees(0.33)),
		Error: 0.25, Lapse: MeanLapse}
}

// Check refuses an eye that cannot be; the error says which figure and what was
// expected.
func (e Eye) Check() error {
	switch {
	case !(e.DistanceM >= 1 && e.DistanceM <= 2000):
		return fmt.Errorf("the distance is %v m; expected 1 to 2000", e.DistanceM)
	case !(e.AirspeedMps >= 0.2 && e.AirspeedMps <= 40):
		return fmt.Errorf("the airspeed is %v m/s; expected 0.2 to 40", e.AirspeedMps)
	case !(e.WindMps >= 0 && e.WindMps <= 30):
		return fmt.Errorf("the wind is %v m/s; expected 0 to 30", e.WindMps)
	case !(e.YawRate.Deg() >= 5 && e.YawRate.Deg() <= 720):
		return fmt.Errorf("the yaw rate is %v °/s; expected 5 to 720", e.YawRate.Deg())
	}
	return nil
}

// full is the share of a push's rate from which a motion is called full, and not slow.
const full = 0.65

// rate is the apparent sideways rate in rad/s, positive to the right, of a
// craft at an aspect with a push (1 ahead, −1 back, 0 none).
func (e Eye) rate(aspect, push float64) float64 {
	// At aspect 0 the nose points away; at +90 it points right.
	across := push * e.AirspeedMps * math.Sin(aspect)
	wind := -e.WindMps * math.Sin(float64(e.WindFrom))
	return (across + wind) / e.DistanceM
}

// along is the speed away from the pilot in m/s; negative is nearer.
func (e Eye) along(aspect, push float64) float64 {
	return push*e.AirspeedMps*math.Cos(aspect) - e.WindMps*math.Cos(float64(e.WindFrom))
}

// chances are how likely each sight of Sights is at an aspect with a push; they
// sum to 1.
func (e Eye) chances(aspect, push float64) (p [5]float64) {
	unit := e.AirspeedMps / e.DistanceM
	r, sd := e.rate(aspect, push), math.Max(1e-9, e.Error*unit)
	// Slow lies between the threshold and full; a craft that is hardly seen to
	// move shows only none and full.
	edge := math.Max(e.ThresholdRps, full*unit)
	under := func(x float64) float64 { return 0.5 * math.Erfc((r-x)/(sd*math.Sqrt2)) }
	// The five sights cut the line of seen rates at four places.
	bounds := []float64{under(-edge), under(-e.ThresholdRps), under(e.ThresholdRps), under(edge), 1}
	last := 0.0
	for i, b := range bounds {
		p[i] = (1-e.Lapse)*(b-last) + e.Lapse/5
		last = b
	}
	return p
}

// Grain is how many aspects a Posterior tells apart.
const Grain = 360

// Posterior is how likely each aspect is: a degree a bin, from tail-in clockwise.
type Posterior [Grain]float64

// Anything is a posterior that knows nothing: every aspect is as likely.
func Anything() (p Posterior) {
	for i := range p {
		p[i] = 1.0 / Grain
	}
	return p
}

// Row is one input, for how long, and what was seen while it was held.
type Row struct {
	Input   Input
	Seconds float64
	Saw     Seen
}

// unlikely is the chance, given what was seen before, under which a sight is
// named where the sights contradict one another.
const unlikely = 0.05

// Turned is the posterior after a yaw by an angle, blurred by the tenth of it
// by which a stick that is moved by hand is off.
func (p Posterior) Turned(by field.Angle) (out Posterior) {
	shift := by.Deg()
	// A turn by hand is off by a tenth of it, half a degree at least.
	sd := math.Max(0.5, math.Abs(shift)/10)
	var kernel []float64
	// A normal kernel, in whole degrees, three deviations to either side.
	reach := int(math.Ceil(3 * sd))
	sum := 0.0
	for d := -reach; d <= reach; d++ {
		w := math.Exp(-float64(d*d) / (2 * sd * sd))
		kernel = append(kernel, w)
		sum += w
	}
	for k := range kernel {
		kernel[k] /= sum
	}
	whole := int(math.Round(shift)) - reach
	for i, v := range p {
		if v == 0 {
			continue
		}
		j := ((i+whole)%Grain + Grain) % Grain
		for _, w := range kernel {
			out[j] += v * w
			if j++; j == Grain {
				j = 0
			}
		}
	}
	return out
}

// sightAt is the index of a sight in Sights; one that is none counts as seeing
// nothing move.
func sightAt(s Seen) int {
	for i, x := range Sights {
		if x == s {
			return i
		}
	}
	return 2
}

// Track is what a run of inputs and sights comes to.
type Track struct {
	After         []Posterior // after each row
	Contradictory bool        // all rows together are likelier from an eye that guesses
	Against       []int       // where they are: the rows that fitted worst what was seen before them
	Push          float64     // that is still on
}

// Follow takes in rows in their order, every one of them. Without rows nothing
// is known and nothing contradicts.
func Follow(e Eye, rows []Row) (t Track) {
	f := NewFilter(e)
	for i, r := range rows {
		switch r.Input {
		case Forward:
			t.Push = 1
		case Back:
			t.Push = -1
		case YawLeft:
			f.Turned(-e.YawRate * field.Angle(r.Seconds))
		case YawRight:
			f.Turned(e.YawRate * field.Angle(r.Seconds))
		}
		if f.Sees(e, t.Push, 0, r.Saw) < unlikely {
			t.Against = append(t.Against, i)
		}
		t.After = append(t.After, f.Known())
	}
	if t.Contradictory = f.Contradictory(); !t.Contradictory {
		t.Against = nil
	}
	return t
}

// Bins36 adds a posterior up to 36 probabilities, each of 10° around its
// aspect: 0 tail-in, 10, 20 and so on clockwise.
func (p Posterior) Bins36() (out [36]float64) {
	for i, v := range p {
		// Half of the degree on the edge goes to either side.
		switch at := (i + 5) % Grain; {
		case at%10 == 0:
			out[at/10] += v / 2
			out[(at/10+35)%36] += v / 2
		default:
			out[at/10] += v
		}
	}
	return out
}

// Likeliest returns the aspect around which, within 20° either way, the
// posterior holds most, and how much that is. Of several as likely it is the
// first from tail-in clockwise.
func (p Posterior) Likeliest() (aspect field.Angle, share float64) {
	const reach = 20
	sum := 0.0
	for d := -reach; d <= reach; d++ {
		sum += p[(d+Grain)%Grain]
	}
	best := 0
	share = sum
	// The window moves on by a degree: one comes in, one goes out.
	for i := 1; i < Grain; i++ {
		sum += p[(i+reach)%Grain] - p[(i-1-reach+Grain)%Grain]
		if sum > share+1e-12 {
			best, share = i, sum
		}
	}
	return field.Degrees(float64(best)).Wrap(), share
}

// Entropy is what is not known, in bits: log2 of 360 for one that knows
// nothing, 0 for one that is sure.
func (p Posterior) Entropy() (bits float64) {
	for _, v := range p {
		if v > 0 {
			bits -= v * math.Log2(v)
		}
	}
	return bits
}

// Gain is how many bits an input, held so many seconds, is expected to tell:
// the entropy before it less the mean entropy after each sight. push is what is
// on before it.
func (p Posterior) Gain(e Eye, push float64, in Input, seconds float64) float64 {
	q, push := p.with(e, push, in, seconds)
	table := e.table(push)
	// What the turn alone blurs is a loss, which the sight has to make up for.
	gain := q.Entropy()
	for k := range Sights {
		// The entropy after a sight, times its chance c: −Σ w log w + c log c.
		chance, sum := 0.0, 0.0
		for i, v := range q {
			if w := v * table[i][k]; w > 0 {
				chance += w
				sum -= w * math.Log2(w)
			}
		}
		if chance > 0 {
			gain -= sum + chance*math.Log2(chance)
		}
	}
	return gain
}

// with returns the posterior and the push once an input was made, before
// anything is seen.
func (p Posterior) with(e Eye, push float64, in Input, seconds float64) (Posterior, float64) {
	switch in {
	case Forward:
		return p, 1
	case Back:
		return p, -1
	case YawLeft:
		return p.Turned(-e.YawRate * field.Angle(seconds)), push
	}
	return p.Turned(e.YawRate * field.Angle(seconds)), push
}

// table is how likely each sight is at each aspect with a push.
func (e Eye) table(push float64) *[Grain][5]float64 {
	var t [Grain][5]float64
	for i := range t {
		t[i] = e.chances(float64(i)*math.Pi/180, push)
	}
	return &t
}
