package track

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"math"
	"strconv"

	"maestrale/core/field"
	"maestrale/core/misread"
)

// xmlTokens walks through an XML file without building it. Documents with a type of
// their own are refused: nothing is expanded and nothing is fetched.
type xmlTokens struct {
	*xml.Decoder
	what  string
	depth int
	text  []byte
}

func newXML(r io.Reader, what string) *xmlTokens {
	d := xml.NewDecoder(r)
	d.Strict = true
	return &xmlTokens{Decoder: d, what: what}
}

func (x *xmlTokens) line() int { l, _ := x.InputPos(); return l }

// next returns the next start or end of an element; both nil at the end. Text
// between them is gathered in text, which a start empties.
func (x *xmlTokens) next() (*xml.StartElement, *xml.EndElement, error) {
	for {
		tok, err := x.RawToken()
		if errors.Is(err, io.EOF) {
			if x.depth != 0 {
				return nil, nil, misread.At(x.line(), "a whole file", "the file ends within an element")
			}
			return nil, nil, nil
		}
		if err != nil {
			var large *misread.Error
			if errors.As(err, &large) {
				return nil, nil, large
			}
			return nil, nil, misread.At(x.line(), x.what, "not XML: %v", err)
		}
		switch el := tok.(type) {
		case xml.StartElement:
			if x.depth++; x.depth > 100 {
				return nil, nil, misread.At(x.line(), x.what, "elements lie more than 100 deep in one another")
			}
			x.text = x.text[:0]
			return &el, nil, nil
		case xml.EndElement:
			if x.depth--; x.depth < 0 {
				return nil, nil, misread.At(x.line(), x.what, "an element ends that has not begun")
			}
			return nil, &el, nil
		case xml.CharData:
			if len(x.text)+len(el) < 1<<16 {
				x.text = append(x.text, el...)
			}
		case xml.Directive:
			return nil, nil, misread.At(x.line(), x.what+" without a document type", "the file declares a type of its own")
		}
	}
}

// readGPX reads the track points of a GPX 1.1 file, in the order of the file.
func readGPX(r io.Reader) (*fixes, error) {
	x := newXML(r, "GPX 1.1")
	f := &fixes{}
	root, inside := false, false
	var p fix
	for {
		start, end, err := x.next()
		if err != nil {
			return nil, err
		}
		switch {
		case start != nil:
			name := start.Name.Local
			if !root {
				if root = true; name != "gpx" {
					return nil, misread.At(x.line(), "a gpx or a kml element", "the file begins with %.40q", name)
				}
			}
			if name == "trkpt" {
				inside = true
				if p, err = trackPoint(x, start); err != nil {
					return nil, err
				}
			}
		case end != nil:
			if !inside {
				continue
			}
			switch end.Name.Local {
			case "ele":
				v, err := strconv.ParseFloat(string(bytes.TrimSpace(x.text)), 64)
				if err != nil {
					return nil, misread.At(x.line(), "a height in metres", "ele is %.20q", x.text)
				}
				p.geo.AltM, p.hasAlt = v, true
			case "time":
				t, ok := readTime(string(x.text))
				if !ok {
					return nil, misread.At(x.line(), "a time as RFC 3339", "time is %.30q", x.text)
				}
				p.at = t
			case "trkpt":
				inside = false
				if err := f.add(p); err != nil {
					return nil, err
				}
			}
		default:
			return f, nil
		}
	}
}

// trackPoint reads where a track point is.
func trackPoint(x *xmlTokens, start *xml.StartElement) (fix, error) {
	p := fix{line: x.line(), heading: math.NaN()}
	ok := 0
	for _, a := range start.Attr {
		v, err := strconv.ParseFloat(a.Value, 64)
		if err != nil {
			continue
		}
		switch a.Name.Local {
		case "lat":
			p.geo.LatDeg, ok = v, ok|1
		case "lon":
			p.geo.LonDeg, ok = v, ok|2
		}
	}
	if ok != 3 {
		return p, misread.At(x.line(), "lat and lon as numbers in degrees", "a track point has no place")
	}
	return p, nil
}

func (o *outgoing) gpx(b *bytes.Buffer) []string {
	b.WriteString("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<gpx version=\"1.1\" creator=\"Maestrale\" " +
		"xmlns=\"http://www.topografix.com/GPX/1/1\">\n<trk><trkseg>\n")
	for i := range o.t.T {
		g := o.geo(i)
		fmt.Fprintf(b, "<trkpt lat=\"%s\" lon=\"%s\"><ele>%s</ele><time>%s</time></trkpt>\n", degrees(g.LatDeg),
			degrees(g.LonDeg), format(g.AltM), o.at(i).Format(milliTime))
	}
	b.WriteString("</trkseg></trk>\n</gpx>\n")
	return []string{onlyPlaces}
}

