package web

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"io"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/flight/rig"
	"maestrale/core/flight/trace"
	"maestrale/core/marking"
	"maestrale/core/readiness"
	"maestrale/core/record"
	"maestrale/core/score"
	"maestrale/internal/draw"
	"maestrale/internal/store"
)

// sentRun is a run of the simulator as the browser sends it.
type sentRun struct {
	ID      uuid.UUID       `json:"id"`
	FlownAt time.Time       `json:"flown_at"`
	Trace   json.RawMessage `json:"trace"`
}

// runState is what the server says of a run.
type runState struct {
	Kept    bool             `json:"kept"`
	Refused string           `json:"refused"` // why it was refused
	Ended   string           `json:"ended"`
	Cause   string           `json:"cause"`
	Verdict *marking.Verdict `json:"verdict"`
	Plan    template.HTML    `json:"plan"` // the limit drawing
}

// postRun takes a run that was flown in a browser, now or without a network: it
// is flown again here, and only what the server finds counts.
func (s *Server) postRun(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	student, err := param(c, "student")
	if err == nil {
		err = ownOnly(p, student)
	}
	if err != nil {
		s.failed(c, err)
		return
	}
	var in sentRun
	body, err := io.ReadAll(http.MaxBytesReader(c.Writer, c.Request.Body, trace.MaxBytes+1<<16))
	if err == nil {
		err = json.Unmarshal(body, &in)
	}
	if err == nil && in.ID == uuid.Nil {
		err = errors.New("the run has no id")
	}
	if err != nil {
		s.problem(c, http.StatusBadRequest, problem{What: "The run could not be read: " + err.Error(), Do: "The page keeps it; send it again."})
		return
	}
	now := s.now()
	if in.FlownAt.IsZero() || in.FlownAt.After(now) || now.Sub(in.FlownAt) > 90*24*time.Hour {
		in.FlownAt = now
	}
	kept := store.Run{ID: in.ID, StudentID: student, FlownAt: in.FlownAt, SentBy: p.ID, Trace: in.Trace}
	tr, err := trace.Read(bytes.NewReader(in.Trace))
	var again rig.Rerun
	var g onCourse
	if tr != nil {
		kept.Claimed, kept.Lost, kept.Coach = tr.Hash, tr.Lost, tr.Coach
	}
	if err == nil {
		var cat *drill.Catalogue
		if g, err = s.courseIn(c, tr.Course); err == nil {
			cat, err = s.drillsAsFlown(c, tr.Spec)
		}
		if err == nil {
			again, err = rig.Again(tr, cat, g.Laid)
		}
		kept.Reflown = again.Outcome.Hash
	}
	var file []byte
	if err == nil {
		file, err = again.CSV()
	}
	if err != nil {
		kept.Refused = err.Error()
	}
	var state runState
	err = s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		if kept.Refused == "" {
			sent, err := tx.Injections(ctx, kept.ID)
			if err != nil {
				return err
			}
			kept.Refused = unsent(tr, sent)
		}
		state, err = s.keepRun(c, tx, kept, tr, again, file, g)
		return err
	})
	if err != nil {
		s.failed(c, err)
		return
	}
	status := http.StatusOK
	if state.Refused != "" {
		status = http.StatusUnprocessableEntity
	}
	c.JSON(status, state)
}

