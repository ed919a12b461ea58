package students

import (
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
	"maestrale/core/plan"
	"maestrale/core/readiness"
	"maestrale/core/score"
	"maestrale/internal/draw"
	"maestrale/internal/fieldday"
	"maestrale/internal/knowledge"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
	"maestrale/internal/words"
)

// latest is how many attempts the student's page lists.
const latest = 12

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
	Next       []nextRow // the first of today's list
	NextSays   string    // why there is so little on it
	Step       string    // what stepping up to a bigger craft asks
	Lean       []string  // which side and sectors are weak, as estimates
	Onlookers  string    // what they do to the passes
	MayForget  bool
	Left       string // since when the student has left; empty in training
	Programmes []drill.Programme
	Craft      []craft.Type
}

type ringRow struct {
	Sector        string
	With, Without readiness.Sector
}

// nextRow is an entry of today's list.
type nextRow struct {
	Title, Role, Why, Short, Mark string
}

// mostNext is how many entries of the list a student's page shows; the lesson shows all.
const mostNext = 4

var roleWords = map[plan.Role]string{plan.Renew: "to renew", plan.Back: msgOneStepBack, plan.Due: "due",
	plan.Stretch: "a stretch", plan.Finish: msgToFinishWith}

// nextRows are the first entries of today's list.
func (s Pages) nextRows(j *knowledge.Student, l plan.LessonPlan) (out []nextRow) {
	seen := map[drill.Cell]bool{}
	for _, b := range l.Blocks {
		if seen[b.Cell] || len(out) == mostNext {
			continue
		}
		seen[b.Cell] = true
		r := nextRow{Title: s.Cat.CellWords(b.Cell), Role: roleWords[b.Role], Why: b.Why,
			Mark: s.cellRow(j.Student.ID, readiness.Cell{Cell: b.Cell}).Mark}
		instead := s.Cat.TitleOf(b.Fallback, field.NoSide)
		switch {
		case b.Fallback != "" && b.Chance > 0:
			r.Short = say.Say("chance, else", 100*b.Chance, instead)
		case b.Chance > 0:
			r.Short = say.Say(msgChanceElseLand, 100*b.Chance)
		case b.Fallback != "":
			r.Short = say.Say("else", instead)
		default:
			r.Short = say.Say("else land")
		}
		out = append(out, r)
	}
	return out
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
	// Markable says that whoever looks at it may mark it.
	Markable bool
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
	Sim                         bool // flown in the simulator
	Windy                       bool // the wind is known
}

// shownFirst is how many attempts stand in sight; the others are folded.
const shownFirst = 5

// Newest are the attempts that stand in sight.
func (m studentModel) Newest() []attemptRow { return m.Attempts[:min(shownFirst, len(m.Attempts))] }

// missingFirst is how many missing items stand in sight.
const missingFirst = 6

// MissingFirst are the missing items that stand in sight, the lowest of the ladder.
func (m studentModel) MissingFirst() []cellRow { return m.Missing[:min(missingFirst, len(m.Missing))] }

// MissingRest are the missing items that are folded.
func (m studentModel) MissingRest() []cellRow { return m.Missing[min(missingFirst, len(m.Missing)):] }

// Older are the attempts that are folded.
func (m studentModel) Older() []attemptRow { return m.Attempts[min(shownFirst, len(m.Attempts)):] }

