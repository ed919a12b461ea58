package flight

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"math"
	"strconv"
	"strings"

	"maestrale/core/flight/fmath"
)

// Row is one row of a stick trace: the sticks from a moment on, and what happens
// at it.
type Row struct {
	T      float64
	Sticks Sticks
	Events []Event
}

const (
	// LongestFlight is the longest flight in s.
	LongestFlight = 3600
	mostRows      = LongestFlight * 100 * 2
	mostColumns   = 64
	mostBytes     = 64 << 20
)

// ReadSticks reads a stick trace as CSV: t_s, throttle, yaw, pitch, roll, and
// gimbal, aids, frame and event where they are there. Aids and frame hold until
// they are named again; aids are the given ones before that. Errors carry the
// line, what is wrong, and what was expected.
func ReadSticks(r io.Reader, name string, aids Aids) ([]Row, error) {
	whole := &io.LimitedReader{R: r, N: mostBytes}
	in := csv.NewReader(whole)
	in.FieldsPerRecord = -1
	in.ReuseRecord = true
	at := func(line int, what, want string, args ...any) error {
		return fmt.Errorf("%s:%d: %s; expected %s", name, line, fmt.Sprintf(what, args...), want)
	}
	head, err := in.Read()
	if err != nil {
		return nil, at(1, msgNoHeaderLine, "t_s,throttle,yaw,pitch,roll")
	}
	column, err := stickColumns(head, at)
	if err != nil {
		return nil, err
	}
	var rows []Row
	frame := Nose
	for {
		rec, err := in.Read()
		if whole.N <= 0 {
			return nil, at(len(rows)+2, msgFileTooLarge, msgWantAnHour, mostBytes>>20)
		}
		if errors.Is(err, io.EOF) {
			break
		}
		var bad *csv.ParseError
		if errors.As(err, &bad) {
			return nil, at(bad.Line, "%v", msgWantCSV, bad.Err)
		}
		if err != nil {
			return nil, fmt.Errorf("read %s: %w", name, err)
		}
		line, _ := in.FieldPos(0)
		if len(rows) >= mostRows {
			return nil, at(line, msgTooManyRows, msgWantAnHour, mostRows)
		}
		cells := stickCells{rec: rec, column: column, wrong: func(what, want string, args ...any) error {
			return at(line, what, want, args...)
		}}
		number := cells.number
		row := Row{T: number("t_s", 0, LongestFlight), Sticks: Sticks{number("throttle", -1, 1), number("yaw", -1, 1),
			number("pitch", -1, 1), number("roll", -1, 1), number("gimbal", -1, 1), aids, frame}}
		if cells.err != nil {
			return nil, cells.err
		}
		if n := len(rows); n > 0 && row.T <= rows[n-1].T {
			return nil, at(line, "t_s is %v after %v", msgWantRisingTimes, row.T, rows[n-1].T)
		}
		if err := row.says(at, name, line, cells.cell); err != nil {
			return nil, err
		}
		aids, frame = row.Sticks.Aids, row.Sticks.Frame
		rows = append(rows, row)
	}
	if len(rows) == 0 {
		return nil, at(2, "no rows", "sticks")
	}
	return rows, nil
}

// stickCells is a line of sticks that is being read; err is the first thing
// that is wrong with it.
type stickCells struct {
	rec    []string
	column map[string]int
	wrong  func(what, want string, args ...any) error
	err    error
}

// cell is the text of a column; empty where the file has none.
func (r *stickCells) cell(name string) string {
	if i, ok := r.column[name]; ok && i < len(r.rec) {
		return strings.TrimSpace(r.rec[i])
	}
	return ""
}

// number is a column's number within its limits; a gimbal that is not given
// looks ahead.
func (r *stickCells) number(name string, low, high float64) float64 {
	text := r.cell(name)
	if text == "" && name == "gimbal" {
		return 0
	}
	v, e := strconv.ParseFloat(text, 64)
	if (e != nil || !(v >= low && v <= high)) && r.err == nil {
		r.err = r.wrong("%s is %.20q", fmt.Sprintf(msgWantNumber, low, high), name, text)
	}
	return v
}

// stickColumns finds which column of the header holds what.
func stickColumns(head []string, at func(int, string, string, ...any) error) (map[string]int, error) {
	if len(head) > mostColumns {
		return nil, at(1, msgColumnCount, fmt.Sprintf("%d at most", mostColumns), len(head))
	}
	column := map[string]int{}
	for i, h := range head {
		h = strings.TrimSpace(strings.TrimPrefix(h, "\ufeff"))
		if _, twice := column[h]; twice {
			return nil, at(1, msgColumnTwice, msgWantColumnsOnce, h)
		}
		column[h] = i
	}
	for _, need := range []string{"t_s", "throttle", "yaw", "pitch", "roll"} {
		if _, ok := column[need]; !ok {
			return nil, at(1, msgColumnMissing, msgWantColumns, need)
		}
	}
	return column, nil
}

// says takes in what a row says besides the sticks: aids and frame, which stay
// until another row says others, and events.
func (r *Row) says(at func(int, string, string, ...any) error, name string, line int, cell func(string) string) error {
	if w := cell("aids"); w != "" {
		a, ok := AidsOf(w)
		if !ok {
			return at(line, "aids are %.40q", strings.Join(AidsNames[:], ", "), w)
		}
		r.Sticks.Aids = a
	}
	if w := cell("frame"); w != "" {
		fr, ok := FrameOf(w)
		if !ok {
			return at(line, msgFrameWrong, strings.Join(FrameNames[:], ", "), w)
		}
		r.Sticks.Frame = fr
	}
	if w := cell("event"); w != "" {
		for _, one := range strings.Split(w, ";") {
			e, err := ParseEvent(strings.TrimSpace(one))
			if err != nil {
				return fmt.Errorf("%s:%d: %w", name, line, err)
			}
			r.Events = append(r.Events, e)
		}
	}
	return nil
}

// Sample is where the craft is at a moment, for a track.
type Sample struct {
	T                    float64
	X, Y, Z              float64 // of the feet
	Heading, Roll, Pitch float64 // rad; + right side down, nose up
	VX, VY, VZ           float64
	Sticks               Sticks
	Aids                 Aids // as they work
	Armed                bool
	PackV, Tilt          float64
	Rps                  [MostRotors]float64 // + clockwise from above
	Calls                int                 // calls heard since the sample before
}

// Sample reads the state for a track.
func (f *Flight) Sample(k Sticks) Sample {
	s := &f.State
	m := s.Att.mat()
	lean := math.Sqrt(max(0, 1-float64(m.y.Z*m.y.Z)))
	out := Sample{T: f.Now(), X: s.Pos.X, Y: s.Pos.Y, Z: f.feetHeight(), Heading: m.heading(), Pitch: fmath.Atan2(m.y.Z,
		lean),
		VX: s.Vel.X, VY: s.Vel.Y, VZ: s.Vel.Z, Sticks: k, Aids: s.Aids, Armed: s.armed, PackV: s.Volts, Tilt: s.Tilt}
	if lean > 1e-9 {
		out.Roll = fmath.Atan2(-m.x.Z, m.z.Z)
	}
	for i, r := range f.craft.Rotors {
		out.Rps[i] = s.Rotor[i] / (2 * math.Pi)
		if !r.Clockwise {
			out.Rps[i] = -out.Rps[i]
		}
	}
	return out
}