// keepRun keeps a run, and the attempt that it became. One that is sent again
// changes nothing.
func (s *Server) keepRun(c *gin.Context, tx store.Tx, kept store.Run, tr *trace.Trace, r rig.Rerun, file []byte, g onCourse) (runState, error) {
	ctx := c.Request.Context()
	state := runState{Refused: kept.Refused, Ended: r.Outcome.Ended, Cause: r.Outcome.Cause, Kept: kept.Refused == ""}
	j, _, _, err := s.judgedFor(c, tx, kept.StudentID)
	if err != nil {
		return state, err
	}
	fresh, err := tx.AddRun(ctx, kept)
	if err != nil {
		return state, err
	}
	if !fresh {
		old, err := tx.Run(ctx, kept.ID)
		if errors.Is(err, store.ErrNotFound) || err == nil && (old.StudentID != kept.StudentID || old.Claimed != kept.Claimed) {
			state.Kept, state.Refused = false, "another run has this id"
			return state, nil
		}
		if err != nil {
			return state, err
		}
	}
	if kept.Refused != "" || r.Result == nil {
		return state, nil
	}
	aids, frame, automatic := tr.Flown()
	d, side, level := r.Task.Drill, r.Task.Side, r.Task.Level
	wind, from := tr.WindMps, tr.WindFromDeg
	cell := drill.Cell{Drill: d.Key, Side: side, Aids: craft.Aids(aids.String()), Level: level}
	a := store.NewAttempt{StudentID: kept.StudentID, CraftType: tr.Craft, Drill: d, By: kept.SentBy, Result: r.Result, Track: &store.TrackFile{File: file}, CourseSource: g.Source}
	a.Attempt = record.Attempt{ID: kept.ID.String(), At: kept.FlownAt, Drill: d.Key, Side: side, Aids: cell.Aids, Level: level, Frame: frame.String(),
		CraftClass: r.Task.Class, Source: score.Sim, Verdict: r.Result.Verdict, Margin: r.Result.Margin, WindMps: &wind, WindFromDeg: &from, Automatic: automatic, Zoom: tr.Zoom, Site: g.Site}
	a.Counts, a.WhyNot = d.Counts(drill.Flown{Frame: a.Frame, Zoom: a.Zoom, Automatic: automatic, WindMps: &wind, WindFromDeg: &from})
	if tr.Coach && a.Counts {
		a.Counts, a.WhyNot = false, "the coach was asked"
	}
	var closed inputError
	if err := s.isOpen(c, tx, j, d); errors.As(err, &closed) {
		a.Counts, a.WhyNot = false, string(closed)
	} else if err != nil {
		return state, err
	}
	before := j.cell(cell)
	if _, err := tx.Keep(ctx, kept.StudentID, a); err != nil {
		return state, err
	}
	after, _, _, err := s.judgedFor(c, tx, kept.StudentID)
	if err != nil {
		return state, err
	}
	v := s.verdictOf(a, d, before, after.cell(cell))
	v.Standing = simWords(before, after.cell(cell))
	_, v.Again = againAt(kept.StudentID, d, side, craft.Aids(tr.Aids), level, score.Sim)
	v.Again += fmt.Sprintf("&wind=%g@%g&gusts=%s", wind, from, tr.Gusts)
	if g.Key != "" {
		v.Again += "&course=" + g.Key
	}
	if tr.Lost != "" {
		v.Again = fmt.Sprintf("/students/%s/fly?lost=%s&drill=%s", kept.StudentID, tr.Lost, d.Key)
	}
	state.Verdict = &v
	state.Plan = draw.Plan(draw.Flight{Task: *r.Task, Result: r.Result, Track: r.Flown, Wind: &wind, From: &from})
	return state, nil
}

// runFile is a run as it was sent, with what the server made of it: for looking
// into what was refused.
func (s *Server) runFile(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	student, err := param(c, "student")
	var id uuid.UUID
	if err == nil {
		id, err = param(c, "run")
	}
	var r store.Run
	if err == nil {
		err = s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) (err error) {
			r, err = tx.Run(ctx, id)
			return err
		})
	}
	if err == nil && r.StudentID != student {
		err = store.ErrNotFound
	}
	if err != nil {
		s.failed(c, err)
		return
	}
	c.JSON(http.StatusOK, map[string]any{"format": "maestrale-sent-run/1", "id": r.ID, "flown_at": r.FlownAt, "refused": r.Refused, "claimed_sha256": r.Claimed, "reflown_sha256": r.Reflown, "trace": json.RawMessage(r.Trace)})
}

// simWords says what a run did to the simulator's standing of its cell: it never
// satisfies a gate.
func simWords(before, after readiness.Cell) string {
	w := after.SimStanding.String()
	if before.SimStanding != after.SimStanding {
		w = before.SimStanding.String() + " → " + w
	}
	return w + " in the simulator; what counts at the field is flown at the field"
}
