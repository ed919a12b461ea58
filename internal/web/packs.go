package web

import (
	"fmt"
	"math"
	"net/http"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/air"
	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/core/pack"
	"maestrale/core/preflight"
	"maestrale/internal/store"
)

func uuid7(text string) (uuid.UUID, error) { return uuid.Parse(text) }

type packModel struct {
	Row     packRow
	Type    craft.Type
	Log     []logRow
	Figures []figure
	Cells   string
	May     bool
	Id      string
	HomeM   string
	OnEarth string
}

// figure is a computed figure with the address of its why slip.
type figure struct{ Name, Value, Why string }

// sum is the arithmetic of one pack in today's air.
type sum struct {
	lifter  pack.Lifter
	filling pack.Filling
	flights int // measured hovers that correct it
	density float64
	wind    float64
	from    field.Angle
	ohmFrom string
	err     error
	trip    pack.Trip
	home    pack.Home
	seconds float64
	inWind  float64
	landV   float64
	restV   float64
	charge  pack.Charging
	rate    float64 // of charging, in C
	hoverW  float64
	warmC   float64
	coolMin float64
}

func (s *Server) sumOf(p *store.Person, t craft.Type, row packRow, altM float64) sum {
	out := sum{wind: windOr(p)}
	if from := p.From(); from != nil {
		out.from = field.Degrees(*from)
	}
	if out.density, out.err = pack.StandardDensity(altM, nil); out.err != nil {
		return out
	}
	if out.lifter, out.err = pack.NewLifter(t, out.density); out.err != nil {
		return out
	}
	out.lifter, out.flights = out.lifter.Corrected(row.Hovers)
	out.filling = pack.Filling{Chemistry: row.Chemistry, Cells: row.Cells, CapacityMah: row.CapacityMah, Charge: 1}
	out.filling.OhmPerCell, out.ohmFrom = row.OhmOf(row.Record, t)
	if row.Known {
		out.filling.Charge = row.Charge
	}
	limits := t.Limits[t.Aids[0]]
	out.hoverW = out.lifter.Hover()
	out.seconds = out.filling.Seconds(out.hoverW, pack.Reserve)
	out.inWind = out.filling.Seconds(out.lifter.Level(out.wind), pack.Reserve)
	out.landV, out.restV = pack.LandVolts(out.filling, out.hoverW, pack.Reserve)
	out.trip = pack.Trip{HeightM: 3, ReturnM: pack.ReturnM, WindMps: out.wind, From: out.from, SpeedMps: math.Max(1, limits.SpeedMps), ClimbMps: math.Max(0.5, limits.ClimbMps), DescendMps: math.Max(0.5, limits.DescendMps), Reserve: pack.Reserve}
	out.home = pack.Farthest(out.lifter, out.filling, out.trip)
	out.rate = 1
	if t.Battery.MaxChargeC > 0 {
		out.rate = t.Battery.MaxChargeC
	}
	empty := out.filling
	empty.Charge = pack.Reserve
	out.charge, out.err = pack.ChargeTime(empty, 1, out.rate)
	full := out.filling
	full.Charge = 1
	mass := row.MassKg
	if mass == 0 {
		mass = t.Battery.MassKg
	}
	if mass > 0 {
		_, amps, _ := full.Loaded(out.hoverW)
		ambient := air.StandardTempC(altM)
		out.warmC = pack.WarmC(full, mass, ambient, amps, full.Seconds(out.hoverW, pack.Reserve))
		out.coolMin, _ = pack.CoolMinutes(mass, out.warmC, pack.ChargeBelowC, ambient)
	}
	return out
}

func (s *Server) packPage(c *gin.Context) {
	row, t, log, alt, err := s.packOf(c)
	if err != nil {
		s.failed(c, err)
		return
	}
	p := person(c)
	m := packModel{Row: row, Type: t, Log: s.packLog(log, p), May: p.Role != store.Learner, Id: row.ID.String()}
	x := s.sumOf(p, t, row, alt)
	why := "/fleet/packs/" + m.Id + "/why?of="
	if x.err == nil {
		m.Figures = []figure{
			{"hovers now for", fmt.Sprintf("%.0f min", math.Floor(x.seconds/60)), why + "hover"},
			{fmt.Sprintf("in %.1f m/s of wind", x.wind), fmt.Sprintf("%.0f min", math.Floor(x.inWind/60)), why + "wind"},
			{"land at, under load", fmt.Sprintf("%.2f V a cell", x.landV), why + "land"},
			{"gets home from", metresWords(x.home.WorstM), why + "home"},
			{"for an hour's lesson", x.packsWords(60), why + "wind"},
			{"charges in", fmt.Sprintf("%.0f min", math.Ceil(x.charge.Minutes)), why + "charge"},
			{"cools before that", fmt.Sprintf("%.0f min", math.Ceil(x.coolMin)), why + "charge"},
		}
	}
	var cells []string
	for _, v := range row.CellVolts {
		cells = append(cells, fmt.Sprintf("%.2f", v))
	}
	m.Cells = strings.Join(cells, " · ")
	pg := page{Title: "Pack " + row.Name, Place: "Fleet", Body: m, Keys: []key{{"w", "why, on an underlined figure"}}}
	s.render(c, http.StatusOK, "pack", pg)
}

