// Package pack does the arithmetic of batteries: what is in a pack, what a
// hover takes out of it, how long and how far that lasts, and when a pack has
// to go.
package pack

import (
	"fmt"
	"math"

	"maestrale/core/craft"
	"maestrale/core/misread"
)

// point is a rest voltage of one cell at a state of charge.
type point struct{ charge, volts float64 }

// curves are the volts of one cell that has rested for an hour at 20 °C.
//
// LiPo: the table of rest volts that hobby chargers and packs are sold with; it
// lies within 0.1 V of the cell measured by Chen and Rincón-Mora, "Accurate
// electrical battery model capable of predicting runtime and I–V performance",
// IEEE Trans. Energy Conversion 21 (2006), eq. 2 (tested). LiHV: the same cell
// charged 0.15 V higher, which lifts the upper half. Li-ion: round nickel cells,
// whose volts fall more evenly and go on to 2.9 V; after the quasi-open-circuit
// curve of Plett, Battery Management Systems I, 2015, figure 2.1, read to 0.02 V.
// Cells differ by maker and age: what follows from a curve is good to some ±5 %
// of the capacity.
var curves = map[craft.Chemistry][]point{
	craft.LiPo: {{0, 3.27}, {0.05, 3.61}, {0.1, 3.69}, {0.2, 3.73}, {0.3, 3.77}, {0.4, 3.80}, {0.5, 3.84}, {0.6, 3.87},
		{0.7, 3.95}, {0.8, 4.02}, {0.9, 4.11}, {1, 4.20}},
	craft.LiHV: {{0, 3.27}, {0.05, 3.60}, {0.1, 3.68}, {0.2, 3.73}, {0.3, 3.78}, {0.4, 3.83}, {0.5, 3.89}, {0.6, 3.97},
		{0.7, 4.06}, {0.8, 4.15}, {0.9, 4.25}, {1, 4.35}},
	craft.LiIon: {{0, 2.90}, {0.05, 3.20}, {0.1, 3.34}, {0.2, 3.47}, {0.3, 3.56}, {0.4, 3.62}, {0.5, 3.69}, {0.6, 3.79},
		{0.7, 3.88}, {0.8, 3.97}, {0.9, 4.06}, {1, 4.19}},
}

// Spread of the cells of a pack at rest, in volts, that asks for a look and
// that is too much.
const (
	SpreadWatch = 0.02
	SpreadLimit = 0.05
)

// FullVolts is the volts of a full cell.
func FullVolts(c craft.Chemistry) float64 {
	return map[craft.Chemistry]float64{craft.LiPo: 4.20, craft.LiHV: 4.35, craft.LiIon: 4.20}[c]
}

// EmptyVolts is the least that a cell may be drawn down to under load without
// harm.
func EmptyVolts(c craft.Chemistry) float64 {
	return map[craft.Chemistry]float64{craft.LiPo: 3.3, craft.LiHV: 3.3, craft.LiIon: 2.8}[c]
}

// slack is how much over its full volts a cell can truly read: a meter's error.
const slack = 0.03

// RestVolts returns the volts of a rested cell at a state of charge of 0 to 1.
func RestVolts(c craft.Chemistry, charge float64) float64 {
	curve := curves[c]
	// Beyond its ends the curve is flat.
	charge = math.Min(1, math.Max(0, charge))
	for i := 1; i < len(curve); i++ {
		// Straight between the two points.
		if a, b := curve[i-1], curve[i]; charge <= b.charge {
			return a.volts + (b.volts-a.volts)*(charge-a.charge)/(b.charge-a.charge)
		}
	}
	return curve[len(curve)-1].volts
}

// Charge returns the state of charge, 0 to 1, of a cell that has rested at the
// given volts.
func Charge(c craft.Chemistry, volts float64) float64 {
	curve := curves[c]
	if volts <= curve[0].volts {
		return 0
	}
	for i := 1; i < len(curve); i++ {
		if a, b := curve[i-1], curve[i]; volts <= b.volts {
			return a.charge + (b.charge-a.charge)*(volts-a.volts)/(b.volts-a.volts)
		}
	}
	return 1
}

// CheckVolts refuses volts that a pack of so many cells cannot have.
func CheckVolts(c craft.Chemistry, cells int, volts float64) error {
	if curves[c] == nil {
		return misread.At(0, "lipo, lihv or li-ion", "chemistry %q", string(c))
	}
	if cells < 1 || cells > 24 {
		return misread.At(0, "1 to 24", "%d cells", cells)
	}
	// No cell holds more, so the number of cells was probably wrong.
	most := float64(cells) * (FullVolts(c) + slack)
	if math.IsNaN(volts) || volts < 0 || volts > most {
		each := volts / float64(cells)
		e := misread.At(0, fmt.Sprintf("0 to %.1f V", most),
			"%.2f V on %d cells is %.2f V a cell, and a %s cell holds %.2f V", volts, cells, each, c.Words(), FullVolts(c))
		// Say for how many cells it would be right.
		if n := int(math.Ceil(volts / (FullVolts(c) + slack))); volts > most && n <= 24 {
			e.Expected += fmt.Sprintf(msgOrMoreCells, n)
		}
		return e
	}
	return nil
}

// CheckCells refuses volts of single cells that cannot be, and returns their
// mean and spread.
func CheckCells(c craft.Chemistry, volts []float64) (mean, spread float64, err error) {
	if len(volts) == 0 {
		return 0, 0, misread.At(0, "the volts of each cell", "no cell is given")
	}
	low, high := math.Inf(1), math.Inf(-1)
	for i, v := range volts {
		if err := CheckVolts(c, 1, 0); err != nil {
			return 0, 0, err // of the chemistry
		}
		if most := FullVolts(c) + slack; !(v >= 0 && v <= most) {
			return 0, 0, misread.At(0, fmt.Sprintf("0 to %.2f V", most), "cell %d at %.2f V, and a %s cell holds %.2f V", i+1, v,
				c.Words(), FullVolts(c))
		}
		mean += v / float64(len(volts))
		low, high = math.Min(low, v), math.Max(high, v)
	}
	return mean, high - low, nil
}
