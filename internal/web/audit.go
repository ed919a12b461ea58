package web

import (
	"errors"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/internal/store"
)

// auditModel is who did what.
type auditModel struct {
	Rows    []auditRow
	Student string
	Back    string
	More    string
}

type auditRow struct{ When, By, What, Of, Href string }

// auditPage shows who did what, the newest first.
func (s *Server) auditPage(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	const most = 100
	before := s.now().Add(time.Hour)
	if t, err := time.Parse(time.RFC3339Nano, c.Query("before")); err == nil {
		before = t
	}
	var student *uuid.UUID
	m := auditModel{}
	var list []store.Act
	err := s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		if id, perr := uuid.Parse(c.Query("student")); perr == nil {
			st, err := tx.Student(ctx, id)
			if err != nil {
				return err
			}
			student, m.Student, m.Back = &id, st.Name, "/students/"+id.String()
		}
		var err error
		list, err = tx.Audit(ctx, student, before, most)
		return err
	})
	if err != nil {
		s.failed(c, err)
		return
	}
	loc := zone(p)
	for _, a := range list {
		row := auditRow{When: a.At.In(loc).Format("2 Jan 2006 15:04"), By: a.By, What: a.What}
		if a.Of != nil && a.Student != nil {
			row.Of, row.Href = *a.Student, "/students/"+a.Of.String()
		}
		m.Rows = append(m.Rows, row)
	}
	if len(list) == most {
		m.More = "/records/audit?before=" + list[most-1].At.UTC().Format(time.RFC3339Nano)
		if student != nil {
			m.More += "&student=" + student.String()
		}
	}
	s.render(c, http.StatusOK, "audit", page{Title: "Who did what", Place: "Records", Body: m})
}

// forgotten is what a student is called whose name was taken out.
const forgotten = "A student who left"

// forget takes a student's name and account out; only the student, or the chief on the
// student's word, and only with the name written out.
func (s *Server) forget(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	id, err := param(c, "student")
	if err == nil {
		err = ownOnly(p, id)
	}
	if err != nil {
		s.failed(c, err)
		return
	}
	err = s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		st, err := tx.Student(ctx, id)
		if err != nil {
			return err
		}
		if cleanName(c.PostForm("name")) != st.Name {
			return inputError("The name was not written as it stands in the record. Nothing was taken out.")
		}
		return errors.Join(tx.Did(ctx, p.ID, &id, "took the student's name and account out"), tx.Forget(ctx, id, forgotten+" ("+id.String()[:8]+")"))
	})
	if err == nil && p.Role == store.Learner {
		if derr := s.sessions.Destroy(ctx); derr != nil {
			s.failed(c, derr)
			return
		}
		c.Redirect(http.StatusSeeOther, "/sign-in")
		return
	}
	s.backTo(c, "/students", err)
}
