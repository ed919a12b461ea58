package web

import (
	"context"
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"strconv"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/marking"
	"maestrale/core/readiness"
	"maestrale/core/record"
	"maestrale/core/score"
	"maestrale/internal/draw"
	"maestrale/internal/store"
)

// latest is how many attempts the student's page lists.
const latest = 12

// judged is a student's attempts under the rules, for the screens.
type judged struct {
	student   store.Student
	programme drill.Programme
	class     craft.Class
	on        readiness.On
	evidence  *readiness.Evidence
	ladder    [][]readiness.RungHalf
	known     map[drill.Cell]readiness.Cell
	fitted    store.LearningFit // how the school's students learn
}

// evidence begins a body of evidence as of now. Whether an attempt counts was
// decided when it was recorded, by the drill as it was then.
func (s *Server) evidence(loc *time.Location) *readiness.Evidence {
	return readiness.NewEvidence(nil, s.now(), loc)
}

// expect tells a body of evidence how the school's students learn.
func expect(ctx context.Context, tx store.Tx, e *readiness.Evidence) (f store.LearningFit, err error) {
	if f, err = tx.LearningFit(ctx); err == nil {
		e.Expect(f.Prior)
	}
	return f, err //nolint:wrapcheck // said by the store
}

// judge holds a student's attempts to the rules.
func (s *Server) judge(st store.Student, e *readiness.Evidence) *judged {
	j := &judged{student: st, programme: s.cat.Programmes[st.Programme], evidence: e, known: map[drill.Cell]readiness.Cell{}}
	t := s.cat.Craft[st.CraftType]
	j.class, j.on = t.Class(), readiness.On{Class: t.Class(), Type: t.Key, Has: t.Aids}
	j.ladder = readiness.Ladder(j.programme, j.cell)
	return j
}

// cell judges a cell once.
func (j *judged) cell(c drill.Cell) readiness.Cell {
	k, ok := j.known[c]
	if !ok {
		k = j.evidence.Cell(readiness.Key{Cell: c, Class: j.class})
		j.known[c] = k
	}
	return k
}

func (j *judged) cells() []readiness.Cell {
	var out []readiness.Cell
	for _, c := range j.programme.Cells() {
		out = append(out, j.cell(c))
	}
	return out
}

type studentModel struct {
	Mine       *mineModel // of the student who looks
	Student    store.Student
	Own        bool // the student looks at the own record
	CanMark    bool
	Sub        string
	Ring       template.HTML
	RingRows   []ringRow
	Ladder     template.HTML
	Programme  drill.Programme
	Rows       []cellRow
	Missing    []cellRow
	Lapsed     []cellRow
	HeldOf     string
	Attempts   []attemptRow
	NotCounted int
	Gates      []gateRow
	Step       string   // what stepping up to a bigger craft asks
	Lean       []string // which side and sectors are weak, as estimates
	MayForget  bool
}

type ringRow struct {
	Sector        string
	With, Without readiness.Sector
}

// cellRow is a cell as a line of the page.
type cellRow struct {
	readiness.Cell
	Title string // drill and side
	Rung  string
	Why   string // address of the slip
	Mark  string // address of the pad
	Needs string
	// Chance is the chance of a pass today, as an estimate, where it was shown.
	Chance string
}

type attemptRow struct {
	ID, When, Drill, Aids, Wind string
	Verdict                     score.Verdict
	Mark                        string // sign beside the word
	Happened                    string
	Margin                      *float64
	Counts                      bool
	WhyNot                      string
	Corrected                   bool
}

// titleOf says a drill and its side.
func (s *Server) titleOf(key string, side field.Side) string {
	t := key
	if d, ok := s.cat.Drills[key]; ok {
		t = d.Title
	}
	if side != field.NoSide {
		t += ", " + string(side)
	}
	return t
}

