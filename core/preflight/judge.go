package preflight

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/core/misread"
	"maestrale/core/pack"
)

// Situation is what is known when a check is filled in.
type Situation struct {
	// Now is the moment of the check, and Zone the school's, in which dates are
	// told.
	Now  time.Time
	Zone *time.Location
	// Type is the model of the craft, Craft what is noted of this one, and
	// CraftName what people call it.
	Type      craft.Type
	Craft     craft.State
	CraftName string
	Pack      *pack.Record // nil where none is named yet
	PackState pack.State
	// Learner is the name of who flies; empty for staff.
	Learner string
	// First is whether this is among the learner's first flights, for which the
	// limits are tighter.
	First   bool
	Goggles bool
	// Proving is whether an instructor flies it to prove it.
	Proving bool
	// Wind is the wind as it is known; nil where none was read.
	Wind *Wind
	// PilotMps is the wind in m/s that the pilot may fly in (PilotWind); 0
	// where it is not known.
	PilotMps float64
	// Site is the name of the field, and Where its place on the earth; nil
	// where that is not known.
	Site  string
	Where *field.Geo
	// Policy says when the school calibrates a compass.
	Policy Policy
	// ReturnM is the return height in metres that the course asks for, 0
	// without a course, and Tallest what stands highest on the way, in words.
	ReturnM float64
	Tallest string
	// DrillM is how many metres the farthest place of the drills is from the
	// pad; 0 without a course.
	DrillM float64
	// PeopleM is how many metres the nearest people or crowd line are from the
	// pad; 0 for none.
	PeopleM float64
	// What the last check of the craft noted, in m; 0 = nothing.
	LastReturnM, LastFenceM float64

	// Density is that of the air in kg/m³; 0 where it is not known, and then no
	// minutes are told.
	Density float64
	// Minutes are to be flown; 0 where nobody said.
	Minutes float64
	Aids    craft.Aids
	Indoors bool
	// SunDeg is the elevation of the sun in degrees; nil where it is not known.
	SunDeg *float64
}

// Wind is the wind as it is known.
type Wind struct {
	// Mean and Gust are in m/s; a Gust of 0 is not known.
	Mean, Gust float64
	// Age is how old the reading is, and Fresh whether that is young enough to
	// be believed.
	Age   time.Duration
	Fresh bool
}

// Answer is what was answered to an item; the newest counts.
type Answer struct {
	Item  string
	Value string
	At    time.Time
	By    string
}

// Override lets a failed item pass, with a reason.
type Override struct {
	Item   string
	Reason string
	By     string
	At     time.Time
}

// State is how an item stands.
type State string

// The states.
const (
	Open       State = "open"
	OK         State = "ok"
	Failed     State = "failed"
	Overridden State = "overridden"
	Waiting    State = "waiting" // for the one before it
)

// Line is an item with its answer.
type Line struct {
	Item
	State State
	Value string
	// Says are the figures, and why the item stands as it does.
	Says string
	// Next is what to do where it failed.
	Next     string
	By       string
	At       time.Time
	Override *Override
	// Offer is the answer of the last check, for an item that remembers it; it
	// is offered and never taken by itself.
	Offer string
}

// Noted sets what the last check noted into a situation.
func (s *Situation) Noted(last Last) {
	// Only the newest answer to each counts, as in the check itself.
	was := Check{Answers: last.Answers}.newest()
	for item, to := range map[string]*float64{"return-height": &s.LastReturnM, "fence": &s.LastFenceM} {
		// An answer that is no number leaves what is set as it was.
		if v, err := strconv.ParseFloat(strings.Replace(was[item].Value, ",", ".", 1), 64); err == nil && v > 0 {
			*to = v
		}
	}
}

// Result is a check judged.
type Result struct {
	// Lines are all items that apply, in the order of the check.
	Lines []Line
	// Clear is whether the craft may take off: nothing is open on the ground,
	// and nothing blocks.
	Clear bool
	// Complete is whether the checks in the air are done as well.
	Complete bool
	Open     int // still to answer before take-off
	// Blocking are the lines that failed and were not overridden.
	Blocking []Line
	// Changed is what differs from the last check of the craft; nil where there
	// was none.
	Changed []Change
}

