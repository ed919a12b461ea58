package course

import (
	"math"

	"maestrale/core/field"
)

const (
	// ReturnMargin is what the return height leaves over the tallest thing, in m: a
	// tree guessed a quarter too low, and the height that a barometer loses over a
	// flight.
	ReturnMargin = 10.0
	// ReturnLeast is the return height over an empty field.
	ReturnLeast = 20.0
	// corridor is how far to either side of the straight way home a craft may be:
	// a poor fix at both ends and a cross wind before the autopilot leans into it.
	corridor = 10.0
	// MetresPerFoot by definition.
	MetresPerFoot = 0.3048
)

// ReturnHeight is the height at which a craft flies home by itself.
type ReturnHeight struct {
	HeightM  float64 // in whole steps of 5 m
	TallestM float64
	Tallest  string // what it is; empty = nothing stands there
	// AnywhereM is the height that clears everything on the course, should it come
	// home from elsewhere.
	AnywhereM float64
	FromTo    [2]field.Angle // bearings of the return sector from home
	ReachM    float64        // how far it reaches
}

// Feet returns a height in feet, to the whole foot.
func Feet(m float64) float64 { return math.Round(m / MetresPerFoot) }

// Return finds the return height for drills that are flown over the given places
// and up to farM beyond them: the tallest thing within ten metres of the straight
// ways home, ten metres more, rounded up to five, and twenty at least.
func (c *Course) Return(home field.Point, places []field.Point, farM float64) ReturnHeight {
	out := ReturnHeight{}
	var ways []seg
	low, high := math.Inf(1), math.Inf(-1)
	var middle field.Point
	for _, p := range places {
		middle.X += p.X / float64(len(places))
		middle.Y += p.Y / float64(len(places))
	}
	axis := field.Bearing(middle.Sub(home))
	if middle.Dist(home) < 0.1 {
		axis = field.Away
	}
	for _, p := range places {
		d := p.Sub(home)
		l := math.Hypot(d.X, d.Y)
		if l < 0.1 {
			d, l = field.Point{X: math.Sin(float64(axis)), Y: math.Cos(float64(axis))}, 1
			p = home
		}
		far := field.Point{X: p.X + d.X/l*farM, Y: p.Y + d.Y/l*farM}
		ways = append(ways, seg{home, far})
		out.ReachM = math.Max(out.ReachM, far.Dist(home))
		b := float64((field.Bearing(far.Sub(home)) - axis).Wrap())
		low, high = math.Min(low, b), math.Max(high, b)
	}
	if len(ways) > 0 {
		out.FromTo = [2]field.Angle{axis + field.Angle(low), axis + field.Angle(high)}
	}
	all := 0.0
	for _, h := range c.Hazards {
		if h.HeightM <= 0 || h.Kind == "ceiling" {
			continue
		}
		all = math.Max(all, h.HeightM)
		if d, _ := distanceTo(ways, h.At, h.Closed); len(ways) > 0 && d <= corridor && h.HeightM > out.TallestM {
			out.TallestM, out.Tallest = h.HeightM, h.Words()
		}
	}
	out.HeightM, out.AnywhereM = returnOver(out.TallestM), returnOver(all)
	return out
}

// returnOver is the height of a flight home over something so tall: with
// ReturnMargin to spare, ReturnLeast at least, in whole steps of five metres.
func returnOver(tallest float64) float64 {
	return math.Max(ReturnLeast, math.Ceil((tallest+ReturnMargin)/5-1e-9)*5)
}
