// Package daylogs tells what a folder of logs of one field day holds: whose
// flight each log is, how far the clock of its recorder was off, which drills
// were flown in it, and how each compares with what was marked by eye.
//
// Nothing is guessed in silence. What follows from the time, the craft and the
// drill is certain; everything else asks one question, with the answers that
// are possible.
package daylogs

import (
	"cmp"
	"context"
	"crypto/sha256"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"maestrale/core/drill"
	"maestrale/core/score"
	"maestrale/core/track"
)

// Flight is a flight of the day as it was noted at the field.
type Flight struct {
	ID      string       `json:"id"`
	Student string       `json:"student"`
	Name    string       `json:"name"`  // of the student
	Craft   string       `json:"craft"` // key of its type
	Tail    string       `json:"tail"`  // name of the craft itself
	From    time.Time    `json:"from"`
	To      time.Time    `json:"to"`
	Drills  []drill.Cell `json:"drills"` // what was planned, then what else is likely
}

// Mark is an attempt that somebody marked by eye.
type Mark struct {
	ID      string        `json:"id"`
	Student string        `json:"student"`
	Craft   string        `json:"craft"`
	Cell    drill.Cell    `json:"cell"`
	From    time.Time     `json:"from"`
	To      time.Time     `json:"to"`
	Verdict score.Verdict `json:"verdict"`
	By      string        `json:"by"`
}

// Day is what the field knows of its flights.
type Day struct {
	Starts  time.Time `json:"starts"`
	Ends    time.Time `json:"ends"`
	Flights []Flight  `json:"flights"`
	Marks   []Mark    `json:"marks"`
}

// Log is a file of the folder.
type Log struct {
	Name  string // with its folders, separated by /
	Sum   [sha256.Size]byte
	Track *track.Track
	Notes []string
	Wrong string // why it could not be read
	Known bool   // an attempt was made of it before
}

// Read reads a file in any format that is known. A file that cannot be read says why.
func Read(name string, data []byte, o track.Options) Log {
	l := Log{Name: name, Sum: sha256.Sum256(data)}
	t, notes, err := track.Read(strings.NewReader(string(data)), o)
	if err != nil {
		l.Wrong = err.Error()
		return l
	}
	if l.Notes = notes; t.Len() == 0 {
		l.Wrong = msgNoPosition
		return l
	}
	l.Track = t
	return l
}

// Question is what an uncertain case asks.
type Question string

// The questions.
const (
	Certain     Question = ""
	Whose       Question = "whose"        // which flight of the day it is
	WhichDrill  Question = "which-drill"  // which drill was flown
	WhichStands Question = "which-stands" // the mark or the log
	IsClose     Question = "close"        // the log is not fine enough to be sure: keep its verdict?
)

// Choice is a possible answer.
type Choice struct {
	Key   string `json:"key"`
	Words string `json:"words"`
	// Cell is the drill that is meant, and Words then what the log says of it.
	Cell *drill.Cell `json:"cell,omitempty"`
}

// The answers to which of two stands, and whether a close verdict is kept.
const (
	TheMark = "mark"
	TheLog  = "log"
	Neither = "neither"
)

// Item is one flight from the ground to the ground in a log, and what it is.
type Item struct {
	ID      string        `json:"id"`
	Log     int           `json:"log"` // of the list that was given
	FromS   float64       `json:"from_s"`
	ToS     float64       `json:"to_s"`
	At      time.Time     `json:"at"` // of FromS, by the field's clock
	Flight  string        `json:"flight,omitempty"`
	Student string        `json:"student,omitempty"`
	Craft   string        `json:"craft,omitempty"`
	Cell    drill.Cell    `json:"cell"`
	Result  *score.Result `json:"result,omitempty"`
	Mark    *Mark         `json:"mark,omitempty"`
	Asks    Question      `json:"asks,omitempty"`
	Choices []Choice      `json:"choices,omitempty"`
	Answer  string        `json:"answer,omitempty"`
	Why     string        `json:"why"` // how it is known, or why it is not
}

