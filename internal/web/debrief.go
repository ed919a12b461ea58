package web

import (
	"bytes"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"sort"
	"strings"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/score"
	"maestrale/core/track"
	"maestrale/internal/draw"
	"maestrale/internal/store"
)

type debriefModel struct {
	store.Kept
	DrillTitle string
	Purpose    string
	When       string
	Mark       string
	How        string
	Plan       template.HTML
	Height     template.HTML
	Nose       template.HTML
	TimeLine   template.HTML
	Steps      []stepRow
	CanVoid    bool
	Again      string
	AgainText  string
	MarkList   []score.Mark
}

type stepRow struct {
	score.StepResult
	Number int
	Asked  string
	Span   string
	Lines  []metricRow
}

type metricRow struct {
	Name, Value, Limit string
	Out                bool
}

// attempt reads the attempt of the address, the own ones only for a student.
func (s *Server) attempt(c *gin.Context) (store.Kept, error) {
	p := person(c)
	id, err := param(c, "attempt")
	if err != nil {
		return store.Kept{}, err
	}
	var k store.Kept
	err = s.store.InSchool(c.Request.Context(), p.SchoolID, func(tx store.Tx) (err error) {
		k, err = tx.Attempt(c.Request.Context(), id)
		return err
	})
	if err == nil {
		err = ownOnly(p, k.StudentID)
	}
	return k, err
}

func (s *Server) debriefPage(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	k, err := s.attempt(c)
	if err != nil {
		s.failed(c, err)
		return
	}
	var file *store.TrackFile
	var marks []score.Mark
	err = s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		id, perr := uuid.Parse(firstText(k.Corrects, k.ID))
		if perr != nil {
			return fmt.Errorf("attempt: %w", perr)
		}
		if k.HasTrack {
			if file, err = tx.Track(ctx, id); err != nil {
				return err
			}
		}
		marks, err = tx.Marks(ctx, id)
		return err
	})
	if err != nil {
		s.failed(c, err)
		return
	}
	m, err := s.debriefModel(k, file, marks)
	if err != nil {
		s.failed(c, err)
		return
	}
	m.When = k.At.In(zone(p)).Format("Monday 2 January 2006, 15:04")
	m.CanVoid = (p.Role == store.Chief || p.Role == store.Instructor) && k.Verdict != score.Void && k.CorrectedBy == nil
	pg := page{Title: m.DrillTitle + ", " + k.Student, Place: "Students", Body: m, Keys: []key{{"[ ]", "fault to fault"}, {"w", "why, on an underlined figure"}}}
	if p.Role == store.Chief || p.Role == store.Instructor {
		pg.Action = &action{m.AgainText, m.Again, "n"}
		pg.Keys = append(pg.Keys, key{"n", strings.ToLower(m.AgainText[:1]) + m.AgainText[1:]})
	}
	s.render(c, http.StatusOK, "debrief", pg)
}

func firstText(a, b string) string {
	if a != "" {
		return a
	}
	return b
}

func (s *Server) debriefModel(k store.Kept, file *store.TrackFile, marks []score.Mark) (debriefModel, error) {
	d, err := drill.Parse(k.DrillSource)
	if err != nil {
		return debriefModel{}, fmt.Errorf("the drill as it was flown: %w", err)
	}
	task, err := d.Lay(k.Side, k.Level, k.CraftClass, nil)
	if err != nil {
		return debriefModel{}, fmt.Errorf("the drill as it was flown: %w", err)
	}
	m := debriefModel{Kept: k, DrillTitle: s.titleOf(k.Drill, k.Side), Purpose: d.Purpose, Mark: verdictSigns[k.Verdict], MarkList: marks}
	f := draw.Flight{Task: task, Result: &k.Result, Marks: marks, Wind: k.WindMps, From: k.WindFromDeg}
	if file != nil {
		t, _, err := readLog(file.File, file.Reading)
		if err != nil {
			return m, fmt.Errorf("the track as it was kept: %w", err)
		}
		f.Track = t
	}
	m.Plan, m.Height, m.Nose, m.TimeLine = draw.Plan(f), draw.Height(f), draw.Nose(f), draw.TimeLine(f)
	m.Steps = stepRows(task, &k.Result)
	m.How = howWords(k, s.cat.Craft[k.CraftType].Title)
	next := k.Side
	m.AgainText = "Mark the next"
	if d.Sided {
		next = k.Side.Other()
		m.AgainText = "Next: " + string(next) + " side"
	}
	m.Again = fmt.Sprintf("/students/%s/mark?drill=%s&side=%s&aids=%s&level=%d", k.StudentID, k.Drill, next, k.Aids, k.Level)
	return m, nil
}

func howWords(k store.Kept, craftTitle string) string {
	src := map[score.Source]string{score.Observed: "marked by eye", score.FromLog: "scored from a log", score.Sim: "flown in the simulator"}[k.Source]
	parts := []string{src, craftTitle, k.Aids.Words()}
	if k.Level > 1 {
		parts = append(parts, fmt.Sprintf("level %d", k.Level))
	}
	if k.WindMps != nil {
		w := fmt.Sprintf("wind %.1f m/s", *k.WindMps)
		if k.WindFromDeg != nil {
			w += " from " + draw.WindWords(*k.WindFromDeg)
		}
		parts = append(parts, w)
	}
	return strings.Join(parts, " · ")
}

