// Package course holds where the drills are flown: the pilot's station, the
// markers by name, the crowd line and the hazards; and what follows from where
// they stand: distances to tape, the sight line, sun and wind, clearances, the
// area in which a craft could fall, and the return height.
package course

import (
	"fmt"
	"maps"
	"math"
	"slices"

	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/core/misread"
)

// Course is a field laid out. Places are metres in the field frame; the pilot
// looks along +y.
type Course struct {
	Name    string
	Plane   *field.Plane // nil where the file ties the field to no place on earth
	Station field.Point
	Markers map[string]field.Point
	Crowd   [][]field.Point // lines behind which people stand
	Surface string
	Class   craft.Class // that it was laid out for; empty where nobody said
	Hazards []Hazard
}

// Hazard is something to stay clear of: a place, a line or a ring.
type Hazard struct {
	Kind    string
	Name    string
	At      []field.Point
	Closed  bool
	HeightM float64
}

// HazardKinds lists what a hazard may be.
var HazardKinds = []string{"tree", "wire", "post", "wall", "ceiling", Bystanders, Instructor, Spotter, "water"}

// Reserved are the marker names that drills go by.
var Reserved = []string{"pad", "centre", "near-left", "near-right", "far-left", "far-right", "subject"}

// Surfaces lists the surfaces that are known.
var Surfaces = []string{"hardstanding", "short grass", "long grass", "sand", "gravel", "indoors"}

const (
	farthest    = 100_000
	mostMarkers = 60
	mostHazards = 500
	mostPoints  = 400
)

// Words says what a hazard is: its name, or its kind.
func (h Hazard) Words() string {
	if h.Name != "" {
		return h.Name
	}
	return "the " + h.Kind
}

// MarkerNames lists the markers, the pad first, then by distance from the station.
func (c *Course) MarkerNames() []string {
	names := slices.Collect(maps.Keys(c.Markers))
	slices.SortFunc(names, func(a, b string) int {
		if (a == "pad") != (b == "pad") {
			if a == "pad" {
				return -1
			}
			return 1
		}
		if d := c.Markers[a].Dist(c.Station) - c.Markers[b].Dist(c.Station); math.Abs(d) > 1e-9 {
			return int(math.Copysign(1, d))
		}
		if a < b {
			return -1
		}
		return 1
	})
	return names
}

// Clone returns a copy that shares nothing.
func (c *Course) Clone() *Course {
	out := *c
	out.Markers = maps.Clone(c.Markers)
	if out.Markers == nil {
		out.Markers = map[string]field.Point{}
	}
	out.Crowd = nil
	for _, l := range c.Crowd {
		out.Crowd = append(out.Crowd, slices.Clone(l))
	}
	out.Hazards = slices.Clone(c.Hazards)
	for i := range out.Hazards {
		out.Hazards[i].At = slices.Clone(out.Hazards[i].At)
	}
	return &out
}

// Check refuses a course that cannot be flown: a marker behind the pilot, crowd
// lines that cross, a line or a ring with too few points.
func (c *Course) Check() error {
	if len(c.Markers) > mostMarkers || len(c.Hazards) > mostHazards {
		return misread.At(0, fmt.Sprintf("%d markers and %d hazards at most", mostMarkers, mostHazards),
			"%d markers and %d hazards", len(c.Markers), len(c.Hazards))
	}
	for _, name := range slices.Sorted(maps.Keys(c.Markers)) {
		if name == "" || len(name) > 40 {
			return misread.At(0, "a name of up to 40 letters", "the marker name %q", name)
		}
		p := c.Markers[name]
		if err := onField(p, "marker "+name); err != nil {
			return err
		}
		if behind := c.Station.Y - p.Y; behind > 1e-9 {
			return misread.At(0, "a place in front, or a course turned the other way",
				"marker %s stands %.1f m behind the pilot", name, behind)
		}
	}
	for i, h := range c.Hazards {
		if !slices.Contains(HazardKinds, h.Kind) {
			return misread.At(0, "tree, wire, post, wall, ceiling, people, instructor, spotter or water", "hazard %d is %q", i+1,
				h.Kind)
		}
		if least := map[bool]int{true: 3, false: 1}[h.Closed]; len(h.At) < least || len(h.At) > mostPoints {
			return misread.At(0, fmt.Sprintf("%d to %d", least, mostPoints), "hazard %d (%s) has %d points", i+1, h.Kind,
				len(h.At))
		}
		for _, p := range h.At {
			if err := onField(p, fmt.Sprintf("hazard %d (%s)", i+1, h.Kind)); err != nil {
				return err
			}
		}
		if !(h.HeightM >= 0 && h.HeightM <= 1000) {
			return misread.At(0, "0 to 1000 m", "hazard %d (%s) is %v m high", i+1, h.Kind, h.HeightM)
		}
	}
	for i, l := range c.Crowd {
		if len(l) < 2 || len(l) > mostPoints {
			return misread.At(0, "two or more", "crowd line %d has %d points", i+1, len(l))
		}
		for _, p := range l {
			if err := onField(p, fmt.Sprintf("crowd line %d", i+1)); err != nil {
				return err
			}
		}
	}
	return c.crowdCrossing()
}

// onField refuses a place that is too far away to lie on a field; what names it
// in the error.
func onField(p field.Point, what string) error {
	if !(math.Abs(p.X) <= farthest && math.Abs(p.Y) <= farthest) {
		return misread.At(0, fmt.Sprintf("%d m at most", farthest), "%s stands at [%v, %v]", what, p.X, p.Y)
	}
	return nil
}

// crowdCrossing refuses crowd lines that cross themselves or one another: no
// side of them would then be the people's.
func (c *Course) crowdCrossing() error {
	type piece struct {
		seg
		line, at int
	}
	var all []piece
	for i, l := range c.Crowd {
		for j := 1; j < len(l); j++ {
			all = append(all, piece{seg{l[j-1], l[j]}, i, j})
		}
	}
	for i, a := range all {
		for _, b := range all[:i] {
			if a.line == b.line && a.at-b.at == 1 {
				continue // they meet where one goes on as the other
			}
			if p, ok := a.crosses(b.seg); ok {
				return misread.At(0, "lines that do not cross, with the people on one side",
					"crowd line %d crosses crowd line %d at [%.1f, %.1f]", b.line+1, a.line+1, p.X, p.Y)
			}
		}
	}
	return nil
}
