package school

import (
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/intake"
	"maestrale/internal/exchange"
	"maestrale/internal/refusal"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// The most that a preview shows; the count is of all.
const (
	mostMistakes = 40
	mostShown    = 12
)

type importModel struct {
	Kinds  []intake.Kind
	Past   []pastRow
	Claims int // passes from paper on which nobody has decided
	Chief  bool
}

type pastRow struct {
	store.Intake
	Taken, State string
	CanUndo      bool
	Count        int
}

// ImportPage is where tables are brought in, with those that came before.
func (s Pages) ImportPage(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	m := importModel{Kinds: intake.Kinds, Chief: p.Role == store.Chief}
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		list, err := tx.Intakes(ctx, 30)
		if err != nil {
			return err
		}
		for _, i := range list {
			row := pastRow{Intake: i, Taken: i.TakenAt.In(p.Zone()).Format("Mon 2 Jan 15:04"), CanUndo: i.CanUndo(s.Now()),
				Count: len(i.Made)}
			if i.UndoneAt != nil {
				row.State = "undone " + i.UndoneAt.In(p.Zone()).Format("2 Jan 15:04")
			}
			m.Past = append(m.Past, row)
		}
		open, err := tx.Claims(ctx, false)
		m.Claims = len(open)
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	s.Render(c, http.StatusOK, "import", frame.Page{Title: msgBringTables, Place: "School", Body: m})
}

// TemplateFile is an empty table of a kind.
func (s Pages) TemplateFile(c *gin.Context) {
	k := intake.Kind(strings.TrimSuffix(c.Param("kind"), ".csv"))
	if k.Words() == "" {
		s.NotFound(c)
		return
	}
	frame.Attach(c, string(k)+".csv", "text/csv; charset=utf-8", k.Template())
}

// UploadTable keeps a file to be looked at.
func (s Pages) UploadTable(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	data, name, err := s.Uploaded(c, intake.MostBytes)
	if err == nil {
		_, err = intake.ReadTable(data)
	}
	if err != nil {
		s.WrongInput(c, fmt.Sprintf(msgFileNotTaken, frame.FirstLine(err)),
			msgSaveTableCsv)
		return
	}
	id := store.NewID()
	s.Done(c, s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		return tx.AddIntake(ctx, id, p.ID, name, data, s.Now())
	}), "/import/"+id.String())
}

// previewModel is a table as it will be taken.
type previewModel struct {
	Intake   store.Intake
	Kind     intake.Kind
	Kinds    []intake.Kind
	Table    *intake.Table
	Columns  []columnRow
	Mistakes []intake.Mistake
	Wrong    int // all mistakes
	Right    int
	Shown    [][]string
	Lines    []int
	Rows     int
}

type columnRow struct {
	intake.Column
	At int // index of the heading; -1 = none
}

// preview reads a table of the school with the kind and the headings that were chosen, or that fit.
func (s Pages) preview(c *gin.Context, tx store.Tx, chosen func(string) string) (m previewModel, b intake.Batch,
	err error) {
	ctx, p := c.Request.Context(), frame.Person(c)
	id, err := frame.Param(c, "intake")
	if err != nil {
		return m, b, err
	}
	var file []byte
	if m.Intake, file, err = tx.OneIntake(ctx, id); err != nil {
		return m, b, err
	}
	if m.Table, err = intake.ReadTable(file); err != nil {
		return m, b, err
	}
	m.Kinds, m.Rows = intake.Kinds, len(m.Table.Rows)
	if m.Kind = intake.Kind(chosen("kind")); m.Kind.Words() == "" {
		if m.Kind = intake.Guess(m.Table.Headings); m.Kind == "" {
			m.Kind = intake.Students
		}
	}
	mapping := intake.Match(m.Kind, m.Table.Headings)
	for _, col := range m.Kind.Columns() {
		if at, err := strconv.Atoi(chosen("map-" + col.Key)); err == nil && chosen("mapped") == string(m.Kind) {
			if delete(mapping, col.Key); at >= 0 && at < len(m.Table.Headings) {
				mapping[col.Key] = at
			}
		}
		row := columnRow{col, -1}
		if at, has := mapping[col.Key]; has {
			row.At = at
		}
		m.Columns = append(m.Columns, row)
	}
	known, err := exchange.Known(ctx, tx, s.Cat, p.Zone(), s.Now())
	if err != nil {
		return m, b, err
	}
	b, mistakes := intake.Read(m.Kind, m.Table, mapping, known)
	m.Wrong, m.Right = len(mistakes), b.Count()
	m.Mistakes = mistakes[:min(len(mistakes), mostMistakes)]
	m.Shown, m.Lines = m.Table.Rows[:min(m.Rows, mostShown)], m.Table.Lines[:min(m.Rows, mostShown)]
	return m, b, nil
}

