package marking

import (
	"fmt"

	"maestrale/core/drill"
	"maestrale/core/readiness"
	"maestrale/core/record"
	"maestrale/core/score"
)

// State is where an attempt stands, as the pad draws it after each mark and
// each second.
type State struct {
	Ask    score.Ask `json:"ask"`     // what to mark next
	Step   int       `json:"step"`    // index of the step that is flown
	Inside bool      `json:"inside"`  // the craft is where the step asks
	Since  float64   `json:"since_s"` // s for which it has been inside, of a hold
	Faults []string  `json:"faults"`  // so far, in words
	Kept   int       `json:"kept"`    // marks that were taken
	// Late are ids of marks that came after the attempt had ended and were not
	// taken; the server sets it.
	Late    []string `json:"late,omitempty"`
	Cues    []Cue    `json:"cues,omitempty"` // what is to be said now, once; a desk sets it
	Ended   bool     `json:"ended"`
	Verdict *Verdict `json:"verdict"` // null until it has ended

	codes []score.Code // of the faults
}

// StateOf judges the marks of an attempt so far, as of nowS seconds after the
// first; without marks it is the state before the first step. The result is as
// it would be if nothing more were marked.
func StateOf(task drill.Task, marks []score.Mark, nowS float64) (State, *score.Result) {
	p := score.MarksAt(task, marks, nowS)
	s := State{Ask: p.Ask, Step: p.Step, Inside: p.Inside, Since: p.Since, Faults: []string{}, Kept: len(marks),
		Ended: p.Ended}
	for _, f := range p.Result.Faults {
		s.Faults, s.codes = append(s.Faults, f.Text), append(s.codes, f.Code)
	}
	return s, p.Result
}

// Verdict is what is said at once when an attempt has ended: in words that are
// ready to be shown, so that a pad without a network and the page of the server
// say the same.
type Verdict struct {
	Attempt  string   `json:"attempt"` // its id
	Verdict  string   `json:"verdict"`
	Sign     string   `json:"sign"`   // of Signs
	Margin   string   `json:"margin"` // with its sign and two places; empty without one
	Summary  string   `json:"summary"`
	Faults   []string `json:"faults"`
	Counts   bool     `json:"counts"`
	WhyNot   string   `json:"why_not"`          // empty for one that counts
	Standing string   `json:"standing"`         // what it did to the standing of its item
	IfVoid   string   `json:"if_void"`          // what making it void would change
	Next     string   `json:"next"`             // the side that is offered next
	Again    string   `json:"again"`            // where the next is marked; set by the server
	Debrief  string   `json:"debrief"`          // where it is debriefed; set by the server
	Student  string   `json:"student"`          // where the student is; set by the server
	Advice   []string `json:"advice,omitempty"` // quiet lines for the instructor: stuck, tired
}

// Signs stand before the verdicts, so that they differ by shape too, for who
// tells no colours apart and on paper.
var Signs = map[score.Verdict]string{score.Pass: "✓", score.Fail: "—", score.Incomplete: "…", score.Void: "∅"}

// VerdictOf says what came of an attempt, and what it did to its item: before
// and after are the item without the attempt and with it.
func VerdictOf(a record.Attempt, r *score.Result, d drill.Drill, before, after readiness.Cell) Verdict {
	v := Verdict{Attempt: a.ID, Verdict: string(a.Verdict), Sign: Signs[a.Verdict], Summary: r.Summary(), Counts: a.Counts,
		WhyNot: a.WhyNot, Faults: []string{}}
	if a.Margin != nil {
		v.Margin = fmt.Sprintf("%+.2f", *a.Margin)
	}
	for _, f := range r.Faults {
		v.Faults = append(v.Faults, f.Text)
	}
	// A run in the simulator has a standing of its own, which no gate asks for.
	v.Standing = StandingWords(before, after)
	if a.Source == score.Sim {
		v.Standing = simStandingWords(before, after)
	}
	v.IfVoid = IfVoid(a, before, after)
	if d.Sided {
		v.Next = string(a.Side.Other())
	}
	return v
}

// Voids are the reasons for which an attempt becomes void: none is the student's doing.
var Voids = []Choice{{msgIntruder, msgIntruderChoice}, {"a gust", "A gust"},
	{msgCraftFailed, msgCraftFailedChoice}, {msgInstructorStopped, msgInstructorStoppedChoice}}

// IfVoid says what it would change to make an attempt void: before and after
// are its item without the attempt and with it.
func IfVoid(a record.Attempt, before, after readiness.Cell) string {
	switch {
	case a.Verdict == score.Void:
		return msgVoidAlready
	case !a.Counts:
		return msgVoidChangesNothing
	case before.Standing != after.Standing:
		return fmt.Sprintf(msgVoidTakesStanding, after.Standing,
			before.Standing)
	}
	return fmt.Sprintf(msgVoidKeepsStanding, after.Standing)
}

// spotterMarks are the marks that a spotter may make: they see where the craft
// is, and call. Steps, faults and the end of an attempt are the instructor's.
var spotterMarks = map[string]bool{"in": true, "out": true, "call": true}

// SpotterMay tells whether a spotter may make a mark of this kind. Everything
// else is the instructor's.
func SpotterMay(mark string) bool { return spotterMarks[mark] }

// simStandingWords say what a run did to the standing in the simulator, which
// never satisfies a gate: as "building → held" where it changed, as "held"
// where it did not.
func simStandingWords(before, after readiness.Cell) string {
	w := after.SimStanding.String()
	if before.SimStanding != after.SimStanding {
		w = before.SimStanding.String() + " → " + w
	}
	return fmt.Sprintf(msgStandingInSimulator, w)
}

// StandingWords says what an attempt did to the standing of its item: as
// "building → held" where it changed, as "held" where it did not; then the
// reason, and what is still to fly.
func StandingWords(before, after readiness.Cell) string {
	w := after.Standing.String()
	if before.Standing != after.Standing {
		w = before.Standing.String() + " → " + w
	}
	w += ": " + after.Why
	if n := after.NeedsWords(); n != "" {
		w += fmt.Sprintf(msgStillToFly, n)
	}
	return w
}
