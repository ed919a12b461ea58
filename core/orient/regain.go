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

// Eye is how a craft is seen. The apparent sideways rate is (airspeed · sin(aspect of the
// motion) + crosswind) / distance; a rate under the threshold is not seen; what is seen is
// off by a normal error, and now and then (Lapse) the eye takes anything for anything.
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

// Usual is an eye as people have it: against an empty sky a motion of under a third of a
// degree a second is not seen (without a frame of reference the threshold is some ten times
// that with one, 1 to 2 minutes of arc a second: Aubert, Pflügers Archiv 39 (1886) 347), a
// quarter of a push's rate for the error, and one look in twenty-five wrong altogether.
func Usual() Eye {
	return Eye{DistanceM: 60, AirspeedMps: 5, YawRate: field.Degrees(90), ThresholdRps: float64(field.Degrees(0.33)), Error: 0.25, Lapse: 0.04}
}

// Check refuses an eye that cannot be.
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

// rate is the apparent sideways rate in rad/s, + to the right, of a craft at an aspect
// with a push (1 ahead, −1 back, 0 none).
func (e Eye) rate(aspect, push float64) float64 {
	// At aspect 0 the nose points away; at +90 it points right.
	across := push * e.AirspeedMps * math.Sin(aspect)
	wind := -e.WindMps * math.Sin(float64(e.WindFrom))
	return (across + wind) / e.DistanceM
}

// along is the speed away from the pilot in m/s.
func (e Eye) along(aspect, push float64) float64 {
	return push*e.AirspeedMps*math.Cos(aspect) - e.WindMps*math.Cos(float64(e.WindFrom))
}

// chances is how likely each sight of Sights is at an aspect.
func (e Eye) chances(aspect, push float64) (p [5]float64) {
	unit := e.AirspeedMps / e.DistanceM
	r, sd := e.rate(aspect, push), math.Max(1e-9, e.Error*unit)
	edge := math.Max(e.ThresholdRps, full*unit)
	under := func(x float64) float64 { return 0.5 * math.Erfc((r-x)/(sd*math.Sqrt2)) }
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

// Anything is a posterior that knows nothing.
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

// unlikely is the chance under which a sight contradicts what was seen before.
const unlikely = 0.03

// Turned is the posterior after a yaw: by the angle, blurred by the tenth of it that a
// stick moved by hand is off.
func (p Posterior) Turned(by field.Angle) (out Posterior) {
	shift := by.Deg()
	sd := math.Max(0.5, math.Abs(shift)/10)
	var kernel []float64
	reach := int(math.Ceil(3 * sd))
	sum := 0.0
	for d := -reach; d <= reach; d++ {
		w := math.Exp(-float64(d*d) / (2 * sd * sd))
		kernel = append(kernel, w)
		sum += w
	}
	whole := int(math.Round(shift))
	for i, v := range p {
		if v == 0 {
			continue
		}
		for k, w := range kernel {
			j := ((i+whole+k-reach)%Grain + Grain) % Grain
			out[j] += v * w / sum
		}
	}
	return out
}

// Sees is the posterior after a sight, and how likely the sight was before.
func (p Posterior) Sees(e Eye, push float64, saw Seen) (out Posterior, chance float64) {
	at := sightAt(saw)
	for i, v := range p {
		out[i] = v * e.chances(float64(i)*math.Pi/180, push)[at]
		chance += out[i]
	}
	for i := range out {
		out[i] /= chance
	}
	return out, chance
}

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
	After   []Posterior // after each row
	Against []int       // rows whose sight contradicts those before it; they are left out
	Push    float64     // that is still on
}

// Follow takes in rows in their order. A sight that what was seen before makes all but
// impossible is left out, and named.
func Follow(e Eye, rows []Row) (t Track) {
	p := Anything()
	for i, r := range rows {
		switch r.Input {
		case Forward:
			t.Push = 1
		case Back:
			t.Push = -1
		case YawLeft:
			p = p.Turned(-e.YawRate * field.Angle(r.Seconds))
		case YawRight:
			p = p.Turned(e.YawRate * field.Angle(r.Seconds))
		}
		if next, chance := p.Sees(e, t.Push, r.Saw); chance >= unlikely {
			p = next
		} else {
			t.Against = append(t.Against, i)
		}
		t.After = append(t.After, p)
	}
	return t
}

// Bins36 adds a posterior up to 36 probabilities, each of 10° round its aspect: 0 tail-in,
// 10, 20 and so on clockwise.
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

// Likeliest is the aspect about which, within 20° either way, the posterior holds most.
func (p Posterior) Likeliest() (aspect field.Angle, share float64) {
	const reach = 20
	sum := 0.0
	for d := -reach; d <= reach; d++ {
		sum += p[(d+Grain)%Grain]
	}
	best := 0
	share = sum
	for i := 1; i < Grain; i++ {
		sum += p[(i+reach)%Grain] - p[(i-1-reach+Grain)%Grain]
		if sum > share+1e-12 {
			best, share = i, sum
		}
	}
	return field.Degrees(float64(best)).Wrap(), share
}

