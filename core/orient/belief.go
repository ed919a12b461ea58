// Package orient holds what is known of a craft's aspect, and what the sticks do at
// one.
package orient

import (
	"math"

	"maestrale/core/field"
)

// Bins is how many aspects a Belief tells apart.
const Bins = 72

// Belief is how likely each aspect is, as an observer could know it from what the
// craft did: bin i is the aspect i · 360°/Bins, from tail-in clockwise.
type Belief [Bins]float64

// seenWrong is how often an eye at the edge of sight takes a motion for another.
const seenWrong = 0.08

// Unknown is a belief that knows nothing.
func Unknown() (b Belief) {
	for i := range b {
		b[i] = 1.0 / Bins
	}
	return b
}

func aspectOf(i int) float64 { return 2 * math.Pi * float64(i) / Bins }

// Saw takes in which way the craft was seen to move, −1 left, +1 right, 0 neither,
// while it was pushed in a direction from its nose (0 ahead, + to its right). A push
// straight along the line of sight is not seen: its apparent sideways rate is
// airspeed · sin(aspect) / distance.
func (b *Belief) Saw(push field.Angle, way int) {
	total := 0.0
	for i := range b {
		side := math.Sin(aspectOf(i) + float64(push))
		likely := 1 - math.Abs(side) // that nothing is seen
		if way != 0 {
			likely = math.Max(0, side*float64(way))
		}
		b[i] *= seenWrong + (1-2*seenWrong)*likely
		total += b[i]
	}
	for i := range b {
		b[i] /= total
	}
}

// Turned takes in a turn of the nose that the pilot made, + to the right.
func (b *Belief) Turned(by field.Angle) {
	old := *b
	shift := float64(by) / (2 * math.Pi) * Bins
	for i := range b {
		at := math.Mod(math.Mod(float64(i)-shift, Bins)+Bins, Bins)
		low := int(at)
		u := at - float64(low)
		b[i] = (1-u)*old[low%Bins] + u*old[(low+1)%Bins]
	}
}

// Closing is how much of a push in a direction from the nose is expected to bring
// the craft home: 1 straight home, −1 straight away.
func (b *Belief) Closing(push field.Angle) (sum float64) {
	for i, p := range b {
		sum -= p * math.Cos(aspectOf(i)+float64(push))
	}
	return sum
}

// Likeliest is the aspect that is likeliest, and how likely it is to be within a
// sector's half of it.
func (b *Belief) Likeliest() (aspect field.Angle, share float64) {
	best := 0
	for i := range b {
		if b[i] > b[best] {
			best = i
		}
	}
	for d := -Bins / 16; d <= Bins/16; d++ {
		share += b[(best+d+Bins)%Bins]
	}
	return field.Angle(aspectOf(best)).Wrap(), share
}
