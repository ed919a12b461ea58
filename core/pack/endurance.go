package pack

import (
	"fmt"
	"math"

	"maestrale/core/air"
	"maestrale/core/craft"
	"maestrale/core/field"
)

// Filling is a pack as it is before a flight.
type Filling struct {
	Chemistry   craft.Chemistry
	Cells       int
	CapacityMah float64 // what it truly holds
	OhmPerCell  float64
	Charge      float64 // 0 to 1
}

// NewFilling takes a type's pack that has rested at the given volts; volts 0 is
// a full one.
func NewFilling(b craft.Battery, volts float64) (Filling, error) {
	f := Filling{b.Chemistry, b.Cells, b.CapacityMah, b.OhmPerCell, 1}
	if volts == 0 {
		return f, nil
	}
	if err := CheckVolts(b.Chemistry, b.Cells, volts); err != nil {
		return f, err
	}
	f.Charge = Charge(b.Chemistry, volts/float64(b.Cells))
	return f, nil
}

// RestVolts is what the pack rests at.
func (f Filling) RestVolts() float64 {
	return float64(f.Cells) * RestVolts(f.Chemistry, f.Charge)
}

// ohm is the resistance of the whole pack.
func (f Filling) ohm() float64 { return float64(f.Cells) * f.OhmPerCell }

// Loaded returns the volts and the current in A while the pack gives a power in
// W: P = V I with V = E − I R, the smaller of the two currents. More than E²/4R no
// pack can give; ok is false.
func (f Filling) Loaded(watts float64) (volts, amps float64, ok bool) {
	e, r := f.RestVolts(), f.ohm()
	// Without a resistance the volts do not sag.
	if r == 0 {
		return e, watts / e, true
	}
	// The two currents solve R I² − E I + P = 0.
	root := e*e - 4*r*watts
	if root < 0 {
		return e / 2, e / (2 * r), false
	}
	amps = (e - math.Sqrt(root)) / (2 * r)
	return e - amps*r, amps, true
}

// ReturnM is the return height reckoned with where no course says one, in metres.
const ReturnM = 20.0

// Reserve is the share of the capacity that is left at the landing.
const Reserve = 0.20

// LandVolts is the volts of a cell, under the load of a hover, at which to
// land: what a cell rests at with the reserve left, less the sag; never under
// what harms the cell.
func LandVolts(f Filling, hoverW, reserve float64) (volts float64, restsAt float64) {
	// What the pack would be at the landing.
	f.Charge = reserve
	v, _, _ := f.Loaded(hoverW)
	each := v / float64(f.Cells)
	if least := EmptyVolts(f.Chemistry); each < least {
		// Land while the loaded cell still stands above what harms it.
		for ; f.Charge < 1 && each < least; f.Charge += 0.005 {
			v, _, _ = f.Loaded(hoverW)
			each = v / float64(f.Cells)
		}
	}
	return each, RestVolts(f.Chemistry, f.Charge)
}

// Seconds is how long the pack gives a power until the reserve is left, or a
// loaded cell falls to what harms it: the charge is taken out in steps of a
// thousandth at the current that the sagging volts ask for. 0 where it cannot.
func (f Filling) Seconds(watts, reserve float64) float64 {
	const step = 0.001
	least := EmptyVolts(f.Chemistry) * float64(f.Cells)
	// An mAh is 3.6 coulombs.
	coulombs := f.CapacityMah * 3.6
	sum := 0.0
	for f.Charge-reserve > 1e-9 {
		v, amps, ok := f.Loaded(watts)
		// The pack cannot give so much any more, or would be harmed.
		if !ok || v < least {
			break
		}
		d := math.Min(step, f.Charge-reserve)
		sum += d * coulombs / amps
		f.Charge -= d
	}
	return sum
}

// Joules is the energy that the pack still gives at about a power, above the
// reserve.
func (f Filling) Joules(watts, reserve float64) float64 { return f.Seconds(watts, reserve) * watts }

