//go:build !js

package course

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"

	"github.com/twpayne/go-kml/v3"

	"maestrale/core/field"
	"maestrale/core/misread"
)

// placemark is what is read of a KML Placemark.
type placemark struct {
	Name  string `xml:"name"`
	Point *struct {
		Coordinates string `xml:"coordinates"`
	} `xml:"Point"`
	Line *struct {
		Coordinates string `xml:"coordinates"`
	} `xml:"LineString"`
	Ring *struct {
		Coordinates string `xml:"outerBoundaryIs>LinearRing>coordinates"`
	} `xml:"Polygon"`
	Data []struct {
		Name  string `xml:"name,attr"`
		Value string `xml:"value"`
	} `xml:"ExtendedData>Data"`
}

// ReadKML reads a course from KML 2.2: each Placemark with a Point, a LineString
// or a Polygon is one thing, and its ExtendedData kind, height_m and away_deg say
// what it is, as in GeoJSON.
func ReadKML(data []byte, plane *field.Plane) (*Course, []string, error) {
	if len(data) > MaxFile {
		return nil, nil, misread.At(0, "4 MiB at most", "the file is larger than a course")
	}
	d := xml.NewDecoder(bytes.NewReader(data))
	var list []feature
	root := false
	for {
		tok, err := d.Token()
		if errors.Is(err, io.EOF) {
			break
		}
		line, _ := d.InputPos()
		if err != nil {
			return nil, nil, misread.At(line, "KML", "not XML: %v", err)
		}
		el, ok := tok.(xml.StartElement)
		if !ok {
			continue
		}
		if !root && el.Name.Local != "kml" {
			return nil, nil, misread.At(line, "a kml element", "the file begins with %q", el.Name.Local)
		}
		root = true
		if el.Name.Local != "Placemark" {
			continue
		}
		var p placemark
		if err := d.DecodeElement(&p, &el); err != nil {
			at, _ := d.InputPos()
			return nil, nil, misread.At(at, "KML", "not XML: %v", err)
		}
		f, err := p.feature(line, len(list)+1)
		if err != nil {
			return nil, nil, err
		}
		list = append(list, f)
	}
	if !root {
		return nil, nil, misread.At(1, "a kml element", "the file is empty")
	}
	return fromFeatures(list, plane)
}

// feature makes a feature of a placemark; line and number are where it stands
// in the file.
func (p placemark) feature(line, number int) (feature, error) {
	f := feature{name: strings.TrimSpace(p.Name), line: line, number: number}
	var text string
	switch {
	case p.Point != nil:
		f.shape, text = aPoint, p.Point.Coordinates
	case p.Line != nil:
		f.shape, text = aLine, p.Line.Coordinates
	case p.Ring != nil:
		f.shape, text = aRing, p.Ring.Coordinates
	default:
		return f, misread.At(line, "Point, LineString or Polygon", "%s has no place", f.says())
	}
	for _, one := range strings.Fields(text) {
		parts := strings.Split(one, ",")
		if len(parts) < 2 || len(parts) > 3 {
			return f, misread.At(line, "LON,LAT or LON,LAT,ALT in degrees", "%s: coordinates %.40q", f.says(), one)
		}
		lon, err1 := strconv.ParseFloat(parts[0], 64)
		lat, err2 := strconv.ParseFloat(parts[1], 64)
		if err1 != nil || err2 != nil {
			return f, misread.At(line, "LON,LAT in degrees", "%s: coordinates %.40q", f.says(), one)
		}
		f.at = append(f.at, field.Geo{LatDeg: lat, LonDeg: lon})
	}
	if n := len(f.at); f.shape == aRing && n > 3 && f.at[0] == f.at[n-1] {
		f.at = f.at[:n-1]
	}
	if f.shape == aPoint && len(f.at) != 1 {
		return f, misread.At(line, "one place", "%s is a Point of %d places", f.says(), len(f.at))
	}
	for _, d := range p.Data {
		v := strings.TrimSpace(d.Value)
		switch d.Name {
		case "kind":
			f.kind = strings.ToLower(v)
		case "height_m", "away_deg":
			x, err := strconv.ParseFloat(v, 64)
			if err != nil {
				return f, misread.At(line, "a number", "%s: %s is %.40q", f.says(), d.Name, v)
			}
			if d.Name == "height_m" {
				f.heightM = x
			} else {
				f.awayDeg = &x
			}
		}
	}
	return f, nil
}