// Said is what became of one file.
type Said struct {
	Name     string    `json:"name"`
	Recorder string    `json:"recorder"` // whose clock it was written by
	ClockS   float64   `json:"clock_s"`  // what is added to its times
	Starts   time.Time `json:"starts"`   // by its own clock
	Seconds  float64   `json:"seconds"`
	LeftOut  string    `json:"left_out,omitempty"` // why nothing is made of it
}

// Clock is what the whole set says of one recorder's clock.
type Clock struct {
	Recorder string  `json:"recorder"`
	ClockS   float64 `json:"clock_s"` // what is added to its times
	SpreadS  float64 `json:"spread_s"`
	Logs     int     `json:"logs"`
	Doubt    bool    `json:"doubt"` // another shift fits nearly as well
}

// Found is what a folder holds.
type Found struct {
	Clocks []Clock `json:"clocks"`
	Logs   []Said  `json:"logs"`
	Items  []Item  `json:"items"`
}

// Lay lays a drill out as it was asked for of a craft.
type Lay func(c drill.Cell, craft string) (drill.Task, error)

// Sort tells what every log is. Progress, where it is given, hears of each log
// that is done; a context that ends ends the work with its error.
func Sort(ctx context.Context, day Day, logs []Log, lay Lay, progress func(done, of int)) (*Found, error) {
	s := sorter{day: day, logs: logs, lay: lay, out: &Found{Logs: make([]Said, len(logs))},
		taken: map[int][]span{}, at: make([]place, len(logs))}
	s.leaveOut()
	s.setClocks()
	s.setCraft()
	s.assign()
	for i := range logs {
		if err := ctx.Err(); err != nil {
			return nil, fmt.Errorf("sort the logs: %w", err)
		}
		s.itemsOf(i)
		if progress != nil {
			progress(i+1, len(logs))
		}
	}
	slices.SortStableFunc(s.out.Items, func(a, b Item) int { return a.At.Compare(b.At) })
	return s.out, nil
}

// Left is how many items ask something that was not answered.
func (f *Found) Left() (n int) {
	for _, it := range f.Items {
		if it.Asks != Certain && it.Answer == "" {
			n++
		}
	}
	return n
}

// span is a time, in seconds since the day began.
type span struct{ from, to float64 }

// length is in seconds.
func (a span) length() float64 { return a.to - a.from }

// with is for how many seconds two times overlap.
func (a span) with(b span) float64 { return math.Max(0, math.Min(a.to, b.to)-math.Max(a.from, b.from)) }

// alike is how much two times are one: what they share of what either takes.
func (a span) alike(b span) float64 {
	both := a.with(b)
	if all := a.length() + b.length() - both; all > 0 {
		return both / all
	}
	return 0
}

// moved is the time so many seconds later.
func (a span) moved(s float64) span { return span{a.from + s, a.to + s} }

// place is where a log lies in time, and which flight of the day it is.
type place struct {
	aloft    []span // its flights from the ground to the ground, by its own clock
	whole    span
	recorder string
	clock    float64
	flight   int // of the day; −1 for none
	sure     bool
	group    int // its clock in the list; −1 for none
}

// sorter sorts the logs of one day.
type sorter struct {
	day   Day
	logs  []Log
	lay   Lay
	out   *Found
	at    []place
	taken map[int][]span // when a flight of the day is taken by a log
}

// seconds is a moment in seconds from the start of the day.
func (s *sorter) seconds(t time.Time) float64 { return t.Sub(s.day.Starts).Seconds() }

// flightSpan is when flight i was flown.
func (s *sorter) flightSpan(i int) span {
	return span{s.seconds(s.day.Flights[i].From), s.seconds(s.day.Flights[i].To)}
}

// markSpan is when mark i was made.
func (s *sorter) markSpan(i int) span {
	return span{s.seconds(s.day.Marks[i].From), s.seconds(s.day.Marks[i].To)}
}

