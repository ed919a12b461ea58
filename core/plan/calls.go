package plan

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"time"
)

// Aloft is a flight that goes on.
type Aloft struct {
	Student, Craft string // in words
	Begun          time.Time
	Flight         time.Duration // that was planned
	LimitMps       float64       // of the mean wind, for the craft or the student, the lower; 0 = none
	GustLimitMps   float64       // of gusts, for the craft; 0 = none
}

// Next is a flight that is planned.
type Next struct {
	Student, Craft, Pack string
	Start                time.Time
	LimitMps             float64
	PackFull             bool // as far as is known
}

// Call is something that somebody at the field should hear.
type Call struct {
	Says   string
	Urgent bool
}

// When calls are made.
const (
	landsSoon = 2 * time.Minute // before a planned landing
	fliesSoon = 5 * time.Minute // before a planned flight
	lateAfter = 3 * time.Minute // after a flight should have begun
	nearLimit = 0.8             // of a wind limit
)

// Calls are what is to be called out now: who lands soon or should have landed, whose
// limit of wind or of gusts is near or passed, who flies soon and who is late. The wind is the mean
// and the gust of now, 0 where none is known. What cannot wait comes first.
func Calls(now time.Time, aloft []Aloft, next []Next, windMps, gustMps float64) []Call {
	var out []Call
	say := func(urgent bool, format string, args ...any) {
		out = append(out, Call{fmt.Sprintf(format, args...), urgent})
	}
	for _, a := range aloft {
		switch left := a.Begun.Add(a.Flight).Sub(now); {
		case left < -30*time.Second:
			say(true, "%s with %s should have landed %s ago", a.Craft, a.Student, minutesOf(-left))
		case left <= landsSoon:
			say(false, "%s lands in %s", a.Craft, minutesOf(left))
		}
		// The mean wind is held to the limit of the mean, a gust to the limit of gusts.
		switch {
		case a.LimitMps > 0 && windMps > a.LimitMps:
			say(true, "wind over the limit of %s with %s: %.1f of %.1f m/s; land it", a.Craft, a.Student, windMps, a.LimitMps)
		case a.GustLimitMps > 0 && gustMps > a.GustLimitMps:
			say(true, "gusts over the gust limit of %s with %s: %.1f of %.1f m/s; land it", a.Craft, a.Student, gustMps,
				a.GustLimitMps)
		case a.LimitMps > 0 && windMps > nearLimit*a.LimitMps:
			say(false, "wind near the limit of %s with %s: %.1f of %.1f m/s", a.Craft, a.Student, windMps, a.LimitMps)
		case a.GustLimitMps > 0 && gustMps > nearLimit*a.GustLimitMps:
			say(false, "gusts near the gust limit of %s with %s: %.1f of %.1f m/s", a.Craft, a.Student, gustMps,
				a.GustLimitMps)
		}
	}
	for _, n := range next {
		switch wait := n.Start.Sub(now); {
		case wait < -lateAfter:
			say(false, "%s should have begun on %s %s ago; plan again", n.Student, n.Craft, minutesOf(-wait))
		case wait > fliesSoon:
			continue
		case n.LimitMps > 0 && windMps > n.LimitMps:
			say(true, "%s is next, and the wind is over the limit: %.1f of %.1f m/s; plan again", n.Student, windMps, n.LimitMps)
		case !n.PackFull:
			say(true, "%s is next on %s, and %s is not full; plan again", n.Student, n.Craft, n.Pack)
		case wait > time.Minute:
			say(false, "%s flies in %s: %s with %s", n.Student, minutesOf(wait), n.Craft, n.Pack)
		}
	}
	slices.SortStableFunc(out, func(a, b Call) int { return cmp.Compare(b2i(b.Urgent), b2i(a.Urgent)) })
	return out
}

func b2i(b bool) int {
	if b {
		return 1
	}
	return 0
}

func minutesOf(d time.Duration) string {
	if d < time.Minute {
		return "less than a minute"
	}
	return fmt.Sprintf("%d min", int(math.Round(d.Minutes())))
}
