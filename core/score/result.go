// Package score says what was flown. It takes a drill's task and its evidence,
// a sampled track or marks made by eye, to a verdict, a margin, the figures of
// each step and the faults, each with its time, place, figure and limit.
//
// # One machine for all evidence
//
// One step machine (machine.go) judges every source. A sampler turns the
// samples of a log into its events, an observer the marks of an eye: entered,
// left, reached, touched, finished. What a source cannot judge is listed as
// unjudged and not guessed.
//
// # One type for each kind of step
//
// All that the scorer knows of a kind of step is a type that implements kind,
// in a file kind_NAME.go: which limits a log can judge, how samples and marks
// become events, what is measured, how a fault is worded, what the pad asks
// next. The geometry that is shared lives beside it: criteria.go for
// tolerances, path.go and pathstart.go for figures, turn.go, land.go, goto.go
// and recover.go.
//
// # Noise
//
// A log has errors of its own. measureNoise estimates them, mended and levelled
// take out jumps and the wander of heights, and steadied fits smooth curves
// where the noise would hide a rest or a limit. A limit that noise alone may
// reach is widened to that; one that the log cannot judge at all is listed with
// the fineness that it would need. Likelihood then says how sure the verdict
// is.
//
// # Units
//
// Metres in the field frame (x to the right of the pilot, y away, z up),
// seconds from the start of the evidence, metres per second; angles are
// field.Angle inside and degrees in metrics, limits and JSON. NaN stands for a
// moment that has not come, a limit of 0 for one that is not judged.
package score

import (
	"encoding/json"
	"fmt"
	"math"

	"maestrale/core/drill"
	"maestrale/core/field"
)

// Verdict of an attempt: what it counts as.
type Verdict string

// The verdicts. Pass: every step was done and no more faults made than the
// drill forgives. Fail: more faults. Incomplete: a step was not done. Void is
// only ever given by a person, with a reason.
const (
	Pass       Verdict = "pass"
	Fail       Verdict = "fail"
	Incomplete Verdict = "incomplete"
	Void       Verdict = "void"
)

// Source says where the evidence comes from. It decides how much an attempt
// counts for, which core/readiness knows.
type Source string

// The sources of evidence.
const (
	Observed Source = "observed"
	FromLog  Source = "track"
	Sim      Source = "sim"
	Claimed  Source = "claimed" // brought from paper, without evidence
)

// Result is a maestrale-result/1 document: what the scorer says of one attempt.
// docs/formats.md describes each key; what is null or absent was not measured.
type Result struct {
	Format     string       `json:"format"`
	Drill      string       `json:"drill"`
	Side       field.Side   `json:"side"`
	Level      int          `json:"level"`
	CraftClass string       `json:"craft_class"`
	Scale      float64      `json:"scale,omitempty"` // of the drill's own size, where the course is smaller
	Verdict    Verdict      `json:"verdict"`
	Margin     *float64     `json:"margin"` // null where nothing was measured
	Source     Source       `json:"source"`
	Unjudged   []string     `json:"unjudged"`
	Steps      []StepResult `json:"steps"`
	Faults     []Fault      `json:"faults"`
	VoidReason string       `json:"void_reason,omitempty"`
	// Likelihood is the probability that the true flight would get the same
	// verdict; nil where the log is fine enough for the verdict to be certain.
	Likelihood *float64    `json:"likelihood,omitempty"`
	Log        *LogQuality `json:"log,omitempty"`
	// AspectS is the seconds flown inside tolerance in each sector of the
	// aspect ring, clockwise from tail-in.
	AspectS [field.Sectors]float64 `json:"aspect_s"`
}

// LogQuality is what the log itself says of its fineness: its rate, and the
// standard deviations of its errors in place and height.
type LogQuality struct {
	RateHz  float64 `json:"rate_hz"`
	PlaceM  float64 `json:"place_noise_m"`
	HeightM float64 `json:"height_noise_m"`
	JumpM   float64 `json:"jump_m,omitempty"` // largest jump of the receiver that was taken out
	Gaps    int     `json:"gaps_bridged,omitempty"`
}

