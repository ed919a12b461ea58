package course

import (
	"strings"
	"testing"

	"maestrale/core/craft"
	"maestrale/core/field"
)

const sample = `format: maestrale-course/1
origin: {lat: 45.2, lon: 12.3, alt_m: 2}
away_deg: 315
station: [0, 0]
markers: {pad: [0, 8], centre: [0, 12]}
crowd: [[-20, -5], [20, -5]]
surface: hardstanding
hazards:
  - {kind: tree, at: [30, 40], height_m: 9}
  - {kind: water, ring: [[50, 0], [60, 0], [60, 10]]}
`

func TestParse(t *testing.T) {
	c, err := Parse([]byte(sample))
	if err != nil {
		t.Fatal(err)
	}
	if c.Markers["centre"] != (field.Point{X: 0, Y: 12}) || c.Plane.AwayDeg() < 314.99 || len(c.Hazards) != 2 ||
		!c.Hazards[1].Closed {
		t.Errorf("read %+v", c)
	}
}

func TestParseRefuses(t *testing.T) {
	for _, c := range []struct{ from, to, want string }{
		{"lat: 45.2", "lat: 95", "2: "},
		{"away_deg: 315\n", "", "both or none"},
		{"pad: [0, 8]", "pad: [0]", "5: "},
		{"kind: tree", "kind: dragon", "9: "},
		{", height_m: 9", ", hight_m: 9", `unknown key "hight_m"`},
		{"at: [30, 40], ", "", "at, line or ring"},
		{"surface", "surfaces", "unknown key"},
	} {
		_, err := Parse([]byte(strings.Replace(sample, c.from, c.to, 1)))
		if err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%q for %q: %v, want %q", c.to, c.from, err, c.want)
		}
	}
}

func TestTheBoxIsSymmetricAndGrowsWithTheCraft(t *testing.T) {
	last := 0.0
	for _, class := range craft.Classes {
		c, ok := Lay("box", class)
		if !ok {
			t.Fatal("no box")
		}
		if c.Markers["near-left"].Mirror() != c.Markers["near-right"] ||
			c.Markers["far-left"].Mirror() != c.Markers["far-right"] {
			t.Errorf("%s: the box leans", class)
		}
		if c.Markers["centre"].Y <= last {
			t.Errorf("%s: the box is not farther off than for a smaller craft", class)
		}
		last = c.Markers["centre"].Y
	}
	if _, ok := Lay("maze", craft.Light); ok {
		t.Error("an unknown template was laid")
	}
}

func FuzzParse(f *testing.F) {
	f.Add(sample)
	f.Add("format: maestrale-course/1\nname: \"a \\u0085 \\x7f “b” # c: 'd'\"\nstation: [0, 0]\nmarkers: {true: [0, 1], " +
		"\"~\": [1, 2], \"- x\": [2, 3]}\n")
	f.Fuzz(func(t *testing.T, data string) {
		c, err := Parse([]byte(data))
		if (c == nil) == (err == nil) {
			t.Fatal("a course or an error, not both")
		}
		if err != nil {
			return
		}
		out, err := c.YAML() // what was read can be written and read again
		if err != nil {
			t.Fatal(err)
		}
		back, err := Parse(out)
		if err != nil || back.Name != c.Name || len(back.Markers) != len(c.Markers) || len(back.Hazards) != len(c.Hazards) {
			t.Errorf("%v\n%q", err, out)
		}
	})
}

