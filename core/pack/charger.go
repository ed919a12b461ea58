package pack

import (
	"encoding/json"
	"fmt"
	"math"
	"strings"
	"time"

	"maestrale/core/craft"
	"maestrale/core/jsondoc"
)

// ChargerFormat is what every line of a charger's stream says that it is: one
// JSON object a line, in both directions.
const ChargerFormat = "maestrale-charger/1"

// MaxTold is the longest line of that stream, in bytes.
const MaxTold = 512

// What a slot of a charger is doing.
const (
	SlotFree     = "free"
	SlotCharging = "charging"
	SlotFull     = "full"
	SlotFault    = "fault"
)

// Told is what a charger says of one of its slots.
type Told struct {
	Charger string
	Slot    int // from 1
	// State is free, charging, full or fault.
	State   string
	Pack    string // the label of the pack in it; empty where it is free
	Seconds float64
	// Volts are those of the whole pack, Amps what flows into it, and Mah what
	// was put in since.
	Volts  float64
	Amps   float64
	Mah    float64
	Charge float64 // state of charge as the charger reckons it, 0 to 1
	// Says is what is wrong, of a fault; empty otherwise.
	Says string
}

// toldLine is a line of maestrale-charger/1 as a charger sends it.
type toldLine struct {
	Format  string  `json:"format"`
	Charger string  `json:"charger"`
	Slot    int     `json:"slot"`
	State   string  `json:"state"`
	Pack    string  `json:"pack,omitempty"`
	Seconds float64 `json:"seconds,omitempty"`
	Volts   float64 `json:"volts,omitempty"`
	Amps    float64 `json:"amps,omitempty"`
	Mah     float64 `json:"mah,omitempty"`
	Charge  float64 `json:"charge,omitempty"`
	Says    string  `json:"says,omitempty"`
}

// Line writes it as a line of the stream, its end included.
func (t Told) Line() string {
	// A thousandth of a volt or an ampere is finer than any charger measures.
	round := func(v float64) float64 { return math.Round(v*1000) / 1000 }
	data, err := json.Marshal(toldLine{ChargerFormat, t.Charger, t.Slot, t.State, t.Pack, round(t.Seconds), round(t.Volts),
		round(t.Amps), round(t.Mah), round(t.Charge), t.Says})
	if err != nil {
		panic(err) // numbers that are no numbers are never told
	}
	return string(data) + "\n"
}

// ReadTold reads such a line.
func ReadTold(line string) (Told, error) {
	doc, o := jsondoc.Read(strings.NewReader(line), ChargerFormat)
	t := Told{Charger: o.Text("charger"), Slot: o.Int("slot", 1, 64), State: o.Text("state"), Pack: o.TextOr("pack", ""),
		Seconds: o.NumberOr("seconds", 0, 7*86400, 0), Volts: o.NumberOr("volts", 0, 200, 0),
		Amps: o.NumberOr("amps", 0, 1000, 0), Mah: o.NumberOr("mah", 0, 1e6, 0), Charge: o.NumberOr("charge", 0, 1,
			0), Says: o.TextOr("says", "")}
	switch t.State {
	// A label that is still told of an empty slot is old.
	case SlotFree:
		t.Pack = ""
	case SlotCharging, SlotFull, SlotFault:
		if t.Pack == "" {
			doc.Fail("pack", msgWantPackLabel, msgNoPackInSlot, t.State)
		}
	default:
		doc.Fail("state", msgWantSlotState, "is %.20q", t.State)
	}
	// A charger is a machine, and its words are shown to people.
	if len(t.Charger) > 60 || len(t.Pack) > 60 || len(t.Says) > 120 {
		doc.Fail("", msgWantShortName, msgNameTooLong, max(len(t.Charger), len(t.Pack), len(t.Says)))
	}
	if err := doc.Err(); err != nil {
		return Told{}, err
	}
	return t, nil
}

// Follows is what a pack's log has to be told, of what a charger said of it at
// a moment: that it was put on, or that it is full. of is the pack's state and
// newest the time of the newest entry in its log. What the log says after the
// pack was put on stands: it was taken off since, and gone is true.
func (t Told) Follows(of *State, newest, now time.Time) (e Event, note, gone bool) {
	if t.Pack == "" || t.State == SlotFree {
		return Event{}, false, false
	}
	// The charger counts seconds, since its clock need not be right.
	since := now.Add(-time.Duration(t.Seconds * float64(time.Second)))
	switch {
	// The log has it on this charger: only a change is told.
	case of.OnCharger == t.Charger && t.State == SlotFull:
		return Event{At: now, Kind: Charged, Mah: t.Mah, Says: t.Charger}, true, false
	case of.OnCharger == t.Charger && t.State == SlotFault:
		return Event{At: now, Kind: Damaged, Says: fmt.Sprintf(msgChargerStopped, orWords(t.Says, msgNoReasonTold))}, true,
			false
	// It charges on; that is known.
	case of.OnCharger == t.Charger:
		return Event{}, false, false
	// Nothing newer is in the log, so the pack was put on without a word.
	case t.State == SlotCharging && since.After(newest):
		return Event{At: since, Kind: Plugged, Says: t.Charger}, true, false
	}
	return Event{}, false, t.State == SlotCharging || t.State == SlotFull && !of.Full()
}

// orWords is a, or b where a is empty.
func orWords(a, b string) string {
	if a != "" {
		return a
	}
	return b
}

// Order is what is said to a charger: that a pack was put in, so that it need
// not guess which, or that it was taken out. A charger that reads its packs'
// labels itself takes no notice.
type Order struct {
	// Do is put or take.
	Do      string
	Charger string
	Pack    string
	Filling Filling // of put
}

