// Package trace holds what a pilot did in a simulator run, reading by reading, so
// that the run can be flown again: which run it was, the sticks whenever they
// changed, what happened, and the sum over the states that came of it.
package trace

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"

	"maestrale/core/flight"
)

const (
	// Format names the document.
	Format = "maestrale-run/1"
	// MaxBytes is the largest document that is read.
	MaxBytes = 4 << 20
	// LongestS is the longest run in s.
	LongestS = 900
	// Steps is how many steps a stick has from the middle to an end: what is flown
	// is what is kept.
	Steps = 1000

	readings = LongestS * 100
	most     = 4000 // events
)

// Spec names a run: everything else follows from the catalogue.
type Spec struct {
	Craft       string  `json:"craft"`
	Drill       string  `json:"drill"` // empty for free flight
	Side        string  `json:"side"`
	Level       int     `json:"level"`
	Aids        string  `json:"aids"`
	WindMps     float64 `json:"wind_mps"`
	WindFromDeg float64 `json:"wind_from_deg"`
	Gusts       string  `json:"gusts"`
	Seed        uint32  `json:"seed"`
	DrillSHA    string  `json:"drill_sha256,omitempty"` // the version of the drill; empty = the newest
	// a school's own, and which version of it; empty = the drill's template
	Course string `json:"course,omitempty"`
	Lost   string `json:"lost,omitempty"` // the grade of the lost-craft trainer: it was seen as a dot
}

// Trace is one run.
type Trace struct {
	Format string `json:"format"`
	Spec
	Readings int       `json:"readings"` // of the sticks that were flown, 10 ms each
	Rows     [][8]int  `json:"rows"`     // reading; throttle, yaw, pitch, roll, wheel in thousandths; aids, frame
	Events   []Happens `json:"events"`
	Hash     string    `json:"state_sha256"`
	Zoom     bool      `json:"zoom"`            // the zoom inset was on
	Coach    bool      `json:"coach,omitempty"` // the lost-craft trainer's coach was asked
}

// Happens is an event at a reading, and who made it: the pilot where it is empty.
type Happens struct {
	Reading int    `json:"reading"`
	Event   string `json:"event"`
	By      string `json:"by,omitempty"`
}

// Read reads a trace; what cannot have been flown is one error that says what,
// where and what was expected.
func Read(r io.Reader) (*Trace, error) {
	data, err := io.ReadAll(io.LimitReader(r, MaxBytes+1))
	if err != nil {
		return nil, fmt.Errorf("read the run: %w", err)
	}
	if len(data) > MaxBytes {
		return nil, fmt.Errorf("the run is larger than %d MB; expected %d s at most", MaxBytes>>20, LongestS)
	}
	var t Trace
	if err := json.Unmarshal(data, &t); err != nil {
		return nil, fmt.Errorf("the run could not be read: %w; expected %s", err, Format)
	}
	return &t, t.check()
}

// check refuses a trace that cannot be flown again; the error says what was
// expected.
func (t *Trace) check() error {
	if t.Format != Format {
		return fmt.Errorf("the format is %.40q; expected %s", t.Format, Format)
	}
	if t.Readings < 1 || t.Readings > readings {
		return fmt.Errorf("%d readings; expected 1 to %d, which are %d s", t.Readings, readings, LongestS)
	}
	if len(t.Rows) == 0 || t.Rows[0][0] != 0 {
		return errors.New("the sticks do not begin at the first reading; expected a row for it")
	}
	for i, r := range t.Rows {
		if r[0] >= t.Readings || (i > 0 && r[0] <= t.Rows[i-1][0]) {
			return fmt.Errorf("row %d is of reading %d; expected rising readings under %d", i+1, r[0], t.Readings)
		}
		for j, v := range r[1:6] {
			if v < -Steps || v > Steps {
				return fmt.Errorf("row %d: %s is %d; expected %d to %d", i+1, []string{"throttle", "yaw", "pitch", "roll",
					"the wheel"}[j], v, -Steps, Steps)
			}
		}
		if r[6] < 0 || r[6] >= len(flight.AidsNames) || r[7] < 0 || r[7] >= len(flight.FrameNames) {
			return fmt.Errorf("row %d: aids %d and frame %d; expected ones that are known", i+1, r[6], r[7])
		}
	}
	if len(t.Events) > most {
		return fmt.Errorf("%d events; expected %d at most", len(t.Events), most)
	}
	for i, e := range t.Events {
		if e.Reading < 0 || e.Reading >= t.Readings || (i > 0 && e.Reading < t.Events[i-1].Reading) {
			return fmt.Errorf("event %d is at reading %d; expected readings in order, under %d", i+1, e.Reading, t.Readings)
		}
		if _, err := flight.ParseEvent(e.Event); err != nil {
			return fmt.Errorf("event %d: %w", i+1, err)
		}
	}
	if len(t.Hash) != 64 {
		return fmt.Errorf("state_sha256 has %d digits; expected 64", len(t.Hash))
	}
	return nil
}

