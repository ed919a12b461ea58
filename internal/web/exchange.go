package web

import (
	"archive/zip"
	"bytes"
	"crypto/ed25519"
	"encoding/base64"
	"encoding/csv"
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/readiness"
	"maestrale/core/record"
	"maestrale/internal/exchange"
	"maestrale/internal/sheet"
	"maestrale/internal/store"
)

// recordFile gives a student's record: signed JSON, a logbook to print, or a table.
func (s *Server) recordFile(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	kind := c.Param("file")
	var rec *record.Exported
	var key ed25519.PrivateKey
	var list []store.Flown
	var seen []record.Witnessed
	var signs []record.SignOff
	var with, without []float32
	j, err := s.theirs(c, func(tx store.Tx, id uuid.UUID) (err error) {
		switch kind {
		case "record.json":
			if rec, err = tx.Record(ctx, id); err == nil {
				key, err = tx.SigningKey(ctx)
			}
		case "attempts.csv":
			list, err = tx.Attempts(ctx, id)
		case "logbook.pdf":
			if list, err = tx.Attempts(ctx, id); err != nil {
				return err
			}
			if seen, signs, err = tx.Decisions(ctx, id); err != nil {
				return err
			}
			_, with, without, _, err = tx.StudentWithAspects(ctx, id)
		default:
			return store.ErrNotFound
		}
		if err != nil {
			return err
		}
		return tx.Did(ctx, p.ID, &id, "took out "+kind)
	})
	if err != nil {
		s.failed(c, err)
		return
	}
	name := fileOf(j.student.Name)
	switch kind {
	case "record.json":
		data, err := record.Sign(rec, key, s.now())
		if err != nil {
			s.failed(c, err)
			return
		}
		send(c, name+"-record.json", "application/json; charset=utf-8", data)
	case "attempts.csv":
		send(c, name+"-attempts.csv", "text/csv; charset=utf-8", attemptsCSV(map[uuid.UUID]string{}, list))
	case "logbook.pdf":
		data, err := sheet.Logbook(s.logbook(j, p, list, seen, signs, with, without))
		if err != nil {
			s.failed(c, err)
			return
		}
		send(c, name+"-logbook.pdf", "application/pdf", data)
	}
}

func send(c *gin.Context, name, kind string, data []byte) {
	c.Header("Content-Disposition", `attachment; filename="`+name+`"`)
	c.Data(http.StatusOK, kind, data)
}

// fileOf makes a file's name of a person's: letters and digits alone.
func fileOf(name string) string {
	out := strings.Map(func(r rune) rune {
		switch {
		case r >= 'a' && r <= 'z' || r >= '0' && r <= '9':
			return r
		case r >= 'A' && r <= 'Z':
			return r + 'a' - 'A'
		}
		return '-'
	}, name)
	if out = strings.Trim(out, "-"); out == "" {
		return "student"
	}
	return out
}

// attemptsCSV writes attempts as a table.
func attemptsCSV(names map[uuid.UUID]string, list []store.Flown) []byte {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	_ = w.Write([]string{"id", "at", "drill", "side", "level", "aids", "craft_class", "craft_type", "source", "verdict", "margin", "wind_mps", "gust_mps", "wind_from_deg", "site", "light", "answering", "counts", "why_not", "corrects", "origin", "summary"})
	for i := range list {
		_ = w.Write(attemptLine(&list[i]))
	}
	w.Flush()
	return b.Bytes()
}

func attemptLine(a *store.Flown) []string {
	num := func(v *float64) string {
		if v == nil {
			return ""
		}
		return strconv.FormatFloat(*v, 'g', -1, 64)
	}
	return []string{a.ID, a.At.UTC().Format(time.RFC3339), a.Drill, string(a.Side), strconv.Itoa(a.Level), string(a.Aids), string(a.CraftClass), a.Attempt.CraftType, string(a.Source), string(a.Verdict), num(a.Margin), num(a.WindMps), num(a.GustMps), num(a.WindFromDeg),
		a.Site, a.Light, strconv.FormatBool(a.Answering), strconv.FormatBool(a.Counts), plainCell(a.WhyNot), a.Corrects, plainCell(a.Origin), plainCell(a.Summary)}
}

// plainCell keeps a cell of a table from being taken for a formula. A number is none, whatever its
// sign.
func plainCell(t string) string {
	if _, err := strconv.ParseFloat(t, 64); err == nil && !strings.ContainsAny(t, "xXpPnN_") {
		return t
	}
	if t != "" && strings.ContainsRune("=+-@\t\r", rune(t[0])) {
		return "'" + t
	}
	return t
}

// everythingFile gives the whole school as tables, in one file.
func (s *Server) everythingFile(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	err := s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		for _, t := range store.Tables {
			f, err := z.Create(t.Name + ".csv")
			if err != nil {
				return fmt.Errorf("write the tables: %w", err)
			}
			w := csv.NewWriter(f)
			if err := tx.Table(ctx, t, func(row []string) error {
				for i := range row {
					row[i] = plainCell(row[i])
				}
				return w.Write(row)
			}); err != nil {
				return err
			}
			if w.Flush(); w.Error() != nil {
				return fmt.Errorf("write the tables: %w", w.Error())
			}
		}
		return tx.Did(ctx, p.ID, nil, "took out the whole school as tables")
	})
	if err == nil {
		err = z.Close()
	}
	if err != nil {
		s.failed(c, err)
		return
	}
	send(c, "maestrale-"+s.now().In(zone(p)).Format(time.DateOnly)+".zip", "application/zip", b.Bytes())
}

