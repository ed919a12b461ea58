// Package plan says who flies when on which pack, and what a student flies
// next.
//
// # The field day
//
// Solve plans a Day: flights that break no rule, the last of which lands as
// early as can be found, with a bound before which it cannot land. A plan is
// built forward in time by a run (build.go, choose.go), many times over, each
// pressed by what went wrong before (improve.go). Replan keeps to a plan that
// stands. Check says which rules a plan that was moved by hand breaks, and
// explain why somebody is left out and what would make room.
//
// # The lesson
//
// WhatNext is the one answer to "what next" for a student: the blocks of the
// lesson that PlanLesson plans toward the next gate (lessonaim.go,
// lessonfill.go), with the chance of each.
//
// # Units
//
// Times inside are whole seconds from the start of the day. The package reads
// no clock and draws its chances from fixed seeds: the same day gives the same
// plan.
package plan

import (
	"fmt"
	"io"
	"slices"
	"time"

	"maestrale/core/jsondoc"
)

// Kinds of flights. One that proves a craft comes before every other on it; one
// that shows something to students comes before theirs.
const (
	Lesson        = "lesson"
	Proving       = "proving"
	Demonstration = "demonstration"
)

// Day is what a field day has, and who wants to fly. Ids name things; the zero
// time means that a limit is not set.
type Day struct {
	// Start and End are the hours of the day; no flight begins before the one
	// or lands after the other.
	Start, End time.Time
	// Daylight is when the last flight has to have landed.
	Daylight time.Time
	// Boxes counts the flight boxes, each for one craft at a time.
	Boxes int
	// Turnaround is for how long box and craft stay busy after a flight.
	Turnaround  time.Duration
	Craft       []Craft
	Packs       []Pack
	Chargers    []Charger
	Students    []Student
	Instructors []Person
	Spotters    []Person
	Wind        []Wind
	// Of a day that runs: what has been flown or is in the air now, and the
	// moment from which the rest is planned.
	Now   time.Time
	Flown []Flight
}

// Craft is one craft.
type Craft struct {
	ID, Type string
	WindMps  float64   // its limit; 0 = none
	From     time.Time // zero = from the start
	Until    time.Time // zero = to the end
}

// Pack is one pack; it fits the craft of its type.
type Pack struct {
	ID, Type     string
	Full         bool
	Charge, Cool time.Duration
	// From is when it is full, or has cooled; zero means from the start.
	From time.Time
	// Charger is the id of the one on which it is until From, where it is being
	// charged; empty where it is not.
	Charger string
}

// Charger has slots; each takes any pack.
type Charger struct {
	ID    string
	Slots int
}

// Student is somebody who flies: so many flights of so many minutes.
type Student struct {
	ID   string
	Name string
	// Kind is Lesson where it is empty.
	Kind        string
	Flights     int
	Flight      time.Duration
	Craft       []string // any of these
	Rest        time.Duration
	From, Until time.Time
	Instructor  bool
	Spotter     bool
	// With is the id of the instructor that the student is paired with.
	With string
	// WindMps is the student's own limit of the mean wind; 0 means none.
	WindMps float64
	// Before are the students whose flights come after a demonstration; none
	// means everybody's.
	Before []string
}

// Person is an instructor or a spotter, who is there from one moment to
// another.
type Person struct {
	ID          string
	From, Until time.Time
}

// WindAt is the mean wind in m/s that is expected at a moment: that of the
// newest entry before it. ok is false where nothing is expected.
func WindAt(list []Wind, at time.Time) (mps float64, ok bool) {
	var from time.Time
	for _, w := range list {
		if !w.From.After(at) && (!ok || !w.From.Before(from)) {
			from, mps, ok = w.From, w.Mps, true
		}
	}
	return mps, ok
}

// Wind is the mean wind that is expected from a moment on. Said is whether
// somebody at the field said so: that holds until it is changed.
type Wind struct {
	From time.Time
	Mps  float64
	Said bool `json:",omitempty"`
}

// meterHolds is for how long a stronger wind on the meter is believed over a
// weaker one that is forecast.
const meterHolds = time.Hour

