package school

import (
	"net/http"
	"slices"

	"github.com/gin-gonic/gin"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/school"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// stepsModel is how the first steps of a school stand.
type stepsModel struct {
	Steps      []stepRow
	Open       school.Step // whose form is shown
	Left       int
	Site       store.Site // the newest
	Templates  []course.Template
	Classes    []craft.Class
	Types      []craft.Type
	Chemistry  []craft.Chemistry
	Aids       []craft.Aids
	Flown      []craft.Type // of which the school has a craft
	Programmes []drill.Programme
	Students   []store.Student
	Form       frame.InviteForm
	Back       string
}

type stepRow struct {
	Step  school.Step
	State school.StepState
	Words string
	Has   int
}

// StartPage shows the first steps: what is done, what is left, and the form of the next one or of the one that was
// asked for.
func (s Pages) StartPage(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	m := stepsModel{Templates: course.Templates, Classes: craft.Classes, Aids: craft.AidsOrder,
		Chemistry: craft.Chemistries, Back: "/start", Form: frame.InviteForm{Back: "/start"}}
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		has, skipped, err := tx.FirstSteps(ctx)
		if err != nil {
			return err
		}
		at := school.ProgressOf(has, skipped)
		m.Left, m.Open = len(at.Left), at.Next
		if asked := school.Step(c.Query("step")); slices.Contains(school.Steps, asked) {
			m.Open = asked
		}
		for _, step := range school.Steps {
			m.Steps = append(m.Steps, stepRow{Step: step, State: at.States[step], Words: step.Words(), Has: has.Of(step)})
		}
		sites, err := tx.Sites(ctx)
		if err != nil {
			return err
		}
		if len(sites) > 0 {
			m.Site = sites[len(sites)-1]
		}
		fleet, err := tx.Fleet(ctx)
		if err != nil {
			return err
		}
		for _, key := range s.Cat.Craft.Keys() {
			t := s.Cat.Craft[key]
			m.Types = append(m.Types, t)
			if slices.ContainsFunc(fleet, func(k store.Craft) bool { return k.Type == key }) {
				m.Flown = append(m.Flown, t)
			}
		}
		m.Students, err = tx.Students(ctx)
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	if len(m.Flown) == 0 {
		m.Flown = m.Types
	}
	for _, k := range s.Cat.ProgrammeKeys() {
		m.Programmes = append(m.Programmes, s.Cat.Programmes[k])
	}
	s.Render(c, http.StatusOK, "start", frame.Page{Title: "First steps", Place: "School", Body: m})
}

// SkipStep skips a first step, or takes it up again.
func (s Pages) SkipStep(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	step := school.Step(c.PostForm("step"))
	if !slices.Contains(school.Steps, step) {
		s.WrongInput(c, msgStepNotKnown, msgGoBackFirst)
		return
	}
	skip := c.PostForm("do") != "resume"
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error { return tx.SkipStep(ctx, step, skip) })
	to := "/start"
	if !skip {
		to += "?step=" + string(step)
	}
	s.Done(c, err, to)
}
