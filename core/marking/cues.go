package marking

import (
	"maestrale/core/drill"
	"maestrale/core/score"
)

// Eyes belong on the craft. What a pad would show is said aloud, as few words
// as will do.

// Cue is something that a pad says aloud, so that the eyes stay on the craft.
// The pad can leave out every kind.
type Cue struct {
	Kind  string `json:"kind"`  // a Cue kind
	Words string `json:"words"` // as they are spoken
}

// Kinds of cues.
const (
	CueStep    = "step"    // what the step that begins asks
	CueCount   = "count"   // seconds that are left, and that a step is done
	CueOut     = "out"     // that leaving was registered, or another fault
	CueCall    = "call"    // the call to make
	CueTimeOut = "timeout" // that the time of a step is over
	CueVerdict = "verdict" // the verdict with its one main fault
	CueWind    = "wind"    // that the wind is over the drill's limit
)

// countFrom is how many seconds before the end of a clock it is said how many
// are left: enough to look, and few enough not to be talked over by the end.
const countFrom = 5

// heard is where an attempt stood when the pad was last told, at nowS seconds
// of the attempt.
type heard struct {
	state State
	nowS  float64
}

// cuesOf is what is to be said at the state now, after what was said at the
// state before; nil before says the first step. Nothing waits for a cue: it
// follows from marks and time, and changes neither.
func cuesOf(task drill.Task, before *heard, now State, nowS float64) (out []Cue) {
	say := func(kind, words string) { out = append(out, Cue{kind, words}) }
	was, wasS := State{Step: -1}, 0.0
	if before != nil {
		was, wasS = before.state, before.nowS
	}
	if now.Ended {
		if !was.Ended && now.Verdict != nil {
			say(CueVerdict, spoken(now.Verdict))
		}
		return out
	}
	for i := len(was.Faults); i < len(now.Faults); i++ {
		kind := CueOut
		if now.codes[i] == score.TimeOut {
			kind = CueTimeOut
		}
		say(kind, now.Faults[i])
	}
	if was.Inside && !now.Inside && now.Step == was.Step && len(now.Faults) == len(was.Faults) && was.Ask.Tap == "out" {
		say(CueOut, "out") // before its clock ran: no fault, and heard all the same
	}
	if now.Step != was.Step {
		if now.Step > was.Step && was.Step >= 0 {
			say(CueCount, "done")
		}
		if now.Step < len(task.Steps) {
			say(CueStep, task.Steps[now.Step].Words())
		}
	} else if a := now.Ask; a.Clock && a.NeedS > countFrom {
		if five := a.SinceS + a.NeedS - countFrom; wasS < five && nowS >= five && was.Ask.SinceS == a.SinceS {
			say(CueCount, "five")
		}
	}
	if now.Ask.Tap == "call" && (was.Ask.Tap != "call" || was.Step != now.Step) {
		words := now.Ask.Main
		if now.Ask.MainMark != "call" {
			words = "call"
		}
		say(CueCall, words)
	}
	return out
}

// spoken is a verdict in one breath: the verdict, and the first of its faults.
func spoken(v *Verdict) string {
	if len(v.Faults) == 0 {
		return v.Verdict
	}
	return v.Verdict + ": " + v.Faults[0]
}

// windCue says that the wind, in m/s, is over what the drill is flown in; nil
// where it is not, or not known.
func windCue(d drill.Drill, wind *float64) []Cue {
	ok, why := d.Counts(drill.Flown{WindMps: wind})
	if ok || wind == nil {
		return nil
	}
	return []Cue{{CueWind, why}}
}

// cues are what a desk says of an attempt at a state, once: it remembers what
// it has said until the attempt ends.
func (d *Desk) cues(o Opening, k drill.Drill, task drill.Task, s State, nowS float64) []Cue {
	before := d.heard[o.ID]
	out := cuesOf(task, before, s, nowS)
	if before == nil {
		out = append(windCue(k, d.WindMps), out...)
	}
	if s.Ended {
		delete(d.heard, o.ID)
		d.over[o.ID] = true
		return out
	}
	d.heard[o.ID] = &heard{s, nowS}
	return out
}
