package score

import (
	"math"

	"maestrale/core/drill"
	"maestrale/core/field"
)

// kind is how one kind of step is judged. Each is a type in a file of its own
// (kind_hold.go and so on), which holds all that the scorer knows of it: the
// limits that a log can judge, how samples and marks become events of the step
// machine, what is measured, what is said, and what the pad asks of the hand
// that marks. How a step is written and laid out is beside this in core/drill.
type kind interface {
	// criteria fills in the limits that are judged on a log.
	criteria(j *judging)
	// fly follows the samples of a log through the step, from s.i on.
	fly(s *sampler)
	// measure fills in the figures of a step that was flown on a log, and their
	// shares of the limits.
	measure(s *sampler, i int)
	// see takes a mark; it is false for one that means the same in every step.
	see(o *observer, m Mark) bool
	// left says that the craft was marked as out; was tells whether it had been
	// in position.
	left(o *observer, t float64, f Fault, was bool)
	// measureSeen fills in what an eye measured, and lists what it did not.
	measureSeen(e *byEye)
	// due is when the clock, undisturbed, completes the step; +Inf for never.
	due(m *machine) float64
	// waiting says what a step that is not done has not seen yet.
	waiting(t *drill.Target, begun, touched bool) string
	// faultWords say a fault with a figure where this kind has words of its
	// own; else they are empty. Value and limit are given as they are written.
	faultWords(f *Fault, t *drill.Target, value, limit, at string) string
	// summary is what is worth saying of a step that went well; empty for nothing.
	summary(r *StepResult) string
	// stands says how the newest place of a flight that goes on stands to the
	// step; ok is false where it is said as for a place that has to be kept.
	stands(t *drill.Target, at field.Point, z float64) (words string, inside, ok bool)
	// ask is what the pad asks next.
	ask(o *observer, now float64) Ask
}

// kinds are the kinds of steps that are scored, each a value without state:
// what a step leaves behind is kept by the sampler or the observer.
var kinds = map[drill.Kind]kind{
	drill.TakeOff: takeOffKind{}, drill.Hold: holdKind{}, drill.Turn: turnKind{}, drill.GoTo: goToKind{},
	drill.Path: pathKind{}, drill.Stop: stopKind{}, drill.Return: returnKind{}, drill.Regain: regainKind{},
	drill.Land: landKind{}, drill.Motors: motorsKind{},
}

// kindOf is the kind of a step. A kind that this version does not know does
// nothing: its steps are never done, and the verdict is incomplete.
func kindOf(t *drill.Target) kind {
	if k, ok := kinds[t.Kind]; ok {
		return k
	}
	return plainKind{}
}

// plainKind is a step with nothing of its own. Each kind embeds it and
// overrides what it has: no limits, no samples, no marks, no words, and a clock
// that completes the step when it runs.
type plainKind struct{}

// criteria leaves every tolerance at 0: nothing is judged.
func (plainKind) criteria(*judging) {}

// fly looks at no sample, so that the step is never done.
func (plainKind) fly(*sampler) {}

// measure writes nothing down.
func (plainKind) measure(*sampler, int) {}

// see takes no mark as its own.
func (plainKind) see(*observer, Mark) bool { return false }

// left makes leaving no fault.
func (plainKind) left(*observer, float64, Fault, bool) {}

// measureSeen writes nothing down and lists nothing.
func (plainKind) measureSeen(*byEye) {}

// due is the moment from which the clock counts: being in the state for settle
// seconds is enough.
func (plainKind) due(m *machine) float64 { return m.clock.runs() }

// waiting has no words.
func (plainKind) waiting(*drill.Target, bool, bool) string { return "" }

// faultWords are empty, so that a fault is said as in every step.
func (plainKind) faultWords(*Fault, *drill.Target, string, string, string) string { return "" }

// summary is empty: nothing is worth saying.
func (plainKind) summary(*StepResult) string { return "" }

// stands leaves it to the place that the step has to keep.
func (plainKind) stands(*drill.Target, field.Point, float64) (string, bool, bool) {
	return "", false, false
}

// ask asks for nothing.
func (plainKind) ask(*observer, float64) Ask { return Ask{} }

// Why a limit cannot be judged, in words.
const (
	noHeading = msgLogNoHeading
	noTilt    = msgLogNoAttitude
	noSticks  = msgLogNoSticksAlone
	notByEye  = msgNotByEye
)