// WithMeter is what is expected once the meter has been read. From now on its
// mean takes the place of what was forecast for now. What is forecast for later
// stays, but within the next hour nothing weaker than the meter is counted on.
// What somebody has said stays where it is the stronger of the two. The list
// itself is not changed.
func WithMeter(list []Wind, now time.Time, mps float64) (out []Wind) {
	at, in := now, Wind{From: now, Mps: mps}
	for _, w := range list {
		if w.Said && !w.From.After(now) {
			in.Mps, in.Said = max(mps, w.Mps), w.Mps >= mps
		}
	}
	out = append(out, in)
	weaker := false // something weaker was to come within the hour
	for _, w := range slices.SortedFunc(slices.Values(list), func(a, b Wind) int { return a.From.Compare(b.From) }) {
		// What is past is told by the meter. A weaker wind that comes soon
		// waits for the hour to end; anything else stays.
		switch soon := w.From.Before(now.Add(meterHolds)); {
		case !w.From.After(now):
		case in.Said && !w.Said: // what was said is not changed by a forecast
		case soon && w.Mps < mps:
			w.From, weaker = now.Add(meterHolds), true
			if last := len(out) - 1; last > 0 && out[last].From.Equal(w.From) {
				out = out[:last]
			}
			out = append(out, w)
		default:
			if weaker && soon { // a stronger one comes before that hour is over
				out, weaker = out[:len(out)-1], false
			}
			if w.From.After(at) {
				out = append(out, w)
			}
		}
	}
	return out
}

// Flight is one flight of a plan.
type Flight struct {
	Student    string    `json:"student"`
	Kind       string    `json:"kind,omitempty"`
	Craft      string    `json:"craft"`
	Pack       string    `json:"pack"`
	Box        int       `json:"box"`
	Start      time.Time `json:"start"`
	End        time.Time `json:"end"`
	Instructor string    `json:"instructor,omitempty"`
	Spotter    string    `json:"spotter,omitempty"`
	Flown      bool      `json:"flown,omitempty"` // it has begun
}

// Charging is one charging of a pack.
type Charging struct {
	Pack    string    `json:"pack"`
	Charger string    `json:"charger"`
	Slot    int       `json:"slot"`
	Start   time.Time `json:"start"`
	End     time.Time `json:"end"`
}

// longest day and most of everything that is planned.
const (
	maxDay    = 24 * time.Hour
	maxPeople = 200
	maxThings = 400
	maxFlown  = 2000
)

// Read reads a maestrale-day/1 document, and notes on what it left out. The
// error says where, what stands there and what was expected.
func Read(r io.Reader) (Day, []string, error) {
	doc, top := jsondoc.Read(r, "maestrale-day/1")
	var d Day
	d.Start, d.End = top.Time("start"), top.Time("end")
	d.Daylight = top.TimeOr("daylight_until", d.End)
	d.Boxes = top.IntOr("boxes", 0, 50, 1)
	d.Turnaround = minutes(top.NumberOr("turnaround_minutes", 0, 240, 0))
	d.Now = top.TimeOr("now", time.Time{})
	for _, o := range top.List("craft", maxThings) {
		d.Craft = append(d.Craft, Craft{ID: o.Text("id"), Type: o.Text("type"), WindMps: o.NumberOr("wind_mps", 0, 50, 0),
			From: o.TimeOr("from", time.Time{}), Until: o.TimeOr("until", time.Time{})})
		o.Done("id", "type", "wind_mps", "from", "until")
	}
	for _, o := range top.List("packs", maxThings) {
		d.Packs = append(d.Packs, Pack{ID: o.Text("id"), Type: o.Text("type"), Full: o.Bool("full"),
			Charge: minutes(o.NumberOr("charge_minutes", 0, 1440, 60)), Cool: minutes(o.NumberOr("cool_minutes", 0, 1440,
				0)), From: o.TimeOr("from", time.Time{}), Charger: o.TextOr("charger", "")})
		o.Done("id", "type", "full", "charge_minutes", "cool_minutes", "from", "charger")
	}
	for _, o := range top.List("chargers", 100) {
		d.Chargers = append(d.Chargers, Charger{ID: o.Text("id"), Slots: o.IntOr("slots", 1, 50, 1)})
		o.Done("id", "slots")
	}
	for _, o := range top.List("students", maxPeople) {
		d.Students = append(d.Students, readStudent(doc, o))
	}
	d.Instructors = people(top, "instructors", "I")
	d.Spotters = people(top, "spotters", "Spotter ")
	for _, o := range top.List("wind", 200) {
		d.Wind = append(d.Wind, Wind{From: o.Time("from"), Mps: o.Number("mps", 0, 80)})
		o.Done("from", "mps")
	}
	for _, o := range top.List("flown", maxFlown) {
		d.Flown = append(d.Flown, readFlight(o))
	}
	top.Done("format", "start", "end", "daylight_until", "boxes", "turnaround_minutes", "now", "craft", "packs",
		"chargers", "students", "instructors", "spotters", "wind", "flown")
	if doc.Err() != nil {
		return d, nil, doc.Err()
	}
	// Only a day whose every field could be read can contradict itself.
	d.check(doc)
	return d, doc.Notes(), doc.Err()
}