func (s Pages) StudentPage(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	id, err := frame.Param(c, "student")
	if err == nil {
		err = frame.OwnOnly(p, id)
	}
	var j *knowledge.Student
	loc := p.Zone()
	var newest []store.Flown
	var lessons []fieldday.Appointment
	var next plan.LessonPlan
	var watched string
	if err == nil {
		err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
			if j, err = s.Students().Of(ctx, tx, id); err != nil {
				return err
			}
			if newest, err = tx.Latest(ctx, id, latest); err != nil {
				return err
			}
			if watched, err = knowledge.Onlookers(ctx, tx, &id); err != nil {
				return err
			}
			if next, err = s.Students().WhatNext(ctx, tx, j, knowledge.AirNow(p, s.Now())); err != nil ||
				p.Role != store.Learner {
				return err
			}
			lessons, err = s.Days().Appointments(ctx, tx, p)
			return err
		})
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	st, e := j.Student, j.Evidence
	m := s.studentModel(j, newest, loc)
	s.pictures(&m, j)
	m.Next, m.NextSays = s.nextRows(j, next), next.Says
	m.Gates = s.gateRows(j, loc)
	m.Step = s.stepUp(j)
	s.estimates(&m, j)
	m.Onlookers = watched
	m.MayForget = p.Role == store.Learner || p.Role == store.Chief
	m.Sub = fmt.Sprintf("%s · %s · %s on %s", j.Programme.Title, s.Cat.Craft[st.CraftType].Title,
		words.Counted(e.Count(),
			"attempt"), words.Counted(e.Days(), "day"))
	if len(newest) > 0 {
		m.Sub += " · last " + newest[0].At.In(loc).Format("Monday 2 January")
	}
	if m.Own = p.Role == store.Learner; m.Own {
		m.Mine = s.mineOf(j, newest, lessons, next, loc)
	}
	m.CanMark, m.Left = p.Role == store.Chief || p.Role == store.Instructor, leftWords(st.LeftOn)
	for i := range m.Missing {
		m.Missing[i].Markable = m.CanMark
	}
	m.Programmes, m.Craft = s.choices()
	s.Render(c, http.StatusOK, "student", m.page())
}

// page is the student's page with its keys and what it is for.
func (m *studentModel) page() frame.Page {
	pg := frame.Page{Title: m.Student.Name, Place: "Students", Body: *m,
		Keys: []frame.Key{{Key: "w", Does: msgWhyUnderlinedFigure}, {Key: "↑ ↓ Enter",
			Does: msgWalkThroughAttempts}}}
	if m.CanMark {
		pg.Action = &frame.Action{Label: msgMarkAttempt, Href: "/students/" + m.Student.ID.String() + "/mark", Key: "n"}
		pg.Keys = append(pg.Keys, frame.Key{Key: "n", Does: msgKeyMarkAttempt}, frame.Key{Key: "l", Does: "score a log"})
	}
	return pg
}

// mineModel is what a student sees first, on the own phone.
type mineModel struct {
	Lesson, What   string // the next one
	Debrief, Last  string
	Practise, Name string // in the simulator tonight
}

// mineOf is a student's next lesson, the newest debrief, and what to practise: what the
// next flight is for, or else the lowest cell that is not held.
func (s Pages) mineOf(j *knowledge.Student, newest []store.Flown, lessons []fieldday.Appointment,
	next plan.LessonPlan, loc *time.Location) *mineModel {
	m := &mineModel{}
	for _, a := range lessons {
		if a.To.After(s.Now()) && (m.Lesson == "" || a.From.Before(s.Now())) {
			m.Lesson, m.What = a.From.In(loc).Format("Monday 2 January, 15:04"), a.What
		}
	}
	if len(newest) > 0 {
		m.Debrief, m.Last = "/attempts/"+newest[0].ID, s.Cat.TitleOf(newest[0].Drill, newest[0].Side)+": "+newest[0].Summary
	}
	if cell := next.First(); cell.Drill != "" {
		side := cell.Side
		if side == "" {
			side = field.NoSide
		}
		m.Practise = fmt.Sprintf("/students/%s/fly?drill=%s&side=%s&aids=%s&level=%d", j.Student.ID, cell.Drill, side,
			cell.Aids, max(1, cell.Level))
		m.Name = s.Cat.CellWords(cell)
	}
	return m
}

