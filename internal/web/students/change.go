package students

import (
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/readiness"
	"maestrale/internal/refusal"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// ChangeStudent keeps a student's name, programme, craft, aim and goal, or that the student left or came back.
func (s Pages) ChangeStudent(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	id, err := frame.Param(c, "student")
	if err != nil {
		s.Failed(c, err)
		return
	}
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		st, err := tx.Student(ctx, id)
		if err != nil {
			return err
		}
		said := ""
		switch c.PostForm("do") {
		case "leave":
			day := s.Now().In(p.Zone())
			st.LeftOn, said = &day, "noted that "+st.Name+" left"
		case "return":
			st.LeftOn, said = nil, "noted that "+st.Name+" came back"
		default:
			if said, err = s.changed(c, &st); err != nil {
				return err
			}
		}
		return errors.Join(tx.ChangeStudent(ctx, st), tx.Did(ctx, p.ID, &id, said))
	})
	s.BackTo(c, "/students/"+id.String(), err)
}

// changed reads what the form changes of a student, and says it.
func (s Pages) changed(c *gin.Context, st *store.Student) (said string, err error) {
	before := *st
	st.Name, st.Programme, st.CraftType = frame.CleanName(c.PostForm("name")), c.PostForm("programme"), c.PostForm("craft")
	st.TrainsFor, st.Goal = frame.CleanName(c.PostForm("trains_for")), frame.CleanName(c.PostForm("goal"))
	st.Grip = c.PostForm("grip")
	_, programme := s.Cat.Programmes[st.Programme]
	_, craftType := s.Cat.Craft[st.CraftType]
	switch {
	case st.Name == "":
		return "", refusal.Error(msgStudentNoName)
	case !slices.Contains(readiness.Grips, st.Grip):
		return "", refusal.Error(msgGripNotKnown)
	case !programme || !craftType:
		return "", refusal.Error(msgProgrammeOrCraft)
	}
	said = msgChangedStudentPage
	if before.Name != st.Name {
		said = fmt.Sprintf(msgNamedStudentBefore, st.Name, before.Name)
	}
	if before.Programme != st.Programme {
		said += fmt.Sprintf(msgToTheProgramme, s.Cat.Programmes[st.Programme].Title)
	}
	return said, nil
}

// RedactNote takes the text of a note out, for good.
func (s Pages) RedactNote(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	var attempt uuid.UUID
	_, ok := s.About(c, "note", func(tx store.Tx, id uuid.UUID) (err error) {
		if attempt, err = tx.AttemptOfNote(ctx, id); err != nil {
			return err
		}
		return errors.Join(tx.Redact(ctx, id, p.ID, p.Name), tx.Did(ctx, p.ID, nil, msgTookTextNote))
	})
	if ok {
		s.Done(c, nil, "/attempts/"+attempt.String()+"#notes")
	}
}

// leftWords says since when a student has left.
func leftWords(day *time.Time) string {
	if day == nil {
		return ""
	}
	return day.Format("2 January 2006")
}
