package web

import (
	"context"
	"errors"
	"fmt"
	"html/template"
	"io"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/pack"
	"maestrale/core/preflight"
	"maestrale/internal/draw"
	"maestrale/internal/store"
)

// daysFlights is how many flights a field day of a type usually has, for the
// advice on spares.
const daysFlights = 20

type fleetModel struct {
	Craft  []craftRow
	Packs  []packRow
	Types  []typeRow
	Policy preflight.Policy
	May    bool
	Chief  bool
	Counts string
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

type packRow struct {
	store.Pack
	pack.State
	TypeTitle string
	Bar       template.HTML
	ChargePc  string
	Says      string
}

type typeRow struct {
	craft.Type
	Class  craft.Class
	Has    string
	Advice craft.Advice
	Seen   craft.Seen
	Rate   string
}

func policyOf(kind string, km *float64, days *float64) preflight.Policy {
	p := preflight.Policy{Kind: preflight.PolicyKind(kind), Km: preflight.DefaultPolicy.Km, Days: preflight.DefaultPolicy.Days}
	if km != nil {
		p.Km = *km
	}
	if days != nil {
		p.Days = int(*days)
	}
	return p
}

func schoolPolicy(s store.Settings) preflight.Policy {
	return preflight.Policy{Kind: preflight.PolicyKind(s.CompassKind), Km: s.CompassKm, Days: s.CompassDays}
}

func (s *Server) fleetPage(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	m := fleetModel{May: p.Role == store.Chief || p.Role == store.Instructor, Chief: p.Role == store.Chief}
	err := s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		set, err := tx.Settings(ctx)
		if err != nil {
			return err
		}
		m.Policy = schoolPolicy(set)
		list, err := tx.Fleet(ctx)
		if err != nil {
			return err
		}
		logs, err := tx.CraftLogs(ctx, nil)
		if err != nil {
			return err
		}
		for _, k := range list {
			m.Craft = append(m.Craft, s.craftRow(k, craft.StateOf(logs[k.ID])))
		}
		if m.Packs, err = s.packRows(c, tx); err != nil {
			return err
		}
		m.Types, err = s.typeRows(c, tx, list, logs)
		return err
	})
	if err != nil {
		s.failed(c, err)
		return
	}
	m.Counts = fmt.Sprintf("%d craft · %s", len(m.Craft), counted(len(m.Packs), "pack"))
	s.render(c, http.StatusOK, "fleet", page{Title: "Fleet", Place: "Fleet", Body: m, Keys: []key{{"↑ ↓ Enter", "walk through the craft and open one"}}})
}

func (s *Server) craftRow(k store.Craft, st craft.State) craftRow {
	t := s.cat.Craft[k.Type]
	row := craftRow{Craft: k, Title: t.Title, Word: "in service", ToFly: true, Crash: st.Crashes}
	switch {
	case st.Grounded:
		row.Word, row.Why, row.ToFly = "out of service", st.Why, false
	case st.ToProve != "":
		row.Word, row.Why, row.ToFly = "to be proven", st.ToProve, false
	}
	return row
}

func (s *Server) packRows(c *gin.Context, tx store.Tx) ([]packRow, error) {
	return s.packsNow(c.Request.Context(), tx)
}

// packsNow are the school's packs as they stand.
func (s *Server) packsNow(ctx context.Context, tx store.Tx) ([]packRow, error) {
	list, err := tx.Packs(ctx)
	if err != nil {
		return nil, err
	}
	logs, err := tx.PackLogs(ctx, nil)
	if err != nil {
		return nil, err
	}
	var out []packRow
	for _, k := range list {
		out = append(out, s.packRow(k, pack.StateOf(k.Record, logs[k.ID], s.now())))
	}
	return out, nil
}

func (s *Server) packRow(k store.Pack, st pack.State) packRow {
	row := packRow{Pack: k, State: st, TypeTitle: s.cat.Craft[k.Type].Title, ChargePc: "not known", Says: strings.Join(st.Why, "; ")}
	if st.Known {
		row.ChargePc = fmt.Sprintf("%.0f %%", 100*st.Charge)
	}
	row.Bar = draw.Pack(st.Charge, st.Known, string(st.Fitness))
	return row
}

