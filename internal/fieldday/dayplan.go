package fieldday

import (
	"context"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/orient"
	"maestrale/core/pack"
	"maestrale/core/plan"
	"maestrale/internal/knowledge"
	"maestrale/internal/store"
)

// provingID is what the flight that proves a craft has in the place of a student.
const provingID = "proving:"

// Asked is the day as the planner reads it, from now on.
func (s Days) Asked(b *Board) plan.Day {
	src := b.Source
	zone := b.Person.Zone() // the planner says times in the zone of the day's start
	d := plan.Day{Start: b.Day.Starts.In(zone), End: b.Day.Ends.In(zone), Daylight: b.Day.Ends, Boxes: src.Boxes,
		Turnaround: time.Duration(src.TurnMinutes * float64(time.Minute)), Chargers: src.Chargers}
	if src.Daylight != nil {
		d.Daylight = *src.Daylight
	}
	if d.Now = b.Now; b.Now.Before(d.Start) {
		d.Now = d.Start
	}
	d.Wind = b.windFrom(d.Now)
	for _, id := range src.Craft {
		k, ok := b.Craft[id]
		if !ok || slices.Contains(src.Grounded, id) {
			continue
		}
		d.Craft = append(d.Craft, plan.Craft{ID: id.String(), Type: k.Type, WindMps: s.Cat.Craft[k.Type].WindMps})
	}
	for _, id := range src.Packs {
		row, ok := b.Packs[id]
		if !ok || slices.Contains(src.Dead, id) || row.Fitness == "retire" || !slices.ContainsFunc(d.Craft,
			func(c plan.Craft) bool { return c.Type == row.Type }) {
			continue
		}
		d.Packs = append(d.Packs, s.PackAsked(b, row))
	}
	for _, id := range src.Instructors {
		d.Instructors = append(d.Instructors, plan.Person{ID: id.String()})
	}
	for _, id := range src.Spotters {
		d.Spotters = append(d.Spotters, plan.Person{ID: id.String()})
	}
	for _, id := range src.Proving {
		if slices.ContainsFunc(d.Craft, func(c plan.Craft) bool { return c.ID == id.String() }) {
			d.Students = append(d.Students, plan.Student{ID: provingID + id.String(), Kind: plan.Proving, Flights: 1,
				Flight: 5 * time.Minute, Craft: []string{id.String()}, Instructor: true})
		}
	}
	for _, x := range src.People {
		if st, ok := b.Students[x.Student]; ok {
			d.Students = append(d.Students, s.personAsked(b, &d, st, x))
		}
	}
	for _, f := range b.Flown {
		if g, ok := b.asFlown(&d, f); ok {
			d.Flown = append(d.Flown, g)
		}
	}
	return d
}

func (s Days) personAsked(b *Board, d *plan.Day, st store.Student, x Person) plan.Student {
	out := plan.Student{ID: st.ID.String(), Name: st.Name, Kind: plan.Lesson, Flights: x.Flights,
		Flight: time.Duration(x.Minutes * float64(time.Minute)), Rest: time.Duration(x.Rest * float64(time.Minute)),
		Instructor: true, Spotter: x.Spotter, WindMps: x.WindMps}
	if x.From != nil {
		out.From = *x.From
	}
	if x.With != nil && slices.Contains(b.Source.Instructors, *x.With) { // who is not there today pairs with nobody
		out.With = x.With.String()
	}
	if x.Until != nil {
		out.Until = *x.Until
	}
	for _, c := range d.Craft {
		if c.Type == st.CraftType && b.forStudents(c.ID) == "" {
			out.Craft = append(out.Craft, c.ID)
		}
	}
	if len(out.Craft) == 0 {
		out.Flights = 0 // there is nothing to fly; the page says so
	}
	return out
}

// windFrom is the wind that a plan counts on: what was expected and said, and what the meter says now.
func (b *Board) windFrom(from time.Time) []plan.Wind {
	if w := b.Person.WindNow(b.Now); w != nil && w.Fresh && !from.After(b.Now) {
		return plan.WithMeter(b.Source.Wind, from, w.Mean)
	}
	return b.Source.Wind
}

// PackAsked is what the planner has to know of a pack.
func (s Days) PackAsked(b *Board, row Pack) plan.Pack {
	t := s.Cat.Craft[row.Type]
	x := s.FiguresOf(b.Person, t, row, b.Alt)
	k := plan.Pack{ID: row.ID.String(), Type: row.Type, Full: row.Full(), Charge: roundMin(x.Charge.Minutes),
		Cool: roundMin(x.CoolMin)}
	for i := range b.Flown {
		f := &b.Flown[i]
		if f.PackID == row.ID && f.EndedAt != nil && !f.EndedAt.Before(row.LastUse) && !k.Full {
			k.From = f.EndedAt.Add(k.Cool)
		}
	}
	if on := row.OnCharger; on != "" {
		k.Full, k.From, k.Charger = true, row.Since.Add(k.Charge), on
		if now, ok := b.Slots[row.Name]; ok && now.State == pack.SlotCharging && now.Charge < 1 {
			left := x.Filling
			left.Charge = now.Charge
			if c, err := pack.ChargeTime(left, 1, x.rate); err == nil {
				k.From = now.At.Add(roundMin(c.Minutes))
			}
		}
		if !k.From.After(b.Now) {
			k.From = b.Now.Add(time.Minute) // it should be full by now; nobody has said so
		}
		if !slices.ContainsFunc(b.Source.Chargers, func(c plan.Charger) bool { return c.ID == on }) {
			k.Charger = ""
		}
	}
	return k
}