// judging is one step while it is found out which of its limits this log can
// judge. Where noise alone reaches farther than a limit, the judged limit is
// the wider one: leaving the step's own by less is no fault.
type judging struct {
	// The log that is judged, which step, and where its judged limits are
	// written.
	s      *sampler
	i      int
	target *drill.Target
	lim    *drill.Limits
	c      *criteria
}

// criteriaOf decides which tolerances of step i the log can judge. It writes
// the step's limits into the result, lists those that cannot be judged, and
// returns the others.
func (s *sampler) criteriaOf(i int) criteria {
	t := &s.task.Steps[i]
	c := criteria{at: t.At, height: t.HeightM, rule: t.Heading, station: s.task.Station, own: t.Limits}
	kindOf(t).criteria(&judging{s, i, t, &t.Limits, &c})
	if t.SecondsMax > 0 {
		s.res.Steps[i].Limits["seconds_max"] = t.SecondsMax
	}
	c.know()
	return c
}

// sets writes a limit of the step into the result without judging it: the
// debrief shows it beside the figure.
func (j *judging) sets(name string, limit float64) { j.s.res.Steps[j.i].Limits[name] = limit }

// judge returns a limit that is judged. It returns 0 for one that the step does
// not set, and for one that the log lacks something for: have is false then,
// and lack says what in words.
func (j *judging) judge(name string, limit float64, have bool, lack string) float64 {
	if limit <= 0 {
		return 0
	}
	j.sets(name, limit)
	if !have {
		j.s.unjudged(j.i, name, lack)
		return 0
	}
	return limit
}

// known judges a limit of something whose error has the deviation sigma and
// alone may reach as far as reach. Less than two deviations is too fine for
// this log: the limit is listed as hidden and 0 returned. Else it returns the
// limit or reach, whichever is more.
func (j *judging) known(name string, limit, sigma, reach float64, unit string) float64 {
	if limit = j.judge(name, limit, true, ""); limit > 0 && limit < 2*sigma {
		j.s.hidden(j.i, name, sigma, limit, unit)
		return 0
	}
	return math.Max(limit, math.Min(reach, limit*1e9))
}

// flat judges a distance over the ground, in metres.
func (j *judging) flat(name string, limit float64) float64 {
	return j.known(name, limit, math.Max(j.s.noise.place, 0), j.s.reach, "m")
}

// high judges a height, in metres.
func (j *judging) high(name string, limit float64) float64 {
	return j.known(name, limit, j.s.noise.heights, j.s.reachZ, "m")
}

// angle judges an angle that no place enters, such as a lean.
func (j *judging) angle(name string, limit field.Angle, have bool, lack string) field.Angle {
	return field.Degrees(j.judge(name, limit.Deg(), have, lack))
}

// turned judges the direction of what was flown, which is as uncertain as the
// places that it lies between.
func (j *judging) turned(name string, limit field.Angle) field.Angle {
	if limit = j.angle(name, limit, true, ""); limit > 0 && j.s.noisy {
		limit = max(limit, j.s.noseReach(*j.target))
	}
	return limit
}

// nose judges a nose that is held against the sight or a path. The log must
// have a heading; where the place is uncertain, so is the heading that the rule
// asks for.
func (j *judging) nose(name string, limit field.Angle) field.Angle {
	if j.angle(name, limit, j.s.t.Heading != nil, noHeading) == 0 {
		return 0
	}
	return j.turned(name, limit)
}

// byEye is one step while it is written down what an eye measured of it. shares
// collects the shares of limits, from which the margin comes.
type byEye struct {
	o      *observer
	i      int
	target *drill.Target
	lim    *drill.Limits
	res    *StepResult
	shares []float64
}

// limit writes a limit of the step into the result. One that was not measured
// is listed as not judged by eye; a limit of 0 is none.
func (e *byEye) limit(name string, v float64, measured bool) {
	if v <= 0 {
		return
	}
	e.res.Limits[name] = v
	if !measured {
		e.o.unjudged(e.i, name, notByEye)
	}
}

// measured keeps a figure that an eye measured, and its share of a limit where
// there is one.
func (e *byEye) measured(name string, v, limit float64) {
	e.res.Metrics[name] = v
	if limit > 0 {
		e.shares = append(e.shares, v/limit)
	}
}
