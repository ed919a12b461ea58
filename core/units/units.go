// Package units reads and says lengths and speeds in the unit that a person
// chose. Everything else in Maestrale counts in metres and metres per second.
package units

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
)

// Unit is how a length or a speed is written. It is its own symbol.
type Unit string

// The units of length and of speed.
const (
	Metre         Unit = "m"
	Foot          Unit = "ft"
	MetrePerSec   Unit = "m/s"
	KilometrePerH Unit = "km/h"
	Knot          Unit = "kn"
	MilePerHour   Unit = "mph"
)

// Kind is what is measured.
type Kind string

// The kinds that are measured in a unit of choice.
const (
	Length Kind = "length"
	Speed  Kind = "speed"
)

// Of lists the units of a kind, the SI unit first.
func Of(k Kind) []Unit {
	if k == Length {
		return []Unit{Metre, Foot}
	}
	return []Unit{MetrePerSec, KilometrePerH, Knot, MilePerHour}
}

// inSI is one of the unit in metres or metres per second. The foot and the mile
// are those of the agreement of 1959 (0.3048 m, 1609.344 m), the knot is one
// nautical mile (1852 m, Monaco 1929) an hour.
func (u Unit) inSI() float64 {
	switch u {
	case Foot:
		return 0.3048
	case KilometrePerH:
		return 1000.0 / 3600
	case Knot:
		return 1852.0 / 3600
	case MilePerHour:
		return 1609.344 / 3600
	}
	return 1
}

// Kind is what the unit measures.
func (u Unit) Kind() Kind {
	if u == Metre || u == Foot {
		return Length
	}
	return Speed
}

// Title is the unit's name in the plural.
func (u Unit) Title() string {
	switch u {
	case Metre:
		return "metres"
	case Foot:
		return "feet"
	case MetrePerSec:
		return msgMetresPerSecond
	case KilometrePerH:
		return msgKilometresPerHour
	case Knot:
		return "knots"
	case MilePerHour:
		return msgMilesPerHour
	}
	return ""
}

// System is a person's choice.
type System struct{ Length, Speed Unit }

// Metric is the choice of SI units.
var Metric = System{Metre, MetrePerSec}

// Imperial is the choice of feet and miles.
var Imperial = System{Foot, MilePerHour}

// Of is the chosen unit of a kind.
func (s System) Of(k Kind) Unit {
	if k == Length {
		return s.Length
	}
	return s.Speed
}

// Check tells what is wrong with a choice.
func (s System) Check() error {
	if !slices.Contains(Of(Length), s.Length) {
		return fmt.Errorf("the unit of length is %q; expected m or ft", s.Length)
	}
	if !slices.Contains(Of(Speed), s.Speed) {
		return fmt.Errorf("the unit of speed is %q; expected m/s, km/h, kn or mph", s.Speed)
	}
	return nil
}

// From turns a value of the unit into metres or metres per second.
func (u Unit) From(v float64) float64 { return v * u.inSI() }

// To turns metres or metres per second into the unit.
func (u Unit) To(si float64) float64 { return si / u.inSI() }

// Number says a value in the unit, without the unit, with so many decimals at
// most. Zeros at the end are left out.
func (u Unit) Number(si float64, decimals int) string {
	scale := math.Pow(10, float64(decimals))
	v := math.Round(u.To(si)*scale) / scale
	if v == 0 {
		v = 0 // no negative zero
	}
	return strconv.FormatFloat(v, 'f', -1, 64)
}

// Say says a value with its unit.
func (u Unit) Say(si float64, decimals int) string { return u.Number(si, decimals) + " " + string(u) }

// names are the ways in which people write a unit, in small letters.
var names = map[string]Unit{
	"m": Metre, "metre": Metre, "metres": Metre, "meter": Metre, "meters": Metre,
	"ft": Foot, "foot": Foot, "feet": Foot, "'": Foot, "′": Foot, "’": Foot,
	"m/s": MetrePerSec, "mps": MetrePerSec, "ms-1": MetrePerSec,
	"km/h": KilometrePerH, "kmh": KilometrePerH, "kph": KilometrePerH,
	"kn": Knot, "kt": Knot, "kts": Knot, "knot": Knot, "knots": Knot,
	"mph": MilePerHour, "mi/h": MilePerHour,
}

