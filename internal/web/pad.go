package web

import (
	"encoding/json"
	"fmt"
	"net/http"
	"strconv"

	"github.com/gin-gonic/gin"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
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
	Steps   []padStep
	Offset  float64 // tolerance of the touch, metres
	Config  string
	Wind    windModel
	Faults  []padFault
}

// padStep is what the pad needs to draw a step: it decides nothing by it.
type padStep struct {
	Kind    string  `json:"kind"`
	Words   string  `json:"words"`
	Seconds float64 `json:"seconds"`
}

type padFault struct{ Code, Words string }

// padFaults are the faults that an eye adds by hand; leaving the place has
// keys of its own.
var padFaults = []padFault{
	{"nose", "Nose off"}, {"height", "Height lost"}, {"wrong-way", "Turned the wrong way"}, {"overshoot", "Turned too far"},
	{"sink", "Touched down hard"}, {"bounce", "Bounced"}, {"tilt", "Touched down leaning"}, {"crash", "Crash"},
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
	if !s.cat.Craft[j.student.CraftType].Has(cell.Aids) {
		cell.Aids = s.cat.Craft[j.student.CraftType].Aids[0]
	}
	if cell.Level < 1 || cell.Level > len(d.Levels) {
		cell.Level = 1
	}
	if d.Sided != (cell.Side == field.LeftSide || cell.Side == field.RightSide) {
		cell.Side = readiness.WeakerSide(d, cell, j.cell)
	}
	return cell, nil
}

func (s *Server) padPage(c *gin.Context) {
	p := person(c)
	id, err := param(c, "student")
	var j *judged
	if err == nil {
		err = s.store.InSchool(c.Request.Context(), p.SchoolID, func(tx store.Tx) error {
			j, _, _, err = s.judgedFor(c, tx, id)
			return err
		})
	}
	if err != nil {
		s.failed(c, err)
		return
	}
	cell, err := s.chosen(c, j)
	if err != nil {
		s.failed(c, err)
		return
	}
	m, err := s.padModel(j, cell)
	if err != nil {
		s.wrongInput(c, err.Error(), "Choose another drill.")
		return
	}
	m.Wind = windOf(p, s.now())
	s.render(c, http.StatusOK, "pad", page{Title: m.Title + ", " + j.student.Name, Place: "Students", Body: m})
}

func (s *Server) padModel(j *judged, cell drill.Cell) (padModel, error) {
	d := s.cat.Drills[cell.Drill]
	task, err := d.Lay(cell.Side, cell.Level, j.class, nil)
	if err != nil {
		return padModel{}, err
	}
	m := padModel{Student: j.student, Drill: d, Title: s.titleOf(cell.Drill, cell.Side), Side: cell.Side, Level: cell.Level, Aids: cell.Aids,
		Craft: s.cat.Craft[j.student.CraftType], Caution: d.Caution, Drills: s.cat.InOrder(), Sides: d.Sides(), Faults: padFaults}
	m.AidsOf = append(append([]craft.Aids{}, m.Craft.Aids...), m.Craft.OptionalAids...)
	for i := range d.Levels {
		m.Levels = append(m.Levels, i+1)
	}
	for _, t := range task.Steps {
		m.Steps = append(m.Steps, padStep{string(t.Kind), t.Words(), t.Seconds})
		if t.Kind == drill.Hold && m.Asked == "" {
			m.Asked = t.Words()
		}
		if t.Kind == drill.Land {
			m.Offset = t.Limits.Offset
		}
	}
	stands := j.cell(cell)
	m.Before = stands.Standing.String()
	if n := stands.NeedsWords(); n != "" {
		m.Before += ", " + n + " to go"
	}
	config, err := json.Marshal(map[string]any{
		"student": j.student.ID, "drill": d.Key, "side": cell.Side, "level": cell.Level, "aids": cell.Aids, "craft": j.student.CraftType,
		"steps": m.Steps, "offset": m.Offset, "other": cell.Side.Other(),
	})
	m.Config = string(config)
	return m, err
}

// verdictModel is what is said at once when an attempt has ended.
type verdictModel struct {
	Attempt  string   `json:"attempt"`
	Verdict  string   `json:"verdict"`
	Sign     string   `json:"sign"`
	Margin   string   `json:"margin"`
	Summary  string   `json:"summary"`
	Faults   []string `json:"faults"`
	Counts   bool     `json:"counts"`
	WhyNot   string   `json:"why_not"`
	Standing string   `json:"standing"`
	Next     string   `json:"next"` // the side that is offered next
	Again    string   `json:"again"`
	Debrief  string   `json:"debrief"`
	Student  string   `json:"student"`
}

// standingWords says what an attempt did to its cell.
func standingWords(before, after readiness.Cell) string {
	w := after.Standing.String()
	if before.Standing != after.Standing {
		w = before.Standing.String() + " → " + w
	}
	w += ": " + after.Why
	if n := after.NeedsWords(); n != "" {
		w += "; still to fly: " + n
	}
	return w
}

// verdictOf says what came of an attempt and what it did to the standing.
func (s *Server) verdictOf(k store.NewAttempt, d drill.Drill, before, after readiness.Cell) verdictModel {
	v := verdictModel{Attempt: k.ID, Verdict: string(k.Verdict), Sign: verdictSigns[k.Verdict], Summary: k.Result.Summary(), Counts: k.Counts, WhyNot: k.WhyNot, Faults: []string{},
		Debrief: "/attempts/" + k.ID, Student: "/students/" + k.StudentID.String()}
	if k.Margin != nil {
		v.Margin = fmt.Sprintf("%+.2f", *k.Margin)
	}
	for _, f := range k.Result.Faults {
		v.Faults = append(v.Faults, f.Text)
	}
	v.Standing = standingWords(before, after)
	next := k.Side
	if d.Sided {
		next = k.Side.Other()
		v.Next = string(next)
	}
	v.Again = fmt.Sprintf("/students/%s/mark?drill=%s&side=%s&aids=%s&level=%d", k.StudentID, d.Key, next, k.Aids, k.Level)
	return v
}
