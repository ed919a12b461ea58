package web

import (
	"encoding/json"
	"errors"
	"net/http"
	"slices"
	"strconv"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/marking"
	"maestrale/core/readiness"
	"maestrale/internal/store"
)

// padModel is the marking pad: what is marked, and what can be chosen instead.
type padModel struct {
	Student store.Student
	Drill   drill.Drill
	Title   string
	Side    field.Side
	Level   int
	Aids    craft.Aids
	Craft   craft.Type
	Asked   string
	Before  string // what stands of this cell
	Caution string
	Drills  []drill.Drill
	Levels  []int
	AidsOf  []craft.Aids
	Sides   []field.Side
	Sheet   marking.Sheet
	Config  string
	Wind    windModel
	On      string // which course, and how the drill comes onto it
	TooFar  string // it goes farther than the student tells the nose
	task    drill.Task
}

// chosen reads which cell is meant; what is not said is filled in from the
// student's ladder: the lowest cell that is not held.
func (s *Server) chosen(c *gin.Context, j *judged) (drill.Cell, error) {
	cell := drill.Cell{Drill: c.Query("drill"), Side: field.Side(c.Query("side")), Aids: craft.Aids(c.Query("aids")), Level: 1}
	if l, err := strconv.Atoi(c.Query("level")); err == nil {
		cell.Level = l
	}
	if cell.Drill == "" {
		cell = readiness.Next(j.programme, j.cell)
	}
	d, err := s.cat.Drill(cell.Drill)
	if err != nil {
		return cell, store.ErrNotFound
	}
	if d.Closed != drill.Open {
		err := s.store.InSchool(c.Request.Context(), person(c).SchoolID, func(tx store.Tx) error { return s.isOpen(c, tx, j, d) })
		if err != nil {
			return cell, err
		}
	}
	if !s.cat.Craft[j.student.CraftType].Has(cell.Aids) {
		cell.Aids = s.cat.Craft[j.student.CraftType].Aids[0]
	}
	if cell.Level < 1 || cell.Level > len(d.Levels) {
		cell.Level = 1
	}
	if !d.Sided {
		cell.Side = field.NoSide
	} else if cell.Side != field.LeftSide && cell.Side != field.RightSide {
		cell.Side = readiness.WeakerSide(d, cell, j.cell)
	}
	return cell, nil
}

// isOpen refuses a drill that is closed to a student.
func (s *Server) isOpen(c *gin.Context, tx store.Tx, j *judged, d drill.Drill) error {
	if d.Closed == drill.Open {
		return nil
	}
	set, err := tx.Settings(c.Request.Context())
	if err != nil {
		return err
	}
	held := !slices.ContainsFunc(j.programme.Cells(), func(x drill.Cell) bool { return j.cell(x).Standing != readiness.Held })
	if why := d.Shut(held, set.HandCatch); why != "" {
		return inputError(d.Title + " is closed: " + why + ".")
	}
	return nil
}

func (s *Server) padPage(c *gin.Context) {
	tell := 0.0
	j, err := s.theirs(c, func(tx store.Tx, student uuid.UUID) (err error) {
		tell, err = s.tellM(c.Request.Context(), tx, student)
		return err
	})
	if err != nil {
		s.failed(c, err)
		return
	}
	cell, err := s.chosen(c, j)
	var wrong inputError
	if errors.As(err, &wrong) {
		s.wrongInput(c, err.Error(), "Choose another drill.")
		return
	}
	if err != nil {
		s.failed(c, err)
		return
	}
	g, err := s.courseIn(c, "day")
	if err != nil {
		s.failed(c, err)
		return
	}
	m, err := s.padModel(j, cell, g)
	if err != nil {
		s.wrongInput(c, err.Error(), "Choose another drill.")
		return
	}
	m.Wind = s.windOf(person(c))
	m.TooFar = marking.TooFar(m.task, j.student.Name, tell)
	s.render(c, http.StatusOK, "pad", page{Title: m.Title + ", " + j.student.Name, Place: "Students", Body: m})
}

func (s *Server) padModel(j *judged, cell drill.Cell, day onCourse) (padModel, error) {
	d := s.cat.Drills[cell.Drill]
	g, why := fitting(d, j.class, day)
	task, err := d.Lay(cell.Side, cell.Level, j.class, g.Laid)
	if err != nil {
		return padModel{}, err
	}
	m := padModel{Student: j.student, Drill: d, Title: s.titleOf(cell.Drill, cell.Side), Side: cell.Side, Level: cell.Level, Aids: cell.Aids,
		Craft: s.cat.Craft[j.student.CraftType], Caution: d.Caution, Drills: s.cat.InOrder(), Sides: d.Sides(), Sheet: marking.SheetOf(task)}
	m.task, m.Asked = task, m.Sheet.Asked
	m.AidsOf = append(append([]craft.Aids{}, m.Craft.Aids...), m.Craft.OptionalAids...)
	for i := range d.Levels {
		m.Levels = append(m.Levels, i+1)
	}
	if m.On = onCourseWords(g, task); why != "" {
		m.On = why + "; it is marked as on its own course"
	}
	stands := j.cell(cell)
	m.Before = stands.Standing.String()
	if n := stands.NeedsWords(); n != "" {
		m.Before += ", " + n + " to go"
	}
	config, err := json.Marshal(map[string]any{
		"student": j.student.ID, "drill": d.Key, "side": cell.Side, "level": cell.Level, "aids": cell.Aids, "craft": j.student.CraftType,
		"course": g.Key, "steps": m.Sheet.Steps, "offset": m.Sheet.Offset, "other": cell.Side.Other(),
	})
	m.Config = string(config)
	return m, err
}

// verdictOf says what came of an attempt and what it did to the standing.
func (s *Server) verdictOf(k store.NewAttempt, d drill.Drill, before, after readiness.Cell) marking.Verdict {
	v := marking.VerdictOf(k.Attempt, k.Result, d, before, after)
	v.Debrief, v.Student = "/attempts/"+k.ID, "/students/"+k.StudentID.String()
	_, v.Again = againAt(k.StudentID, d, k.Side, k.Aids, k.Level, k.Source)
	return v
}