// Fly flies the trace on a flight made of its Spec, visiting samples at 50 Hz.
func (t *Trace) Fly(f *flight.Flight, visit func(flight.Sample)) flight.Outcome {
	out, _ := t.FlyBy(f, nil, visit)
	return out
}

// FlyBy flies the trace of a drill that lets things happen. It is an error where the
// trace says that the drill let something else happen than it does, or at another
// moment.
func (t *Trace) FlyBy(f *flight.Flight, gates []Gate, visit func(flight.Sample)) (flight.Outcome, error) {
	s := flight.NewSession(f)
	s.Visit = visit
	schedule := Schedule{Gates: gates}
	var due []Happens
	var k flight.Sticks
	row, event := 0, 0
	var events []flight.Event
	for i := 0; i < t.Readings && !f.Ended(); i++ {
		if row < len(t.Rows) && t.Rows[row][0] == i {
			k = Sticks(t.Rows[row])
			row++
		}
		events = events[:0]
		for event < len(t.Events) && t.Events[event].Reading == i {
			e, _ := flight.ParseEvent(t.Events[event].Event) // was checked
			events = append(events, e)
			event++
		}
		s.Read(k, events, -1)
		schedule.each(s, func(c Cue) { due = append(due, Happens{i + 1, c.Event, ByDrill}) })
	}
	var wrong error
	for _, e := range t.Events {
		if e.By != ByDrill {
			continue
		}
		if len(due) == 0 || due[0] != e {
			wrong = fmt.Errorf("it says that the drill let %.40s happen at %.2f s, and it did not", e.Event,
				float64(e.Reading)/100)
			break
		}
		due = due[1:]
	}
	if wrong == nil && len(due) > 0 && due[0].Reading < t.Readings {
		wrong = fmt.Errorf("the drill let %s happen at %.2f s, and it does not say so", due[0].Event,
			float64(due[0].Reading)/100)
	}
	return s.End(k), wrong
}

// Flown is what a run was flown with, for whether it counts: the most aids and
// the easiest frame that the pilot used once the motors ran, and what flew by
// itself.
func (t *Trace) Flown() (aids flight.Aids, frame flight.Frame, automatic []string) {
	armed := 0
	for _, e := range t.Events {
		switch {
		case e.Event == "arm" && armed == 0:
			armed = e.Reading
		case e.Event == "takeoff" && !slices.Contains(automatic, "takeoff"):
			automatic = append(automatic, "takeoff")
		case (e.Event == "land" || e.Event == "home") && !slices.Contains(automatic, "landing"):
			automatic = append(automatic, "landing")
		}
	}
	aids = flight.RateOnly
	for i, r := range t.Rows {
		last := i+1 == len(t.Rows) || t.Rows[i+1][0] > armed
		if !last {
			continue // changed again before the motors ran
		}
		aids, frame = min(aids, flight.Aids(r[6])), max(frame, flight.Frame(r[7]))
	}
	return aids, frame, automatic
}

// Sticks are the sticks of a row.
func Sticks(r [8]int) flight.Sticks {
	axis := func(v int) float64 { return float64(v) / Steps }
	return flight.Sticks{Throttle: axis(r[1]), Yaw: axis(r[2]), Pitch: axis(r[3]), Roll: axis(r[4]), Wheel: axis(r[5]),
		Aids: flight.Aids(r[6]), Frame: flight.Frame(r[7])}
}

// Quantised brings an axis to the steps that a trace keeps.
func Quantised(v float64) int {
	if !(math.Abs(v) <= 1) { // NaN, or past the end
		if v > 1 {
			return Steps
		} else if v < -1 {
			return -Steps
		}
		return 0
	}
	return int(math.Floor(float64(v*Steps) + 0.5))
}

