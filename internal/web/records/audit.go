package records

import (
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// auditModel is who did what.
type auditModel struct {
	Rows    []auditRow
	Student string
	Back    string
	More    string
}

type auditRow struct{ When, By, What, Of, Href string }

// AuditPage shows who did what, the newest first.
func (s Pages) AuditPage(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	const most = 100
	before := s.Now().Add(time.Hour)
	if t, err := time.Parse(time.RFC3339Nano, c.Query("before")); err == nil {
		before = t
	}
	var student *uuid.UUID
	m := auditModel{}
	var list []store.Act
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
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
		s.Failed(c, err)
		return
	}
	loc := p.Zone()
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
	s.Render(c, http.StatusOK, "audit", frame.Page{Title: "Who did what", Place: "Records", Body: m})
}
