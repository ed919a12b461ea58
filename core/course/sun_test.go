package course

import (
	"math"
	"strings"
	"testing"
	"time"

	"maestrale/core/field"
	"maestrale/core/orient"
)

// Published positions. Reda and Andreas, Solar Position Algorithm for Solar
// Radiation Applications, NREL/TP-560-34302 (2004), appendix A.5: 17 October 2003,
// 12:30:30 at UTC−7, 39.742476° N 105.1786° W: zenith 50.11162°, azimuth 194.34024°.
// Meeus, Astronomical Algorithms, example 25.a: 13 October 1992 0 h TD, declination
// −7.78507°, seen here as the sun's elevation at a place where it culminates.
func TestSunAgainstPublishedPositions(t *testing.T) {
	s, err := SunAt(time.Date(2003, 10, 17, 19, 30, 30, 0, time.UTC), field.Geo{LatDeg: 39.742476, LonDeg: -105.1786})
	if err != nil || math.Abs(s.Azimuth.Compass()-194.34024) > 0.02 || math.Abs(90-s.Elevation.Deg()-50.11162) > 0.02 {
		t.Errorf("azimuth %.4f, zenith %.4f, %v", s.Azimuth.Compass(), 90-s.Elevation.Deg(), err)
	}
	// At midnight UTC on the 13th the sun culminates near 176.6° E (equation of time
	// +13 min 42.6 s); on the equator its noon elevation is 90° − |declination|.
	s, err = SunAt(time.Date(1992, 10, 12, 23, 59, 1, 0, time.UTC), field.Geo{LatDeg: 0,
		LonDeg: 180 - (13+42.6/60-59.0/60)/4})
	if err != nil || math.Abs(s.Elevation.Deg()-(90-7.78507)) > 0.02 {
		t.Errorf("elevation %.4f, %v", s.Elevation.Deg(), err)
	}
}

// Noon and the solstices by geometry: at local apparent noon the elevation is 90° −
// latitude ± 23.44°.
func TestSunAtTheSolstices(t *testing.T) {
	highest := func(day time.Time, lat float64) float64 {
		best := -90.0
		for m := range 1440 {
			s, err := SunAt(day.Add(time.Duration(m)*time.Minute), field.Geo{LatDeg: lat, LonDeg: 12})
			if err != nil {
				t.Fatal(err)
			}
			best = math.Max(best, s.Elevation.Deg())
		}
		return best
	}
	for _, lat := range []float64{30, 45, 60} {
		if got := highest(time.Date(2026, 6, 21, 0, 0, 0, 0, time.UTC), lat); math.Abs(got-(90-lat+23.436)) > 0.05 {
			t.Errorf("midsummer at %v°: %.3f", lat, got)
		}
	}
	// refraction lifts it by 0.04°
	if got := highest(time.Date(2026, 12, 21, 0, 0, 0, 0, time.UTC), 45); math.Abs(got-(45-23.436)) > 0.08 {
		t.Errorf("midwinter: %.3f", got)
	}
}

func TestSunRefuses(t *testing.T) {
	for _, c := range []struct {
		at   time.Time
		geo  field.Geo
		want string
	}{
		{time.Date(2026, 6, 1, 0, 0, 0, 0, time.UTC), field.Geo{LatDeg: 90}, "no direction"},
		{time.Date(2026, 6, 1, 0, 0, 0, 0, time.UTC), field.Geo{LatDeg: -90}, "no direction"},
		{time.Date(2026, 6, 1, 0, 0, 0, 0, time.UTC), field.Geo{LatDeg: 91}, "latitude"},
		{time.Date(1800, 6, 1, 0, 0, 0, 0, time.UTC), field.Geo{LatDeg: 45}, "1901 to 2099"},
	} {
		if _, err := SunAt(c.at, c.geo); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%v at %v: %v", c.geo, c.at, err)
		}
	}
}

func onEarth(t *testing.T, lat, away float64) *Course {
	t.Helper()
	p, err := field.NewPlane(field.Geo{LatDeg: lat, LonDeg: 12.3}, away)
	if err != nil {
		t.Fatal(err)
	}
	c, _ := Lay("box", "light")
	c.Plane = p
	return c
}

