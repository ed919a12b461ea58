package fleet

import (
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/pack"
	"maestrale/core/preflight"
	"maestrale/internal/fieldday"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// daysFlights is how many flights a field day of a type usually has, for the
// advice on spares.
const daysFlights = 20

type fleetModel struct {
	Craft  []craftRow
	Packs  []fieldday.Pack
	Types  []typeRow
	Policy preflight.Policy
	May    bool
	Chief  bool
	Counts string
	// For the forms of own types and of several packs.
	Flown     []craft.Type
	Chemistry []craft.Chemistry
	Aids      []craft.Aids
	Back      string
}

type craftRow struct {
	store.Craft
	Title  string
	Word   string // in service, to be proven, out of service
	Why    string
	Last   string // of its checks
	Open   string // address of a check that was begun
	ToFly  bool
	Crash  int
	Engine string
}

type typeRow struct {
	craft.Type
	Class  craft.Class
	Has    string
	Advice craft.Advice
	Seen   craft.Seen
	Rate   string
}

func (s Pages) FleetPage(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	m := fleetModel{Chemistry: craft.Chemistries, Aids: craft.AidsOrder, May: p.Role == store.Chief ||
		p.Role == store.Instructor, Chief: p.Role == store.Chief}
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		set, err := tx.Settings(ctx)
		if err != nil {
			return err
		}
		m.Policy = frame.SchoolPolicy(set)
		b, err := s.Days().BoardOf(ctx, tx, p) // the day's own words for craft and packs, as on Today
		if err != nil {
			return err
		}
		list, err := tx.Fleet(ctx)
		if err != nil {
			return err
		}
		logs, err := tx.CraftLogs(ctx, nil)
		if err != nil {
			return err
		}
		for _, k := range list {
			row := s.craftRow(k, b.States[k.ID])
			if slices.Contains(b.Source.Grounded, k.ID) {
				row.Word, row.ToFly = "grounded today", false
			}
			m.Craft = append(m.Craft, row)
		}
		m.Packs = b.PackList()
		m.Types, err = s.typeRows(c, tx, list, logs)
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	for _, t := range m.Types {
		m.Flown = append(m.Flown, t.Type)
	}
	// What is wrong comes first.
	slices.SortStableFunc(m.Craft, func(a, b craftRow) int { return flag(a.ToFly) - flag(b.ToFly) })
	slices.SortStableFunc(m.Packs, func(a, b fieldday.Pack) int { return flag(troubled(b)) - flag(troubled(a)) })
	m.Counts = countsOf(m.Craft, m.Packs)
	s.Render(c, http.StatusOK, "fleet", frame.Page{Title: "Fleet", Place: "Fleet", Body: m,
		Keys: []frame.Key{{Key: "↑ ↓ Enter", Does: msgWalkThroughCraft}}})
}

// troubled tells whether a pack is not simply fit to fly.
func troubled(p fieldday.Pack) bool { return p.Fitness != pack.Fit || p.Today == fieldday.OutToday }

// countsOf says how much of the fleet can fly.
func countsOf(list []craftRow, packs []fieldday.Pack) string {
	fit, whole := 0, 0
	for _, k := range list {
		fit += flag(k.ToFly)
	}
	for _, p := range packs {
		whole += flag(!troubled(p))
	}
	return say.Say("counts", fit, len(list), whole, len(packs))
}

func flag(b bool) int {
	if b {
		return 1
	}
	return 0
}

func (s Pages) craftRow(k store.Craft, st craft.State) craftRow {
	t := s.Cat.Craft[k.Type]
	unfit, _ := st.Unfit()
	row := craftRow{Craft: k, Title: t.Title, Word: "in service", ToFly: unfit == "", Crash: st.Crashes}
	switch {
	case st.Grounded:
		row.Word, row.Why = msgOutService, st.Why
	case st.ToProve != "":
		row.Word, row.Why = msgToBeProven, st.ToProve
	}
	return row
}

// typeRows judges spares for every type that the school has a craft of.
func (s Pages) typeRows(c *gin.Context, tx store.Tx, list []store.Craft, logs map[uuid.UUID][]craft.Event) ([]typeRow,
	error) {
	ctx := c.Request.Context()
	flights, err := tx.FlightsByType(ctx)
	if err != nil {
		return nil, err
	}
	shelf, err := tx.Shelf(ctx)
	if err != nil {
		return nil, err
	}
	var out []typeRow
	for _, key := range s.Cat.Craft.Keys() {
		t := s.Cat.Craft[key]
		seen := craft.Seen{Flights: flights[key], Used: map[string]int{}}
		has := 0
		for _, k := range list {
			if k.Type != key {
				continue
			}
			has++
			st := craft.StateOf(logs[k.ID])
			seen.Crashes += st.Crashes
			for part, n := range st.Used {
				seen.Used[part] += n
			}
		}
		row := typeRow{Type: t, Class: t.Class(), Seen: seen}
		var aids []string
		for _, a := range t.Aids {
			aids = append(aids, a.Words())
		}
		row.Has = strings.Join(aids, ", ")
		if has > 0 {
			row.Advice = craft.Spares(t.Parts, len(t.Rotors), seen, craft.BeginnersPrior(t), shelf[key], daysFlights, 0.9)
			row.Rate = fmt.Sprintf(msgCrashesHundredFlights, 100*row.Advice.Rate)
		}
		out = append(out, row)
	}
	return out, nil
}

// WhySpares says what the advice rests on.
func (s Pages) WhySpares(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	var row typeRow
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		list, err := tx.Fleet(ctx)
		if err != nil {
			return err
		}
		logs, err := tx.CraftLogs(ctx, nil)
		if err != nil {
			return err
		}
		rows, err := s.typeRows(c, tx, list, logs)
		i := slices.IndexFunc(rows, func(r typeRow) bool { return r.Key == c.Param("type") })
		if err == nil && i < 0 {
			err = store.ErrNotFound
		}
		if err == nil {
			row = rows[i]
		}
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	prior := craft.BeginnersPrior(row.Type)
	sl := frame.Slip{Figure: "Spares for " + row.Title,
		Says: fmt.Sprintf(msgWhatBroughtDay, row.Advice.Flights, 100*row.Advice.Chance, 100*row.Advice.AsItIs),
		Inputs: [][2]string{{"flights seen", fmt.Sprint(row.Seen.Flights)}, {"crashes seen", fmt.Sprint(row.Seen.Crashes)},
			{"believed beforehand", fmt.Sprintf(msgCrashesFlights, prior.Crashes, prior.Flights)}, {"crash rate",
				row.Rate}},
		Rule:   msgCrashesComeChance,
		Source: msgGammaPoissonGelman}
	for _, n := range row.Advice.Needs {
		sl.Inputs = append(sl.Inputs, [2]string{n.Title, fmt.Sprintf(msgUsedCrashBring,
			row.Seen.Used[n.Key], n.PerCrash, n.Bring, n.Shelf)})
	}
	s.Render(c, http.StatusOK, "slip", frame.Page{Title: msgWhyTheseSpares, Place: "Fleet", Body: sl})
}

// AddCraft adds one craft.
func (s Pages) AddCraft(c *gin.Context) {
	p := frame.Person(c)
	k := store.Craft{ID: store.NewID(), Name: frame.CleanName(c.PostForm("name")), Type: c.PostForm("type")}
	if _, ok := s.Cat.Craft[k.Type]; !ok || k.Name == "" {
		s.WrongInput(c, msgCraftNoName, msgWriteNameArm)
		return
	}
	s.Done(c, s.Store.InSchool(c.Request.Context(), p.SchoolID,
		func(tx store.Tx) error { return tx.AddCraft(c.Request.Context(), k) }), frame.Back(c, "/fleet/craft/"+k.ID.String()))
}

// AddPack adds one pack of a type.
func (s Pages) AddPack(c *gin.Context) {
	p := frame.Person(c)
	t, ok := s.Cat.Craft[c.PostForm("type")]
	if !ok {
		s.WrongInput(c, msgTypePackNot, msgChooseOneList)
		return
	}
	k := store.Pack{ID: store.NewID(), Record: pack.Record{Name: frame.CleanName(c.PostForm("name")), Type: t.Key,
		Chemistry: t.Battery.Chemistry, Cells: t.Battery.Cells, CapacityMah: t.Battery.CapacityMah, MassKg: t.Battery.MassKg}}
	capacity, err1 := frame.FormNumber(c, "capacity_mah", 50, 200_000)
	cells, err2 := frame.FormNumber(c, "cells", 1, 24)
	if chem := c.PostForm("chemistry"); chem != "" {
		k.Chemistry = craft.Chemistry(chem)
	}
	if capacity != nil {
		k.CapacityMah = *capacity
	}
	if cells != nil {
		k.Cells = int(*cells)
	}
	if day := c.PostForm("bought_on"); day != "" {
		d, err := time.Parse(time.DateOnly, day)
		if err != nil {
			s.WrongInput(c, fmt.Sprintf(msgDayCouldNot, day), msgWriteItAs)
			return
		}
		k.BoughtOn = d
	}
	if err := errors.Join(err1, err2); err == nil {
		err1 = k.Check(t)
	}
	if err := errors.Join(err1, err2); err != nil {
		s.WrongInput(c, fmt.Sprintf(msgPackNotAdded, frame.FirstLine(err)), msgPutRightAdd)
		return
	}
	s.Done(c, s.Store.InSchool(c.Request.Context(), p.SchoolID,
		func(tx store.Tx) error { return tx.AddPack(c.Request.Context(), k) }), "/fleet/packs/"+k.ID.String())
}

// MoveShelf counts parts onto the shelf or off it.
func (s Pages) MoveShelf(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	t, ok := s.Cat.Craft[c.Param("type")]
	part := c.PostForm("part")
	n, err := frame.NeedNumber(c, "count", -1000, 1000)
	if !ok || !slices.ContainsFunc(t.Parts, func(x craft.Part) bool { return x.Key == part }) {
		s.NotFound(c)
		return
	}
	if err != nil || n != float64(int(n)) || n == 0 {
		s.WrongInput(c, msgCountCouldNot, msgWriteWholeNumber)
		return
	}
	id, idErr := uuid.Parse(c.PostForm("id"))
	if idErr != nil {
		id = store.NewID()
	}
	s.Done(c, s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		return tx.MoveShelf(ctx, id, p.ID, t.Key, part, int(n), "counted")
	}), "/fleet#type-"+t.Key)
}