// logbook is what a student's logbook says.
func (s *Server) logbook(j *judged, p *store.Person, list []store.Flown, seen []record.Witnessed, signs []record.SignOff, with, without []float32) sheet.Book {
	loc := zone(p)
	b := sheet.Book{School: p.School, Student: j.student.Name, Programme: j.programme.Title, Craft: s.cat.Craft[j.student.CraftType].Title, Printed: s.now().In(loc).Format("2 January 2006 15:04"), Ladder: j.ladder}
	for _, r := range j.programme.Rungs {
		b.Rungs = append(b.Rungs, r.Title)
	}
	ring := readiness.RingOf(j.cells(), func(cell drill.Cell) (drill.Task, error) {
		return s.cat.Drills[cell.Drill].Lay(cell.Side, cell.Level, j.class, nil)
	})
	ring.Add(craft.PositionHold, with)
	ring.Add(craft.HeightHold, without)
	b.Ring = ring
	for _, g := range s.gateRows(j, seen, signs, loc) {
		b.Gates = append(b.Gates, sheet.BookGate{Title: g.Title, State: g.Word, Says: g.Says})
	}
	replaced := map[string]bool{}
	for _, a := range list {
		replaced[a.Corrects] = true
	}
	for i := len(list) - 1; i >= 0; i-- {
		a := list[i]
		if replaced[a.ID] {
			continue
		}
		row := s.attemptRow(a, loc, false)
		says := row.Happened
		if !a.Counts {
			says += "; does not count: " + a.WhyNot
		}
		b.Lines = append(b.Lines, sheet.BookLine{At: a.At.In(loc).Format("2 Jan 2006 15:04"), Drill: row.Drill, Aids: row.Aids, Wind: row.Wind, Verdict: string(a.Verdict), Source: string(a.Source), Says: says})
	}
	return b
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

func (s *Server) exchangePage(c *gin.Context) { s.showExchange(c, http.StatusOK, nil) }

func (s *Server) showExchange(c *gin.Context, status int, found *foundModel) {
	ctx, p := c.Request.Context(), person(c)
	m := exchangeModel{IsChief: p.Role == store.Chief, Found: found}
	err := s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) (err error) {
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
			m.Imports = append(m.Imports, importRow{i, i.At.In(zone(p)).Format("2 Jan 2006"), i.Counts, "/students/" + i.StudentID.String()})
		}
		return err
	})
	if err != nil {
		s.failed(c, err)
		return
	}
	if found != nil {
		found.Own = found.Key == m.Key
	}
	s.render(c, status, "exchange", page{Title: "Records that go out and come in", Place: "Records", Body: m})
}

// takeRecord verifies a record that somebody has brought and, where the chief says so,
// takes it over.
func (s *Server) takeRecord(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	name, data, form, err := readUpload(c)
	if err != nil {
		s.wrongInput(c, "The record could not be read: "+err.Error()+".", "Choose the file that the other school has given.")
		return
	}
	rec, v, _, err := record.ReadExported(bytes.NewReader(data), nil)
	if err != nil {
		s.wrongInput(c, "The record could not be read: "+firstLine(err)+".", "Choose the signed file (record.json) that the other school has given.")
		return
	}
	loc := zone(p)
	m := foundModel{Name: name, Sound: v.Sound, Why: v.Why, School: v.Signature.School, Signed: v.Signature.At.In(loc).Format("2 January 2006"), Key: v.Signature.Key, Student: v.Student.Name, Attempts: v.Attempts}
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

func (s *Server) takeOver(c *gin.Context, m *foundModel, rec *record.Exported, v *record.Verification, data []byte, form map[string]string) {
	ctx, p := c.Request.Context(), person(c)
	if p.Role != store.Chief {
		m.NotTaken = "only the chief instructor takes a record over"
		return
	}
	student, err := uuid.Parse(form["student"])
	if err != nil {
		m.NotTaken = "say whose record it is here"
		return
	}
	var out exchange.Taken
	err = s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		if _, err := tx.Student(ctx, student); err != nil {
			return err
		}
		out, err = exchange.Take(ctx, tx, exchange.Taking{Record: rec, Found: v, File: data, Student: student, By: p.ID, Counts: form["counts"] == "yes", Now: s.now(), Drills: s.cat.Drills})
		return err
	})
	switch {
	case errors.Is(err, store.ErrNotFound):
		m.NotTaken = "that student is not at this school"
	case errors.Is(err, exchange.ErrNotSound):
		m.NotTaken = "it does not verify"
	case err != nil:
		m.NotTaken = firstLine(err)
	default:
		m.Taken, m.Unknown, m.StudentID = fmt.Sprintf("%s taken over", counted(out.New, "attempt")), out.Unknown, student.String()
	}
}
