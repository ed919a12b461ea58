package web

import (
	"context"
	"fmt"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/internal/store"
)

// onCourse is the course that something is flown on: a version of one of the school's,
// or, when it is empty, the drill's own template.
type onCourse struct {
	Key    string // id@version
	Name   string
	Site   string
	Source string
	Laid   *course.Course
}

// courseChoice is a course that can be chosen.
type courseChoice struct {
	Key, Name string
	Chosen    bool
}

func courseFrom(k store.Course, source string, seq int) (onCourse, error) {
	laid, err := laidFrom(source)
	return onCourse{Key: k.ID.String() + "@" + strconv.Itoa(seq), Name: k.Site + ", " + k.Name, Site: k.Site, Source: source, Laid: laid}, err
}

// laidFrom reads a course as it was kept; nil for none.
func laidFrom(source string) (*course.Course, error) {
	if source == "" {
		return nil, nil //nolint:nilnil // the drill's template
	}
	laid, err := course.Parse([]byte(source))
	if err != nil {
		return nil, fmt.Errorf("the course as it was laid: %w", err)
	}
	return laid, nil
}

// courseAt finds the course that a key names: its version, or the newest where it names
// none. The word "day" is the course of the day, where there is one.
func (s *Server) courseAt(ctx context.Context, tx store.Tx, key string) (onCourse, error) {
	if key == "day" {
		set, err := tx.Settings(ctx)
		if err != nil || set.CourseID == nil {
			return onCourse{}, err
		}
		key = set.CourseID.String()
	}
	if key == "" {
		return onCourse{}, nil
	}
	name, version, exact := strings.Cut(key, "@")
	id, err := uuid.Parse(name)
	if err != nil {
		return onCourse{}, store.ErrNotFound
	}
	k, err := tx.Course(ctx, id)
	if err != nil {
		return onCourse{}, err
	}
	if !exact {
		return courseFrom(k, k.Source, k.Seq)
	}
	seq, err := strconv.Atoi(version)
	if err != nil {
		return onCourse{}, store.ErrNotFound
	}
	source, err := tx.VersionSource(ctx, id, seq)
	if err != nil {
		return onCourse{}, err
	}
	return courseFrom(k, source, seq)
}

// courseIn is courseAt in a transaction of its own.
func (s *Server) courseIn(c *gin.Context, key string) (g onCourse, err error) {
	if key == "" {
		return g, nil
	}
	ctx := c.Request.Context()
	err = s.store.InSchool(ctx, person(c).SchoolID, func(tx store.Tx) error {
		g, err = s.courseAt(ctx, tx, key)
		return err
	})
	return g, err
}

// coursesToFlyOn lists the school's courses, the chosen one marked.
func (s *Server) coursesToFlyOn(c *gin.Context, chosen string) (out []courseChoice, err error) {
	ctx := c.Request.Context()
	err = s.store.InSchool(ctx, person(c).SchoolID, func(tx store.Tx) error {
		list, err := tx.Courses(ctx)
		for _, k := range list {
			id := k.ID.String()
			out = append(out, courseChoice{id, k.Site + ", " + k.Name, strings.HasPrefix(chosen, id)})
		}
		return err
	})
	return out, err
}

// fitting lays a drill on a course, or on its own template where it does
// not fit; why says so.
func fitting(d drill.Drill, class craft.Class, g onCourse) (on onCourse, why string) {
	if g.Laid == nil {
		return onCourse{}, ""
	}
	if err := d.Fits(class, g.Laid); err != nil {
		return onCourse{}, "not on " + g.Name + ": " + err.Error()
	}
	return g, ""
}

// onCourseWords says on what a task is flown.
func onCourseWords(g onCourse, t drill.Task) string {
	switch {
	case g.Laid == nil:
		return ""
	case t.Scale < 1:
		return fmt.Sprintf("on %s, at %.0f %% of its size", g.Name, 100*t.Scale)
	}
	return "on " + g.Name
}

// chooseCourse finds the course that is chosen for a log.
func (s *Server) chooseCourse(c *gin.Context, m *logModel) (err error) {
	if m.on, err = s.courseIn(c, m.Chosen.Course); err != nil {
		return err
	}
	m.Chosen.Course = m.on.Key
	m.Courses, err = s.coursesToFlyOn(c, m.on.Key)
	return err
}
