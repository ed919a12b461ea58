package draw

import (
	"fmt"
	"html/template"
	"math"
	"slices"

	"maestrale/core/craft"
	"maestrale/core/field"
)

// Pack draws what is in a pack, as a cell that fills from the left; hatched
// where the pack is not to be flown.
func Pack(charge float64, known bool, fitness string) template.HTML {
	var s svg
	label := msgChargeNotKnown
	if known {
		label = fmt.Sprintf("%.0f %% charged", 100*charge)
	}
	s.open(74, 20, "pack-bar", label)
	s.rect(1, 2, 66, 16, "pack-shell "+fitness, "")
	s.rect(68, 6, 4, 8, "pack-tip", "")
	if known && charge > 0 {
		class := "pack-fill"
		if fitness == "retire" {
			class = "lapsed"
		}
		s.rect(3, 4, 62*math.Min(1, charge), 12, class, "")
	}
	return s.done()
}

// Rotors draws a craft from above with the spin of every rotor, the nose up, and
// what is wrong with its propellers.
func Rotors(t craft.Type, mounts []craft.Mount) template.HTML {
	if len(t.Rotors) == 0 {
		return ""
	}
	var s svg
	s.open(260, 260, "rotors", msgCraftFromAbove)
	far := 0.0
	for _, r := range t.Rotors {
		far = math.Max(far, r.ArmM+t.RotorRadiusM)
	}
	k := 112 / far
	s.add(`<path class="craft-nose" d="M130 %sl-8 16h16z"/>`, n(130-0.34*112))
	for i, r := range t.Rotors {
		sin, cos := math.Sincos(float64(field.Degrees(r.AngleDeg)))
		x, y := 130+r.ArmM*k*sin, 130-r.ArmM*k*cos
		s.line(130, 130, x, y, "axis")
		class := "rotor"
		if j := slices.IndexFunc(mounts, func(m craft.Mount) bool { return m.Motor == i }); j >= 0 &&
			(mounts[j].For != r.Spin || mounts[j].Chipped) {
			class = "rotor wrong-one"
		}
		rad := math.Max(18, t.RotorRadiusM*k*0.86)
		s.circle(x, y, rad, class)
		// Three quarters of a turn with a head, the way the rotor turns.
		dir, sweep := 1.0, 1
		if r.Spin == craft.CounterClockwise {
			dir, sweep = -1, 0
		}
		a0, a1 := -2.2*dir, 2.0*dir
		q := rad * 0.66
		x0, y0, x1, y1 := x+q*math.Sin(a0), y-q*math.Cos(a0), x+q*math.Sin(a1), y-q*math.Cos(a1)
		s.add(`<path class="spin" d="M%s %sA%s %s 0 1 %d %s %s"/>`, n(x0), n(y0), n(q), n(q), sweep, n(x1), n(y1))
		s.add(`<path class="spin-head" transform="translate(%s %s) rotate(%s)" d="M-5 -4L4 0L-5 4Z"/>`, n(x1), n(y1),
			n((a1+math.Pi/2*(dir-1))*180/math.Pi))
		s.text(x, y+5, "small", "middle", fmt.Sprint(i+1))
	}
	return s.done()
}