// Trip is a way home and what it has to hold against.
type Trip struct {
	// HeightM is the height that the craft is at.
	HeightM float64
	// ReturnM is the return height over the pad; the craft climbs to it first.
	ReturnM float64
	WindMps float64
	// From is the field heading from which the wind blows.
	From field.Angle
	// SpeedMps is the fastest air speed that is used.
	SpeedMps   float64
	ClimbMps   float64
	DescendMps float64
	// Reserve is the share of the capacity that is left after the landing.
	Reserve float64
}

// landing is the time in s for the last metres and what goes wrong in them.
const landing = 15.0

// Home is how far away the craft may be and still get home.
type Home struct {
	// WorstM is how far it may be in the worst direction, and Toward the
	// bearing of that from the pad.
	WorstM float64
	Toward field.Angle // bearing of that direction from the pad
	// Ring is the same by bearing from the pad, every ten degrees; 0 where the
	// craft does not come forward.
	Ring [36]float64
	// AirMps is the air speed that is best in the worst direction.
	AirMps float64
	ClimbJ float64
	LandJ  float64
	// HaveJ is the energy above the reserve, of which ClimbJ and LandJ are
	// taken first.
	HaveJ float64
	// CanFight is whether the craft is faster than the wind.
	CanFight bool
}

// Farthest returns the farthest distance from the pad from which the craft gets
// home: what the pack holds above the reserve, less the climb to the return
// height, the way down and the landing, over what a metre costs. Against a wind
// the air speed is chosen that costs least over the ground; a cross wind is met
// by pointing into it, so that along the way v_g = √(v² − w_x²) − w_h remains.
func Farthest(l Lifter, f Filling, t Trip) Home {
	hover := l.Hover()
	out := Home{HaveJ: f.Joules(hover, t.Reserve), CanFight: t.SpeedMps > t.WindMps}
	if up := t.ReturnM - t.HeightM; up > 0 && t.ClimbMps > 0 {
		out.ClimbJ = up / t.ClimbMps * l.Climb(t.ClimbMps)
	}
	high := math.Max(t.ReturnM, t.HeightM)
	if t.DescendMps > 0 {
		out.LandJ = (high/t.DescendMps + landing) * hover
	}
	left := math.Max(0, out.HaveJ-out.ClimbJ-out.LandJ)
	out.WorstM = math.Inf(1)
	for i := range out.Ring {
		bearing := field.Degrees(float64(10 * i))
		// Home lies the other way; the wind from there is a head wind.
		head := t.WindMps * math.Cos(float64(t.From-(bearing+math.Pi)))
		cross := t.WindMps * math.Sin(float64(t.From-(bearing+math.Pi)))
		perM, v := l.cheapest(head, cross, t.SpeedMps)
		if perM > 0 {
			out.Ring[i] = left / perM
		}
		if out.Ring[i] < out.WorstM {
			out.WorstM, out.Toward, out.AirMps = out.Ring[i], bearing, v
		}
	}
	return out
}

// cheapest is the least energy in J for a metre over the ground and the air
// speed it is reached at; 0 where the craft does not come forward.
func (l Lifter) cheapest(head, cross, fastest float64) (perM, speed float64) {
	for v := 0.5; v <= fastest+1e-9; v += 0.5 {
		// Slower than the wind across, the craft is blown off its line.
		if v <= math.Abs(cross) {
			continue
		}
		// What is left of the air speed along the line, less the wind against
		// it.
		ground := math.Sqrt(v*v-cross*cross) - head
		// Under that it hardly comes home at all.
		if ground < 0.3 {
			continue
		}
		if j := l.Level(v) / ground; perM == 0 || j < perM {
			perM, speed = j, v
		}
	}
	return perM, speed
}

// Packs says how many packs a lesson takes: minutes to fly over the minutes that
// one gives, and one more, since one of them will be found wanting.
func Packs(minutes, perPack float64) (int, error) {
	if !(perPack > 0) {
		return 0, fmt.Errorf("a pack gives no flying time above its reserve; expected a fuller pack or a lighter craft")
	}
	return int(math.Ceil(minutes/perPack-1e-9)) + 1, nil
}

// StandardDensity is the density at an elevation, at a temperature or, without
// one, at that of the standard atmosphere.
func StandardDensity(elevationM float64, tempC *float64) (float64, error) {
	t := air.StandardTempC(elevationM)
	if tempC != nil {
		t = *tempC
	}
	return air.Density(elevationM, t)
}
