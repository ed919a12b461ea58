package web

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"

	"maestrale/core/drill"
	"maestrale/core/plan"
	"maestrale/internal/store"
)

// daySource is who is at the field, and with what, as it was said.
type daySource struct {
	Boxes       int            `json:"boxes"`
	TurnMinutes float64        `json:"turnaround_minutes"`
	Daylight    *time.Time     `json:"daylight_until,omitempty"`
	Craft       []uuid.UUID    `json:"craft"`
	Packs       []uuid.UUID    `json:"packs"`
	Chargers    []plan.Charger `json:"chargers"`
	People      []dayPerson    `json:"people"`
	Instructors []uuid.UUID    `json:"instructors"`
	Spotters    []uuid.UUID    `json:"spotters"`
	Wind        []plan.Wind    `json:"wind"`
	Proving     []uuid.UUID    `json:"proving"` // craft that an instructor flies first
	Grounded    []uuid.UUID    `json:"grounded"`
	Dead        []uuid.UUID    `json:"dead"` // packs
}

type dayPerson struct {
	Student uuid.UUID  `json:"student"`
	Flights int        `json:"flights"`
	Minutes float64    `json:"minutes"`
	Rest    float64    `json:"rest_minutes"`
	From    *time.Time `json:"from,omitempty"`
	Until   *time.Time `json:"until,omitempty"`
	Spotter bool       `json:"spotter,omitempty"`
	With    *uuid.UUID `json:"with,omitempty"` // the only instructor
	WindMps float64    `json:"wind_mps,omitempty"`
}

// dayPlan is a plan, and the cell that each student's flights are for, in order.
type dayPlan struct {
	plan.Plan
	Cells map[string][]drill.Cell `json:"cells"`
}

// board is everything that the field day is made of, at a moment.
type board struct {
	day      store.FieldDay
	source   daySource
	plan     dayPlan
	students map[uuid.UUID]store.Student
	craft    map[uuid.UUID]store.Craft
	packs    map[uuid.UUID]packRow
	slots    map[string]store.SlotNow // by the pack in it; what the chargers said lately
	staff    map[uuid.UUID]store.Account
	flown    []store.FlownFlight
	hold     store.Hold
	tell     map[uuid.UUID]float64 // how far those in the air tell the nose of what they fly; by flight
	alt      float64
	now      time.Time
	person   *store.Person
}

// boardOf reads the field day that is on, or the nearest.
func (s *Server) boardOf(ctx context.Context, tx store.Tx, p *store.Person) (*board, error) {
	b := &board{now: s.now(), person: p, students: map[uuid.UUID]store.Student{}, craft: map[uuid.UUID]store.Craft{}, packs: map[uuid.UUID]packRow{}, staff: map[uuid.UUID]store.Account{}}
	if err := s.readFleet(ctx, tx, b); err != nil {
		return nil, err
	}
	var err error
	if b.day, err = tx.DayNear(ctx, b.now); errors.Is(err, store.ErrNotFound) {
		return b, nil // none yet
	}
	if err == nil {
		err = json.Unmarshal(b.day.Source, &b.source)
	}
	if err == nil {
		err = json.Unmarshal(b.day.Plan, &b.plan)
	}
	if err == nil {
		b.flown, err = tx.FlightsOf(ctx, b.day.ID)
	}
	if err == nil {
		b.hold, err = tx.HoldNow(ctx, b.day.ID)
	}
	if err == nil {
		err = s.tellAloft(ctx, tx, b)
	}
	if err != nil {
		return nil, fmt.Errorf("read the field day: %w", err)
	}
	return b, nil
}

// readFleet reads who and what the school has.
func (s *Server) readFleet(ctx context.Context, tx store.Tx, b *board) error {
	list, err := tx.Students(ctx)
	if err != nil {
		return err
	}
	for _, st := range list {
		b.students[st.ID] = st
	}
	fleet, err := tx.Fleet(ctx)
	if err != nil {
		return err
	}
	for _, k := range fleet {
		b.craft[k.ID] = k
	}
	packs, err := s.packsNow(ctx, tx)
	if err != nil {
		return err
	}
	on, err := tx.SlotsNow(ctx, b.now.Add(-2*time.Minute))
	if err != nil {
		return err
	}
	b.slots = map[string]store.SlotNow{}
	for _, k := range on {
		b.slots[k.Pack] = k
	}
	for _, k := range packs {
		b.packs[k.ID] = k
	}
	staff, err := tx.Staff(ctx)
	for _, a := range staff {
		b.staff[a.ID] = a
	}
	return err
}

func (b *board) is() bool { return b.day.ID != uuid.Nil }

// name is what people call something of the board, whatever it is.
func (b *board) name(id string) string {
	key, err := uuid.Parse(strings.TrimPrefix(id, provingID))
	if err != nil {
		return id
	}
	if st, ok := b.students[key]; ok {
		return st.Name
	}
	if k, ok := b.craft[key]; ok {
		if strings.HasPrefix(id, provingID) {
			return "proving " + k.Name
		}
		return k.Name
	}
	if k, ok := b.packs[key]; ok {
		return k.Name
	}
	return b.staff[key].Name
}

// named puts names in the place of ids.
func (b *board) named(says string) string {
	for _, word := range strings.FieldsFunc(says, func(r rune) bool { return r == ' ' || r == ',' || r == ';' || r == ':' || r == '"' }) {
		if n := b.name(word); n != word && n != "" {
			says = strings.ReplaceAll(says, word, n)
		}
	}
	return says
}
