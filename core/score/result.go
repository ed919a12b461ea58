// Package score says what was flown: it takes a drill's task and its evidence,
// a sampled track or marks made by eye, to a verdict, a margin, each step's
// metrics and the faults with their time, place, figure and limit.
//
// One step machine serves all sources. Samples and marks are both turned into
// its events (entered, left, reached, touched, …); what an eye cannot judge is
// listed as unjudged and not guessed.
package score

import (
	"fmt"
	"math"

	"maestrale/core/field"
)

// Verdict of an attempt.
type Verdict string

// The verdicts. Void is only ever given by a person.
const (
	Pass       Verdict = "pass"
	Fail       Verdict = "fail"
	Incomplete Verdict = "incomplete"
	Void       Verdict = "void"
)

// Source says where the evidence comes from.
type Source string

// The sources of evidence.
const (
	Observed Source = "observed"
	FromLog  Source = "track"
	Sim      Source = "sim"
)

// Code names a kind of fault.
type Code string

// The fault codes of the steps that are scored.
const (
	LeftBox   Code = "left-box"
	Height    Code = "height"
	Nose      Code = "nose"
	Speed     Code = "speed"
	Overshoot Code = "overshoot"
	WrongWay  Code = "wrong-way"
	Offset    Code = "offset"
	Sink      Code = "sink"
	Tilt      Code = "tilt"
	Bounce    Code = "bounce"
	TimeOut   Code = "time-out"
)

// Codes lists every fault code that a person may mark, those of later steps
// included.
var Codes = []Code{
	LeftBox, Height, Nose, "cross-track", Speed, "rest", Overshoot, WrongWay, "uneven", "crossing", "angle",
	"order", Offset, Sink, Tilt, Bounce, "late", "lost", "crash", TimeOut, "fence",
}

// Result is a maestrale-result/1 document.
type Result struct {
	Format     string       `json:"format"`
	Drill      string       `json:"drill"`
	Side       field.Side   `json:"side"`
	Level      int          `json:"level"`
	CraftClass string       `json:"craft_class"`
	Verdict    Verdict      `json:"verdict"`
	Margin     *float64     `json:"margin"` // null where nothing was measured
	Source     Source       `json:"source"`
	Unjudged   []string     `json:"unjudged"`
	Steps      []StepResult `json:"steps"`
	Faults     []Fault      `json:"faults"`
	VoidReason string       `json:"void_reason,omitempty"`
	Log        *LogQuality  `json:"log,omitempty"`
	// AspectS is the seconds flown inside tolerance in each sector of the
	// aspect ring, clockwise from tail-in.
	AspectS [field.Sectors]float64 `json:"aspect_s"`
}

// LogQuality is what the log itself says of its fineness: the rate, and the
// standard deviation of its quick position noise.
type LogQuality struct {
	RateHz  float64 `json:"rate_hz"`
	PlaceM  float64 `json:"place_noise_m"`
	HeightM float64 `json:"height_noise_m"`
}

// StepResult is one step of the drill as it was flown. A step that never
// began has no start; one that was not done has no end, and says what it
// waited for.
type StepResult struct {
	Index   int                `json:"index"`
	Kind    string             `json:"kind"`
	StartS  *float64           `json:"start_s"`
	EndS    *float64           `json:"end_s"`
	Done    bool               `json:"done"`
	Metrics map[string]float64 `json:"metrics"`
	Limits  map[string]float64 `json:"limits"`
	Waited  string             `json:"waited_for,omitempty"`
}

// Fault is a limit that was passed: when, in which step, by how much, and in
// words. Value is null where an eye judged without a figure.
type Fault struct {
	TS     float64  `json:"t_s"`
	Step   int      `json:"step"`
	Code   Code     `json:"code"`
	Value  *float64 `json:"value"`
	Limit  *float64 `json:"limit"`
	Toward string   `json:"toward"`
	Cause  string   `json:"cause"`
	Text   string   `json:"text"`
	At     *Place   `json:"at,omitempty"`
}

// Place is where something happened, in the field frame.
type Place struct {
	X float64 `json:"x_m"`
	Y float64 `json:"y_m"`
	Z float64 `json:"z_m"`
}

func round(v float64, places int) float64 {
	p := math.Pow(10, float64(places))
	return math.Round(v*p) / p
}

// Summary says in one line what happened, as it is spoken at the field.
func (r *Result) Summary() string {
	if r.Verdict == Void {
		return "void: " + r.VoidReason
	}
	if len(r.Faults) > 0 {
		return r.Faults[0].Text
	}
	if r.Verdict == Incomplete {
		for _, s := range r.Steps {
			if !s.Done {
				return fmt.Sprintf("%s not done: %s", s.Kind, s.Waited)
			}
		}
	}
	out := ""
	for _, s := range r.Steps {
		part := ""
		switch s.Kind {
		case "hold":
			part = fmt.Sprintf("%.0f s inside", s.Metrics["inside_s"])
			if v, ok := s.Metrics["radius_max_m"]; ok {
				part += fmt.Sprintf(", %.1f m out at most", v)
			}
		case "land":
			if v, ok := s.Metrics["offset_m"]; ok {
				part = fmt.Sprintf("%.1f m off", v)
			}
			if v, ok := s.Metrics["sink_mps"]; ok {
				part += fmt.Sprintf(", %.1f m/s", v)
			}
		}
		if part != "" {
			if out != "" {
				out += "; "
			}
			out += part
		}
	}
	return out
}
