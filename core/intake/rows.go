package intake

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/pack"
	"maestrale/core/school"
)

// Known is what the school has, against which rows are read.
type Known struct {
	Catalogue *drill.Catalogue
	Students  []Person // those who have left among them
	Craft     []string // names
	Packs     []string
	Passes    map[string]bool // past passes that were brought in before, by their key
	Zone      *time.Location
	Today     time.Time
}

// Person is a student of the school.
type Person struct{ ID, Name, CraftType string }

// Student is a row of students.
type Student struct {
	Name, Programme, CraftType, TrainsFor, Goal string
	StartedOn                                   time.Time // zero where it is not said
}

// Pass is a row of past passes.
type Pass struct {
	StudentID string
	At        time.Time // noon of the day in the school's zone
	Drill     string
	Side      field.Side
	Aids      craft.Aids
	Level     int
	CraftType string
	By        string // who vouches for it
}

// Batch is what a table brings, all of it right.
type Batch struct {
	Kind     Kind
	Students []Student
	Craft    []pack.Named
	Packs    []pack.Record
	Passes   []Pass
}

// Count is how many rows there are.
func (b Batch) Count() int { return len(b.Students) + len(b.Craft) + len(b.Packs) + len(b.Passes) }

// Mistake is what is wrong with a row.
type Mistake struct {
	Line           int
	Column         string // our title of it; empty for the row as a whole
	What, Expected string
}

// String says it in a sentence.
func (m Mistake) String() string {
	out := fmt.Sprintf("line %d: %s", m.Line, m.What)
	if m.Expected != "" {
		out += "; expected " + m.Expected
	}
	return out
}

// Key tells a past pass from every other: the same item, passed by the same
// student on the same day.
func (p Pass) Key() string {
	return strings.Join([]string{p.StudentID, p.At.UTC().Format(time.DateOnly), p.Drill, string(p.Side), string(p.Aids),
		strconv.Itoa(p.Level)}, "|")
}

// reader reads the rows of one table.
type reader struct {
	kind     Kind
	table    *Table
	mapping  Mapping
	known    Known
	row      []string
	line     int
	mistakes []Mistake
	seen     map[string]int // names of the file, with their lines
	students map[string][]Person
	drills   map[string]string
}

// Read reads every row of a table. Where mistakes are returned, the batch holds
// the rows that are right, for a preview; it is taken only whole.
func Read(k Kind, t *Table, m Mapping, known Known) (Batch, []Mistake) {
	b := Batch{Kind: k}
	r := &reader{kind: k, table: t, mapping: m, known: known, seen: map[string]int{}, students: map[string][]Person{},
		drills: map[string]string{}}
	for _, c := range m.Missing(k) {
		r.mistakes = append(r.mistakes, Mistake{1, c.Title, fmt.Sprintf(msgNoColumnOf, c.Title), "a heading " + c.Title})
	}
	if len(r.mistakes) > 0 {
		return b, r.mistakes
	}
	for _, s := range known.Students {
		r.students[plain(s.Name)] = append(r.students[plain(s.Name)], s)
	}
	for _, d := range known.Catalogue.InOrder() {
		r.drills[plain(d.Title)], r.drills[plain(d.Key)] = d.Key, d.Key
	}
	for i, row := range t.Rows {
		r.row, r.line = row, t.Lines[i]
		before := len(r.mistakes)
		if len(row) > len(t.Headings) {
			r.wrong("", fmt.Sprintf(msgFieldCount, len(row), len(t.Headings)),
				msgWantFieldPerHeading)
			continue
		}
		add := r.one(&b)
		if len(r.mistakes) == before {
			add()
		}
	}
	return b, r.mistakes
}

// one reads the row, and returns what adds it to the batch.
func (r *reader) one(b *Batch) func() {
	switch r.kind {
	case Students:
		s := r.student()
		return func() { b.Students = append(b.Students, s) }
	case Craft:
		c := pack.Named{Name: r.fresh("name", r.known.Craft), Type: r.craftType("type", "")}
		return func() { b.Craft = append(b.Craft, c) }
	case Packs:
		p := r.pack()
		return func() { b.Packs = append(b.Packs, p) }
	}
	p := r.pass()
	return func() { b.Passes = append(b.Passes, p) }
}

// wrong notes a mistake in a column of the row.
func (r *reader) wrong(key, what, expected string) {
	title := ""
	for _, c := range r.kind.Columns() {
		if c.Key == key {
			title = c.Title
		}
	}
	r.mistakes = append(r.mistakes, Mistake{r.line, title, what, expected})
}

// text is what the row says in a column; empty where the file has no such column.
func (r *reader) text(key string) string {
	i, has := r.mapping[key]
	if !has || i < 0 || i >= len(r.row) {
		return ""
	}
	return r.row[i]
}

