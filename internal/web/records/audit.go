package records

import (
	"net/http"
	"net/url"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/internal/catalogue"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// auditModel is who did what.
type auditModel struct {
	Rows     []auditRow
	People   []choice
	Students []choice
	Kinds    []choice
	Day      string
	Asked    bool   // something is asked for
	More     string // address of what was done earlier
}

// choice is something that a list can be cut down to.
type choice struct {
	Key, Words string
	Is         bool
}

type auditRow struct{ When, By, What, Of, Href string }

// auditMost is how many lines stand on a page.
const auditMost = 100

// AuditPage shows who did what, the newest first, of one person, student, kind or day where that is asked for.
func (s Pages) AuditPage(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	q, m := s.auditAsk(c, p.Zone())
	var list []store.Act
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		staff, err := tx.Staff(ctx)
		if err != nil {
			return err
		}
		for _, a := range staff {
			m.People = append(m.People, choice{a.ID.String(), a.Name, q.By != nil && *q.By == a.ID})
		}
		students, err := tx.AllStudents(ctx)
		if err != nil {
			return err
		}
		for _, st := range students {
			m.Students = append(m.Students, choice{st.ID.String(), st.Name, q.Student != nil && *q.Student == st.ID})
		}
		list, err = tx.Audit(ctx, q)
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	loc := p.Zone()
	for _, a := range list {
		row := auditRow{When: a.At.In(loc).Format("2 Jan 2006 15:04"), By: a.By, What: s.actWords(a)}
		if a.Of != nil && a.Student != nil {
			row.Of, row.Href = *a.Student, "/students/"+a.Of.String()
		}
		m.Rows = append(m.Rows, row)
	}
	if len(list) == auditMost {
		v := url.Values{"before": {list[auditMost-1].At.UTC().Format(time.RFC3339Nano)}}
		for _, k := range []string{"by", "student", "kind", "day"} {
			if c.Query(k) != "" {
				v.Set(k, c.Query(k))
			}
		}
		m.More = "/records/audit?" + v.Encode()
	}
	s.Render(c, http.StatusOK, "audit", frame.Page{Title: msgWhoDidWhat, Place: "Records", Body: m})
}

// auditAsk reads what is asked for. What cannot be read is not asked for.
func (s Pages) auditAsk(c *gin.Context, zone *time.Location) (q store.AuditAsk, m auditModel) {
	q = store.AuditAsk{Before: s.Now().Add(time.Hour), Most: auditMost}
	for key, id := range map[string]**uuid.UUID{"by": &q.By, "student": &q.Student} {
		if parsed, err := uuid.Parse(c.Query(key)); err == nil {
			*id = &parsed
		}
	}
	if day, err := time.ParseInLocation("2006-01-02", c.Query("day"), zone); err == nil {
		m.Day, q.From, q.Before = c.Query("day"), day, day.AddDate(0, 0, 1)
	}
	if t, err := time.Parse(time.RFC3339Nano, c.Query("before")); err == nil && t.Before(q.Before) {
		q.Before = t
	}
	for _, k := range []store.ActKind{store.ActAttempt, store.ActCorrected, store.ActWitnessed, store.ActSigned,
		store.ActRead, store.ActWithdrew, store.ActTookOver, store.ActLesson, store.ActWrote, store.ActTookBack,
		store.ActCutOff, store.ActOther} {
		is := c.Query("kind") == string(k)
		if is {
			q.Kind = k
		}
		m.Kinds = append(m.Kinds, choice{string(k), say.Say("kind " + string(k)), is})
	}
	m.Asked = q.By != nil || q.Student != nil || q.Kind != "" || m.Day != ""
	return q, m
}

// actWords says an act with the titles that people know.
func (s Pages) actWords(a store.Act) string {
	arg := func(i int) string {
		if i < len(a.Args) {
			return a.Args[i]
		}
		return ""
	}
	switch a.Kind {
	case store.ActAttempt, store.ActCorrected:
		return say.Say("did "+string(a.Kind), s.Cat.TitleOf(arg(0), field.Side(arg(1))), craft.Aids(arg(2)).Words(), arg(3))
	case store.ActWitnessed:
		return say.Say("did witnessed", s.actTitle(arg(0)))
	case store.ActSigned:
		if arg(2) != "" {
			return say.Say("did override", s.Cat.Gates[arg(0)].Title, arg(1), arg(2))
		}
		return say.Say("did signed", s.Cat.Gates[arg(0)].Title, arg(1))
	case store.ActTookOver:
		if arg(2) == "t" {
			return say.Say(msgDidImportCounting, arg(0), arg(1))
		}
		return say.Say("did import", arg(0), arg(1))
	case store.ActWrote, store.ActTookBack:
		return say.Say("did "+string(a.Kind), say.Say("file "+arg(0)), s.fileTitle(arg(0)+"/1", arg(1)), arg(2))
	case store.ActOther:
		return arg(0)
	}
	return say.Say("did "+string(a.Kind), arg(0))
}

// actTitle is what an act to be witnessed is called; one of a gate that is gone is its key.
func (s Pages) actTitle(key string) string {
	for _, g := range s.Cat.Gates {
		for _, w := range g.Witnessed {
			if w.Key == key {
				return w.Title
			}
		}
	}
	return key
}

// fileTitle is the title of what a file of the school's own holds; its key where it is gone.
func (s Pages) fileTitle(format, key string) string {
	title := ""
	switch format {
	case catalogue.Gate:
		title = s.Cat.Gates[key].Title
	case catalogue.Programme:
		title = s.Cat.Programmes[key].Title
	case catalogue.Drill:
		title = s.Cat.Drills[key].Title
	}
	if title == "" {
		return key
	}
	return title
}