// packOf reads a pack, its log, and how high the school flies today.
func (s *Server) packOf(c *gin.Context) (row packRow, t craft.Type, log []pack.Event, altM float64, err error) {
	ctx, p := c.Request.Context(), person(c)
	id, err := param(c, "pack")
	if err != nil {
		return
	}
	err = s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		k, err := tx.OnePack(ctx, id)
		if err != nil {
			return err
		}
		logs, err := tx.PackLogs(ctx, &id)
		if err != nil {
			return err
		}
		altM, err = s.altToday(c, tx)
		log, t = logs[id], s.cat.Craft[k.Type]
		row = s.packRow(k, pack.StateOf(k.Record, log, s.now()))
		return err
	})
	return
}

// altToday is how high the school flies today; 0 where no site is set.
func (s *Server) altToday(c *gin.Context, tx store.Tx) (m float64, err error) {
	set, err := tx.Settings(c.Request.Context())
	if err != nil {
		return 0, err
	}
	where, _, _, err := s.today(c, tx, set)
	if where != nil {
		m = where.AltM
	}
	return m, err
}

var packWords = map[pack.EventKind]string{pack.Rested: "rested", pack.Load: "under load", pack.Ohms: "resistance", pack.Charged: "charged", pack.Plugged: "on the charger", pack.Used: "flight", pack.Stored: "stored", pack.Damaged: "damage", pack.Retired: "taken out of use"}

func (s *Server) packLog(log []pack.Event, p *store.Person) []logRow {
	var out []logRow
	for _, e := range slices.Backward(log) {
		var says []string
		add := func(ok bool, format string, a ...any) {
			if ok {
				says = append(says, fmt.Sprintf(format, a...))
			}
		}
		for _, v := range e.Volts {
			says = append(says, fmt.Sprintf("%.2f V", v))
		}
		for _, o := range e.Ohms {
			says = append(says, fmt.Sprintf("%.1f mΩ", o*1000))
		}
		add(e.Amps > 0, "at %.1f A", e.Amps)
		add(e.Minutes > 0, "%.0f min", e.Minutes)
		add(e.Mah > 0, "%.0f mAh", e.Mah)
		add(e.Part > 0, "to %.0f %%", 100*e.Part)
		add(e.Hover, "a measured hover")
		add(e.Puffed, "puffed")
		add(e.Says != "", "%s", e.Says)
		out = append(out, logRow{e.At.In(zone(p)).Format("Mon 2 Jan 2006 15:04"), packWords[e.Kind], strings.Join(says, " · "), e.By})
		if len(out) == 40 {
			break
		}
	}
	return out
}

// notePack notes something in a pack's log.
func (s *Server) notePack(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	row, _, _, _, err := s.packOf(c)
	if err != nil {
		s.failed(c, err)
		return
	}
	e := pack.Event{At: s.now(), Kind: pack.EventKind(c.PostForm("kind")), Says: cleanName(c.PostForm("says")), Puffed: c.PostForm("puffed") == "yes", Hover: c.PostForm("hover") == "yes"}
	number := func(name string, most float64) float64 {
		v, formErr := formNumber(c, name, 0, most)
		if formErr != nil {
			err = formErr
		}
		if v == nil {
			return 0
		}
		return *v
	}
	e.Amps, e.Mah, e.Minutes, e.Part = number("amps", 1000), number("mah", 1e6), number("minutes", 600), number("percent", 100)/100
	if t := strings.TrimSpace(c.PostForm("volts")); t != "" && err == nil {
		e.Volts, err = preflight.ReadCells(t)
	}
	if t := strings.TrimSpace(c.PostForm("milliohms")); t != "" && err == nil {
		if e.Ohms, err = preflight.ReadCells(t); err == nil {
			for i := range e.Ohms {
				e.Ohms[i] /= 1000
			}
		}
	}
	if err == nil {
		err = row.CheckEvent(e)
	}
	if err != nil {
		s.wrongInput(c, "It was not noted: "+firstLine(err)+".", "Put it right and note it again.")
		return
	}
	entry, idErr := uuid7(c.PostForm("id"))
	if idErr != nil {
		entry = store.NewID()
	}
	s.done(c, s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error { return tx.AddPackEvent(ctx, entry, row.ID, p.ID, e) }), "/fleet/packs/"+row.ID.String())
}

