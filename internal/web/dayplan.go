package web

import (
	"context"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/pack"
	"maestrale/core/plan"
	"maestrale/core/readiness"
	"maestrale/core/record"
	"maestrale/internal/store"
)

// provingID is what the flight that proves a craft has in the place of a student.
const provingID = "proving:"

// asked is the day as the planner reads it, from now on.
func (s *Server) asked(b *board) plan.Day {
	src := b.source
	d := plan.Day{Start: b.day.Starts, End: b.day.Ends, Daylight: b.day.Ends, Boxes: src.Boxes, Turnaround: time.Duration(src.TurnMinutes * float64(time.Minute)), Chargers: src.Chargers, Wind: src.Wind}
	if src.Daylight != nil {
		d.Daylight = *src.Daylight
	}
	if d.Now = b.now; b.now.Before(d.Start) {
		d.Now = d.Start
	}
	for _, id := range src.Craft {
		k, ok := b.craft[id]
		if !ok || slices.Contains(src.Grounded, id) {
			continue
		}
		d.Craft = append(d.Craft, plan.Craft{ID: id.String(), Type: k.Type, WindMps: s.cat.Craft[k.Type].WindMps})
	}
	for _, id := range src.Packs {
		row, ok := b.packs[id]
		if !ok || slices.Contains(src.Dead, id) || row.Fitness == "retire" || !slices.ContainsFunc(d.Craft, func(c plan.Craft) bool { return c.Type == row.Type }) {
			continue
		}
		d.Packs = append(d.Packs, s.packAsked(b, row))
	}
	for _, id := range src.Instructors {
		d.Instructors = append(d.Instructors, plan.Person{ID: id.String()})
	}
	for _, id := range src.Spotters {
		d.Spotters = append(d.Spotters, plan.Person{ID: id.String()})
	}
	for _, id := range src.Proving {
		if slices.ContainsFunc(d.Craft, func(c plan.Craft) bool { return c.ID == id.String() }) {
			d.Students = append(d.Students, plan.Student{ID: provingID + id.String(), Kind: plan.Proving, Flights: 1, Flight: 5 * time.Minute, Craft: []string{id.String()}, Instructor: true})
		}
	}
	for _, x := range src.People {
		if st, ok := b.students[x.Student]; ok {
			d.Students = append(d.Students, s.personAsked(b, &d, st, x))
		}
	}
	for _, f := range b.flown {
		if g, ok := b.asFlown(&d, f); ok {
			d.Flown = append(d.Flown, g)
		}
	}
	return d
}

func (s *Server) personAsked(b *board, d *plan.Day, st store.Student, x dayPerson) plan.Student {
	out := plan.Student{ID: st.ID.String(), Name: st.Name, Kind: plan.Lesson, Flights: x.Flights, Flight: time.Duration(x.Minutes * float64(time.Minute)), Rest: time.Duration(x.Rest * float64(time.Minute)),
		Instructor: true, Spotter: x.Spotter, WindMps: x.WindMps}
	if x.From != nil {
		out.From = *x.From
	}
	if x.With != nil && slices.Contains(b.source.Instructors, *x.With) { // who is not there today pairs with nobody
		out.With = x.With.String()
	}
	if x.Until != nil {
		out.Until = *x.Until
	}
	for _, c := range d.Craft {
		if c.Type == st.CraftType {
			out.Craft = append(out.Craft, c.ID)
		}
	}
	if len(out.Craft) == 0 {
		out.Flights = 0 // there is nothing to fly; the page says so
	}
	return out
}

// packAsked is what the planner has to know of a pack.
func (s *Server) packAsked(b *board, row packRow) plan.Pack {
	t := s.cat.Craft[row.Type]
	x := s.sumOf(b.person, t, row, b.alt)
	k := plan.Pack{ID: row.ID.String(), Type: row.Type, Full: row.Full(), Charge: roundMin(x.charge.Minutes), Cool: roundMin(x.coolMin)}
	for i := range b.flown {
		f := &b.flown[i]
		if f.PackID == row.ID && f.EndedAt != nil && !f.EndedAt.Before(row.LastUse) && !k.Full {
			k.From = f.EndedAt.Add(k.Cool)
		}
	}
	if on := row.OnCharger; on != "" {
		k.Full, k.From, k.Charger = true, row.Since.Add(k.Charge), on
		if now, ok := b.slots[row.Name]; ok && now.State == pack.SlotCharging && now.Charge < 1 {
			left := x.filling
			left.Charge = now.Charge
			if c, err := pack.ChargeTime(left, 1, x.rate); err == nil {
				k.From = now.At.Add(roundMin(c.Minutes))
			}
		}
		if !k.From.After(b.now) {
			k.From = b.now.Add(time.Minute) // it should be full by now; nobody has said so
		}
		if !slices.ContainsFunc(b.source.Chargers, func(c plan.Charger) bool { return c.ID == on }) {
			k.Charger = ""
		}
	}
	return k
}

func roundMin(minutes float64) time.Duration {
	return time.Duration(minutes+0.5) * time.Minute
}

