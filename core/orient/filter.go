package orient

import (
	"math"

	"maestrale/core/field"
)

// lapses are the lapse rates that a Filter weighs, evenly spread over what is
// found of people in such tasks: none to one look in ten (Wichmann and Hill,
// "The psychometric function: I. Fitting, sampling, and goodness of fit",
// Perception & Psychophysics 63 (2001) 1293, section on lapses).
var lapses = [...]float64{0.01, 0.03, 0.05, 0.07, 0.09}

// MeanLapse is the mean of the lapse rates that a Filter weighs.
const MeanLapse = 0.05

// guessBound is how many times likelier what was seen has to be from an eye
// that guesses, each of the five sights as often as another, than from one that
// sees, before it counts as contradictory.
const guessBound = 20

// Filter is what is known of a lost craft's aspect, and with it how often the
// eye lapses: a Bayes filter over both. It takes in every sight. One that fits
// badly moves it little, because it may have been a lapse, and much once others
// bear it out.
type Filter struct {
	eye Eye
	by  [len(lapses)]Posterior // aspect at each lapse rate, each summing to how likely that rate is
	// The whole of what was seen is held against guessing, and not each sight
	// alone.
	log    float64 // natural logarithm of the probability of all that was seen
	sights int
}

// NewFilter returns a filter that knows nothing, for an eye. The lapse rate of
// the eye itself is not used: the filter weighs several.
func NewFilter(e Eye) *Filter {
	f := &Filter{eye: e}
	for k := range f.by {
		f.by[k] = Anything()
		for i := range f.by[k] {
			// Each lapse rate is as likely as another before anything is seen.
			f.by[k][i] /= float64(len(lapses))
		}
	}
	return f
}

// Turned takes in a turn of the nose, positive to the right.
func (f *Filter) Turned(by field.Angle) {
	for k := range f.by {
		// A turn of the nose moves what is known with it, whatever the eye's
		// lapse rate is.
		f.by[k] = f.by[k].Turned(by)
	}
}

// Sees takes in a sight by an eye, during a push (1, −1 or 0) in a direction
// off from the nose, and returns how likely the sight was before. A sight that
// is none counts as seeing nothing move.
func (f *Filter) Sees(e Eye, push float64, off field.Angle, saw Seen) (chance float64) {
	at := sightAt(saw)
	// Lapses are weighed by the filter itself.
	e.Lapse = 0
	for i := range f.by[0] {
		sees := e.chances(float64(i)*math.Pi/180+float64(off), push)[at]
		// A lapse shows any of the sights, each as often.
		for k, lapse := range lapses {
			f.by[k][i] *= (1-lapse)*sees + lapse/float64(len(Sights))
			chance += f.by[k][i]
		}
	}
	for k := range f.by {
		for i := range f.by[k] {
			// What is left sums to one over all lapse rates together, so that
			// their own weights shift as well.
			f.by[k][i] /= chance
		}
	}
	// The chance of all sights is the product of each given those before it.
	f.log += math.Log(chance)
	f.sights++
	return chance
}

// Known is what is known of the aspect alone, whatever the lapse rate.
func (f *Filter) Known() (p Posterior) {
	for k := range f.by {
		for i, v := range f.by[k] {
			p[i] += v
		}
	}
	return p
}

// Contradictory tells whether all that was seen, taken together, is guessBound
// times likelier from an eye that guesses than from one that sees.
func (f *Filter) Contradictory() bool {
	// An eye that guesses shows each of the sights with the same chance every
	// time, so the logarithms add up.
	guessing := -float64(f.sights) * math.Log(float64(len(Sights)))
	return guessing-f.log > math.Log(guessBound)
}
