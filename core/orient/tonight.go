package orient

import (
	"fmt"
	"strings"

	"maestrale/core/field"
)

// aRun is how many minutes a run of the lost-craft trainer takes, with a breath
// after it.
const aRun = 2

// fewAnswers is under how many answers nothing is said of the reflexes.
const fewAnswers = 30

// Trainer is what is practised with.
type Trainer string

// The trainers.
const (
	WithReflexes Trainer = "reflex"
	WithLost     Trainer = "lost"
)

// Tonight says in two lines what to practise tonight, and for how long: the
// reflexes where they are weak or not known, the lost craft where its next
// grade is due, and else two minutes that keep what is there.
func Tonight(r *Reflexes, runs []Run, names [field.Sectors]string) (lines [2]string, with Trainer) {
	if r.n < fewAnswers || len(r.weak(names)) > 0 {
		return r.Advice(names), WithReflexes
	}
	due := Due(runs)
	g := GradedOf(due.Key, runs)
	if due.Key == Levels[len(Levels)-1].Key && g.Passed >= gradeRuns {
		return r.Advice(names), WithReflexes
	}
	why := msgNotFlownYet
	if g.Flown > 0 {
		why = fmt.Sprintf(msgPassedSoFar, g.Passed, g.Flown)
	}
	return [2]string{fmt.Sprintf(msgTonight, 3*aRun, strings.ToLower(due.Title)),
		why}, WithLost
}

// weak are the names of the weak sectors.
func (r *Reflexes) weak(names [field.Sectors]string) (weak []string) {
	for i, s := range r.Sectors() {
		if s.Weak {
			weak = append(weak, names[i])
		}
	}
	return weak
}