func degrees(v float64) string { return strconv.FormatFloat(v, 'f', 9, 64) }

// readKML reads the points of a gx:Track; where a file has several, of the first.
func readKML(r io.Reader) (*fixes, error) {
	x := newXML(r, msgKmlGxTrack)
	f := &fixes{}
	var whens []fix
	var coords []fix
	var angles [][3]float64
	inside, done := false, false
	for {
		start, end, err := x.next()
		if err != nil {
			return nil, err
		}
		switch {
		case start != nil:
			inside = inside || (start.Name.Local == "Track" && !done)
		case end != nil && inside:
			text := string(bytes.TrimSpace(x.text))
			switch end.Name.Local {
			case "Track":
				inside, done = false, true
			case "altitudeMode":
				switch text {
				case "absolute":
					f.heights = AboveSea
				case "relativeToGround":
					f.heights = AbovePad
				case "clampToGround":
					return nil, misread.At(x.line(), "absolute or relativeToGround",
						"the track is clamped to the ground and has no heights")
				}
			case "when":
				t, ok := readTime(text)
				if !ok {
					return nil, misread.At(x.line(), "a time as RFC 3339", "when is %.30q", text)
				}
				whens = append(whens, fix{line: x.line(), at: t})
			case "coord":
				v, ok := threeNumbers(text)
				if !ok {
					return nil, misread.At(x.line(), "longitude, latitude and height with spaces between", "coord is %.40q", text)
				}
				coords = append(coords, fix{line: x.line(), geo: field.Geo{LatDeg: v[1], LonDeg: v[0], AltM: v[2]}, hasAlt: true})
			case "angles":
				v, ok := threeNumbers(text)
				if !ok {
					return nil, misread.At(x.line(), "heading, pitch and roll in degrees", "angles is %.40q", text)
				}
				angles = append(angles, v)
			}
			x.text = x.text[:0]
			if len(whens) > mostPoints || len(coords) > mostPoints {
				return nil, misread.At(x.line(), "one flight; split longer logs", "more than %d points", mostPoints)
			}
		case end == nil:
			return f, f.join(whens, coords, angles)
		}
	}
}

// join adds the times, places and angles of a gx:Track, which come as three lists in the same order.
func (f *fixes) join(whens, coords []fix, angles [][3]float64) error {
	if len(whens) != len(coords) {
		return misread.At(0, "as many as there are times", "the track has %d places for %d times", len(coords),
			len(whens))
	}
	for i := range coords {
		p := coords[i]
		p.at, p.heading = whens[i].at, math.NaN()
		if len(angles) == len(coords) {
			p.heading = angles[i][0]
		}
		if err := f.add(p); err != nil {
			return err
		}
	}
	return nil
}

func threeNumbers(text string) (v [3]float64, ok bool) {
	parts := bytes.Fields([]byte(text))
	if len(parts) != 3 {
		return v, false
	}
	for i, p := range parts {
		n, err := strconv.ParseFloat(string(p), 64)
		if err != nil || math.IsNaN(n) || math.IsInf(n, 0) {
			return v, false
		}
		v[i] = n
	}
	return v, true
}

func (o *outgoing) kml(b *bytes.Buffer) []string {
	b.WriteString("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<kml xmlns=\"http://www.opengis.net/kml/2.2\" " +
		"xmlns:gx=\"http://www.google.com/kml/ext/2.2\">\n<Placemark><gx:Track><altitudeMode>absolute</altitudeMode>\n")
	for i := range o.t.T {
		fmt.Fprintf(b, "<when>%s</when>\n", o.at(i).Format(milliTime))
	}
	for i := range o.t.T {
		g := o.geo(i)
		fmt.Fprintf(b, "<gx:coord>%s %s %s</gx:coord>\n", degrees(g.LonDeg), degrees(g.LatDeg), format(g.AltM))
	}
	lost := onlyPlaces
	if o.t.Heading != nil {
		for i := range o.t.T {
			pitch, roll := 0.0, 0.0
			if o.t.Pitch != nil && o.t.Roll != nil {
				pitch, roll = o.t.Pitch[i].Deg(), o.t.Roll[i].Deg()
			}
			fmt.Fprintf(b, "<gx:angles>%s %s %s</gx:angles>\n", format(o.p.ToTrueHeading(o.t.Heading[i]).Compass()),
				format(pitch), format(roll))
		}
		lost = msgOnlyTimePlaceHeight
	}
	b.WriteString("</gx:Track></Placemark>\n</kml>\n")
	return []string{lost}
}
