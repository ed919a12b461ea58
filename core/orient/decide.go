package orient

import (
	"fmt"
	"math"

	"maestrale/core/field"
)

// A lost craft is brought home by two kinds of inputs: those that tell
// something, and those that fly home by what is known already. Both are weighed
// in one unit: metres nearer to the pilot within the Horizon.

// Home is the turn after which a push ahead is expected to bring the craft home
// fastest.
type Home struct {
	Turn    field.Angle // + to the right
	Seconds float64     // of yaw
	Closing float64     // m/s toward the pilot that are expected of the push after it
}

// WayHome returns the turn that is expected to bring the craft nearest within
// so many seconds, and by how many metres. While it turns, the craft goes on as
// it is pushed: push is 1 ahead, −1 back, 0 not at all.
func (p *Posterior) WayHome(e Eye, push, within float64) (best Home, metres float64) {
	// The mean of cos(aspect + turn) needs the first harmonic alone.
	var c, s float64
	for i, v := range p {
		c += v * cosOf[i]
		s += v * sinOf[i]
	}
	return e.wayHome(c, s, push, within)
}

// wayHome is the same from the means of the aspect's cosine and sine.
func (e Eye) wayHome(c, s, push, within float64) (best Home, metres float64) {
	// The part of the wind that blows toward the pilot.
	wind := e.WindMps * math.Cos(float64(e.WindFrom))
	metres = math.Inf(-1)
	for k := -36; k < 36; k++ {
		turn := field.Degrees(float64(5 * k))
		sin, cos := sinOf[(5*k+Grain)%Grain], cosOf[(5*k+Grain)%Grain]
		t := math.Abs(float64(5*k)) / e.YawRate.Deg()
		closing := -e.AirspeedMps*(c*cos-s*sin) + wind
		v := closing*math.Max(0, within-t) + wind*math.Min(within, t)
		// While it turns, the push that is on goes on: its mean over the turn
		// is in closed form.
		if k != 0 {
			v -= push * e.AirspeedMps * t * (c*sin + s*(cos-1)) / float64(turn)
		}
		if v > metres {
			metres, best = v, Home{turn, t, closing}
		}
	}
	return best, metres
}

// sinOf and cosOf are tables by the degree: the mean over all aspects is asked
// for very often.
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

// looks are the inputs that are weighed: pushes that are long enough to be
// seen, and yaw pulses.
var looks = []struct {
	in      Input
	seconds float64
}{{Forward, 1}, {Back, 1}, {YawLeft, 0.4}, {YawRight, 0.4}, {YawLeft, 1}, {YawRight, 1}, {YawLeft, 2}, {YawRight, 2}}

// Next returns the input that is expected to bring the craft nearest within the
// Horizon, if after it what was seen is known and the best way home is flown.
// So it weighs what an input tells against what it costs or gains by itself.
func (p Posterior) Next(e Eye, push float64) (best Choice) {
	best.Metres = math.Inf(-1)
	// Sights depend on the push that is on, of which there are few.
	tables := map[float64]*[Grain][5]float64{}
	for _, l := range looks {
		q, on := p.with(e, push, l.in, l.seconds)
		if tables[on] == nil {
			tables[on] = e.table(on)
		}
		// Metres that are expected: those of the input itself, and those of the
		// best way home after each sight, by how likely the sight is.
		value := 0.0
		for i, v := range q { // what the input itself gains or loses
			value -= v * (on*e.AirspeedMps*cosOf[i] - e.WindMps*math.Cos(float64(e.WindFrom))) * l.seconds
		}
		for k := range Sights {
			var chance, cos, sin float64
			for i, v := range q {
				w := v * tables[on][i][k]
				chance += w
				cos += w * cosOf[i]
				sin += w * sinOf[i]
			}
			// A sight that cannot come tells nothing.
			if chance < 1e-9 {
				continue
			}
			_, metres := e.wayHome(cos/chance, sin/chance, on, Horizon-l.seconds)
			value += chance * metres
		}
		// Of two that are worth the same the one that comes first in the list.
		if value > best.Metres+1e-9 {
			best = Choice{Input: l.in, Seconds: l.seconds, Metres: value}
		}
	}
	best.Bits = p.Gain(e, push, best.Input, best.Seconds)
	return best
}

// Advice is what to do next with a craft that is lost: look, or come home.
type Advice struct {
	Next   Choice
	Home   Home
	Metres float64 // nearer within the Horizon, going home now
	GoHome bool
}

// worthALook is how many metres within the Horizon a look has to be worth before it is
// advised and not the way home.
const worthALook = 0.5

// Advise weighs a look against the way home.
func (p Posterior) Advise(e Eye, push float64) Advice {
	a := Advice{Next: p.Next(e, push)}
	a.Home, a.Metres = p.WayHome(e, push, Horizon)
	// Looking is worth its while only if it is clearly better.
	a.GoHome = a.Metres >= a.Next.Metres-worthALook
	return a
}

// Words say it to the pilot.
func (a Advice) Words() string {
	if !a.GoHome {
		return fmt.Sprintf(msgLookFirst, a.Next.Input.Words(), a.Next.Seconds)
	}
	if a.Home.Turn == 0 {
		return msgHomeAhead
	}
	side := "left"
	if a.Home.Turn > 0 {
		side = "right"
	}
	return fmt.Sprintf(msgHomeTurned, math.Abs(a.Home.Turn.Deg()), side)
}

// Words name an input.
func (i Input) Words() string {
	return map[Input]string{Forward: "push ahead", Back: "pull back", YawLeft: "nose left", YawRight: "nose right"}[i]
}
