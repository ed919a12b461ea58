package course

import (
	"errors"
	"fmt"
	"net/http"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/core/units"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

type sitesModel struct {
	Sites     []siteRow
	Settings  store.Settings
	Meter     frame.MeterModel
	May       bool // change sites and courses
	Chief     bool
	Templates []course.Template
	Classes   []craft.Class
	PaceM     float64
}

type siteRow struct {
	store.Site
	Courses []courseRow
}

type courseRow struct {
	store.Course
	Today bool
	When  string
}

// CoursesPage lists where the school flies, with its courses and its wind.
func (s Pages) CoursesPage(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	m := sitesModel{Templates: course.Templates, Classes: craft.Classes, May: p.Role == store.Chief ||
		p.Role == store.Instructor, Chief: p.Role == store.Chief, PaceM: p.PaceM}
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) (err error) {
		if m.Settings, err = tx.Settings(ctx); err != nil {
			return err
		}
		sites, err := tx.Sites(ctx)
		if err != nil {
			return err
		}
		courses, err := tx.Courses(ctx)
		if err != nil {
			return err
		}
		for _, site := range sites {
			row := siteRow{Site: site}
			for _, k := range courses {
				if k.SiteID == site.ID {
					row.Courses = append(row.Courses, courseRow{k, m.Settings.CourseID != nil && *m.Settings.CourseID == k.ID,
						k.At.In(p.Zone()).Format("Mon 2 Jan 15:04")})
				}
			}
			m.Sites = append(m.Sites, row)
		}
		w, err := tx.WindNow(ctx)
		if errors.Is(err, store.ErrNotFound) {
			m.Meter = s.MeterOf(p, m.Settings, w, false)
			return nil
		}
		m.Meter = s.MeterOf(p, m.Settings, w, err == nil)
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	pg := frame.Page{Title: msgSitesCourses, Place: "Course", Body: m}
	if m.Settings.CourseID != nil {
		pg.Action = &frame.Action{Label: "Today's course", Href: "/courses/" + m.Settings.CourseID.String(), Key: "n"}
		pg.Keys = []frame.Key{{Key: "n", Does: "today's course"}}
	}
	s.Render(c, http.StatusOK, "sites", pg)
}

// home of Course: today's, or the list.
func (s Pages) CourseHome(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	var set store.Settings
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) (err error) {
		set, err = tx.Settings(ctx)
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	to := "/sites"
	if set.CourseID != nil {
		to = "/courses/" + set.CourseID.String()
	}
	c.Redirect(http.StatusSeeOther, to)
}

func (s Pages) PostSite(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	lat, err1 := frame.NeedNumber(c, "latitude", -90, 90)
	lon, err2 := frame.NeedNumber(c, "longitude", -180, 180)
	alt, err3 := frame.FormMeasure(c, "elevation", units.Length, -1000, 9000)
	if err := errors.Join(err1, err2, err3); err != nil {
		s.WrongInput(c, fmt.Sprintf(msgSitePlaceCould, frame.FirstLine(err)),
			msgGiveDegreesPoint)
		return
	}
	site := store.Site{ID: store.NewID(), Name: frame.CleanName(c.PostForm("name")),
		Notes: frame.CleanText(c.PostForm("notes")), Geo: field.Geo{LatDeg: lat, LonDeg: lon}}
	if alt != nil {
		site.AltM = *alt
	}
	if err := course.CheckSite(site.Geo); err != nil {
		s.WrongInput(c, fmt.Sprintf(msgSiteNotKept, frame.FirstLine(err)), msgGiveDegreesField)
		return
	}
	if id, err := uuid.Parse(c.PostForm("id")); err == nil {
		site.ID = id
	}
	if site.Name == "" {
		s.WrongInput(c, msgSiteNoName, msgWriteNameUp)
		return
	}
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error { return tx.KeepSite(ctx, site) })
	if errors.Is(err, store.ErrTaken) {
		s.WrongInput(c, fmt.Sprintf(msgAnotherSiteName, site.Name), msgChooseAnotherName)
		return
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, frame.Back(c, "/sites"))
}

// FormSite is the site that a form changes.
func (r siteRow) FormSite() store.Site { return r.Site }
