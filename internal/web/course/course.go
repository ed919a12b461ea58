package course

import (
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/core/misread"
	"maestrale/core/pack"
	"maestrale/internal/draw"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// courseModel is a course with everything that follows from how it lies.
type courseModel struct {
	Course    store.Course
	Laid      *course.Course
	Survey    course.Survey
	Ask       course.Ask
	Plan      template.HTML
	Markers   []course.Leg
	Hazards   []hazardRow
	Warnings  []warning
	Short     []course.Clearance // that are under what is wanted
	Nearest   []course.Clearance
	Sights    []sightRow
	Sun       sunRow
	Wind      courseWind
	Return    string
	Advice    string
	Heavier   string // the course is laid out for a smaller craft
	Drawn     string // what the drawing shows: all drills, one of them, or those of a student today
	Shows     []drawnChoice
	TurnBy    int // degrees that the advice turns by
	Crafts    []craft.Type
	Aids      []craft.Aids
	AidsNow   craft.Aids
	CraftNow  string
	Templates []course.Template
	Classes   []craft.Class
	Kinds     []string
	Surfaces  []string
	Versions  []store.Version
	Settings  store.Settings
	Today     bool
	May       bool
	Said      string // what was refused
	Query     template.URL
	Left      []string // drills that this course lacks a marker for
	PaceM     float64
	Away      string
	Span      int
	Spans     []int
	Told      toldOn
	Below     int // drills that are flown below the sky line
}

type hazardRow struct {
	course.Hazard
	Index  int
	Places string
}

type warning struct {
	Says, Do string
	short    float64 // m
}

type sightRow struct {
	course.Sight
	Says string
}

type sunRow struct {
	Says   string
	Sector string
	Blinds []string
}

type courseWind struct {
	Known bool
	Says  string
	Turn  string
	By    int // degrees to turn, rounded to five
}

// session is the school's session of a day.
func session(set store.Settings, day time.Time, loc *time.Location) (from, to time.Time, err error) {
	begins, err1 := frame.Clock(set.SessionFrom)
	ends, err2 := frame.Clock(set.SessionTo)
	if err := errors.Join(err1, err2); err != nil {
		return from, to, err
	}
	y, m, d := day.In(loc).Date()
	at := func(t time.Duration) time.Time {
		return time.Date(y, m, d, int(t.Hours()), int(t.Minutes())%60, 0, 0, loc)
	}
	from, to = at(begins), at(ends)
	if !to.After(from) {
		return from, to, fmt.Errorf("the session ends at %s and begins at %s; expected its end after its beginning",
			set.SessionTo, set.SessionFrom)
	}
	return from, to, nil
}

// courseOf reads a course and surveys it; what was just drawn need not be read
// again.
func (s Pages) courseOf(c *gin.Context, tx store.Tx, id uuid.UUID, laid *course.Course) (courseModel, error) {
	ctx, p := c.Request.Context(), frame.Person(c)
	var m courseModel
	var err error
	if m.Course, err = tx.Course(ctx, id); err != nil {
		return m, err
	}
	if m.Settings, err = tx.Settings(ctx); err != nil {
		return m, err
	}
	if m.Laid = laid; laid == nil {
		if m.Laid, err = course.Parse([]byte(m.Course.Source)); err != nil {
			return m, fmt.Errorf("read the course: %w", err)
		}
	}
	return m, s.survey(c, tx, &m, p)
}

// survey measures the course of a page.
func (s Pages) survey(c *gin.Context, tx store.Tx, m *courseModel, p *store.Person) error {
	m.Today = m.Settings.CourseID != nil && *m.Settings.CourseID == m.Course.ID
	m.May = p.Role == store.Chief || p.Role == store.Instructor
	for _, k := range s.Cat.Craft.Keys() {
		m.Crafts = append(m.Crafts, s.Cat.Craft[k])
	}
	t, ok := s.Cat.Craft[c.Query("craft")]
	if !ok {
		t = s.Cat.Craft["poiana"]
		if t.Key == "" {
			t = m.Crafts[0]
		}
	}
	m.CraftNow, m.Aids, m.AidsNow = t.Key, t.Aids, t.Aids[0]
	if a := craft.Aids(c.Query("aids")); slices.Contains(t.Aids, a) {
		m.AidsNow = a
	}
	alt := m.Course.SiteAltM
	density, err := pack.StandardDensity(alt, nil)
	if err != nil {
		return err
	}
	m.Ask = s.Days().Ask(m.Laid, t, m.AidsNow, p, density)
	if err := s.tellOnCourse(c, m, t); err != nil {
		return err
	}
	if m.Ask.From, m.Ask.To, err = session(m.Settings, s.Now(), p.Zone()); err != nil {
		return err
	}
	if m.Survey, err = m.Laid.SurveyOf(m.Ask); err != nil {
		m.Survey.GlareWhy = err.Error()
	}
	for _, b := range m.Survey.Beyond {
		m.Told.Beyond = append(m.Told.Beyond, fmt.Sprintf("%s, %.0f m", b.Title, b.FarM))
	}
	if err := s.choices(c.Request.Context(), tx, m, p); err != nil {
		return err
	}
	s.courseWords(m, p)
	m.draw(c, t, p)
	return nil
}

// draw draws the course: so much of it across, with the drills that were chosen.
func (m *courseModel) draw(c *gin.Context, t craft.Type, p *store.Person) {
	m.Templates, m.Classes, m.Kinds, m.Surfaces, m.PaceM = course.Templates, craft.Classes, course.HazardKinds,
		course.Surfaces, p.PaceM
	m.Spans = draw.Spans
	m.Span = draw.SpanFor(m.Laid, m.Ask.Envelopes)
	for _, sp := range draw.Spans {
		if c.Query("span") == fmt.Sprint(sp) {
			m.Span = sp
		}
	}
	m.Query = template.URL(fmt.Sprintf("craft=%s&aids=%s", t.Key, m.AidsNow))
	if c.Query("span") != "" {
		m.Query += template.URL(fmt.Sprintf("&span=%d", m.Span))
	}
	shown := m.Ask
	shown.Envelopes = m.drawn(c.Query("show"))
	m.Plan = draw.Course(m.Laid, m.Survey, shown, m.Span, m.May)
}

func (s Pages) CoursePage(c *gin.Context) {
	ctx := c.Request.Context()
	var m courseModel
	id, ok := s.About(c, "course", func(tx store.Tx, id uuid.UUID) (err error) {
		if m, err = s.courseOf(c, tx, id, nil); err != nil {
			return err
		}
		m.Versions, err = tx.Versions(ctx, id, 12)
		return err
	})
	if !ok {
		return
	}
	pg := frame.Page{Title: m.Course.Name, Place: "Course", Body: m,
		Keys: []frame.Key{{Key: "Tab", Does: msgMarkerHazardOr},
			{Key: "← ↑ → ↓", Does: msgMoveHalfMetre}, {Key: "u",
				Does: msgUndoLastChange}}}
	pg.Action = &frame.Action{Label: "Print sheet", Href: "/courses/" + id.String() + "/sheet.pdf?" + string(m.Query),
		Key: "p"}
	pg.Keys = append(pg.Keys, frame.Key{Key: "p", Does: "print sheet"})
	s.Render(c, http.StatusOK, "course", pg)
}

// ChangeCourse changes a course and shows it as it then lies. What would make it
// unsound is refused, and the course stays as it was.
func (s Pages) ChangeCourse(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	var m courseModel
	id, err := frame.Param(c, "course")
	if err == nil {
		err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
			k, err := tx.Course(ctx, id)
			if err != nil {
				return err
			}
			laid, err := course.Parse([]byte(k.Source))
			if err != nil {
				return fmt.Errorf("read the course: %w", err)
			}
			said := ""
			change, says, source, refused := s.courseChange(c, tx, id, k, laid)
			if refused == nil && change != nil {
				if refused = laid.Change(change); refused == nil {
					data, err := laid.YAML()
					if err != nil {
						return err
					}
					source = string(data)
				}
			}
			if refused != nil {
				said = frame.FirstLine(refused)
			} else if err := s.drawn(c, tx, k, says, source, laid); err != nil {
				return err
			}
			if source != "" && change == nil && refused == nil {
				laid = nil // another text took its place
			}
			m, err = s.courseOf(c, tx, id, laid)
			m.Said = said
			if err == nil {
				m.Versions, err = tx.Versions(ctx, id, 12)
			}
			return err
		})
	}
	switch {
	case errors.Is(err, store.ErrElsewhere):
		s.Problem(c, http.StatusConflict, frame.Problem{What: msgSomebodyElseChanged,
			Kept: msgOtherChangeKept, Do: msgLoadPageAgain})
		return
	case err != nil:
		s.Failed(c, err)
		return
	}
	if c.GetHeader("HX-Request") == "" {
		if m.Said != "" {
			s.WrongInput(c, fmt.Sprintf(msgCourseNotChanged, m.Said), msgGoBackCourse)
			return
		}
		c.Redirect(http.StatusSeeOther, "/courses/"+id.String()+"?"+string(m.Query))
		return
	}
	s.Render(c, http.StatusOK, "course", frame.Page{Body: m})
}