// Recorder flies a run and keeps its trace.
type Recorder struct {
	*flight.Session
	rows    [][8]int
	events  []Happens
	pending []flight.Event
	reading int
	closed  *flight.Outcome

	schedule Schedule
	Said     []string // what was called out to the pilot
	Coach    bool     // the coach was asked
}

// Record begins a run on a flight that has not been flown yet.
func Record(f *flight.Flight) *Recorder { return &Recorder{Session: flight.NewSession(f)} }

// Event lets something happen at the next reading; who is empty for the pilot.
func (r *Recorder) Event(text, who string) error {
	e, err := flight.ParseEvent(text)
	if err != nil {
		return err
	}
	if r.closed == nil && len(r.events) < most {
		r.events = append(r.events, Happens{r.reading, text, who})
		r.pending = append(r.pending, e)
	}
	return nil
}

// Reading flies one reading of the sticks; it tells whether the run goes on.
func (r *Recorder) Reading(throttle, yaw, pitch, roll, wheel float64, aids, frame int) bool {
	if r.closed != nil || r.Ended() || r.reading >= readings {
		return false
	}
	row := [8]int{r.reading, Quantised(throttle), Quantised(yaw), Quantised(pitch), Quantised(roll), Quantised(wheel),
		aids, frame}
	if n := len(r.rows); n == 0 || [7]int(r.rows[n-1][1:]) != [7]int(row[1:]) {
		r.rows = append(r.rows, row)
	}
	r.Read(Sticks(row), r.pending, -1)
	r.pending = r.pending[:0]
	r.reading++
	r.cue()
	return !r.Ended()
}

// Last are the sticks that were flown last.
func (r *Recorder) Last() flight.Sticks {
	if n := len(r.rows); n > 0 {
		return Sticks(r.rows[n-1])
	}
	return flight.Sticks{}
}

// Close ends the run; it can be closed once and asked again.
func (r *Recorder) Close() flight.Outcome {
	if r.closed == nil {
		// An event after the last reading was not flown.
		r.events = slices.DeleteFunc(r.events, func(h Happens) bool { return h.Reading >= r.reading })
		out := r.End(r.Last())
		r.closed = &out
	}
	return *r.closed
}

// JSON is the trace of a run of the given spec, once it is closed.
func (r *Recorder) JSON(spec Spec, zoom bool) string {
	out := r.Close()
	var b strings.Builder
	str := strconv.Quote
	num := func(v float64) string { return strconv.FormatFloat(v, 'g', -1, 64) }
	fmt.Fprintf(&b, `{"format":%s,"craft":%s,"drill":%s,"side":%s,"level":%d,"aids":%s,`+
		`"wind_mps":%s,"wind_from_deg":%s,"gusts":%s,"seed":%d,`+
		`"drill_sha256":%s,"course":%s,"lost":%s,`+
		`"readings":%d,"zoom":%t,"coach":%t,"state_sha256":%s,"rows":[`,
		str(Format), str(spec.Craft), str(spec.Drill), str(spec.Side), spec.Level, str(spec.Aids), num(spec.WindMps),
		num(spec.WindFromDeg), str(spec.Gusts), spec.Seed, str(spec.DrillSHA), str(spec.Course), str(spec.Lost), r.reading,
		zoom, r.Coach, str(out.Hash))
	for i, row := range r.rows {
		if i > 0 {
			b.WriteByte(',')
		}
		b.WriteByte('[')
		for j, v := range row {
			if j > 0 {
				b.WriteByte(',')
			}
			b.WriteString(strconv.Itoa(v))
		}
		b.WriteByte(']')
	}
	b.WriteString(`],"events":[`)
	for i, e := range r.events {
		if i > 0 {
			b.WriteByte(',')
		}
		fmt.Fprintf(&b, `{"reading":%d,"event":%s`, e.Reading, str(e.Event))
		if e.By != "" {
			fmt.Fprintf(&b, `,"by":%s`, str(strings.Map(printable, e.By)))
		}
		b.WriteByte('}')
	}
	b.WriteString("]}")
	return b.String()
}

// printable drops what strconv.Quote would write as no JSON has it.
func printable(r rune) rune {
	if strconv.IsPrint(r) && r != 0xfffd {
		return r
	}
	return -1
}