// TypeFile gives a craft type as YAML.
func (s Pages) TypeFile(c *gin.Context) {
	t, ok := s.Cat.Craft[strings.TrimSuffix(c.Param("type"), ".yaml")]
	if !ok {
		s.NotFound(c)
		return
	}
	data, err := t.YAML()
	if err != nil {
		s.Failed(c, err)
		return
	}
	frame.Attach(c, t.Key+".yaml", "application/yaml", data)
}

// FleetFile gives craft, packs and shelf as YAML.
func (s Pages) FleetFile(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	var f pack.Fleet
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		list, err := tx.Fleet(ctx)
		if err != nil {
			return err
		}
		for _, k := range list {
			f.Craft = append(f.Craft, pack.Named{Name: k.Name, Type: k.Type})
		}
		packs, err := tx.Packs(ctx)
		if err != nil {
			return err
		}
		for _, k := range packs {
			f.Packs = append(f.Packs, k.Record)
		}
		shelf, err := tx.Shelf(ctx)
		for _, key := range s.Cat.Craft.Keys() {
			for _, part := range s.Cat.Craft[key].Parts {
				if n := shelf[key][part.Key]; n > 0 {
					f.Shelf = append(f.Shelf, pack.Shelf{Type: key, Part: part.Key, Count: n})
				}
			}
		}
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	data, err := f.YAML()
	if err != nil {
		s.Failed(c, err)
		return
	}
	frame.Attach(c, "fleet.yaml", "application/yaml", data)
}