// Parse reads a length or a speed and returns it in metres or metres per
// second, with the unit in which it was written. A bare number is in the unit
// that is shown. A decimal comma is read as a point, where it cannot be a comma
// that groups thousands: 1,500 is refused.
func Parse(k Kind, text string, shown Unit) (si float64, written Unit, err error) {
	t := strings.ToLower(strings.TrimSpace(strings.NewReplacer("\u00a0", " ", "\u202f", " ", "−", "-").Replace(text)))
	end := strings.IndexFunc(t, func(r rune) bool { return !strings.ContainsRune("0123456789.,+-", r) })
	number, unit := t, shown
	if end >= 0 {
		number = t[:end]
		name := strings.TrimSpace(t[end:])
		var known bool
		if unit, known = names[name]; !known || unit.Kind() != k {
			return 0, "", fmt.Errorf("%q is no %s; expected a number, or one with %s", clip(text), k, listed(k))
		}
	}
	v, err := readNumber(number)
	if err != nil {
		return 0, "", fmt.Errorf("%q is no %s; %w", clip(text), k, err)
	}
	return unit.From(v), unit, nil
}

// readNumber reads a number with a point or a comma before its decimals.
func readNumber(t string) (float64, error) {
	if strings.Count(t, ",") == 1 && !strings.Contains(t, ".") {
		whole, decimals, _ := strings.Cut(t, ",")
		if len(decimals) == 3 && strings.Trim(whole, "+-0") != "" {
			return 0, fmt.Errorf("write %s%s or %s.%s, so that it is clear which is meant", whole, decimals, whole, decimals)
		}
		t = whole + "." + decimals
	}
	v, err := strconv.ParseFloat(t, 64)
	if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
		return 0, fmt.Errorf("expected a number such as 2.5")
	}
	return v, nil
}

// listed are the units of a kind in words, for an error.
func listed(k Kind) string {
	var out []string
	for _, u := range Of(k) {
		out = append(out, string(u))
	}
	return strings.Join(out[:len(out)-1], ", ") + " or " + out[len(out)-1]
}

// clip is the beginning of a text, forty letters at most.
func clip(s string) string {
	if r := []rune(s); len(r) > 40 {
		return string(r[:40]) + "…"
	}
	return s
}

// other is the unit in which a value is said beside another: the one of the
// other system that is most used.
func (u Unit) other() Unit {
	switch u {
	case Metre:
		return Foot
	case MetrePerSec, KilometrePerH:
		return Knot
	case Knot, MilePerHour:
		return MetrePerSec
	}
	return Metre
}

// Echo says what was typed into a field in another unit too: "= 66 ft". It is
// empty for what cannot be read. What was written in another unit than the one
// shown is said in the one shown.
func Echo(k Kind, text string, shown Unit) string {
	si, written, err := Parse(k, text, shown)
	if err != nil {
		return ""
	}
	u := written.other()
	if written != shown {
		u = shown
	}
	return "= " + u.Say(si, 1)
}

// Mistaken tells whether a number was probably typed in another unit than it
// was taken for: it is far from the wanted value as it stands and close to it
// (within a tenth) in another unit of its kind. Both are in SI. It returns that
// unit.
func Mistaken(si, wanted float64, taken Unit) (Unit, bool) {
	if wanted <= 0 || si <= 0 || math.Abs(si-wanted) <= 0.1*wanted {
		return "", false
	}
	bare := taken.To(si)
	for _, u := range Of(taken.Kind()) {
		if u != taken && math.Abs(u.From(bare)-wanted) <= 0.1*wanted {
			return u, true
		}
	}
	return "", false
}
