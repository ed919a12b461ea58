package track

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"maestrale/bench/bare"
	"maestrale/core/field"
	"maestrale/core/nmea"
)

func planeAt(t testing.TB, lat, lon, alt, away float64) *field.Plane {
	t.Helper()
	p, err := field.NewPlane(field.Geo{LatDeg: lat, LonDeg: lon, AltM: alt}, away)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

// wandering is a made-up flight with a heading.
func wandering(r *rand.Rand, n int, start time.Time) *Track {
	t := &Track{Start: start}
	x, y, z, h := 20*r.Float64()-10, 30*r.Float64(), 5.0, 0.0
	for i := range n {
		t.T = append(t.T, math.Round((float64(i)*0.1+0.03*r.Float64())*1000)/1000)
		x, y, z, h = x+0.3*r.NormFloat64(), y+0.3*r.NormFloat64(), math.Max(0, z+0.1*r.NormFloat64()), h+0.1*r.NormFloat64()
		t.X, t.Y, t.Z = append(t.X, x), append(t.Y, y), append(t.Z, z)
		t.Heading = append(t.Heading, field.Angle(h).Wrap())
	}
	first := t.T[0]
	for i := range t.T {
		t.T[i] -= first
	}
	return t
}

// Every format gives back what it was given: places to 1 cm and times to 1 ms, IGC to
// 2 cm and heights to 1 m; anywhere on the earth, over midnight and the date line.
func TestFormatsRoundTrip(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 5))
	places := [][2]float64{{44.95, 13.05}, {-33.9, 151.2}, {65.1, -179.99995}, {-17.5, 179.99996}, {0.00002, -0.00003},
		{78, 15}}
	for i, at := range places {
		p := planeAt(t, at[0], at[1], 12.3, float64(i*60))
		start := time.Date(2026, 12, 31, 23, 59, 40, 250e6, time.UTC)
		want := wandering(r, 600, start)
		for _, f := range Formats[1:] {
			var file bytes.Buffer
			notes, err := Write(&file, want, f, p)
			if err != nil {
				t.Fatal(err)
			}
			if f != GeoCSV && len(notes) == 0 {
				t.Errorf("%s: nothing is said of what is lost", f)
			}
			if got := Sniff(file.Bytes()[:400]); got != f && f != GeoCSV {
				t.Fatalf("%s is taken for %s", f, got)
			}
			got, said, err := Read(bytes.NewReader(file.Bytes()), Options{CSVOptions: CSVOptions{Plane: p}})
			if err != nil {
				t.Fatalf("%s: %v", f, err)
			}
			flat, high := 0.01, 0.01
			if f == IGC {
				flat, high = 0.02, 0.55
			}
			if got.Len() != want.Len() || !got.Start.Equal(start) || (f != GeoCSV && !strings.Contains(strings.Join(said, "; "),
				"heights count from the sea")) {
				t.Fatalf("%s at %v: %d points from %v, %v", f, at, got.Len(), got.Start, said)
			}
			for k := range want.T {
				if math.Abs(got.T[k]-want.T[k]) > 0.001 || math.Hypot(got.X[k]-want.X[k], got.Y[k]-want.Y[k]) > flat ||
					math.Abs(got.Z[k]-want.Z[k]) > high {
					t.Fatalf("%s at %v, point %d: %v %v %v %v; expected %v %v %v %v", f, at, k, got.T[k], got.X[k], got.Y[k], got.Z[k],
						want.T[k], want.X[k], want.Y[k], want.Z[k])
				}
				if f == KML || f == GeoJSON {
					if (got.Heading[k] - want.Heading[k]).Wrap().Abs() > 1e-4 {
						t.Fatalf("%s: heading %v; expected %v", f, got.Heading[k], want.Heading[k])
					}
				}
			}
			// Heights that count from the pad lie as much higher as the pad does.
			if f != GeoCSV {
				pad, _, err := Read(bytes.NewReader(file.Bytes()), Options{CSVOptions: CSVOptions{Plane: p}, Heights: AbovePad})
				if err != nil || math.Abs(pad.Z[0]-got.Z[0]-12.3) > 0.01 {
					t.Errorf("%s from the pad: %v, %v", f, pad, err)
				}
			}
		}
	}
}

const gpxHead = `<?xml version="1.0"?><gpx version="1.1"><trk><trkseg>`

