package pad

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"

	"github.com/gin-gonic/gin"

	"maestrale/core/drill"
	"maestrale/core/marking"
	"maestrale/core/score"
	"maestrale/internal/attempt"
	"maestrale/internal/refusal"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

func (s Pages) PostMarks(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	student, err := frame.Param(c, "student")
	if err != nil {
		s.Failed(c, err)
		return
	}
	var in attempt.Sent
	body, err := io.ReadAll(http.MaxBytesReader(c.Writer, c.Request.Body, 1<<20))
	if err == nil {
		err = json.Unmarshal(body, &in)
	}
	if err != nil {
		s.Problem(c, http.StatusBadRequest, frame.Problem{What: fmt.Sprintf(msgMarksCouldNot, err.Error()),
			Do: msgPadKeepsThem})
		return
	}
	if wrong := in.Check(p.Role); wrong != "" {
		s.WrongInput(c, wrong, msgUndoMarkMake)
		return
	}
	var state marking.State
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		state, err = s.Attempts().TakeMarks(ctx, tx, student, in)
		return err
	})
	var wrong refusal.Error
	switch {
	case errors.As(err, &wrong):
		s.WrongInput(c, string(wrong), msgChooseDrillAgain)
	case err != nil:
		s.Failed(c, err)
	default:
		if o := in.Opening; state.Verdict != nil {
			*state.Verdict = frame.Addressed(*state.Verdict, student, drill.Cell{Drill: o.Drill, Side: o.Side, Aids: o.Aids,
				Level: o.Level}, score.Observed)
		}
		s.JSON(c, http.StatusOK, state)
	}
}
