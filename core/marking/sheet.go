// Package marking is what a marking pad needs to work on its own: what it shows
// of a drill, what it says of the marks that were made, and the day's students,
// drills, course and standings in one document. The server uses the same, so
// that a pad without a network says what the server will say.
//
// A Bundle is made by the server at sign-in and opened on the device as a Desk.
// The desk lists the day's students (Rows), makes the Page of what is to be
// marked, and judges the marks as they are made (Judge). What it keeps is sent
// later, as the opening and the marks: the server judges them anew, and its
// verdict stands.
//
// Times are seconds from the first mark, lengths metres, headings degrees from
// the direction in which the pilot looks.
package marking

import (
	"math"
	"slices"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/score"
)

// Step is what the pad needs to draw a step: it decides nothing by it. What to
// mark in it is said by score.Ask.
type Step struct {
	Kind    string  `json:"kind"`              // as drill.Kind
	Words   string  `json:"words"`             // what is asked
	Seconds float64 `json:"seconds"`           // s that a hold lasts; 0 for what ends by itself
	Rest    float64 `json:"rest,omitempty"`    // s at rest, at each corner of a path
	Corners int     `json:"corners,omitempty"` // at which it rests
	Call    bool    `json:"call,omitempty"`    // a call begins it
	Watch   bool    `json:"watch,omitempty"`   // a flight home that lands by itself
	Happens []Due   `json:"happens,omitempty"` // in the order in which it does
}

// Due is what the instructor lets happen in a step: its words, and whether an answer is
// timed, and ends the step.
type Due struct {
	Words string `json:"words"`
	Asks  bool   `json:"asks"` // an answer is timed or measured: one more mark
	End   bool   `json:"end"`  // that answer ends the step
}

// Fault is a fault that an eye adds by hand, since no mark of the pad shows it.
type Fault struct {
	Code  score.Code `json:"code"`  // as a result has it
	Words string     `json:"words"` // as the button has it
}

// Sheet is a task as the pad shows it: what is asked step by step, and which
// faults can be added. It is made of the task alone, so that two students who
// fly the same have the same sheet.
type Sheet struct {
	Drill  string     `json:"drill"`
	Side   field.Side `json:"side"`
	Level  int        `json:"level"`
	Asked  string     `json:"asked"` // the first step after the take-off
	Steps  []Step     `json:"steps"`
	Faults []Fault    `json:"faults"`
	Offset float64    `json:"offset"` // how far from its mark the touch may be, m; 0 where that is not asked
	Scale  float64    `json:"scale"`  // of the level, 1 for the drill's own size
}

// SheetOf makes the sheet of a task. A task without steps gives a sheet on
// which nothing is asked.
func SheetOf(t drill.Task) Sheet {
	// Of several touches the tolerance of the last is shown.
	out := Sheet{Drill: t.Drill.Key, Side: t.Side, Level: t.Level, Faults: faultsOf(t), Scale: t.Scale}
	for _, s := range t.Steps {
		out.Steps = append(out.Steps, stepOf(s))
		if s.Kind != drill.TakeOff && out.Asked == "" {
			out.Asked = s.Words()
		}
		if off := math.Max(s.Limits.Offset, s.Limits.HomeOffset); off > 0 {
			out.Offset = off
		}
	}
	return out
}

// stepOf is a step as the pad draws it.
func stepOf(t drill.Target) Step {
	step := Step{Kind: string(t.Kind), Words: t.Words(), Seconds: t.Seconds, Rest: t.RestS, Call: t.OnCall,
		Watch: t.Kind == drill.Return && t.TakeOverS == 0}
	if t.Path != nil && t.RestS > 0 {
		step.Corners = len(t.Path.Corners)
	}
	for _, d := range t.During {
		step.Happens = append(step.Happens, Due{d.What(), d.Seconds > 0 || d.Distance > 0, d.End})
	}
	return step
}

// faults are the faults that an eye adds by hand, and in which steps they can
// be; leaving the place has keys of its own.
var faults = []struct {
	Fault
	in func(drill.Target) bool
}{
	{Fault{score.Nose, "Nose off"}, func(t drill.Target) bool {
		return t.Heading.Kind != drill.Free && t.Kind != drill.Land
	}},
	{Fault{score.Height, "Height lost"}, func(t drill.Target) bool { return t.Limits.Height > 0 }},
	{Fault{score.WrongWay, msgTurnedWrongWay}, isKind(drill.Turn)},
	{Fault{score.WrongWay, msgWentWrongWay}, func(t drill.Target) bool {
		return slices.ContainsFunc(t.During, func(d drill.Due) bool { return d.FirstWay != "" }) || t.Kind == drill.Regain
	}},
	{Fault{score.Overshoot, msgCarriedTooFar}, func(t drill.Target) bool {
		return slices.ContainsFunc(t.During, func(d drill.Due) bool { return d.FirstWay == "" && d.Distance > 0 })
	}},
	{Fault{score.Order, msgTakenOverTooSoon}, isKind(drill.Return)},
	{Fault{score.Lost, "Lost orientation"}, func(t drill.Target) bool {
		return t.Kind != drill.TakeOff && t.Kind != drill.Land
	}},
	{Fault{score.Overshoot, msgTurnedTooFar}, isKind(drill.Turn)},
	{Fault{score.Overshoot, msgWentPast}, func(t drill.Target) bool {
		return t.Kind == drill.GoTo || t.Kind == drill.Stop
	}},
	{Fault{score.Order, msgOtherWayRound}, func(t drill.Target) bool {
		return t.Path != nil && t.Path.Shape != drill.Line && t.Path.Shape != drill.Slant
	}},
	{Fault{score.Uneven, msgLobesUnequal}, func(t drill.Target) bool {
		return t.Limits.Ratio > 0 || t.Limits.EndRatio > 0
	}},
	{Fault{score.Crossing, msgOffCentre}, func(t drill.Target) bool { return t.Limits.Crossing > 0 }},
	{Fault{score.AngleOff, msgWrongAngle}, func(t drill.Target) bool {
		return t.Limits.Slope > 0 || t.Limits.Legs > 0
	}},
	{Fault{score.Speed, msgWrongSpeed}, func(t drill.Target) bool { return t.SpeedMps[1] > 0 }},
	{Fault{score.Sink, msgTouchedDownHard}, isKind(drill.Land)},
	{Fault{score.Bounce, "Bounced"}, isKind(drill.Land)},
	{Fault{score.Tilt, msgTouchedDownLeaning}, isKind(drill.Land)},
	{Fault{score.Crash, "Crash"}, func(drill.Target) bool { return true }},
}

// isKind is the condition that a step is of one kind.
func isKind(k drill.Kind) func(drill.Target) bool {
	return func(t drill.Target) bool { return t.Kind == k }
}

// faultsOf are the faults that can be in a task, in the order of the list
// above; a crash can be in every one that has steps.
func faultsOf(t drill.Task) (out []Fault) {
	for _, f := range faults {
		if slices.ContainsFunc(t.Steps, f.in) {
			out = append(out, f.Fault)
		}
	}
	return out
}
