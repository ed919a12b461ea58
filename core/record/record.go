// Package record holds what is known of a student as a maestrale-record/1
// document, and chains its entries so that a change shows.
package record

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"
	"time"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/misread"
	"maestrale/core/score"
)

// Attempt is one try at a drill, with how it was flown and what came of it.
type Attempt struct {
	ID          string        `json:"id"`
	At          time.Time     `json:"at"`
	Drill       string        `json:"drill"`
	Side        field.Side    `json:"side"`
	Aids        craft.Aids    `json:"aids"`
	Frame       string        `json:"frame"`
	CraftClass  craft.Class   `json:"craft_class"`
	CraftType   string        `json:"craft_type,omitempty"` // key of the type; empty = not said
	Source      score.Source  `json:"source"`
	Level       int           `json:"level"`
	Verdict     score.Verdict `json:"verdict"`
	Margin      *float64      `json:"margin"`
	WindMps     *float64      `json:"wind_mps"`
	GustMps     *float64      `json:"gust_mps"`
	WindFromDeg *float64      `json:"wind_from_deg"`
	Eyes        string        `json:"eyes"`
	Automatic   []string      `json:"automatic"`
	Zoom        bool          `json:"zoom"`
	Site        string        `json:"site"`
	Light       string        `json:"light"`
	Answering   bool          `json:"answering,omitempty"` // flown while answering questions
	Watched     bool          `json:"watched,omitempty"`   // people looked on
	Counts      bool          `json:"counts"`
	WhyNot      string        `json:"why_not"`
	Corrects    string        `json:"corrects,omitempty"` // the attempt that this one replaces
	Origin      string        `json:"origin,omitempty"`   // the school that it was recorded at, where it came from another
}

// Flown returns what decides whether the attempt counts.
func (a *Attempt) Flown() drill.Flown {
	return drill.Flown{Frame: a.Frame, Zoom: a.Zoom, Eyes: a.Eyes, Automatic: a.Automatic, WindMps: a.WindMps,
		WindFromDeg: a.WindFromDeg, Side: a.Side}
}

// Record is a maestrale-record/1 document, as far as standing needs it.
type Record struct {
	Format   string    `json:"format"`
	School   string    `json:"school"`
	TimeZone string    `json:"time_zone"`
	Student  Student   `json:"student"`
	Ladder   string    `json:"programme"`
	Attempts []Attempt `json:"attempts"`

	Practice  []Practice  `json:"practice,omitempty"`
	Witnessed []Witnessed `json:"witnessed"`
	SignOffs  []SignOff   `json:"signoffs"`
}

// Witnessed is an act that somebody saw the student do.
type Witnessed struct {
	Act string    `json:"act"`
	At  time.Time `json:"at"`
	By  string    `json:"by"`
}

// Practice is time flown besides attempts.
type Practice struct {
	At      time.Time  `json:"at"`
	Drill   string     `json:"drill"`
	Side    field.Side `json:"side"`
	Aids    craft.Aids `json:"aids"`
	Minutes float64    `json:"minutes"`
	Packs   float64    `json:"packs"`
}

// SignOff is a signed decision that a gate is passed, and what became of it.
type SignOff struct {
	ID         string      `json:"id,omitempty"`
	Gate       string      `json:"gate"`
	CraftClass craft.Class `json:"craft_class"`
	At         time.Time   `json:"at"`
	By         string      `json:"by"`
	Until      time.Time   `json:"until"`
	Conditions Conditions  `json:"conditions,omitzero"`
	// the class whose sign-off was carried over: only the transition was asked
	From   craft.Class `json:"from,omitempty"`
	Reason string      `json:"reason,omitempty"` // why it was signed against the rule; empty = the rule was met
	Waived []string    `json:"waived,omitempty"` // what was not met then, and is not asked for it

	Read *time.Time `json:"read,omitempty"` // when the student confirmed having read the cautions
	// "device" where it was on the instructor's; empty = the own account
	ReadOn       string     `json:"read_on,omitempty"`
	Witness      string     `json:"read_witness,omitempty"` // whose device it was
	Withdrawn    *time.Time `json:"withdrawn,omitempty"`
	WithdrawnBy  string     `json:"withdrawn_by,omitempty"`
	WithdrawnWhy string     `json:"withdrawn_why,omitempty"`
}

// Conditions are what a sign-off is bound to; the zero value is bound to nothing.
type Conditions struct {
	Sites   []string `json:"sites,omitempty"`
	WindMps float64  `json:"wind_mps,omitempty"` // in no more mean wind
	Craft   []string `json:"craft,omitempty"`    // types, by key
}

// WithdrawnAt tells whether the sign-off was withdrawn by a moment.
func (s *SignOff) WithdrawnAt(at time.Time) bool {
	return s.Withdrawn != nil && !s.Withdrawn.After(at)
}

