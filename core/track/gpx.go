package track

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"math"
	"strconv"
	"unicode"

	"maestrale/core/field"
	"maestrale/core/misread"
)

// xmlTokens walks through an XML file without building it. Documents with a
// type of their own are refused: nothing is expanded and nothing is fetched.
//
// A plain file is scanned; one that turns out not to be plain is notPlain, and
// is read again by encoding/xml.
type xmlTokens struct {
	*xml.Decoder
	scan   *scanner
	points int // about how many there are; 0 where that is not known
	what   string
	depth  int
	text   []byte
	local  []byte // the name of the element that begins or ends, without its prefix
	attrs  []attribute
}

// errNotPlain ends the scan of a file that has to be read by encoding/xml.
var errNotPlain = errors.New("not plain")

// plainly reads an XML file by its scan, and where that is not possible or
// finds a mistake, by encoding/xml.
func plainly(r sized, what string, read func(*xmlTokens) (*fixes, error)) (*fixes, error) {
	data, whole, again := readAll(r)
	if whole {
		if s := newScanner(data); s != nil {
			points := max(bytes.Count(data, []byte("<trkpt")), bytes.Count(data, []byte("<when")))
			if f, err := read(&xmlTokens{scan: s, what: what, points: min(points, mostPoints)}); err == nil {
				return f, nil
			}
		}
	}
	d := xml.NewDecoder(again())
	d.Strict = true
	return read(&xmlTokens{Decoder: d, what: what})
}

// line is where the reader stands.
func (x *xmlTokens) line() int {
	if x.scan != nil {
		return x.scan.line()
	}
	l, _ := x.InputPos()
	return l
}

// more adds text of the element that is open, up to 64 kB.
func (x *xmlTokens) more(text []byte) {
	if len(x.text)+len(text) < 1<<16 {
		x.text = append(x.text, text...)
	}
}

// next goes to the next start or end of an element. Text between them is
// gathered in text, which a start empties.
func (x *xmlTokens) next() (tag, error) {
	kind, err := x.token()
	if err != nil {
		return noTag, err
	}
	switch kind {
	case startTag:
		if x.depth++; x.depth > 100 {
			return noTag, misread.At(x.line(), x.what, "elements lie more than 100 deep in one another")
		}
		x.text = x.text[:0]
	case endTag:
		if x.depth--; x.depth < 0 {
			return noTag, misread.At(x.line(), x.what, "an element ends that has not begun")
		}
	case noTag:
		if x.depth != 0 {
			return noTag, misread.At(x.line(), "a whole file", "the file ends within an element")
		}
	}
	return kind, nil
}

// token is the next element, from the quick scanner or else from the decoder of
// the standard library.
func (x *xmlTokens) token() (tag, error) {
	if x.scan == nil {
		return x.decoded()
	}
	kind := x.scan.next(x.more)
	if kind == notPlain {
		return noTag, errNotPlain
	}
	x.local, x.attrs = x.scan.local, x.scan.attrs
	return kind, nil
}

// decoded is the next token by encoding/xml.
func (x *xmlTokens) decoded() (tag, error) {
	for {
		tok, err := x.RawToken()
		if errors.Is(err, io.EOF) {
			return noTag, nil
		}
		if err != nil {
			var large *misread.Error
			if errors.As(err, &large) {
				return noTag, large
			}
			return noTag, misread.At(x.line(), x.what, "not XML: %v", err)
		}
		switch el := tok.(type) {
		case xml.StartElement:
			x.local, x.attrs = []byte(el.Name.Local), x.attrs[:0]
			for _, a := range el.Attr {
				x.attrs = append(x.attrs, attribute{[]byte(a.Name.Local), []byte(a.Value)})
			}
			return startTag, nil
		case xml.EndElement:
			x.local = []byte(el.Name.Local)
			return endTag, nil
		case xml.CharData:
			x.more(el)
		case xml.Directive:
			return noTag, misread.At(x.line(), x.what+" without a document type", "the file declares a type of its own")
		}
	}
}

// readGPX reads the track points of a GPX 1.1 file, in the order of the file.
func readGPX(r sized) (*fixes, error) { return plainly(r, "GPX 1.1", gpxPoints) }

