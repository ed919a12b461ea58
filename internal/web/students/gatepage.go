package students

import (
	"fmt"
	"math"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/readiness"
	"maestrale/core/record"
	"maestrale/internal/knowledge"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
	"maestrale/internal/words"
)

// gateModel is one gate of one student, whole.
type gateModel struct {
	Student store.Student
	Gate    gateRow
	Class   craft.Class
	Craft   string
	Entries []entryRow
	Clauses []clauseRow
	Closing []string
	Need    string
	Carried string
	NewType []string
	Signs   []signRow
	Stands  *signRow
	CanMark bool
	MaySign bool
	IsChief bool
	Own     bool
	MayRead bool
	// MayWitness tells that the student has no account and confirms on this device.
	MayWitness bool
	Witness    string
	Left       readiness.Confirmation // what the student left on the instructor's device
	Sites      []string
	Types      []craft.Type // of the class
	Loosened   []string
	Cautions   []string
	Days       int
	Alone      string
	Fits       string // whether the estimates fit what came
	Fitted     string // what they rest on
}

// Open are the entries that are not met, which come first.
func (m gateModel) Open() []entryRow { return m.entries(false) }

// Met are the entries that are met.
func (m gateModel) Met() []entryRow { return m.entries(true) }

func (m gateModel) entries(met bool) (out []entryRow) {
	for _, e := range m.Entries {
		if e.Met == met {
			e.Markable = m.CanMark && !met
			out = append(out, e)
		}
	}
	return out
}

type entryRow struct {
	cellRow
	Met, Waived, Cannot bool
	Instead             string // the drill or aids that are flown in the entry's place
	Chance              string
	ToGo                string
}

type clauseRow struct {
	Words  string
	Met    bool
	Waived bool
	Until  string
}

// signRow is a sign-off with what became of it.
type signRow struct {
	record.SignOff
	At, Until, Read string
	Gone            string
	Bound           []string
	Card            bool
	Force           bool
}

func (s Pages) signRowOf(x record.SignOff, loc *time.Location, at time.Time) signRow {
	r := signRow{SignOff: x, At: x.At.In(loc).Format("2 Jan 2006"), Until: x.Until.In(loc).Format("2 Jan 2006"),
		Force: !x.WithdrawnAt(at) && !at.After(x.Until)}
	if x.Read != nil {
		r.Read = x.Read.In(loc).Format("2 Jan 2006")
	}
	if x.Withdrawn != nil {
		r.Gone = fmt.Sprintf(msgWithdrawnByOn, x.WithdrawnBy, x.Withdrawn.In(loc).Format("2 Jan 2006"),
			x.WithdrawnWhy)
	}
	if w := x.Conditions.WindMps; w > 0 {
		r.Bound = append(r.Bound, fmt.Sprintf(msgUpWindKn, w, w*3600/1852))
	}
	if len(x.Conditions.Sites) > 0 {
		r.Bound = append(r.Bound, "at "+strings.Join(x.Conditions.Sites, ", "))
	}
	for i, k := range x.Conditions.Craft {
		if t, ok := s.Cat.Craft[k]; ok {
			k = t.Title
		}
		if i == 0 {
			k = "on " + k
		}
		r.Bound = append(r.Bound, k)
	}
	return r
}