// ImportFleet takes craft and packs that are not there yet from a file; the
// shelf is brought to what the file counts. All of it is kept, or nothing.
func (s Pages) ImportFleet(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	data, name, err := s.Uploaded(c, 1<<20)
	if err != nil {
		s.WrongInput(c, err.Error(), msgChooseFilePage)
		return
	}
	f, err := pack.ParseFleet(data, s.Cat.Craft)
	if err != nil {
		s.WrongInput(c, name+":"+strings.TrimPrefix(err.Error(), " "), msgPutLineRight)
		return
	}
	s.Done(c, s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		list, err := tx.Fleet(ctx)
		if err != nil {
			return err
		}
		for _, k := range f.Craft {
			if !slices.ContainsFunc(list, func(x store.Craft) bool { return x.Name == k.Name }) {
				if err := tx.AddCraft(ctx, store.Craft{ID: store.NewID(), Name: k.Name, Type: k.Type}); err != nil {
					return err
				}
			}
		}
		packs, err := tx.Packs(ctx)
		if err != nil {
			return err
		}
		for _, r := range f.Packs {
			if !slices.ContainsFunc(packs, func(x store.Pack) bool { return x.Name == r.Name }) {
				if err := tx.AddPack(ctx, store.Pack{ID: store.NewID(), Record: r}); err != nil {
					return err
				}
			}
		}
		shelf, err := tx.Shelf(ctx)
		for _, k := range f.Shelf {
			if d := k.Count - shelf[k.Type][k.Part]; d != 0 && err == nil {
				err = tx.MoveShelf(ctx, store.NewID(), p.ID, k.Type, k.Part, d, "imported")
			}
		}
		return err
	}), "/fleet")
}