// StepResult is one step of the drill as it was flown. A step that never began
// has no start; one that was not done has no end, and says what it waited for.
// Metrics and Limits go by the keys of Metrics.
type StepResult struct {
	Index   int                `json:"index"`
	Kind    string             `json:"kind"`
	StartS  *float64           `json:"start_s"`
	EndS    *float64           `json:"end_s"`
	Done    bool               `json:"done"`
	Metrics map[string]float64 `json:"metrics"`
	Limits  map[string]float64 `json:"limits"`
	Waited  string             `json:"waited_for,omitempty"`
	Rests   []float64          `json:"-"` // at each corner; written among the metrics
}

// stepWire is a StepResult without its methods, so that marshalling it does not
// call itself.
type stepWire StepResult

// MarshalJSON writes the rests as rests_s among the metrics, where the format
// has them. A step without rests is written as it is.
func (r StepResult) MarshalJSON() ([]byte, error) {
	if len(r.Rests) == 0 {
		return json.Marshal(stepWire(r)) //nolint:wrapcheck // of our own
	}
	all := map[string]any{"rests_s": r.Rests}
	for k, v := range r.Metrics {
		all[k] = v
	}
	return json.Marshal(struct { //nolint:wrapcheck // of our own
		stepWire
		Metrics map[string]any `json:"metrics"`
	}{stepWire(r), all})
}

// UnmarshalJSON reads what MarshalJSON writes; a metric that is no number is an
// error that names it.
func (r *StepResult) UnmarshalJSON(data []byte) error {
	var in struct {
		stepWire
		Metrics map[string]json.RawMessage `json:"metrics"`
	}
	if err := json.Unmarshal(data, &in); err != nil {
		return fmt.Errorf("read a step: %w", err)
	}
	*r = StepResult(in.stepWire)
	r.Metrics = map[string]float64{}
	for k, raw := range in.Metrics {
		var err error
		if k == "rests_s" {
			err = json.Unmarshal(raw, &r.Rests)
		} else {
			var v float64
			if err = json.Unmarshal(raw, &v); err == nil {
				r.Metrics[k] = v
			}
		}
		if err != nil {
			return fmt.Errorf("read the metric %s: %w", k, err)
		}
	}
	return nil
}

// Fault is a limit that was passed: when, in which step, by how much, in which
// direction, and in words. Value is null where an eye judged without a figure;
// for a time outside, it is the largest.
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

// Place is where something happened, in metres in the field frame.
type Place struct {
	X float64 `json:"x_m"`
	Y float64 `json:"y_m"`
	Z float64 `json:"z_m"`
}

// Crashed adds to a scored flight that it ended in a crash, at tS seconds, of a
// cause that the simulator states. It is a fault like the others, of the first
// step that was not done, without a figure. With more faults than maxFaults the
// flight has failed, and a failed flight that had passed its limits until then
// has no margin.
func (r *Result) Crashed(maxFaults int, tS float64, at Place, cause string) {
	step := len(r.Steps) - 1
	for i, s := range r.Steps {
		if !s.Done {
			step = i
			break
		}
	}
	r.Faults = append(r.Faults, Fault{TS: round(tS, 3), Step: max(step, 0), Code: Crash, Cause: cause,
		Text: fmt.Sprintf("crashed at %.1f s: %s", tS, cause),
		At:   &Place{round(at.X, 3), round(at.Y, 3), round(at.Z, 3)}})
	if len(r.Faults) > maxFaults && r.Verdict != Void {
		r.Verdict = Fail
		if r.Margin != nil && *r.Margin > 0 {
			r.Margin = nil
		}
	}
}

// round rounds v to decimal places, halves away from zero.
func round(v float64, places int) float64 {
	p := math.Pow(10, float64(places))
	return math.Round(v*p) / p
}

// Summary says in one line what happened, as it is spoken at the field; where
// the log leaves the verdict open, it begins with "close".
func (r *Result) Summary() string {
	says := r.happened()
	if r.Close() {
		return "close: " + says
	}
	return says
}

// happened is the first fault, else the first step that was not done, else what
// is worth saying of each step.
func (r *Result) happened() string {
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
		if k, ok := kinds[drill.Kind(s.Kind)]; ok {
			part = k.summary(&s)
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
