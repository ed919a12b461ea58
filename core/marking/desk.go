package marking

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/plan"
	"maestrale/core/readiness"
	"maestrale/core/record"
	"maestrale/core/score"
	"maestrale/core/units"
	"maestrale/core/yamldoc"
)

// A desk is the server's rules on a device. Everything that it says is worked
// out from the bundle and from what was marked here, by the same functions of
// core.

// Desk is a bundle at work: the day's students, with what was marked on this
// device added to them. It decides by the rules of the server and over the same
// evidence, so that the two say the same; what was marked elsewhere since the
// bundle was made it does not know. It is not safe for use by several
// goroutines at once.
type Desk struct {
	Bundle
	cat  *drill.Catalogue // what ships, with the school's own
	zone *time.Location
	laid *course.Course        // nil without a course
	own  map[string][]Evidence // of each student: what was marked on this device

	tells map[told]float64  // how far each tells the nose, once it was asked
	heard map[string]*heard // of each attempt that goes on: what was said of it
	over  map[string]bool   // attempts whose end was said
}

// Says says the measures of a text in the reader's units. Numbers by themselves
// stay as they are, and so does everything where the bundle has no units.
func (d *Desk) Says(text string) string {
	in := units.System{Length: d.Units.Length, Speed: d.Units.Speed}
	if in.Check() != nil {
		return text
	}
	return in.Say(text)
}

// Format of a bundle, as its format line says it.
const Format = "maestrale-pad/1"

// Open sets a desk up from a bundle. It refuses one of another format, and one
// whose own drills, course or time zone cannot be read: half a day would mark
// students against the wrong rules.
func Open(data []byte) (*Desk, error) {
	d := &Desk{own: map[string][]Evidence{}, tells: map[told]float64{},
		heard: map[string]*heard{}, over: map[string]bool{}}
	if err := json.Unmarshal(data, &d.Bundle); err != nil {
		return nil, fmt.Errorf("the day on this device: %w", err)
	}
	if d.Format != Format {
		return nil, fmt.Errorf("the day on this device is %.40q; expected %q", d.Format, Format)
	}
	if err := yamldoc.Remember(d.Trees); err != nil {
		return nil, fmt.Errorf("the day on this device: %w", err)
	}
	files := map[string][]byte{}
	for name, text := range d.Files {
		files[name] = []byte(text)
	}
	var err error
	// What ships is the same on device and server, since both are one build;
	// only the school's own files travel.
	if d.cat = drill.Shipped(); len(files) > 0 {
		if d.cat, err = d.cat.With(files); err != nil {
			return nil, fmt.Errorf("the day on this device: %w", err)
		}
	}
	if d.zone, err = zoneOf(d.TimeZone, d.ZoneRules); err != nil {
		return nil, fmt.Errorf("the day on this device: time zone: %w", err)
	}
	if d.Bundle.Course.Source != "" {
		if d.laid, err = course.Parse([]byte(d.Bundle.Course.Source)); err != nil {
			return nil, fmt.Errorf("the course on this device: %w", err)
		}
	}
	return d, nil
}

// errNoStudent is a student who is not in the bundle. Who joined the school
// since it was made is in the next one, which a device fetches when it has a
// network.
var errNoStudent = errors.New("that student is not on this device")

// student finds a student of the day; errNoStudent for another, and an error
// for one whose record is not here.
func (d *Desk) student(id string) (*StudentOf, error) {
	for i := range d.Students {
		switch st := &d.Students[i]; {
		case st.ID != id:
		case st.Away:
			return nil, fmt.Errorf(msgRecordNotHere, st.Name)
		default:
			return st, nil
		}
	}
	return nil, errNoStudent
}

// evidence is what the record and this device have of a student up to now. The
// attempt whose id is but is left out, which gives the standing as it was
// before that one; an empty but leaves none out.
func (d *Desk) evidence(st *StudentOf, now time.Time, but string) *readiness.Evidence {
	e := readiness.NewEvidence(nil, now, d.zone)
	if prior := (readiness.Prior{Weights: d.Prior}); prior.Sound() {
		e.Expect(prior)
	}
	for _, list := range [][]Evidence{st.Evidence, d.own[st.ID]} {
		for i := range list {
			if list[i].ID != but {
				e.Add(list[i].attempt())
			}
		}
	}
	return e
}

