package students

import (
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/misread"
	"maestrale/core/score"
	"maestrale/core/track"
	"maestrale/internal/attempt"
	"maestrale/internal/draw"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// score runs the scorer over a held log and draws it.
func (s Pages) scoreHeld(m *logModel, t *track.Track) (drill.Drill, *score.Result, error) {
	d, err := s.Cat.Drill(m.Chosen.Drill)
	if err != nil {
		return d, nil, err
	}
	ct, ok := s.Cat.Craft[m.Chosen.Craft]
	if !ok {
		return d, nil, fmt.Errorf("craft %q is not known", m.Chosen.Craft)
	}
	if m.on.Laid != nil {
		if err := d.Fits(ct.Class(), m.on.Laid); err != nil {
			return d, nil, err
		}
	}
	task, err := d.Lay(field.Side(m.Chosen.Side), m.Chosen.Level, ct.Class(), m.on.Laid)
	if err != nil {
		return d, nil, err
	}
	m.On = m.on.Words(task)
	r, err := score.Track(task, t, score.FromLog)
	if err != nil {
		return d, nil, err
	}
	m.Result, m.Sign, m.Steps = r, frame.VerdictSigns[r.Verdict], stepRows(task, r)
	f := draw.Flight{Task: task, Result: r}
	f.Drawn(t)
	m.Cleared = f.Log != nil
	m.Plan, m.Height, m.TimeLine = draw.Plan(f), draw.Height(f), draw.TimeLine(f)
	flown, err := m.Chosen.flown()
	if err != nil {
		return d, nil, err
	}
	flown.Side = field.Side(m.Chosen.Side)
	m.Counts, m.WhyNot = d.Counts(flown)
	return d, r, nil
}

// flown reads the wind of the form, as 4.5@180 or a mean alone.
func (l logChoice) flown() (drill.Flown, error) {
	if strings.TrimSpace(l.Wind) == "" {
		return drill.Flown{}, nil
	}
	v, err := strconv.ParseFloat(strings.Replace(strings.TrimSpace(l.Wind), ",", ".", 1), 64)
	if err != nil || v < 0 || v > 79 {
		return drill.Flown{}, misread.At(0, "metres a second, from 0 to 79", "the wind is %q", l.Wind)
	}
	return drill.Flown{WindMps: &v}, nil
}

func (s Pages) PreviewLog(c *gin.Context) {
	m, t, _, err := s.held(c)
	status := http.StatusOK
	if err == nil {
		_, _, err = s.scoreHeld(&m, t)
	}
	switch {
	case errors.Is(err, store.ErrNotFound):
		s.Failed(c, err)
		return
	case errors.Is(err, errAskSemicolons):
		status = http.StatusUnprocessableEntity
		m.Wrong, m.Do = msgColumnsFileSeparated, msgConfirmBelowRead
	case err != nil && m.Upload != nil:
		status = http.StatusUnprocessableEntity
		m.Wrong, m.Do = frame.Sentence(m.Upload.Name,
			err), msgSayBelowWhat
		m.Upload.Needs = true
	case err != nil:
		s.Failed(c, err)
		return
	}
	s.Render(c, status, "log", frame.Page{Title: "Score a log, " + m.Student.Name, Place: "Students", Body: m})
}

// KeepLog makes the attempt of a held log, or throws the log away.
func (s Pages) KeepLog(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	m, t, how, err := s.held(c)
	if m.Upload != nil && c.PostForm("do") == "throw" {
		if err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
			return tx.DropUpload(ctx,
				m.Upload.ID)
		}); err != nil {
			s.Failed(c, err)
			return
		}
		c.Redirect(http.StatusSeeOther, "/students/"+m.Student.ID.String())
		return
	}
	var d drill.Drill
	var r *score.Result
	if err == nil {
		d, r, err = s.scoreHeld(&m, t)
	}
	if err != nil {
		if m.Upload == nil || errors.Is(err, store.ErrNotFound) || store.Trouble(err) {
			s.Failed(c, err)
			return
		}
		m.Wrong, m.Do = frame.Sentence(m.Upload.Name, err), msgNothingKeptMend
		s.Render(c, http.StatusUnprocessableEntity, "log", frame.Page{Title: "Score a log, " + m.Student.Name,
			Place: "Students", Body: m})
		return
	}
	flown, _ := m.Chosen.flown() // read just now
	l := attempt.Log{ID: m.Upload.ID, Student: m.Student.ID, At: s.flownAt(t, m.Chosen.When, p), Drill: d,
		Craft: s.Cat.Craft[m.Chosen.Craft],
		Cell: drill.Cell{Drill: d.Key, Side: field.Side(m.Chosen.Side), Aids: craft.Aids(m.Chosen.Aids),
			Level: m.Chosen.Level},
		Course: m.on, Result: r, Track: &store.TrackFile{File: m.Upload.File, Reading: how}, Wind: flown.WindMps}
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		if _, err := s.Attempts().KeepLog(ctx, tx, l); err != nil {
			return err
		}
		if len(how.Rename) > 0 {
			var names []string
			for _, col := range m.Upload.Columns {
				names = append(names, col.Name)
			}
			if err := tx.KeepColumnMap(ctx, p.ID, names, how.Rename); err != nil {
				return err
			}
		}
		return tx.DropUpload(ctx, m.Upload.ID)
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/attempts/"+l.ID.String())
}

// flownAt is when a log was flown: by its own clock, else as the form says,
// else now.
func (s Pages) flownAt(t *track.Track, when string, p *store.Person) time.Time {
	now := s.Now()
	if !t.Start.IsZero() && t.Start.Before(now) {
		return t.Start
	}
	if at, err := time.ParseInLocation("2006-01-02T15:04", when, p.Zone()); err == nil && at.Before(now) {
		return at
	}
	return now
}
