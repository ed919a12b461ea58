package today

import (
	"cmp"
	"errors"
	"fmt"
	"io"
	"math"
	"mime/multipart"
	"net/http"
	"path"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/daylogs"
	"maestrale/core/misread"
	"maestrale/core/track"
	"maestrale/internal/logfolder"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
	"maestrale/internal/words"
)

// logsModel is the logs of the day: the form that takes them, and what was found in them.
type logsModel struct {
	Folder  string // its id
	Day     string // whose logs these are
	Days    []dayChoice
	Most    int
	Wrong   string
	Sorted  bool
	Asks    []logRow
	Rows    []logRow
	Nothing []logRow // flights in which no drill was found, or that a person has left out
	Clocks  []string
	LeftOut []leftLog
	Sure    int // that would be kept now
	Kept    int
}

type leftLog struct{ Name, Why string }

type dayChoice struct{ ID, Words string }

// daysBack is how old a field day may be whose logs are given.
const daysBack = 60

// logRow is one flight in a log.
type logRow struct {
	ID, File, At, Student, StudentHref, Drill string
	Verdict, Sign                             string // what the log says
	Margin                                    *float64
	Eye, EyeSign, By                          string // what was marked
	Why, Answer, Href                         string
	Choices                                   []daylogs.Choice
}

func (s Pages) folders() logfolder.Sorter { return logfolder.Sorter{Cat: s.Cat, Now: s.Now, By: s.Who} }

// LogsPage asks for the logs of the day.
func (s Pages) LogsPage(c *gin.Context) {
	m := logsModel{Folder: store.NewID().String(), Most: store.MostFolderLogs}
	err := s.Store.InSchool(c.Request.Context(), s.Who.SchoolID, func(tx store.Tx) error {
		list, err := tx.DaysOfLogs(c.Request.Context(), s.Now().AddDate(0, 0, -daysBack), s.Now())
		for _, d := range list {
			m.Days = append(m.Days, dayChoice{d.ID.String(), d.Starts.In(s.Who.Zone()).Format("Monday 2 January, 15:04")})
		}
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	s.logsPage(c, http.StatusOK, m)
}

func (s Pages) logsPage(c *gin.Context, status int, m logsModel) {
	s.Render(c, status, "logs", frame.Page{Title: msgLogsDay, Place: "Today", Body: m, Script: "logs.js"})
}

// TakeLogs takes files of the day's logs into a folder: one at a time where the page sends them, and all of them where
// a form does.
func (s Pages) TakeLogs(c *gin.Context) {
	ctx, p := c.Request.Context(), s.Who
	id, err := frame.Param(c, "folder")
	if err != nil {
		s.Failed(c, err)
		return
	}
	files, day, err := readFiles(c.Request)
	if err != nil {
		s.Problem(c, http.StatusUnprocessableEntity, frame.Problem{What: frame.Sentence("The logs", err),
			Do: msgChooseDayLogs})
		return
	}
	n := 0
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		d, err := s.dayOfLogs(c, tx, cmp.Or(day, c.Query("day")))
		if err != nil {
			return err
		}
		if err := tx.BeginFolder(ctx, id, d.ID, p.ID); err != nil {
			return err
		}
		for _, f := range files {
			row, err := tx.Folder(ctx, id, p.ID)
			if err != nil {
				return err
			}
			if row.Found != nil {
				return store.ErrFolderSorted
			}
			if err := tx.AddToFolder(ctx, row, f); err != nil {
				return err
			}
			n = row.Files + 1
		}
		return nil
	})
	switch {
	case errors.Is(err, store.ErrFolderFull):
		s.Problem(c, http.StatusRequestEntityTooLarge, frame.Problem{What: fmt.Sprintf(
			msgFolderHoldsLogs, store.MostFolderLogs, store.MostFolderBytes>>20),
			Do: msgGiveRestSecond})
	case errors.Is(err, store.ErrFolderSorted):
		s.Problem(c, http.StatusConflict, frame.Problem{What: msgLogsFolderSorted,
			Do: msgGiveTheseFolder})
	case err != nil:
		s.Failed(c, err)
	case frame.WantsJSON(c):
		c.JSON(http.StatusOK, gin.H{"files": n})
	default:
		c.Redirect(http.StatusSeeOther, "/today/logs/"+id.String())
	}
}

// dayOfLogs is the field day that the form names, or the newest that has begun.
func (s Pages) dayOfLogs(c *gin.Context, tx store.Tx, day string) (store.DayOfLogs, error) {
	ctx := c.Request.Context()
	if id, err := uuid.Parse(day); err == nil {
		return tx.DayOfLogs(ctx, id)
	}
	list, err := tx.DaysOfLogs(ctx, s.Now().AddDate(0, 0, -daysBack), s.Now())
	if err == nil && len(list) == 0 {
		err = store.ErrNotFound
	}
	if err != nil {
		return store.DayOfLogs{}, err
	}
	return list[0], nil
}

