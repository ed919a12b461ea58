package students

import (
	"cmp"
	"fmt"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
	"maestrale/internal/words"
)

// practiceModel is what a student has flown at the field besides attempts: minutes by
// drill, side and aids, and the flights.
type practiceModel struct {
	Student store.Student
	Total   string
	Rows    []practiceRow
	Flights []practiceFlight
	Start   string // where a flight begins; empty for a student
}

type practiceRow struct{ What, Minutes, Packs, Last string }

type practiceFlight struct {
	When, Craft, What, Minutes, Wind, Felt string
	Incidents                              []string
	Void                                   string
}

func (s Pages) PracticePage(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	id, err := frame.Param(c, "student")
	if err == nil {
		err = frame.OwnOnly(p, id)
	}
	var m practiceModel
	if p.Role != store.Learner {
		m.Start = "/today"
	}
	var list []store.Practice
	var flights []store.FlownFlight
	names := map[uuid.UUID]string{}
	if err == nil {
		err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
			if m.Student, err = tx.Student(ctx, id); err != nil {
				return err
			}
			if list, err = tx.Practised(ctx, id); err != nil {
				return err
			}
			fleet, err := tx.Fleet(ctx)
			if err != nil {
				return err
			}
			for _, k := range fleet {
				names[k.ID] = k.Name
			}
			flights, err = tx.FlightsBy(ctx, id, 60)
			return err
		})
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	loc := p.Zone()
	said := func(d, side, aids string) string {
		return cmp.Or(s.Cat.CellWords(drill.Cell{Drill: d, Side: field.Side(side), Aids: craft.Aids(aids)}),
			msgNoDrillNamed)
	}
	minutes := 0.0
	for _, x := range list {
		minutes += x.Minutes
		m.Rows = append(m.Rows, practiceRow{said(x.Drill, x.Side, x.Aids), fmt.Sprintf("%.0f min", x.Minutes),
			words.Counted(x.Packs, "pack"), x.Last.In(loc).Format("2 Jan")})
	}
	for i := range flights {
		f := &flights[i]
		m.Flights = append(m.Flights, flightRow(f, names[f.CraftID], said(f.Drill, f.Side, f.Aids), loc))
	}
	m.Total = fmt.Sprintf("%.0f min", minutes)
	s.Render(c, http.StatusOK, "practice", frame.Page{Title: "Practice, " + m.Student.Name, Place: "Students", Body: m})
}

// flightRow is a flight as it is listed.
func flightRow(f *store.FlownFlight, craft, what string, loc *time.Location) practiceFlight {
	row := practiceFlight{When: f.BegunAt.In(loc).Format("Mon 2 Jan 15:04"), Craft: craft, What: what,
		Minutes: msgInTheAir, Incidents: f.Incidents, Void: f.Void, Felt: f.Before}
	if f.EndedAt != nil {
		row.Minutes = fmt.Sprintf("%.0f min", f.EndedAt.Sub(f.BegunAt).Minutes())
	}
	if f.WindMps != nil {
		row.Wind = fmt.Sprintf("%.1f m/s", *f.WindMps)
	}
	if f.After != "" {
		row.Felt = cmp.Or(f.Before, "?") + " → " + f.After
	}
	return row
}
