package demo

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"maestrale/core/air"
	"maestrale/core/pack"
	"maestrale/core/plan"
	"maestrale/core/preflight"
	"maestrale/internal/fieldday"
	"maestrale/internal/store"
)

// checkSample goes through the check of every craft that the day plans, before it begins, as somebody would to whom all
// is well. A craft that the rules do not clear stays unchecked, and says so on Today.
func (s FieldDay) checkSample(ctx context.Context, tx store.Tx, b *fieldday.Board, at time.Time) error {
	set, err := tx.Settings(ctx)
	if err != nil {
		return err
	}
	where, site, _, err := s.Days().SiteToday(ctx, tx, set)
	if err != nil {
		return err
	}
	for _, id := range b.Source.Craft {
		flies := slices.IndexFunc(b.Plan.Flights, func(f plan.Flight) bool { return f.Craft == id.String() })
		if flies < 0 {
			continue
		}
		row, ok := b.Packs[uuid.MustParse(b.Plan.Flights[flies].Pack)]
		if !ok {
			continue
		}
		t := s.Cat.Craft[b.Craft[id].Type]
		sit := preflight.Situation{Now: at, Zone: b.Person.Zone(), Type: t, Craft: b.States[id], CraftName: b.Craft[id].Name,
			Pack: &row.Record, PackState: row.State, Policy: preflight.DefaultPolicy, Density: air.SeaLevelDensity, Minutes: 8,
			Wind: &preflight.Wind{Mean: 2, Gust: 3, Fresh: true}, Aids: t.Aids[0], Where: where, Site: site}
		check := allWell(sit, at)
		if !preflight.Shipped().Judge(sit, check, preflight.Last{}).Clear {
			continue
		}
		if err := s.keepCheck(ctx, tx, b, id, sit, check); err != nil {
			return fmt.Errorf("check %s: %w", sit.CraftName, err)
		}
	}
	return nil
}

// allWell answers every item as where all is well, a few seconds apart.
func allWell(s preflight.Situation, at time.Time) (out preflight.Check) {
	full := pack.RestVolts(s.Pack.Chemistry, 0.98)
	values := map[string]string{"airspace": "notice 11/26", "firmware": s.Craft.Firmware, "satellites": "15",
		"compass": "quiet", "return-height": "30", "fence": "80", "power-left": "85", "home-at": msgTakeOffPlace,
		"cells": strings.TrimSpace(strings.Repeat(fmt.Sprintf("%.2f ", full), s.Pack.Cells))}
	if values["firmware"] == "" {
		values["firmware"] = "1.0"
	}
	for i, it := range preflight.Shipped().For(s.Type, s.First, s.Goggles) {
		if it.Ask == preflight.AskComputed || it.Stage == preflight.AirStage {
			continue
		}
		v, ok := values[it.Key]
		if !ok {
			v = "yes"
		}
		out.Answers = append(out.Answers, preflight.Answer{Item: it.Key, Value: v,
			At: at.Add(time.Duration(4*i) * time.Second)})
	}
	return out
}

func (s FieldDay) keepCheck(ctx context.Context, tx store.Tx, b *fieldday.Board, id uuid.UUID, sit preflight.Situation,
	check preflight.Check) error {
	by, key := b.Person.ID, store.NewID()
	if err := tx.BeginCheck(ctx, store.Check{ID: key, CraftID: id, Aids: string(sit.Aids), Minutes: sit.Minutes,
		Site:    sit.Site,
		BegunBy: by, BegunAt: sit.Now}); err != nil {
		return err
	}
	for i, a := range check.Answers {
		if err := tx.Note(ctx, key, by, i, a.At, "answer", a.Item, a.Value, nil); err != nil {
			return err
		}
	}
	kept := store.Cleared{Facts: sit.Facts(check)}
	last := sit.Now
	for _, l := range preflight.Shipped().Judge(sit, check, preflight.Last{}).Lines {
		kept.Lines = append(kept.Lines, store.ClearedLine{Item: l.Key, State: string(l.State), Value: l.Value, Says: l.Says})
		if l.At.After(last) {
			last = l.At
		}
	}
	return tx.Note(ctx, key, by, len(check.Answers), last.Add(time.Second), "cleared", "", "", kept)
}
