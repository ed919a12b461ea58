package course

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"github.com/gin-gonic/gin"

	"maestrale/core/craft"
	"maestrale/core/orient"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// toldOn is how far the nose of a craft is told by those who fly it, on a course.
type toldOn struct {
	Cue    string
	By     []toldBy // those who called, the nearest first
	Beyond []string // drills that go farther than the nearest tells
}

type toldBy struct{ ID, Name, Tell string }

// mostTold is how many students a course is held to.
const mostTold = 40

// tellOnCourse holds a course to the students who fly a type and have called: the nearest of
// them limits it; without any the colour cue does.
func (s Pages) tellOnCourse(c *gin.Context, m *courseModel, t craft.Type) error {
	if t.CueSpaceM <= 0 {
		return nil
	}
	ctx := c.Request.Context()
	cue, err := orient.TellDistance(t.CueSpaceM, 1, orient.Day)
	if err != nil {
		return fmt.Errorf("the visual range: %w", err)
	}
	m.Ask.TellM, m.Told.Cue = cue, fmt.Sprintf("%.0f m", math.Floor(cue))
	type one struct {
		st store.Student
		x  orient.Sight
	}
	var list []one
	err = s.Store.InSchool(ctx, frame.Person(c).SchoolID, func(tx store.Tx) error {
		students, err := tx.StudentsWhoCalled(ctx, t.Key, mostTold)
		if err != nil {
			return err
		}
		for _, st := range students {
			x, err := s.Students().SightOn(ctx, tx, st.ID, t, orient.Day)
			if err != nil {
				return err
			}
			if !x.FromCue {
				list = append(list, one{st, x})
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	slices.SortStableFunc(list, func(a, b one) int { return cmp.Compare(a.x.TellM, b.x.TellM) })
	for i, k := range list {
		if i == 0 {
			m.Ask.TellM = k.x.TellM
		}
		m.Told.By = append(m.Told.By, toldBy{k.st.ID.String(), k.st.Name, fmt.Sprintf("%.0f m", math.Floor(k.x.TellM))})
	}
	return nil
}
