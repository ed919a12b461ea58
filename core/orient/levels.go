package orient

import (
	"fmt"
	"math"

	"maestrale/core/field"
)

// Level is a grade of the lost-craft trainer: what makes it harder.
type Level struct {
	Key     string
	Title   string
	How     string
	WindMps float64 // mean, from a side
	Drifts  bool    // flown in height hold where the craft has it, so that the wind is felt
	Along   bool    // it begins nose toward or away, where a push shows nothing
	Birds   int     // other dots in the sky
	Drill   int     // level of the drill: how far off
}

// Levels are the grades, the easiest first.
var Levels = []Level{
	{Key: "still", Title: "Still air", How: msgLevelNoWind,
		Drill: 1},
	{Key: "wind", Title: "Wind", How: msgLevelWindAcross,
		WindMps: 3, Drifts: true, Drill: 1},
	{Key: "along", Title: msgLevelAlongName,
		How: msgLevelAlong, Along: true, Drill: 1},
	{Key: "birds", Title: "Birds",
		How: msgLevelFarther, WindMps: 3, Drifts: true, Birds: 6, Drill: 2},
}

// LevelOf finds a grade by its key. The error lists the keys.
func LevelOf(key string) (Level, error) {
	for _, l := range Levels {
		if l.Key == key {
			return l, nil
		}
	}
	return Level{}, fmt.Errorf("the grade %.40q is not known; expected still, wind, along or birds", key)
}

// How much of a push goes across where a start is one of a grade's.
const (
	acrossAtLeast = 0.5 // of one that begins across
	acrossAtMost  = 0.2 // of one that begins along the line
)

// Begins tells whether a start at an aspect is one of the grade's: one that
// begins across shows something at the first push, one along the line shows
// nothing.
func (l Level) Begins(aspect field.Angle) bool {
	across := math.Abs(math.Sin(float64(aspect)))
	switch {
	case l.Along:
		return across <= acrossAtMost
	case l.Key == "still":
		return across >= acrossAtLeast
	}
	return true
}

// Run is what came of a craft that was brought home in the trainer.
type Run struct {
	Level, Drill string
	Pass, Ended  bool // Ended: it was brought home, landed or not
	Coached      bool
	HomeS, LostM float64
	Wrong        int
}

// Graded is what runs without the coach came to, in the mean.
type Graded struct {
	Flown, Passed, Home int // Home: brought home, landed or not
	HomeS, LostM, Wrong float64
}

// GradedOf sums up the runs of a grade that were flown without the coach, or of
// all grades where level is empty. The means of none are 0.
func GradedOf(level string, list []Run) (g Graded) {
	for _, r := range list {
		// What the coach said to do shows nothing of the student.
		if r.Coached || level != "" && r.Level != level {
			continue
		}
		g.Flown++
		g.LostM += r.LostM
		g.Wrong += float64(r.Wrong)
		if r.Pass {
			g.Passed++
		}
		if r.Ended {
			g.Home++
			g.HomeS += r.HomeS
		}
	}
	// Each mean is over those that have the figure.
	g.HomeS /= float64(max(1, g.Home))
	g.LostM /= float64(max(1, g.Flown))
	g.Wrong /= float64(max(1, g.Flown))
	return g
}

// gradeRuns is how many runs of a grade, without the coach, pass in a row
// before the next is due.
const gradeRuns = 3

// Due is the grade that is flown next: the first of which fewer than the last
// three runs without the coach passed. list is oldest first; a student who has
// all grades stays at the last.
func Due(list []Run) Level {
	for _, l := range Levels {
		// From the newest run back: as many passes as are in a row.
		n := 0
		for i := len(list) - 1; i >= 0 && n < gradeRuns; i-- {
			// Runs of other grades lie between and are passed over.
			if r := list[i]; r.Level == l.Key && !r.Coached {
				if !r.Pass {
					break
				}
				n++
			}
		}
		if n < gradeRuns {
			return l
		}
	}
	return Levels[len(Levels)-1]
}
