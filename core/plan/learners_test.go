package plan

import (
	"math"
	"math/rand/v2"
	"time"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/score"
)

// skillLaw is how a made-up student's chance comes from practice. None is a law of the bank with which the planner
// estimates. What the planner was fitted on is in fittedLaws, and what judges it in judgingLaws; no law is in both.
type skillLaw struct {
	name string
	// chance of a pass with so much practice left.
	chance func(l *pupil, x float64) float64
	// gain is what an attempt adds to practice; nil for one each.
	gain func(l *pupil, p float64, pass bool) float64
	// keep is the share that is left of practice after so many days; nil for the pupil's own fading.
	keep func(l *pupil, days float64) float64
}

// pupil is a made-up student: chance by a law, from practice of the cell itself and, by the transfers, of the drill's
// other side, of what builds it, and of the same drill with other aids.
type pupil struct {
	law                   skillLaw
	start, top, rate      float64
	fade                  float64 // days
	side, build, otherAid float64 // transfers
	bias                  map[field.Side]float64
	x                     map[drill.Cell]float64
	last                  map[drill.Cell]time.Time
	r                     *rand.Rand
}

// newPupil draws a student. Little transfer leaves each cell nearly alone; with much, half of what is learned serves
// its neighbours.
func newPupil(law skillLaw, much bool, seed uint64) *pupil {
	r := rand.New(rand.NewPCG(seed, 0x70757069))
	weak := 0.8 * r.Float64()
	side := map[field.Side]float64{field.LeftSide: 0, field.RightSide: -weak}
	if r.IntN(2) == 0 {
		side = map[field.Side]float64{field.LeftSide: -weak, field.RightSide: 0}
	}
	l := &pupil{law: law, start: 0.08 + 0.25*r.Float64(), top: 0.8 + 0.17*r.Float64(), rate: math.Exp(0.35 *
		r.NormFloat64()), fade: 50 + 130*r.Float64(), side: 0.15, build: 0.05, otherAid: 0.3, bias: side,
		x: map[drill.Cell]float64{}, last: map[drill.Cell]time.Time{}, r: r}
	if much {
		l.side, l.build, l.otherAid = 0.6, 0.4, 0.8
	}
	return l
}

func (l *pupil) left(c drill.Cell, at time.Time) float64 {
	x := l.x[c]
	if x == 0 {
		return 0
	}
	days := math.Max(0, at.Sub(l.last[c]).Hours()/24)
	if l.law.keep != nil {
		return x * l.law.keep(l, days)
	}
	return x * math.Exp(-days/l.fade)
}

func (l *pupil) practice(c drill.Cell, at time.Time) float64 {
	x := l.left(c, at)
	if c.Side != field.NoSide {
		o := c
		o.Side = c.Side.Other()
		x += l.side * l.left(o, at)
	}
	for _, a := range craft.AidsOrder {
		if o := c; a != c.Aids {
			o.Aids = a
			x += l.otherAid * l.left(o, at)
		}
	}
	builds := catalogue.Drills[c.Drill].Builds
	for _, b := range builds {
		o := drill.Cell{Drill: b, Side: c.Side, Aids: c.Aids, Level: 1}
		if !catalogue.Drills[b].Sided {
			o.Side = field.NoSide
		}
		x += l.build * l.left(o, at) / float64(len(builds))
	}
	return x
}

// fly flies a cell once.
func (l *pupil) fly(c drill.Cell, at time.Time) score.Verdict {
	p := math.Min(0.995, math.Max(0.005, l.law.chance(l, l.practice(c, at))))
	logit := math.Log(p/(1-p)) + l.bias[c.Side]
	if c.Aids == craft.PositionHold {
		logit += 0.8
	}
	p = 1 / (1 + math.Exp(-logit))
	pass := l.r.Float64() < p
	gain := 1.0
	if l.law.gain != nil {
		gain = l.law.gain(l, p, pass)
	}
	l.x[c], l.last[c] = l.left(c, at)+gain, at
	if pass {
		return score.Pass
	}
	return score.Fail
}

// between is a chance on the way from the start to the top.
func (l *pupil) between(share float64) float64 { return l.start + (l.top-l.start)*share }

