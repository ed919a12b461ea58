package web

import (
	"fmt"
	"html/template"
	"net/http"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/orient"
	"maestrale/core/readiness"
	"maestrale/internal/draw"
	"maestrale/internal/store"
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

func (s *Server) trainersPage(c *gin.Context) {
	ctx := c.Request.Context()
	var answers []orient.Answer
	var lost []store.LostRun
	var sight orient.Sight
	m := trainersModel{Own: person(c).Role == store.Learner}
	j, err := s.theirs(c, func(tx store.Tx, id uuid.UUID) (err error) {
		if answers, err = tx.Reflexes(ctx, id, mostAnswers); err != nil {
			return err
		}
		if lost, err = tx.LostRuns(ctx, id, mostLost); err != nil {
			return err
		}
		sight, err = s.sightOf(ctx, tx, id, "")
		m.HasCue = sight.CueM > 0
		return err
	})
	if err != nil {
		s.failed(c, err)
		return
	}
	r, runs := orient.ReflexesOf(answers), orientRuns(lost)
	sectors := r.Sectors()
	var with orient.Trainer
	m.Tonight, with = orient.Tonight(r, runs, readiness.SectorNames)
	m.Student, m.Ring, m.Asked, m.Trend = j.student, draw.Reflexes(sectors), len(answers), trendOf(answers)
	m.Differ, m.Due, m.Sight = differs(sectors, readiness.RingOf(j.cells(), s.layFor(j))), orient.Due(runs), sightSays(sight)
	m.Passed = "not flown yet"
	if g := orient.GradedOf("", runs); g.Flown > 0 {
		m.Passed = fmt.Sprintf("%d of %d brought home and passed", g.Passed, g.Flown)
	}
	begin := action{"Begin: reflexes", "/students/" + j.student.ID.String() + "/reflex", "n"}
	if with == orient.WithLost {
		begin = action{"Begin: lost craft", "/students/" + j.student.ID.String() + "/lost", "n"}
	}
	s.render(c, http.StatusOK, "trainers", page{Title: "Trainers: " + j.student.Name, Place: "Fly", Body: m, Action: &begin, Keys: []key{{"n", "begin what is for tonight"}}})
}
