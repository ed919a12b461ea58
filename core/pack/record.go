package pack

import (
	"fmt"
	"math"
	"slices"
	"time"

	"maestrale/core/craft"
	"maestrale/core/misread"
)

// Record is one pack of the school.
type Record struct {
	Name        string
	Type        string // craft type that it fits
	Chemistry   craft.Chemistry
	Cells       int
	CapacityMah float64
	MassKg      float64
	// BoughtOn is zero where it is not known.
	BoughtOn time.Time
}

// Check refuses a record that cannot be; a pack has the chemistry and the cells
// of the type that it fits, for a charger set to another is a fire.
func (r Record) Check(t craft.Type) error {
	switch {
	case r.Name == "":
		return misread.At(0, "the name on its label", "the pack has no name")
	case curves[r.Chemistry] == nil:
		return misread.At(0, "lipo, lihv or li-ion", "chemistry %q", string(r.Chemistry))
	// A type without a battery in its file takes any pack.
	case t.Battery.Cells > 0 && r.Chemistry != t.Battery.Chemistry:
		return misread.At(0, t.Battery.Chemistry.Words()+" as the type says; chemistries are never mixed",
			"pack %s is %s and %s flies on %s", r.Name, r.Chemistry.Words(), t.Title, t.Battery.Chemistry.Words())
	case t.Battery.Cells > 0 && r.Cells != t.Battery.Cells:
		return misread.At(0, fmt.Sprintf("%d cells in series", t.Battery.Cells), "pack %s has %d cells and %s takes %d",
			r.Name, r.Cells, t.Title, t.Battery.Cells)
	case !(r.CapacityMah >= 50 && r.CapacityMah <= 200_000):
		return misread.At(0, "50 to 200000 mAh", "pack %s holds %v mAh", r.Name, r.CapacityMah)
	}
	return nil
}

// EventKind is what happened to a pack.
type EventKind string

// The kinds. Nothing is ever taken out of a pack's log.
const (
	Rested  EventKind = "rest"   // volts of each cell after an hour of rest
	Load    EventKind = "load"   // volts under a current
	Ohms    EventKind = "ohms"   // internal resistance of each cell
	Charged EventKind = "charge" // full, or to Part
	Plugged EventKind = "plug"   // put on the charger that Says names
	Used    EventKind = "flight" // a flight
	Stored  EventKind = "store"  // brought to storage volts
	Damaged EventKind = "damage" // puffed, dented, leads
	Retired EventKind = "retire" // taken out for good
)

// EventKinds lists the kinds.
var EventKinds = []EventKind{Rested, Load, Ohms, Charged, Plugged, Used, Stored, Damaged, Retired}

// Event is one entry of a pack's log.
type Event struct {
	At   time.Time `json:"-"`
	By   string    `json:"-"`
	Kind EventKind `json:"-"`
	// Volts are those of each cell, and of the whole pack for Load.
	Volts   []float64 `json:"volts,omitempty"`
	Amps    float64   `json:"amps,omitempty"`
	Ohms    []float64 `json:"ohms,omitempty"`
	Mah     float64   `json:"mah,omitempty"` // charged or used
	Minutes float64   `json:"minutes,omitempty"`
	// Part is the share to which it was charged; 0 means full.
	Part   float64 `json:"part,omitempty"`
	Puffed bool    `json:"puffed,omitempty"`
	Says   string  `json:"says,omitempty"`
	// Hover is whether the flight was a measured hover.
	Hover bool `json:"hover,omitempty"`
}

