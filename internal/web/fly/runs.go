package fly

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
	"maestrale/core/flight/trace"
	"maestrale/core/marking"
	"maestrale/core/rig"
	"maestrale/internal/attempt"
	"maestrale/internal/draw"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// sentRun is a run of the simulator as the browser sends it.
type sentRun struct {
	ID      uuid.UUID       `json:"id"`
	FlownAt time.Time       `json:"flown_at"`
	Trace   json.RawMessage `json:"trace"`
}

// RunState is what the server says of a run.
type RunState struct {
	Kept    bool             `json:"kept"`
	Refused string           `json:"refused"` // why it was refused
	Ended   string           `json:"ended"`
	Cause   string           `json:"cause"`
	Verdict *marking.Verdict `json:"verdict"`
	Plan    template.HTML    `json:"plan"` // the limit drawing
}

// PostRun takes a run that was flown in a browser, now or without a network: it
// is flown again here, and only what the server finds counts.
func (s Pages) PostRun(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	student, err := frame.Param(c, "student")
	if err == nil {
		err = frame.OwnOnly(p, student)
	}
	if err != nil {
		s.Failed(c, err)
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
		s.Problem(c, http.StatusBadRequest, frame.Problem{What: fmt.Sprintf(msgRunCouldNot, err.Error()),
			Do: msgPageKeepsSend})
		return
	}
	now := s.Now()
	if in.FlownAt.IsZero() || in.FlownAt.After(now) || now.Sub(in.FlownAt) > 90*24*time.Hour {
		in.FlownAt = now
	}
	kept := store.Run{ID: in.ID, StudentID: student, FlownAt: in.FlownAt, SentBy: p.ID, Trace: in.Trace}
	tr, again, g, file := s.replayed(c, &kept)
	var state RunState
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		if kept.Refused == "" {
			sent, err := tx.Injections(ctx, kept.ID)
			if err != nil {
				return err
			}
			kept.Refused = unsent(tr, sent)
		}
		var a attempt.Kept
		a, state.Refused, err = s.Attempts().KeepRun(ctx, tx, kept, tr, again, file, g)
		state.Ended, state.Cause, state.Kept = again.Outcome.Ended, again.Outcome.Cause, state.Refused == ""
		if err == nil && state.Kept && again.Result != nil {
			state.Verdict, state.Plan = verdictOfRun(a, tr, g), planOfRun(again, tr)
		}
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	status := http.StatusOK
	if state.Refused != "" {
		status = http.StatusUnprocessableEntity
	}
	s.JSON(c, status, state)
}

// replayed flies a run again as it was sent, and notes what came of it; one that cannot be flown again is refused.
func (s Pages) replayed(c *gin.Context, kept *store.Run) (tr *trace.Trace, again rig.Rerun, g attempt.Course,
	file []byte) {
	tr, err := trace.Read(bytes.NewReader(kept.Trace))
	if tr != nil {
		kept.Claimed, kept.Lost, kept.Coach = tr.Hash, tr.Lost, tr.Coach
	}
	if err == nil {
		var cat *drill.Catalogue
		if g, err = s.CourseIn(c, tr.Course); err == nil {
			cat, err = s.Catalogues.AsFlown(c.Request.Context(), s.Who.SchoolID, s.Cat, tr.Spec)
		}
		if err == nil {
			again, err = rig.Replay(tr, cat, g.Laid)
		}
		kept.Reflown = again.Outcome.Hash
	}
	if err == nil {
		file, err = again.CSV()
	}
	if err != nil {
		kept.Refused = err.Error()
	}
	return tr, again, g, file
}

// RunFile is a run as it was sent, with what the server made of it: for looking
// into what was refused.
func (s Pages) RunFile(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	student, err := frame.Param(c, "student")
	var id uuid.UUID
	if err == nil {
		id, err = frame.Param(c, "run")
	}
	var r store.Run
	if err == nil {
		err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) (err error) {
			r, err = tx.Run(ctx, id)
			return err
		})
	}
	if err == nil && r.StudentID != student {
		err = store.ErrNotFound
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	c.JSON(http.StatusOK, map[string]any{"format": "maestrale-sent-run/1", "id": r.ID, "flown_at": r.FlownAt,
		"refused": r.Refused, "claimed_sha256": r.Claimed, "reflown_sha256": r.Reflown, "trace": json.RawMessage(r.Trace)})
}

// verdictOfRun is the verdict of a run, with the address at which it is flown again as it was.
func verdictOfRun(k attempt.Kept, tr *trace.Trace, g attempt.Course) *marking.Verdict {
	a := &k.Attempt
	v := frame.Addressed(k.Verdict, k.After.Student.ID, drill.Cell{Drill: a.Drill, Side: a.Side, Aids: craft.Aids(tr.Aids),
		Level: a.Level}, a.Source)
	if tr.Lost != "" {
		v.Again = fmt.Sprintf("/students/%s/fly?lost=%s&drill=%s", k.After.Student.ID, tr.Lost, a.Drill)
		return &v
	}
	v.Again += fmt.Sprintf("&wind=%g@%g&gusts=%s", tr.WindMps, tr.WindFromDeg, tr.Gusts)
	if g.Key != "" {
		v.Again += "&course=" + g.Key
	}
	return &v
}

// planOfRun draws a run from above.
func planOfRun(r rig.Rerun, tr *trace.Trace) template.HTML {
	return draw.Plan(draw.Flight{Task: *r.Task, Result: r.Result, Track: r.Flown, Wind: &tr.WindMps,
		From: &tr.WindFromDeg})
}