func point(time, rest string) string {
	return `<trkpt lat="44.95" lon="13.05">` + rest + `<time>` + time + `</time></trkpt>` + "\n"
}

// Leap seconds, zones, points that stand twice, a gx:Track above the ground, IGC past midnight.
func TestWhatFilesHold(t *testing.T) {
	p := planeAt(t, 44.95, 13.05, 100, 0)
	read := func(file string) (*Track, []string) {
		t.Helper()
		got, notes, err := Read(strings.NewReader(file), Options{CSVOptions: CSVOptions{Plane: p}})
		if err != nil {
			t.Fatalf("%v in %.80s", err, file)
		}
		return got, notes
	}
	g, notes := read(gpxHead + point("2016-12-31T23:59:59.5Z", "<ele>101</ele>") + point("2016-12-31T23:59:60.25Z",
		"<ele>102</ele>") + point("2017-01-01T01:00:01+01:00", "<ele>103</ele>") +
		point("2017-01-01T01:00:01+01:00", "<ele>103</ele>") + `</trkseg><trkseg>` + point("2017-01-01T00:00:02Z", "") +
		`</trkseg></trk></gpx>`)
	if !slices.EqualFunc(g.T, []float64{0, 0.75, 1.5, 2.5}, func(a, b float64) bool { return math.Abs(a-b) < 1e-9 }) ||
		math.Abs(g.Z[0]-1) > 1e-6 || math.Abs(g.Z[3]) > 1e-6 {
		t.Errorf("%v %v", g.T, g.Z)
	}
	if said := strings.Join(notes, "; "); !strings.Contains(said, "repeated points") || !strings.Contains(said,
		"1 of 4 points have no height") {
		t.Error(said)
	}
	k, notes := read(`<kml><Placemark><gx:Track><altitudeMode>relativeToGround</altitudeMode>` +
		`<when>2026-02-28T10:00:00Z</when><when>2026-02-28T10:00:01Z</when><gx:coord>13.05 44.95 3</gx:coord>` +
		`<gx:coord>13.05 44.95 4</gx:coord></gx:Track></Placemark></kml>`)
	if math.Abs(k.Z[0]-3) > 1e-6 || !strings.Contains(notes[0], "from the pad") || k.Heading != nil {
		t.Errorf("%v %v", k.Z, notes)
	}
	i, notes := read("AXMS\r\nHFDTEDATE:310326,01\r\nI013637LAD\r\nB2359594457000N01303000EA0010000100" +
		"00\r\nB0000014457000N01303000EV0010500000" + "00\r\n")
	if i.T[1] != 2 || i.Start.Day() != 31 || math.Abs(i.Z[1]-5) > 1e-6 || !strings.Contains(notes[0],
		"1 fixes have no height by satellite") {
		t.Errorf("%v %v %v %v", i.T, i.Z, i.Start, notes)
	}
	j, _ := read(`{"type":"FeatureCollection","features":[{"type":"Feature","geometry":{"type":"Point",` +
		`"coordinates":[1,2]},"properties":{}},{"type":"Feature","geometry":{"type":"LineString",` +
		`"coordinates":[[13.05,44.95],[13.05,44.95,101]]},` +
		`"properties":{"coordinateProperties":{"times":["2024-02-29T23:59:59Z","2024-03-01T00:00:00Z"]}}}]}`)
	if j.T[1] != 1 || math.Abs(j.Z[1]-1) > 1e-6 {
		t.Errorf("%v %v", j.T, j.Z)
	}
}

