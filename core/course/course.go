// Package course holds where the drills are flown: the pilot's station and
// the markers by name.
package course

import (
	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/core/yamldoc"
)

// Course is a field laid out. Places are metres in the field frame.
type Course struct {
	Plane   *field.Plane // nil where the file ties the field to no place on earth
	Station field.Point
	Markers map[string]field.Point
	Crowd   []field.Point
	Surface string
	Hazards []Hazard
}

// Hazard is something to stay clear of: a place, a line or a ring.
type Hazard struct {
	Kind    string
	At      []field.Point
	Closed  bool
	HeightM float64
}

const farthest = 100_000

// Parse reads a maestrale-course/1 file.
func Parse(data []byte) (*Course, error) {
	d, top := yamldoc.Read(data)
	m := top.Map()
	m.Need("format").Word("maestrale-course/1")
	c := &Course{Markers: map[string]field.Point{}}
	originNode, awayNode := m.Get("origin"), m.Get("away_deg")
	origin := originNode.Map()
	geo := field.Geo{
		LatDeg: origin.Need("lat").Number(-90, 90),
		LonDeg: origin.Need("lon").Number(-180, 180),
		AltM:   origin.Get("alt_m").Number(-1000, 20000),
	}
	origin.Done()
	away := awayNode.Number(-360, 360)
	if originNode.Present() != awayNode.Present() {
		m.Node().Fail("only one of origin and away_deg is given", "both or none")
	}
	if s := m.Get("station"); s.Present() {
		c.Station = ReadPoint(s)
	}
	mn := m.Get("markers")
	markers := mn.Map()
	for _, k := range markers.Keys() {
		c.Markers[k] = ReadPoint(markers.Get(k))
	}
	c.Crowd = readPoints(m.Get("crowd"))
	if s := m.Get("surface"); s.Present() {
		c.Surface = s.Text()
	}
	for _, n := range m.Get("hazards").List() {
		c.Hazards = append(c.Hazards, readHazard(n))
	}
	m.Done()
	if d.Err() != nil {
		return nil, d.Err()
	}
	if originNode.Present() {
		p, err := field.NewPlane(geo, away)
		if err != nil {
			return nil, &yamldoc.Error{Line: originNode.Line(), What: err.Error()}
		}
		c.Plane = p
	}
	return c, nil
}

func readHazard(n yamldoc.Node) Hazard {
	m := n.Map()
	h := Hazard{Kind: m.Need("kind").Word("tree", "wire", "post", "wall", "ceiling", "people", "water")}
	at, line, ring := m.Get("at"), m.Get("line"), m.Get("ring")
	switch {
	case at.Present():
		h.At = []field.Point{ReadPoint(at)}
	case line.Present():
		h.At = readPoints(line)
	case ring.Present():
		h.At, h.Closed = readPoints(ring), true
	default:
		m.Node().Fail("the hazard has no place", "at, line or ring")
	}
	h.HeightM = m.Get("height_m").Number(0, 1000)
	m.Done()
	return h
}

// ReadPoint reads a place [x, y] in metres.
func ReadPoint(n yamldoc.Node) field.Point {
	l := n.List()
	if n.Present() && len(l) != 2 {
		n.Fail("a place of another length", "[x, y] in metres")
		return field.Point{}
	}
	if len(l) != 2 {
		return field.Point{}
	}
	return field.Point{X: l[0].Number(-farthest, farthest), Y: l[1].Number(-farthest, farthest)}
}

func readPoints(n yamldoc.Node) []field.Point {
	var out []field.Point
	for _, p := range n.List() {
		out = append(out, ReadPoint(p))
	}
	return out
}

// Templates names the courses that are laid when a drill is flown without one.
var Templates = []string{"box"}

// Lay returns a template laid for the craft class, with the pilot's station at
// the origin.
//
// The box has its pad in the middle and a marker at each corner. Its centre
// stands far enough off that the near corners keep three times the widest
// tolerance of the class from the pilot, and near enough that the aspect of a
// craft of that size is seen without effort; its sides are four tolerances of
// the corner drills, so that neighbouring corners never overlap.
func Lay(template string, class craft.Class) (*Course, bool) {
	if template != "box" {
		return nil, false
	}
	dist, half := 6.0, 2.0
	switch class {
	case craft.Micro:
		dist, half = 3, 1
	case craft.Medium:
		dist, half = 8, 2.5
	case craft.Heavy:
		dist, half = 12, 4
	}
	return &Course{Markers: map[string]field.Point{
		"pad":        {X: 0, Y: dist},
		"centre":     {X: 0, Y: dist},
		"near-left":  {X: -half, Y: dist - half},
		"near-right": {X: half, Y: dist - half},
		"far-left":   {X: -half, Y: dist + half},
		"far-right":  {X: half, Y: dist + half},
	}}, true
}