// leaveOut says of each log whether it can be used: it was read, is no copy of
// another, has a clock and flies.
func (s *sorter) leaveOut() {
	for i, l := range s.logs {
		said, p := &s.out.Logs[i], &s.at[i]
		said.Name, p.flight, p.group = l.Name, -1, -1
		if l.Wrong != "" {
			said.LeftOut = fmt.Sprintf(msgCannotRead, l.Wrong)
			continue
		}
		if l.Known {
			said.LeftOut = msgMadeBefore
			continue
		}
		if l.Track == nil {
			said.LeftOut = msgNotRead
			continue
		}
		said.Seconds = l.Track.Duration()
		if j := slices.IndexFunc(s.logs[:i], func(o Log) bool { return o.Sum == l.Sum }); j >= 0 {
			said.LeftOut = fmt.Sprintf(msgSameFile, s.logs[j].Name)
			continue
		}
		for _, f := range score.Flights(l.Track) {
			p.aloft = append(p.aloft, span{l.Track.T[f[0]], l.Track.T[f[1]-1]})
		}
		switch {
		case len(p.aloft) == 0:
			said.LeftOut = msgNothingFlies
			continue
		case l.Track.Start.IsZero():
			said.LeftOut = msgNoTimeTold
			continue
		}
		said.Starts = l.Track.Start
		begin := s.seconds(l.Track.Start)
		for k := range p.aloft {
			p.aloft[k] = p.aloft[k].moved(begin)
		}
		p.whole = span{p.aloft[0].from, p.aloft[len(p.aloft)-1].to}
		p.recorder = s.recorder(l.Name)
		said.Recorder = p.recorder
	}
	s.sameFlights()
}

// sameFlights leaves out what is the same flight in another format: of two, the
// one with fewer samples.
func (s *sorter) sameFlights() {
	for i := range s.logs {
		for j := range i {
			a, b := &s.at[i], &s.at[j]
			if s.out.Logs[i].LeftOut != "" || s.out.Logs[j].LeftOut != "" || !s.copies(a, b) {
				continue
			}
			less, more := i, j
			if s.logs[i].Track.Len() > s.logs[j].Track.Len() {
				less, more = j, i
			}
			s.out.Logs[less].LeftOut = fmt.Sprintf(msgSameFlight, s.logs[more].Name)
		}
	}
}

// copies tells whether two logs are of the same flights: as many, at the same
// times of the same clock.
func (s *sorter) copies(a, b *place) bool {
	if len(a.aloft) != len(b.aloft) || a.recorder != b.recorder {
		return false
	}
	for k := range a.aloft {
		if math.Abs(a.aloft[k].from-b.aloft[k].from) > 1.5 || math.Abs(a.aloft[k].to-b.aloft[k].to) > 1.5 {
			return false
		}
	}
	return true
}

// recorder is whose clock a log was written by: the craft that its name names,
// else the folder that it lies in.
func (s *sorter) recorder(name string) string {
	best := ""
	low := strings.ToLower(name)
	for _, f := range s.day.Flights {
		if len(f.Tail) > len(best) && strings.Contains(low, strings.ToLower(f.Tail)) {
			best = f.Tail
		}
	}
	if i := strings.LastIndexByte(name, '/'); best == "" && i > 0 {
		return name[:i]
	}
	return best
}

// flownBy tells whether a recorder can have been on a flight of the day.
func (s *sorter) flownBy(recorder string, flight int) bool {
	return s.day.Flights[flight].Tail == recorder || !s.isTail(recorder)
}

// isTail tells whether a recorder's name is that of a craft of the day.
func (s *sorter) isTail(recorder string) bool {
	return slices.ContainsFunc(s.day.Flights, func(f Flight) bool { return f.Tail == recorder })
}

// byScore puts the likelier candidate first.
func byScore(a, b candidate) int { return cmp.Compare(b.score, a.score) }
