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
	"maestrale/core/misread"
)

// Marks are the evidence of an eye: what was seen, and when. They are kept as
// they come and never changed; taking one back is a mark as well.

// Mark is one thing that an instructor saw, at a time from the start of the
// attempt.
//
// A question says that the pilot was asked something while flying, and
// onlookers that people watched; neither changes the verdict. An undo takes
// back the mark named by Of or, where none is named, the newest one that still
// stands; both stay in the record.
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
var MarkWords = []string{"start", "in", "out", "rest", "moving", "corner", "call", "touch", "fault", "void", "done",
	"undo", "question", "onlookers"}

// asides are the marks that say how an attempt was flown, and not what happened in it.
var asides = []string{"question", "onlookers"}

// towards are the directions that a mark may name, as the pilot sees them.
var towards = []string{"toward", "away", "left", "right", "up", "down"}

// MaxMarks is the largest number of marks of one attempt.
const MaxMarks = 2000

// Valid reports what is wrong with the mark, with what was expected, or nil.
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

// ReadMarks reads a maestrale-marks/1 document. It returns the marks, in the
// order of time, and notes on keys that it left out. An error names the line,
// what stands there and what was expected.
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
		// Each mark is looked for where the one before ended, so that an error
		// can name its line.
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
				notes = append(notes, fmt.Sprintf(msgKeyNotRead, i, k))
			}
		}
		if err := marks[i].Valid(); err != nil {
			return nil, nil, misread.At(line, "", "marks[%d]: %v", i, err)
		}
		if i > 0 && marks[i].TS < marks[i-1].TS {
			return nil, nil, misread.At(line, "marks in the order of time", "marks[%d] goes back from %v s to %v s", i,
				marks[i-1].TS, marks[i].TS)
		}
	}
	slices.Sort(notes)
	return marks, notes, nil
}

// jsonError is an error of the JSON decoder with the line on which it stopped.
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

// standing returns the marks that were not taken back, in their order, without
// those that say nothing of what happened. An undo without Of takes back the
// newest before it that still stands.
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
		if !gone[i] && !slices.Contains(asides, m.Mark) {
			out = append(out, m)
		}
	}
	return out
}

// Answering tells whether the pilot was asked questions while flying: a mark
// "question" stands that was not taken back.
func Answering(marks []Mark) bool { return said(marks, "question") }

// Onlookers tells whether people looked on: a mark "onlookers" stands that was
// not taken back.
func Onlookers(marks []Mark) bool { return said(marks, "onlookers") }

// said tells whether a mark stands that was not taken back.
func said(marks []Mark, what string) bool {
	back := map[string]bool{}
	for _, m := range marks {
		if m.Mark == "undo" {
			back[m.Of] = true
		}
	}
	return slices.ContainsFunc(marks, func(m Mark) bool { return m.Mark == what && (m.ID == "" || !back[m.ID]) })
}

// Progress is where an attempt stands while it is being marked: what the pad
// draws.
type Progress struct {
	Result *Result
	Step   int     // the step that runs; the number of steps once all are done
	Inside bool    // the craft was last marked as in position
	Since  float64 // from when the clock runs, where it is inside
	Ended  bool    // done or void was marked
	Ask    Ask     // what to mark next
	Waits  string  // "call" where something is yet to happen in the step, "answer" where it is not answered
}

// Marks scores what was seen. An eye judges place as a whole, the offset of a
// touchdown, and time; everything else of the task is listed as not judged.
func Marks(task drill.Task, marks []Mark) Progress { return MarksAt(task, marks, 0) }

// MarksAt scores what was seen up to now, in seconds of the attempt, a moment
// after the last mark: the pad asks it while the attempt goes on. now before
// the last mark changes nothing.
func MarksAt(task drill.Task, marks []Mark, now float64) Progress {
	live := standing(marks)
	begin := 0.0
	if len(live) > 0 {
		begin = live[0].TS
	}
	o := &observer{machine: newMachine(task, Observed, begin), offsets: map[int]float64{}, rests: map[int][]float64{},
		stops: map[int]float64{}, resting: math.NaN(), happens: map[int]int{}, asked: math.NaN(), replies: map[int]float64{}}
	last := begin
	for _, m := range marks {
		o.lastMark = math.Max(o.lastMark, m.TS)
	}
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
	switch {
	case !math.IsNaN(o.asked):
		p.Waits = "answer"
	case !o.over() && o.awaitingResponse:
		p.Waits = "call"
	}
	p.Ask = o.asks(math.Max(last, now))
	o.stop(last)
	o.judge(o.measureSeen())
	if o.void != "" {
		o.res.Verdict, o.res.VoidReason, o.res.Margin = Void, o.void, nil
	}
	return p
}
