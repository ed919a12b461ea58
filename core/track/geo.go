package track

import (
	"bytes"
	"fmt"
	"io"
	"math"
	"strings"
	"time"

	"maestrale/core/field"
	"maestrale/core/misread"
)

// Format is an open format of tracks.
type Format string

// The formats.
const (
	CSV     Format = "csv"     // the field form
	GeoCSV  Format = "csv-geo" // the geographic form
	GPX     Format = "gpx"
	IGC     Format = "igc"
	KML     Format = "kml"
	GeoJSON Format = "geojson"
	NMEA    Format = "nmea" // GGA, RMC and HDT sentences
)

// Formats lists the formats that are written.
var Formats = []Format{CSV, GeoCSV, GPX, IGC, KML, GeoJSON, NMEA}

// Heights says what the heights of a geographic file count from.
type Heights string

// The height references.
const (
	AboveSea Heights = "sea"
	AbovePad Heights = "pad"
)

// Options say how a file is read.
type Options struct {
	CSVOptions
	Heights Heights // of geographic files; empty = as the file says, above the sea where it says nothing
}

// ErrNoPlane is a file in degrees without the field's place on the earth.
var ErrNoPlane = &misread.Error{What: msgNotTied,
	Expected: msgWantTie}

// mostPoints is how many points a file may hold.
const mostPoints = MaxSamples

// Sniff tells the format of a file from how it begins. What is none of the others
// is CSV.
func Sniff(head []byte) Format {
	head = bytes.TrimLeft(bytes.TrimPrefix(head, []byte{0xEF, 0xBB, 0xBF}), " \t\r\n")
	switch {
	case bytes.HasPrefix(head, []byte("<")):
		if i := bytes.Index(head, []byte("<kml")); i >= 0 {
			return KML
		}
		return GPX
	case bytes.HasPrefix(head, []byte("{")):
		return GeoJSON
	case len(head) > 1 && head[0] == 'A' && head[1] != ',' && bytes.Contains(head, []byte("\nH")):
		return IGC
	case len(head) > 6 && head[0] == '$' && bytes.Contains(head, []byte("*")):
		return NMEA
	}
	return CSV
}

// Read reads a track of any format, told by how the file begins, and notes on what
// was left out or has to be known. A wrong file is one error with its line; nothing
// of it is returned.
func Read(r io.Reader, o Options) (*Track, []string, error) {
	size := sizeOf(r)
	b, err := open(r)
	if err != nil {
		return nil, nil, err
	}
	head, _ := b.Peek(4096)
	all := sized{b, size}
	switch f := Sniff(head); f {
	case GPX:
		return readFixes(all, o, readGPX)
	case KML:
		return readFixes(all, o, readKML)
	case IGC:
		return readFixes(all, o, readIGC)
	case GeoJSON:
		return readFixes(all, o, readGeoJSON)
	case NMEA:
		return readFixes(all, o, readNMEA)
	default:
		return readCSV(all, o.CSVOptions)
	}
}

// longestLog is the longest time that a file may span: what is longer is no log
// of flights, and the differences of times centuries apart cannot be held.
const (
	longestLog  = 366 * 24 * time.Hour
	longestSaid = msgWantAYear
)

// fix is a point of a geographic file.
type fix struct {
	line    int
	at      time.Time
	geo     field.Geo
	hasAlt  bool
	heading float64 // true, degrees; NaN where the file has none
}

// fixes are the points of a file and what the file says of them.
type fixes struct {
	list    []fix
	heights Heights
	notes   []string
}

// add adds a fix. One at the same time as the one before is left out with a
// note; one that goes back in time, or has no valid place, is an error.
func (f *fixes) add(x fix) error {
	if len(f.list) >= mostPoints {
		return misread.At(x.line, "one flight; split longer logs", "more than %d points", mostPoints)
	}
	if err := x.geo.Valid(); err != nil {
		return misread.At(x.line, "latitude and longitude in degrees", "%v", err)
	}
	if x.at.IsZero() {
		return misread.At(x.line, "a time at every point", "a point has no time")
	}
	if n := len(f.list); n > 0 {
		if first := f.list[0].at; x.at.After(first.Add(longestLog)) {
			return misread.At(x.line, longestSaid, "the log goes on to %s after it began on %s",
				x.at.UTC().Format(time.DateOnly), first.UTC().Format(time.DateOnly))
		}
		last := &f.list[n-1]
		if x.at.Equal(last.at) && x.geo == last.geo {
			f.repeated()
			return nil
		}
		if !x.at.After(last.at) {
			return misread.At(x.line, "points in the order of their times", "%s after %s", clock(x.at), clock(last.at))
		}
	}
	f.list = append(f.list, x)
	return nil
}

const repeatedNote = msgPointsTwice

// repeated notes, once, that fixes were left out.
func (f *fixes) repeated() {
	for _, n := range f.notes {
		if n == repeatedNote {
			return
		}
	}
	f.notes = append(f.notes, repeatedNote)
}

// clock is a time of day for an error.
func clock(t time.Time) string { return t.UTC().Format("15:04:05.000") }

// readFixes reads a file with one of the readers and makes a track of its
// fixes.
func readFixes(r sized, o Options, read func(sized) (*fixes, error)) (*Track, []string, error) {
	f, err := read(r)
	if err != nil {
		return nil, nil, err
	}
	t, err := f.track(o)
	if err != nil {
		return nil, nil, err
	}
	return t, f.notes, nil
}