func roundMin(minutes float64) time.Duration {
	return time.Duration(minutes+0.5) * time.Minute
}

// asFlown is a flight that has begun, as the planner reads it.
func (b *Board) asFlown(d *plan.Day, f store.FlownFlight) (plan.Flight, bool) {
	end := f.BegunAt.Add(time.Duration(f.Minutes * float64(time.Minute)))
	if f.EndedAt != nil {
		end = *f.EndedAt
	} else if end.Before(b.Now) {
		end = b.Now.Add(time.Minute) // it should have landed
	}
	g := plan.Flight{Craft: f.CraftID.String(), Pack: f.PackID.String(), Box: f.Box, Start: f.BegunAt, End: end,
		Flown: true}
	switch {
	case f.StudentID != nil:
		g.Student = f.StudentID.String()
	case f.Kind == plan.Proving:
		g.Student, g.Kind = provingID+f.CraftID.String(), plan.Proving
	default:
		return g, false
	}
	if f.InstructorID != nil {
		g.Instructor = f.InstructorID.String()
	}
	if f.SpotterID != nil {
		g.Spotter = f.SpotterID.String()
	}
	return g, slices.ContainsFunc(d.Students, func(x plan.Student) bool { return x.ID == g.Student }) && f.Void == ""
}

// ToCome are the flights of the plan that have not begun, with the cell of each.
func (b *Board) ToCome() (list []plan.Flight, cells []drill.Cell) {
	begun, nth := map[string]int{}, map[string]int{}
	for _, f := range b.Flown {
		if !f.BegunAt.Before(b.Day.At) && f.Void == "" {
			if f.StudentID != nil {
				begun[f.StudentID.String()]++
			} else if f.Kind == plan.Proving {
				begun[provingID+f.CraftID.String()]++
			}
		}
	}
	for _, f := range b.Plan.Flights {
		n := nth[f.Student]
		nth[f.Student]++
		if n < begun[f.Student] {
			continue
		}
		list = append(list, f)
		var cell drill.Cell
		if c := b.Plan.Cells[f.Student]; n < len(c) {
			cell = c[n]
		}
		cells = append(cells, cell)
	}
	return list, cells
}

// Planned plans the day from now on, near the plan that stands. A flight for which its student's list has no drill in
// the wind and the light of its time is left out, with that reason, and the day is planned again without it.
func (s Days) Planned(ctx context.Context, tx store.Tx, b *Board) (out Plan, err error) {
	d := s.Asked(b)
	var without []plan.Unplaced
	for range mostPlans {
		if out, err = s.planned(ctx, tx, b, d); err != nil {
			return out, err
		}
		idle, err := s.idleIn(ctx, tx, b, &out)
		if err != nil {
			return out, err
		}
		if len(idle) == 0 {
			break
		}
		for i := range d.Students {
			if n := idle[d.Students[i].ID]; n > 0 {
				d.Students[i].Flights -= n
				without = append(without, plan.Unplaced{Student: d.Students[i].ID, Flights: n, Why: msgNoDrillThen})
			}
		}
		d.Students = slices.DeleteFunc(d.Students, func(x plan.Student) bool { return x.Flights <= 0 })
	}
	out.Unplaced = append(out.Unplaced, without...)
	return out, nil
}

// mostPlans is how often a day is planned until every flight has a drill: in another wind than that of its first time a
// flight may lose the one that it had.
const mostPlans = 4

// idleIn counts the flights of each student that have no drill, though the student has a list in calm air by day.
func (s Days) idleIn(ctx context.Context, tx store.Tx, b *Board, p *Plan) (map[string]int, error) {
	idle := map[string]int{}
	for id, cells := range p.Cells {
		n := 0
		for _, c := range cells {
			if c.Drill == "" {
				n++
			}
		}
		if n == 0 {
			continue
		}
		student, err := uuid.Parse(id)
		if err != nil {
			continue
		}
		book := s.students(b.Person)
		st, err := book.Of(ctx, tx, student)
		if err != nil {
			return nil, err
		}
		l, err := book.WhatNext(ctx, tx, st, knowledge.Unknown)
		if err != nil {
			return nil, err
		}
		if len(l.Blocks) > 0 {
			idle[id] = n
		}
	}
	return idle, nil
}