// Student names whose record it is.
type Student struct {
	ID   string `json:"id"`
	Name string `json:"name"`
}

// MaxBytes is the largest record that is read.
const MaxBytes = 256 << 20

// Read reads a record and notes on what it left out. A field that is missing
// or wrong is an error that names its path.
func Read(r io.Reader) (*Record, []string, error) {
	x, err := read(r)
	if err != nil {
		return nil, nil, err
	}
	return x.rec, x.notes, nil
}

// reading is a record with what it was read from.
type reading struct {
	rec   *Record
	notes []string
	data  []byte
	top   map[string]json.RawMessage // the members of the document
	raws  map[string]json.RawMessage // the attempts by their ids, as they stand in it
}

// read reads a document and takes its members apart, without looking into them.
func read(r io.Reader) (*reading, error) {
	data, err := io.ReadAll(io.LimitReader(r, MaxBytes+1))
	if err != nil {
		return nil, fmt.Errorf("read record: %w", err)
	}
	if len(data) > MaxBytes {
		return nil, misread.At(0, "one student's record", "the file is larger than 256 MB")
	}
	top, err := membersOf(data)
	if err != nil {
		return nil, syntax(data, err)
	}
	if got := string(top["format"]); got != `"maestrale-record/1"` {
		return nil, misread.At(1, `"maestrale-record/1"`, "format is %s", orNothing(got))
	}
	rec := &Record{Format: "maestrale-record/1"}
	notes := unread("", slices.Collect(maps.Keys(top)), "format", "school", "time_zone", "student", "programme",
		"attempts", "practice", "witnessed",
		"signoffs", "chain", "signature", "marks")
	for key, into := range map[string]any{"school": &rec.School, "time_zone": &rec.TimeZone, "student": &rec.Student,
		"programme": &rec.Ladder,
		"practice":  &rec.Practice, "witnessed": &rec.Witnessed, "signoffs": &rec.SignOffs} {
		if raw, ok := top[key]; ok {
			if err := json.Unmarshal(raw, into); err != nil {
				return nil, misread.At(0, "", "%s: %v", key, err)
			}
		}
	}
	raw, ok := top["attempts"]
	if !ok {
		return nil, misread.At(1, "a list of attempts", `there is no "attempts"`)
	}
	list, err := elementsOf(raw)
	if err != nil {
		return nil, misread.At(0, "a list", "attempts: %v", err)
	}
	raws, more, err := rec.readAttempts(list)
	if err != nil {
		return nil, err
	}
	notes = append(notes, more...)
	if _, err := rec.Location(); err != nil {
		return nil, misread.At(0, "a name as Europe/Rome", "time_zone is %q", rec.TimeZone)
	}
	return &reading{rec, notes, data, top, raws}, nil
}

// readAttempts reads the attempts of a list. It returns them as they stand
// there, by their ids, and notes on what was left out.
func (rec *Record) readAttempts(list []json.RawMessage) (raws map[string]json.RawMessage, notes []string, err error) {
	type one struct {
		path  string
		a     Attempt
		notes []string
		err   error
	}
	each := make([]one, len(list))
	shared(len(list), func(i int) {
		x := &each[i]
		x.path = fmt.Sprintf("attempts[%d]", i)
		x.notes, x.err = readAttempt(list[i], x.path, &x.a)
	})
	ids := map[string]int{}
	raws, rec.Attempts = make(map[string]json.RawMessage, len(list)), make([]Attempt, 0, len(list))
	for i := range each {
		x := &each[i]
		if x.err != nil {
			return nil, nil, x.err
		}
		notes = append(notes, x.notes...)
		if j, twice := ids[x.a.ID]; twice {
			if !sameJSON(list[i], list[j]) {
				return nil, nil, misread.At(0, "each id once", "%s.id is that of attempts[%d], which says something else", x.path,
					j)
			}
			notes = append(notes, fmt.Sprintf(msgAttemptTwice, x.path, j))
			continue
		}
		ids[x.a.ID], raws[x.a.ID] = i, list[i]
		rec.Attempts = append(rec.Attempts, x.a)
	}
	return raws, notes, nil
}

// sameJSON tells whether two texts say the same, but for the space between their words.
func sameJSON(a, b json.RawMessage) bool {
	var one, other bytes.Buffer
	return json.Compact(&one, a) == nil && json.Compact(&other, b) == nil && bytes.Equal(one.Bytes(), other.Bytes())
}

// Location returns the school's time zone; UTC where the record names none.
func (r *Record) Location() (*time.Location, error) { return time.LoadLocation(r.TimeZone) }

// orNothing is a text, or the word for one that is missing.
func orNothing(s string) string {
	if s == "" {
		return "missing"
	}
	return s
}

