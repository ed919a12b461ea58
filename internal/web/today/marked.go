package today

import (
	"context"
	"time"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/internal/store"
)

// markedShown is how many of the newest attempts the board shows.
const markedShown = 3

// markedRow is an attempt that was marked lately, with what makes it void.
type markedRow struct {
	ID, At, Student, What, Verdict string
	Sim                            bool
}

func (s Pages) markedRows(ctx context.Context, tx store.Tx, loc *time.Location) (out []markedRow, err error) {
	list, err := tx.MarkedLast(ctx, markedShown)
	for _, a := range list {
		at := a.RecordedAt.In(loc)
		layout := "15:04"
		if now := s.Now().In(loc); now.YearDay() != at.YearDay() || now.Year() != at.Year() {
			layout = "2 Jan 15:04"
		}
		cell := drill.Cell{Drill: a.Drill, Side: field.Side(a.Side), Aids: craft.Aids(a.Aids)}
		out = append(out, markedRow{a.ID.String(), at.Format(layout), a.Student, s.Cat.CellWords(cell), a.Verdict, a.Sim})
	}
	return out, err
}