// CheckEvent refuses an entry that cannot be.
func (r Record) CheckEvent(e Event) error {
	if !slices.Contains(EventKinds, e.Kind) {
		return misread.At(0, "rest, load, ohms, charge, plug, flight, store, damage or retire", "entry %q", string(e.Kind))
	}
	inRange := func(what string, v, most float64) error {
		if !(v >= 0 && v <= most) {
			return misread.At(0, fmt.Sprintf("0 to %v", most), "%s %v", what, v)
		}
		return nil
	}
	// A pack takes a little more than its label says, so mAh may go over the
	// capacity.
	for _, err := range []error{inRange("minutes", e.Minutes, 600), inRange("current in A", e.Amps, 1000),
		inRange("mAh", e.Mah, 1.3*r.CapacityMah), inRange("share", e.Part, 1)} {
		if err != nil {
			return err
		}
	}
	switch e.Kind {
	case Rested:
		if len(e.Volts) != r.Cells {
			return misread.At(0, fmt.Sprintf("the volts of %d cells", r.Cells), "%d volts", len(e.Volts))
		}
		_, _, err := CheckCells(r.Chemistry, e.Volts)
		return err
	case Load:
		if len(e.Volts) != 1 || e.Amps <= 0 {
			return misread.At(0, "the volts of the pack and the current in A", "%d volts at %v A", len(e.Volts), e.Amps)
		}
		return CheckVolts(r.Chemistry, r.Cells, e.Volts[0])
	case Ohms:
		if len(e.Ohms) != r.Cells {
			return misread.At(0, fmt.Sprintf("the resistance of %d cells", r.Cells), "%d resistances", len(e.Ohms))
		}
		for _, o := range e.Ohms {
			if !(o > 0 && o < 1) {
				return misread.At(0, "over 0 and under 1 ohm", "%v ohm in a cell", o)
			}
		}
	}
	return nil
}

// Fitness says whether a pack may be flown.
type Fitness string

// The fitnesses.
const (
	Fit Fitness = "fit"
	// Watch is fit, with something to keep an eye on; Retire is not to be flown
	// any more.
	Watch  Fitness = "watch"
	Retire Fitness = "retire"
)

// State is what a pack's log comes to.
type State struct {
	Fitness Fitness
	Why     []string
	// Charge is the best known, 0 to 1, and Known whether it rests on
	// something.
	Charge float64
	Known  bool
	// CellVolts are those of the newest rest, CellsAt its moment and Spread
	// their largest difference; none after a charge, which balances them.
	CellVolts []float64
	CellsAt   time.Time
	Spread    float64
	// Cycles are full charges that the pack has taken: what was charged over
	// its capacity.
	Cycles float64
	// Ohm is the resistance of the worst cell when it was measured last, 0 for
	// never; OhmNew when it was measured first.
	Ohm     float64
	OhmNew  float64
	Flights int
	Minutes float64
	// LastUse is the last flight, charge or storing; zero for none.
	LastUse time.Time
	Puffed  bool
	Retired bool
	// Sags are resistances of the whole pack in ohm, from the volts under load,
	// in order of time.
	Sags []float64
	// Hovers are the flights that were measured hovers.
	Hovers []Flown
	// OnCharger is the charger on which the pack is, empty for none, and Since
	// from when on.
	OnCharger string
	Since     time.Time
}

// The retire rules.
const (
	// Shares of the first resistance.
	OhmWatch  = 1.6
	OhmRetire = 2.0
	// A rested LiPo or LiHV cell under DeepVolts was drawn too deep, and a
	// Li-ion cell under DeepIon.
	DeepVolts = 3.0
	DeepIon   = 2.5
)

// CyclesUsual is after how many full charges a pack has usually lost a fifth of
// what it held.
func CyclesUsual(c craft.Chemistry) float64 {
	return map[craft.Chemistry]float64{craft.LiPo: 150, craft.LiHV: 150, craft.LiIon: 300}[c]
}

// fullFrom is the charge from which a pack counts as full for a flight.
const fullFrom = 0.9

// Full tells whether a pack is known to be full, and lies on no charger.
func (s *State) Full() bool { return s.Known && s.Charge >= fullFrom && s.OnCharger == "" }

// storeAfter is how long a full pack may wait before it is better stored.
const storeAfter = 5 * 24 * time.Hour