// drawn keeps a new version, and, for today's course, where it looks.
func (s Pages) drawn(c *gin.Context, tx store.Tx, k store.Course, says, source string, laid *course.Course) error {
	ctx, p := c.Request.Context(), frame.Person(c)
	if source == k.Source {
		return nil
	}
	if err := tx.Draw(ctx, k.ID, p.ID, k.Seq, s.Now(), says, source); err != nil {
		return err
	}
	set, err := tx.Settings(ctx)
	if err != nil || set.CourseID == nil || *set.CourseID != k.ID {
		return err
	}
	set.AwayDeg = awayOf(laid)
	return tx.KeepSettings(ctx, set)
}

func awayOf(laid *course.Course) *float64 {
	if laid.Plane == nil {
		return nil
	}
	away := laid.Plane.AwayDeg()
	return &away
}

// SetToday makes a course the day's, or sets the session.
func (s Pages) SetToday(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	id, err := frame.Param(c, "course")
	if err != nil {
		s.Failed(c, err)
		return
	}
	from, to := strings.TrimSpace(c.PostForm("session_from")), strings.TrimSpace(c.PostForm("session_to"))
	if from != "" || to != "" {
		if _, _, err := session(store.Settings{SessionFrom: from, SessionTo: to}, s.Now(), p.Zone()); err != nil {
			s.WrongInput(c, fmt.Sprintf(msgSessionCouldNot, frame.FirstLine(err)),
				msgGiveTwoTimes)
			return
		}
	}
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		k, err := tx.Course(ctx, id)
		if err != nil {
			return err
		}
		laid, err := course.Parse([]byte(k.Source))
		if err != nil {
			return fmt.Errorf("read the course: %w", err)
		}
		set, err := tx.Settings(ctx)
		if err != nil {
			return err
		}
		if c.PostForm("today") == "yes" {
			set.CourseID, set.AwayDeg = &id, awayOf(laid)
		}
		if from != "" {
			set.SessionFrom, set.SessionTo = from, to
		}
		return tx.KeepSettings(ctx, set)
	})
	s.Done(c, err, frame.Back(c, "/courses/"+id.String()))
}

