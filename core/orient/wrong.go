package orient

import (
	"math"

	"maestrale/core/field"
)

const (
	// expectedAway is how much a push has to be expected to bring the craft
	// home, from 1 straight home to −1 straight away, under which it is a wrong
	// input: whoever goes by what could be known would not make it.
	expectedAway = -0.2
	pushLastsS   = 0.4 // Shortest push that counts. Seconds.
	pushMostS    = 2.0 // A push that lasts longer counts again. Seconds.
	pushTurns    = 40  // Degrees by which the sticks have to turn for a new push.
)

// Closing is how much of a push in a direction from the nose is expected to
// bring the craft home: 1 straight home, −1 straight away.
func (p *Posterior) Closing(push field.Angle) (sum float64) {
	for i, share := range p {
		sum -= share * math.Cos(float64(i)*math.Pi/180+float64(push))
	}
	return sum
}

// WrongInputs counts the pushes which, by what could be known when each began,
// led away from the pilot. first is when the first of them began, in seconds of
// the flight; it is 0 where there is none.
func WrongInputs(list []Stretch) (count int, first float64) {
	for i := 0; i < len(list); {
		s := &list[i]
		if !s.Pushed {
			i++
			continue
		}
		// One push may be spread over several stretches: it goes on while the
		// sticks hardly turn, and ends after pushMostS.
		to := s.To
		for i++; i < len(list); i++ {
			n := &list[i]
			turned := (n.Push - s.Push).Wrap().Abs()
			if !n.Pushed || n.From-to > 1e-9 || turned > field.Degrees(pushTurns) || n.To-s.From > pushMostS {
				break
			}
			to = n.To
		}
		// Long enough to have been meant, and against what could be known.
		if to-s.From >= pushLastsS && s.Closing < expectedAway {
			if count++; count == 1 {
				first = s.From
			}
		}
	}
	return count, first
}