// typeRows judges spares for every type that the school has a craft of.
func (s *Server) typeRows(c *gin.Context, tx store.Tx, list []store.Craft, logs map[uuid.UUID][]craft.Event) ([]typeRow, error) {
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
	for _, key := range s.cat.Craft.Keys() {
		t := s.cat.Craft[key]
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
			row.Advice = craft.Spares(t.Parts, seen, craft.BeginnersPrior(t), shelf[key], daysFlights, 0.9)
			row.Rate = fmt.Sprintf("%.1f crashes in a hundred flights", 100*row.Advice.Rate)
		}
		out = append(out, row)
	}
	return out, nil
}

// whySpares says what the advice rests on.
func (s *Server) whySpares(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	var row typeRow
	err := s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
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
		s.failed(c, err)
		return
	}
	prior := craft.BeginnersPrior(row.Type)
	sl := slip{Figure: "Spares for " + row.Title, Says: fmt.Sprintf("with what is to be brought, a day of %d flights is not lost for want of a part with %.0f %% certainty; with what lies on the shelf, %.0f %%", row.Advice.Flights, 100*row.Advice.Chance, 100*row.Advice.AsItIs),
		Inputs: [][2]string{{"flights seen", fmt.Sprint(row.Seen.Flights)}, {"crashes seen", fmt.Sprint(row.Seen.Crashes)},
			{"believed beforehand", fmt.Sprintf("%.1f crashes in %.0f flights", prior.Crashes, prior.Flights)}, {"crash rate", row.Rate}},
		Rule:   "Crashes come by chance at a rate that is learnt from those seen, beginning from what beginners usually do; each takes a random number of each part, as earlier ones did. The part that helps most is added until nine days in ten are not lost.",
		Source: "Gamma–Poisson: Gelman et al., Bayesian Data Analysis, 3rd ed., 2013, section 2.6. The prior is a reckoning of our own."}
	for _, n := range row.Advice.Needs {
		sl.Inputs = append(sl.Inputs, [2]string{n.Title, fmt.Sprintf("%d used, %.2g a crash; bring %d, %d on the shelf", row.Seen.Used[n.Key], n.PerCrash, n.Bring, n.Shelf)})
	}
	s.render(c, http.StatusOK, "slip", page{Title: "Why these spares", Place: "Fleet", Body: sl})
}

// addCraft adds one craft.
func (s *Server) addCraft(c *gin.Context) {
	p := person(c)
	k := store.Craft{ID: store.NewID(), Name: cleanName(c.PostForm("name")), Type: c.PostForm("type")}
	if _, ok := s.cat.Craft[k.Type]; !ok || k.Name == "" {
		s.wrongInput(c, "The craft has no name or no known type.", "Write the name on its arm and choose its type.")
		return
	}
	s.done(c, s.store.InSchool(c.Request.Context(), p.SchoolID, func(tx store.Tx) error { return tx.AddCraft(c.Request.Context(), k) }), "/fleet/craft/"+k.ID.String())
}

// addPack adds one pack of a type.
func (s *Server) addPack(c *gin.Context) {
	p := person(c)
	t, ok := s.cat.Craft[c.PostForm("type")]
	if !ok {
		s.wrongInput(c, "The type of the pack is not known.", "Choose one of the list.")
		return
	}
	k := store.Pack{ID: store.NewID(), Record: pack.Record{Name: cleanName(c.PostForm("name")), Type: t.Key, Chemistry: t.Battery.Chemistry, Cells: t.Battery.Cells, CapacityMah: t.Battery.CapacityMah, MassKg: t.Battery.MassKg}}
	capacity, err1 := formNumber(c, "capacity_mah", 50, 200_000)
	cells, err2 := formNumber(c, "cells", 1, 24)
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
			s.wrongInput(c, fmt.Sprintf("The day %.20q could not be read.", day), "Write it as 2026-03-02.")
			return
		}
		k.BoughtOn = d
	}
	if err := errors.Join(err1, err2); err == nil {
		err1 = k.Check(t)
	}
	if err := errors.Join(err1, err2); err != nil {
		s.wrongInput(c, "The pack was not added: "+firstLine(err)+".", "Put it right and add it again.")
		return
	}
	s.done(c, s.store.InSchool(c.Request.Context(), p.SchoolID, func(tx store.Tx) error { return tx.AddPack(c.Request.Context(), k) }), "/fleet/packs/"+k.ID.String())
}