// ReadFlights reads the flights of a maestrale-day-plan/1 document.
func ReadFlights(r io.Reader) ([]Flight, error) {
	doc, top := jsondoc.Read(r, "maestrale-day-plan/1")
	var out []Flight
	for _, o := range top.List("flights", maxFlown) {
		out = append(out, readFlight(o))
	}
	return out, doc.Err()
}

// readFlight reads one flight.
func readFlight(o jsondoc.Object) Flight {
	f := Flight{Student: o.Text("student"), Kind: o.TextOr("kind", ""), Craft: o.Text("craft"), Pack: o.Text("pack"),
		Box: o.Int("box", 1, 50), Start: o.Time("start"), End: o.Time("end"),
		Instructor: o.TextOr("instructor", ""), Spotter: o.TextOr("spotter", ""), Flown: o.Bool("flown")}
	o.Done("student", "kind", "craft", "pack", "box", "start", "end", "instructor", "spotter", "flown")
	return f
}

// readStudent reads one student. Who is paired with an instructor needs one.
func readStudent(doc *jsondoc.Doc, o jsondoc.Object) Student {
	s := Student{ID: o.Text("id"), Name: o.TextOr("name", ""), Kind: o.TextOr("kind", Lesson), Flights: o.IntOr("flights",
		0, 50, 1), Flight: minutes(o.Number("minutes", 0.5, 240)), Craft: o.Texts("craft"),
		Rest: minutes(o.NumberOr("rest_minutes", 0, 600, 0)), From: o.TimeOr("from", time.Time{}), Until: o.TimeOr("until",
			time.Time{}), WindMps: o.NumberOr("wind_mps", 0, 50, 0), With: o.TextOr("with", ""), Before: o.Texts("before")}
	for _, n := range o.Texts("needs") {
		switch n {
		case "instructor":
			s.Instructor = true
		case "spotter":
			s.Spotter = true
		default:
			doc.Fail(o.Path+".needs", msgWantNeeds, "has %q", n)
		}
	}
	if !slices.Contains([]string{Lesson, Proving, Demonstration}, s.Kind) {
		doc.Fail(o.Path+".kind", msgWantKind, "is %q", s.Kind)
	}
	s.Instructor = s.Instructor || s.With != ""
	o.Done("id", "name", "kind", "flights", "minutes", "craft", "rest_minutes", "from", "until", "needs", "wind_mps",
		"with", "before")
	return s
}

// people reads a number of people, or a list of them with their hours; called
// is what made-up people are called.
func people(top jsondoc.Object, key, called string) (out []Person) {
	if top.IsNumber(key) || !top.Has(key) {
		for i := range top.IntOr(key, 0, 100, 100) {
			out = append(out, Person{ID: fmt.Sprintf("%s%d", called, i+1)})
		}
		return out
	}
	for _, o := range top.List(key, 100) {
		out = append(out, Person{ID: o.Text("id"), From: o.TimeOr("from", time.Time{}), Until: o.TimeOr("until",
			time.Time{})})
		o.Done("id", "from", "until")
	}
	return out
}

// minutes is so many minutes, to the nearest second.
func minutes(v float64) time.Duration {
	return time.Duration(v*60+0.5) * time.Second
}