// StateOf reads a pack's log as of a moment.
func StateOf(r Record, log []Event, now time.Time) State {
	log = slices.Clone(log)
	slices.SortStableFunc(log, func(a, b Event) int { return a.At.Compare(b.At) })
	s := State{Fitness: Fit}
	var says string
	deep := DeepVolts
	if r.Chemistry == craft.LiIon {
		deep = DeepIon
	}
	for _, e := range log {
		s.take(r, e)
		if e.Kind == Damaged || e.Kind == Retired {
			says = e.Says
		}
	}
	// All reasons are told; the worst of them decides.
	worse := func(f Fitness, why string, args ...any) {
		if f == Retire || s.Fitness == Fit {
			s.Fitness = f
		}
		s.Why = append(s.Why, fmt.Sprintf(why, args...))
	}
	if s.Retired {
		worse(Retire, msgTakenOut, says)
	}
	if s.Puffed {
		worse(Retire, msgPuffed)
		// Damage without puffing is watched: a dent may be nothing.
	} else if says != "" && !s.Retired {
		worse(Watch, "damage noted: %s", says)
	}
	for i, v := range s.CellVolts {
		if v < deep {
			worse(Retire, msgCellTooLow, i+1, v, deep)
		}
	}
	switch {
	case s.Spread > SpreadLimit:
		worse(Watch, msgCellsTooFarApart, s.Spread)
	case s.Spread > SpreadWatch:
		worse(Watch, msgCellsApart, s.Spread)
	}
	switch grown := s.Ohm / s.OhmNew; {
	case s.OhmNew > 0 && grown >= OhmRetire:
		worse(Retire, msgResistanceRisen, grown)
	case s.OhmNew > 0 && grown >= OhmWatch:
		worse(Watch, msgResistanceRisen, grown)
	}
	switch usual := CyclesUsual(r.Chemistry); {
	case s.Cycles >= 1.5*usual:
		worse(Retire, msgManyCharges, s.Cycles, r.Chemistry.Words(), usual)
	case s.Cycles >= usual:
		worse(Watch, msgManyCharges, s.Cycles, r.Chemistry.Words(), usual)
	}
	// A full pack ages by lying.
	if s.Known && s.Charge > 0.8 && !s.LastUse.IsZero() && now.Sub(s.LastUse) > storeAfter {
		worse(Watch, msgFullForDays, now.Sub(s.LastUse).Hours()/24,
			StorageVolts(r.Chemistry))
	}
	return s
}

// take brings the state on by one event of the pack's log.
func (s *State) take(r Record, e Event) {
	switch e.Kind {
	case Plugged:
		s.OnCharger, s.Since = e.Says, e.At
	case Rested, Charged, Used, Stored, Damaged, Retired:
		s.OnCharger = ""
	}
	switch e.Kind {
	case Rested:
		mean, spread, err := CheckCells(r.Chemistry, e.Volts)
		if err != nil {
			return // an older entry that was let in by other rules
		}
		s.CellVolts, s.CellsAt, s.Spread = e.Volts, e.At, spread
		s.Charge, s.Known = Charge(r.Chemistry, mean), true
	case Load:
		// Without the charge nobody knows what it would rest at.
		if s.Known && e.Amps > 0 && len(e.Volts) == 1 {
			rest := float64(r.Cells) * RestVolts(r.Chemistry, s.Charge)
			if ohm := (rest - e.Volts[0]) / e.Amps; ohm > 0 {
				s.Sags = append(s.Sags, ohm)
			}
		}
	case Ohms:
		s.Ohm = slices.Max(e.Ohms)
		if s.OhmNew == 0 {
			s.OhmNew = s.Ohm
		}
	case Charged, Stored:
		part := 1.0
		if e.Kind == Stored {
			part = Storage
		} else if e.Part > 0 {
			part = e.Part
		}
		if e.Mah > 0 {
			s.Cycles += e.Mah / r.CapacityMah
		} else {
			// Without a figure, what was missing is taken to have been put in.
			s.Cycles += math.Max(0, part-s.Charge)
		}
		s.Charge, s.Known, s.LastUse = part, true, e.At
		s.CellVolts, s.Spread = nil, 0 // they were balanced since
	case Used:
		s.Flights++
		s.Minutes += e.Minutes
		s.LastUse = e.At
		if e.Mah > 0 {
			s.Charge = math.Max(0, s.Charge-e.Mah/r.CapacityMah)
		} else {
			s.Known = false
		}
		if e.Hover && len(e.Volts) == 1 {
			s.Hovers = append(s.Hovers, Flown{e.Mah, e.Volts[0], e.Minutes})
		}
	case Damaged:
		s.Puffed = s.Puffed || e.Puffed
	case Retired:
		s.Retired = true
	}
}

// OhmOf is the resistance of a cell that the arithmetic uses: measured, from the
// sag under load, or the type's when new.
func (s State) OhmOf(r Record, t craft.Type) (ohm float64, from string) {
	switch {
	case s.Ohm > 0:
		return s.Ohm, "measured"
	// The newest sag, shared among the cells.
	case len(s.Sags) > 0:
		return s.Sags[len(s.Sags)-1] / float64(r.Cells), msgOhmMeasured
	}
	return t.Battery.OhmPerCell, msgOhmOfType
}
