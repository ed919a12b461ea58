package web

import (
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/drill"
	"maestrale/core/readiness"
	"maestrale/core/record"
	"maestrale/internal/store"
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

var gateWords = map[readiness.State]string{
	readiness.GateNotReady: "Not yet", readiness.GateReady: "Ready to be signed", readiness.GateSigned: "Signed", readiness.GateLapsed: "Lapsed",
}

// gateRowOf is a judged gate for the screens.
func (s *Server) gateRowOf(g readiness.GateResult, loc *time.Location) gateRow {
	says := g.Why()
	for _, c := range g.Clauses {
		says = strings.ReplaceAll(says, c.Words(), s.clauseWords(c))
	}
	row := gateRow{GateResult: g, Word: gateWords[g.State], Says: asSentence(says), May: g.Signable()}
	if g.Sign != nil {
		row.Until = g.Sign.Until.In(loc).Format("2 Jan 2006")
		row.Confirm = g.State == readiness.GateSigned && g.Sign.Read == nil
	}
	for _, a := range g.Acts {
		says := "not witnessed yet"
		if a.Seen != nil {
			says = fmt.Sprintf("%s, %s", a.Seen.At.In(loc).Format("2 Jan 2006"), a.Seen.By)
			if !a.Valid {
				says += "; too long ago"
			}
		}
		row.Acts = append(row.Acts, actRow{a.Act, a.Valid, says})
	}
	var parts []string
	if n := len(g.Missing); n > 0 {
		parts = append(parts, fmt.Sprintf("%d of %d cells", n, len(g.Entries)))
	}
	for _, c := range g.Clauses {
		if !c.Met() {
			parts = append(parts, map[readiness.ClauseKind]string{readiness.WindClause: "in wind", readiness.PlacesClause: "another place", readiness.AttentionClause: "answering questions"}[c.Kind])
		}
	}
	acts := 0
	for _, a := range g.Acts {
		if !a.Valid {
			acts++
		}
	}
	if acts > 0 {
		parts = append(parts, counted(acts, "act"))
	}
	if g.State == readiness.GateSigned {
		return row // what is missing was waived with it
	}
	if row.Short = strings.Join(slices.Compact(parts), ", "); row.Short != "" && g.Closing.Attempts > 0 {
		row.Short += fmt.Sprintf(" · %s at least, over %s", counted(g.Closing.Attempts, "attempt"), counted(g.Closing.Dates, "day"))
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
func (s *Server) gateRows(j *judged, seen []record.Witnessed, signs []record.SignOff, loc *time.Location) []gateRow {
	var out []gateRow
	for _, k := range s.cat.GateKeys() {
		g := readiness.JudgeGate(s.cat.Gates[k], j.on, j.evidence, seen, signs)
		if g.NotFor == "" {
			out = append(out, s.gateRowOf(g, loc))
		}
	}
	return out
}

// judgedFor reads a student and all that is known of them, in one transaction.
func (s *Server) judgedFor(c *gin.Context, tx store.Tx, student uuid.UUID) (j *judged, seen []record.Witnessed, signs []record.SignOff, err error) {
	ctx := c.Request.Context()
	st, err := tx.Student(ctx, student)
	if err != nil {
		return nil, nil, nil, err
	}
	e := s.evidence(zone(person(c)))
	fitted, err := expect(ctx, tx, e)
	if err != nil {
		return nil, nil, nil, err
	}
	if err = tx.Evidence(ctx, &student, func(_ uuid.UUID, a *record.Attempt) { e.Add(a) }); err != nil {
		return nil, nil, nil, err
	}
	seen, signs, err = tx.Decisions(ctx, student)
	j = s.judge(st, e)
	j.fitted = fitted
	return j, seen, signs, err
}

// theirs reads the student of the address with all that is known of them, and
// more in the same transaction; a student's own only for a student.
func (s *Server) theirs(c *gin.Context, more func(tx store.Tx, student uuid.UUID) error) (j *judged, err error) {
	p := person(c)
	id, err := param(c, "student")
	if err == nil {
		err = ownOnly(p, id)
	}
	if err != nil {
		return nil, err
	}
	err = s.store.InSchool(c.Request.Context(), p.SchoolID, func(tx store.Tx) error {
		if j, _, _, err = s.judgedFor(c, tx, id); err != nil || more == nil {
			return err
		}
		return more(tx, id)
	})
	return j, err
}

// witness keeps that an instructor saw an act.
func (s *Server) witness(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	id, err := param(c, "student")
	if err != nil {
		s.failed(c, err)
		return
	}
	act := c.PostForm("act")
	by := ""
	for _, g := range s.cat.Gates {
		for _, a := range g.Witnessed {
			if a.Key == act {
				by = a.By
			}
		}
	}
	err = s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		if _, err := tx.Student(ctx, id); err != nil {
			return err
		}
		if by == "" {
			return inputError("No gate asks for that act.")
		}
		if by == store.Chief && p.Role != store.Chief {
			return inputError("Only the chief instructor witnesses that.")
		}
		return tx.Witness(ctx, id, p.ID, record.Witnessed{Act: act, At: s.now().UTC().Truncate(time.Microsecond), By: p.Name})
	})
	s.backToStudent(c, id, err)
}

// backToStudent ends what was done for a student: back to the page, or what
// was wrong.
func (s *Server) backToStudent(c *gin.Context, id uuid.UUID, err error) {
	s.backTo(c, "/students/"+id.String(), err)
}

func (s *Server) backTo(c *gin.Context, address string, err error) {
	switch wrong := err.(type) {
	case nil:
		c.Redirect(http.StatusSeeOther, address)
	case inputError:
		s.problem(c, http.StatusConflict, problem{What: string(wrong), Do: "Go back to the student; the page says what is missing."})
	default:
		s.failed(c, err)
	}
}
