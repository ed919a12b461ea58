package today

import (
	"context"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// Settle decides which of two attempts of the same time stands; the other becomes void.
func (s Pages) Settle(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	id, err := frame.Param(c, "conflict")
	stands, ferr := frame.FormID(c, "stands")
	if err != nil || ferr != nil || stands == nil {
		s.Failed(c, store.ErrNotFound)
		return
	}
	s.ToBoard(c, s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		return s.Attempts().Settle(ctx, tx, id, *stands)
	}))
}

// conflictRow is two attempts of the same time, as the board shows them.
type conflictRow struct {
	ID, Student string
	Sides       []conflictSide
}

type conflictSide struct{ ID, By, At, What, Verdict string }

func (s Pages) conflictRows(ctx context.Context, tx store.Tx, loc *time.Location) (out []conflictRow, err error) {
	list, err := tx.Conflicts(ctx)
	if err != nil {
		return nil, err
	}
	for _, k := range list {
		row := conflictRow{ID: k.ID.String(), Student: k.Student}
		for _, id := range []uuid.UUID{k.FirstID, k.SecondID} {
			a, err := tx.Attempt(ctx, id)
			if err != nil {
				return nil, err
			}
			row.Sides = append(row.Sides, conflictSide{id.String(), a.By, a.At.In(loc).Format("15:04:05"),
				s.Cat.CellWords(drill.Cell{Drill: a.Drill, Side: field.Side(a.Side), Aids: craft.Aids(a.Aids)}), string(a.Verdict)})
		}
		out = append(out, row)
	}
	return out, nil
}

// deviceRow is a device as the chief sees it.
type deviceRow struct{ ID, Name, By, Last, Cut string }