// Change is something that differs from the last check of the craft.
type Change struct{ What, Was, Is string }

// openFor is how long a check that was begun may be gone on with: a morning's wind
// and packs say nothing of the afternoon.
const openFor = 3 * time.Hour

// GoesOn tells whether a check that was begun so long ago may still be gone on with.
func GoesOn(age time.Duration) bool { return age < openFor }

// Check is a check as it is kept.
type Check struct {
	Answers   []Answer
	Overrides []Override
}

// Last is the check before, for what is remembered and what changed.
type Last struct {
	Answers []Answer
	Facts   map[string]string
}

// ReasonLetters is the least length of an override's reason.
const ReasonLetters = 8

// CheckAnswer refuses an answer that cannot be: to an item that does not apply,
// of another kind, or before its turn in the order of switching on.
func (t Template) CheckAnswer(s Situation, c Check, a Answer) error {
	items := t.For(s.Type, s.First, s.Goggles)
	it, ok := items.Item(a.Item)
	if !ok {
		return misread.At(0, "an item that applies to this craft", "the item %q", a.Item)
	}
	if _, err := read(it, s, a.Value); err != nil {
		return err
	}
	newest := c.newest()
	for _, before := range items {
		// Only what comes before the item has to be there.
		if before.Key == it.Key {
			break
		}
		if before.Stage == PowerStage && it.Stage == PowerStage && a.Value == "yes" && newest[before.Key].Value != "yes" {
			return misread.At(0, "the order of switching on", "%q comes before %q", before.Title, it.Title)
		}
	}
	// Nothing is answered in the air for a craft that should not be there.
	if it.Stage == AirStage {
		if r := t.Judge(s, c, Last{}); !r.Clear {
			return misread.At(0, "the checks on the ground first", "%q is asked in the air, and the craft is not clear to fly",
				it.Title)
		}
	}
	return nil
}

// CheckOverride refuses an override of what has not failed, of what is never
// overridden, and one without a reason.
func (t Template) CheckOverride(s Situation, c Check, o Override) error {
	for _, l := range t.Judge(s, c, Last{}).Lines {
		if l.Key != o.Item {
			continue
		}
		switch {
		// Some things cannot be talked away: the cause is put right.
		case l.Never:
			return misread.At(0, "the cause put right", "%q is never overridden", l.Title)
		case l.State != Failed:
			return misread.At(0, "an item that failed", "%q has not failed", l.Title)
		// A reason is read later by others, so a single letter is none.
		case len([]rune(strings.TrimSpace(o.Reason))) < ReasonLetters:
			return misread.At(0, fmt.Sprintf("a reason of %d letters at least", ReasonLetters), "the override says %q", o.Reason)
		}
		return nil
	}
	return misread.At(0, "an item that applies to this craft", "the item %q", o.Item)
}

// newest are the answers of a check by their item, the newest of each.
func (c Check) newest() map[string]Answer {
	out := map[string]Answer{}
	for _, a := range c.Answers {
		// Answers may arrive out of order; of two at one time the later in the
		// list counts.
		if old, ok := out[a.Item]; !ok || !a.At.Before(old.At) {
			out[a.Item] = a
		}
	}
	return out
}

