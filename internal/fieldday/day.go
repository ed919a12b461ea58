// Package fieldday is the field day as it is stored, planned and flown: who is there with which craft, packs and
// chargers, what is planned, who may fly what, and what the day has come to. The planning itself is arithmetic, in
// core/plan.
package fieldday

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/plan"
	"maestrale/internal/knowledge"
	"maestrale/internal/store"
)

// Days reads and plans the field days of one school.
type Days struct {
	Cat *drill.Catalogue // the school's
	Now func() time.Time
}

// students reads about the students for a person.
func (s Days) students(p *store.Person) knowledge.Book {
	return knowledge.Book{Cat: s.Cat, Now: s.Now, Zone: p.Zone()}
}

// Source is who is at the field, and with what, as it was said.
type Source struct {
	Boxes       int            `json:"boxes"`
	TurnMinutes float64        `json:"turnaround_minutes"`
	Daylight    *time.Time     `json:"daylight_until,omitempty"`
	Craft       []uuid.UUID    `json:"craft"`
	Packs       []uuid.UUID    `json:"packs"`
	Chargers    []plan.Charger `json:"chargers"`
	People      []Person       `json:"people"`
	Instructors []uuid.UUID    `json:"instructors"`
	Spotters    []uuid.UUID    `json:"spotters"`
	Wind        []plan.Wind    `json:"wind"`
	Proving     []uuid.UUID    `json:"proving"` // craft that an instructor flies first
	Grounded    []uuid.UUID    `json:"grounded"`
	Dead        []uuid.UUID    `json:"dead"` // packs
}

// Copy is a source with lists of its own.
func (s Source) Copy() Source {
	s.Craft, s.Packs, s.Chargers, s.People = slices.Clone(s.Craft), slices.Clone(s.Packs), slices.Clone(s.Chargers),
		slices.Clone(s.People)
	s.Instructors, s.Spotters, s.Wind = slices.Clone(s.Instructors), slices.Clone(s.Spotters), slices.Clone(s.Wind)
	s.Proving, s.Grounded, s.Dead = slices.Clone(s.Proving), slices.Clone(s.Grounded), slices.Clone(s.Dead)
	return s
}