// asFlown is a flight that has begun, as the planner reads it.
func (b *board) asFlown(d *plan.Day, f store.FlownFlight) (plan.Flight, bool) {
	end := f.BegunAt.Add(time.Duration(f.Minutes * float64(time.Minute)))
	if f.EndedAt != nil {
		end = *f.EndedAt
	} else if end.Before(b.now) {
		end = b.now.Add(time.Minute) // it should have landed
	}
	g := plan.Flight{Craft: f.CraftID.String(), Pack: f.PackID.String(), Box: f.Box, Start: f.BegunAt, End: end, Flown: true}
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

// toCome are the flights of the plan that have not begun, with the cell of each.
func (b *board) toCome() (list []plan.Flight, cells []drill.Cell) {
	begun, nth := map[string]int{}, map[string]int{}
	for _, f := range b.flown {
		if !f.BegunAt.Before(b.day.At) && f.Void == "" {
			if f.StudentID != nil {
				begun[f.StudentID.String()]++
			} else if f.Kind == plan.Proving {
				begun[provingID+f.CraftID.String()]++
			}
		}
	}
	for _, f := range b.plan.Flights {
		n := nth[f.Student]
		nth[f.Student]++
		if n < begun[f.Student] {
			continue
		}
		list = append(list, f)
		var cell drill.Cell
		if c := b.plan.Cells[f.Student]; n < len(c) {
			cell = c[n]
		}
		cells = append(cells, cell)
	}
	return list, cells
}

// planned plans the day from now on, near the plan that stands.
func (s *Server) planned(ctx context.Context, tx store.Tx, b *board) (dayPlan, error) {
	d := s.asked(b)
	var out dayPlan
	if before, _ := b.toCome(); len(before) > 0 {
		out.Plan = plan.Again(d, before)
	} else {
		out.Plan = plan.Of(d)
	}
	for _, x := range b.source.People {
		st, ok := b.students[x.Student]
		left := x.Flights
		for _, f := range b.flown {
			if f.StudentID != nil && *f.StudentID == x.Student && f.Void == "" {
				left--
			}
		}
		if ok && left > 0 && !slices.ContainsFunc(d.Craft, func(c plan.Craft) bool { return c.Type == st.CraftType }) {
			out.Unplaced = append(out.Unplaced, plan.Unplaced{Student: st.ID.String(), Flights: left, Why: "no " + s.cat.Craft[st.CraftType].Title + " is at the field and in service"})
		}
	}
	for i := range out.Unplaced {
		out.Unplaced[i].Why = b.named(out.Unplaced[i].Why)
	}
	out.Cells = map[string][]drill.Cell{}
	for _, f := range out.Flights {
		id, err := uuid.Parse(f.Student)
		if err != nil || out.Cells[f.Student] != nil {
			continue
		}
		cells, err := s.lessonCells(ctx, tx, b.students[id], out.count(f.Student), zone(b.person))
		if err != nil {
			return out, err
		}
		out.Cells[f.Student] = cells
	}
	return out, nil
}

// withCells gives the flights their cells, in the order of each student's flights.
func withCells(p dayPlan, list []plan.Flight, cells []drill.Cell) dayPlan {
	p.Cells = map[string][]drill.Cell{}
	for i, f := range list {
		if cells[i].Drill != "" {
			p.Cells[f.Student] = append(p.Cells[f.Student], cells[i])
		}
	}
	return p
}

func (p *dayPlan) count(student string) (n int) {
	for _, f := range p.Flights {
		if f.Student == student {
			n++
		}
	}
	return n
}

// lessonCells are what a student's next flights are for: the lowest cell that is not held,
// the weaker side first, sides in turn.
func (s *Server) lessonCells(ctx context.Context, tx store.Tx, st store.Student, n int, loc *time.Location) ([]drill.Cell, error) {
	e := s.evidence(loc)
	if _, err := expect(ctx, tx, e); err != nil {
		return nil, err
	}
	if err := tx.Evidence(ctx, &st.ID, func(_ uuid.UUID, a *record.Attempt) { e.Add(a) }); err != nil {
		return nil, err
	}
	j := s.judge(st, e)
	cell := readiness.Next(j.programme, j.cell)
	d, ok := s.cat.Drills[cell.Drill]
	if !ok {
		return nil, nil
	}
	if d.Sided {
		cell.Side = readiness.WeakerSide(d, cell, j.cell)
	}
	var out []drill.Cell
	for range n {
		out = append(out, cell)
		if d.Sided {
			cell.Side = cell.Side.Other()
		}
	}
	return out, nil
}

// limit is the wind that a student may fly a craft in, the lower of both; 0 for any.
func (s *Server) limit(b *board, student *uuid.UUID, id uuid.UUID) float64 {
	limit := s.cat.Craft[b.craft[id].Type].WindMps
	if student != nil {
		for _, x := range b.source.People {
			if x.Student == *student && x.WindMps > 0 && (limit == 0 || x.WindMps < limit) {
				limit = x.WindMps
			}
		}
	}
	return limit
}

// cellWords is what a flight is for.
func (s *Server) cellWords(c drill.Cell) string {
	if c.Drill == "" {
		return ""
	}
	return s.titleOf(c.Drill, c.Side) + ", " + c.Aids.Words()
}

// padAddress is where a cell is marked.
func padAddress(student string, c drill.Cell) string {
	side := c.Side
	if side == "" {
		side = field.NoSide
	}
	return fmt.Sprintf("/students/%s/mark?drill=%s&side=%s&aids=%s&level=%d", student, c.Drill, side, c.Aids, max(1, c.Level))
}
