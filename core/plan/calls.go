package plan

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"
)

// On a running day an instructor looks at the sky. What needs attention is said
// in sentences, the worst first.

// Aloft is a flight that is in the air.
type Aloft struct {
	Student, Craft string // in words
	Begun          time.Time
	Flight         time.Duration // that was planned
	// Of the mean wind, for the craft or the student, the lower; 0 = none.
	LimitMps float64
	// GustLimitMps is the craft's limit of gusts; 0 for none.
	GustLimitMps float64
}

// Next is a flight that is planned.
type Next struct {
	Student, Craft, Pack string
	Start                time.Time
	LimitMps             float64
	PackFull             bool // as far as is known
}

// Do is the one thing to do about a call.
type Do string

// What there is to do.
const (
	Nothing   Do = ""
	Land      Do = "land"       // the flight At of those in the air
	PlanAgain Do = "plan again" // the rest of the day
)

// Call is something that somebody at the field should hear: in whole sentences
// who, what, and the one thing to do.
type Call struct {
	Says   string
	Urgent bool
	Do     Do
	// At is the index of the flight, in its own list.
	At int
}

// When calls are made.
const (
	// Before a planned landing, and before a planned flight.
	landsSoon = 2 * time.Minute
	fliesSoon = 5 * time.Minute
	// After a flight should have begun.
	lateAfter = 3 * time.Minute
	// The share of a wind limit from which it is near.
	nearLimit = 0.8
)

// Calls are what is to be called out now, the worst first: who lands soon or
// should have landed, whose limit of wind or of gusts is near or passed, who
// flies soon, and that flights are late. All about one craft in the air is one
// call, and flights that are late are one call together. The wind is the mean
// and the gust of now in m/s, 0 where none is known.
func Calls(now time.Time, aloft []Aloft, next []Next, windMps, gustMps float64) []Call {
	var out []Call
	for i, a := range aloft {
		if c := a.call(now, windMps, gustMps); c.Says != "" {
			c.At = i
			out = append(out, c)
		}
	}
	late := 0
	for i, n := range next {
		if n.Start.Sub(now) < -lateAfter {
			late++
			continue
		}
		if c := n.call(now, windMps); c.Says != "" {
			c.At = i
			out = append(out, c)
		}
	}
	if late > 0 {
		// The earliest is named; the others are counted.
		first := slices.MinFunc(next, func(a, b Next) int { return a.Start.Compare(b.Start) })
		ago := minutesOf(now.Sub(first.Start))
		says := fmt.Sprintf(msgLate, first.Student, ago, first.Craft)
		if late > 1 {
			says = fmt.Sprintf(msgManyLate, late, first.Student, ago)
		}
		out = append(out, Call{Says: says, Do: PlanAgain})
	}
	slices.SortStableFunc(out, func(a, b Call) int { return cmp.Compare(a.rank(), b.rank()) })
	return out
}

// rank is 0 for what cannot wait in the air, 1 for what cannot wait on the
// ground, and 2 for the rest.
func (c Call) rank() int {
	switch {
	case c.Urgent && c.Do == Land:
		return 0
	case c.Urgent:
		return 1
	}
	return 2
}

// call is what is to be said of a flight in the air; empty for nothing.
func (a Aloft) call(now time.Time, windMps, gustMps float64) (c Call) {
	var says []string
	say := func(urgent bool, format string, args ...any) {
		says = append(says, fmt.Sprintf(format, args...))
		// One urgent thing makes the whole call urgent.
		if urgent {
			c.Urgent, c.Do = true, Land
		}
	}
	switch left := a.Begun.Add(a.Flight).Sub(now); {
	case left < -30*time.Second:
		say(true, msgOverdue, a.Student, a.Craft, minutesOf(-left))
	case left <= landsSoon:
		say(false, msgLandsSoon, a.Student, a.Craft, minutesOf(left))
	}
	// The mean wind is held to the limit of the mean, a gust to the limit of gusts.
	switch {
	case a.LimitMps > 0 && windMps > a.LimitMps:
		say(true, msgWindOver, a.Craft, windMps, a.LimitMps, a.Student)
	case a.GustLimitMps > 0 && gustMps > a.GustLimitMps:
		say(true, msgGustsOver, a.Craft, gustMps, a.GustLimitMps, a.Student)
	case a.LimitMps > 0 && windMps > nearLimit*a.LimitMps:
		say(false, msgWindNear, a.Craft, windMps, a.LimitMps, a.Student)
	case a.GustLimitMps > 0 && gustMps > nearLimit*a.GustLimitMps:
		say(false, msgGustsNear, a.Craft, gustMps, a.GustLimitMps, a.Student)
	}
	c.Says = strings.Join(says, " ")
	return c
}

// call is what is to be said of a flight that is due and not late; empty for
// nothing.
func (n Next) call(now time.Time, windMps float64) Call {
	switch wait := n.Start.Sub(now); {
	// Too early to be called out.
	case wait > fliesSoon:
	case n.LimitMps > 0 && windMps > n.LimitMps:
		return Call{Says: fmt.Sprintf(msgNextWind, n.Student, windMps, n.LimitMps), Urgent: true, Do: PlanAgain}
	case !n.PackFull:
		return Call{Says: fmt.Sprintf(msgNextPack, n.Student, n.Craft, n.Pack), Urgent: true, Do: PlanAgain}
	case wait > time.Minute:
		return Call{Says: fmt.Sprintf(msgFliesSoon, n.Student, minutesOf(wait), n.Craft, n.Pack)}
	}
	return Call{}
}

// Phase is how a day stands.
type Phase string

// How a day stands.
const (
	Running   Phase = "running"   // or about to begin
	Abandoned Phase = "abandoned" // its flights are late, and nobody flies
	Finished  Phase = "finished"  // nothing is left to fly, or its end has passed
)

// AbandonedAfter is how late the first flight that was not begun is when a day
// counts as abandoned: longer than a flight, a change of packs and a talk take
// together.
const AbandonedAfter = 45 * time.Minute

// PhaseOf tells how a day stands that ends at a moment: aloft is how many fly,
// flown how many have landed, next what is still planned. As long as somebody
// flies the day is running.
func PhaseOf(now, end time.Time, aloft int, flown int, next []Next) Phase {
	switch {
	case aloft > 0:
		return Running
	case now.After(end), len(next) == 0 && flown > 0:
		return Finished
	case len(next) > 0 && now.Sub(slices.MinFunc(next, func(a, b Next) int {
		return a.Start.Compare(b.Start)
	}).Start) > AbandonedAfter:
		return Abandoned
	}
	return Running
}

// minutesOf is a time as it is spoken.
func minutesOf(d time.Duration) string {
	switch {
	case d < time.Minute:
		return msgUnderAMinute
	case d < 90*time.Minute:
		return fmt.Sprintf("%d min", int(math.Round(d.Minutes())))
	}
	return fmt.Sprintf("%.1f h", d.Hours())
}
