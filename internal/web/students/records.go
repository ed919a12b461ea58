package students

import (
	"crypto/ed25519"
	"fmt"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/readiness"
	"maestrale/core/record"
	"maestrale/internal/exchange"
	"maestrale/internal/knowledge"
	"maestrale/internal/sheet"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// RecordFile gives a student's record: signed JSON, a logbook to print, or a table.
func (s Pages) RecordFile(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	kind := c.Param("file")
	var rec *record.Exported
	var key ed25519.PrivateKey
	var list []store.Flown
	j, err := s.Theirs(c, func(tx store.Tx, id uuid.UUID) (err error) {
		switch kind {
		case "record.json":
			if rec, err = tx.Record(ctx, id); err == nil {
				key, err = tx.SigningKey(ctx)
			}
		case "attempts.csv":
			list, err = tx.Attempts(ctx, id)
		case "logbook.pdf":
			list, err = tx.Attempts(ctx, id)
		default:
			return store.ErrNotFound
		}
		if err != nil {
			return err
		}
		return tx.Did(ctx, p.ID, &id, "took out "+kind)
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	name := exchange.FileOf(j.Student.Name)
	switch kind {
	case "record.json":
		data, err := record.Sign(rec, key, s.Now())
		if err != nil {
			s.Failed(c, err)
			return
		}
		frame.Send(c, name+"-record.json", "application/json; charset=utf-8", data)
	case "attempts.csv":
		frame.Send(c, name+"-attempts.csv", "text/csv; charset=utf-8", exchange.AttemptsCSV(map[uuid.UUID]string{}, list))
	case "logbook.pdf":
		data, err := sheet.Logbook(s.logbook(j, p, list))
		if err != nil {
			s.Failed(c, err)
			return
		}
		frame.Send(c, name+"-logbook.pdf", "application/pdf", data)
	}
}

// logbook is what a student's logbook says.
func (s Pages) logbook(j *knowledge.Student, p *store.Person, list []store.Flown) sheet.Book {
	loc := p.Zone()
	b := sheet.Book{School: p.School, Student: j.Student.Name, Programme: j.Programme.Title,
		Craft: s.Cat.Craft[j.Student.CraftType].Title, Printed: s.Now().In(loc).Format("2 January 2006 15:04"),
		Ladder: j.Ladder()}
	for _, r := range j.Programme.Rungs {
		b.Rungs = append(b.Rungs, r.Title)
	}
	ring := readiness.RingOf(j.Cells(), j.Lay)
	ring.Add(craft.PositionHold, j.With)
	ring.Add(craft.HeightHold, j.Without)
	b.Ring = ring
	for _, g := range s.gateRows(j, loc) {
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
			says += fmt.Sprintf(msgDoesNotCount, a.WhyNot)
		}
		b.Lines = append(b.Lines, sheet.BookLine{At: a.At.In(loc).Format("2 Jan 2006 15:04"), Drill: row.Drill,
			Aids: row.Aids, Wind: row.Wind, Verdict: string(a.Verdict), Source: string(a.Source), Says: says})
	}
	return b
}
