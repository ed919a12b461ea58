package fleet

import (
	"fmt"
	"math"
	"net/http"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/core/orient"
	"maestrale/core/pack"
	"maestrale/core/preflight"
	"maestrale/internal/fieldday"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
	"maestrale/internal/words"
)

func uuid7(text string) (uuid.UUID, error) { return uuid.Parse(text) }

type packModel struct {
	Row     fieldday.Pack
	Type    craft.Type
	Log     []logRow
	Figures []figure
	Cells   string
	May     bool
	Id      string
	Unknown bool // the charge is not known, so neither time nor range is given
}

// figure is a computed figure with the address of its why slip.
type figure struct{ Name, Value, Why string }

func (s Pages) PackPage(c *gin.Context) {
	row, t, log, alt, err := s.packOf(c)
	if err != nil {
		s.Failed(c, err)
		return
	}
	p := frame.Person(c)
	m := packModel{Row: row, Type: t, Log: s.packLog(log, p), May: p.Role != store.Learner, Id: row.ID.String()}
	x := s.Days().FiguresOf(p, t, row, alt)
	why := "/fleet/packs/" + m.Id + "/why?of="
	if x.Err == nil {
		if row.Known {
			m.Figures = []figure{
				{msgHoversNow, fmt.Sprintf("%.0f min", math.Floor(x.Seconds/60)), why + "hover"},
				{fmt.Sprintf(msgInOfWind, x.Wind), fmt.Sprintf("%.0f min", math.Floor(x.InWind/60)), why + "wind"},
				{"fly", fieldday.ReachWords(reachOf(t, &x)), why + "home"},
			}
		} else {
			m.Unknown = true
		}
		m.Figures = append(m.Figures, []figure{
			{msgLandUnderLoad, fmt.Sprintf("%.2f V a cell", x.LandV), why + "land"},
			{msgHourLesson, packsWords(&x, 60), why + "wind"},
			{"charges in", fmt.Sprintf("%.0f min", math.Ceil(x.Charge.Minutes)), why + "charge"},
			{msgCoolsBefore, fmt.Sprintf("%.0f min", math.Ceil(x.CoolMin)), why + "charge"},
		}...)
	}
	var cells []string
	for _, v := range row.CellVolts {
		cells = append(cells, fmt.Sprintf("%.2f", v))
	}
	m.Cells = strings.Join(cells, " · ")
	pg := frame.Page{Title: "Pack " + row.Name, Place: "Fleet", Body: m,
		Keys: []frame.Key{{Key: "w", Does: msgWhyUnderlinedFigure}}}
	s.Render(c, http.StatusOK, "pack", pg)
}

// reachOf is how far a pack takes a craft of the type, as long as a keen eye tells the nose by day; who flies it may
// tell it less far.
func reachOf(t craft.Type, x *fieldday.Figures) pack.Reach {
	r := pack.Reach{PackM: x.Home.WorstM}
	if t.CueSpaceM > 0 {
		if m, err := orient.TellDistance(t.CueSpaceM, 1, orient.Day); err == nil {
			r.SightM = m
		}
	}
	return r
}

// packOf reads a pack, its log, and how high the school flies today.
func (s Pages) packOf(c *gin.Context) (row fieldday.Pack, t craft.Type, log []pack.Event, altM float64, err error) {
	ctx, p := c.Request.Context(), frame.Person(c)
	id, err := frame.Param(c, "pack")
	if err != nil {
		return
	}
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		k, err := tx.OnePack(ctx, id)
		if err != nil {
			return err
		}
		logs, err := tx.PackLogs(ctx, &id)
		if err != nil {
			return err
		}
		altM, err = s.Days().AltToday(c.Request.Context(), tx)
		log, t = logs[id], s.Cat.Craft[k.Type]
		row = s.Days().PackOf(k, pack.StateOf(k.Record, log, s.Now()))
		if b, boardErr := s.Days().BoardOf(ctx, tx, p); boardErr == nil && err == nil {
			row.Today, row.ChargePc = b.Packs[id].Today, b.Packs[id].ChargePc // as on Today
		} else if err == nil {
			err = boardErr
		}
		return err
	})
	return
}

var packWords = map[pack.EventKind]string{pack.Rested: "rested", pack.Load: "under load", pack.Ohms: "resistance",
	pack.Charged: "charged", pack.Plugged: msgOnTheCharger, pack.Used: "flight", pack.Stored: "stored",
	pack.Damaged: "damage", pack.Retired: msgTakenOutUse}

func (s Pages) packLog(log []pack.Event, p *store.Person) []logRow {
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
		out = append(out, logRow{e.At.In(p.Zone()).Format("Mon 2 Jan 2006 15:04"), packWords[e.Kind], strings.Join(says,
			" · "), e.By})
		if len(out) == 40 {
			break
		}
	}
	return out
}

// NotePack notes something in a pack's log.
func (s Pages) NotePack(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	row, _, _, _, err := s.packOf(c)
	if err != nil {
		s.Failed(c, err)
		return
	}
	e := pack.Event{At: s.Now(), Kind: pack.EventKind(c.PostForm("kind")), Says: frame.CleanName(c.PostForm("says")),
		Puffed: c.PostForm("puffed") == "yes", Hover: c.PostForm("hover") == "yes"}
	number := func(name string, most float64) float64 {
		v, formErr := frame.FormNumber(c, name, 0, most)
		if formErr != nil {
			err = formErr
		}
		if v == nil {
			return 0
		}
		return *v
	}
	e.Amps, e.Mah, e.Minutes, e.Part = number("amps", 1000), number("mah", 1e6), number("minutes", 600), number("percent",
		100)/100
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
		s.WrongInput(c, fmt.Sprintf(msgNotNoted, frame.FirstLine(err)), msgPutRightNote)
		return
	}
	entry, idErr := uuid7(c.PostForm("id"))
	if idErr != nil {
		entry = store.NewID()
	}
	s.Done(c, s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		return tx.AddPackEvent(ctx, entry, row.ID, p.ID,
			e)
	}), "/fleet/packs/"+row.ID.String())
}

