package fieldday

import (
	"context"
	"fmt"
	"math"
	"strings"

	"maestrale/core/air"
	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/core/pack"
	"maestrale/internal/store"
)

// Pack is one of the school's packs as it stands.
type Pack struct {
	store.Pack
	pack.State
	TypeTitle string
	ChargePc  string
	Says      string
}

// PacksNow are the school's packs as they stand.
func (s Days) PacksNow(ctx context.Context, tx store.Tx) ([]Pack, error) {
	list, err := tx.Packs(ctx)
	if err != nil {
		return nil, err
	}
	logs, err := tx.PackLogs(ctx, nil)
	if err != nil {
		return nil, err
	}
	var out []Pack
	for _, k := range list {
		out = append(out, s.PackOf(k, pack.StateOf(k.Record, logs[k.ID], s.Now())))
	}
	return out, nil
}

// PackOf puts a pack and its state together.
func (s Days) PackOf(k store.Pack, st pack.State) Pack {
	row := Pack{Pack: k, State: st, TypeTitle: s.Cat.Craft[k.Type].Title, ChargePc: "not known", Says: strings.Join(st.Why,
		"; ")}
	if st.Known {
		row.ChargePc = fmt.Sprintf("%.0f %%", 100*st.Charge)
	}
	return row
}

// sum is the arithmetic of one pack in today's air.
type Figures struct {
	Lifter  pack.Lifter
	Filling pack.Filling
	Flights int // measured hovers that correct it
	Density float64
	Wind    float64
	from    field.Angle
	OhmFrom string
	Err     error
	Trip    pack.Trip
	Home    pack.Home
	Seconds float64
	InWind  float64
	LandV   float64
	RestV   float64
	Charge  pack.Charging
	rate    float64 // of charging, in C
	HoverW  float64
	WarmC   float64
	CoolMin float64
}

func (s Days) FiguresOf(p *store.Person, t craft.Type, row Pack, altM float64) Figures {
	out := Figures{Wind: WindOr(p)}
	if from := p.From(); from != nil {
		out.from = field.Degrees(*from)
	}
	if out.Density, out.Err = pack.StandardDensity(altM, nil); out.Err != nil {
		return out
	}
	if out.Lifter, out.Err = pack.NewLifter(t, out.Density); out.Err != nil {
		return out
	}
	out.Lifter, out.Flights = out.Lifter.Corrected(row.Hovers)
	out.Filling = pack.Filling{Chemistry: row.Chemistry, Cells: row.Cells, CapacityMah: row.CapacityMah, Charge: 1}
	out.Filling.OhmPerCell, out.OhmFrom = row.OhmOf(row.Record, t)
	if row.Known {
		out.Filling.Charge = row.Charge
	}
	limits := t.Limits[t.Aids[0]]
	out.HoverW = out.Lifter.Hover()
	out.Seconds = out.Filling.Seconds(out.HoverW, pack.Reserve)
	out.InWind = out.Filling.Seconds(out.Lifter.Level(out.Wind), pack.Reserve)
	out.LandV, out.RestV = pack.LandVolts(out.Filling, out.HoverW, pack.Reserve)
	out.Trip = pack.Trip{HeightM: 3, ReturnM: pack.ReturnM, WindMps: out.Wind, From: out.from, SpeedMps: math.Max(1,
		limits.SpeedMps), ClimbMps: math.Max(0.5, limits.ClimbMps), DescendMps: math.Max(0.5, limits.DescendMps),
		Reserve: pack.Reserve}
	out.Home = pack.Farthest(out.Lifter, out.Filling, out.Trip)
	out.rate = 1
	if t.Battery.MaxChargeC > 0 {
		out.rate = t.Battery.MaxChargeC
	}
	empty := out.Filling
	empty.Charge = pack.Reserve
	out.Charge, out.Err = pack.ChargeTime(empty, 1, out.rate)
	full := out.Filling
	full.Charge = 1
	mass := row.MassKg
	if mass == 0 {
		mass = t.Battery.MassKg
	}
	if mass > 0 {
		_, amps, _ := full.Loaded(out.HoverW)
		ambient := air.StandardTempC(altM)
		out.WarmC = pack.WarmC(full, mass, ambient, amps, full.Seconds(out.HoverW, pack.Reserve))
		out.CoolMin, _ = pack.CoolMinutes(mass, out.WarmC, pack.ChargeBelowC, ambient)
	}
	return out
}

// AltToday is how high the school flies today; 0 where no site is set.
func (s Days) AltToday(ctx context.Context, tx store.Tx) (m float64, err error) {
	set, err := tx.Settings(ctx)
	if err != nil {
		return 0, err
	}
	where, _, _, err := s.SiteToday(ctx, tx, set)
	if where != nil {
		m = where.AltM
	}
	return m, err
}

// MetresWords says a distance, rounded down.
func MetresWords(m float64) string {
	if m >= 2000 {
		return fmt.Sprintf("%.1f km", math.Floor(m/100)/10)
	}
	return fmt.Sprintf("%.0f m", math.Floor(m/10)*10)
}
