package today

import (
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"

	"maestrale/core/drill"
	"maestrale/core/pack"
	"maestrale/core/plan"
	"maestrale/internal/draw"
	"maestrale/internal/fieldday"
	"maestrale/internal/store"
)

// packsAtField says of every pack of the day where it is.
func (s Pages) packsAtField(b *fieldday.Board, m *todayModel, clock func(time.Time) string) {
	inAir := map[uuid.UUID]string{}
	for i := range b.Flown {
		if f := &b.Flown[i]; f.InAir() {
			inAir[f.PackID] = b.Who(f)
		}
	}
	for _, id := range b.Source.Packs {
		row, ok := b.Packs[id]
		if !ok {
			continue
		}
		k := packAtField{ID: id.String(), Name: row.Name, Type: row.TypeTitle}
		asked := s.Days().PackAsked(b, row)
		switch {
		case slices.Contains(b.Source.Dead, id) || row.Fitness == "retire":
			k.State, k.Says = "out", row.Says
		case inAir[id] != "":
			k.State, k.Says = msgInTheAir, inAir[id]
		case row.OnCharger != "":
			m.Counts.Charging++
			k.State, k.Says, k.Full = "charging", "on "+row.OnCharger+", full at "+clock(asked.From), true
			if on, ok := b.Slots[row.Name]; ok && on.State == pack.SlotCharging {
				k.Says = fmt.Sprintf(msgOnFullAt, on.Charger, 100*on.Charge, clock(asked.From))
			}
		case asked.Full:
			m.Counts.Full++
			k.State, k.Says = "full", row.ChargePc
		case asked.From.After(b.Now):
			m.Counts.Cooling++
			k.State, k.Says, k.Plug = "cooling", fmt.Sprintf(msgCanCharged, clock(asked.From)), true
		default:
			m.Counts.Empty++
			k.State, k.Says, k.Plug, k.Full = "to charge", fmt.Sprintf(msgChargesMin, asked.Charge.Minutes()), true, true
		}
		m.Packs = append(m.Packs, k)
	}
}

// stripOf gathers the strip: what was flown, what is planned, and the packs' lanes.
func (s Pages) stripOf(b *fieldday.Board, list []plan.Flight, cells []drill.Cell, loc *time.Location) draw.Strip {
	to := b.Now.Add(30 * time.Minute)
	for _, f := range list {
		if end := f.End.Add(15 * time.Minute); end.After(to) {
			to = end
		}
	}
	if to.After(b.Day.Ends) {
		to = b.Day.Ends
	}
	m := draw.Strip{From: b.Day.Starts.In(loc), To: to.In(loc), Now: b.Now.In(loc), Boxes: make([][]draw.StripFlight,
		b.Source.Boxes)}
	for _, w := range b.Source.Wind {
		m.Wind = append(m.Wind, draw.StripWind{From: w.From.In(loc), Mps: w.Mps})
	}
	spans := map[string][]draw.StripSpan{}
	put := func(box int, f draw.StripFlight) {
		if box >= 1 && box <= len(m.Boxes) {
			m.Boxes[box-1] = append(m.Boxes[box-1], f)
		}
	}
	for i := range b.Flown {
		f := &b.Flown[i]
		g := flownOn(b, f, loc)
		put(f.Box, g)
		id := f.PackID.String()
		spans[id] = append(spans[id], draw.StripSpan{Start: g.Start, End: g.End, Kind: "flight", Says: g.Who})
	}
	for i, f := range list {
		g := s.plannedOn(b, f, cells[i], i, loc)
		put(f.Box, g)
		spans[f.Pack] = append(spans[f.Pack], draw.StripSpan{Start: g.Start, End: g.End, Kind: "flight", Planned: true,
			Says: g.Who})
	}
	for _, g := range b.Plan.Charges {
		if g.End.After(b.Now) {
			spans[g.Pack] = append(spans[g.Pack], draw.StripSpan{Start: g.Start.In(loc), End: g.End.In(loc), Kind: "charging",
				Planned: true, Says: g.Charger})
		}
	}
	for _, id := range b.Source.Packs {
		row, ok := b.Packs[id]
		if !ok {
			continue
		}
		lane := draw.StripPack{Name: row.Name, Type: row.TypeTitle, Spans: spans[id.String()]}
		if row.OnCharger != "" {
			asked := s.Days().PackAsked(b, row)
			lane.Spans = append(lane.Spans, draw.StripSpan{Start: row.Since.In(loc), End: asked.From.In(loc), Kind: "charging",
				Says: row.OnCharger})
		}
		slices.SortStableFunc(lane.Spans, func(a, b draw.StripSpan) int { return a.Start.Compare(b.Start) })
		lane.FullAtFrom = len(lane.Spans) > 0 && lane.Spans[0].Kind == "flight" || len(lane.Spans) == 0 && row.Full()
		m.Packs = append(m.Packs, lane)
	}
	return m
}

// flownOn is a flight that has begun, on the strip.
func flownOn(b *fieldday.Board, f *store.FlownFlight, loc *time.Location) draw.StripFlight {
	g := draw.StripFlight{Start: f.BegunAt.In(loc),
		End: f.BegunAt.Add(time.Duration(f.Minutes * float64(time.Minute))).In(loc), Who: b.Who(f),
		Craft: b.Craft[f.CraftID].Name, State: "aloft", Index: -1}
	if f.EndedAt != nil {
		g.End, g.State = f.EndedAt.In(loc), "landed"
	}
	if f.Void != "" {
		g.State = "void"
	}
	g.Says = fmt.Sprintf(msgFlightOnWithWhat, g.Start.Format("15:04"), g.End.Format("15:04"), g.Who, g.Craft,
		b.Packs[f.PackID].Name, g.State)
	return g
}

// plannedOn is a flight that is to come, on the strip; index is its place in the plan.
func (s Pages) plannedOn(b *fieldday.Board, f plan.Flight, cell drill.Cell, index int,
	loc *time.Location) draw.StripFlight {
	g := draw.StripFlight{Start: f.Start.In(loc), End: f.End.In(loc), Who: b.Name(f.Student), Craft: b.Name(f.Craft),
		State: "planned", Index: index, Box: f.Box, Key: f.Student}
	if b.Now.After(f.Start) {
		g.State = "planned late"
	}
	g.Says = fmt.Sprintf(msgFlightOnWith, g.Start.Format("15:04"), g.End.Format("15:04"), g.Who, g.Craft,
		b.Name(f.Pack))
	if w := s.Cat.CellWords(cell); w != "" {
		g.Says += ", " + w
	}
	return g
}