// GatePage shows a gate with every entry, what closes it, and what was signed.
func (s Pages) GatePage(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	g, known := s.Cat.Gates[c.Param("gate")]
	if !known {
		s.NotFound(c)
		return
	}
	var sites []string
	cards := map[string]bool{}
	var has bool
	left := map[string]readiness.Confirmation{}
	j, err := s.Theirs(c, func(tx store.Tx, id uuid.UUID) (err error) {
		_, signs, err := tx.Decisions(ctx, id)
		if err != nil {
			return err
		}
		list, err := tx.Sites(ctx)
		for _, x := range list {
			sites = append(sites, x.Name)
		}
		for _, x := range signs {
			if sid, perr := uuid.Parse(x.ID); perr == nil && err == nil && x.Gate == g.Key {
				cards[x.ID], err = tx.HasCard(ctx, sid)
				if err == nil && x.ReadOn != "" {
					left[x.ID], err = tx.ConfirmationOf(ctx, sid)
				}
			}
		}
		if err == nil {
			has, err = tx.HasAccount(ctx, id)
		}
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	m := s.gateOf(p, g, j, sites, cards)
	if m.Stands != nil {
		m.Witness = p.Name
		m.MayWitness, m.Left = m.CanMark && !has && m.Stands.SignOff.Read == nil, left[m.Stands.ID]
	}
	s.Render(c, http.StatusOK, "gate", frame.Page{Title: g.Title + ", " + j.Student.Name, Place: "Students", Body: m,
		Script: signatureScript(m.MayWitness),
		Keys:   []frame.Key{{Key: "w", Does: msgWhyUnderlinedFigure}}})
}

// gateOf is a gate of a student as the page shows it.
func (s Pages) gateOf(p *store.Person, g drill.Gate, j *knowledge.Student, sites []string, cards map[string]bool) (
	m gateModel) {
	loc := p.Zone()
	r := j.Gate(g)
	m = gateModel{Student: j.Student, Gate: s.gateRowOf(r, loc), Class: j.On.Class,
		Craft: s.Cat.Craft[j.Student.CraftType].Title, CanMark: p.Role == store.Chief || p.Role == store.Instructor,
		MaySign: p.Signer().May(s.Now()), IsChief: p.Role == store.Chief, Own: p.Role == store.Learner, Sites: sites,
		NewType: s.titles(r.NewType()), Days: g.SignedDays, Cautions: gateCautions}
	m.Alone = msgInstructorShoulderOr
	switch {
	case g.Alone && g.Hold:
		m.Alone = msgAloneMeansWithout
	case g.Alone:
		m.Alone = msgAloneMeansWithoutInstructor
	}
	if r.From != "" {
		m.Carried = fmt.Sprintf(msgSignedClassOne, r.From)
	}
	for _, k := range s.Cat.Craft.Keys() {
		if t := s.Cat.Craft[k]; t.Class() == j.On.Class {
			m.Types = append(m.Types, t)
		}
	}
	if shipped, ok := s.Catalogues.Shipped.Gates[g.Key]; ok {
		m.Loosened = drill.Loosened(shipped, g)
	}
	var foretold []readiness.Foretold
	for _, n := range r.Entries {
		m.Entries = append(m.Entries, s.entryRowOf(j, n))
		j.Evidence.ForetellOf(readiness.Key{Cell: n.Cell.Cell, Class: j.On.Class},
			func(f readiness.Foretold) { foretold = append(foretold, f) })
	}
	m.Fits, m.Fitted = readiness.Calibrate(foretold, 10, 1).Words(), msgTheyRestHow
	if !j.Fitted.FittedAt.IsZero() {
		m.Fitted = fmt.Sprintf(msgTheyRestHowStudents,
			j.Fitted.Attempts, j.Fitted.FittedAt.In(loc).Format("2 January 2006"))
	}
	for _, x := range r.Clauses {
		row := clauseRow{Words: s.clauseWords(x), Met: x.Met(), Waived: x.Waived}
		if !x.Until.IsZero() {
			row.Until = x.Until.In(loc).Format("2 Jan 2006")
		}
		m.Clauses = append(m.Clauses, row)
	}
	m.signing(s, g, j, r, cards)
	return m
}

// signing adds what is still needed and the sign-offs, the newest first.
func (m *gateModel) signing(s Pages, g drill.Gate, j *knowledge.Student, r readiness.GateResult,
	cards map[string]bool) {
	m.Need = fmt.Sprintf(msgLeastAllPassed, words.Counted(r.Closing.Attempts, "attempt"),
		words.Counted(r.Closing.Dates, "day"))
	for _, w := range r.Closing.Set {
		m.Closing = append(m.Closing, s.wantWords(w))
	}
	for _, x := range slices.Backward(j.Signs) {
		if x.Gate == g.Key && x.CraftClass == j.On.Class {
			row := s.signRowOf(x, s.Who.Zone(), s.Now())
			row.Card = cards[x.ID]
			m.Signs = append(m.Signs, row)
		}
	}
	if len(m.Signs) > 0 && m.Signs[0].Force && r.State == readiness.GateSigned {
		m.Stands = &m.Signs[0]
		m.MayRead = m.Own && m.Stands.SignOff.Read == nil
	}
}

// gateCautions are what a student confirms having read.
var gateCautions = []string{
	msgNobodyFlownOver,
	msgFlightBrokenOff,
	msgPacksNeverCharged,
	msgPositionHoldLetting,
	msgLocalRulesCraft,
}

func (s Pages) titles(drills []string) (out []string) {
	for _, k := range drills {
		out = append(out, s.Cat.TitleOf(k, field.NoSide))
	}
	return out
}

func (s Pages) entryRowOf(j *knowledge.Student, n readiness.Entry) entryRow {
	row := entryRow{cellRow: s.cellRow(j.Student.ID, j.Evidence.Cell(readiness.Key{Cell: n.Cell.Cell, Class: j.On.Class})),
		Met: n.Met(), Waived: n.Waived, Cannot: n.Cannot}
	if n.Cell.Drill != n.Asked.Drill {
		row.Instead = fmt.Sprintf(msgInThePlace, s.Cat.TitleOf(n.Asked.Drill, n.Asked.Side))
	} else if n.Cell.Aids != n.Asked.Aids {
		row.Instead = fmt.Sprintf(msgInThePlace, n.Asked.Aids.Words())
	}
	row.Chance, row.ToGo = s.chanceOf(j, n.Cell)
	return row
}

// chanceOf says the chance of a pass today and how far it is to a held cell, as estimates.
func (s Pages) chanceOf(j *knowledge.Student, c readiness.Cell) (chance, toGo string) {
	k := readiness.Key{Cell: c.Cell, Class: j.On.Class}
	post := j.Evidence.Posterior(k)
	if post == nil {
		return "", ""
	}
	chance = post.Next(s.Now(), -1).Words()
	if span, ok := post.ToGo(c, -1, j.Evidence.Pace(k)); ok {
		toGo = spanWords(span)
	}
	return chance, toGo
}

func spanWords(s readiness.Span) string {
	high := fmt.Sprint(s.High)
	if s.High >= readiness.Most {
		high = fmt.Sprintf("over %d", readiness.Most)
	}
	if s.Median >= readiness.Most {
		return fmt.Sprintf("over %d attempts", readiness.Most)
	}
	return fmt.Sprintf(msgMoreAttempts, s.Median, s.Low, high)
}

func (s Pages) clauseWords(c readiness.Clause) string {
	titles := strings.Join(s.titles(c.Drills), " or ")
	switch c.Kind {
	case readiness.WindClause:
		return fmt.Sprintf(msgPassedLeastWind, titles, c.Mps, math.Round(c.Mps*3600/1852))
	case readiness.PlacesClause:
		return fmt.Sprintf(msgPassesSitesOr, c.Want, c.Want, c.Have, c.Want)
	}
	return fmt.Sprintf(msgPassedWhileAnswering, titles)
}

// wantWords says attempts that are still to be flown.
func (s Pages) wantWords(w readiness.Want) string {
	t := fmt.Sprintf("%s, %s", s.Cat.TitleOf(w.Drill, w.Side), w.Aids.Words())
	if w.Level > 1 {
		t += fmt.Sprintf(", level %d", w.Level)
	}
	if w.Passes == 1 {
		t += ": one pass"
	} else {
		t += fmt.Sprintf(": %d passes", w.Passes)
	}
	if w.Dates > 1 {
		t += fmt.Sprintf(" over %d days", w.Dates)
	}
	if w.WindMps > 0 {
		t += fmt.Sprintf(msgOneOrMore, w.WindMps)
	}
	if w.Elsewhere > 0 {
		where := msgAnotherSite
		switch {
		case w.NewSite && w.NewLight:
			where = msgAnotherSiteOr
		case w.NewLight:
			where = msgAnotherLight
		}
		t += ", one " + where
	}
	if w.Answering {
		t += msgOneWhileAnswering
	}
	return t
}

// signatureScript is the script of a page on which a signature is drawn; a page without one needs none.
func signatureScript(drawn bool) string {
	if drawn {
		return "signature.js"
	}
	return ""
}