// whyPack says what a figure of a pack rests on.
func (s *Server) whyPack(c *gin.Context) {
	row, t, _, alt, err := s.packOf(c)
	if err != nil {
		s.failed(c, err)
		return
	}
	x := s.sumOf(person(c), t, row, alt)
	f := func(format string, a ...any) string { return fmt.Sprintf(format, a...) }
	sl := slip{Figure: "Pack " + row.Name}
	air := [][2]string{{"elevation", f("%.0f m", alt)}, {"density of the air (standard)", f("%.3f kg/m³", x.density)}, {"mass", f("%.3f kg", t.MassKg)}, {"rotor area", f("%.3f m²", t.DiscM2())},
		{"merit, drive included", f("%.2f of %.2f for the type; %s", x.lifter.Merit, t.FigureOfMerit*t.DriveEfficiency, counted(x.flights, "measured hover"))}, {"electronics", f("%.1f W", t.ElectronicsW)}}
	cells := [][2]string{{"charge", row.ChargePc}, {"reserve", f("%.0f %%", 100*pack.Reserve)}, {"capacity", f("%.0f mAh", row.CapacityMah)}, {"resistance", f("%.1f mΩ a cell, %s", 1000*x.filling.OhmPerCell, x.ohmFrom)}}
	switch c.Query("of") {
	case "hover":
		sl.Says = f("%.1f min at %.0f W", x.seconds/60, x.hoverW)
		sl.Inputs = append(air, cells...)
		sl.Rule = "Momentum theory gives the least power that holds the weight, P = T √(T / 2ρA); divided by the merit, plus the electronics. The charge is taken out step by step at the current that the sagging volts ask for, until the reserve is left."
		sl.Source = "Leishman, Principles of Helicopter Aerodynamics, 2nd ed., 2006, chapter 2; density ISO 2533:1975. The type's merit counts as one measurement with 15 % error, each measured hover as one with 10 %."
	case "wind":
		sl.Says = f("%.1f min at %.0f W, leaning %.0f°", x.inWind/60, x.lifter.Level(x.wind), field.Angle(x.lifter.Lean(x.wind)).Deg())
		sl.Inputs = append(air, [2]string{"wind", f("%.1f m/s", x.wind)})
		sl.Rule = "To keep its place in a wind the craft flies against it: the rotor meets more air and needs less to hold the weight, the drag has to be dragged."
		sl.Source = "Glauert 1926; Leishman 2006, chapter 2, forward flight."
	case "land":
		sl.Says = f("%.2f V a cell under load; it then rests at %.2f V", x.landV, x.restV)
		sl.Inputs = cells
		sl.Rule = "What a cell rests at with the reserve left, less the drop of a hover's current over its resistance; never under what harms it."
		sl.Source = f("rest volts of %s by charge (docs/formats.md); V = E − I R", row.Chemistry.Words())
	case "home":
		sl.Says = f("from %s in the worst direction; how far its nose can be told is another matter, and usually nearer", metresWords(x.home.WorstM))
		sl.Inputs = [][2]string{{"above the reserve", f("%.1f Wh", x.home.HaveJ/3600)}, {f("climb to %.0f m", x.trip.ReturnM), f("%.1f Wh", x.home.ClimbJ/3600)}, {"down and land", f("%.1f Wh", x.home.LandJ/3600)},
			{"wind", f("%.1f m/s", x.wind)}, {"air speed that is best against it", f("%.1f m/s", x.home.AirMps)}, {"fastest", f("%.1f m/s", x.trip.SpeedMps)}}
		sl.Rule = "What the pack holds above the reserve, less the climb, the way down and the landing, over what a metre toward home costs against the wind at the air speed that is cheapest."
		sl.Source = "energy balance, docs/formats.md; power as for hover and wind"
	default:
		sl.Says = f("%.0f min from the reserve to full, of which the current is held up to %.0f %%; %.0f °C after a flight, %.0f min to cool", x.charge.Minutes, 100*x.charge.AtFullV, x.warmC, x.coolMin)
		sl.Inputs = append(cells, [2]string{"charging at", f("%.1f C", math.Max(1, t.Battery.MaxChargeC))}, [2]string{"charge it below", f("%.0f °C", pack.ChargeBelowC)})
		sl.Rule = "The current is held until the volts are reached, then the volts are held while the current dies away to a twentieth. A flight heats the pack by I²R; it cools by Newton's law."
		sl.Source = "heat of cells: Maleki et al., J. Electrochem. Soc. 146 (1999) 947"
	}
	s.render(c, http.StatusOK, "slip", page{Title: "Why: " + sl.Figure, Place: "Fleet", Body: sl})
}

// metresWords says a distance, rounded down.
func metresWords(m float64) string {
	if m >= 2000 {
		return fmt.Sprintf("%.1f km", math.Floor(m/100)/10)
	}
	return fmt.Sprintf("%.0f m", math.Floor(m/10)*10)
}

// packsWords says how many packs a lesson of so many minutes takes in today's
// wind, each of them full.
func (x sum) packsWords(minutes float64) string {
	full := x.filling
	full.Charge = 1
	n, err := pack.Packs(minutes, full.Seconds(x.lifter.Level(x.wind), pack.Reserve)/60)
	if err != nil {
		return "none suffices"
	}
	return counted(n, "pack")
}
