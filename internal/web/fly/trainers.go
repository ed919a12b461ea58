package fly

import (
	"fmt"
	"html/template"
	"net/http"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/orient"
	"maestrale/core/readiness"
	"maestrale/internal/draw"
	"maestrale/internal/knowledge"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// trainersModel is what a student can practise at a table, and what of it tonight.
type trainersModel struct {
	Student store.Student
	Tonight [2]string
	Ring    template.HTML
	Asked   int
	Trend   string
	Differ  string
	Due     orient.Level
	Passed  string
	Sight   sightWords
	HasCue  bool
	Own     bool // the student looks at it
}

func (s Pages) TrainersPage(c *gin.Context) {
	ctx := c.Request.Context()
	var answers []orient.Answer
	var lost []store.LostRun
	var sight orient.Sight
	m := trainersModel{Own: frame.Person(c).Role == store.Learner}
	j, err := s.Theirs(c, func(tx store.Tx, id uuid.UUID) (err error) {
		if answers, err = tx.Reflexes(ctx, id, mostAnswers); err != nil {
			return err
		}
		if lost, err = tx.LostRuns(ctx, id, mostLost); err != nil {
			return err
		}
		sight, err = s.Students().Sight(ctx, tx, id, "")
		m.HasCue = sight.CueM > 0
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	r, runs := orient.ReflexesOf(answers), knowledge.LostRuns(lost)
	sectors := r.Sectors()
	var with orient.Trainer
	m.Tonight, with = orient.Tonight(r, runs, readiness.SectorNames)
	m.Student, m.Ring, m.Asked, m.Trend = j.Student, draw.Reflexes(sectors), len(answers), trendOf(answers)
	m.Differ, m.Due, m.Sight = differs(sectors, readiness.RingOf(j.Cells(), j.Lay)), orient.Due(runs), sightSays(sight)
	m.Passed = msgNotFlownYet
	if g := orient.GradedOf("", runs); g.Flown > 0 {
		m.Passed = fmt.Sprintf(msgBroughtHomePassed, g.Passed, g.Flown)
	}
	begin := frame.Action{Label: "Begin: reflexes", Href: "/students/" + j.Student.ID.String() + "/reflex", Key: "n"}
	if with == orient.WithLost {
		begin = frame.Action{Label: msgBeginLostCraft, Href: "/students/" + j.Student.ID.String() + "/lost", Key: "n"}
	}
	s.Render(c, http.StatusOK, "trainers", frame.Page{Title: "Trainers: " + j.Student.Name, Place: "Fly", Body: m,
		Action: &begin, Keys: []frame.Key{{Key: "n", Does: msgBeginWhatTonight}}})
}
