package demo

import (
	"context"
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"time"

	"github.com/google/uuid"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/pack"
	"maestrale/core/track"
	"maestrale/internal/store"
)

// packsOf is how many packs the sample school has for each type: twenty-two.
var packsOf = []struct {
	craftType, letter string
	count             int
}{{"rondine", "R", 4}, {"gheppio", "G", 6}, {"poiana", "P", 9}, {"airone", "A", 3}}

// The sites of the sample school lie in the open sea: no place is meant.
var sites = []store.Site{
	{Name: "Hardstanding", Geo: field.Geo{LatDeg: 44.95, LonDeg: 13.05, AltM: 2},
		Notes: msgConcreteOldSalt},
	{Name: "Dune edge", Geo: field.Geo{LatDeg: 44.97, LonDeg: 13.09, AltM: 4},
		Notes: msgShortGrassBehind},
}

// prepare gives the sample school its packs, logs, shelf, sites and courses.
type prepare struct {
	tx   store.Tx
	cat  *drill.Catalogue
	by   []uuid.UUID
	days []time.Time
	now  time.Time
	r    *rand.Rand
}

func (p prepare) load(ctx context.Context, fleet []store.Craft) error {
	if err := p.packs(ctx); err != nil {
		return err
	}
	for i, c := range fleet {
		if err := p.craft(ctx, i, c); err != nil {
			return err
		}
	}
	for _, key := range p.cat.Craft.Keys() {
		for i, part := range p.cat.Craft[key].Parts {
			if n := []int{14, 4, 4, 3}[i%4]; part.PerCrash > 0 {
				if err := p.tx.MoveShelf(ctx, store.NewID(), p.by[0], key, part.Key, n, "counted"); err != nil {
					return err
				}
			}
		}
	}
	return p.ground(ctx)
}