func (s Pages) studentModel(j *knowledge.Student, newest []store.Flown, loc *time.Location) studentModel {
	m := studentModel{Student: j.Student, Programme: j.Programme, NotCounted: len(j.Evidence.NotCounted())}
	cells := j.Cells()
	held := 0
	rungs := map[drill.Cell]string{}
	for _, r := range j.Programme.Rungs {
		for _, c := range r.Cells {
			rungs[c] = r.Title
		}
	}
	for _, c := range cells {
		row := s.cellRow(j.Student.ID, c)
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
	m.HeldOf = say.Say("held of", held, len(cells))
	corrected := map[string]bool{}
	for _, a := range newest {
		corrected[a.Corrects] = true
	}
	for _, a := range newest {
		m.Attempts = append(m.Attempts, s.attemptRow(a, loc, corrected[a.ID]))
	}
	return m
}

// pictures draws the ring and the ladder, and the ring's table.
func (s Pages) pictures(m *studentModel, j *knowledge.Student) {
	m.Ladder = draw.Ladder(j.Programme, j.Ladder(), s.Cat.Gates)
	ring := readiness.RingOf(j.Cells(), j.Lay)
	ring.Add(craft.PositionHold, j.With)
	ring.Add(craft.HeightHold, j.Without)
	m.Ring = draw.Ring(ring)
	for i, name := range readiness.SectorNames {
		if ring.With[i].Drills || ring.Without[i].Drills || ring.With[i].Seconds+ring.Without[i].Seconds > 0 {
			m.RingRows = append(m.RingRows, ringRow{name, ring.With[i], ring.Without[i]})
		}
	}
}

func (s Pages) cellRow(student uuid.UUID, c readiness.Cell) cellRow {
	q := url.Values{"drill": {c.Drill}, "side": {string(c.Side)}, "aids": {string(c.Aids)},
		"level": {strconv.Itoa(c.Level)}}.Encode()
	title := s.Cat.TitleOf(c.Drill, c.Side)
	if c.Level > 1 {
		title += fmt.Sprintf(", level %d", c.Level)
	}
	return cellRow{Cell: c, Title: title, Why: "/students/" + student.String() + "/why?" + q, Mark: "/students/" +
		student.String() + "/mark?" + q, Needs: c.NeedsWords()}
}

func (s Pages) attemptRow(a store.Flown, loc *time.Location, corrected bool) attemptRow {
	title := s.Cat.TitleOf(a.Drill, a.Side)
	if a.Level > 1 {
		title += fmt.Sprintf(", level %d", a.Level)
	}
	wind := "—"
	if a.WindMps != nil {
		wind = fmt.Sprintf("%.1f", *a.WindMps)
	}
	return attemptRow{ID: a.ID, When: a.At.In(loc).Format("Mon 2 Jan 15:04"), Drill: title, Aids: a.Aids.Words(),
		Wind: wind, Windy: a.WindMps != nil,
		Verdict: a.Verdict, Mark: frame.VerdictSigns[a.Verdict], Happened: a.Summary, Margin: a.Margin, Counts: a.Counts,
		WhyNot: a.WhyNot, Corrected: corrected, Sim: a.Source == score.Sim}
}

// choices are the programmes and the craft types that a student can have.
func (s Pages) choices() (programmes []drill.Programme, types []craft.Type) {
	for _, k := range s.Cat.ProgrammeKeys() {
		programmes = append(programmes, s.Cat.Programmes[k])
	}
	for _, k := range s.Cat.Craft.Keys() {
		types = append(types, s.Cat.Craft[k])
	}
	return programmes, types
}

// AddStudent takes a new student.
func (s Pages) AddStudent(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	st := store.Student{ID: store.NewID(), Name: frame.CleanName(c.PostForm("name")), Programme: c.PostForm("programme"),
		CraftType: c.PostForm("craft"),
		TrainsFor: frame.CleanName(c.PostForm("trains_for")), StartedOn: s.Now().In(p.Zone())}
	_, programme := s.Cat.Programmes[st.Programme]
	_, craftType := s.Cat.Craft[st.CraftType]
	switch {
	case st.Name == "":
		s.WrongInput(c, msgStudentWithoutName, msgWriteNameUp)
		return
	case !programme || !craftType:
		s.WrongInput(c, msgProgrammeOrCraftNot, msgChooseOneList)
		return
	}
	if err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error { return tx.AddStudent(ctx, st) }); err != nil {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, frame.Back(c, "/students/"+st.ID.String()))
}
