package web

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"slices"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/orient"
	"maestrale/internal/store"
)

// tellM is how far a student tells the nose by day; 0 where the craft says no cue.
func (s *Server) tellM(ctx context.Context, tx store.Tx, student uuid.UUID) (float64, error) {
	x, err := s.sightOf(ctx, tx, student, "")
	return x.TellM, err
}

// tellAloft reads how far the students who are in the air tell the nose of what they fly.
func (s *Server) tellAloft(ctx context.Context, tx store.Tx, b *board) error {
	b.tell = map[uuid.UUID]float64{}
	for i := range b.flown {
		f := &b.flown[i]
		if !f.InAir() || f.StudentID == nil {
			continue
		}
		x, err := sightOn(ctx, tx, *f.StudentID, s.cat.Craft[b.craft[f.CraftID].Type], orient.Day)
		if err != nil {
			return err
		}
		b.tell[f.ID] = x.TellM
	}
	return nil
}

// reachWords say how far a flight may go: from where the pack gets home, or to where its
// pilot tells the nose, whichever is nearer.
func reachWords(homeM, tellM float64) string {
	if tellM > 0 && tellM < homeM {
		return fmt.Sprintf("no farther than %.0f m, to which the nose is told", math.Floor(tellM))
	}
	return "gets home from " + metresWords(homeM)
}

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
func (s *Server) tellOnCourse(c *gin.Context, m *courseModel, t craft.Type) error {
	if t.CueSpaceM <= 0 {
		return nil
	}
	ctx := c.Request.Context()
	cue, err := orient.TellDistance(t.CueSpaceM, 1, orient.Day)
	if err != nil {
		return fmt.Errorf("how far the nose is told: %w", err)
	}
	m.Ask.TellM, m.Told.Cue = cue, fmt.Sprintf("%.0f m", math.Floor(cue))
	type one struct {
		st store.Student
		x  orient.Sight
	}
	var list []one
	err = s.store.InSchool(ctx, person(c).SchoolID, func(tx store.Tx) error {
		students, err := tx.StudentsWhoCalled(ctx, t.Key, mostTold)
		if err != nil {
			return err
		}
		for _, st := range students {
			x, err := sightOn(ctx, tx, st.ID, t, orient.Day)
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
