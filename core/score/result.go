// Package score says what was flown: it takes a drill's task and its evidence,
// a sampled track or marks made by eye, to a verdict, a margin, each step's
// metrics and the faults with their time, place, figure and limit.
//
// One step machine serves all sources. Samples and marks are both turned into
// its events (entered, left, reached, touched, …); what an eye cannot judge is
// listed as unjudged and not guessed.
package score

import (
	"encoding/json"
	"fmt"
	"math"

	"maestrale/core/drill"
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
	Claimed  Source = "claimed" // brought from paper, without evidence
)

// Result is a maestrale-result/1 document.
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
	// Likelihood is the probability that the true flight would get the same verdict; nil
	// where the log is fine enough for the verdict to be certain.
	Likelihood *float64    `json:"likelihood,omitempty"`
	Log        *LogQuality `json:"log,omitempty"`
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
	JumpM   float64 `json:"jump_m,omitempty"` // largest jump of the receiver that was taken out
	Gaps    int     `json:"gaps_bridged,omitempty"`
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
	Rests   []float64          `json:"-"` // at each corner; written among the metrics
}

// stepWire is a StepResult without its methods.
type stepWire StepResult

// MarshalJSON writes the rests as rests_s among the metrics.
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

// UnmarshalJSON reads what MarshalJSON writes.
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

// Crashed adds to a scored flight that it ended in a crash, of a cause that the
// simulator states. It is a fault as the others are, without a figure: past the
// drill's faults the flight has failed, and without one of its measures it has no
// margin.
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

func round(v float64, places int) float64 {
	p := math.Pow(10, float64(places))
	return math.Round(v*p) / p
}

// Summary says in one line what happened, as it is spoken at the field, and where the log leaves the
// verdict open, that it was close.
func (r *Result) Summary() string {
	says := r.happened()
	if r.Close() {
		return "close: " + says
	}
	return says
}

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