var attemptKeys = []string{"id", "at", "drill", "side", "aids", "frame", "craft_class", "source", "level", "verdict",
	"margin",
	"wind_mps", "gust_mps", "wind_from_deg", "eyes", "automatic", "zoom", "site", "light", "counts", "why_not", "corrects",
	"craft_type", "answering", "watched", "origin"}

// readAttempt reads one attempt and notes on keys that are not read; path names
// it in an error.
func readAttempt(raw json.RawMessage, path string, a *Attempt) ([]string, error) {
	keys, plain := keysOf(raw)
	if !plain {
		var all map[string]json.RawMessage
		if err := json.Unmarshal(raw, &all); err != nil {
			return nil, misread.At(0, "an attempt", "%s: %v", path, err)
		}
		keys = slices.Collect(maps.Keys(all))
	}
	for _, need := range []string{"id", "at", "drill", "side", "aids", "craft_class", "source", "verdict"} {
		if !slices.Contains(keys, need) {
			return nil, misread.At(0, "that field", "%s has no %q", path, need)
		}
	}
	*a = Attempt{Counts: true, Level: 1, Frame: "nose", Eyes: "craft"}
	if err := json.Unmarshal(raw, a); err != nil {
		var kind *json.UnmarshalTypeError
		if errors.As(err, &kind) {
			return nil, misread.At(0, kind.Type.String(), "%s.%s is a %s", path, kind.Field, kind.Value)
		}
		return nil, misread.At(0, "a time as 2026-03-02T09:14:00Z", "%s.at: %v", path, err)
	}
	if err := a.valid(path); err != nil {
		return nil, err
	}
	return unread(path+".", keys, attemptKeys...), nil
}

// valid refuses an attempt that contradicts itself; the error says what was
// expected.
func (a *Attempt) valid(path string) error {
	word := func(name, got string, words ...string) error {
		if slices.Contains(words, got) {
			return nil
		}
		return misread.At(0, strings.Join(words, ", "), "%s.%s is %q", path, name, got)
	}
	classes, aids := []string{}, []string{}
	for _, c := range craft.Classes {
		classes = append(classes, string(c))
	}
	for _, x := range craft.AidsOrder {
		aids = append(aids, string(x))
	}
	return firstOf(
		word("side", string(a.Side), "none", "left", "right"),
		word("aids", string(a.Aids), aids...),
		word("craft_class", string(a.CraftClass), classes...),
		word("source", string(a.Source), "observed", "track", "sim", "claimed"),
		word("verdict", string(a.Verdict), "pass", "fail", "incomplete", "void"),
		word("frame", a.Frame, "nose", "frozen", "pilot"),
		word("eyes", a.Eyes, "craft", "screen", "goggles"),
		levelError(path, a.Level),
	)
}

// levelError refuses a level that is none.
func levelError(path string, level int) error {
	if level >= 1 && level <= 1000 {
		return nil
	}
	return misread.At(0, "a whole number from 1", "%s.level is %d", path, level)
}

// firstOf is the first error that is one.
func firstOf(errs ...error) error {
	for _, e := range errs {
		if e != nil {
			return e
		}
	}
	return nil
}

// unread notes the keys that are not among those that are read.
func unread(path string, keys []string, known ...string) []string {
	var notes []string
	for _, k := range keys {
		if !slices.Contains(known, k) {
			notes = append(notes, fmt.Sprintf(msgNotRead, path, k))
		}
	}
	slices.Sort(notes)
	return notes
}

// keysOf lists the names of an object's members in one pass over a text that is
// known to be JSON; it is not plain where a name is written with escapes,
// stands twice, or the text is no object.
func keysOf(raw []byte) (keys []string, plain bool) {
	const ( // what comes next within the object itself
		name = iota
		colon
		value
	)
	depth, want := 0, name
	for i := 0; i < len(raw); i++ {
		switch c := raw[i]; c {
		case '{', '[':
			if depth++; depth == 1 && c != '{' {
				return nil, false
			}
		case '}', ']':
			depth--
		case ',':
			if depth == 1 {
				want = name
			}
		case ':':
			if depth == 1 {
				want = value
			}
		case '"':
			from := i + 1
			for i++; i < len(raw) && raw[i] != '"'; i++ {
				if raw[i] == '\\' {
					if depth == 1 && want == name {
						return nil, false
					}
					i++
				}
			}
			if depth == 1 && want == name && i < len(raw) {
				k := string(raw[from:i])
				if slices.Contains(keys, k) {
					return nil, false
				}
				keys, want = append(keys, k), colon
			}
		}
	}
	return keys, depth == 0 && len(raw) > 0
}

// syntax is an error of the JSON decoder with its line.
func syntax(data []byte, err error) error {
	var s *json.SyntaxError
	if errors.As(err, &s) {
		return misread.At(1+bytes.Count(data[:min(int(s.Offset), len(data))], []byte("\n")), "a JSON document", "%v", err)
	}
	return misread.At(1, "a JSON document", "%v", err)
}
