package web

import (
	"errors"
	"fmt"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/internal/device"
	"maestrale/internal/store"
)

type sitesModel struct {
	Sites     []siteRow
	Settings  store.Settings
	Meter     meterModel
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

// coursesPage lists where the school flies, with its courses and its wind.
func (s *Server) coursesPage(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	m := sitesModel{Templates: course.Templates, Classes: craft.Classes, May: p.Role == store.Chief || p.Role == store.Instructor, Chief: p.Role == store.Chief, PaceM: p.PaceM}
	err := s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) (err error) {
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
					row.Courses = append(row.Courses, courseRow{k, m.Settings.CourseID != nil && *m.Settings.CourseID == k.ID, k.At.In(zone(p)).Format("Mon 2 Jan 15:04")})
				}
			}
			m.Sites = append(m.Sites, row)
		}
		w, err := tx.WindNow(ctx)
		if errors.Is(err, store.ErrNotFound) {
			m.Meter = s.meterOf(p, m.Settings, w, false)
			return nil
		}
		m.Meter = s.meterOf(p, m.Settings, w, err == nil)
		return err
	})
	if err != nil {
		s.failed(c, err)
		return
	}
	pg := page{Title: "Sites and courses", Place: "Course", Body: m}
	if m.Settings.CourseID != nil {
		pg.Action = &action{"Today's course", "/courses/" + m.Settings.CourseID.String(), "n"}
		pg.Keys = []key{{"n", "today's course"}}
	}
	s.render(c, http.StatusOK, "sites", pg)
}

// home of Course: today's, or the list.
func (s *Server) courseHome(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	var set store.Settings
	err := s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) (err error) {
		set, err = tx.Settings(ctx)
		return err
	})
	if err != nil {
		s.failed(c, err)
		return
	}
	to := "/sites"
	if set.CourseID != nil {
		to = "/courses/" + set.CourseID.String()
	}
	c.Redirect(http.StatusSeeOther, to)
}

func (s *Server) postSite(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	lat, err1 := needNumber(c, "latitude", -90, 90)
	lon, err2 := needNumber(c, "longitude", -180, 180)
	alt, err3 := formNumber(c, "elevation", -1000, 9000)
	if err := errors.Join(err1, err2, err3); err != nil {
		s.wrongInput(c, "The site's place could not be read: "+firstLine(err)+".", "Give degrees with a point, south and west negative.")
		return
	}
	site := store.Site{ID: store.NewID(), Name: cleanName(c.PostForm("name")), Notes: cleanText(c.PostForm("notes")), Geo: field.Geo{LatDeg: lat, LonDeg: lon}}
	if alt != nil {
		site.AltM = *alt
	}
	if id, err := uuid.Parse(c.PostForm("id")); err == nil {
		site.ID = id
	}
	if site.Name == "" {
		s.wrongInput(c, "The site has no name.", "Write a name of up to 120 letters.")
		return
	}
	err := s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error { return tx.KeepSite(ctx, site) })
	if errors.Is(err, store.ErrTaken) {
		s.wrongInput(c, "Another site has the name "+site.Name+".", "Choose another name.")
		return
	}
	if err != nil {
		s.failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/sites")
}

// cleanText keeps line breaks, and cuts at 2000 letters.
func cleanText(t string) string {
	t = strings.TrimSpace(strings.Map(func(r rune) rune {
		if r < ' ' && r != '\n' {
			return -1
		}
		return r
	}, strings.ToValidUTF8(t, "")))
	if r := []rune(t); len(r) > 2000 {
		return string(r[:2000])
	}
	return t
}

// firstLine is the first of several errors.
func firstLine(err error) string {
	t, _, _ := strings.Cut(err.Error(), "\n")
	return t
}

// postSettings keeps what the chief sets: the wind meter and the compass policy.
func (s *Server) postSettings(c *gin.Context) {
	back := "/sites"
	var change func(*store.Settings) error
	switch c.Param("what") {
	case "meter":
		addr := strings.TrimSpace(c.PostForm("address"))
		zero, err := formNumber(c, "zero_deg", -360, 360)
		if addr != "" && err == nil {
			err = device.CheckAddr(addr)
		}
		if err != nil {
			s.wrongInput(c, "The wind meter could not be set: "+err.Error()+".", "Write its address as 127.0.0.1:10110, and the true direction of its zero mark.")
			return
		}
		change = func(set *store.Settings) error {
			set.MeterAddr, set.MeterZeroDeg = addr, 0
			if zero != nil {
				set.MeterZeroDeg = *zero
			}
			return nil
		}
	case "position", "charger":
		addr := strings.TrimSpace(c.PostForm("address"))
		if addr != "" {
			if err := device.CheckAddr(addr); err != nil {
				s.wrongInput(c, "The stream could not be set: "+err.Error()+".", "Write its address as 127.0.0.1:10111.")
				return
			}
		}
		change = func(set *store.Settings) error {
			if c.Param("what") == "charger" {
				set.ChargerAddr = addr
			} else {
				set.PositionAddr = addr
			}
			return nil
		}
	case "hand-catch":
		on := c.PostForm("on") == "yes"
		if on && c.PostForm("cautions") != "read" {
			s.wrongInput(c, "Catching by hand was not switched on: its cautions were not ticked.", "Read them, and tick that you did.")
			return
		}
		change = func(set *store.Settings) error {
			set.HandCatch = on
			return nil
		}
	case "compass":
		back = "/fleet"
		km, err1 := formNumber(c, "km", 0, 1e6)
		days, err2 := formNumber(c, "days", 0, 1e6)
		policy := policyOf(c.PostForm("kind"), km, days)
		if err := errors.Join(err1, err2, policy.Check()); err != nil {
			s.wrongInput(c, "The compass policy could not be read: "+firstLine(err)+".", "Choose one of the three, with a distance and a time for the second.")
			return
		}
		change = func(set *store.Settings) error {
			set.CompassKind, set.CompassKm, set.CompassDays = string(policy.Kind), policy.Km, policy.Days
			return nil
		}
	default:
		s.notFound(c)
		return
	}
	if err := s.changeSettings(c, change); err != nil {
		s.failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, back)
}

// changeSettings changes what the school has set.
func (s *Server) changeSettings(c *gin.Context, change func(*store.Settings) error) error {
	ctx, p := c.Request.Context(), person(c)
	return s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		set, err := tx.Settings(ctx)
		if err != nil {
			return err
		}
		if err := change(&set); err != nil {
			return err
		}
		return tx.KeepSettings(ctx, set)
	})
}

// postPace keeps the length of the person's own pace.
func (s *Server) postPace(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	metres, err1 := needNumber(c, "metres", 1, 200)
	paces, err2 := needNumber(c, "paces", 1, 400)
	if err := errors.Join(err1, err2); err != nil || metres/paces < 0.3 || metres/paces > 1.5 {
		what := fmt.Sprintf("%.2f m a pace", metres/paces)
		if err != nil {
			what = firstLine(err)
		}
		s.wrongInput(c, "The pace could not be read: "+what+".", "Walk a taped length and give its metres and your paces; a pace is between 0.3 and 1.5 m.")
		return
	}
	if err := s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error { return tx.SetPace(ctx, p.ID, metres/paces) }); err != nil {
		s.failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/sites")
}

// siteOf is the site that a form changes, or a new one.
func siteOf(v any) store.Site {
	if row, ok := v.(siteRow); ok {
		return row.Site
	}
	return store.Site{ID: store.NewID()}
}
