package students

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/drill"
	"maestrale/core/readiness"
	"maestrale/core/record"
	"maestrale/internal/knowledge"
	"maestrale/internal/refusal"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
	"maestrale/internal/words"
)

// gateRow is a gate as the student's page shows it.
type gateRow struct {
	readiness.GateResult
	Word string // what the state is called on the screen
	Acts []actRow
	Says string
	May  bool // it can be signed now
	// Until is the last day of the sign-off, where there is one.
	Until   string
	Short   string // what is missing, in a line
	Confirm bool   // the student has not yet confirmed having read the cautions
}

type actRow struct {
	drill.Act
	Valid bool
	Says  string
}

// gateRowOf is a judged gate for the screens.
func (s Pages) gateRowOf(g readiness.GateResult, loc *time.Location) gateRow {
	says := g.Why()
	for _, c := range g.Clauses {
		says = strings.ReplaceAll(says, c.Words(), s.clauseWords(c))
	}
	row := gateRow{GateResult: g, Word: frame.GateWords[g.State], Says: asSentence(says), May: g.Signable()}
	if g.Sign != nil {
		row.Until = g.Sign.Until.In(loc).Format("2 Jan 2006")
		row.Confirm = g.State == readiness.GateSigned && g.Sign.Read == nil
	}
	for _, a := range g.Acts {
		says := msgNotWitnessedYet
		if a.Seen != nil {
			says = fmt.Sprintf("%s, %s", a.Seen.At.In(loc).Format("2 Jan 2006"), a.Seen.By)
			if !a.Valid {
				says += msgTooLongAgo
			}
		}
		row.Acts = append(row.Acts, actRow{a.Act, a.Valid, says})
	}
	var parts []string
	if n := len(g.Missing); n > 0 {
		parts = append(parts, say.Say("open drills", n, len(g.Entries)))
	}
	for _, c := range g.Clauses {
		if !c.Met() {
			parts = append(parts, map[readiness.ClauseKind]string{readiness.WindClause: msgPassWind,
				readiness.PlacesClause: "another place", readiness.AttentionClause: msgPassWhileAnswering}[c.Kind])
		}
	}
	acts := 0
	for _, a := range g.Acts {
		if !a.Valid {
			acts++
		}
	}
	if acts > 0 {
		parts = append(parts, say.Say("acts", acts))
	}
	if g.State == readiness.GateSigned {
		return row // what is missing was waived with it
	}
	if row.Short = strings.Join(slices.Compact(parts), ", "); row.Short != "" {
		row.Short = say.Say("still needed", row.Short)
		if g.Closing.Attempts > 0 {
			row.Short += " " + say.Say("takes", g.Closing.Attempts, words.Counted(g.Closing.Dates, "day"))
		}
	}
	return row
}

// asSentence begins with a capital and leaves its full stop to the page.
func asSentence(t string) string {
	if t = strings.TrimRight(t, ". "); t == "" {
		return t
	}
	r := []rune(t)
	return strings.ToUpper(string(r[:1])) + string(r[1:])
}

// gateRows judges every gate for the student's craft.
func (s Pages) gateRows(j *knowledge.Student, loc *time.Location) []gateRow {
	var out []gateRow
	for _, g := range j.Gates() {
		out = append(out, s.gateRowOf(g, loc))
	}
	return out
}

// Witness keeps that an instructor saw an act.
func (s Pages) Witness(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	id, err := frame.Param(c, "student")
	if err != nil {
		s.Failed(c, err)
		return
	}
	act := c.PostForm("act")
	by, asked := s.Cat.WitnessOf(act)
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		if _, err := tx.Student(ctx, id); err != nil {
			return err
		}
		if !asked {
			return refusal.Error(msgNoGateAsks)
		}
		if by == store.Chief && p.Role != store.Chief {
			return refusal.Error(msgOnlyChiefInstructor)
		}
		return tx.Witness(ctx, id, p.ID, record.Witnessed{Act: act, At: s.Now().UTC().Truncate(time.Microsecond),
			By: p.Name})
	})
	s.backToStudent(c, id, err)
}

// backToStudent ends what was done for a student: back to the page, or what
// was wrong.
func (s Pages) backToStudent(c *gin.Context, id uuid.UUID, err error) {
	to := "/students/" + id.String()
	if _, known := s.Cat.Gates[c.PostForm("gate")]; known { // on from where the button stands
		to += "/gates/" + c.PostForm("gate")
	}
	s.BackTo(c, to, err)
}