// check refuses a day that contradicts itself.
func (d *Day) check(doc *jsondoc.Doc) {
	// First the hours, since everything else lies in them.
	const rfc = time.RFC3339
	switch {
	case !d.End.After(d.Start):
		doc.Fail("", msgWantEndAfterStart, msgEndBeforeStart,
			d.End.Format(rfc), d.Start.Format(rfc))
	case d.End.Sub(d.Start) > maxDay:
		doc.Fail("", msgWantOneDay, msgDayTooLong, d.Start.Format(rfc), d.End.Format(rfc))
	case !d.Daylight.After(d.Start):
		doc.Fail("", msgWantAfterStart, msgDaylightUntil, d.Daylight.Format(rfc))
	case !d.Now.IsZero() && (d.Now.Before(d.Start) || d.Now.After(d.End)):
		doc.Fail("", msgWantWithinDay, "now is %s", d.Now.Format(rfc))
	}
	// Then names: each once, and none that is not there.
	types, craft := map[string]bool{}, map[string]bool{}
	unique(doc, "craft", len(d.Craft), func(i int) string { return d.Craft[i].ID })
	unique(doc, "packs", len(d.Packs), func(i int) string { return d.Packs[i].ID })
	unique(doc, "chargers", len(d.Chargers), func(i int) string { return d.Chargers[i].ID })
	unique(doc, "students", len(d.Students), func(i int) string { return d.Students[i].ID })
	unique(doc, "instructors", len(d.Instructors), func(i int) string { return d.Instructors[i].ID })
	unique(doc, "spotters", len(d.Spotters), func(i int) string { return d.Spotters[i].ID })
	for _, c := range d.Craft {
		types[c.Type], craft[c.ID] = true, true
	}
	for i, p := range d.Packs {
		if !types[p.Type] {
			doc.Fail(fmt.Sprintf("packs[%d].type", i), msgWantCraftType, "is %q", p.Type)
		}
	}
	for i, p := range d.Packs {
		if p.Charger != "" && !slices.ContainsFunc(d.Chargers, func(c Charger) bool { return c.ID == p.Charger }) {
			doc.Fail(fmt.Sprintf("packs[%d].charger", i), msgWantCharger, "is %q", p.Charger)
		}
	}
	instructors := map[string]bool{}
	for _, p := range d.Instructors {
		instructors[p.ID] = true
	}
	for i, s := range d.Students {
		at := fmt.Sprintf("students[%d]", i)
		if len(s.Craft) == 0 && s.Flights > 0 {
			doc.Fail(at+".craft", msgWantSomeCraft, "is empty")
		}
		for _, c := range s.Craft {
			if !craft[c] {
				doc.Fail(at+".craft", msgWantCraft, "has %q", c)
			}
		}
		if !s.From.IsZero() && !s.Until.IsZero() && !s.Until.After(s.From) {
			doc.Fail(at+".until", msgWantAfterFrom, "is %s", s.Until.Format(rfc))
		}
		if s.With != "" && !instructors[s.With] {
			doc.Fail(at+".with", msgWantInstructor, "is %q", s.With)
		}
	}
	d.checkFlown(doc, craft)
}

// checkFlown refuses what cannot have been flown: an end before the start, a
// student on two craft at once, a craft or a pack in two flights at once, and
// what is not there.
func (d *Day) checkFlown(doc *jsondoc.Doc, craft map[string]bool) {
	has := func(n int, id func(int) string, want string) bool {
		for i := range n {
			if id(i) == want {
				return true
			}
		}
		return false
	}
	for i, f := range d.Flown {
		at := fmt.Sprintf("flown[%d]", i)
		switch {
		case !has(len(d.Students), func(i int) string { return d.Students[i].ID }, f.Student):
			doc.Fail(at+".student", msgWantStudent, "is %q", f.Student)
		case !craft[f.Craft]:
			doc.Fail(at+".craft", msgWantOneCraft, "is %q", f.Craft)
		case !has(len(d.Packs), func(i int) string { return d.Packs[i].ID }, f.Pack):
			doc.Fail(at+".pack", msgWantPack, "is %q", f.Pack)
		case !f.End.After(f.Start):
			doc.Fail(at+".end", msgWantAfterItsStart, msgEndsBeforeItsStart, f.End.Format(time.RFC3339),
				f.Start.Format(time.RFC3339))
		case !d.Now.IsZero() && f.Start.After(d.Now):
			doc.Fail(at+".start", msgWantBeforeNow, "is %s", f.Start.Format(time.RFC3339))
		}
		// Touching is no overlap: one flight may end as the next begins.
		for j, g := range d.Flown[:i] {
			if !f.Start.Before(g.End) || !g.Start.Before(f.End) {
				continue
			}
			switch {
			case f.Student == g.Student:
				doc.Fail(at, msgWantStudentOnce, msgStudentTwice, f.Student,
					g.Craft, j)
			case f.Craft == g.Craft:
				doc.Fail(at, msgWantCraftOnce, msgThingTwice, f.Craft, j)
			case f.Pack == g.Pack:
				doc.Fail(at, msgWantPackOnce, msgThingTwice, f.Pack, j)
			}
		}
	}
}

// unique refuses an id that is there twice in a list of n.
func unique(doc *jsondoc.Doc, list string, n int, id func(int) string) {
	seen := map[string]int{}
	for i := range n {
		if j, twice := seen[id(i)]; twice {
			doc.Fail(fmt.Sprintf("%s[%d].id", list, i), msgWantIdOnce, msgSameID, list, j)
		}
		seen[id(i)] = i
	}
}