// packs makes the packs with four weeks of charges and flights. What sets some of
// them apart: one is puffed, one unbalanced, one tired, one was left full.
func (p prepare) packs(ctx context.Context) error {
	for _, kind := range packsOf {
		t := p.cat.Craft[kind.craftType]
		l, err := pack.NewLifter(t, 1.21)
		if err != nil {
			return err
		}
		for i := range kind.count {
			k := store.Pack{ID: store.NewID(), Record: pack.Record{Name: fmt.Sprintf("%s%d", kind.letter, i+1), Type: t.Key,
				Chemistry: t.Battery.Chemistry, Cells: t.Battery.Cells,
				CapacityMah: t.Battery.CapacityMah, MassKg: t.Battery.MassKg, BoughtOn: p.days[0].AddDate(0, -3-p.r.IntN(10), 0)}}
			if err := p.tx.AddPack(ctx, k); err != nil {
				return err
			}
			odd := ""
			switch k.Name {
			case "G5":
				odd = "puffed"
			case "P4":
				odd = "unbalanced"
			case "P8":
				odd = "tired"
			case "A3":
				odd = "left full"
			}
			for _, e := range p.packLog(k.Record, t, l, odd) {
				if err := p.tx.AddPackEvent(ctx, store.NewID(), k.ID, p.by[p.r.IntN(len(p.by))], e); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

func (p prepare) packLog(r pack.Record, t craft.Type, l pack.Lifter, odd string) []pack.Event {
	cells := func(mean, spread float64) []float64 {
		out := make([]float64, r.Cells)
		for i := range out {
			out[i] = mean + spread*(p.r.Float64()-0.5)
		}
		return out
	}
	ohms := func(grown float64) []float64 { return cells(t.Battery.OhmPerCell*grown, t.Battery.OhmPerCell*0.1) }
	log := []pack.Event{{At: p.days[0].AddDate(0, -1, 0), Kind: pack.Ohms, Ohms: ohms(1)}}
	full := pack.FullVolts(r.Chemistry)
	// What was taken out is put back; the first charge is from storage.
	out := (1 - pack.Storage) * r.CapacityMah
	charged := func(at time.Time) pack.Event {
		e := pack.Event{At: at, Kind: pack.Charged, Mah: math.Floor(out)}
		f := pack.Filling{Chemistry: r.Chemistry, Cells: r.Cells, CapacityMah: r.CapacityMah,
			OhmPerCell: t.Battery.OhmPerCell, Charge: 1 - out/r.CapacityMah}
		if c, err := pack.ChargeTime(f, 1, math.Max(1, t.Battery.MaxChargeC)); err == nil {
			e.Minutes = math.Ceil(c.Minutes)
		}
		return e
	}
	hover := l.Hover() * (1 + 0.06*p.r.NormFloat64())
	for d, day := range p.days {
		if d%2 != len(r.Name)%2 && p.r.Float64() < 0.5 || odd == "left full" && d > 8 {
			continue
		}
		begin := day.Add(time.Duration(10+p.r.IntN(120)) * time.Minute)
		minutes := 0.75 * pack.Filling{Chemistry: r.Chemistry, Cells: r.Cells, CapacityMah: r.CapacityMah,
			OhmPerCell: t.Battery.OhmPerCell, Charge: 1}.Seconds(hover, pack.Reserve) / 60
		minutes *= 0.9 + 0.2*p.r.Float64()
		volts := float64(r.Cells) * (pack.RestVolts(r.Chemistry, 0.6) - 0.08)
		used := hover * minutes / 60 / volts * 1000
		flight := pack.Event{At: begin, Kind: pack.Used, Minutes: float64(int(minutes + 0.5)), Mah: float64(int(used))}
		if d == 3 {
			flight.Hover, flight.Volts = true, []float64{volts}
		}
		log = append(log, charged(begin.Add(-90*time.Minute)), flight)
		out = flight.Mah
	}
	last := p.days[len(p.days)-1].Add(9 * time.Hour)
	switch odd {
	case "puffed":
		return append(log, pack.Event{At: last, Kind: pack.Damaged, Puffed: true,
			Says: msgSwollenAfterLast})
	case "unbalanced":
		v := cells(full-0.02, 0.01)
		v[1] -= 0.09
		return append(log, charged(last), pack.Event{At: last.Add(2 * time.Hour), Kind: pack.Rested, Volts: v})
	case "tired":
		log = append(log, pack.Event{At: last, Kind: pack.Ohms, Ohms: ohms(1.75)})
	case "left full":
		return append(log, charged(p.days[8].Add(9*time.Hour)))
	}
	if p.r.Float64() < 0.7 {
		log = append(log, charged(last))
	}
	return log
}

// craft makes a craft's log: its firmware, propellers and calibrations, and for
// the hobby craft what beginners do to them.
func (p prepare) craft(ctx context.Context, i int, c store.Craft) error {
	t := p.cat.Craft[c.Type]
	begin := p.days[0].AddDate(0, 0, -20)
	log := []craft.Event{
		{At: begin, Kind: craft.Firmware, Version: map[string]string{"rondine": "1.2", "gheppio": "4.4", "poiana": "07.11",
			"airone": "3.0"}[c.Type]},
		{At: begin.Add(time.Hour), Kind: craft.Proving, Passed: true, DriftM: 0.3, HoverPc: float64(42 + i)},
		{At: begin.Add(2 * time.Hour), Kind: craft.Propellers, Mounts: t.RightMounts()},
	}
	if t.Has(craft.PositionHold) {
		log = append(log, craft.Event{At: begin, Kind: craft.Inertial})
		where := sites[0].Geo
		for d := 0; d < len(p.days); d += 4 {
			log = append(log, craft.Event{At: p.days[d].Add(-20 * time.Minute), Kind: craft.Compass,
				Method: msgTurnCraft, Clean: true, Site: sites[0].Name, Where: &where})
		}
	}
	crash := func(day int, cause string, damage bool, parts map[string]int, says string) {
		at := p.days[day].Add(95 * time.Minute)
		log = append(log, craft.Event{At: at, Kind: craft.Incident, Cause: cause, Crash: true, Damage: damage, Parts: parts,
			Says: says})
		if damage {
			log = append(log, craft.Event{At: at.Add(3 * time.Hour), Kind: craft.Repair, Says: msgMendedBench},
				craft.Event{At: p.days[day].Add(24*time.Hour - 10*time.Minute), Kind: craft.Proving, Passed: true, DriftM: 0.4,
					HoverPc: float64(43 + i)})
		}
	}
	switch c.Name {
	case "gheppio-1":
		crash(1, "orientation lost", true, map[string]int{"propeller": 2, "arm": 1}, msgNosePushedWrong)
		crash(4, "landing", false, map[string]int{"propeller": 1}, msgTippedOverGrass)
		crash(8, "height lost", false, map[string]int{"propeller": 2}, msgCutThrottleTwo)
	case "gheppio-2":
		crash(3, "orientation lost", false, map[string]int{"propeller": 2}, msgDriftedOffSide)
		at := p.days[len(p.days)-1].Add(2 * time.Hour)
		log = append(log, craft.Event{At: at, Kind: craft.Incident, Cause: msgWindOrGust, Crash: true, Damage: true,
			Parts: map[string]int{"propeller": 3, "motor": 1}, Says: msgCaughtGustOver},
			craft.Event{At: at.Add(5 * time.Hour), Kind: craft.Repair, Parts: map[string]int{"motor": 1},
				Says: msgMotorAllPropellers})
	case "rondine-2":
		crash(6, msgTooFastStop, false, map[string]int{"propeller": 1}, msgIntoPumpHouse)
	case "poiana-2":
		crash(7, "landing", false, map[string]int{"propeller-ccw": 1}, msgOneLegKerb)
	}
	for _, e := range log {
		if err := p.tx.AddCraftEvent(ctx, store.NewID(), c.ID, p.by[p.r.IntN(len(p.by))], e); err != nil {
			return err
		}
	}
	return nil
}

// ground makes the sites and their courses.
func (p prepare) ground(ctx context.Context) error {
	at := func(x, y float64) field.Point { return field.Point{X: x, Y: y} }
	hazards := []course.Hazard{
		{Kind: "wire", Name: msgLowWire, At: []field.Point{at(13, -10), at(19, 34)}, HeightM: 6},
		{Kind: "wall", Name: msgPumpHouse, At: []field.Point{at(-24, 22), at(-17, 24), at(-18, 29), at(-25, 27)},
			Closed: true, HeightM: 4},
		{Kind: "tree", Name: "the tamarisks", At: []field.Point{at(-40, 58), at(-12, 64), at(22, 62)}, HeightM: 7},
		{Kind: "water", Name: "the lagoon", At: []field.Point{at(-60, 74), at(60, 70), at(60, 110), at(-60, 110)},
			Closed: true},
		{Kind: "post", Name: "the flag", At: []field.Point{at(-11, -4)}, HeightM: 5},
	}
	var today uuid.UUID
	for i, s := range sites {
		s.ID = store.NewID()
		if err := p.tx.KeepSite(ctx, s); err != nil {
			return err
		}
		for _, k := range []struct{ name, template string }{{"Five markers", "five-markers"}, {"Box", "box"},
			{"Landing pads", "pads"}} {
			if i > 0 && k.template != "box" {
				continue
			}
			laid, _ := course.Lay(k.template, craft.Light)
			plane, err := field.NewPlane(s.Geo, 135)
			if err != nil {
				return err
			}
			laid.Plane, laid.Name, laid.Surface = plane, k.name, "hardstanding"
			laid.Crowd = [][]field.Point{{at(-18, -7), at(9, -7)}}
			if i == 0 {
				laid.Hazards = hazards
			} else {
				laid.Surface = "short grass"
				laid.Hazards = []course.Hazard{{Kind: "people", Name: msgDunePath, At: []field.Point{at(-30, -12),
					at(30, -16)}}}
			}
			source, err := laid.YAML()
			if err != nil {
				return err
			}
			id := store.NewID()
			if err := p.tx.AddCourse(ctx, id, s.ID, k.name); err != nil {
				return err
			}
			if err := p.tx.Draw(ctx, id, p.by[0], 0, p.days[0], fmt.Sprintf(msgLaidFromTemplate, k.template),
				string(source)); err != nil {
				return err
			}
			if today == uuid.Nil {
				today = id
			}
		}
	}
	away := 135.0
	return p.tx.KeepSettings(ctx, store.Settings{CompassKind: "when-moved", CompassKm: 50, CompassDays: 30,
		CourseID: &today, AwayDeg: &away, SessionFrom: "08:30", SessionTo: "12:30", MeterZeroDeg: 0})
}

// Listen points the sample school at a wind meter.
func Listen(ctx context.Context, s *store.Store, addr string) error {
	return setSample(ctx, s, func(set *store.Settings) { set.MeterAddr = addr })
}

// ListenToChargers points the sample school at its chargers.
func ListenToChargers(ctx context.Context, s *store.Store, addr string) error {
	return setSample(ctx, s, func(set *store.Settings) { set.ChargerAddr = addr })
}

// setSample changes the settings of the sample school, where it is there.
func setSample(ctx context.Context, s *store.Store, change func(*store.Settings)) error {
	c, err := s.ByEmail(ctx, staff[0].Email)
	if errors.Is(err, store.ErrNotFound) {
		return nil // somebody else's schools
	}
	if err != nil {
		return err
	}
	return s.InSchool(ctx, c.SchoolID, func(tx store.Tx) error {
		set, err := tx.Settings(ctx)
		if err != nil {
			return err
		}
		change(&set)
		return tx.KeepSettings(ctx, set)
	})
}

// Follow points the sample school at a craft's position stream, and returns what the craft
// flies there: the example's hover, over the centre of the day's course. It is nil where
// that school, or its course on the earth, is not there.
func Follow(ctx context.Context, s *store.Store, cat *drill.Catalogue, addr string) (flown *track.Track,
	plane *field.Plane, err error) {
	c, err := s.ByEmail(ctx, staff[0].Email)
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil, nil // somebody else's schools
	}
	if err != nil {
		return nil, nil, err
	}
	err = s.InSchool(ctx, c.SchoolID, func(tx store.Tx) error {
		set, err := tx.Settings(ctx)
		if err != nil || set.CourseID == nil {
			return err
		}
		k, err := tx.Course(ctx, *set.CourseID)
		if err != nil {
			return err
		}
		laid, err := course.Parse([]byte(k.Source))
		if err != nil || laid.Plane == nil {
			return err
		}
		if flown, err = Example(cat); err != nil {
			return err
		}
		own, _ := course.Lay("box", craft.Light)
		by := laid.Markers["centre"].Sub(own.Markers["centre"])
		for i := range flown.T {
			flown.X[i], flown.Y[i] = flown.X[i]+by.X, flown.Y[i]+by.Y
		}
		plane, set.PositionAddr = laid.Plane, addr
		return tx.KeepSettings(ctx, set)
	})
	return flown, plane, err
}
