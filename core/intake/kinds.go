package intake

import (
	"bytes"
	"encoding/csv"
)

// Kind is what the rows of a table are.
type Kind string

// The kinds of tables.
const (
	Students Kind = "students"
	Craft    Kind = "craft"
	Packs    Kind = "packs"
	Passes   Kind = "passes"
)

// Kinds are all kinds, in the order in which they build on one another.
var Kinds = []Kind{Students, Craft, Packs, Passes}

// Words says what a table of the kind holds.
func (k Kind) Words() string {
	switch k {
	case Students:
		return "students"
	case Craft:
		return "craft"
	case Packs:
		return "packs"
	case Passes:
		return "past passes"
	}
	return ""
}

// Column is something that a row can say.
type Column struct {
	Key    string
	Title  string // as the empty file of the kind names it
	Says   string // what is expected in it
	Needed bool
	names  []string // other headings that people give it
}

// Columns are what a row of the kind can say.
func (k Kind) Columns() []Column {
	switch k {
	case Students:
		return []Column{
			{"name", "name", msgWantStudentName, true, []string{"student", "full name", "pilot", "nome", "nombre"}},
			{"programme", "programme", msgWantProgrammeOrNone, false,
				[]string{"program", "ladder", "course"}},
			{"craft", "craft type", msgWantCraftType, false, []string{"craft", "type", "aircraft", "model"}},
			{"trains_for", "trains for", msgWantWork, false, []string{"aim", "purpose", "job"}},
			{"goal", "goal", msgWantGoal, false, []string{"wish", "target"}},
			{"started", "started on", msgWantDay, false,
				[]string{"start", "started", "since", "begin", "date", "joined"}},
		}
	case Craft:
		return []Column{
			{"name", "name", msgWantCraftName, true, []string{"craft", "label", "id", "callsign"}},
			{"type", "type", msgWantCraftType, true, []string{"craft type", "model", "kind"}},
		}
	case Packs:
		return []Column{
			{"name", "name", msgWantPackName, true, []string{"pack", "label", "battery", "id"}},
			{"type", "for type", msgWantPacksType, true,
				[]string{"type", "craft", "craft type", "model", "for"}},
			{"cells", "cells", msgWantCellsOrNone, false, []string{"s", "cell count", "series"}},
			{"capacity", "capacity mAh", msgWantNumberOrNone, false, []string{"capacity", "mah", "size"}},
			{"chemistry", "chemistry", msgWantChemistryOrNone, false, []string{"chem"}},
			{"bought", "bought on", msgWantDay, false, []string{"bought", "purchased", "date", "since"}},
		}
	case Passes:
		return []Column{
			{"student", "student", msgWantListedStudent, true, []string{"name", "pilot"}},
			{"date", "date", msgWantDayOfPass, true, []string{"day", "on", "when", "passed on"}},
			{"drill", "drill", msgWantDrill, true, []string{"exercise", "task", "manoeuvre", "maneuver"}},
			{"side", "side", msgWantSideOrNone, false, []string{"direction"}},
			{"aids", "aids", msgWantAidsOrNone, false, []string{"mode", "aid"}},
			{"level", "level", msgWantLevelOrNone, false, []string{"grade", "stage"}},
			{"craft", "craft type", msgWantCraftOrNone, false, []string{"craft", "type", "model"}},
			{"by", msgVouchedForBy, msgWantWhoSawIt, true,
				[]string{"instructor", "by", "examiner", "signed by", "witness", "seen by"}},
		}
	}
	return nil
}

// Template is an empty file of the kind: its headings alone.
func (k Kind) Template() []byte {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	var head []string
	for _, c := range k.Columns() {
		head = append(head, c.Title)
	}
	_ = w.Write(head) // a buffer takes everything
	w.Flush()
	return b.Bytes()
}

// Mapping is which column of the file holds what: its index by the key of our column.
type Mapping map[string]int

// Match finds the columns of a kind among the headings of a file: our own
// titles first, then the names that people give them. A heading serves one
// column.
func Match(k Kind, headings []string) Mapping {
	m, used := Mapping{}, map[int]bool{}
	take := func(key, name string) {
		if _, has := m[key]; has {
			return
		}
		for i, h := range headings {
			if !used[i] && plain(h) == plain(name) {
				m[key], used[i] = i, true
				return
			}
		}
	}
	for _, c := range k.Columns() {
		take(c.Key, c.Title)
		take(c.Key, c.Key)
	}
	for _, c := range k.Columns() {
		for _, n := range c.names {
			take(c.Key, n)
		}
	}
	return m
}

// Missing lists the columns that are needed and that the mapping does not name.
func (m Mapping) Missing(k Kind) (out []Column) {
	for _, c := range k.Columns() {
		if _, has := m[c.Key]; c.Needed && !has {
			out = append(out, c)
		}
	}
	return out
}

// Guess is the kind whose columns the headings fit best, of those of which
// every needed column is there: our own titles weigh twice as much as the names
// that people give them. It is empty where none has all that it needs.
func Guess(headings []string) Kind {
	best, most := Kind(""), 0
	for _, k := range Kinds {
		m := Match(k, headings)
		fits := len(m)
		for _, c := range k.Columns() {
			if i, has := m[c.Key]; has && plain(headings[i]) == plain(c.Title) {
				fits++
			}
		}
		if len(m.Missing(k)) == 0 && fits > most {
			best, most = k, fits
		}
	}
	return best
}