// Row is a student as the pad's list shows them.
type Row struct {
	ID       string     `json:"id"`
	Name     string     `json:"name"`
	Craft    string     `json:"craft"`
	Next     drill.Cell `json:"next"`
	Title    string     `json:"title"`    // of the drill that is next, with its side
	Standing string     `json:"standing"` // of that item, in words
	Marked   int        `json:"marked"`   // attempts on this device that the record does not have yet
	Away     bool       `json:"away"`     // the record is not on this device, so what comes next is not known here
}

// Rows are the students of the day in the order of the bundle, each with what
// comes next. The list is empty, and not null, for a day without students.
func (d *Desk) Rows(now time.Time) []Row {
	out := []Row{}
	for i := range d.Students {
		st := &d.Students[i]
		if st.Away {
			out = append(out, Row{ID: st.ID, Name: st.Name, Craft: d.cat.Craft[st.Craft].Title, Away: true,
				Marked: len(d.own[st.ID])})
			continue
		}
		k := d.known(st, now)
		cell := d.whatNext(st, k, now).First()
		row := Row{ID: st.ID, Name: st.Name, Craft: d.cat.Craft[st.Craft].Title, Next: cell,
			Standing: k.Cell(cell).Standing.String(), Marked: len(d.own[st.ID])}
		row.Title = d.cat.TitleOf(cell.Drill, cell.Side)
		out = append(out, row)
	}
	return out
}

// known is all that the device knows of a student: the same rules as on the
// server, over what it has.
func (d *Desk) known(st *StudentOf, now time.Time) *readiness.Known {
	return readiness.Know(d.cat, st.Programme, st.Craft, d.evidence(st, now, ""), st.Seen, st.Signs)
}

// whatNext is today's list for a student, by the same function as on the server.
func (d *Desk) whatNext(st *StudentOf, k *readiness.Known, now time.Time) plan.LessonPlan {
	a := plan.LessonAsk{WindMps: -1, TellM: d.tellM(st, now), Tense: st.Tense, HandCatch: d.HandOn}
	if d.WindMps != nil {
		a.WindMps, a.WindFrom = *d.WindMps, d.WindFrom
	}
	var practice []record.Practice
	for _, key := range st.Practised {
		practice = append(practice, record.Practice{Drill: key, Minutes: 1})
	}
	return plan.WhatNext(a, k, practice)
}

// Choice is a line of a list to choose from: what is sent, and what is read.
type Choice struct {
	Key   string `json:"key"`
	Words string `json:"words"`
}

// Page is what the pad shows of an item before it is marked: the sheet of its
// task, on whose craft and course, the caution that stands beside the first
// mark, and what else could be chosen.
type Page struct {
	Sheet
	Student string       `json:"student"`
	Name    string       `json:"name"`
	Title   string       `json:"title"`
	Aids    craft.Aids   `json:"aids"`
	Craft   string       `json:"craft"`
	Course  string       `json:"course"` // key of the course that it is laid on; empty for the drill's own places
	On      string       `json:"on"`     // which course, or why not on the day's, in words
	Caution string       `json:"caution"`
	TooFar  string       `json:"too_far"` // it goes farther than the student tells the nose
	Wind    string       `json:"wind"`    // why an attempt in the wind that is known would not count; empty where it would
	Voids   []Choice     `json:"voids"`
	Before  string       `json:"before"` // the standing, and what is still to go
	Drills  []Choice     `json:"drills"`
	AidsOf  []Choice     `json:"aids_of"`
	Sides   []field.Side `json:"sides"`
	Levels  int          `json:"levels"` // how many the drill has, from 1
	Other   field.Side   `json:"other"`  // the mirrored side; none for a drill without sides
}

// Wanted says which item of which student is to be marked. The student must be
// of the day; what else is empty, or is nothing that the drill or the craft
// has, is filled in as readiness.Known.Choose does.
type Wanted struct {
	Student string     `json:"student"`
	Drill   string     `json:"drill"`
	Side    field.Side `json:"side"`
	Aids    craft.Aids `json:"aids"`
	Level   int        `json:"level"`
}