func sortedKeys(m map[string]float64) []string {
	keys := make([]string, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	sort.Strings(keys)
	return keys
}

var metricNames = map[string]string{
	"radius_rms_m": "place, rms", "radius_p95_m": "place, 95 %", "radius_max_m": "place, most", "height_max_m": "height, most",
	"nose_max_deg": "nose, most", "inside_s": "time inside", "drift_max_m": "drift, most", "turned_deg": "turned", "overshoot_deg": "turned too far",
	"rate_dps": "rate", "rate_min_dps": "slowest rate", "rate_max_dps": "quickest rate", "offset_m": "off the pad", "sink_mps": "sink rate", "sideways_mps": "sideways speed",
	"tilt_deg": "lean", "nose_deg": "nose", "bounces": "bounces", "takeoff_s": "took", "seconds_max": "time at most",
}

var units = []struct{ suffix, unit string }{{"_mps", " m/s"}, {"_dps", " °/s"}, {"_deg", "°"}, {"_m", " m"}, {"_s", " s"}, {"seconds_max", " s"}}

func metricWords(name string) string {
	if w, ok := metricNames[name]; ok {
		return w
	}
	return strings.ReplaceAll(name, "_", " ")
}

func withUnit(name string, v float64) string {
	for _, u := range units {
		if strings.HasSuffix(name, u.suffix) {
			return number(v) + u.unit
		}
	}
	return number(v)
}

// stepRows puts what was asked beside what was flown.
func stepRows(task drill.Task, r *score.Result) []stepRow {
	var out []stepRow
	for i, st := range r.Steps {
		if i >= len(task.Steps) {
			break
		}
		row := stepRow{StepResult: st, Number: i + 1, Asked: task.Steps[i].Words()}
		switch {
		case st.StartS == nil:
			row.Span = "not begun"
		case st.EndS == nil:
			row.Span = fmt.Sprintf("from %.1f s, not done", *st.StartS)
		default:
			row.Span = fmt.Sprintf("%.1f to %.1f s", *st.StartS, *st.EndS)
		}
		for _, name := range sortedKeys(st.Metrics) {
			v := st.Metrics[name]
			l, limited := st.Limits[name]
			line := metricRow{Name: metricWords(name), Value: withUnit(name, v), Limit: "—"}
			if limited {
				line.Limit = withUnit(name, l)
				line.Out = v > l
				if name == "inside_s" {
					line.Out = v < l
				}
			}
			row.Lines = append(row.Lines, line)
		}
		out = append(out, row)
	}
	return out
}

// readLog reads a kept file as it was read when it was kept.
func readLog(file []byte, how store.Reading) (*track.Track, []string, error) {
	o := track.CSVOptions{Rename: how.Rename, Semicolons: how.Semicolons}
	if how.Origin != nil {
		p, err := field.NewPlane(field.Geo{LatDeg: how.Origin[0], LonDeg: how.Origin[1], AltM: how.Origin[2]}, how.AwayDeg)
		if err != nil {
			return nil, nil, err
		}
		o.Plane = p
	}
	return track.ReadCSV(bytes.NewReader(file), o)
}

// trackFile gives the log back as it came.
func (s *Server) trackFile(c *gin.Context) {
	k, err := s.attempt(c)
	if err != nil {
		s.failed(c, err)
		return
	}
	var file *store.TrackFile
	err = s.store.InSchool(c.Request.Context(), person(c).SchoolID, func(tx store.Tx) error {
		id, err := uuid.Parse(k.ID)
		if err == nil {
			file, err = tx.Track(c.Request.Context(), id)
		}
		return err
	})
	if err != nil {
		s.failed(c, err)
		return
	}
	c.Header("Content-Disposition", `attachment; filename="track-`+k.ID+`.csv"`)
	c.Data(http.StatusOK, "text/csv; charset=utf-8", file.File)
}

// voidAttempt appends a correction that takes an attempt out of the count.
func (s *Server) voidAttempt(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	k, err := s.attempt(c)
	if err != nil {
		s.failed(c, err)
		return
	}
	reason := cleanName(c.PostForm("reason"))
	if reason == "" {
		s.wrongInput(c, "A void needs its reason.", "Write what happened: an intruder, a gust, the craft, the instructor.")
		return
	}
	d, err := drill.Parse(k.DrillSource)
	if err != nil {
		s.failed(c, fmt.Errorf("the drill as it was flown: %w", err))
		return
	}
	fix := store.NewAttempt{Attempt: k.Attempt, StudentID: k.StudentID, CraftType: k.CraftType, Drill: d, By: p.ID}
	res := k.Result
	res.Verdict, res.VoidReason, res.Margin = score.Void, reason, nil
	fix.Result = &res
	fix.ID, fix.Corrects = store.NewID().String(), k.ID
	fix.Verdict, fix.Margin = score.Void, nil
	err = s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		_, err := tx.Keep(ctx, k.StudentID, fix)
		return err
	})
	if errors.Is(err, store.ErrAlreadyCorrected) || k.CorrectedBy != nil {
		s.problem(c, http.StatusConflict, problem{What: "This attempt was corrected already.", Do: "Open the newest version from the student's page."})
		return
	}
	if err != nil {
		s.failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/attempts/"+fix.ID)
}
