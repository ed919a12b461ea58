package course

import (
	"math"

	"maestrale/core/field"
)

// EyeM is the height of a standing pilot's eye in metres.
const EyeM = 1.6

// crown is the half width of a tree over its height, where it is one point.
const crown = 0.2

// Skyline is what stands highest in line with a place as the pilot sees it.
type Skyline struct {
	LowestM float64     // lowest height at which a craft at the place stands against the sky
	Behind  string      // what makes it; empty = the horizon
	Rise    field.Angle // of that thing over the eye's level
	Hides   bool        // it stands before the place: lower down the craft is not seen at all
}

// SightLine returns the lowest height at which a craft stands against the sky
// from the pilot's eye. Every thing of height H at distance D in line with the
// craft at distance d hides the sky up to e + (H − e) d / D, with the eye at
// height e: similar triangles. Over an open horizon that is the eye's own
// height.
func (c *Course) SightLine(at field.Point, eyeM float64) Skyline {
	out := Skyline{LowestM: eyeM}
	look := at.Sub(c.Station)
	d := math.Hypot(look.X, look.Y)
	if d == 0 {
		return out
	}
	ray := seg{c.Station, field.Point{X: c.Station.X + look.X/d*farthest, Y: c.Station.Y + look.Y/d*farthest}}
	for _, h := range c.Hazards {
		if h.HeightM <= eyeM || h.Kind == "ceiling" || h.Kind == "wire" {
			continue // a wire hides no sky
		}
		if dist := h.alongRay(ray); dist > 0 {
			if lowest := eyeM + (h.HeightM-eyeM)*d/dist; lowest > out.LowestM {
				out = Skyline{lowest, h.Words(), field.Angle(math.Atan2(h.HeightM-eyeM, dist)), dist < d}
			}
		}
	}
	return out
}

// alongRay is how far along a ray the hazard begins to stand, −1 where it does not.
func (h Hazard) alongRay(ray seg) float64 {
	if len(h.At) == 1 {
		near := ray.nearest(h.At[0])
		half := 0.5
		if h.Kind == "tree" {
			half = crown * h.HeightM
		}
		if near.Dist(h.At[0]) > half || near == ray.A {
			return -1
		}
		return near.Dist(ray.A)
	}
	// The nearest crossing rises highest.
	near := math.Inf(1)
	for _, s := range pieces(h.At, h.Closed) {
		if p, ok := ray.crosses(s); ok {
			near = math.Min(near, p.Dist(ray.A))
		}
	}
	if math.IsInf(near, 1) {
		return -1
	}
	return near
}