// name is a text that has to be there and can be shown.
func (r *reader) name(key, what string) string {
	t := r.text(key)
	if err := school.CheckName(what, t); err != nil {
		r.wrong(key, strings.TrimSuffix(err.Error(), "."), msgWantShortName)
	}
	return t
}

// fresh is a name that neither the school nor the file has yet.
func (r *reader) fresh(key string, known []string) string {
	t := r.name(key, "the row")
	if t == "" {
		return t
	}
	if slices.Contains(known, t) {
		r.wrong(key, fmt.Sprintf(msgInSchoolAlready, t), msgWantNewName)
	} else if line, twice := r.seen[plain(t)]; twice {
		r.wrong(key, fmt.Sprintf(msgNameTwice, t, line), msgWantNameOnce)
	}
	r.seen[plain(t)] = r.line
	return t
}

// craftType is a type by its title or key; other where nothing is said, and an
// error where that is empty too.
func (r *reader) craftType(key, other string) string {
	t := r.text(key)
	if t == "" && other != "" {
		return other
	}
	for _, k := range r.known.Catalogue.Craft.Keys() {
		if plain(k) == plain(t) || plain(r.known.Catalogue.Craft[k].Title) == plain(t) {
			return k
		}
	}
	r.wrong(key, fmt.Sprintf(msgNoSuchCraftType, t), msgWantFleetType)
	return ""
}

// student reads a row of students.
func (r *reader) student() Student {
	var names []string
	for _, s := range r.known.Students {
		names = append(names, s.Name)
	}
	s := Student{Name: r.fresh("name", names), TrainsFor: r.text("trains_for"), Goal: r.text("goal")}
	keys := r.known.Catalogue.ProgrammeKeys()
	first := r.known.Catalogue.Craft.Keys()[0]
	s.CraftType = r.craftType("craft", first)
	s.Programme = keys[0]
	if t := r.text("programme"); t != "" {
		i := slices.IndexFunc(keys, func(k string) bool {
			return plain(k) == plain(t) || plain(r.known.Catalogue.Programmes[k].Title) == plain(t)
		})
		if i < 0 {
			r.wrong("programme", fmt.Sprintf(msgNoSuchProgramme, t), msgWantProgramme)
		} else {
			s.Programme = keys[i]
		}
	}
	if t := r.text("started"); t != "" {
		s.StartedOn = r.day("started", t)
	}
	return s
}

// pack reads a row of packs.
func (r *reader) pack() pack.Record {
	p := pack.Record{Name: r.fresh("name", r.known.Packs), Type: r.craftType("type", "")}
	t, known := r.known.Catalogue.Craft[p.Type]
	if !known {
		return p
	}
	p.Chemistry, p.Cells, p.CapacityMah, p.MassKg = t.Battery.Chemistry, t.Battery.Cells, t.Battery.CapacityMah,
		t.Battery.MassKg
	if x := strings.TrimSuffix(strings.ToLower(r.text("cells")), "s"); x != "" {
		n, err := strconv.Atoi(strings.TrimSpace(x))
		if err != nil {
			r.wrong("cells", fmt.Sprintf("%.20q cells", x), msgWantCells)
			return p
		}
		p.Cells = n
	}
	if x := strings.TrimSpace(strings.TrimSuffix(strings.ToLower(r.text("capacity")), "mah")); x != "" {
		v, err := r.number(x)
		if err != nil {
			r.wrong("capacity", fmt.Sprintf("the capacity %.20q", x), msgWantMah)
			return p
		}
		p.CapacityMah = v
	}
	if x := r.text("chemistry"); x != "" {
		i := slices.IndexFunc(craft.Chemistries, func(c craft.Chemistry) bool {
			return plain(string(c)) == plain(x) || plain(c.Words()) == plain(x)
		})
		if i < 0 {
			r.wrong("chemistry", fmt.Sprintf("the chemistry %.20q", x), msgWantChemistry)
			return p
		}
		p.Chemistry = craft.Chemistries[i]
	}
	if x := r.text("bought"); x != "" {
		p.BoughtOn = r.day("bought", x)
	}
	if p.Name != "" {
		if err := p.Check(t); err != nil {
			r.wrong("", err.Error(), "")
		}
	}
	return p
}

// number reads a number with the decimal sign of the file.
func (r *reader) number(t string) (float64, error) {
	if r.table.Decimal == ',' {
		t = strings.Replace(strings.ReplaceAll(t, ".", ""), ",", ".", 1)
	}
	return strconv.ParseFloat(strings.ReplaceAll(t, " ", ""), 64)
}