// planned plans what is asked for, and says what each flight is for.
func (s Days) planned(ctx context.Context, tx store.Tx, b *Board, d plan.Day) (Plan, error) {
	var out Plan
	if before, _ := b.ToCome(); len(before) > 0 {
		out.Plan = plan.Replan(d, before)
	} else {
		out.Plan = plan.Solve(d)
	}
	all := s.Asked(b).Students // with those for whom there is no drill
	for _, x := range b.Source.People {
		st, ok := b.Students[x.Student]
		left := x.Flights
		for _, f := range b.Flown {
			if f.StudentID != nil && *f.StudentID == x.Student && f.Void == "" {
				left--
			}
		}
		if ok && left > 0 && !slices.ContainsFunc(all, func(x plan.Student) bool {
			return x.ID == st.ID.String() && len(x.Craft) > 0
		}) {
			out.Unplaced = append(out.Unplaced, plan.Unplaced{Student: st.ID.String(), Flights: left,
				Why: s.noCraft(b, &d, st.CraftType)})
		}
	}
	for i := range out.Unplaced {
		out.Unplaced[i].Why = b.Named(out.Unplaced[i].Why)
	}
	out.Cells = map[string][]drill.Cell{}
	for _, f := range out.Flights {
		id, err := uuid.Parse(f.Student)
		if err != nil || out.Cells[f.Student] != nil {
			continue
		}
		st, err := s.students(b.Person).Of(ctx, tx, id)
		if err != nil {
			return out, err
		}
		if out.Cells[f.Student], err = s.cellsOf(ctx, tx, b, st, out.timesOf(f.Student)); err != nil {
			return out, err
		}
	}
	return out, nil
}

// forStudents is why a craft is not planned for students; empty for one that is. What is to be proven is flown by them
// after the proving flight, where the day has one for it.
func (b *Board) forStudents(craft string) string {
	id, err := uuid.Parse(craft)
	if err != nil {
		return ""
	}
	st := b.States[id]
	if why, _ := st.Unfit(); st.Grounded || !slices.Contains(b.Source.Proving, id) {
		return why
	}
	return ""
}

// noCraft is why no craft of a type can be planned for a student.
func (s Days) noCraft(b *Board, d *plan.Day, kind string) string {
	for _, c := range d.Craft {
		if id, err := uuid.Parse(c.ID); err == nil && c.Type == kind {
			if why := b.forStudents(c.ID); why != "" {
				return b.Craft[id].Name + " is " + why
			}
		}
	}
	return fmt.Sprintf(msgNoFieldService, s.Cat.Craft[kind].Title)
}

// cellsOf are what a student's flights at some times are for: today's list, for the light then and for the wind that is
// known now or, where it is stronger, the one that is expected then.
func (s Days) cellsOf(ctx context.Context, tx store.Tx, b *Board, st *knowledge.Student, times []time.Time) (
	out []drill.Cell, err error,
) {
	book := s.students(b.Person)
	facts, err := book.Facts(ctx, tx, st.Student.ID)
	if err != nil {
		return nil, err
	}
	type air struct {
		mps   float64
		light orient.Light
	}
	lists, wind := map[air]plan.LessonPlan{}, b.windFrom(b.Now)
	for i, at := range times {
		then := knowledge.AirNow(b.Person, b.Now)
		then.Light = b.Person.LightAt(at)
		if mps, ok := plan.WindAt(wind, at); ok && mps > then.WindMps {
			then.WindMps = mps
		}
		l, made := lists[air{then.WindMps, then.Light}]
		if !made {
			if l, err = book.NextFrom(st, facts[st.Student.ID], then); err != nil {
				return nil, err
			}
			lists[air{then.WindMps, then.Light}] = l
		}
		if cells := l.Flights(i + 1); len(cells) > i {
			out = append(out, cells[i])
		} else {
			out = append(out, drill.Cell{}) // nothing may be flown then
		}
	}
	return out, nil
}

// WithCells gives the flights their cells, in the order of each student's flights.
func WithCells(p Plan, list []plan.Flight, cells []drill.Cell) Plan {
	p.Cells = map[string][]drill.Cell{}
	for i, f := range list {
		p.Cells[f.Student] = append(p.Cells[f.Student], cells[i]) // one that is empty keeps its place
	}
	return p
}

// timesOf are when a student's flights begin.
func (p *Plan) timesOf(student string) (out []time.Time) {
	for _, f := range p.Flights {
		if f.Student == student {
			out = append(out, f.Start)
		}
	}
	return out
}

// Limit is the wind that a student may fly a craft in, the lower of both; 0 for any.
func (s Days) Limit(b *Board, student *uuid.UUID, id uuid.UUID) float64 {
	limit := s.Cat.Craft[b.Craft[id].Type].WindMps
	if student != nil {
		for _, x := range b.Source.People {
			if x.Student == *student && x.WindMps > 0 && (limit == 0 || x.WindMps < limit) {
				limit = x.WindMps
			}
		}
	}
	return limit
}

// PadAddress is where a cell is marked.
func PadAddress(student string, c drill.Cell) string {
	side := c.Side
	if side == "" {
		side = field.NoSide
	}
	return fmt.Sprintf("/students/%s/mark?drill=%s&side=%s&aids=%s&level=%d", student, c.Drill, side, c.Aids,
		max(1, c.Level))
}
