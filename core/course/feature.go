//go:build !js

package course

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"maestrale/core/field"
	"maestrale/core/misread"
)

// shape is how a feature lies on the ground.
type shape string

const (
	aPoint shape = "Point"
	aLine  shape = "LineString"
	aRing  shape = "Polygon"
)

// feature is one thing of a course in degrees, as every open format has it.
type feature struct {
	kind    string // station, marker, crowd or a hazard's kind; empty = by its name
	name    string
	shape   shape
	at      []field.Geo
	heightM float64
	awayDeg *float64 // of the station
	line    int      // in the file; 0 = not known
	number  int      // in the file, from 1
}

// features lists the course in degrees; it needs its place on the earth.
func (c *Course) features() ([]feature, error) {
	if c.Plane == nil {
		return nil, misread.At(0, "origin and away_deg in its file", "the course is tied to no place on the earth")
	}
	geo := func(at ...field.Point) []field.Geo {
		var out []field.Geo
		for _, p := range at {
			out = append(out, c.Plane.ToGeo(p, 0))
		}
		return out
	}
	away := c.Plane.AwayDeg()
	out := []feature{{kind: "station", name: "station", shape: aPoint, at: geo(c.Station), awayDeg: &away}}
	for _, name := range c.MarkerNames() {
		out = append(out, feature{kind: "marker", name: name, shape: aPoint, at: geo(c.Markers[name])})
	}
	for _, l := range c.Crowd {
		out = append(out, feature{kind: "crowd", name: "crowd line", shape: aLine, at: geo(l...)})
	}
	for _, h := range c.Hazards {
		f := feature{kind: h.Kind, name: h.Name, shape: aLine, at: geo(h.At...), heightM: h.HeightM}
		if f.name == "" {
			f.name = h.Kind
		}
		switch {
		case h.Closed:
			f.shape = aRing
		case len(h.At) == 1:
			f.shape = aPoint
		}
		out = append(out, f)
	}
	return out, nil
}

// fromFeatures lays a course from what a file held. Where the file has no
// station with a direction, the course keeps the plane that it is read onto. The
// notes say what was taken for what.
func fromFeatures(list []feature, plane *field.Plane) (*Course, []string, error) {
	var notes []string
	c := &Course{Markers: map[string]field.Point{}}
	for i := range list {
		f := &list[i]
		if f.kind == "" {
			f.kind = kindByName(*f)
			if f.kind == "marker" && !slices.Contains(Reserved, f.name) {
				notes = append(notes, fmt.Sprintf(msgTakenForMarker, f.says()))
			}
		}
		if f.kind == "" {
			return nil, nil, misread.At(f.line,
				"a property kind: station, marker, crowd, tree, wire, post, wall, ceiling, people or "+
					"water", "%s does not say what it is", f.says())
		}
		if err := f.check(); err != nil {
			return nil, nil, err
		}
		if f.kind == "station" {
			p, err := f.plane(plane)
			if err != nil {
				return nil, nil, err
			}
			plane = p
		}
	}
	if plane == nil {
		return nil, nil, misread.At(0, "a point of kind station with away_deg, or a course that already stands on the earth",
			"the file says no station")
	}
	c.Plane = plane
	for _, f := range list {
		var at []field.Point
		for _, g := range f.at {
			p, _ := plane.ToField(g)
			if math.Hypot(p.X, p.Y) > 20_000 {
				return nil, nil, misread.At(f.line, "a place within 20 km", "%s lies %.0f km from the station", f.says(),
					math.Hypot(p.X, p.Y)/1000)
			}
			at = append(at, p)
		}
		if err := c.take(f, at); err != nil {
			return nil, nil, err
		}
	}
	if err := c.Check(); err != nil {
		return nil, nil, err
	}
	return c, notes, nil
}

// plane ties the field to the earth at a station; before is the plane of the
// course that stands, nil for none.
func (f *feature) plane(plane *field.Plane) (*field.Plane, error) {
	away := 0.0
	switch {
	case f.awayDeg != nil:
		away = *f.awayDeg
	case plane != nil:
		away = plane.AwayDeg()
	default:
		return nil, misread.At(f.line, "away_deg, where the pilot looks", "%s has no direction", f.says())
	}
	at := f.at[0]
	if plane != nil && at.AltM == 0 {
		at.AltM = plane.Origin().AltM // maps seldom say it; the site does
	}
	p, err := field.NewPlane(at, away)
	if err != nil {
		return nil, misread.At(f.line, "", "%s: %v", f.says(), err)
	}
	return p, nil
}

// take adds a feature that lies at some points of the field.
func (c *Course) take(f feature, at []field.Point) error {
	switch f.kind {
	case "station":
	case "marker":
		if _, twice := c.Markers[f.name]; twice {
			return misread.At(f.line, "each marker once", "the marker %q stands in the file twice", f.name)
		}
		c.Markers[f.name] = at[0]
	case "crowd":
		c.Crowd = append(c.Crowd, at)
	default:
		h := Hazard{Kind: f.kind, Name: f.name, At: at, Closed: f.shape == aRing, HeightM: f.heightM}
		if h.Name == f.kind {
			h.Name = ""
		}
		c.Hazards = append(c.Hazards, h)
	}
	return nil
}

// kindByName is what a feature is by its name, where it says nothing else.
func kindByName(f feature) string {
	word := strings.ToLower(strings.TrimSpace(f.name))
	switch {
	case word == "station" || word == "pilot":
		return "station"
	case strings.HasPrefix(word, "crowd"):
		return "crowd"
	case slices.Contains(HazardKinds, word):
		return word
	case f.shape == aPoint && f.name != "":
		return "marker"
	}
	return ""
}

// check refuses a shape that its kind cannot have, and places off the globe.
func (f feature) check() error {
	want := map[string][]shape{"station": {aPoint}, "marker": {aPoint}, "crowd": {aLine}}[f.kind]
	if slices.Contains(HazardKinds, f.kind) {
		want = []shape{aPoint, aLine, aRing} // as a course file has at, line or ring
	}
	if want == nil {
		return misread.At(f.line, "station, marker, crowd, tree, wire, post, wall, ceiling, people or water",
			"%s is of kind %q", f.says(), f.kind)
	}
	if !slices.Contains(want, f.shape) {
		words := make([]string, len(want))
		for i, w := range want {
			words[i] = string(w)
		}
		return misread.At(f.line, strings.Join(words, " or "), "%s is a %s and of kind %s", f.says(), f.shape, f.kind)
	}
	if len(f.at) == 0 {
		return misread.At(f.line, "a place", "%s has no coordinates", f.says())
	}
	for _, g := range f.at {
		if err := g.Valid(); err != nil {
			return misread.At(f.line, "", "%s: %v", f.says(), err)
		}
	}
	if f.kind == "marker" && f.name == "" {
		return misread.At(f.line, "a name", "%s is a marker without a name", f.says())
	}
	if !(f.heightM >= 0 && f.heightM <= 1000) {
		return misread.At(f.line, "0 to 1000", "%s is %v m high", f.says(), f.heightM)
	}
	return nil
}

// says names a feature in an error: its name, or its place in the file.
func (f feature) says() string {
	if f.name == "" {
		return fmt.Sprintf("feature %d", f.number)
	}
	return fmt.Sprintf("feature %d (%q)", f.number, f.name)
}