// done goes on to a page, or says what is in the way.
func (s *Server) done(c *gin.Context, err error, to string) {
	switch {
	case errors.Is(err, store.ErrTaken):
		s.wrongInput(c, "That name is taken.", "Choose another; names are what stands on the label.")
	case err != nil:
		s.failed(c, err)
	default:
		c.Redirect(http.StatusSeeOther, to)
	}
}

// moveShelf counts parts onto the shelf or off it.
func (s *Server) moveShelf(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	t, ok := s.cat.Craft[c.Param("type")]
	part := c.PostForm("part")
	n, err := needNumber(c, "count", -1000, 1000)
	if !ok || !slices.ContainsFunc(t.Parts, func(x craft.Part) bool { return x.Key == part }) {
		s.notFound(c)
		return
	}
	if err != nil || n != float64(int(n)) || n == 0 {
		s.wrongInput(c, "The count could not be read.", "Write a whole number: 4 for four more, −2 for two fewer.")
		return
	}
	id, idErr := uuid.Parse(c.PostForm("id"))
	if idErr != nil {
		id = store.NewID()
	}
	s.done(c, s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		return tx.MoveShelf(ctx, id, p.ID, t.Key, part, int(n), "counted")
	}), "/fleet#type-"+t.Key)
}

// typeFile gives a craft type as YAML.
func (s *Server) typeFile(c *gin.Context) {
	t, ok := s.cat.Craft[strings.TrimSuffix(c.Param("type"), ".yaml")]
	if !ok {
		s.notFound(c)
		return
	}
	data, err := t.YAML()
	if err != nil {
		s.failed(c, err)
		return
	}
	attach(c, t.Key+".yaml", "application/yaml", data)
}

func attach(c *gin.Context, name, kind string, data []byte) {
	c.Header("Content-Disposition", fmt.Sprintf("attachment; filename=%q", name))
	c.Data(http.StatusOK, kind, data)
}

// fleetFile gives craft, packs and shelf as YAML.
func (s *Server) fleetFile(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	var f pack.Fleet
	err := s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
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
		for _, key := range s.cat.Craft.Keys() {
			for _, part := range s.cat.Craft[key].Parts {
				if n := shelf[key][part.Key]; n > 0 {
					f.Shelf = append(f.Shelf, pack.Shelf{Type: key, Part: part.Key, Count: n})
				}
			}
		}
		return err
	})
	if err != nil {
		s.failed(c, err)
		return
	}
	data, err := f.YAML()
	if err != nil {
		s.failed(c, err)
		return
	}
	attach(c, "fleet.yaml", "application/yaml", data)
}

// importFleet takes craft and packs that are not there yet from a file; the
// shelf is brought to what the file counts. All of it is kept, or nothing.
func (s *Server) importFleet(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	data, name, err := s.uploaded(c, 1<<20)
	if err != nil {
		s.wrongInput(c, err.Error(), "Choose a file as this page exports it.")
		return
	}
	f, err := pack.ParseFleet(data, s.cat.Craft)
	if err != nil {
		s.wrongInput(c, name+":"+strings.TrimPrefix(err.Error(), " "), "Put that line right and import the file again.")
		return
	}
	s.done(c, s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
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

// uploaded reads the file of a form, up to a size.
func (s *Server) uploaded(c *gin.Context, most int64) ([]byte, string, error) {
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, most+64<<10)
	h, err := c.FormFile("file")
	if err != nil || h.Size == 0 {
		return nil, "", errors.New("no file came, or it was empty or too large")
	}
	f, err := h.Open()
	if err != nil {
		return nil, "", fmt.Errorf("the file could not be opened: %w", err)
	}
	defer func() { _ = f.Close() }()
	data, err := io.ReadAll(io.LimitReader(f, most+1))
	if err != nil || int64(len(data)) > most {
		return nil, "", fmt.Errorf("the file is larger than %d kB", most>>10)
	}
	return data, cleanName(h.Filename), nil
}
