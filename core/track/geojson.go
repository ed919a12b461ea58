package track

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"

	"maestrale/core/field"
	"maestrale/core/misread"
)

// geoFeature is a Feature of GeoJSON (RFC 7946) with a line and its times.
type geoFeature struct {
	Type     string `json:"type"`
	Geometry *struct {
		Type        string          `json:"type"`
		Coordinates json.RawMessage `json:"coordinates"`
	} `json:"geometry"`
	Properties struct {
		Times   []string  `json:"coordTimes"`
		Heading []float64 `json:"headingsTrueDeg"`
		Coord   struct {
			Times []string `json:"times"`
		} `json:"coordinateProperties"`
	} `json:"properties"`
}

// readGeoJSON reads the first LineString that has its times.
func readGeoJSON(r sized) (*fixes, error) {
	data, err := io.ReadAll(r)
	if err != nil {
		var large *misread.Error
		if errors.As(err, &large) {
			return nil, large
		}
		return nil, fmt.Errorf("read the track: %w", err)
	}
	var top struct {
		geoFeature
		Features []geoFeature `json:"features"`
	}
	if err := json.Unmarshal(data, &top); err != nil {
		return nil, misread.At(lineOf(data, err), "GeoJSON", "not read: %v", err)
	}
	list := top.Features
	if top.Type == "Feature" {
		list = []geoFeature{top.geoFeature}
	} else if top.Type != "FeatureCollection" {
		return nil, misread.At(1, "a Feature or a FeatureCollection", "the type is %.30q", top.Type)
	}
	for _, f := range list {
		times := f.Properties.Times
		if len(times) == 0 {
			times = f.Properties.Coord.Times
		}
		if f.Geometry == nil || f.Geometry.Type != "LineString" || len(times) == 0 {
			continue
		}
		return f.fixes(times)
	}
	return nil, misread.At(1, "a LineString with coordTimes, a time for each of its places", "the file holds no track")
}

// fixes are the places of a line with their times, which must be as many.
func (g *geoFeature) fixes(times []string) (*fixes, error) {
	var at [][]float64
	if err := json.Unmarshal(g.Geometry.Coordinates, &at); err != nil {
		return nil, misread.At(1, "[longitude, latitude, height] for each place", "the coordinates are not read: %v", err)
	}
	if len(at) != len(times) {
		return nil, misread.At(1, "as many as there are places", "%d times for %d places", len(times), len(at))
	}
	f := &fixes{heights: AboveSea}
	for i, c := range at {
		if len(c) < 2 {
			return nil, misread.At(1, "[longitude, latitude, height]", "place %d has %d numbers", i+1, len(c))
		}
		t, ok := readTime(times[i])
		if !ok {
			return nil, misread.At(1, "a time as RFC 3339", "time %d is %.30q", i+1, times[i])
		}
		p := fix{line: 1, at: t, geo: field.Geo{LatDeg: c[1], LonDeg: c[0]}, heading: math.NaN()}
		if len(c) > 2 {
			p.geo.AltM, p.hasAlt = c[2], true
		}
		if len(g.Properties.Heading) == len(at) {
			p.heading = g.Properties.Heading[i]
		}
		if err := f.add(p); err != nil {
			return nil, err
		}
	}
	return f, nil
}

// lineOf is the line at which JSON could not be read.
func lineOf(data []byte, err error) int {
	var syntax *json.SyntaxError
	if errors.As(err, &syntax) {
		return 1 + bytes.Count(data[:min(int(syntax.Offset), len(data))], []byte("\n"))
	}
	return 1
}

// geojson writes a feature with a line and its times; it returns what the
// format cannot hold.
func (o *outgoing) geojson(b *bytes.Buffer) []string {
	b.WriteString(`{"type":"Feature","geometry":{"type":"LineString","coordinates":[`)
	comma := func(i int) {
		if i > 0 {
			b.WriteString(",\n")
		}
	}
	for i := range o.t.T {
		comma(i)
		g := o.geo(i)
		fmt.Fprintf(b, "[%s,%s,%s]", degrees(g.LonDeg), degrees(g.LatDeg), format(g.AltM))
	}
	b.WriteString(`]},"properties":{"coordTimes":[`)
	for i := range o.t.T {
		comma(i)
		fmt.Fprintf(b, "%q", o.at(i).Format(milliTime))
	}
	b.WriteString("]")
	lost := onlyPlaces
	if o.t.Heading != nil {
		b.WriteString(`,"headingsTrueDeg":[`)
		for i := range o.t.T {
			comma(i)
			b.WriteString(format(o.p.ToTrueHeading(o.t.Heading[i]).Compass()))
		}
		b.WriteString("]")
		lost = msgLostButHeading
	}
	b.WriteString("}}\n")
	return []string{lost}
}