// KML writes the course as KML 2.2 that ReadKML reads back.
func (c *Course) KML() ([]byte, error) {
	list, err := c.features()
	if err != nil {
		return nil, err
	}
	doc := kml.Document(kml.Name(c.title()))
	for _, f := range list {
		var at []kml.Coordinate
		for _, g := range f.at {
			at = append(at, kml.Coordinate{Lon: places(g.LonDeg), Lat: places(g.LatDeg)})
		}
		data := []kml.Element{kml.Data("kind", kml.Value(f.kind))}
		if f.heightM > 0 {
			data = append(data, kml.Data("height_m", kml.Value(strconv.FormatFloat(f.heightM, 'f', -1, 64))))
		}
		if f.awayDeg != nil {
			data = append(data, kml.Data("away_deg", kml.Value(strconv.FormatFloat(*f.awayDeg, 'f', -1, 64))))
		}
		mark := kml.Placemark(kml.Name(f.name), kml.ExtendedData(data...))
		switch f.shape {
		case aPoint:
			mark.Append(kml.Point(kml.Coordinates(at...)))
		case aLine:
			mark.Append(kml.LineString(kml.Coordinates(at...)))
		case aRing:
			mark.Append(kml.Polygon(kml.OuterBoundaryIs(kml.LinearRing(kml.Coordinates(append(at, at[0])...)))))
		}
		doc.Append(mark)
	}
	var out bytes.Buffer
	if err := kml.KML(doc).WriteIndent(&out, "", " "); err != nil {
		return nil, fmt.Errorf("write the course: %w", err)
	}
	return out.Bytes(), nil
}

// title is the name of the course, or a word for one without.
func (c *Course) title() string {
	if c.Name != "" {
		return c.Name
	}
	return "course"
}

// gpxFile is a GPX file as it is written.
type gpxFile struct {
	XMLName xml.Name   `xml:"gpx"`
	NS      string     `xml:"xmlns,attr"`
	Version string     `xml:"version,attr"`
	Creator string     `xml:"creator,attr"`
	Name    string     `xml:"metadata>name"`
	Points  []gpxPoint `xml:"wpt"`
	Routes  []gpxRoute `xml:"rte"`
}

// gpxPoint is one point of it.
type gpxPoint struct {
	Lat  string `xml:"lat,attr"`
	Lon  string `xml:"lon,attr"`
	Name string `xml:"name,omitempty"`
	Type string `xml:"type,omitempty"`
}

// gpxRoute is one route of it.
type gpxRoute struct {
	Name   string     `xml:"name"`
	Type   string     `xml:"type"`
	Points []gpxPoint `xml:"rtept"`
}

// GPX writes the course as GPX 1.1 for a hand-held receiver: points as way
// points, lines and rings as routes. It is not read back.
func (c *Course) GPX() ([]byte, error) {
	list, err := c.features()
	if err != nil {
		return nil, err
	}
	deg := func(v float64) string { return strconv.FormatFloat(places(v), 'f', -1, 64) }
	out := gpxFile{NS: "http://www.topografix.com/GPX/1/1", Version: "1.1", Creator: "Maestrale", Name: c.title()}
	for _, f := range list {
		if f.shape == aPoint {
			out.Points = append(out.Points, gpxPoint{deg(f.at[0].LatDeg), deg(f.at[0].LonDeg), f.name, f.kind})
			continue
		}
		r := gpxRoute{Name: f.name, Type: f.kind}
		at := f.at
		if f.shape == aRing {
			at = append(at, at[0])
		}
		for _, g := range at {
			r.Points = append(r.Points, gpxPoint{Lat: deg(g.LatDeg), Lon: deg(g.LonDeg)})
		}
		out.Routes = append(out.Routes, r)
	}
	data, err := xml.MarshalIndent(out, "", " ")
	if err != nil {
		return nil, fmt.Errorf("write the course: %w", err)
	}
	return append([]byte(xml.Header), append(data, '\n')...), nil
}