// What cannot be read is one error that says what, where, and what was expected.
func TestFilesAreRefused(t *testing.T) {
	p := planeAt(t, 44.95, 13.05, 100, 0)
	bomb := `<?xml version="1.0"?><!DOCTYPE gpx [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;">]><gpx><trk>` +
		`<trkseg><trkpt lat="&b;" lon="1"/></trkseg></trk></gpx>`
	for file, want := range map[string]string{
		bomb: "declares a type of its own",
		`<!DOCTYPE gpx SYSTEM "file:///etc/passwd"><gpx></gpx>`:              "declares a type of its own",
		`<gpx><trk><trkseg><trkpt lat="&a;" lon="13"/></trkseg></trk></gpx>`: "not XML",
		`<svg/>`:                             "begins with \"svg\"",
		`<gpx></gpx>`:                        "holds no track",
		`<gpx><trk>`:                         "ends within an element",
		gpxHead + `<trkpt lat="x" lon="1"/>`: "a track point has no place",
		gpxHead + `<trkpt lat="95" lon="1"><time>2026-01-01T00:00:00Z</time></trkpt>`: "1: ",
		gpxHead + `<trkpt lat="44" lon="13"></trkpt>`:                                 "a point has no time",
		gpxHead + point("yesterday",
			""): `time is "yesterday"`,
		gpxHead + point("2026-01-01T00:00:00Z", "<ele>high</ele>"): `ele is "high"`,
		gpxHead + "\n" + point("2026-01-01T00:00:01Z", "") + point("2026-01-01T00:00:00Z",
			"<ele>1</ele>"): "3: 00:00:00.000 after 00:00:01.000",
		strings.Repeat("<a>", 200):                                                   "begins with",
		"<gpx>" + strings.Repeat("<a>", 200):                                         "100 deep",
		`<kml><gx:Track><when>2026-01-01T00:00:00Z</when></gx:Track></kml>`:          "0 places for 1 times",
		`<kml><gx:Track><altitudeMode>clampToGround</altitudeMode></gx:Track></kml>`: "clamped",
		`<kml><gx:Track><gx:coord>13 44</gx:coord></gx:Track></kml>`: "longitude, latitude " +
			"and height",
		`{"type":"LineString"}`: "a Feature",
		"{\n\"type\": }":        "2: ",
		`{"type":"Feature","geometry":{"type":"LineString","coordinates":[[1,2]]},` +
			`"properties":{}}`: "with coordTimes",
		`{"type":"Feature","geometry":{"type":"LineString","coordinates":[[1]]},` +
			`"properties":{"coordTimes":["2026-01-01T00:00:00Z"]}}`: "place 1 has 1 numbers",
		"AXMS\nHFDTE990126\n":                                      "the date is",
		"AXMS\nHX\nB1000004457000N01303000EA00100\n":               "before the day is known",
		"AXMS\nHFDTE010126\nB1000004457000N01303000EA0010\n":       "too few characters",
		"AXMS\nHFDTE010126\nB2500004457000N01303000EA0010000100\n": "no time of day",
		"AXMS\nHFDTE010126\nB1000004467000N01303000QA0010000100\n": "no l",
		"AXMS\nHFDTE010126\nI02\n":                                 "the I record",
	} {
		_, _, err := Read(strings.NewReader(file), Options{CSVOptions: CSVOptions{Plane: p}})
		if err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%.90q: %v; expected %q", file, err, want)
		}
	}
	if _, _, err := Read(strings.NewReader(gpxHead+point("2026-01-01T00:00:00Z", "")+"</trkseg></trk></gpx>"),
		Options{}); !errors.Is(err, ErrNoPlane) {
		t.Errorf("without a place: %v", err)
	}
	if _, err := Write(io.Discard, &Track{}, GPX, nil); err == nil {
		t.Error("GPX is written without a place")
	}
	if _, err := Write(io.Discard, &Track{}, "fit", p); err == nil {
		t.Error("an unknown format is written")
	}
}

func FuzzRead(f *testing.F) {
	p, err := field.NewPlane(field.Geo{LatDeg: 44.95, LonDeg: 13.05}, 30)
	if err != nil {
		f.Fatal(err)
	}
	t := wandering(rand.New(rand.NewPCG(1, 1)), 4, time.Date(2026, 2, 3, 4, 5, 6, 0, time.UTC))
	for _, form := range Formats {
		var file bytes.Buffer
		if _, err := Write(&file, t, form, p); err != nil {
			f.Fatal(err)
		}
		f.Add(file.Bytes())
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		got, _, err := Read(bytes.NewReader(data), Options{CSVOptions: CSVOptions{Plane: p}})
		if err != nil {
			if got != nil || err.Error() == "" {
				t.Fatalf("%v with an error %v", got, err)
			}
			return
		}
		for i := range got.T {
			if math.IsNaN(got.X[i]+got.Y[i]+got.Z[i]) || (i > 0 && !(got.T[i] > got.T[i-1])) {
				t.Fatalf("point %d of %d: %v %v %v at %v", i, got.Len(), got.X[i], got.Y[i], got.Z[i], got.T[i])
			}
		}
	})
}