func (s *Server) studentPage(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	id, err := param(c, "student")
	if err == nil {
		err = ownOnly(p, id)
	}
	var st store.Student
	loc := zone(p)
	e := s.evidence(loc)
	var newest []store.Flown
	var with, without []float32
	var seen []record.Witnessed
	var signs []record.SignOff
	var lessons []appointment
	if err == nil {
		err = s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
			var learns readiness.Prior
			if st, with, without, learns, err = tx.StudentWithAspects(ctx, id); err != nil {
				return err
			}
			e.Expect(learns)
			if err = tx.Evidence(ctx, &id, func(_ uuid.UUID, a *record.Attempt) { e.Add(a) }); err != nil {
				return err
			}
			if newest, err = tx.Latest(ctx, id, latest); err != nil {
				return err
			}
			if seen, signs, err = tx.Decisions(ctx, id); err != nil || p.Role != store.Learner {
				return err
			}
			lessons, err = s.appointments(ctx, tx, p)
			return err
		})
	}
	if err != nil {
		s.failed(c, err)
		return
	}
	j := s.judge(st, e)
	m := s.studentModel(j, newest, loc)
	s.pictures(&m, j, with, without)
	m.Gates = s.gateRows(j, seen, signs, loc)
	m.Step = s.stepUp(j, seen, signs)
	s.estimates(&m, j)
	m.MayForget = p.Role == store.Learner || p.Role == store.Chief
	m.Sub = fmt.Sprintf("%s · %s · %s on %s", j.programme.Title, s.cat.Craft[st.CraftType].Title, counted(e.Count(), "attempt"), counted(e.Days(), "day"))
	if len(newest) > 0 {
		m.Sub += " · last " + newest[0].At.In(loc).Format("Monday 2 January")
	}
	if m.Own = p.Role == store.Learner; m.Own {
		m.Mine = s.mineOf(j, newest, lessons, loc)
	}
	m.CanMark = p.Role == store.Chief || p.Role == store.Instructor
	pg := page{Title: st.Name, Place: "Students", Body: m, Keys: []key{{"w", "why, on an underlined figure"}, {"↑ ↓ Enter", "walk through the attempts"}}}
	if m.CanMark {
		pg.Action = &action{"Mark an attempt", "/students/" + st.ID.String() + "/mark", "n"}
		pg.Keys = append(pg.Keys, key{"n", "mark an attempt"}, key{"l", "score a log"})
	}
	s.render(c, http.StatusOK, "student", pg)
}

// mineModel is what a student sees first, on the own phone.
type mineModel struct {
	Lesson, What   string // the next one
	Debrief, Last  string
	Practise, Name string // in the simulator tonight
}

// mineOf is a student's next lesson, the newest debrief, and what to practise: what the
// next flight is for, or else the lowest cell that is not held.
func (s *Server) mineOf(j *judged, newest []store.Flown, lessons []appointment, loc *time.Location) *mineModel {
	m := &mineModel{}
	for _, a := range lessons {
		if a.To.After(s.now()) && (m.Lesson == "" || a.From.Before(s.now())) {
			m.Lesson, m.What = a.From.In(loc).Format("Monday 2 January, 15:04"), a.What
		}
	}
	if len(newest) > 0 {
		m.Debrief, m.Last = "/attempts/"+newest[0].ID, s.titleOf(newest[0].Drill, newest[0].Side)+": "+newest[0].Summary
	}
	cell := readiness.Next(j.programme, j.cell)
	if d, ok := s.cat.Drills[cell.Drill]; ok {
		if d.Sided {
			cell.Side = readiness.WeakerSide(d, cell, j.cell)
		}
		side := cell.Side
		if side == "" {
			side = field.NoSide
		}
		m.Practise = fmt.Sprintf("/students/%s/fly?drill=%s&side=%s&aids=%s&level=%d", j.student.ID, cell.Drill, side, cell.Aids, max(1, cell.Level))
		m.Name = s.cellWords(cell)
	}
	return m
}

func (s *Server) studentModel(j *judged, newest []store.Flown, loc *time.Location) studentModel {
	m := studentModel{Student: j.student, Programme: j.programme, NotCounted: len(j.evidence.NotCounted())}
	cells := j.cells()
	held := 0
	rungs := map[drill.Cell]string{}
	for _, r := range j.programme.Rungs {
		for _, c := range r.Cells {
			rungs[c] = r.Title
		}
	}
	for _, c := range cells {
		row := s.cellRow(j.student.ID, c)
		row.Rung = rungs[c.Cell]
		m.Rows = append(m.Rows, row)
		switch c.Standing {
		case readiness.Held:
			held++
		case readiness.Lapsed:
			m.Lapsed = append(m.Lapsed, row)
		default:
			m.Missing = append(m.Missing, row)
		}
	}
	m.HeldOf = fmt.Sprintf("%d of %d cells held", held, len(cells))
	corrected := map[string]bool{}
	for _, a := range newest {
		corrected[a.Corrects] = true
	}
	for _, a := range newest {
		m.Attempts = append(m.Attempts, s.attemptRow(a, loc, corrected[a.ID]))
	}
	return m
}

// layFor lays a drill for the student's class on its own course.
func (s *Server) layFor(j *judged) func(drill.Cell) (drill.Task, error) {
	return func(c drill.Cell) (drill.Task, error) {
		return s.cat.Drills[c.Drill].Lay(c.Side, c.Level, j.class, nil)
	}
}

// pictures draws the ring and the ladder, and the ring's table.
func (s *Server) pictures(m *studentModel, j *judged, with, without []float32) {
	m.Ladder = draw.Ladder(j.programme, j.ladder)
	ring := readiness.RingOf(j.cells(), s.layFor(j))
	ring.Add(craft.PositionHold, with)
	ring.Add(craft.HeightHold, without)
	m.Ring = draw.Ring(ring)
	for i, name := range readiness.SectorNames {
		if ring.With[i].Drills || ring.Without[i].Drills || ring.With[i].Seconds+ring.Without[i].Seconds > 0 {
			m.RingRows = append(m.RingRows, ringRow{name, ring.With[i], ring.Without[i]})
		}
	}
}

