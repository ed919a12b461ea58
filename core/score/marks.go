package score

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"strings"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/misread"
)

// Mark is one thing that an instructor saw, at a time from the start.
//
// An undo takes back the mark named by Of or, where none is named, the newest
// one that still stands; both stay in the record.
type Mark struct {
	ID     string   `json:"id,omitempty"`
	TS     float64  `json:"t_s"`
	Mark   string   `json:"mark"`
	Toward string   `json:"toward,omitempty"`
	AwayM  *float64 `json:"away_m,omitempty"`
	RightM *float64 `json:"right_m,omitempty"`
	Code   Code     `json:"code,omitempty"`
	Reason string   `json:"reason,omitempty"`
	Of     string   `json:"of,omitempty"`
}

// MarkWords lists the marks that are read.
var MarkWords = []string{"start", "in", "out", "rest", "moving", "corner", "call", "touch", "fault", "void", "done", "undo"}

var towards = []string{"toward", "away", "left", "right", "up", "down"}

// MaxMarks is the largest number of marks of one attempt.
const MaxMarks = 2000

// Valid reports what is wrong with the mark, or nil.
func (m Mark) Valid() error {
	switch {
	case !slices.Contains(MarkWords, m.Mark):
		return fmt.Errorf("mark is %q; expected %s", m.Mark, strings.Join(MarkWords, ", "))
	case !(m.TS >= 0 && m.TS <= 86400):
		return fmt.Errorf("t_s is %v; expected seconds from 0 to 86400", m.TS)
	case m.Toward != "" && !slices.Contains(towards, m.Toward):
		return fmt.Errorf("toward is %q; expected %s", m.Toward, strings.Join(towards, ", "))
	case m.Mark == "fault" && !slices.Contains(Codes, m.Code):
		return fmt.Errorf("code is %q; expected a fault code", m.Code)
	case m.Mark == "void" && strings.TrimSpace(m.Reason) == "":
		return errors.New("a void has no reason; expected what happened")
	case (m.AwayM == nil) != (m.RightM == nil):
		return errors.New("only one of away_m and right_m is given; expected both or none")
	}
	for name, v := range map[string]*float64{"away_m": m.AwayM, "right_m": m.RightM} {
		if v != nil && !(math.Abs(*v) <= 1000) {
			return fmt.Errorf("%s is %v; expected metres from −1000 to 1000", name, *v)
		}
	}
	return nil
}

// ReadMarks reads a maestrale-marks/1 document and notes on what it left out.
func ReadMarks(r io.Reader) ([]Mark, []string, error) {
	data, err := io.ReadAll(io.LimitReader(r, 4<<20))
	if err != nil {
		return nil, nil, fmt.Errorf("read marks: %w", err)
	}
	var doc struct {
		Format *string           `json:"format"`
		Marks  []json.RawMessage `json:"marks"`
	}
	if err := json.Unmarshal(data, &doc); err != nil {
		return nil, nil, jsonError(data, err)
	}
	if doc.Format != nil && *doc.Format != "maestrale-marks/1" {
		return nil, nil, misread.At(1, "maestrale-marks/1", "format is %q", *doc.Format)
	}
	if doc.Marks == nil {
		return nil, nil, misread.At(1, "a list of marks", `there is no "marks"`)
	}
	var notes []string
	marks := make([]Mark, len(doc.Marks))
	from := 0
	for i, raw := range doc.Marks {
		at := bytes.Index(data[from:], raw)
		line := 1 + bytes.Count(data[:from+max(at, 0)], []byte("\n"))
		from += max(at, 0) + len(raw)
		if err := json.Unmarshal(raw, &marks[i]); err != nil {
			return nil, nil, misread.At(line, "a mark as {\"t_s\": 3.2, \"mark\": \"in\"}", "marks[%d]: %v", i, err)
		}
		var keys map[string]json.RawMessage
		_ = json.Unmarshal(raw, &keys) // it was read just now
		for _, need := range []string{"t_s", "mark"} {
			if _, ok := keys[need]; !ok {
				return nil, nil, misread.At(line, "that key", "marks[%d] has no %q", i, need)
			}
		}
		for k := range keys {
			if !slices.Contains([]string{"id", "t_s", "mark", "toward", "away_m", "right_m", "code", "reason", "of"}, k) {
				notes = append(notes, fmt.Sprintf("marks[%d].%s is not read", i, k))
			}
		}
		if err := marks[i].Valid(); err != nil {
			return nil, nil, misread.At(line, "", "marks[%d]: %v", i, err)
		}
		if i > 0 && marks[i].TS < marks[i-1].TS {
			return nil, nil, misread.At(line, "marks in the order of time", "marks[%d] goes back from %v s to %v s", i, marks[i-1].TS, marks[i].TS)
		}
	}
	slices.Sort(notes)
	return marks, notes, nil
}