// AddCourse lays a new course on a site from a template.
func (s Pages) AddCourse(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	name := frame.CleanName(c.PostForm("name"))
	siteID, err := uuid.Parse(c.PostForm("site"))
	away, awayErr := frame.NeedNumber(c, "away", 0, 360)
	laid, ok := course.Lay(c.PostForm("template"), craft.Class(c.PostForm("class")))
	if err != nil || name == "" || !ok || awayErr != nil {
		what := msgCourseNoName
		if awayErr != nil {
			what = fmt.Sprintf(msgWherePilotLooks, awayErr.Error())
		}
		s.WrongInput(c, what, msgFillEveryField)
		return
	}
	id := store.NewID()
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		sites, err := tx.Sites(ctx)
		if err != nil {
			return err
		}
		i := slices.IndexFunc(sites, func(x store.Site) bool { return x.ID == siteID })
		if i < 0 {
			return store.ErrNotFound
		}
		if laid.Plane, err = field.NewPlane(sites[i].Geo, away); err != nil {
			return misread.At(0, "", "%v", err)
		}
		laid.Name = name
		source, err := laid.YAML()
		if err != nil {
			return err
		}
		if err := tx.AddCourse(ctx, id, siteID, name); err != nil {
			return err
		}
		if err := tx.Draw(ctx, id, p.ID, 0, s.Now(), fmt.Sprintf(msgLaidFromTemplate, c.PostForm("template")),
			string(source)); err != nil || c.PostForm("today") != "yes" {
			return err
		}
		set, err := tx.Settings(ctx)
		if err != nil {
			return err
		}
		set.CourseID, set.AwayDeg = &id, awayOf(laid)
		return tx.KeepSettings(ctx, set)
	})
	s.Done(c, err, frame.Back(c, "/courses/"+id.String()))
}