func gpxOfTenMinutes(b *testing.B) []byte {
	b.Helper()
	var file bytes.Buffer
	p := planeAt(b, 44.95, 13.05, 2, 30)
	if _, err := Write(&file, wandering(rand.New(rand.NewPCG(1, 2)), 30_000, time.Date(2026, 2, 3, 4, 5, 6, 0, time.UTC)),
		GPX, p); err != nil {
		b.Fatal(err)
	}
	return file.Bytes()
}

func BenchmarkReadGPX(b *testing.B) {
	data, p := gpxOfTenMinutes(b), planeAt(b, 44.95, 13.05, 2, 30)
	b.SetBytes(int64(len(data)))
	for b.Loop() {
		if t, _, err := Read(bytes.NewReader(data), Options{CSVOptions: CSVOptions{Plane: p}}); err != nil ||
			t.Len() != 30_000 {
			b.Fatal(err)
		}
	}
}

// BenchmarkBareXML is the loop that GPX is held against.
func BenchmarkBareXML(b *testing.B) {
	data := gpxOfTenMinutes(b)
	b.SetBytes(int64(len(data)))
	for b.Loop() {
		d := xml.NewDecoder(bytes.NewReader(data))
		n := 0
		for {
			if _, err := d.Token(); err != nil {
				break
			}
			n++
		}
		if n < 30_000 {
			b.Fatal(fmt.Errorf("%d tokens", n))
		}
	}
}

// A receiver follows a stream: the date comes with RMC, also over midnight, places with
// GGA, and what a radio has garbled is left out and counted.
func TestReceiver(t *testing.T) {
	say := nmea.Close
	var r Receiver
	hear := func(line string) (Fix, bool) {
		t.Helper()
		x, ok, err := r.Hear(line)
		if err != nil {
			t.Fatal(err)
		}
		return x, ok
	}
	gga := func(clock string) string {
		return say("GPGGA," + clock + ",4457.0600000,N,01303.0000000,W,1,12,0.8,-1.500,M,,,,")
	}
	if _, ok := hear(gga("235959.900")); ok {
		t.Error("a place of no day")
	}
	hear(say("GPRMC,235959.900,A,4457.0600,N,01303.0000,E,,,310326,,"))
	x, ok := hear(gga("235959.900"))
	if !ok || x.At.Format(time.RFC3339Nano) != "2026-03-31T23:59:59.9Z" || math.Abs(x.Geo.LatDeg-44.951) > 1e-12 ||
		x.Geo.LonDeg != -13.05 || x.Geo.AltM != -1.5 || !math.IsNaN(x.Heading) {
		t.Errorf("%+v", x)
	}
	hear(say("GPHDT,271.5,T"))
	if x, _ = hear(gga("000000.100")); x.At.Format(time.RFC3339Nano) != "2026-04-01T00:00:00.1Z" || x.Heading != 271.5 {
		t.Errorf("past midnight: %+v", x)
	}
	if _, ok := hear(say("GPGGA,000000.300,,,,,0,00,,,M,,M,,")); ok {
		t.Error("a place without a fix")
	}
	for body, want := range map[string]string{
		"GPGGA,000000.3,4457.06,N,01303,E,1,12":                   "fields of a GGA",
		"GPGGA,250000.300,4457.06,N,01303.0,E,1,12,1,1,M,,,,":     "hhmmss.sss",
		"GPGGA,000000.300,4467.06,X,01303.0,E,1,12,1,1,M,,,,":     "ddmm.mm N or S",
		"GPGGA,000000.300,4487.06,N,01373.0,E,1,12,1,1,M,,,,":     "ddmm.mm N or S",
		"GPGGA,000000.300,4457.06,N,01303.0,E,1,12,1,1,F,,,,":     "expected metres",
		"GPRMC,235959.900,A,4457.0600,N,01303.0000,E,,,99-12-,,,": "ddmmyy",
		"GPHDT,400,T": "0 to 360",
	} {
		if _, _, err := r.Hear(say(body)); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v", body, err)
		}
	}
	log := say("GPRMC,100000.000,A,4457.0600,N,01303.0000,E,,,310326,,") + gga("100000.000") +
		"$GPGGA,garbled*00\r\n\r\n" + gga("100001.000")
	p := planeAt(t, 44.95, -13.05, 0, 0)
	tr, notes, err := Read(strings.NewReader(log), Options{CSVOptions: CSVOptions{Plane: p}})
	if err != nil || tr.Len() != 2 || !strings.Contains(strings.Join(notes, ";"), "1 of 5 lines are no sound sentences") {
		t.Errorf("%v %v %v", tr, notes, err)
	}
	if _, _, err := Read(strings.NewReader("$GPGGA,garbled*00\n"),
		Options{CSVOptions: CSVOptions{Plane: p}}); err == nil || !strings.Contains(err.Error(), "1: check sum") {
		t.Errorf("%v", err)
	}
}

