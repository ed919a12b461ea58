package web

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"net/http"
	"slices"
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
	On      string // which course, and how the drill comes onto it
}

// padStep is what the pad needs to draw a step: it decides nothing by it.
type padStep struct {
	Kind    string   `json:"kind"`
	Words   string   `json:"words"`
	Seconds float64  `json:"seconds"`
	Rest    float64  `json:"rest,omitempty"`    // s at rest, at each corner of a path
	Corners int      `json:"corners,omitempty"` // at which it rests
	Call    bool     `json:"call,omitempty"`    // a call begins it
	Watch   bool     `json:"watch,omitempty"`   // a flight home that lands by itself
	Happens []padDue `json:"happens,omitempty"`
}

// padDue is what the instructor lets happen in a step: its words, and whether an
// answer is timed, and ends the step.
type padDue struct {
	Words string `json:"words"`
	Asks  bool   `json:"asks"`
	End   bool   `json:"end"`
}

func padStepOf(t drill.Target) padStep {
	step := padStep{Kind: string(t.Kind), Words: t.Words(), Seconds: t.Seconds, Rest: t.RestS, Call: t.OnCall, Watch: t.Kind == drill.Return && t.TakeOverS == 0}
	if t.Path != nil && t.RestS > 0 {
		step.Corners = len(t.Path.Corners)
	}
	for _, d := range t.During {
		step.Happens = append(step.Happens, padDue{d.What(), d.Seconds > 0 || d.Distance > 0, d.End})
	}
	return step
}

type padFault struct{ Code, Words string }

// padFaults are the faults that an eye adds by hand, and in which steps they can
// be; leaving the place has keys of its own.
var padFaults = []struct {
	padFault
	in func(drill.Target) bool
}{
	{padFault{"nose", "Nose off"}, func(t drill.Target) bool { return t.Heading.Kind != drill.Free && t.Kind != drill.Land }},
	{padFault{"height", "Height lost"}, func(t drill.Target) bool { return t.Limits.Height > 0 }},
	{padFault{"wrong-way", "Turned the wrong way"}, isKind(drill.Turn)},
	{padFault{"wrong-way", "Went the wrong way first"}, func(t drill.Target) bool {
		return slices.ContainsFunc(t.During, func(d drill.Due) bool { return d.FirstWay != "" }) || t.Kind == drill.Regain
	}},
	{padFault{"overshoot", "Carried too far"}, func(t drill.Target) bool {
		return slices.ContainsFunc(t.During, func(d drill.Due) bool { return d.FirstWay == "" && d.Distance > 0 })
	}},
	{padFault{"order", "Taken over too soon"}, isKind(drill.Return)},
	{padFault{"lost", "Lost orientation"}, func(t drill.Target) bool { return t.Kind != drill.TakeOff && t.Kind != drill.Land }},
	{padFault{"overshoot", "Turned too far"}, isKind(drill.Turn)},
	{padFault{"overshoot", "Went past the place"}, func(t drill.Target) bool { return t.Kind == drill.GoTo || t.Kind == drill.Stop }},
	{padFault{"order", "The other way round"}, func(t drill.Target) bool {
		return t.Path != nil && t.Path.Shape != drill.Line && t.Path.Shape != drill.Slant
	}},
	{padFault{"uneven", "Lobes or ends not alike"}, func(t drill.Target) bool { return t.Limits.Ratio > 0 || t.Limits.EndRatio > 0 }},
	{padFault{"crossing", "Crossed off the centre"}, func(t drill.Target) bool { return t.Limits.Crossing > 0 }},
	{padFault{"angle", "Not at its angle"}, func(t drill.Target) bool { return t.Limits.Slope > 0 || t.Limits.Legs > 0 }},
	{padFault{"speed", "Too fast or too slow"}, func(t drill.Target) bool { return t.SpeedMps[1] > 0 }},
	{padFault{"sink", "Touched down hard"}, isKind(drill.Land)},
	{padFault{"bounce", "Bounced"}, isKind(drill.Land)},
	{padFault{"tilt", "Touched down leaning"}, isKind(drill.Land)},
	{padFault{"crash", "Crash"}, func(drill.Target) bool { return true }},
}

func isKind(k drill.Kind) func(drill.Target) bool {
	return func(t drill.Target) bool { return t.Kind == k }
}

// faultsOf are the faults that can be in a task.
func faultsOf(t drill.Task) (out []padFault) {
	for _, f := range padFaults {
		if slices.ContainsFunc(t.Steps, f.in) {
			out = append(out, f.padFault)
		}
	}
	return out
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
	j, err := s.theirs(c, nil)
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
		Craft: s.cat.Craft[j.student.CraftType], Caution: d.Caution, Drills: s.cat.InOrder(), Sides: d.Sides(), Faults: faultsOf(task)}
	m.AidsOf = append(append([]craft.Aids{}, m.Craft.Aids...), m.Craft.OptionalAids...)
	for i := range d.Levels {
		m.Levels = append(m.Levels, i+1)
	}
	for _, t := range task.Steps {
		m.Steps = append(m.Steps, padStepOf(t))
		if t.Kind != drill.TakeOff && m.Asked == "" {
			m.Asked = t.Words()
		}
		if off := math.Max(t.Limits.Offset, t.Limits.HomeOffset); off > 0 {
			m.Offset = off
		}
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
		"course": g.Key, "steps": m.Steps, "offset": m.Offset, "other": cell.Side.Other(),
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
	next, again := againAt(k.StudentID, d, k.Side, k.Aids, k.Level, k.Source)
	v.Again = again
	if d.Sided {
		v.Next = string(next)
	}
	return v
}
