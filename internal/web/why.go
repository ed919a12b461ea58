package web

import (
	"fmt"
	"net/http"
	"strconv"

	"github.com/gin-gonic/gin"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/readiness"
	"maestrale/internal/store"
)

// slip is a why slip: the figure, its inputs, the rule in words, its source,
// and the evidence.
type slip struct {
	Figure   string
	Says     string
	Inputs   [][2]string
	Rule     string
	Source   string
	Evidence []evidence
}

type evidence struct{ Text, Href string }

const standingRule = "Held: of the newest four attempts three or more passed, the passes fall on two or more dates, and the newest pass is no older than its currency. One failed attempt does not take a held item away; two of the newest four do. " +
	"A pass with fewer aids, or at a higher level, counts as well; a fail counts only where it was flown. Void counts nowhere."

// whyCell says why a cell stands as it does.
func (s *Server) whyCell(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	id, err := param(c, "student")
	if err == nil {
		err = ownOnly(p, id)
	}
	level, lerr := strconv.Atoi(c.DefaultQuery("level", "1"))
	cell := drill.Cell{Drill: c.Query("drill"), Side: field.Side(c.Query("side")), Aids: craft.Aids(c.Query("aids")), Level: level}
	if _, known := s.cat.Drills[cell.Drill]; err == nil && (!known || lerr != nil || cell.Aids.Rank() < 0) {
		err = store.ErrNotFound
	}
	var j *judged
	var list []store.Flown
	if err == nil {
		err = s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
			if j, _, _, err = s.judgedFor(c, tx, id); err != nil {
				return err
			}
			list, err = tx.Attempts(ctx, id)
			return err
		})
	}
	if err != nil {
		s.failed(c, err)
		return
	}
	loc := zone(p)
	judgedCell := j.cell(cell)
	sl := slip{Figure: s.titleOf(cell.Drill, cell.Side) + ", " + cell.Aids.Words(), Rule: standingRule,
		Source: "DESIGN, standing of a cell; currency is 14 days with passes on two dates and doubles with each further date, up to 90.",
		Says:   judgedCell.Standing.String() + ": " + judgedCell.Why + "."}
	if n := judgedCell.NeedsWords(); n != "" {
		sl.Says += " Still to fly: " + n + "."
	}
	sl.Inputs = [][2]string{
		{"craft class", string(j.class)},
		{"attempts that bear on it", strconv.Itoa(judgedCell.Attempts)},
		{"passes", fmt.Sprintf("%d, on %s", judgedCell.Passes, counted(judgedCell.Dates, "date"))},
		{"in the simulator", judgedCell.SimStanding.String()},
	}
	if !judgedCell.CurrentUntil.IsZero() {
		sl.Inputs = append(sl.Inputs, [2]string{"current until", judgedCell.CurrentUntil.In(loc).Format("Mon 2 Jan 2006 15:04")},
			[2]string{"currency", fmt.Sprintf("%d days", readiness.CurrencyDays(judgedCell.Dates))})
	}
	for _, a := range list {
		if a.Drill == cell.Drill && a.Side == cell.Side && a.CraftClass == j.class && len(sl.Evidence) < 6 {
			what := string(a.Verdict)
			if !a.Counts {
				what += " (practice: " + a.WhyNot + ")"
			}
			sl.Evidence = append(sl.Evidence, evidence{fmt.Sprintf("%s, %s, level %d: %s", a.At.In(loc).Format("Mon 2 Jan 15:04"), a.Aids.Words(), a.Level, what), "/attempts/" + a.ID})
		}
	}
	s.render(c, http.StatusOK, "slip", page{Title: "Why: " + sl.Figure, Place: "Students", Body: sl})
}

// whyMargin says what a margin rests on.
func (s *Server) whyMargin(c *gin.Context) {
	k, err := s.attempt(c)
	if err != nil {
		s.failed(c, err)
		return
	}
	sl := slip{Figure: "margin", Rule: "1 minus the worst share of a limit, over everything that was judged: 0.4 is four tenths of the tolerance to spare, −0.3 is three tenths outside. " +
		"A time that has to be reached counts only when missed, as asked over flown. Where the faults are more than the drill forgives, what they reached counts too.",
		Source: "CONTRACTS, margin; the limits are the drill's for craft class " + string(k.CraftClass) + "."}
	sl.Says = "nothing was measured"
	if k.Margin != nil {
		sl.Says = fmt.Sprintf("%+.2f", *k.Margin)
	}
	for _, st := range k.Result.Steps {
		for _, name := range sortedKeys(st.Limits) {
			if v, ok := st.Metrics[name]; ok && st.Limits[name] > 0 {
				sl.Inputs = append(sl.Inputs, [2]string{fmt.Sprintf("step %d %s, %s", st.Index+1, st.Kind, metricWords(name)), fmt.Sprintf("%s of %s", number(v), number(st.Limits[name]))})
			}
		}
	}
	for i, f := range k.Result.Faults {
		sl.Evidence = append(sl.Evidence, evidence{f.Text, fmt.Sprintf("/attempts/%s#fault-%d", k.ID, i+1)})
	}
	s.render(c, http.StatusOK, "slip", page{Title: "Why this margin", Place: "Students", Body: sl})
}
