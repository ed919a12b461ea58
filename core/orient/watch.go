package orient

import (
	"math"
	"slices"
	"strings"

	"maestrale/core/field"
)

// A flight is cut into stretches in which the sticks ask for one thing. After
// each, what could be known is worked out from how the dot moved: what the
// pilot did see is not known, what could be seen is.

// Sample is a moment of a flight that is watched: the place from the pilot, the
// speed over the ground, the nose, and the sticks.
type Sample struct {
	T, X, Y          float64
	VX, VY           float64
	Heading          field.Angle
	Pitch, Roll, Yaw float64
	Holds            bool // position hold: a push is one over the ground, whatever the wind
}

// Stretch is a second or less of a flight during which the sticks asked for one
// thing: what they did, what an eye could see, and what could be known after
// it.
type Stretch struct {
	// From and To are seconds of the flight.
	From, To  float64
	Input     string // in words
	Turned    field.Angle
	SpeedMps  float64     // that the sticks made
	Off       field.Angle // its direction from the nose
	DistanceM float64
	Rate      float64 // seen, rad/s, + to the right
	Moved     bool    // fast enough through the air for a sight to tell of the nose
	Saw       Seen
	Against   bool        // it fits badly, and all that was seen by then contradicts itself
	Aspect    field.Angle // as it was, at its end
	After     Posterior
	Bits      float64     // that it told
	Pushed    bool        // the craft was pushed, and not only turned
	Push      field.Angle // the direction of the push from the nose
	Closing   float64     // how much of the push was expected to bring the craft home when it began
	// what could have been done at its beginning; the zero value unless asked
	// for, and where it goes on as before
	Before Advice
}

const (
	stretchS = 1.0 // a stretch ends
	leastS   = 0.4 // before which it does not
	stirs    = 0.2 // of a stick that asks for something
	pushes   = 0.3 // of a stick that is a push
	movesMps = 0.8 // of a push whose sight tells of the nose
	turnsBy  = 1.0 // degrees that are a turn
)

// Watch follows a flight whose nose the pilot does not know, as a pilot could
// who knows what the own sticks do to the craft (how it moves as seen from its
// nose, and how far it turns), and sees whether the craft moves across. With
// its position held a craft moves as the sticks say, and its own speed is
// taken; without, it goes with the wind besides, and what the sticks make of it
// is reckoned: the full speed by the share of the stick, with a lag.
type Watch struct {
	Eye       Eye // with the speed and the turn of a usual push, and the wind in field headings
	Ask       bool
	Stretches []Stretch

	now   *Filter
	push  float64
	open  []open
	label string
	made  Made
}

// open is a sample of the stretch that is open, and the speed that the sticks
// had made by it.
type open struct {
	Sample
	made Made
}

// lagS is the time in s in which the speed of a craft that holds its height
// comes to what the sticks ask for, and is lost again when they are let go of:
// a pilot reckons with it.
const lagS = 1.5

// NewWatch begins a watch that knows nothing.
func NewWatch(e Eye) *Watch { return &Watch{Eye: e, now: NewFilter(e)} }

// Known is what could be known by now.
func (w *Watch) Known() Posterior { return w.now.Known() }

// Advise says what to do next.
func (w *Watch) Advise() Advice {
	at := w.Eye
	if n := len(w.open); n > 0 {
		at = w.eyeAt(w.open[n-1].Sample, w.open[n-1].Holds)
	} else if n := len(w.Stretches); n > 0 {
		at.DistanceM = w.Stretches[n-1].DistanceM
	}
	return w.Known().Advise(at, w.push)
}

// eyeAt is the eye toward a craft where it is: its distance, and the wind as
// seen along the line of sight. Where the craft holds its place the wind does
// not carry it.
func (w *Watch) eyeAt(s Sample, holds bool) Eye {
	e := w.Eye
	e.DistanceM = math.Max(1, math.Hypot(s.X, s.Y))
	e.WindFrom = (e.WindFrom - field.Bearing(field.Point{X: s.X, Y: s.Y})).Wrap()
	if holds {
		e.WindMps = 0
	}
	return e
}