// PreviewTable shows what a table will bring, and which lines are wrong.
func (s Pages) PreviewTable(c *gin.Context) {
	var m previewModel
	err := s.Store.InSchool(c.Request.Context(), frame.Person(c).SchoolID, func(tx store.Tx) (err error) {
		m, _, err = s.preview(c, tx, c.Query)
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	s.Render(c, http.StatusOK, "import-preview", frame.Page{Title: "What " + m.Intake.Name + " brings", Place: "School",
		Body: m})
}

// TakeTable takes a table: all of it or nothing.
func (s Pages) TakeTable(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	var m previewModel
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		var b intake.Batch
		var err error
		if m, b, err = s.preview(c, tx, c.PostForm); err != nil {
			return err
		}
		if m.Intake.TakenAt != nil {
			return refusal.Error(msgTableTakenAlready)
		}
		if m.Wrong > 0 {
			return refusal.Error(fmt.Sprintf(msgNothingTaken, m.Mistakes[0]))
		}
		made, err := exchange.TakeTable(ctx, tx, s.Attempts(), b)
		if err != nil {
			return err
		}
		if err := tx.TookIntake(ctx, m.Intake.ID, string(m.Kind), made, s.Now()); err != nil {
			return err
		}
		return tx.Did(ctx, p.ID, nil, fmt.Sprintf(msgBroughtFrom, b.Count(), m.Kind.Words(), m.Intake.Name))
	})
	var no refusal.Error
	switch {
	case errors.Is(err, store.ErrTwice):
		s.Problem(c, http.StatusConflict, frame.Problem{What: msgVerySameTable,
			Do: msgLookListImport})
	case errors.As(err, &no):
		s.WrongInput(c, string(no), msgMendFileBring)
	default:
		s.Done(c, err, "/import")
	}
}

// UndoTable takes out again what a table brought, within an hour.
func (s Pages) UndoTable(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	id, err := frame.Param(c, "intake")
	if err == nil {
		err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
			i, _, err := tx.OneIntake(ctx, id)
			if err != nil {
				return err
			}
			return errors.Join(exchange.UndoTable(ctx, tx, s.Attempts(), i),
				tx.Did(ctx, p.ID, nil, fmt.Sprintf(msgTookBackWhat, i.Name)))
		})
	}
	switch {
	case errors.Is(err, store.ErrUsed):
		s.Problem(c, http.StatusConflict,
			frame.Problem{What: msgNotUndoneSomething, Do: msgChangeThoseRows})
	case errors.Is(err, store.ErrLate):
		s.Problem(c, http.StatusConflict, frame.Problem{What: msgNotUndoneHour,
			Do: msgChangeThoseRows})
	case errors.Is(err, store.ErrTwice):
		s.Problem(c, http.StatusConflict, frame.Problem{What: msgUndoneAlready, Do: msgLookListAgain})
	default:
		s.Done(c, err, "/import")
	}
}

// DecideClaims lets every pass from paper count on which nobody has decided, or one of them.
func (s Pages) DecideClaims(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	one, err := frame.FormID(c, "attempt")
	if err != nil {
		s.WrongInput(c, err.Error(), msgGoBackTry)
		return
	}
	counts, to := c.PostForm("do") != "not", "/import"
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		list := []uuid.UUID{}
		if one != nil {
			list = append(list, *one)
			to = "/attempts/" + one.String()
		} else {
			var err error
			if list, err = tx.Claims(ctx, !counts); err != nil {
				return err
			}
		}
		for _, id := range list {
			if err := s.Attempts().Decide(ctx, tx, id, counts); err != nil {
				return err
			}
		}
		word := msgLetPassesFrom
		if !counts {
			word = msgLetPassesFromPaper
		}
		return tx.Did(ctx, p.ID, nil, fmt.Sprintf(word, len(list)))
	})
	if errors.Is(err, store.ErrAlreadyCorrected) {
		s.Problem(c, http.StatusConflict, frame.Problem{What: msgSomebodyDecidedJust, Do: msgLookAgain})
		return
	}
	s.BackTo(c, to, err)
}
