package students

import (
	"fmt"
	"net/http"
	"strconv"

	"github.com/gin-gonic/gin"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/readiness"
	"maestrale/core/score"
	"maestrale/internal/knowledge"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
	"maestrale/internal/words"
)

const standingRule = msgHeldNewestFour

// WhyCell says why a cell stands as it does.
func (s Pages) WhyCell(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	id, err := frame.Param(c, "student")
	if err == nil {
		err = frame.OwnOnly(p, id)
	}
	level, lerr := strconv.Atoi(c.DefaultQuery("level", "1"))
	cell := drill.Cell{Drill: c.Query("drill"), Side: field.Side(c.Query("side")), Aids: craft.Aids(c.Query("aids")),
		Level: level}
	if _, known := s.Cat.Drills[cell.Drill]; err == nil && (!known || lerr != nil || cell.Aids.Rank() < 0) {
		err = store.ErrNotFound
	}
	var j *knowledge.Student
	var list []store.Flown
	if err == nil {
		err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
			if j, err = s.Students().Of(c.Request.Context(), tx, id); err != nil {
				return err
			}
			list, err = tx.Attempts(ctx, id)
			return err
		})
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	loc := p.Zone()
	judgedCell := j.Cell(cell)
	sl := frame.Slip{Figure: s.Cat.TitleOf(cell.Drill, cell.Side) + ", " + cell.Aids.Words(), Rule: standingRule,
		Source: msgDesignStandingCell,
		Says:   judgedCell.Standing.String() + ": " + judgedCell.Why + "."}
	if n := judgedCell.NeedsWords(); n != "" {
		sl.Says += fmt.Sprintf(msgStillFly, n)
	}
	sl.Inputs = [][2]string{
		{"craft class", string(j.On.Class)},
		{msgAttemptsBear, strconv.Itoa(judgedCell.Attempts)},
		{"passes", fmt.Sprintf("%d, on %s", judgedCell.Passes, words.Counted(judgedCell.Dates, "date"))},
		{msgInTheSimulator, judgedCell.SimStanding.String()},
	}
	if !judgedCell.CurrentUntil.IsZero() {
		sl.Inputs = append(sl.Inputs, [2]string{"current until",
			judgedCell.CurrentUntil.In(loc).Format("Mon 2 Jan 2006 15:04")},
			[2]string{"currency", fmt.Sprintf("%d days", readiness.CurrencyDays(judgedCell.Dates))})
	}
	for _, a := range list {
		if a.Drill == cell.Drill && a.Side == cell.Side && a.CraftClass == j.On.Class && len(sl.Evidence) < 6 {
			what := string(a.Verdict)
			if !a.Counts {
				what += " (practice: " + a.WhyNot + ")"
			}
			sl.Evidence = append(sl.Evidence, frame.Evidence{Text: fmt.Sprintf("%s, %s, level %d: %s",
				a.At.In(loc).Format("Mon 2 Jan 15:04"), a.Aids.Words(), a.Level, what), Href: "/attempts/" + a.ID})
		}
	}
	s.Render(c, http.StatusOK, "slip", frame.Page{Title: "Why: " + sl.Figure, Place: "Students", Body: sl})
}

// WhyMargin says what a margin rests on.
func (s Pages) WhyMargin(c *gin.Context) {
	k, err := s.attempt(c)
	if err != nil {
		s.Failed(c, err)
		return
	}
	sl := frame.Slip{Figure: "margin",
		Rule:   msgMinusWorstShare,
		Source: fmt.Sprintf(msgContractsMarginLimits, string(k.CraftClass))}
	sl.Says = msgNothingMeasured
	if k.Margin != nil {
		sl.Says = fmt.Sprintf("%+.2f", *k.Margin)
	}
	for _, st := range k.Result.Steps {
		for _, m := range score.Metrics {
			v, ok := st.Metrics[m.Key]
			if limit := m.LimitWords(st.Limits); ok && limit != "" {
				sl.Inputs = append(sl.Inputs, [2]string{fmt.Sprintf("step %d %s, %s", st.Index+1, st.Kind, m.Words), m.Value(v) +
					", " + limit})
			}
		}
	}
	for i, f := range k.Result.Faults {
		sl.Evidence = append(sl.Evidence, frame.Evidence{Text: f.Text, Href: fmt.Sprintf("/attempts/%s#fault-%d", k.ID, i+1)})
	}
	s.Render(c, http.StatusOK, "slip", frame.Page{Title: msgWhyMargin, Place: "Students", Body: sl})
}