// Add takes in a sample. They come in the order of time; one that does not is
// passed over. A stretch ends after stretchS, or once what the sticks ask for
// changes.
func (w *Watch) Add(s Sample) {
	if n := len(w.open); n > 0 {
		if s.T <= w.open[n-1].T {
			return
		}
		w.made.Follow(s.T-w.open[n-1].T, (s.Heading - w.open[n-1].Heading).Wrap(), s.Pitch, s.Roll)
		long := s.T - w.open[0].T
		if long >= stretchS || long >= leastS && asked(s) != w.label {
			w.open = append(w.open, open{s, w.made})
			w.End()
		}
	}
	if len(w.open) == 0 {
		w.label = asked(s)
	}
	w.open = append(w.open, open{s, w.made})
}

// Made is the speed through the air that the sticks have made, ahead and to the
// right of the nose, as a share of the speed at full stick.
type Made struct{ Ahead, Right float64 }

// Follow brings it on by dt seconds in which the nose turned, with the sticks
// where they are. It is a first-order lag with the time constant lagS.
func (m *Made) Follow(dt float64, turned field.Angle, pitch, roll float64) {
	sin, cos := math.Sincos(float64(turned))
	ahead, right := m.Ahead*cos+m.Right*sin, m.Right*cos-m.Ahead*sin
	k := math.Min(dt, stretchS) / lagS
	*m = Made{ahead + k*(pitch-ahead), right + k*(roll-right)}
}

// UsualStick is the share of the stick that a usual push is.
const UsualStick = 0.5

// asked is what the sticks ask for, in words; empty for nothing.
func asked(s Sample) string { return inWords(s.Pitch, s.Roll, s.Yaw) }

// inWords is what sticks ask for: a push in the larger of its two axes, a turn,
// or both.
func inWords(pitch, roll, yaw float64) (out string) {
	switch {
	case math.Abs(pitch) >= math.Abs(roll) && pitch > stirs:
		out = "ahead"
	case math.Abs(pitch) >= math.Abs(roll) && pitch < -stirs:
		out = "back"
	case roll > stirs:
		out = msgToItsRight
	case roll < -stirs:
		out = msgToItsLeft
	}
	turn := ""
	if yaw > stirs {
		turn = "nose right"
	} else if yaw < -stirs {
		turn = "nose left"
	}
	if out != "" && turn != "" {
		return out + ", " + turn
	}
	return out + turn
}

// End closes the stretch that is open, at the end of a flight.
func (w *Watch) End() {
	list := w.open
	w.open = nil
	n := len(list) - 1
	if n < 1 || list[n].T-list[0].T < leastS/2 {
		return
	}
	first, last := list[0], list[n]
	s := Stretch{From: first.T, To: last.T, DistanceM: math.Hypot(last.X, last.Y), Saw: None}
	middle := list[n/2]
	e := w.eyeAt(middle.Sample, middle.Holds)
	var pitch, roll, yaw, ahead, right float64
	for i, x := range list {
		pitch, roll, yaw = pitch+x.Pitch, roll+x.Roll, yaw+x.Yaw
		if x.Holds {
			sin, cos := math.Sincos(float64(x.Heading))
			ahead += x.VX*sin + x.VY*cos
			right += x.VX*cos - x.VY*sin
		} else {
			full := w.Eye.AirspeedMps / UsualStick
			ahead, right = ahead+full*x.made.Ahead, right+full*x.made.Right
		}
		if i > 0 {
			s.Turned += (x.Heading - list[i-1].Heading).Wrap()
		}
	}
	k := float64(len(list))
	s.Input = inWords(pitch/k, roll/k, yaw/k)
	s.SpeedMps, s.Off = math.Hypot(ahead, right)/k, field.Angle(math.Atan2(right, ahead))
	was, is := field.Bearing(field.Point{X: first.X, Y: first.Y}), field.Bearing(field.Point{X: last.X, Y: last.Y})
	// What the eye sees of a movement across is the turn of its own line of
	// sight.
	s.Rate = float64((is - was).Wrap()) / (last.T - first.T)
	s.Aspect = (last.Heading - is).Wrap()
	s.Moved = s.SpeedMps >= movesMps
	if s.Input == "" && !s.Moved && math.Abs(s.Turned.Deg()) < turnsBy {
		return // left to itself: there is nothing to see
	}
	if n := len(w.Stretches); w.Ask && (n == 0 || w.Stretches[n-1].Input != s.Input) {
		s.Before = w.Known().Advise(w.eyeAt(first.Sample, first.Holds), w.push)
	}
	w.push = 0
	if pitch/k > stirs {
		w.push = 1
	} else if pitch/k < -stirs {
		w.push = -1
	}
	if s.Pushed = math.Hypot(pitch, roll)/k > pushes; s.Pushed {
		before := w.Known()
		s.Push = field.Angle(math.Atan2(roll, pitch))
		s.Closing = before.Closing(s.Push)
	}
	w.take(&s, e, s.Turned-(is-was).Wrap())
	w.Stretches = append(w.Stretches, s)
}

