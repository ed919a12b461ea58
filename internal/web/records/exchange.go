package records

import (
	"archive/zip"
	"bytes"
	"context"
	"crypto/ed25519"
	"encoding/base64"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
	"github.com/klauspost/compress/flate"

	"maestrale/core/record"
	"maestrale/internal/exchange"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
	"maestrale/internal/words"
)

// EverythingFile gives the whole school as tables, in one file.
//
// It is written as it is read, so that a large school takes no more memory than a small one. An archive that could not
// be ended is cut off, and is seen to be broken.
func (s Pages) EverythingFile(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		if err := tx.Did(ctx, p.ID, nil, msgTookOutWhole); err != nil {
			return err
		}
		frame.SendAs(c, "maestrale-"+s.Now().In(p.Zone()).Format(time.DateOnly)+".zip", "application/zip")
		return writeTables(ctx, tx, c.Writer)
	})
	switch {
	case err == nil:
	case c.Writer.Written():
		s.Log.ErrorContext(ctx, "archive", "error", err)
		panic(http.ErrAbortHandler)
	default:
		s.Failed(c, err)
	}
}

// writeTables writes every table of the school as an archive.
func writeTables(ctx context.Context, tx store.Tx, to io.Writer) error {
	z := zip.NewWriter(to)
	z.RegisterCompressor(zip.Deflate, func(w io.Writer) (io.WriteCloser, error) {
		return flate.NewWriter(w, flate.BestSpeed) //nolint:wrapcheck // zip says what failed
	})
	for _, t := range store.Tables {
		f, err := z.Create(t.Name + ".csv")
		if err != nil {
			return fmt.Errorf("write the tables: %w", err)
		}
		w := csv.NewWriter(f)
		if err := tx.Table(ctx, t, func(row []string) error {
			for i := range row {
				row[i] = exchange.PlainCell(row[i])
			}
			return w.Write(row)
		}); err != nil {
			return err
		}
		if w.Flush(); w.Error() != nil {
			return fmt.Errorf("write the tables: %w", w.Error())
		}
	}
	if err := z.Close(); err != nil {
		return fmt.Errorf("write the tables: %w", err)
	}
	return nil
}

// exchangeModel is what goes out and comes in.
type exchangeModel struct {
	Key      string
	Students []store.Student
	Imports  []importRow
	IsChief  bool
	Found    *foundModel
}

type importRow struct {
	store.Import
	When   string
	Counts bool
	Href   string
}

// foundModel is what was found of a record that somebody has.
type foundModel struct {
	Name      string
	Sound     bool
	Why       string
	School    string
	Signed    string
	Key       string
	Own       bool
	Student   string
	Attempts  int
	Newest    string
	Taken     string
	NotTaken  string
	Unknown   []string
	StudentID string
}

func (s Pages) ExchangePage(c *gin.Context) { s.showExchange(c, http.StatusOK, nil) }

func (s Pages) showExchange(c *gin.Context, status int, found *foundModel) {
	ctx, p := c.Request.Context(), frame.Person(c)
	m := exchangeModel{IsChief: p.Role == store.Chief, Found: found}
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) (err error) {
		key, err := tx.SigningKey(ctx)
		if err != nil {
			return err
		}
		m.Key = base64.StdEncoding.EncodeToString(key.Public().(ed25519.PublicKey))
		if m.Students, err = tx.Students(ctx); err != nil {
			return err
		}
		list, err := tx.Imports(ctx)
		for _, i := range list {
			m.Imports = append(m.Imports, importRow{i, i.At.In(p.Zone()).Format("2 Jan 2006"), i.Counts, "/students/" +
				i.StudentID.String()})
		}
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	if found != nil {
		found.Own = found.Key == m.Key
	}
	s.Render(c, status, "exchange", frame.Page{Title: msgRecordsGoOut, Place: "Records", Body: m})
}

// TakeRecord verifies a record that somebody has brought and, where the chief says so,
// takes it over.
func (s Pages) TakeRecord(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	name, data, form, err := frame.ReadUpload(c)
	if err != nil {
		s.WrongInput(c, fmt.Sprintf(msgRecordCouldNot, err.Error()),
			msgChooseFileOther)
		return
	}
	rec, v, _, err := record.ReadExported(bytes.NewReader(data), nil)
	if err != nil {
		s.WrongInput(c, fmt.Sprintf(msgRecordCouldNot, frame.FirstLine(err)),
			msgChooseSignedFile)
		return
	}
	loc := p.Zone()
	m := foundModel{Name: name, Sound: v.Sound, Why: v.Why, School: v.Signature.School,
		Signed: v.Signature.At.In(loc).Format("2 January 2006"), Key: v.Signature.Key, Student: v.Student.Name,
		Attempts: v.Attempts}
	if !v.Newest.IsZero() {
		m.Newest = v.Newest.In(loc).Format("2 January 2006")
	}
	if form["do"] == "take" {
		s.takeOver(c, &m, rec, v, data, form)
		if c.IsAborted() {
			return
		}
	}
	_ = ctx
	status := http.StatusOK
	if !m.Sound || m.NotTaken != "" {
		status = http.StatusUnprocessableEntity
	}
	s.showExchange(c, status, &m)
}

func (s Pages) takeOver(c *gin.Context, m *foundModel, rec *record.Exported, v *record.Verification, data []byte,
	form map[string]string) {
	ctx, p := c.Request.Context(), frame.Person(c)
	if p.Role != store.Chief {
		m.NotTaken = msgOnlyChiefInstructor
		return
	}
	student, err := uuid.Parse(form["student"])
	if err != nil {
		m.NotTaken = msgSayWhoseRecord
		return
	}
	var out exchange.Taken
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		if _, err := tx.Student(ctx, student); err != nil {
			return err
		}
		out, err = exchange.Take(ctx, tx, exchange.Taking{Record: rec, Found: v, File: data, Student: student, By: p.ID,
			Counts: form["counts"] == "yes", Now: s.Now(), Drills: s.Cat.Drills})
		return err
	})
	switch {
	case store.Trouble(err):
		s.Failed(c, err)
		return
	case errors.Is(err, store.ErrNotFound):
		m.NotTaken = msgStudentNotSchool
	case errors.Is(err, exchange.ErrNotSound):
		m.NotTaken = msgDoesNotVerify
	case err != nil:
		m.NotTaken = frame.FirstLine(err)
	default:
		m.Taken, m.Unknown, m.StudentID = fmt.Sprintf("%s taken over", words.Counted(out.New,
			"attempt")), out.Unknown, student.String()
	}
}