// gpxPoints reads the points of every track and segment, in their order.
func gpxPoints(x *xmlTokens) (*fixes, error) {
	f := &fixes{list: make([]fix, 0, x.points)}
	root, inside := false, false
	var p fix
	for {
		kind, err := x.next()
		if err != nil {
			return nil, err
		}
		switch kind {
		case startTag:
			if !root {
				if root = true; string(x.local) != "gpx" {
					return nil, misread.At(x.line(), "a gpx or a kml element", "the file begins with %.40q", x.local)
				}
			}
			if string(x.local) == "trkpt" {
				inside = true
				if p, err = trackPoint(x); err != nil {
					return nil, err
				}
			}
		case endTag:
			if !inside {
				continue
			}
			switch string(x.local) {
			case "ele":
				v, err := parseBytes(bytes.TrimSpace(x.text))
				if err != nil {
					return nil, misread.At(x.line(), "a height in metres", "ele is %.20q", x.text)
				}
				p.geo.AltM, p.hasAlt = v, true
			case "time":
				t, ok := readTimeBytes(x.text)
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
func trackPoint(x *xmlTokens) (fix, error) {
	p := fix{line: x.line(), heading: math.NaN()}
	ok := 0
	for _, a := range x.attrs {
		v, err := parseBytes(a.value)
		if err != nil {
			continue
		}
		switch string(a.local) {
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

// gpx writes a track with one segment; it returns what the format cannot hold.
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

// degrees writes an angle with nine places, a tenth of a millimetre on the
// ground.
func degrees(v float64) string { return strconv.FormatFloat(v, 'f', 9, 64) }

// readKML reads the points of a gx:Track; where a file has several, of the first.
func readKML(r sized) (*fixes, error) { return plainly(r, msgWantKMLTrack, kmlPoints) }

// kmlPoints reads the places, times and angles of the first gx:Track.
func kmlPoints(x *xmlTokens) (*fixes, error) {
	f := &fixes{list: make([]fix, 0, x.points)}
	l := &kmlLists{make([]fix, 0, x.points), make([]fix, 0, x.points), make([][3]float64, 0, x.points)}
	inside, done := false, false
	for {
		kind, err := x.next()
		if err != nil {
			return nil, err
		}
		switch kind {
		case startTag:
			inside = inside || (string(x.local) == "Track" && !done)
		case endTag:
			if !inside {
				continue
			}
			if string(x.local) == "Track" {
				inside, done = false, true
			} else if err := l.take(x, f); err != nil {
				return nil, err
			}
			x.text = x.text[:0]
			if len(l.whens) > mostPoints || len(l.coords) > mostPoints {
				return nil, misread.At(x.line(), "one flight; split longer logs", "more than %d points", mostPoints)
			}
		default:
			return f, f.join(l.whens, l.coords, l.angles)
		}
	}
}

// kmlLists are the three lists of a gx:Track.
type kmlLists struct {
	whens, coords []fix
	angles        [][3]float64
}

// take takes what an element of the track says.
func (l *kmlLists) take(x *xmlTokens, f *fixes) error {
	text := bytes.TrimSpace(x.text)
	switch string(x.local) {
	case "altitudeMode":
		switch string(text) {
		case "absolute":
			f.heights = AboveSea
		case "relativeToGround":
			f.heights = AbovePad
		case "clampToGround":
			return misread.At(x.line(), "absolute or relativeToGround",
				"the track is clamped to the ground and has no heights")
		}
	case "when":
		t, ok := readTimeBytes(text)
		if !ok {
			return misread.At(x.line(), "a time as RFC 3339", "when is %.30q", text)
		}
		l.whens = append(l.whens, fix{line: x.line(), at: t})
	case "coord":
		v, ok := threeNumbers(text)
		if !ok {
			return misread.At(x.line(), "longitude, latitude and height with spaces between", "coord is %.40q", text)
		}
		l.coords = append(l.coords, fix{line: x.line(), geo: field.Geo{LatDeg: v[1], LonDeg: v[0], AltM: v[2]}, hasAlt: true})
	case "angles":
		v, ok := threeNumbers(text)
		if !ok {
			return misread.At(x.line(), "heading, pitch and roll in degrees", "angles is %.40q", text)
		}
		l.angles = append(l.angles, v)
	}
	return nil
}

// join adds the times, places and angles of a gx:Track, which come as three
// lists in the same order.
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

// threeNumbers reads exactly three numbers with spaces between them.
func threeNumbers(text []byte) (v [3]float64, ok bool) {
	for i := range v {
		text = bytes.TrimSpace(text)
		end := bytes.IndexFunc(text, unicode.IsSpace)
		if end < 0 {
			end = len(text)
		}
		n, err := parseBytes(text[:end])
		if err != nil || math.IsNaN(n) || math.IsInf(n, 0) {
			return v, false
		}
		v[i], text = n, text[end:]
	}
	return v, len(bytes.TrimSpace(text)) == 0
}

// kml writes a placemark with a gx:Track; it returns what the format cannot
// hold.
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
		lost = msgLostButHeading
	}
	b.WriteString("</gx:Track></Placemark>\n</kml>\n")
	return []string{lost}
}