// day reads a day: 2026-03-02, 2.3.2026, or with strokes where only one reading
// is a date that has been.
func (r *reader) day(key, t string) time.Time {
	if d, _, timed := strings.Cut(t, " "); timed && strings.Contains(t, ":") {
		t = d // a day with a time behind it
	}
	for _, form := range []string{"2006-01-02", "2006-1-2", "2.1.2006", "02.01.2006", "2006/01/02"} {
		if d, err := time.ParseInLocation(form, t, r.known.Zone); err == nil {
			return r.past(key, t, d)
		}
	}
	dayFirst, err1 := time.ParseInLocation("2/1/2006", t, r.known.Zone)
	monthFirst, err2 := time.ParseInLocation("1/2/2006", t, r.known.Zone)
	switch {
	case err1 == nil && err2 == nil && !dayFirst.Equal(monthFirst):
		r.wrong(key, fmt.Sprintf(msgTwoDays, t, dayFirst.Format("2 January 2006"),
			monthFirst.Format("2 January 2006")), msgWantDay)
	case err1 == nil:
		return r.past(key, t, dayFirst)
	case err2 == nil:
		return r.past(key, t, monthFirst)
	default:
		r.wrong(key, fmt.Sprintf(msgNoDay, t), msgWantDay)
	}
	return time.Time{}
}

// past refuses a day in the future, or before anybody flew so.
func (r *reader) past(key, t string, d time.Time) time.Time {
	if d.After(r.known.Today) || d.Year() < 1980 {
		r.wrong(key, fmt.Sprintf(msgDayToCome, t), msgWantDayThatWas)
	}
	return d
}

// pass reads a row of passes from paper.
func (r *reader) pass() Pass {
	p := Pass{By: r.name("by", msgWantWhoVouches), Side: field.NoSide, Level: 1}
	var who Person
	switch list := r.students[plain(r.text("student"))]; {
	case r.text("student") == "" || len(list) == 0:
		r.wrong("student", fmt.Sprintf(msgNoSuchStudent, r.text("student")),
			msgWantKnownStudent)
	case len(list) > 1:
		r.wrong("student", fmt.Sprintf(msgSeveralStudents, len(list), r.text("student")), msgWantOwnName)
	default:
		who = list[0]
	}
	p.StudentID = who.ID
	if day := r.day("date", r.text("date")); !day.IsZero() {
		p.At = day.Add(12 * time.Hour)
	}
	p.CraftType = r.craftType("craft", who.CraftType)
	key, known := r.drills[plain(r.text("drill"))]
	if !known {
		r.wrong("drill", fmt.Sprintf(msgNoSuchDrill, r.text("drill")),
			msgWantProgramme)
		return p
	}
	p.Drill = key
	r.item(&p, r.known.Catalogue.Drills[key])
	line, twice := r.seen[p.Key()]
	switch {
	case twice:
		r.wrong("", fmt.Sprintf(msgPassTwice, line), msgWantPassOnce)
	case r.known.Passes[p.Key()]:
		r.wrong("", msgPassInAlready, msgWantNewPass)
	}
	r.seen[p.Key()] = r.line
	return p
}

// item reads side, aids and level of a pass, against its drill and craft.
func (r *reader) item(p *Pass, d drill.Drill) {
	switch side := plain(r.text("side")); side {
	case "l", "left":
		p.Side = field.LeftSide
	case "r", "right":
		p.Side = field.RightSide
	case "", "none", "both":
	default:
		r.wrong("side", fmt.Sprintf("the side %.20q", r.text("side")), msgWantSide)
	}
	if sided := slices.Contains(d.Sides(), field.LeftSide); sided != (p.Side != field.NoSide) {
		if sided {
			r.wrong("side", fmt.Sprintf(msgNoSideSaid, d.Title), msgWantSide)
		} else {
			r.wrong("side", fmt.Sprintf(msgNoSides, d.Title), msgWantEmpty)
		}
	}
	t, known := r.known.Catalogue.Craft[p.CraftType]
	if !known {
		return
	}
	p.Aids = t.Aids[0]
	if x := r.text("aids"); x != "" {
		i := slices.IndexFunc(craft.AidsOrder, func(a craft.Aids) bool {
			return plain(string(a)) == plain(x) || plain(a.Words()) == plain(x)
		})
		if i < 0 || !t.Has(craft.AidsOrder[i]) {
			r.wrong("aids", fmt.Sprintf(msgDoesNotFly, t.Title, x), msgWantCraftsAids)
		} else {
			p.Aids = craft.AidsOrder[i]
		}
	}
	if x := r.text("level"); x != "" {
		n, err := strconv.Atoi(x)
		if err != nil || n < 1 || n > len(d.Levels) {
			r.wrong("level", fmt.Sprintf(msgLevelOf, x, d.Title), fmt.Sprintf("1 to %d", len(d.Levels)))
		} else {
			p.Level = n
		}
	}
}
