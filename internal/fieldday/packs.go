package fieldday

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"github.com/google/uuid"

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
	Today     string // what the day makes of it: in the air, or out; empty for nothing
}

// OutToday is said of a pack that the day does without.
const OutToday = "out today"

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

// markToday says of the packs what the day makes of them, so that every screen says the same.
func (b *Board) markToday() {
	set := func(id uuid.UUID, today, charge string) {
		if row, ok := b.Packs[id]; ok {
			if row.Today = today; charge != "" {
				row.ChargePc = charge
			}
			b.Packs[id] = row
		}
	}
	for _, id := range b.Source.Dead {
		set(id, OutToday, "")
	}
	for i := range b.Flown {
		if f := &b.Flown[i]; f.InAir() {
			set(f.PackID, fmt.Sprintf(msgInAirOf, b.Who(f)), msgInTheAir)
		}
	}
}

// PackList are the packs of a board, in the order of their names.
func (b *Board) PackList() []Pack {
	return slices.SortedFunc(maps.Values(b.Packs), func(a, b Pack) int {
		return cmp.Or(cmp.Compare(a.TypeTitle, b.TypeTitle), cmp.Compare(len(a.Name), len(b.Name)), cmp.Compare(a.Name,
			b.Name))
	})
}

// Figures are the arithmetic of one pack in today's air. Seconds, InWind and Home are 0 where the charge is not known.
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
	if row.Known { // what nobody has measured gets no time and no range
		out.Seconds = out.Filling.Seconds(out.HoverW, pack.Reserve)
		out.InWind = out.Filling.Seconds(out.Lifter.Level(out.Wind), pack.Reserve)
	}
	out.LandV, out.RestV = pack.LandVolts(out.Filling, out.HoverW, pack.Reserve)
	out.Trip = pack.Trip{HeightM: 3, ReturnM: pack.ReturnM, WindMps: out.Wind, From: out.from, SpeedMps: math.Max(1,
		limits.SpeedMps), ClimbMps: math.Max(0.5, limits.ClimbMps), DescendMps: math.Max(0.5, limits.DescendMps),
		Reserve: pack.Reserve}
	if row.Known {
		out.Home = pack.Farthest(out.Lifter, out.Filling, out.Trip)
	}
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

// MetresWords says a distance, rounded down: to a whole metre where it is short, or a small craft could go nowhere.
func MetresWords(m float64) string {
	switch {
	case m >= 2000:
		return fmt.Sprintf("%.1f km", math.Floor(m/100)/10)
	case m < 30:
		return fmt.Sprintf("%.0f m", math.Floor(m))
	}
	return fmt.Sprintf("%.0f m", math.Floor(m/10)*10)
}