// Page makes the page of an item. It refuses a student who is not of the day,
// what the catalogue does not have, and a drill that is shut to the student,
// with the reason.
func (d *Desk) Page(w Wanted, now time.Time) (Page, error) {
	st, err := d.student(w.Student)
	if err != nil {
		return Page{}, err
	}
	known := d.known(st, now)
	// What was not chosen is filled in by the rules: the next item, or the
	// weaker side and the first of the craft's aids.
	asked := drill.Cell{Drill: w.Drill, Side: w.Side, Aids: w.Aids, Level: w.Level}
	if asked.Drill == "" {
		asked = d.whatNext(st, known, now).First()
	}
	if asked.Drill == "" { // nothing is open in this wind: what would be without it, which the page then calls practice
		calm := *d
		calm.WindMps = nil
		asked = calm.whatNext(st, known, now).First()
	}
	cell, err := known.Choose(asked)
	if err != nil {
		return Page{}, err
	}
	k, t := d.cat.Drills[cell.Drill], known.Craft
	if why := known.Shut(k, d.HandOn); why != "" {
		return Page{}, errors.New(why)
	}
	laid, key, on := d.on(k, t.Class())
	task, err := k.Lay(cell.Side, cell.Level, t.Class(), laid)
	if err != nil {
		return Page{}, err
	}
	before := known.Cell(cell)
	p := Page{Sheet: SheetOf(task), Student: st.ID, Name: st.Name, Title: d.cat.TitleOf(cell.Drill, cell.Side),
		Aids: cell.Aids, Craft: st.Craft, Course: key, On: on, Caution: k.Caution, Before: before.Standing.String(),
		Sides: k.Sides(), Levels: len(k.Levels), Other: cell.Side.Other()}
	if n := before.NeedsWords(); n != "" {
		p.Before += ", " + n + " to go"
	}
	if laid != nil && p.Scale > 0 && p.Scale < 1 {
		p.On += fmt.Sprintf(msgAtSize, 100*p.Scale)
	}
	p.TooFar, p.Voids = TooFar(task, st.Name, d.tellM(st, now)), Voids
	if ok, why := k.Counts(drill.Flown{WindMps: d.WindMps}); !ok && d.WindMps != nil {
		p.Wind = why
	}
	for _, x := range known.Drills(d.HandOn) {
		p.Drills = append(p.Drills, Choice{x.Key, x.Title})
	}
	// Aids that the craft can be fitted with are offered too: what is fitted is
	// the fleet's to know, not the device's.
	for _, a := range append(append([]craft.Aids{}, t.Aids...), t.OptionalAids...) {
		p.AidsOf = append(p.AidsOf, Choice{string(a), a.Words()})
	}
	return p, nil
}

// on is the course that a drill is marked on, its key, and the words that say
// so. It is nil where the drill keeps its own places: without a course of the
// day (no words), and where the drill does not fit on it (the words say why).
func (d *Desk) on(k drill.Drill, class craft.Class) (laid *course.Course, key, words string) {
	if d.laid == nil {
		return nil, "", ""
	}
	// A course that is too small for a drill is not stretched: the drill is
	// flown beside it, on places of its own.
	if err := k.Fits(class, d.laid); err != nil {
		return nil, "", fmt.Sprintf(msgNotOnCourse, d.Bundle.Course.Name, err.Error())
	}
	return d.laid, d.Bundle.Course.Key, "on " + d.Bundle.Course.Name
}

// Opening is an attempt as a pad opened it: everything but its marks.
type Opening struct {
	ID       string     `json:"id"` // made on the device, once for each attempt
	Student  string     `json:"student"`
	Drill    string     `json:"drill"`
	Side     field.Side `json:"side"`
	Level    int        `json:"level"`
	Aids     craft.Aids `json:"aids"`
	Craft    string     `json:"craft"`
	Course   string     `json:"course"`    // key of the course that the page said; empty for none
	DeviceAt time.Time  `json:"device_at"` // by the clock of the device
}