func jsonError(data []byte, err error) error {
	line := 1
	var syntax *json.SyntaxError
	var kind *json.UnmarshalTypeError
	switch {
	case errors.As(err, &syntax):
		line += bytes.Count(data[:min(int(syntax.Offset), len(data))], []byte("\n"))
	case errors.As(err, &kind):
		line += bytes.Count(data[:min(int(kind.Offset), len(data))], []byte("\n"))
	}
	return misread.At(line, "a JSON document", "not the JSON that is read here: %v", err)
}

// standing returns the marks that were not taken back, in their order.
func standing(marks []Mark) []Mark {
	gone := make([]bool, len(marks))
	for i, m := range marks {
		if m.Mark != "undo" {
			continue
		}
		gone[i] = true
		for j := i - 1; j >= 0; j-- {
			if !gone[j] && (m.Of == "" || marks[j].ID == m.Of) {
				gone[j] = true
				break
			}
		}
	}
	var out []Mark
	for i, m := range marks {
		if !gone[i] {
			out = append(out, m)
		}
	}
	return out
}

// Progress is where an attempt stands while it is being marked.
type Progress struct {
	Result *Result
	Step   int     // the step that runs; the number of steps once all are done
	Inside bool    // the craft was last marked as in position
	Since  float64 // from when the clock runs, where it is inside
	Ended  bool    // done or void was marked
}

// Marks scores what was seen. The machine is the one that serves the samples;
// an eye judges place as a whole, the touchdown's offset, and time.
func Marks(task drill.Task, marks []Mark) Progress { return MarksAt(task, marks, 0) }

// MarksAt scores what was seen up to a moment after the last mark, while an
// attempt is being marked.
func MarksAt(task drill.Task, marks []Mark, now float64) Progress {
	live := standing(marks)
	begin := 0.0
	if len(live) > 0 {
		begin = live[0].TS
	}
	o := &observer{machine: newMachine(task, Observed, begin), offsets: map[int]float64{}}
	last := begin
	for _, m := range live {
		last = math.Max(last, m.TS)
		o.see(m)
		if o.void != "" || o.ended {
			break
		}
	}
	if o.void == "" && !o.ended && now > last {
		o.settleSteps(now)
		last = now
	}
	p := Progress{Result: o.res, Step: o.step, Inside: o.in, Ended: o.ended || o.void != ""}
	if o.in && o.clock.on {
		p.Since = o.clock.runs()
	}
	o.stop(last)
	o.judge(o.measureSeen())
	if o.void != "" {
		o.res.Verdict, o.res.VoidReason, o.res.Margin = Void, o.void, nil
	}
	return p
}

// observer turns marks into the machine's events.
type observer struct {
	*machine
	in      bool // in position, as last marked
	ended   bool
	void    string
	offsets map[int]float64
}

// settleSteps lets time pass up to t, through as many steps as it completes;
// a step that begins with the craft in position is inside from its beginning.
func (o *observer) settleSteps(t float64) {
	for o.advance(t) {
		o.enterIfIn()
	}
}

func (o *observer) enterIfIn() {
	if !o.over() && o.in && o.target().Kind == drill.Hold {
		o.enter(o.ready)
	}
}

func (o *observer) see(m Mark) {
	t := m.TS
	o.settleSteps(t)
	kind := drill.Kind("")
	if !o.over() {
		kind = o.target().Kind
	}
	switch m.Mark {
	case "start":
		if kind == drill.TakeOff {
			o.started(t)
		}
	case "in":
		o.in = true
		if kind == drill.TakeOff {
			if math.IsNaN(o.start) {
				o.started(t)
			}
			o.reached(t)
			o.enterIfIn()
		} else if kind == drill.Hold {
			o.enter(t)
		}
	case "out":
		o.out(t, m.Toward, kind)
	case "moving":
		if kind == drill.Turn {
			if math.IsNaN(o.start) {
				o.started(t)
			}
			o.clock.leave(t)
		}
	case "rest":
		if kind == drill.Turn {
			if math.IsNaN(o.start) {
				o.started(o.ready)
			}
			o.enter(t)
		}
	case "touch":
		o.touchSeen(m, kind)
	case "fault":
		o.fault(Fault{TS: t, Code: m.Code, Toward: m.Toward})
	case "void":
		o.void = strings.TrimSpace(m.Reason)
	case "done":
		o.ended = true
	}
}