// The sector holds the sun at every minute of the session, with its margin, and no
// more than the sun's way and both margins.
func TestGlareSectorHoldsTheSun(t *testing.T) {
	for _, away := range []float64{0, 90, 135, 270} {
		for _, hours := range []int{1, 3, 8} {
			c := onEarth(t, 45.2, away)
			from := time.Date(2026, 5, 1, 6, 0, 0, 0, time.UTC)
			to := from.Add(time.Duration(hours) * time.Hour)
			g, err := c.GlareOver(from, to)
			if err != nil || !g.Any {
				t.Fatalf("%+v, %v", g, err)
			}
			width := (g.To - g.From).Compass()
			for at := from; !at.After(to); at = at.Add(time.Minute) {
				s, _ := SunAt(at, c.Plane.Origin())
				if s.Elevation <= 0 || s.Elevation >= highest {
					continue
				}
				b := (c.Plane.ToFieldHeading(s.Azimuth) - g.From).Compass()
				if b > width+0.5 || b < GlareWithin.Deg()-3 {
					t.Fatalf("away %v: at %v the sun stands %.1f° into a sector of %.1f°", away, at, b, width)
				}
			}
			if hours == 1 && width > 40+20 {
				t.Errorf("an hour's sector is %.0f° wide", width)
			}
		}
	}
}

func TestGlareEdges(t *testing.T) {
	c := onEarth(t, 45.2, 90) // looks east
	dawn := time.Date(2026, 5, 1, 5, 0, 0, 0, time.UTC)
	if s, _ := SunAt(dawn, c.Plane.Origin()); !c.Blinds(Sun{c.Plane.ToFieldHeading(s.Azimuth), s.Elevation},
		field.Point{Y: 12}, 3, EyeM) {
		t.Error("looking east at dawn does not blind")
	}
	night, err := c.GlareOver(time.Date(2026, 5, 1, 22, 0, 0, 0, time.UTC), time.Date(2026, 5, 1, 23, 0, 0, 0, time.UTC))
	if err != nil || night.Any {
		t.Errorf("glare at night: %+v, %v", night, err)
	}
	north := onEarth(t, 70, 0)
	g, err := north.GlareOver(time.Date(2026, 12, 21, 10, 0, 0, 0, time.UTC), time.Date(2026, 12, 21, 12, 0, 0, 0,
		time.UTC))
	if err != nil || !g.NeverRises || g.Any {
		t.Errorf("polar night: %+v, %v", g, err)
	}
	if _, err := c.GlareOver(dawn, dawn.Add(-time.Minute)); err == nil {
		t.Error("a session that ends before it starts")
	}
	if _, err := (&Course{}).GlareOver(dawn, dawn); err == nil {
		t.Error("glare without a place on the earth")
	}
}

// Dusk begins at sunset and ends with civil twilight. The times are those that almanacs print for Greenwich, UTC.
func TestDuskBetweenSunsetAndTheEndOfCivilTwilight(t *testing.T) {
	greenwich := &field.Geo{LatDeg: 51.4769}
	for _, c := range []struct {
		date, set, end string
	}{
		{"2024-03-20", "18:14", "18:47"},
		{"2024-06-20", "20:21", "21:09"},
		{"2024-12-21", "15:53", "16:34"},
	} {
		moment := func(at string, minutes int) time.Time {
			m, err := time.Parse("2006-01-02 15:04", c.date+" "+at)
			if err != nil {
				t.Fatal(err)
			}
			return m.Add(time.Duration(minutes) * time.Minute)
		}
		for what, k := range map[string]struct {
			at   time.Time
			want orient.Light
		}{
			"before sunset":      {moment(c.set, -4), orient.Day},
			"after sunset":       {moment(c.set, 4), orient.Dusk},
			"before the dark":    {moment(c.end, -4), orient.Dusk},
			"in the dark":        {moment(c.end, 4), orient.Day}, // what is planned then is for the next day
			"an hour after that": {moment(c.end, 64), orient.Day},
		} {
			if got := LitBySun.LightAt(k.at, greenwich); got != k.want {
				t.Errorf("%s, %s: %s", c.date, what, got)
			}
			if got := LitDay.LightAt(k.at, greenwich); got != orient.Day {
				t.Errorf("%s, %s, under lamps: %s", c.date, what, got)
			}
		}
		if got := LitBySun.LightAt(moment(c.set, 10), nil); got != orient.Day {
			t.Errorf("%s, nowhere: %s", c.date, got)
		}
	}
	if err := Lit("lamps").Check(); err == nil {
		t.Error("lamps are taken")
	}
}
