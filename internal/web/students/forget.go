package students

import (
	"errors"
	"net/http"

	"github.com/gin-gonic/gin"

	"maestrale/internal/refusal"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// Forget takes a student's name and account out; only the student, or the chief on the
// student's word, and only with the name written out.
func (s Pages) Forget(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	id, err := frame.Param(c, "student")
	if err == nil {
		err = frame.OwnOnly(p, id)
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		st, err := tx.Student(ctx, id)
		if err != nil {
			return err
		}
		if frame.CleanName(c.PostForm("name")) != st.Name {
			return refusal.Error(msgNameNotWritten)
		}
		return errors.Join(tx.Did(ctx, p.ID, &id, msgTookStudentName), tx.Forget(ctx, id,
			frame.Forgotten+" ("+id.String()[:8]+")", p))
	})
	if err == nil && p.Role == store.Learner {
		if derr := s.Sessions.Destroy(ctx); derr != nil {
			s.Failed(c, derr)
			return
		}
		c.Redirect(http.StatusSeeOther, "/sign-in")
		return
	}
	s.BackTo(c, "/students", err)
}
