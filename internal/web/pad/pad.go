package pad

import (
	"encoding/json"
	"errors"
	"net/http"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/marking"
	"maestrale/internal/attempt"
	"maestrale/internal/knowledge"
	"maestrale/internal/refusal"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
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
	Wind    frame.WindModel
	On      string // which course, and how the drill comes onto it
	TooFar  string // it goes farther than the student tells the nose
	task    drill.Task
}

func (s Pages) PadPage(c *gin.Context) {
	tell := 0.0
	j, err := s.Theirs(c, func(tx store.Tx, student uuid.UUID) (err error) {
		tell, err = s.Students().TellM(c.Request.Context(), tx, student)
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	cell, err := s.Chosen(c, j)
	var wrong refusal.Error
	if errors.As(err, &wrong) {
		s.WrongInput(c, err.Error(), "Choose another drill.")
		return
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	g, err := s.CourseIn(c, "day")
	if err != nil {
		s.Failed(c, err)
		return
	}
	m, err := s.padModel(j, cell, g)
	if err != nil {
		s.WrongInput(c, err.Error(), "Choose another drill.")
		return
	}
	m.Wind = s.WindOf(frame.Person(c))
	m.TooFar = marking.TooFar(m.task, j.Student.Name, tell)
	s.Render(c, http.StatusOK, "pad", frame.Page{Title: m.Title + ", " + j.Student.Name, Place: "Students", Body: m})
}

func (s Pages) padModel(j *knowledge.Student, cell drill.Cell, day attempt.Course) (padModel, error) {
	d := s.Cat.Drills[cell.Drill]
	g, why := day.For(d, j.On.Class)
	task, err := d.Lay(cell.Side, cell.Level, j.On.Class, g.Laid)
	if err != nil {
		return padModel{}, err
	}
	m := padModel{Student: j.Student, Drill: d, Title: s.Cat.TitleOf(cell.Drill, cell.Side), Side: cell.Side,
		Level: cell.Level, Aids: cell.Aids,
		Craft: s.Cat.Craft[j.Student.CraftType], Caution: d.Caution, Drills: s.Cat.InOrder(), Sides: d.Sides(),
		Sheet: marking.SheetOf(task)}
	m.task, m.Asked = task, m.Sheet.Asked
	m.AidsOf = append(append([]craft.Aids{}, m.Craft.Aids...), m.Craft.OptionalAids...)
	for i := range d.Levels {
		m.Levels = append(m.Levels, i+1)
	}
	if m.On = g.Words(task); why != "" {
		m.On = why + "; it is marked as on its own course"
	}
	stands := j.Cell(cell)
	m.Before = stands.Standing.String()
	if n := stands.NeedsWords(); n != "" {
		m.Before += ", " + n + " to go"
	}
	config, err := json.Marshal(map[string]any{
		"student": j.Student.ID, "drill": d.Key, "side": cell.Side, "level": cell.Level, "aids": cell.Aids,
		"craft":  j.Student.CraftType,
		"course": g.Key, "steps": m.Sheet.Steps, "offset": m.Sheet.Offset, "other": cell.Side.Other(),
	})
	m.Config = string(config)
	return m, err
}