// Judge judges the marks of an attempt as of nowS seconds after its first one.
// It returns the state, with what is asked next, and once the attempt has ended
// its verdict and its evidence, which is nil before. One that has ended is kept
// at the desk, so that what is marked after it knows of it; judged again with
// the same marks it says the same. It refuses a mark that is none, and an
// attempt of a student or a drill that the desk does not have.
func (d *Desk) Judge(o Opening, marks []score.Mark, nowS float64, now time.Time) (State, *Evidence, error) {
	st, err := d.student(o.Student)
	if err != nil {
		return State{}, nil, err
	}
	k, err := d.cat.Drill(o.Drill)
	if err != nil {
		return State{}, nil, err
	}
	class := d.cat.Craft[o.Craft].Class()
	// A page may have been opened before the day's course was changed: then it
	// was flown on the drill's own places, or on a course that the desk does
	// not have any more, and its own places are nearest to what the pad said.
	laid, key, _ := d.on(k, class)
	if key != o.Course {
		laid = nil
	}
	task, err := k.Lay(o.Side, o.Level, class, laid)
	if err != nil {
		return State{}, nil, err
	}
	for i, m := range marks {
		if err := m.Valid(); err != nil {
			return State{}, nil, fmt.Errorf("mark %d: %w", i+1, err)
		}
	}
	state, res := StateOf(task, marks, nowS)
	if !state.Ended {
		d.drop(st.ID, o.ID) // its end was taken back
		state.Cues = d.cues(o, k, task, state, nowS)
		return state, nil, nil
	}
	// Marks are made in sight of the craft and by its nose: a pad knows no
	// other frame and no other eyes.
	a := record.Attempt{ID: o.ID, At: o.DeviceAt, Drill: k.Key, Side: o.Side, Level: o.Level, Aids: o.Aids,
		CraftClass: class, Source: score.Observed, Verdict: res.Verdict, Margin: res.Margin, Frame: "nose", Eyes: "craft",
		WindMps: d.WindMps, WindFromDeg: d.WindFrom}
	a.Answering, a.Watched = score.Answering(marks), score.Onlookers(marks)
	a.Counts, a.WhyNot = k.Counts(a.Flown())
	ev := EvidenceOf(&a)
	d.Add(st.ID, ev)
	// A clock that was set back while the attempt was flown must not leave the
	// attempt out of what is known after it.
	if a.At.After(now) {
		now = a.At
	}
	cell := readiness.Key{Cell: drill.Cell{Drill: k.Key, Side: o.Side, Aids: o.Aids, Level: o.Level}, Class: class}
	v := VerdictOf(a, res, k, d.evidence(st, now, a.ID).Cell(cell), d.evidence(st, now, "").Cell(cell))
	v.Advice = d.advice(st, now)
	state.Verdict = &v
	if !d.over[o.ID] {
		state.Cues = d.cues(o, k, task, state, nowS)
	}
	return state, &ev, nil
}

// drop takes back that an attempt of this device has ended: its last mark was
// undone.
func (d *Desk) drop(student, attempt string) {
	delete(d.over, attempt)
	d.own[student] = slices.DeleteFunc(d.own[student], func(e Evidence) bool { return e.ID == attempt })
}

// advice is what the rules for a session say of a student now, a line for each;
// nil where all is well. It goes as far as the device knows: it has no margins
// of what was marked elsewhere.
func (d *Desk) advice(st *StudentOf, now time.Time) (out []string) {
	var list []record.Attempt
	for _, evidence := range [][]Evidence{st.Evidence, d.own[st.ID]} {
		for i := range evidence {
			list = append(list, *evidence[i].attempt())
		}
	}
	for _, a := range readiness.Advise(readiness.Session(list, now, d.zone), readiness.Calm, d.cat.Drills) {
		out = append(out, a.Words)
	}
	return out
}

// Add keeps an attempt that was marked on this device, once: the same id again
// takes its place, and one that the record has by now adds nothing.
func (d *Desk) Add(student string, e Evidence) {
	for i := range d.own[student] {
		if d.own[student][i].ID == e.ID {
			d.own[student][i] = e
			return
		}
	}
	// The bundle may have been made anew after the attempt was sent: counted
	// twice, it would hold an item too soon.
	if st, err := d.student(student); err == nil {
		for i := range st.Evidence {
			if st.Evidence[i].ID == e.ID {
				return // the record has it by now
			}
		}
	}
	d.own[student] = append(d.own[student], e)
}