// readFiles reads the files of a form as they come, each no longer than a log may be, and which day it names.
func readFiles(r *http.Request) (list []store.FolderLog, day string, err error) {
	parts, err := r.MultipartReader()
	if err != nil {
		return nil, "", misread.At(0, "a form with files", "no file was sent")
	}
	name, changed := "", (*time.Time)(nil)
	for {
		part, err := parts.NextPart()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, "", track.ErrTooLarge
		}
		switch part.FormName() {
		case "day":
			day = textOf(part)
		case "name":
			name = textOf(part)
		case "changed":
			if ms, err := strconv.ParseInt(textOf(part), 10, 64); err == nil && ms > 0 && ms < 1<<43 {
				at := time.UnixMilli(ms)
				changed = &at
			}
		case "file":
			data, err := io.ReadAll(io.LimitReader(part, track.MaxBytes+1))
			if err != nil || len(data) > track.MaxBytes {
				return nil, "", track.ErrTooLarge
			}
			if name == "" {
				name = part.FileName()
			}
			if len(data) > 0 {
				list = append(list, store.FolderLog{Name: fileName(name), ChangedAt: changed, File: data})
			}
			name, changed = "", nil
		}
	}
	if len(list) == 0 {
		return nil, "", misread.At(0, "at least one log", "no file was sent, or it is empty")
	}
	return list, day, nil
}

func textOf(p *multipart.Part) string {
	v, _ := io.ReadAll(io.LimitReader(p, 4096))
	return string(v)
}

// fileName is a name with the folders that it lies in, without what leads out of them.
func fileName(s string) string {
	s = strings.TrimPrefix(path.Clean("/"+strings.ReplaceAll(frame.CleanName(s), "\\", "/")), "/")
	if r := []rune(s); len(r) > 200 {
		s = string(r[len(r)-200:])
	}
	if s == "" {
		return "a log"
	}
	return s
}