func (s *Server) cellRow(student uuid.UUID, c readiness.Cell) cellRow {
	q := url.Values{"drill": {c.Drill}, "side": {string(c.Side)}, "aids": {string(c.Aids)}, "level": {strconv.Itoa(c.Level)}}.Encode()
	title := s.titleOf(c.Drill, c.Side)
	if c.Level > 1 {
		title += fmt.Sprintf(", level %d", c.Level)
	}
	return cellRow{Cell: c, Title: title, Why: "/students/" + student.String() + "/why?" + q, Mark: "/students/" + student.String() + "/mark?" + q, Needs: c.NeedsWords()}
}

var verdictSigns = marking.Signs

func (s *Server) attemptRow(a store.Flown, loc *time.Location, corrected bool) attemptRow {
	title := s.titleOf(a.Drill, a.Side)
	if a.Level > 1 {
		title += fmt.Sprintf(", level %d", a.Level)
	}
	wind := "—"
	if a.WindMps != nil {
		wind = fmt.Sprintf("%.1f", *a.WindMps)
	}
	return attemptRow{ID: a.ID, When: a.At.In(loc).Format("Mon 2 Jan 15:04"), Drill: title, Aids: a.Aids.Words(), Wind: wind,
		Verdict: a.Verdict, Mark: verdictSigns[a.Verdict], Happened: a.Summary, Margin: a.Margin, Counts: a.Counts, WhyNot: a.WhyNot, Corrected: corrected}
}

type studentsModel struct {
	Students   []studentRow
	CanAdd     bool
	Programmes []drill.Programme
	Craft      []craft.Type
}

type studentRow struct {
	store.Student
	Programme string
	Craft     string
	Mini      template.HTML
	Held      string
	Next      string
	Last      string
}

func (s *Server) studentsPage(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	var students []store.Student
	loc := zone(p)
	all := map[uuid.UUID]*readiness.Evidence{}
	err := s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) (err error) {
		if students, err = tx.Students(ctx); err != nil {
			return err
		}
		for _, st := range students {
			all[st.ID] = s.evidence(loc)
		}
		return tx.Evidence(ctx, nil, func(student uuid.UUID, a *record.Attempt) {
			if e := all[student]; e != nil { // not the own flights of those who teach
				e.Add(a)
			}
		})
	})
	if err != nil {
		s.failed(c, err)
		return
	}
	m := studentsModel{CanAdd: p.Role != store.Spotter}
	for _, k := range s.cat.ProgrammeKeys() {
		m.Programmes = append(m.Programmes, s.cat.Programmes[k])
	}
	for _, k := range s.cat.Craft.Keys() {
		m.Craft = append(m.Craft, s.cat.Craft[k])
	}
	for _, st := range students {
		j := s.judge(st, all[st.ID])
		row := studentRow{Student: st, Programme: j.programme.Title, Craft: s.cat.Craft[st.CraftType].Title, Mini: draw.MiniLadder(j.programme, j.ladder), Last: "never"}
		held, total := 0, 0
		for _, cell := range j.cells() {
			total++
			if cell.Standing == readiness.Held {
				held++
			} else if row.Next == "" || cell.Standing == readiness.Lapsed && row.Next[:6] != "lapsed" {
				row.Next = fmt.Sprintf("%s: %s, %s", cell.Standing, s.titleOf(cell.Drill, cell.Side), cell.Aids.Words())
			}
		}
		row.Held = fmt.Sprintf("%d of %d", held, total)
		if last := j.evidence.Last(); !last.IsZero() {
			row.Last = last.In(loc).Format("Mon 2 Jan")
		}
		m.Students = append(m.Students, row)
	}
	pg := page{Title: "Students", Place: "Students", Body: m, Keys: []key{{"↑ ↓ Enter", "walk through the students and open one"}, {"/", "jump to a student by name"}}}
	s.render(c, http.StatusOK, "students", pg)
}

// addStudent takes a new student.
func (s *Server) addStudent(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	st := store.Student{ID: store.NewID(), Name: cleanName(c.PostForm("name")), Programme: c.PostForm("programme"), CraftType: c.PostForm("craft"),
		TrainsFor: cleanName(c.PostForm("trains_for")), StartedOn: s.now().In(zone(p))}
	_, programme := s.cat.Programmes[st.Programme]
	_, craftType := s.cat.Craft[st.CraftType]
	switch {
	case st.Name == "":
		s.wrongInput(c, "The student has no name.", "Write a name of up to 120 letters.")
		return
	case !programme || !craftType:
		s.wrongInput(c, "The programme or the craft is not known.", "Choose one of the list.")
		return
	}
	if err := s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error { return tx.AddStudent(ctx, st) }); err != nil {
		s.failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/students/"+st.ID.String())
}