// track brings the points into the field frame.
func (f *fixes) track(o Options) (*Track, error) {
	if len(f.list) == 0 {
		return nil, misread.At(0, "a track with one point at least", "the file holds no track")
	}
	if o.Plane == nil {
		return nil, ErrNoPlane
	}
	heights := o.Heights
	if heights == "" {
		if heights = f.heights; heights == "" {
			heights = AboveSea
		}
	}
	first := f.list[0].at
	t := &Track{Start: first.UTC()}
	n := len(f.list)
	t.T, t.X, t.Y, t.Z = make([]float64, n), make([]float64, n), make([]float64, n), make([]float64, n)
	low, without := math.Inf(1), 0
	head := !math.IsNaN(f.list[0].heading)
	for i := range f.list {
		x := &f.list[i]
		g := x.geo
		if !x.hasAlt {
			g.AltM, without = o.Plane.Origin().AltM, without+1
		} else if heights == AbovePad {
			g.AltM += o.Plane.Origin().AltM
		}
		p, z := o.Plane.ToField(g)
		t.T[i], t.X[i], t.Y[i], t.Z[i] = x.at.Sub(first).Seconds(), p.X, p.Y, z
		low = math.Min(low, z)
		head = head && !math.IsNaN(x.heading)
	}
	if head {
		t.Heading = make([]field.Angle, n)
		for i := range f.list {
			t.Heading[i] = o.Plane.ToFieldHeading(field.Degrees(f.list[i].heading))
		}
	}
	if without > 0 {
		f.notes = append(f.notes, fmt.Sprintf(msgPointsWithoutHeight, without, n))
	} else {
		f.notes = append(f.notes, fmt.Sprintf(msgHeightsFrom,
			heights, low))
	}
	return t, nil
}

// readTime reads RFC 3339; the second 60 of a leap is the one after it.
func readTime(s string) (time.Time, bool) {
	s = strings.TrimSpace(s)
	t, err := time.Parse(time.RFC3339Nano, s)
	if err == nil {
		return t, true
	}
	if i := strings.Index(s, ":60"); i == 16 && len(s) > 19 {
		if t, err = time.Parse(time.RFC3339Nano, s[:17]+"59"+s[19:]); err == nil {
			return t.Add(time.Second), true
		}
	}
	return time.Time{}, false
}

// readTimeBytes is readTime for bytes. What is written as most programs write
// it, to the letter, is read in one pass.
func readTimeBytes(b []byte) (time.Time, bool) {
	b = bytes.TrimSpace(b)
	if t, ok := utc(b); ok {
		return t, true
	}
	return readTime(string(b))
}

// utc reads 2006-01-02T15:04:05Z with up to nine digits of a second behind a point.
func utc(b []byte) (time.Time, bool) {
	const form = "0000-00-00T00:00:00"
	if len(b) < len(form)+1 || b[len(b)-1] != 'Z' {
		return time.Time{}, false
	}
	var part [6]int
	k := 0
	for i := range len(form) {
		switch c := b[i]; {
		case form[i] == '0' && c >= '0' && c <= '9':
			part[k] = part[k]*10 + int(c-'0')
		case form[i] == '0' || c != form[i]:
			return time.Time{}, false
		default:
			k++
		}
	}
	nanos, rest := 0, b[len(form):len(b)-1]
	if len(rest) > 0 {
		if rest[0] != '.' || len(rest) < 2 || len(rest) > 10 {
			return time.Time{}, false
		}
		unit := 100_000_000
		for _, c := range rest[1:] {
			if c < '0' || c > '9' {
				return time.Time{}, false
			}
			nanos, unit = nanos+int(c-'0')*unit, unit/10
		}
	}
	if part[1] < 1 || part[1] > 12 || part[2] < 1 || part[2] > 28 || part[3] > 23 || part[4] > 59 || part[5] > 59 {
		return time.Time{}, false // or the end of a month
	}
	return time.Date(part[0], time.Month(part[1]), part[2], part[3], part[4], part[5], nanos, time.UTC), true
}

// Write writes a track in a format, and notes on what the format loses. A track
// without a date is given that of the first of January 2000.
func Write(w io.Writer, t *Track, f Format, p *field.Plane) ([]string, error) {
	if f == CSV {
		return nil, WriteCSV(w, t)
	}
	if p == nil {
		return nil, fmt.Errorf("%s is in degrees; expected the field's origin and the direction of its y axis", f)
	}
	if f == GeoCSV {
		return nil, WriteGeoCSV(w, t, p)
	}
	var notes []string
	start := t.Start
	if start.IsZero() {
		start = time.Date(2000, 1, 1, 0, 0, 0, 0, time.UTC)
		notes = append(notes, msgNoDateWritten)
	}
	o := outgoing{t: t, p: p, start: start}
	var buf bytes.Buffer
	var lost []string
	switch f {
	case GPX:
		lost = o.gpx(&buf)
	case KML:
		lost = o.kml(&buf)
	case IGC:
		lost = o.igc(&buf)
	case GeoJSON:
		lost = o.geojson(&buf)
	case NMEA:
		lost = o.nmea(&buf)
	default:
		return nil, fmt.Errorf("the format %.40q is not known; expected one of %v", f, Formats)
	}
	if _, err := buf.WriteTo(w); err != nil {
		return nil, fmt.Errorf("write track: %w", err)
	}
	return append(notes, lost...), nil
}

// outgoing is a track on its way to a geographic format.
type outgoing struct {
	t     *Track
	p     *field.Plane
	start time.Time
}

// geo is the place of sample i on the earth.
func (o *outgoing) geo(i int) field.Geo {
	return o.p.ToGeo(field.Point{X: o.t.X[i], Y: o.t.Y[i]}, o.t.Z[i])
}

// at is when sample i was taken, to a millisecond.
func (o *outgoing) at(i int) time.Time {
	return o.start.Add(time.Duration(math.Round(o.t.T[i]*1000)) * time.Millisecond).UTC()
}

const (
	milliTime  = "2006-01-02T15:04:05.000Z"
	onlyPlaces = msgLostButPlace
)
