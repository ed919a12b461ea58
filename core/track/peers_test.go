package track

import (
	"bytes"
	"fmt"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"maestrale/core/field"
)

// peer is a program of Debian's that reads and writes tracks.
func peer(t *testing.T, name string) string {
	t.Helper()
	path, err := exec.LookPath(name)
	if err != nil {
		t.Fatalf("%s is not installed: %v; scripts/needs peers installs it", name, err)
	}
	return path
}

func run(t *testing.T, name string, args ...string) {
	t.Helper()
	if out, err := exec.Command(name, args...).CombinedOutput(); err != nil {
		t.Fatalf("%s %v: %v\n%s", name, args, err, out)
	}
}

// sample is a flight of two minutes, one place a second, round a field.
func sample() (*Track, *field.Plane) {
	p, err := field.NewPlane(field.Geo{LatDeg: 45.2, LonDeg: 12.3, AltM: 2}, 135)
	if err != nil {
		panic(err)
	}
	t := &Track{Start: time.Date(2026, 3, 2, 9, 14, 0, 0, time.UTC)}
	for i := range 120 {
		th := float64(i) / 12
		t.T = append(t.T, float64(i))
		t.X, t.Y, t.Z = append(t.X, 20*math.Sin(th)), append(t.Y, 40+15*math.Cos(th)), append(t.Z, 5+3*math.Sin(th/3))
	}
	return t, p
}

// farthest is how far two tracks of the same moments lie apart, over the ground and in height.
func farthest(a, b *Track) (flat, high float64, same int) {
	for i, at := range a.T {
		j := b.At(at + a.Start.Sub(b.Start).Seconds() + 1e-6)
		if j < 0 || math.Abs(b.T[j]-at-a.Start.Sub(b.Start).Seconds()) > 0.01 {
			continue
		}
		same++
		flat = math.Max(flat, math.Hypot(a.X[i]-b.X[j], a.Y[i]-b.Y[j]))
		high = math.Max(high, math.Abs(a.Z[i]-b.Z[j]))
	}
	return flat, high, same
}

// What we write is read by gpsbabel and ogr2ogr, and what they write of it is read by us: every
// point, within what the format between holds.
func TestOtherProgramsReadOursAndWeTheirs(t *testing.T) {
	if testing.Short() {
		t.Skip("other programs are asked in the whole run")
	}
	gpsbabel, ogr := peer(t, "gpsbabel"), peer(t, "ogr2ogr")
	dir := t.TempDir()
	want, plane := sample()
	path := func(name string) string { return filepath.Join(dir, name) }
	write := func(f Format) string {
		var b bytes.Buffer
		if _, err := Write(&b, want, f, plane); err != nil {
			t.Fatal(err)
		}
		name := path("ours." + string(f))
		if err := os.WriteFile(name, b.Bytes(), 0o600); err != nil {
			t.Fatal(err)
		}
		return name
	}
	read := func(name string) *Track {
		f, err := os.Open(name)
		if err != nil {
			t.Fatal(err)
		}
		defer func() { _ = f.Close() }()
		got, _, err := Read(f, Options{CSVOptions: CSVOptions{Plane: plane}})
		if err != nil {
			t.Fatalf("%s: %v", name, err)
		}
		return got
	}
	for _, c := range []struct {
		ours       Format
		babel      string
		flat, high float64 // m that the format between leaves open
	}{
		// gpsbabel leaves the fourth and fifth decimal of a minute away
		{GPX, "gpx", 0.02, 0.01}, {KML, "kml", 0.02, 0.02}, {NMEA, "nmea", 0.02, 0.06}, {IGC, "igc", 2.3, 0.55},
	} {
		ours := write(c.ours)
		// Ours into GPX by them, which is read again.
		theirs := path("theirs-of-" + string(c.ours) + ".gpx")
		run(t, gpsbabel, "-t", "-i", c.babel, "-f", ours, "-o", "gpx", "-F", theirs)
		if c.ours == IGC { // two tracks, by satellites and by pressure: the first is ours
			data, err := os.ReadFile(theirs)
			if err != nil {
				t.Fatal(err)
			}
			if i := bytes.Index(data, []byte("</trk>")); i > 0 {
				if err := os.WriteFile(theirs, append(data[:i+6:i+6], []byte("</gpx>")...), 0o600); err != nil {
					t.Fatal(err)
				}
			}
		}
		flat, high, same := farthest(want, read(theirs))
		t.Logf("%s by gpsbabel: %d of %d points, %.3f m, %.3f m", c.ours, same, want.Len(), flat, high)
		if same < want.Len()-1 || flat > c.flat || high > c.high {
			t.Errorf("gpsbabel reads our %s with %d of %d points, %.3f m off, %.3f m in height", c.ours, same, want.Len(), flat,
				high)
		}
		if c.ours == KML {
			continue // gpsbabel writes KML in which a track's times stand apart
		}
		// And theirs of the same form.
		again := path("theirs." + string(c.ours))
		run(t, gpsbabel, "-t", "-i", c.babel, "-f", ours, "-o", c.babel, "-F", again)
		flat, high, same = farthest(want, read(again))
		t.Logf("%s of gpsbabel: %d of %d points, %.3f m, %.3f m", c.ours, same, want.Len(), flat, high)
		if same < want.Len()-1 || flat > math.Max(c.flat, map[Format]float64{NMEA: 1.5}[c.ours]) || high > math.Max(c.high,
			0.1) {
			t.Errorf("of gpsbabel's %s we read %d of %d points, %.3f m off, %.3f m in height", c.ours, same, want.Len(), flat,
				high)
		}
	}
	// ogr2ogr: GeoJSON and GPX as points.
	for _, c := range []struct{ ours, layer string }{{"gpx", "track_points"}, {"geojson", ""}} {
		ours := write(Format(c.ours))
		out := path("ogr-" + c.ours + ".csv")
		args := []string{"-f", "CSV", out, ours, "-lco", "GEOMETRY=AS_WKT"}
		if c.layer != "" {
			args = append(args, c.layer)
		}
		run(t, ogr, args...)
		data, err := os.ReadFile(out)
		if err != nil {
			t.Fatal(err)
		}
		g := plane.ToGeo(field.Point{X: want.X[60], Y: want.Y[60]}, want.Z[60])
		if !strings.Contains(string(data), fmt.Sprintf("%.6f", g.LonDeg)[:8]) || !strings.Contains(string(data),
			fmt.Sprintf("%.6f", g.LatDeg)[:8]) {
			t.Errorf("ogr2ogr does not find the place of sample 60 (%v) in our %s", g, c.ours)
		}
	}
	// Theirs: GPX made by ogr2ogr of our GPX.
	again := path("ogr.gpx")
	run(t, ogr, "-f", "GPX", again, write(GPX), "track_points", "-nlt", "POINT", "-lco", "FORCE_GPX_TRACK=YES")
	if flat, high, same := farthest(want, read(again)); same < want.Len()-1 || flat > 0.02 || high > 0.02 {
		t.Errorf("of ogr2ogr's GPX we read %d of %d points, %.3f m off, %.3f m in height", same, want.Len(), flat, high)
	}
}