func FuzzReceiver(f *testing.F) {
	f.Add("$GPGGA,235959.900,4457.0600000,N,01303.0000000,W,1,12,0.8,-1.500,M,,,,*4C\r\n", "GPHDT,1,T")
	f.Add("$GPRMC,235959.900,A,4457.0600,N,01303.0000,E,,,310326,,*26",
		"GPGGA,000000.300,4457.06,N,01303.0,E,1,12,1,1,M,,,,")
	f.Fuzz(func(t *testing.T, line, body string) {
		r := Receiver{day: time.Date(2026, 5, 1, 0, 0, 0, 0, time.UTC)}
		for _, s := range []string{line, nmea.Close(body)} {
			if x, ok, err := r.Hear(s); ok && (err != nil || x.At.IsZero() || math.Abs(x.Geo.LatDeg) > 100 ||
				math.Abs(x.Geo.LonDeg) > 1000) {
				t.Errorf("%+v %v", x, err)
			}
		}
	})
}

// A file that spans centuries is refused: the differences of its times cannot be held.
func TestALogOfCenturiesIsRefused(t *testing.T) {
	plane, err := field.NewPlane(field.Geo{LatDeg: 45, LonDeg: 12}, 0)
	if err != nil {
		t.Fatal(err)
	}
	kml := `<kml xmlns="http://www.opengis.net/kml/2.2" xmlns:gx="http://www.google.com/kml/ext/2.2"><Placemark>` +
		`<gx:Track>` +
		`<when>0000-01-01T00:00:00Z</when><when>0400-01-01T00:00:00Z</when><when>1000-01-01T00:00:00Z</when>` +
		`<gx:coord>12 45 1</gx:coord><gx:coord>12 45 2</gx:coord><gx:coord>12 45 3</gx:coord></gx:Track></Placemark></kml>`
	csv := "time,lat_deg,lon_deg,alt_m\n0001-01-01T00:00:00Z,45,12,1\n1000-01-01T00:00:00Z,45,12,2\n" +
		"2026-01-01T00:00:00Z,45,12,2\n"
	for name, data := range map[string]string{"KML": kml, "CSV": csv} {
		if _, _, err := Read(strings.NewReader(data), Options{CSVOptions: CSVOptions{Plane: plane}}); err == nil ||
			!strings.Contains(err.Error(), "a year at most") {
			t.Errorf("%s: %v", name, err)
		}
	}
	leap := "time,lat_deg,lon_deg,alt_m\n2016-12-31T23:59:59Z,45,12,1\n2016-12-31T23:59:60Z,45,12,1\n" +
		"2017-01-01T00:00:01Z,45,12,2\n"
	tr, _, err := Read(strings.NewReader(leap), Options{CSVOptions: CSVOptions{Plane: plane}})
	if err != nil || tr.Len() != 3 || tr.T[1] != 1 {
		t.Errorf("the second 60: %v %v", err, tr)
	}
}

// BenchmarkOnePassXML is what GPX is held to: one pass over the bytes that counts the elements.
func BenchmarkOnePassXML(b *testing.B) {
	data := gpxOfTenMinutes(b)
	b.SetBytes(int64(len(data)))
	for b.Loop() {
		if n := bare.Elements(data); n < 30_000 {
			b.Fatal(n)
		}
	}
}

func BenchmarkReadKML(b *testing.B) {
	var file bytes.Buffer
	p := planeAt(b, 44.95, 13.05, 2, 30)
	if _, err := Write(&file, wandering(rand.New(rand.NewPCG(1, 2)), 30_000, time.Date(2026, 2, 3, 4, 5, 6, 0, time.UTC)),
		KML, p); err != nil {
		b.Fatal(err)
	}
	b.SetBytes(int64(file.Len()))
	for b.Loop() {
		if t, _, err := Read(bytes.NewReader(file.Bytes()), Options{CSVOptions: CSVOptions{Plane: p}}); err != nil ||
			t.Len() != 30_000 {
			b.Fatal(err)
		}
	}
}
