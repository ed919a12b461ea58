package students

import (
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/readiness"
	"maestrale/core/record"
	"maestrale/internal/draw"
	"maestrale/internal/knowledge"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// progressModel is how a student came along, as a picture and as a table.
type progressModel struct {
	Student store.Student
	Picture template.HTML
	Says    []string
	Days    []dayRow
	// Of a drill, where one is asked for.
	Drill  string
	Dots   []dotRow
	Drills []choice // that were flown
}

// choice is a drill that can be shown.
type choice struct {
	Key, Words string
	Is         bool
}

type dayRow struct {
	Date             string
	Flown, Sim, Held int
}

type dotRow struct{ When, Side, Verdict, Margin, Chance, Where string }

// ProgressPage draws what a student holds over the attempts flown or, where a drill is asked for, the attempts at it.
func (s Pages) ProgressPage(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	id, err := frame.Param(c, "student")
	if err == nil {
		err = frame.OwnOnly(p, id)
	}
	var j *knowledge.Student
	var attempts []record.Attempt
	if err == nil {
		err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
			if j, err = s.Students().Of(ctx, tx, id); err != nil {
				return err
			}
			return tx.Evidence(ctx, []uuid.UUID{id}, func(_ uuid.UUID, a *record.Attempt) {
				own := *a // it is only lent
				if a.Margin != nil {
					m := *a.Margin
					own.Margin = &m
				}
				attempts = append(attempts, own)
			})
		})
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	m := progressModel{Student: j.Student}
	asked := c.Query("drill")
	flown := map[string]bool{}
	for i := range attempts {
		flown[attempts[i].Drill] = true
	}
	for _, d := range s.Cat.InOrder() {
		if flown[d.Key] {
			m.Drills = append(m.Drills, choice{d.Key, d.Title, d.Key == asked})
		}
	}
	if d, ok := s.Cat.Drills[asked]; ok {
		m.Drill = d.Title
		s.drillProgress(&m, j, attempts, asked, p)
	} else {
		s.wholeProgress(&m, j, attempts, p)
	}
	s.Render(c, http.StatusOK, "progress", frame.Page{Title: "Progress of " + j.Student.Name, Place: "Students", Body: m})
}

// wholeProgress is the picture of the whole ladder.
func (s Pages) wholeProgress(m *progressModel, j *knowledge.Student, attempts []record.Attempt, p *store.Person) {
	days := readiness.ProgressOf(s.Cat, j.Student.Programme, j.Student.CraftType, attempts, p.Zone())
	for _, d := range slices.Backward(days) {
		m.Days = append(m.Days, dayRow{d.Date.Format("Mon 2 Jan 2006"), d.Flown, d.Sim, d.Held})
	}
	var lines []draw.Line
	for _, l := range readiness.GateLines(j.Programme) {
		lines = append(lines, draw.Line{Title: s.Cat.Gates[l.Key].Title, Above: l.Above})
	}
	next, says := s.forecastOf(j)
	m.Says = append(m.Says, says...)
	m.Picture = draw.Progress(days, len(j.Cells()), lines, next)
}

// forecastOf is what the next gate on the programme takes still; nil where every gate is met. An interval is given only
// where it is known of every open drill.
func (s Pages) forecastOf(j *knowledge.Student) (*draw.Forecast, []string) {
	for _, l := range readiness.GateLines(j.Programme) {
		g := j.Gate(s.Cat.Gates[l.Key])
		if g.State == readiness.GateSigned || g.State == readiness.GateReady || g.NotFor != "" {
			continue
		}
		next := &draw.Forecast{Least: g.Closing.Attempts}
		says := []string{say.Say("gate takes", g.Gate.Title, g.Closing.Attempts)}
		low, high, known := j.Takes(g)
		if known {
			next.Low, next.High = low, high
			says = append(says, say.Say("gate likely", next.Low, next.High))
		} else if len(g.Missing) > 0 {
			says = append(says, say.Say("gate unknown"))
		}
		return next, says
	}
	return nil, []string{say.Say("gates met")}
}

// drillProgress is the picture of one drill.
func (s Pages) drillProgress(m *progressModel, j *knowledge.Student, attempts []record.Attempt, key string,
	p *store.Person) {
	dots := readiness.DotsOf(j.Evidence, attempts, key)
	m.Picture = draw.Dots(dots)
	for _, d := range slices.Backward(dots) {
		row := dotRow{When: d.At.In(p.Zone()).Format("Mon 2 Jan 15:04"), Verdict: say.Say("verdict fail"),
			Where:  say.Say(msgAtTheField),
			Margin: strings.Replace(fmt.Sprintf("%+.2f", d.Margin), "-", "−", 1), Chance: "—", Side: "—"}
		if d.Pass {
			row.Verdict = say.Say("verdict pass")
		}
		if d.Sim {
			row.Where = say.Say(msgInTheSimulator)
		}
		if d.Chance >= 0 {
			row.Chance = fmt.Sprintf("%.0f %%", 100*d.Chance)
		}
		if d.Side != "" && d.Side != "none" {
			row.Side = string(d.Side)
		}
		m.Dots = append(m.Dots, row)
	}
}