// take works out what could be known after a stretch: half of its turn, what
// was seen, the other half. A craft that goes around its pilot turns in the
// pilot's eyes as well, which are seen to follow it.
func (w *Watch) take(s *Stretch, e Eye, by field.Angle) {
	f := w.now
	turns := math.Abs(by.Deg()) >= turnsBy
	if turns {
		f.Turned(by / 2)
	}
	before := f.Known()
	after := before
	if s.Moved {
		e.AirspeedMps = s.SpeedMps
		s.Saw = e.says(s.Rate)
		chance := f.Sees(e, 1, s.Off, s.Saw)
		s.Against = chance < unlikely && f.Contradictory()
		after = f.Known()
	}
	s.Bits = before.Entropy() - after.Entropy()
	if turns {
		f.Turned(by / 2)
		after = f.Known()
	}
	s.After = after
}

// says is what an eye calls a rate in rad/s.
func (e Eye) says(rate float64) Seen {
	edge := math.Max(e.ThresholdRps, full*e.AirspeedMps/e.DistanceM)
	i := 0
	for _, b := range [...]float64{-edge, -e.ThresholdRps, e.ThresholdRps, edge} {
		if rate >= b {
			i++
		}
	}
	return Sights[i]
}

// Did tells whether an input is what the sticks asked for.
func (s *Stretch) Did(in Input) bool {
	return strings.Contains(s.Input, map[Input]string{Forward: "ahead", Back: "back", YawLeft: "nose left",
		YawRight: "nose right"}[in])
}

// Found returns when it could first be known, and from then on, where the nose
// points to within 20°, with the chance share. ok is false where it never
// could.
func Found(list []Stretch, share float64) (at float64, ok bool) {
	for _, s := range slices.Backward(list) {
		if _, is := s.After.Likeliest(); is < share {
			break
		}
		at, ok = s.To, true
	}
	return at, ok
}

// Known is the chance within 20° from which a nose counts as known.
const Known = 0.75

// missedBits is how many bits more another input had to tell before what was
// done counts as a look that was missed.
const missedBits = 0.3

// Missed is the stretch at whose beginning another input than what was done was
// to tell most more; −1 where none was. Only a watch that asks knows.
func Missed(list []Stretch) int {
	best, most := -1, missedBits
	for i, s := range list {
		b := s.Before
		if b.Next.Input == "" || b.GoHome || s.Did(b.Next.Input) {
			continue
		}
		if more := b.Next.Bits - s.Bits; more > most {
			best, most = i, more
		}
	}
	return best
}

// ToldMost is the stretch that told most; −1 where none told anything.
func ToldMost(list []Stretch) int {
	best, most := -1, 0.0
	for i, s := range list {
		if s.Bits > most+1e-9 {
			best, most = i, s.Bits
		}
	}
	return best
}
