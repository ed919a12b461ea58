//go:build !js

package course

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"strings"

	"github.com/paulmach/orb"
	"github.com/paulmach/orb/geojson"

	"maestrale/core/field"
	"maestrale/core/misread"
)

// MaxFile is the largest course file that is read, in bytes.
const MaxFile = 4 << 20

// ReadGeoJSON reads a course from a GeoJSON FeatureCollection (RFC 7946). Each
// feature says with its properties kind, name and height_m what it is; the
// station has away_deg besides. Points without a kind are markers by their name.
func ReadGeoJSON(data []byte, plane *field.Plane) (*Course, []string, error) {
	if len(data) > MaxFile {
		return nil, nil, misread.At(0, "4 MiB at most", "the file is larger than a course")
	}
	if line, err := jsonLine(data); err != nil {
		return nil, nil, misread.At(line, "GeoJSON", "not JSON: %v", err)
	}
	// The library takes an unknown member for nothing; what matters is asked here.
	var top struct {
		Type     string            `json:"type"`
		Features []json.RawMessage `json:"features"`
	}
	if err := json.Unmarshal(data, &top); err != nil || top.Type != "FeatureCollection" {
		return nil, nil, misread.At(1, "a FeatureCollection", "the file is a %q", top.Type)
	}
	var list []feature
	for i, raw := range top.Features {
		f, err := geojson.UnmarshalFeature(raw)
		if err != nil || f.Geometry == nil {
			return nil, nil, misread.At(0, "a Feature with a geometry in degrees", "feature %d cannot be read", i+1)
		}
		one, err := fromGeometry(f.Geometry)
		one.number = i + 1
		one.name, _ = f.Properties["name"].(string)
		if kind, ok := f.Properties["kind"].(string); ok {
			one.kind = strings.ToLower(kind)
		}
		if err != nil {
			return nil, nil, misread.At(0, "Point, LineString or Polygon", "%s %v", one.says(), err)
		}
		if one.heightM, err = number(f.Properties, "height_m"); err != nil {
			return nil, nil, misread.At(0, "a number", "%s: %v", one.says(), err)
		}
		if _, has := f.Properties["away_deg"]; has {
			away, err := number(f.Properties, "away_deg")
			if err != nil {
				return nil, nil, misread.At(0, "a number", "%s: %v", one.says(), err)
			}
			one.awayDeg = &away
		}
		list = append(list, one)
	}
	return fromFeatures(list, plane)
}

// jsonLine finds the line in which JSON breaks.
func jsonLine(data []byte) (int, error) {
	var any json.RawMessage
	err := json.Unmarshal(data, &any)
	var syntax *json.SyntaxError
	if errors.As(err, &syntax) {
		return 1 + strings.Count(string(data[:min(int(syntax.Offset), len(data))]), "\n"), err
	}
	return 1, err
}

// number is a number among the properties of a feature; 0 where it is not
// there, and an error where it is no number.
func number(p geojson.Properties, key string) (float64, error) {
	switch v := p[key].(type) {
	case nil:
		return 0, nil
	case float64:
		return v, nil
	default:
		return 0, fmt.Errorf("%s is %v", key, v)
	}
}

// fromGeometry makes a feature of a point, a line or an area; other geometries
// are an error.
func fromGeometry(g orb.Geometry) (feature, error) {
	geo := func(at ...orb.Point) (out []field.Geo) {
		for _, p := range at {
			out = append(out, field.Geo{LatDeg: p.Lat(), LonDeg: p.Lon()})
		}
		return out
	}
	switch g := g.(type) {
	case orb.Point:
		return feature{shape: aPoint, at: geo(g)}, nil
	case orb.LineString:
		return feature{shape: aLine, at: geo(g...)}, nil
	case orb.Polygon:
		if len(g) != 1 || len(g[0]) < 4 {
			return feature{}, fmt.Errorf("is a Polygon of %d rings", len(g))
		}
		return feature{shape: aRing, at: geo(g[0][:len(g[0])-1]...)}, nil
	}
	return feature{}, fmt.Errorf("is a %s", g.GeoJSONType())
}

// places is how exactly degrees are written: a hundred-millionth is a millimetre.
func places(deg float64) float64 { return math.Round(deg*1e8) / 1e8 }

// GeoJSON writes the course as a FeatureCollection that ReadGeoJSON reads back.
func (c *Course) GeoJSON() ([]byte, error) {
	list, err := c.features()
	if err != nil {
		return nil, err
	}
	out := geojson.NewFeatureCollection()
	for _, f := range list {
		var pts []orb.Point
		for _, g := range f.at {
			pts = append(pts, orb.Point{places(g.LonDeg), places(g.LatDeg)})
		}
		var g orb.Geometry
		switch f.shape {
		case aPoint:
			g = pts[0]
		case aLine:
			g = orb.LineString(pts)
		case aRing:
			g = orb.Polygon{append(orb.Ring(pts), pts[0])}
		}
		one := geojson.NewFeature(g)
		one.Properties = geojson.Properties{"kind": f.kind, "name": f.name}
		if f.heightM > 0 {
			one.Properties["height_m"] = f.heightM
		}
		if f.awayDeg != nil {
			one.Properties["away_deg"] = *f.awayDeg
		}
		out.Append(one)
	}
	data, err := json.MarshalIndent(out, "", " ")
	if err != nil {
		return nil, fmt.Errorf("write the course: %w", err)
	}
	return append(data, '\n'), nil
}