// What is written is read back the same, to the millimetre, in every format.
func TestFormatsRoundTrip(t *testing.T) {
	c, err := Parse([]byte(sample))
	if err != nil {
		t.Fatal(err)
	}
	c.Name = "the old salt pan"
	c.Station = field.Point{X: 0.5, Y: -1}
	c.Hazards = append(c.Hazards, Hazard{Kind: "wire", Name: "the low wire", At: []field.Point{{X: 4, Y: 5}, {X: 9, Y: 30},
		{X: 20, Y: 31}}, HeightM: 6.5})
	c.Crowd = append(c.Crowd, []field.Point{{X: -40, Y: -9}, {X: -30, Y: -9}})
	writers := map[string]func() ([]byte, error){"yaml": c.YAML, "geojson": c.GeoJSON, "kml": c.KML}
	readers := map[string]func([]byte) (*Course, error){
		"yaml":    Parse,
		"geojson": func(b []byte) (*Course, error) { c, _, err := ReadGeoJSON(b, nil); return c, err },
		"kml":     func(b []byte) (*Course, error) { c, _, err := ReadKML(b, nil); return c, err },
	}
	for name, write := range writers {
		data, err := write()
		if err != nil {
			t.Fatal(name, err)
		}
		got, err := readers[name](data)
		if err != nil {
			t.Fatalf("%s: %v\n%s", name, err, data)
		}
		// GeoJSON and KML have no frame of their own: the station is the origin again.
		off := field.Point{}
		if name != "yaml" {
			off = c.Station
		}
		same := func(what string, a, b field.Point) {
			if a.Dist(field.Point{X: b.X - off.X, Y: b.Y - off.Y}) > 0.003 {
				t.Errorf("%s: %s is %v, was %v", name, what, a, b)
			}
		}
		for k, p := range c.Markers {
			same(k, got.Markers[k], p)
		}
		if len(got.Hazards) != len(c.Hazards) || len(got.Crowd) != 2 || len(got.Markers) != len(c.Markers) {
			t.Fatalf("%s: %d hazards, %d crowd lines, %d markers", name, len(got.Hazards), len(got.Crowd), len(got.Markers))
		}
		for i, h := range c.Hazards {
			g := got.Hazards[i]
			if g.Kind != h.Kind || g.Name != h.Name || g.Closed != h.Closed || g.HeightM != h.HeightM || len(g.At) != len(h.At) {
				t.Errorf("%s: %+v, was %+v", name, g, h)
				continue
			}
			for j := range h.At {
				same(h.Kind, g.At[j], h.At[j])
			}
		}
		if d := got.Plane.AwayDeg() - c.Plane.AwayDeg(); d > 1e-6 || d < -1e-6 {
			t.Errorf("%s: away %v", name, got.Plane.AwayDeg())
		}
	}
	gpx, err := c.GPX()
	if err != nil || strings.Count(string(gpx), "<wpt ") != 4 || strings.Count(string(gpx), "<rte>") != 4 ||
		!strings.Contains(string(gpx), "version=\"1.1\"") {
		t.Errorf("%v\n%s", err, gpx)
	}
	if _, err := (&Course{}).GPX(); err == nil {
		t.Error("a course without a place on the earth was written in degrees")
	}
}

func TestChecksKeepTheCourse(t *testing.T) {
	c, _ := Lay("box", craft.Light)
	for _, bad := range []struct {
		change func(*Course)
		want   string
	}{
		{func(c *Course) { c.Markers["pad"] = field.Point{X: 0, Y: -3} }, "marker pad stands 3.0 m behind the pilot"},
		{func(c *Course) {
			c.Crowd = [][]field.Point{{{X: -5, Y: -5}, {X: 5, Y: -5}}, {{X: 0, Y: -9}, {X: 0, Y: -1}}}
		}, "crowd line 1 crosses crowd line 2 at [0.0, -5.0]"},
		{func(c *Course) {
			c.Crowd = [][]field.Point{{{X: 0, Y: -5}, {X: 5, Y: -5}, {X: 5, Y: -9}, {X: 2, Y: -2}}}
		}, "crosses"},
		{func(c *Course) { c.Crowd = [][]field.Point{{{X: 0, Y: -5}}} }, "1 points"},
		{func(c *Course) { c.Hazards = []Hazard{{Kind: "tree"}} }, "has 0 points"},
		{func(c *Course) { c.Hazards = []Hazard{{Kind: "tree", At: []field.Point{{X: 1e9}}}} }, "at most"},
		{func(c *Course) { c.Hazards = []Hazard{{Kind: "tree", At: []field.Point{{X: 1}}, HeightM: -1}} }, "high"},
		{func(c *Course) { c.Hazards = make([]Hazard, mostHazards+1) }, "at most"},
	} {
		was := c.Clone()
		if err := c.Change(bad.change); err == nil || !strings.Contains(err.Error(), bad.want) {
			t.Errorf("%v, want %q", err, bad.want)
		}
		if c.Markers["pad"] != was.Markers["pad"] || len(c.Hazards) != len(was.Hazards) || len(c.Crowd) != len(was.Crowd) {
			t.Fatal("a refused change was kept")
		}
	}
	if err := c.Scale(2); err != nil || c.Markers["centre"].Y != 12 {
		t.Errorf("scaled to %v, %v", c.Markers["centre"], err)
	}
	if c.Scale(1e7) == nil {
		t.Error("scaled off the field")
	}
	for _, k := range TemplateKeys() {
		for _, class := range craft.Classes {
			if !c.LayOver(k, class) || c.Check() != nil {
				t.Errorf("template %s for %s: %v", k, class, c.Check())
			}
		}
	}
}