// orderLine is a line that a charger is sent.
type orderLine struct {
	Format      string          `json:"format"`
	Do          string          `json:"do"`
	Charger     string          `json:"charger"`
	Pack        string          `json:"pack"`
	Chemistry   craft.Chemistry `json:"chemistry,omitempty"`
	Cells       int             `json:"cells,omitempty"`
	CapacityMah float64         `json:"capacity_mah,omitempty"`
	OhmPerCell  float64         `json:"ohm_per_cell,omitempty"`
	Charge      float64         `json:"charge"`
}

// Line writes it as a line of the stream, its end included.
func (o Order) Line() string {
	f := o.Filling
	data, err := json.Marshal(orderLine{ChargerFormat, o.Do, o.Charger, o.Pack, f.Chemistry, f.Cells, f.CapacityMah,
		f.OhmPerCell, f.Charge})
	if err != nil {
		panic(err) // the numbers of a pack
	}
	return string(data) + "\n"
}

// ReadOrder reads such a line.
func ReadOrder(line string) (Order, error) {
	doc, o := jsondoc.Read(strings.NewReader(line), ChargerFormat)
	r := Order{Do: o.Text("do"), Charger: o.Text("charger"), Pack: o.Text("pack")}
	switch r.Do {
	case "put":
		r.Filling = Filling{Chemistry: craft.Chemistry(o.Text("chemistry")), Cells: o.Int("cells", 1, 24),
			CapacityMah: o.Number("capacity_mah", 50, 200_000), OhmPerCell: o.NumberOr("ohm_per_cell", 0, 1,
				0), Charge: o.Number("charge", 0, 1)}
		// Charged by another curve, a pack burns, so an unknown one is refused.
		if curves[r.Filling.Chemistry] == nil {
			doc.Fail("chemistry", msgWantChemistry, "is %.20q", string(r.Filling.Chemistry))
		}
	case "take":
	default:
		doc.Fail("do", msgWantPutOrTake, "is %.20q", r.Do)
	}
	if err := doc.Err(); err != nil {
		return Order{}, err
	}
	return r, nil
}

// Slots is a charger that charges as ChargeTime reckons, slot by slot.
type Slots struct {
	Name string
	// Rate is the current over the capacity, in C.
	Rate float64
	in   []slotIn
}

// slotIn is what a slot did when it was last heard.
type slotIn struct {
	pack    string
	filling Filling
	amps    float64
	mah     float64
	seconds float64
	full    bool
}

// NewSlots is a charger with so many empty slots.
func NewSlots(name string, slots int, rate float64) *Slots {
	return &Slots{Name: name, Rate: rate, in: make([]slotIn, slots)}
}

// Put puts a pack in the first free slot.
func (s *Slots) Put(pack string, f Filling) error {
	free := -1
	for i := range s.in {
		// A pack cannot be in two places.
		if s.in[i].pack == pack {
			return fmt.Errorf("%s is in slot %d of %s already", pack, i+1, s.Name)
		}
		if s.in[i].pack == "" && free < 0 {
			free = i
		}
	}
	if free < 0 {
		return fmt.Errorf("every slot of %s is taken", s.Name)
	}
	s.in[free] = slotIn{pack: pack, filling: f}
	return nil
}

// Take takes a pack out; it is false where it is in none of the slots.
func (s *Slots) Take(pack string) bool {
	for i := range s.in {
		if pack != "" && s.in[i].pack == pack {
			s.in[i] = slotIn{}
			return true
		}
	}
	return false
}

// Step charges on for a while.
func (s *Slots) Step(d time.Duration) {
	for i := range s.in {
		k := &s.in[i]
		if k.pack == "" {
			continue
		}
		// The time counts on when it is full, as it still stands there.
		k.seconds += d.Seconds()
		for left := d.Seconds(); left > 0 && !k.full; left -= 1 {
			// In steps of a second, over which the current hardly changes.
			hours := min(left, 1) / 3600
			e := RestVolts(k.filling.Chemistry, k.filling.Charge)
			k.amps = s.Rate * k.filling.CapacityMah / 1000
			if k.filling.OhmPerCell > 0 {
				k.amps = min(k.amps, (FullVolts(k.filling.Chemistry)-e)/k.filling.OhmPerCell)
			}
			// Full is where the current has fallen to a twentieth of the
			// capacity, as in ChargeTime.
			if k.amps < k.filling.CapacityMah/1000/20 || k.filling.Charge >= 1 {
				k.full, k.amps = true, 0
				break
			}
			// No more than still fits.
			put := min(k.amps*1000*hours, (1-k.filling.Charge)*k.filling.CapacityMah)
			k.mah += put
			k.filling.Charge += put / k.filling.CapacityMah
		}
	}
}

// Tell is what the charger says of its slots.
func (s *Slots) Tell() []Told {
	out := make([]Told, len(s.in))
	for i, k := range s.in {
		out[i] = Told{Charger: s.Name, Slot: i + 1, State: SlotFree}
		if k.pack == "" {
			continue
		}
		t := &out[i]
		t.State, t.Pack, t.Seconds, t.Amps, t.Mah, t.Charge = SlotCharging, k.pack, k.seconds, k.amps, k.mah, min(1,
			k.filling.Charge)
		if k.full {
			t.State, t.Charge = SlotFull, 1
		}
		t.Volts = float64(k.filling.Cells) * min(FullVolts(k.filling.Chemistry), RestVolts(k.filling.Chemistry,
			k.filling.Charge)+k.amps*k.filling.OhmPerCell)
	}
	return out
}