// Person is a student who is at the field, and what was asked for them.
type Person struct {
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
type Plan struct {
	plan.Plan
	Cells map[string][]drill.Cell `json:"cells"`
}

// Board is everything that the field day is made of, at a moment.
type Board struct {
	Day      store.FieldDay
	Source   Source
	Plan     Plan
	Students map[uuid.UUID]store.Student
	Craft    map[uuid.UUID]store.Craft
	States   map[uuid.UUID]craft.State    // what the log of each craft comes to
	Checks   map[uuid.UUID]store.CheckNow // of the day
	Packs    map[uuid.UUID]Pack
	Slots    map[string]store.SlotNow // by the pack in it; what the chargers said lately
	Staff    map[uuid.UUID]store.Account
	Flown    []store.FlownFlight
	Hold     store.Hold
	Tell     map[uuid.UUID]float64 // how far those in the air tell the nose of what they fly; by flight
	Alt      float64
	Now      time.Time
	Person   *store.Person
}

// WhoFlies are the students of a field day, by what was said of who and what is at the field; nil for no day.
func WhoFlies(source json.RawMessage) (map[uuid.UUID]bool, error) {
	if source == nil {
		return nil, nil
	}
	var src Source
	if err := json.Unmarshal(source, &src); err != nil {
		return nil, fmt.Errorf("read the field day: %w", err)
	}
	day := map[uuid.UUID]bool{}
	for _, x := range src.People {
		day[x.Student] = true
	}
	return day, nil
}

// BoardOf reads the field day that is on, or the nearest.
func (s Days) BoardOf(ctx context.Context, tx store.Tx, p *store.Person) (*Board, error) {
	b := &Board{Now: s.Now(), Person: p, Students: map[uuid.UUID]store.Student{}, Craft: map[uuid.UUID]store.Craft{},
		Packs: map[uuid.UUID]Pack{}, Staff: map[uuid.UUID]store.Account{}}
	if err := s.ReadFleet(ctx, tx, b); err != nil {
		return nil, err
	}
	var err error
	if b.Day, err = tx.DayNear(ctx, b.Now); errors.Is(err, store.ErrNotFound) {
		return b, nil // none yet
	}
	if err == nil {
		err = json.Unmarshal(b.Day.Source, &b.Source)
	}
	if err == nil {
		err = json.Unmarshal(b.Day.Plan, &b.Plan)
	}
	if err == nil {
		b.Flown, err = tx.FlightsOf(ctx, b.Day.ID)
	}
	if err == nil {
		b.Hold, err = tx.HoldNow(ctx, b.Day.ID)
	}
	if err == nil {
		b.Checks, err = tx.ChecksSince(ctx, b.dayBegan())
	}
	if err == nil {
		err = s.tellAloft(ctx, tx, b)
	}
	if err != nil {
		return nil, fmt.Errorf("read the field day: %w", err)
	}
	b.markToday()
	return b, nil
}

// dayBegan is the midnight before the field day, or before now where it is later on a date of its own.
func (b *Board) dayBegan() time.Time {
	at := b.Now
	if b.Day.Starts.Before(at) && b.Day.Ends.After(at) {
		at = b.Day.Starts // a day that runs past midnight is one day
	}
	y, m, d := at.In(b.Person.Zone()).Date()
	return time.Date(y, m, d, 0, 0, 0, 0, b.Person.Zone())
}

// Checked tells whether a craft was checked today.
func (b *Board) Checked(craft uuid.UUID) bool { return b.Checks[craft].Cleared != nil }

// ReadFleet reads who and what the school has.
func (s Days) ReadFleet(ctx context.Context, tx store.Tx, b *Board) error {
	list, err := tx.Students(ctx)
	if err != nil {
		return err
	}
	for _, st := range list {
		b.Students[st.ID] = st
	}
	fleet, err := tx.Fleet(ctx)
	if err != nil {
		return err
	}
	logs, err := tx.CraftLogs(ctx, nil)
	if err != nil {
		return err
	}
	b.States = map[uuid.UUID]craft.State{}
	for _, k := range fleet {
		b.Craft[k.ID], b.States[k.ID] = k, craft.StateOf(logs[k.ID])
	}
	packs, err := s.PacksNow(ctx, tx)
	if err != nil {
		return err
	}
	on, err := tx.SlotsNow(ctx, b.Now.Add(-2*time.Minute))
	if err != nil {
		return err
	}
	b.Slots = map[string]store.SlotNow{}
	for _, k := range on {
		b.Slots[k.Pack] = k
	}
	for _, k := range packs {
		b.Packs[k.ID] = k
	}
	staff, err := tx.Staff(ctx)
	for _, a := range staff {
		b.Staff[a.ID] = a
	}
	return err
}

func (b *Board) Is() bool { return b.Day.ID != uuid.Nil }

// Name is what people call something of the board, whatever it is.
func (b *Board) Name(id string) string {
	key, err := uuid.Parse(strings.TrimPrefix(id, provingID))
	if err != nil {
		return id
	}
	if st, ok := b.Students[key]; ok {
		return st.Name
	}
	if k, ok := b.Craft[key]; ok {
		if strings.HasPrefix(id, provingID) {
			return "proving " + k.Name
		}
		return k.Name
	}
	if k, ok := b.Packs[key]; ok {
		return k.Name
	}
	return b.Staff[key].Name
}

// Named puts names in the place of ids.
func (b *Board) Named(says string) string {
	for _, word := range strings.FieldsFunc(says, func(r rune) bool {
		return r == ' ' || r == ',' || r == ';' ||
			r == ':' || r == '"'
	}) {
		if n := b.Name(word); n != word && n != "" {
			says = strings.ReplaceAll(says, word, n)
		}
	}
	return says
}