// LogsFound shows what is in a folder; it is sorted when it is first looked at.
func (s Pages) LogsFound(c *gin.Context) {
	var m logsModel
	err := s.inFolder(c, func(tx store.Tx, row store.LogFolder, f *logfolder.Folder) error {
		if f.Found == nil {
			if err := f.Sort(c.Request.Context()); err != nil {
				return err
			}
			if err := s.keepFound(c, tx, row, f, false); err != nil {
				return err
			}
		}
		m = s.foundModel(row, f)
		return nil
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	s.logsPage(c, http.StatusOK, m)
}

// inFolder does something with a folder of whoever asks.
func (s Pages) inFolder(c *gin.Context, do func(tx store.Tx, row store.LogFolder, f *logfolder.Folder) error) error {
	id, err := frame.Param(c, "folder")
	if err != nil {
		return err
	}
	ctx := c.Request.Context()
	return s.Store.InSchool(ctx, s.Who.SchoolID, func(tx store.Tx) error {
		row, err := tx.Folder(ctx, id, s.Who.ID)
		if err != nil {
			return err
		}
		f, err := s.folders().Open(ctx, tx, row)
		if err != nil {
			return err
		}
		return do(tx, row, f)
	})
}

func (s Pages) keepFound(c *gin.Context, tx store.Tx, row store.LogFolder, f *logfolder.Folder, kept bool) error {
	text, err := f.JSON()
	if err != nil {
		return err
	}
	return tx.FolderFound(c.Request.Context(), row.ID, text, kept)
}

// AnswerLog answers what one flight of a folder asks.
func (s Pages) AnswerLog(c *gin.Context) {
	s.toFolder(c, s.inFolder(c, func(tx store.Tx, row store.LogFolder, f *logfolder.Folder) error {
		if f.Found == nil {
			return store.ErrNotFound
		}
		if err := f.Answer(c.PostForm("item"), c.PostForm("answer")); err != nil {
			return err
		}
		return s.keepFound(c, tx, row, f, false)
	}))
}

// KeepLogs makes attempts of everything in a folder that is certain or was answered.
func (s Pages) KeepLogs(c *gin.Context) {
	s.toFolder(c, s.inFolder(c, func(tx store.Tx, row store.LogFolder, f *logfolder.Folder) error {
		if f.Found == nil {
			return store.ErrNotFound
		}
		if _, err := f.Keep(c.Request.Context(), tx, s.Attempts()); err != nil {
			return err
		}
		return s.keepFound(c, tx, row, f, true)
	}))
}

// DropLogs throws a folder away; what was kept of it stays.
func (s Pages) DropLogs(c *gin.Context) {
	id, err := frame.Param(c, "folder")
	if err == nil {
		err = s.Store.InSchool(c.Request.Context(), s.Who.SchoolID, func(tx store.Tx) error {
			return tx.DropFolder(c.Request.Context(), id, s.Who.ID)
		})
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/today/logs")
}

func (s Pages) toFolder(c *gin.Context, err error) {
	var wrong *misread.Error
	switch {
	case errors.As(err, &wrong):
		s.Problem(c, http.StatusUnprocessableEntity, frame.Problem{What: frame.Sentence("The answer", err),
			Do: msgChooseOneAnswers})
	case err != nil:
		s.Failed(c, err)
	default:
		c.Redirect(http.StatusSeeOther, "/today/logs/"+c.Param("folder"))
	}
}

// foundModel says what is in a folder.
func (s Pages) foundModel(row store.LogFolder, f *logfolder.Folder) logsModel {
	m := logsModel{Folder: row.ID.String(), Sorted: true, Most: store.MostFolderLogs, Kept: len(f.Kept),
		Day: f.Day.Starts.Format("Monday 2 January")}
	for _, k := range f.Found.Clocks {
		if w := clockWords(k); w != "" {
			m.Clocks = append(m.Clocks, w)
		}
	}
	for _, l := range f.Found.Logs {
		if l.LeftOut != "" {
			m.LeftOut = append(m.LeftOut, leftLog{l.Name, l.LeftOut})
		}
	}
	for _, it := range f.Found.Items {
		r := s.rowOf(f, it)
		switch {
		case it.Asks != daylogs.Certain && it.Answer == "":
			r.Choices = s.choices(it)
			m.Asks = append(m.Asks, r)
		case it.Keeps():
			m.Rows = append(m.Rows, r)
			if !f.Kept[it.ID] {
				m.Sure++
			}
		default:
			m.Nothing = append(m.Nothing, r)
		}
	}
	return m
}

// choices are the answers to an item's question, with drills by their titles.
func (s Pages) choices(it daylogs.Item) []daylogs.Choice {
	list := slices.Clone(it.Choices)
	for k, ch := range list {
		if ch.Cell != nil {
			list[k].Words = s.Cat.CellWords(*ch.Cell) + ": " + ch.Words
		}
	}
	return list
}

func (s Pages) rowOf(f *logfolder.Folder, it daylogs.Item) logRow {
	r := logRow{ID: it.ID, File: f.Found.Logs[it.Log].Name, At: it.At.In(s.Who.Zone()).Format("15:04:05"), Why: it.Why}
	for _, x := range f.Day.Flights {
		if x.ID == it.Flight {
			r.Student, r.StudentHref = x.Name, "/students/"+x.Student
		}
	}
	if it.Cell.Drill != "" {
		r.Drill = s.Cat.CellWords(it.Cell)
	}
	if res := it.Result; res != nil {
		r.Verdict, r.Sign, r.Margin = string(res.Verdict), frame.VerdictSigns[res.Verdict], res.Margin
	}
	if k := it.Mark; k != nil {
		r.Eye, r.EyeSign, r.By = string(k.Verdict), frame.VerdictSigns[k.Verdict], k.By
	}
	for _, ch := range s.choices(it) {
		if ch.Key == it.Answer {
			r.Answer = ch.Words
		}
	}
	if f.Kept[it.ID] {
		r.Href = "/attempts/" + f.AttemptID(it).String()
	}
	return r
}

// clockWords say how far a recorder's clock was off; nothing where it was right.
func clockWords(k daylogs.Clock) string {
	off := math.Abs(k.ClockS)
	if off < 20 {
		return ""
	}
	whose := fmt.Sprintf(msgTheClockOf, k.Recorder)
	if k.Recorder == "" {
		whose = msgRecorderClock
	}
	way := "behind"
	if k.ClockS < 0 {
		way = "ahead"
	}
	d := spanWords(time.Duration(off * float64(time.Second)).Round(time.Second))
	logs := words.Counted(k.Logs, "log")
	if k.Doubt {
		return fmt.Sprintf(msgMayWouldThen, whose,
			d, way, logs)
	}
	return fmt.Sprintf(msgThenFitDay, whose, d, way, logs)
}

func spanWords(d time.Duration) string {
	var out []string
	for _, u := range []struct {
		of   time.Duration
		name string
	}{{time.Hour, "h"}, {time.Minute, "min"}, {time.Second, "s"}} {
		if n := d / u.of; n > 0 {
			out = append(out, fmt.Sprintf("%d %s", n, u.name))
			d -= n * u.of
		}
	}
	return strings.Join(out, " ")
}