// fittedLaws are those on which the planner's weights were chosen. The last five had judged an earlier version of the
// planner, and one of its choices was made after that.
var fittedLaws = []skillLaw{
	// Gompertz: slow, fast, slow.
	{name: "Gompertz", chance: func(l *pupil, x float64) float64 {
		return l.between(math.Exp(-3 * math.Exp(-0.28*l.rate*x)))
	}},
	// Weibull: waits longer than exponential, then comes quickly.
	{name: "Weibull", chance: func(l *pupil, x float64) float64 {
		return l.between(1 - math.Exp(-math.Pow(0.14*l.rate*x, 1.7)))
	}},
	// From errors alone: who passes learns little more.
	{name: "from errors", chance: func(l *pupil, x float64) float64 { return l.between(1 - math.Exp(-0.16*l.rate*x)) },
		gain: func(_ *pupil, p float64, pass bool) float64 {
			if pass {
				return 0.6
			}
			return 1.3
		}},
	// Logistic in practice: nothing for a while, then all at once (Verhulst's curve).
	{name: "S-shaped", chance: func(l *pupil, x float64) float64 {
		at := func(x float64) float64 { return 1 / (1 + math.Exp(-0.5*l.rate*(x-7))) }
		return l.between((at(x) - at(0)) / (1 - at(0)))
	}},
	// x / (x + R): Mazur and Hastie, Psychological Bulletin 85 (1978) 1256.
	{name: "accumulating", chance: func(l *pupil, x float64) float64 { return l.between(x / (x + 5/l.rate)) }},
	// The linear operator: a pass teaches more than a fail (Bush and Mosteller, Stochastic Models for Learning, 1955).
	{name: "from success", chance: func(l *pupil, x float64) float64 { return l.between(1 - math.Exp(-0.13*l.rate*x)) },
		gain: func(_ *pupil, _ float64, pass bool) float64 {
			if pass {
				return 1.6
			}
			return 0.7
		}},
	// Two processes, one that learns and forgets fast, one slowly (Smith, Ghazizadeh and Shadmehr, PLoS Biology 4 (2006)
	// e179): half of a day's gain is gone by the next.
	{name: "two speeds", chance: func(l *pupil, x float64) float64 { return l.between(1 - math.Exp(-0.2*l.rate*x)) },
		keep: func(l *pupil, days float64) float64 {
			if days < 0.5 {
				return 1
			}
			return 0.75 * math.Exp(-days/(2*l.fade))
		}},
	// Most is learned where the outcome is open (Guadagnoli and Lee, J. Motor Behavior 36 (2004) 212).
	{name: "challenge", chance: func(l *pupil, x float64) float64 { return l.between(1 - math.Exp(-0.16*l.rate*x)) },
		gain: func(_ *pupil, p float64, _ bool) float64 { return 0.35 + 3.2*p*(1-p) }},
}

// judgingLaws are those that the planner is judged on. Nothing of it was changed after they were written.
var judgingLaws = []skillLaw{
	// Two stages, each mastered at once (Bower and Theios, in Atkinson (ed.), Studies in Mathematical Psychology, 1964):
	// the chance that both are through.
	{name: "two stages", chance: func(l *pupil, x float64) float64 {
		v := 0.3 * l.rate * x
		return l.between(1 - math.Exp(-v)*(1+v))
	}},
	// Log-logistic: x² / (x² + R²).
	{name: "log-logistic", chance: func(l *pupil, x float64) float64 {
		r := 6 / l.rate
		return l.between(x * x / (x*x + r*r))
	}},
	// Hyperbolic tangent: quick at once, and nothing more for long.
	{name: "saturating", chance: func(l *pupil, x float64) float64 { return l.between(math.Tanh(0.12 * l.rate * x)) }},
	// Forgotten by a power of the days: quickly at first, then hardly any more (Wixted and Ebbesen, Psychological Science
	// 2 (1991) 409).
	{name: "power forgetting", chance: func(l *pupil,
		x float64) float64 {
		return l.between(1 - math.Exp(-0.18*l.rate*x))
	},
		keep: func(_ *pupil, days float64) float64 { return math.Pow(1+days, -0.15) }},
	// By leaps: most attempts teach nothing, and now and then one teaches much.
	{name: "by leaps", chance: func(l *pupil, x float64) float64 { return l.between(1 - math.Exp(-0.16*l.rate*x)) },
		gain: func(l *pupil, _ float64, _ bool) float64 { return 0.2 + 2.4*math.Pow(l.r.Float64(), 2) }},
}