// Judge judges a check as it stands.
func (t Template) Judge(s Situation, c Check, last Last) Result {
	var r Result
	newest, offered := c.newest(), Check{Answers: last.Answers}.newest()
	// before is the key of the item that is switched on before the one that is
	// looked at.
	before := ""
	for _, it := range t.For(s.Type, s.First, s.Goggles) {
		a, answered := newest[it.Key]
		l := Line{Item: it, State: Open, Value: a.Value, By: a.By, At: a.At}
		if it.Remembered {
			l.Offer = offered[it.Key].Value
		}
		v, err := read(it, s, a.Value)
		switch {
		// It stays open.
		case it.Ask != AskComputed && !answered:
		// An answer that cannot be read leaves it open, and says why.
		case it.Ask != AskComputed && err != nil:
			l.Says = err.Error()
		default:
			l.judge(s, v)
		}
		if it.Stage == PowerStage {
			if before != "" {
				l.inOrder(newest[before], answered)
			}
			before = it.Key
		}
		// An override is looked for only where something failed.
		if l.State == Failed {
			if o := c.override(it.Key, a.At); o != nil {
				l.State, l.Override = Overridden, o
			}
		}
		r.add(l)
	}
	r.Clear = r.Open == 0 && len(r.Blocking) == 0
	// Complete asks for the ground as well as for the air.
	r.Complete = r.Clear
	for i, l := range r.Lines {
		if l.Stage != AirStage {
			continue
		}
		// What is asked in the air waits until the craft may take off.
		if !r.Clear && l.State == Open {
			r.Lines[i].State = Waiting
		}
		if l.State != OK && l.State != Overridden {
			r.Complete = false
		}
	}
	if last.Facts != nil {
		r.Changed = changed(last.Facts, s.Facts(c))
	}
	return r
}

// inOrder holds what is switched on to what comes before it, and to when that
// was. One that came on sooner was switched on in the wrong order; one whose
// forerunner is not on yet waits.
func (l *Line) inOrder(before Answer, answered bool) {
	if answered && l.State == OK && before.At.After(l.At) {
		l.State, l.Says, l.Next = Failed, msgSwitchedOnTooSoon, msgSwitchEverythingOff
	}
	if l.State == Open && before.Value != "yes" {
		l.State = Waiting
	}
}

// add adds a line, and counts it among what blocks or was overridden.
func (r *Result) add(l Line) {
	r.Lines = append(r.Lines, l)
	switch {
	case l.State == Failed:
		r.Blocking = append(r.Blocking, l)
	// What is asked in the air does not keep the craft on the ground.
	case l.Stage != AirStage && (l.State == Open || l.State == Waiting):
		r.Open++
	}
}

// override finds the newest override of an item that is no older than its
// answer: another answer asks anew.
func (c Check) override(item string, answered time.Time) *Override {
	// The newest are at the end of the list.
	for _, o := range slices.Backward(c.Overrides) {
		if o.Item == item && !o.At.Before(answered) {
			return &o
		}
	}
	return nil
}

// Facts are what a check rests on, in words, to be held against the next.
func (s Situation) Facts(c Check) map[string]string {
	// These are known before anything is answered.
	f := map[string]string{"site": s.Site, "pilot": s.Learner, "firmware": s.Craft.Firmware}
	if s.Pack != nil {
		f["pack"] = s.Pack.Name
	}
	if len(s.Craft.Mounts) > 0 {
		f["propellers"] = msgPropellersRight
		if faults := s.Type.MountFaults(s.Craft.Mounts); len(faults) > 0 {
			f["propellers"] = strings.Join(faults, "; ")
		}
	}
	if s.Craft.Clean != nil {
		f["compass calibrated"] = s.Craft.Clean.At.In(s.Zone).Format("2 Jan 2006 15:04")
	}
	if s.ReturnM > 0 {
		f[msgReturnHeightWanted] = fmt.Sprintf("%.0f m", s.ReturnM)
	}
	f["aids"] = s.Aids.Words()
	newest := c.newest()
	for item, what := range map[string]string{"return-height": msgReturnHeightSet, "fence": "fence set",
		"firmware": "firmware read", "satellites": ""} {
		if a, ok := newest[item]; ok && what != "" {
			f[what] = a.Value
		}
	}
	return f
}

// changed lists, in the order of their names, the facts that are known now and
// were others at the check before.
func changed(was, is map[string]string) []Change {
	var out []Change
	for _, k := range slices.Sorted(maps.Keys(is)) {
		// A fact that was not noted before has not changed.
		if old, known := was[k]; known && old != is[k] {
			out = append(out, Change{k, orNothing(old), orNothing(is[k])})
		}
	}
	return out
}

// orNothing is a fact, or the words for none.
func orNothing(s string) string {
	if s == "" {
		return "nothing noted"
	}
	return s
}
