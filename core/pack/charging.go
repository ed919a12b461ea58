package pack

import (
	"fmt"
	"math"

	"maestrale/core/craft"
)

// Charging is how a pack is charged: constant current up to the full volts,
// then constant volts until the current has fallen to a twentieth of the
// capacity.
type Charging struct {
	// Minutes is the whole time, and DeliverWh the energy that the charger
	// gives, losses in the pack included.
	Minutes float64
	// AtFullV is the state of charge at which the full volts are reached; 1
	// where they never are before the end.
	AtFullV   float64
	DeliverWh float64
}

// ChargeTime returns how long a pack takes from its charge to the wanted one at
// a current in C (current over capacity). While the current is held the charge
// rises evenly; from where the resting volts and the drop over the resistance
// reach the full volts, the current is (V − E(s)) / R and dies away. Integrated in
// steps of a thousandth of the capacity.
func ChargeTime(f Filling, wanted, c float64) (Charging, error) {
	if !(c > 0 && c <= 10) {
		return Charging{}, fmt.Errorf("charging at %v C; expected over 0 and 10 at most", c)
	}
	if !(wanted > 0 && wanted <= 1) {
		return Charging{}, fmt.Errorf("charged to %v; expected a share from 0 to 1", wanted)
	}
	const step = 0.001
	out := Charging{AtFullV: 1}
	amps := c * f.CapacityMah / 1000
	// The current in A at which a pack counts as full.
	least := f.CapacityMah / 1000 / 20
	hours := 0.0
	// A pack that has the wanted charge takes no time.
	for ; wanted-f.Charge > 1e-9; f.Charge += step {
		e := RestVolts(f.Chemistry, f.Charge)
		i := amps
		if f.OhmPerCell > 0 {
			if room := (FullVolts(f.Chemistry) - e) / f.OhmPerCell; room < i {
				i = room
				out.AtFullV = math.Min(out.AtFullV, f.Charge)
			}
		}
		if i < least {
			break
		}
		d := math.Min(step, wanted-f.Charge)
		// Hours for this step: the charge in Ah over the current in A.
		h := d * f.CapacityMah / 1000 / i
		hours += h
		out.DeliverWh += h * i * float64(f.Cells) * (e + i*f.OhmPerCell)
	}
	out.Minutes = hours * 60
	return out, nil
}

// The heat of a pack: specific heat of lithium polymer cells in J/(kg K)
// (Maleki et al., J. Electrochem. Soc. 146 (1999), 0.9 to 1.1 kJ/(kg K)),
// density in kg/m³, and what still air takes from a surface in W/(m² K).
const (
	specificHeat = 1000.0
	cellDensity  = 2000.0
	stillAir     = 10.0
)

// CoolSeconds is the time constant with which a pack of a mass in kg cools in
// still air: its heat over what its surface gives away. The surface is that of
// a block of sides 1 : 2 : 4.
func CoolSeconds(massKg float64) float64 {
	// The block's volume is 1 · 2 · 4 = 8 of its shortest side cubed.
	side := math.Cbrt(massKg / cellDensity / 8)
	surface := 2 * side * side * (1*2 + 2*4 + 1*4)
	return massKg * specificHeat / (stillAir * surface)
}

// WarmC is how warm a pack is after a flight of so many seconds at a current:
// I² R heats it while the air cools it.
func WarmC(f Filling, massKg, ambientC, amps, seconds float64) float64 {
	tau := CoolSeconds(massKg)
	// What the resistance turns into heat.
	watts := amps * amps * f.ohm()
	return ambientC + watts*tau/(massKg*specificHeat)*(1-math.Exp(-seconds/tau))
}

// CoolMinutes is how long a pack cools from one temperature to another in air
// of a third, Newton's law: t = τ ln((T − A) / (T′ − A)). In air as warm as what is
// wanted it never does; that is an error.
func CoolMinutes(massKg, fromC, toC, ambientC float64) (float64, error) {
	// It is as cool as is wanted.
	if fromC <= toC {
		return 0, nil
	}
	if ambientC >= toC {
		return 0, fmt.Errorf("in air of %.0f °C a pack does not cool to %.0f °C; expected shade or cooler air", ambientC, toC)
	}
	return CoolSeconds(massKg) * math.Log((fromC-ambientC)/(toC-ambientC)) / 60, nil
}

// ChargeBelowC is the warmest that a pack is put on the charger.
const ChargeBelowC = 35.0

// Storage is the state of charge for a pack that waits for days.
const Storage = 0.5

// StorageVolts is what a cell rests at when stored.
func StorageVolts(c craft.Chemistry) float64 { return RestVolts(c, Storage) }
