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
			{"name", "name", msgStudentWholeName, true, []string{"student", "full name", "pilot", "nome", "nombre"}},
			{"programme", "programme", msgProgrammeTitleOr, false,
				[]string{"program", "ladder", "course"}},
			{"craft", "craft type", msgCraftTypeTitle, false, []string{"craft", "type", "aircraft", "model"}},
			{"trains_for", "trains for", msgWorkStudentTrains, false, []string{"aim", "purpose", "job"}},
			{"goal", "goal", msgWhatStudentWants, false, []string{"wish", "target"}},
			{"started", "started on", msgDaySuch, false,
				[]string{"start", "started", "since", "begin", "date", "joined"}},
		}
	case Craft:
		return []Column{
			{"name", "name", msgNameArm, true, []string{"craft", "label", "id", "callsign"}},
			{"type", "type", msgCraftTypeTitle, true, []string{"craft type", "model", "kind"}},
		}
	case Packs:
		return []Column{
			{"name", "name", msgNameLabel, true, []string{"pack", "label", "battery", "id"}},
			{"type", "for type", msgCraftTypeFits, true,
				[]string{"type", "craft", "craft type", "model", "for"}},
			{"cells", "cells", msgCellsSeriesEmpty, false, []string{"s", "cell count", "series"}},
			{"capacity", "capacity mAh", msgNumberEmptyType, false, []string{"capacity", "mah", "size"}},
			{"chemistry", "chemistry", msgLipoLihvOr, false, []string{"chem"}},
			{"bought", "bought on", msgDaySuch, false, []string{"bought", "purchased", "date", "since"}},
		}
	case Passes:
		return []Column{
			{"student", "student", msgNameStandsList, true, []string{"name", "pilot"}},
			{"date", "date", msgDayPassSuch, true, []string{"day", "on", "when", "passed on"}},
			{"drill", "drill", msgDrillTitleOr, true, []string{"exercise", "task", "manoeuvre", "maneuver"}},
			{"side", "side", msgLeftOrRight, false, []string{"direction"}},
			{"aids", "aids", msgSuchPositionHold, false, []string{"mode", "aid"}},
			{"level", "level", msgOrMoreEmpty, false, []string{"grade", "stage"}},
			{"craft", "craft type", msgTitleOrKey, false, []string{"craft", "type", "model"}},
			{"by", msgVouchedForBy, msgNamePersonWho, true,
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