// WhyPack says what a figure of a pack rests on.
func (s Pages) WhyPack(c *gin.Context) {
	row, t, _, alt, err := s.packOf(c)
	if err != nil {
		s.Failed(c, err)
		return
	}
	x := s.Days().FiguresOf(frame.Person(c), t, row, alt)
	f := func(format string, a ...any) string { return fmt.Sprintf(format, a...) }
	sl := frame.Slip{Figure: "Pack " + row.Name}
	air := [][2]string{{"elevation", f("%.0f m", alt)}, {msgDensityAirStandard, f("%.3f kg/m³", x.Density)},
		{"mass", f("%.3f kg", t.MassKg)}, {"rotor area", f("%.3f m²", t.DiscM2())},
		{msgMeritDriveIncluded, f(msgOfForThe, x.Lifter.Merit, t.FigureOfMerit*t.DriveEfficiency,
			words.Counted(x.Flights, "measured hover"))}, {"electronics", f("%.1f W", t.ElectronicsW)}}
	cells := [][2]string{{"charge", row.ChargePc}, {"reserve", f("%.0f %%", 100*pack.Reserve)},
		{"capacity", f("%.0f mAh", row.CapacityMah)}, {"resistance", f("%.1f mΩ a cell, %s", 1000*x.Filling.OhmPerCell,
			x.OhmFrom)}}
	of := c.Query("of")
	if !row.Known && slices.Contains([]string{"hover", "wind", "home"}, of) {
		of = "unknown"
	}
	switch of {
	case "unknown":
		sl.Says = msgChargePackNot
		sl.Rule = msgNoteRestedVolts
	case "hover":
		sl.Says = f("%.1f min at %.0f W", x.Seconds/60, x.HoverW)
		sl.Inputs = append(air, cells...)
		sl.Rule = msgMomentumTheoryGives
		sl.Source = msgLeishmanPrinciplesHelicopter
	case "wind":
		sl.Says = f(msgMinLeaning, x.InWind/60, x.Lifter.Level(x.Wind),
			field.Angle(x.Lifter.Lean(x.Wind)).Deg())
		sl.Inputs = append(air, [2]string{"wind", f("%.1f m/s", x.Wind)})
		sl.Rule = msgKeepPlaceWind
		sl.Source = msgGlauertLeishmanChapter
	case "land":
		sl.Says = f(msgCellUnderLoad, x.LandV, x.RestV)
		sl.Inputs = cells
		sl.Rule = msgWhatCellRests
		sl.Source = f(msgRestVoltsCharge, row.Chemistry.Words())
	case "home":
		sl = homeSlip(sl, t, &x)
	default:
		sl.Says = f(msgMinFromReserve, x.Charge.Minutes, 100*x.Charge.AtFullV, x.WarmC, x.CoolMin)
		sl.Inputs = append(cells, [2]string{"charging at", f("%.1f C", math.Max(1, t.Battery.MaxChargeC))},
			[2]string{msgChargeBelow, f("%.0f °C", pack.ChargeBelowC)})
		sl.Rule = msgCurrentHeldUntil
		sl.Source = msgHeatCellsMaleki
	}
	s.Render(c, http.StatusOK, "slip", frame.Page{Title: "Why: " + sl.Figure, Place: "Fleet", Body: sl})
}

// homeSlip says what the range of a pack rests on.
func homeSlip(sl frame.Slip, t craft.Type, x *fieldday.Figures) frame.Slip {
	f := func(format string, a ...any) string { return fmt.Sprintf(format, a...) }
	r := reachOf(t, x)
	sl.Says = f(msgFlyGetsHome, fieldday.ReachWords(r),
		fieldday.MetresWords(r.PackM), fieldday.MetresWords(r.SightM))
	sl.Inputs = [][2]string{{msgAboveReserve, f("%.1f Wh", x.Home.HaveJ/3600)}, {f("climb to %.0f m", x.Trip.ReturnM),
		f("%.1f Wh", x.Home.ClimbJ/3600)}, {msgDownLand, f("%.1f Wh", x.Home.LandJ/3600)},
		{"wind", f("%.1f m/s", x.Wind)}, {msgAirSpeedBest, f("%.1f m/s", x.Home.AirMps)}, {"fastest",
			f("%.1f m/s", x.Trip.SpeedMps)}}
	sl.Rule = msgWhatPackHolds
	sl.Source = msgEnergyBalanceDocs
	return sl
}

// packsWords says how many packs a lesson of so many minutes takes in today's
// wind, each of them full.
func packsWords(x *fieldday.Figures, minutes float64) string {
	full := x.Filling
	full.Charge = 1
	n, err := pack.Packs(minutes, full.Seconds(x.Lifter.Level(x.Wind), pack.Reserve)/60)
	if err != nil {
		return "none suffices"
	}
	return words.Counted(n, "pack")
}