// out marks that the craft left its place.
func (o *observer) out(t float64, toward string, kind drill.Kind) {
	was := o.in
	o.in = false
	f := Fault{Code: LeftBox, Toward: toward}
	if toward == "up" || toward == "down" {
		f.Code = Height
	}
	switch kind {
	case drill.Hold:
		o.leave(t, f)
	case drill.Turn:
		if was {
			o.fault(with(f, t))
		}
	}
}

// touchSeen marks that the craft came down: as it should, or out of a step
// that is still being flown. Standing is judged by the hand that marks it.
func (o *observer) touchSeen(m Mark, kind drill.Kind) {
	switch {
	case kind == drill.Land:
		o.touched(m.TS)
		if m.AwayM != nil {
			o.touchOffset(m)
		}
		o.finish(m.TS)
		o.in = false
	case o.over() && o.step > 0 && o.task.Steps[o.step-1].Kind == drill.Land:
		o.fault(Fault{TS: m.TS, Code: Bounce, Toward: "up"})
	default:
		o.out(m.TS, "down", kind)
	}
}

func (o *observer) touchOffset(m Mark) {
	d := math.Hypot(*m.AwayM, *m.RightM)
	o.offsets[o.step] = d
	target := o.target()
	if limit := target.Limits.Offset; limit > 0 && d > limit {
		off := field.Point{X: *m.RightM, Y: *m.AwayM}
		o.fault(Fault{TS: m.TS, Code: Offset, Value: value(d), Limit: value(limit), Toward: field.Direction(off),
			At: &Place{target.At.X + off.X, target.At.Y + off.Y, 0}})
	}
}

// measureSeen fills in what an eye measured and lists what it did not.
func (o *observer) measureSeen() []float64 {
	const byEye = "not measured by eye"
	var shares []float64
	for i, target := range o.task.Steps {
		r := &o.res.Steps[i]
		limit := func(name string, v float64, measured bool) {
			if v <= 0 {
				return
			}
			r.Limits[name] = v
			if !measured {
				o.unjudged(i, name, byEye)
			}
		}
		lim := target.Limits
		began := !math.IsNaN(o.spans[i].from)
		switch target.Kind {
		case drill.Hold:
			limit("radius_max_m", lim.Radius, false)
			limit("height_max_m", lim.Height, false)
			limit("nose_max_deg", lim.Nose.Deg(), false)
			limit("inside_s", target.Seconds, true)
			if in := o.stays[i].length(); !math.IsNaN(o.spans[i].to) {
				r.Metrics["inside_s"] = in
				if !r.Done && in > 0 {
					shares = append(shares, target.Seconds/in)
				}
			}
		case drill.Turn:
			limit("drift_max_m", lim.Radius, false)
			limit("height_max_m", lim.Height, false)
			limit("overshoot_deg", lim.Overshoot.Deg(), false)
			limit("rate_max_dps", target.RateDps[1], false)
		case drill.Land:
			d, seen := o.offsets[i]
			limit("offset_m", lim.Offset, seen)
			limit("sink_mps", lim.Sink, false)
			limit("tilt_deg", lim.Tilt.Deg(), false)
			limit("nose_deg", lim.Nose.Deg(), false)
			if seen {
				r.Metrics["offset_m"] = d
				if lim.Offset > 0 {
					shares = append(shares, d/lim.Offset)
				}
			}
		case drill.TakeOff:
			if began {
				r.Metrics["takeoff_s"] = o.spans[i].length()
			}
		}
		limit("seconds_max", target.SecondsMax, target.Kind != drill.TakeOff)
	}
	for _, f := range o.inTime {
		target := o.task.Steps[f.step]
		if a, ok := sightOf(target, o.task.Station); ok {
			o.res.AspectS[field.Sector(a)] += f.length()
		}
	}
	return shares
}
