package course

import (
	"math"
	"time"

	"maestrale/core/craft"
	"maestrale/core/field"
)

// large lays a course with so many objects round it, as a crowded field has

func large(n int) *Course {
	c, _ := Lay("five-markers", craft.Light)
	c.Plane, _ = field.NewPlane(field.Geo{LatDeg: 45.2, LonDeg: 12.3}, 135)
	c.Crowd = [][]field.Point{{{X: -20, Y: -8}, {X: 20, Y: -8}}}
	for i := range n - len(c.Markers) - 1 {
		sin, cos := math.Sincos(float64(i))
		p := field.Point{X: 80 * sin, Y: 80 * cos}
		h := Hazard{Kind: "tree", At: []field.Point{p}, HeightM: 8}
		if i%3 == 0 {
			h = Hazard{Kind: "wire", At: []field.Point{p, {X: p.X + 20, Y: p.Y}}, HeightM: 10}
		}
		c.Hazards = append(c.Hazards, h)
	}
	c.Hazards[0].At = []field.Point{{X: 3, Y: 14}, {X: 30, Y: 14}} // so that a turn has to be looked for
	return c
}

// largeAsk asks for a survey of eight drills in a morning's wind.
func largeAsk(c *Course) Ask {
	from := time.Date(2026, 5, 1, 7, 0, 0, 0, time.UTC)
	a := Ask{Craft: craft.Shipped()["poiana"], Aids: craft.HeightHold, Density: 1.2, PaceM: 0.8, WindMps: 4,
		WindFrom: field.Degrees(200), WindKnown: true, From: from, To: from.Add(4 * time.Hour)}
	for range 8 {
		a.Envelopes = append(a.Envelopes, Envelope{Title: "tour", Path: []field.Point{c.Markers["near-left"],
			c.Markers["near-right"], c.Markers["far-right"], c.Markers["far-left"]}, RadiusM: 1, HighM: 3, FlownM: 2,
			SpeedMps: 1.5, Aids: craft.HeightHold})
	}
	return a
}
