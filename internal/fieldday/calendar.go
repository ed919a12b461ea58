package fieldday

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"

	"maestrale/core/drill"
	"maestrale/internal/store"
	"maestrale/internal/words"
)

// What a calendar reaches back and ahead.
const (
	calendarBack  = 60 * 24 * time.Hour
	calendarAhead = 400 * 24 * time.Hour
)

// Appointment is one entry of a person's calendar.
type Appointment struct {
	ID         string
	From, To   time.Time
	What, Says string
}

// Appointments are a person's: of a student the own flights, of everybody else the field
// days, with those that the person teaches or watches in their text.
func (s Days) Appointments(ctx context.Context, tx store.Tx, p *store.Person) ([]Appointment, error) {
	days, err := tx.Days(ctx, s.Now().Add(-calendarBack), s.Now().Add(calendarAhead))
	if err != nil {
		return nil, err
	}
	b := &Board{Now: s.Now(), Person: p, Students: map[uuid.UUID]store.Student{}, Craft: map[uuid.UUID]store.Craft{},
		Packs: map[uuid.UUID]Pack{}, Staff: map[uuid.UUID]store.Account{}}
	if err := s.ReadFleet(ctx, tx, b); err != nil {
		return nil, err
	}
	var out []Appointment
	for _, d := range days {
		var of Plan
		if err := json.Unmarshal(d.Plan, &of); err != nil {
			return nil, fmt.Errorf("the plan of a day: %w", err)
		}
		b.Plan = of
		out = append(out, s.ofDay(b, d, p)...)
	}
	return out, nil
}

func (s Days) ofDay(b *Board, d store.FieldDay, p *store.Person) (out []Appointment) {
	nth := map[string]int{}
	var mine []string
	for _, f := range b.Plan.Flights {
		n := nth[f.Student]
		nth[f.Student]++
		var cell drill.Cell
		if c := b.Plan.Cells[f.Student]; n < len(c) {
			cell = c[n]
		}
		line := fmt.Sprintf("%s %s on %s with %s", f.Start.In(p.Zone()).Format("15:04"), b.Name(f.Student), b.Name(f.Craft),
			b.Name(f.Pack))
		if w := s.Cat.CellWords(cell); w != "" {
			line += ": " + w
		}
		switch {
		case p.StudentID != nil && f.Student == p.StudentID.String():
			out = append(out, Appointment{ID: fmt.Sprintf("%s-%d", d.ID, n), From: f.Start, To: f.End, What: "Flight: " +
				cmp.Or(s.Cat.CellWords(cell), "a lesson"), Says: fmt.Sprintf(msgBoardDaySays, line)})
		case f.Instructor == p.ID.String() || f.Spotter == p.ID.String():
			mine = append(mine, line)
		}
	}
	if p.StudentID == nil {
		says := fmt.Sprintf("%s, %s.", words.Counted(len(nth), "student"), words.Counted(len(b.Plan.Flights), "flight"))
		if len(mine) > 0 {
			says += "\nWith you:\n" + strings.Join(mine, "\n")
		}
		out = append(out, Appointment{ID: d.ID.String(), From: d.Starts, To: d.Ends, What: "Field day", Says: says})
	}
	return out
}