const collection = `{"type": "FeatureCollection", "features": [
 {"type": "Feature", "properties": {"kind": "station", "name": "station", "away_deg": 90}, ` +
	`"geometry": {"type": "Point", "coordinates": [12.3, 45.2]}},
 {"type": "Feature", "properties": {"name": "pad"}, "geometry": {"type": "Point", "coordinates": [12.3001, 45.2]}}]}`

func TestGeoJSONRefuses(t *testing.T) {
	if c, _, err := ReadGeoJSON([]byte(collection), nil); err != nil || c.Markers["pad"].Y < 7 {
		t.Fatalf("%+v, %v", c, err)
	}
	for _, c := range []struct{ from, to, want string }{
		{`{"type": "Point", "coordinates": [12.3001, 45.2]}`,
			`{"type": "Polygon", "coordinates": [[[12.3,45.2],[12.301,45.2],[12.3,45.201],[12.3,45.2]]]}`,
			`feature 2 ("pad") does not say what it is`},
		{`{"name": "pad"}, "geometry": {"type": "Point", "coordinates": [12.3001, 45.2]}`,
			`{"name": "pad", "kind": "marker"}, "geometry": {"type": "Polygon", ` +
				`"coordinates": [[[12.3,45.2],[12.301,45.2],[12.3,45.201],[12.3,45.2]]]}`,
			`feature 2 ("pad") is a Polygon and of kind marker; expected Point`},
		{"12.3001, 45.2", "12.3001, 95.2", "latitude 95.2"},
		{"12.3001, 45.2", "15.3, 45.2", "within 20 km"},
		{"12.3001, 45.2", "12.2999, 45.2", "behind the pilot"},
		{`"away_deg": 90`, `"away_deg": "east"`, "a number"},
		{`, "away_deg": 90`, ``, "has no direction"},
		{`"kind": "station"`, `"kind": "castle"`, `of kind "castle"`},
		{`FeatureCollection`, `Feature`, "a FeatureCollection"},
		{`"features": [`, `"features": [[`, "3: not JSON"},
		{`{"type": "Point", "coordinates": [12.3001, 45.2]}`, `null`, "feature 2 cannot be read"},
		{`{"type": "Point", "coordinates": [12.3001, 45.2]}`, `{"type": "MultiPoint", "coordinates": [[12.3001, 45.2]]}`,
			"is a MultiPoint"},
	} {
		_, _, err := ReadGeoJSON([]byte(strings.Replace(collection, c.from, c.to, 1)), nil)
		if err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s: %v, want %q", c.to, err, c.want)
		}
	}
}

func TestKMLRefuses(t *testing.T) {
	const good = "<kml><Document>\n<Placemark><name>station</name><Point><coordinates>12.3,45.2</coordinates></Point>" +
		"<ExtendedData><Data name=\"away_deg\"><value>0</value></Data></ExtendedData></Placemark>\n</Document></kml>"
	if _, _, err := ReadKML([]byte(good), nil); err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct{ from, to, want string }{
		{"12.3,45.2", "12.3", "LON,LAT"},
		{"12.3,45.2", "12.3,x", "LON,LAT"},
		{"12.3,45.2", "12.3,99", "latitude 99"},
		{"12.3,45.2", "12.3,45.2 12.4,45.2", "a Point of 2 places"},
		{"Point>", "Model>", "has no place"},
		{"<value>0", "<value>east", "a number"},
		{"</Document>", "", "not XML"},
		{"<kml>", "<gpx>", "a kml element"},
	} {
		_, _, err := ReadKML([]byte(strings.ReplaceAll(good, c.from, c.to)), nil)
		if err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s: %v, want %q", c.to, err, c.want)
		}
	}
	if _, _, err := ReadKML(nil, nil); err == nil {
		t.Error("an empty file")
	}
}

func FuzzReadGeoJSON(f *testing.F) {
	f.Add(collection)
	f.Fuzz(func(t *testing.T, data string) {
		if c, _, err := ReadGeoJSON([]byte(data), nil); err == nil && c.Check() != nil {
			t.Error("a course was read that cannot be")
		}
	})
}

func FuzzReadKML(f *testing.F) {
	f.Add("<kml><Placemark><name>pad</name><Point><coordinates>1,2,3</coordinates></Point></Placemark></kml>")
	f.Fuzz(func(t *testing.T, data string) {
		if c, _, err := ReadKML([]byte(data), nil); err == nil && c.Check() != nil {
			t.Error("a course was read that cannot be")
		}
	})
}