// Entropy is what is not known, in bits.
func (p Posterior) Entropy() (bits float64) {
	for _, v := range p {
		if v > 0 {
			bits -= v * math.Log2(v)
		}
	}
	return bits
}

// Gain is how many bits an input is expected to tell.
func (p Posterior) Gain(e Eye, push float64, in Input, seconds float64) float64 {
	q, push := p.with(e, push, in, seconds)
	gain := q.Entropy()
	for _, s := range Sights {
		if next, chance := q.Sees(e, push, s); chance > 0 {
			gain -= chance * next.Entropy()
		}
	}
	return gain
}

// with is the posterior and the push once an input was made, before anything is seen.
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

// Home is the turn after which a push ahead is expected to bring the craft home fastest.
type Home struct {
	Turn    field.Angle // + to the right
	Seconds float64     // of yaw
	Closing float64     // m/s toward the pilot that are expected of the push after it
}

// WayHome is the turn that is expected to bring the craft nearest within so many seconds,
// and by how many metres: while it turns it goes on as it is pushed.
func (p *Posterior) WayHome(e Eye, push, within float64) (best Home, metres float64) {
	// The mean of cos(aspect + turn) needs the first harmonic alone.
	var c, s float64
	for i, v := range p {
		c += v * cosOf[i]
		s += v * sinOf[i]
	}
	wind := e.WindMps * math.Cos(float64(e.WindFrom))
	metres = math.Inf(-1)
	for k := -36; k < 36; k++ {
		turn := field.Degrees(float64(5 * k))
		t := math.Abs(turn.Deg()) / e.YawRate.Deg()
		closing := -e.AirspeedMps*(c*math.Cos(float64(turn))-s*math.Sin(float64(turn))) + wind
		v := closing*math.Max(0, within-t) + wind*math.Min(within, t)
		if k != 0 {
			v -= push * e.AirspeedMps * t * (c*math.Sin(float64(turn)) + s*(math.Cos(float64(turn))-1)) / float64(turn)
		}
		if v > metres {
			metres, best = v, Home{turn, t, closing}
		}
	}
	return best, metres
}

var sinOf, cosOf = func() (s, c [Grain]float64) {
	for i := range s {
		s[i], c[i] = math.Sin(float64(i)*math.Pi/180), math.Cos(float64(i)*math.Pi/180)
	}
	return s, c
}()

// Horizon is how far ahead an input is judged, in seconds.
const Horizon = 16.0

// Choice is an input that is chosen, for how long, and what is expected of it.
type Choice struct {
	Input   Input
	Seconds float64
	Metres  float64 // nearer within the Horizon, the best way flown after it
	Bits    float64
}

// looks are the inputs that are weighed: pushes long enough to be seen, and yaw pulses.
var looks = []struct {
	in      Input
	seconds float64
}{{Forward, 1}, {Back, 1}, {YawLeft, 0.4}, {YawRight, 0.4}, {YawLeft, 1}, {YawRight, 1}, {YawLeft, 2}, {YawRight, 2}}

// Next is the input that is expected to bring the craft nearest within the Horizon, when
// after it what was seen is known and the best way home is flown: the value of what it
// tells, and what it costs or gains by itself.
func (p Posterior) Next(e Eye, push float64) (best Choice) {
	best.Metres = math.Inf(-1)
	tables := map[float64]*[Grain][5]float64{}
	for _, l := range looks {
		q, on := p.with(e, push, l.in, l.seconds)
		if tables[on] == nil {
			tables[on] = e.table(on)
		}
		value := 0.0
		for i, v := range q { // what the input itself gains or loses
			value -= v * (on*e.AirspeedMps*cosOf[i] - e.WindMps*math.Cos(float64(e.WindFrom))) * l.seconds
		}
		for k := range Sights {
			var next Posterior
			chance := 0.0
			for i, v := range q {
				next[i] = v * tables[on][i][k]
				chance += next[i]
			}
			if chance < 1e-9 {
				continue
			}
			for i := range next {
				next[i] /= chance
			}
			_, metres := next.WayHome(e, on, Horizon-l.seconds)
			value += chance * metres
		}
		if value > best.Metres+1e-9 {
			best = Choice{Input: l.in, Seconds: l.seconds, Metres: value}
		}
	}
	best.Bits = p.Gain(e, push, best.Input, best.Seconds)
	return best
}

// table is how likely each sight is at each aspect.
func (e Eye) table(push float64) *[Grain][5]float64 {
	var t [Grain][5]float64
	for i := range t {
		t[i] = e.chances(float64(i)*math.Pi/180, push)
	}
	return &t
}
