package frame

import (
	"fmt"
	"net/http"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/marking"
	"maestrale/core/plan"
	"maestrale/core/readiness"
	"maestrale/core/score"
	"maestrale/internal/attempt"
	"maestrale/internal/knowledge"
	"maestrale/internal/refusal"
	"maestrale/internal/store"
)

var GateWords = map[readiness.State]string{
	readiness.GateNotReady: "Not yet", readiness.GateReady: msgReadySigned, readiness.GateSigned: "Signed",
	readiness.GateLapsed: "Lapsed",
}

// Theirs reads the student of the address with all that is known of them, and
// more in the same transaction; a student's own only for a student.
func (s Request) Theirs(c *gin.Context, more func(tx store.Tx, student uuid.UUID) error) (j *knowledge.Student,
	err error) {
	p := Person(c)
	id, err := Param(c, "student")
	if err == nil {
		err = OwnOnly(p, id)
	}
	if err != nil {
		return nil, err
	}
	err = s.Store.InSchool(c.Request.Context(), p.SchoolID, func(tx store.Tx) error {
		if j, err = s.Students().Of(c.Request.Context(), tx, id); err != nil || more == nil {
			return err
		}
		return more(tx, id)
	})
	return j, err
}

func (s *Frame) BackTo(c *gin.Context, address string, err error) {
	switch wrong := err.(type) {
	case nil:
		c.Redirect(http.StatusSeeOther, address)
	case refusal.Error:
		s.Problem(c, http.StatusConflict, Problem{What: string(wrong),
			Do: msgGoBackStudent})
	default:
		s.Failed(c, err)
	}
}

// NextOf is today's list for a student, in the wind that is known now.
func (s Request) NextOf(c *gin.Context, j *knowledge.Student) (l plan.LessonPlan, err error) {
	return s.nextIn(c, j, knowledge.AirNow(Person(c), s.Now()))
}

func (s Request) nextIn(c *gin.Context, j *knowledge.Student, air knowledge.Air) (l plan.LessonPlan, err error) {
	ctx := c.Request.Context()
	err = s.Store.InSchool(ctx, Person(c).SchoolID, func(tx store.Tx) error {
		l, err = s.Students().WhatNext(ctx, tx, j, air)
		return err
	})
	return l, err
}

// Chosen reads which cell is meant; where no drill is said it is what comes next.
func (s Request) Chosen(c *gin.Context, j *knowledge.Student) (drill.Cell, error) {
	asked := drill.Cell{Drill: c.Query("drill"), Side: field.Side(c.Query("side")), Aids: craft.Aids(c.Query("aids")),
		Level: 1}
	if l, err := strconv.Atoi(c.Query("level")); err == nil {
		asked.Level = l
	}
	if asked.Drill == "" {
		l, err := s.NextOf(c, j)
		if err != nil {
			return asked, err
		}
		if asked = l.First(); asked.Drill == "" { // nothing is open in this wind: what would be without it
			if l, err = s.nextIn(c, j, knowledge.Unknown); err != nil {
				return asked, err
			}
			asked = l.First()
		}
		if asked.Drill == "" {
			return asked, store.ErrNotFound
		}
	}
	cell, err := j.Choose(asked)
	if err != nil {
		return cell, store.ErrNotFound
	}
	d := s.Cat.Drills[cell.Drill]
	if d.Closed == drill.Open {
		return cell, nil
	}
	ctx := c.Request.Context()
	return cell, s.Store.InSchool(ctx, Person(c).SchoolID, func(tx store.Tx) error {
		return s.Students().IsOpen(ctx, tx, j,
			d)
	})
}

type DrillChoice struct{ Key, Title string }

// CourseChoice is a course that can be chosen.
type CourseChoice struct {
	Key, Name string
	Chosen    bool
}

// CourseIn is courseAt in a transaction of its own.
func (s *Frame) CourseIn(c *gin.Context, key string) (g attempt.Course, err error) {
	if key == "" {
		return g, nil
	}
	ctx := c.Request.Context()
	err = s.Store.InSchool(ctx, Person(c).SchoolID, func(tx store.Tx) error {
		g, err = attempt.CourseAt(ctx, tx, key)
		return err
	})
	return g, err
}

// CoursesToFlyOn lists the school's courses, the chosen one marked.
func (s *Frame) CoursesToFlyOn(c *gin.Context, chosen string) (out []CourseChoice, err error) {
	ctx := c.Request.Context()
	err = s.Store.InSchool(ctx, Person(c).SchoolID, func(tx store.Tx) error {
		list, err := tx.Courses(ctx)
		for _, k := range list {
			id := k.ID.String()
			out = append(out, CourseChoice{id, k.Site + ", " + k.Name, strings.HasPrefix(chosen, id)})
		}
		return err
	})
	return out, err
}

var VerdictSigns = marking.Signs

// AgainAt is where an item is marked or flown once more.
func AgainAt(student uuid.UUID, next drill.Cell, src score.Source) string {
	do := "mark"
	if src == score.Sim {
		do = "fly"
	}
	return fmt.Sprintf("/students/%s/%s?drill=%s&side=%s&aids=%s&level=%d", student, do, next.Drill, next.Side, next.Aids,
		next.Level)
}

// Addressed gives a verdict the addresses of its debrief, its student and of the next attempt, which is on the other
// side if the drill has sides.
func Addressed(v marking.Verdict, student uuid.UUID, cell drill.Cell, src score.Source) marking.Verdict {
	if v.Next != "" {
		cell.Side = field.Side(v.Next)
	}
	v.Debrief, v.Student, v.Again = "/attempts/"+v.Attempt, "/students/"+student.String(), AgainAt(student, cell, src)
	return v
}

// Forgotten is what a student is called whose name was taken out.
const Forgotten = msgStudentWhoLeft
