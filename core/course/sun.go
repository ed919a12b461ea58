package course

import (
	"fmt"
	"math"
	"time"

	"maestrale/core/field"
	"maestrale/core/orient"
)

// Sun is where the sun stands: its true azimuth, clockwise from north, and its
// elevation over the horizon, lifted by the air's refraction.
type Sun struct {
	Azimuth   field.Angle
	Elevation field.Angle
}

// SunAt returns where the sun stands at a moment over a place, by the NOAA solar
// calculator's algorithm (Meeus, Astronomical Algorithms, 2nd ed., 1998, chapters
// 22, 25 and 28, low accuracy; refraction after NOAA). From 1950 to 2050 it is within
// 0.02° while the sun stands over 5°, and within 0.1° nearer to the horizon, where
// the air decides. At a pole every direction is one, so the azimuth is not
// defined: latitudes beyond ±89.9° are an error.
func SunAt(at time.Time, place field.Geo) (Sun, error) {
	if err := place.Valid(); err != nil {
		return Sun{}, err
	}
	if math.Abs(place.LatDeg) > 89.9 {
		return Sun{}, fmt.Errorf("latitude %v: at the pole the sun has no direction; expected -89.9 to 89.9 degrees",
			place.LatDeg)
	}
	if y := at.UTC().Year(); y < 1901 || y > 2099 {
		return Sun{}, fmt.Errorf("the year %d; expected 1901 to 2099", y)
	}
	utc := at.UTC()
	day := float64(utc.Unix())/86400 + float64(utc.Nanosecond())/86400e9
	t := (day + 2440587.5 - 2451545) / 36525 // Julian centuries from J2000

	rad := func(deg float64) float64 { return deg * math.Pi / 180 }
	mean := math.Mod(280.46646+t*(36000.76983+0.0003032*t), 360)
	anomaly := rad(357.52911 + t*(35999.05029-0.0001537*t))
	ecc := 0.016708634 - t*(0.000042037+0.0000001267*t)
	center := math.Sin(anomaly)*(1.914602-t*(0.004817+0.000014*t)) + math.Sin(2*anomaly)*(0.019993-0.000101*t) +
		math.Sin(3*anomaly)*0.000289
	node := rad(125.04 - 1934.136*t)
	long := rad(mean + center - 0.00569 - 0.00478*math.Sin(node))
	tilt := rad(23 + (26+(21.448-t*(46.815+t*(0.00059-t*0.001813)))/60)/60 + 0.00256*math.Cos(node))
	decl := math.Asin(math.Sin(tilt) * math.Sin(long))
	y := math.Pow(math.Tan(tilt/2), 2)
	l0 := rad(mean)
	// The equation of time, in minutes.
	eqTime := 4 * 180 / math.Pi * (y*math.Sin(2*l0) - 2*ecc*math.Sin(anomaly) + 4*ecc*y*math.Sin(anomaly)*math.Cos(2*l0) -
		y*y/2*math.Sin(4*l0) - 1.25*ecc*ecc*math.Sin(2*anomaly))
	minutes := math.Mod(day, 1) * 1440
	hour := rad((minutes+eqTime+4*place.LonDeg)/4 - 180)
	lat := rad(place.LatDeg)
	east := -math.Cos(decl) * math.Sin(hour)
	north := math.Sin(decl)*math.Cos(lat) - math.Cos(decl)*math.Cos(hour)*math.Sin(lat)
	up := math.Sin(decl)*math.Sin(lat) + math.Cos(decl)*math.Cos(hour)*math.Cos(lat)
	elevation := math.Atan2(up, math.Hypot(east, north))
	return Sun{field.Angle(math.Atan2(east, north)), field.Angle(elevation + refraction(elevation))}, nil
}

// Lit is how a school tells in which light it flies.
type Lit string

const (
	LitBySun Lit = "sun" // by the sun over its site
	LitDay   Lit = "day" // always as by day: in a hall, under floodlights
)

// Check reports that a school cannot tell its light so.
func (l Lit) Check() error {
	if l != LitBySun && l != LitDay {
		return fmt.Errorf("the light is told by %.20q; expected sun or day", string(l))
	}
	return nil
}

// civil is how far under the horizon the sun stands when civil twilight ends:
// with it ends the light in which the ground is told without lamps, about 3 lx
// (Meeus, Astronomical Algorithms, 2nd ed., 1998, chapter 15).
var civil = field.Degrees(-6)

// LightAt is the light to fly in at a moment over a place: dusk from sunset to
// the end of civil twilight, and in the morning likewise. In the dark nobody
// trains, so what is planned then is for the next day, and the light is that of
// day; so it is where the place is not known (nil) or has no direction of the
// sun.
func (l Lit) LightAt(at time.Time, place *field.Geo) orient.Light {
	if l == LitDay || place == nil {
		return orient.Day
	}
	if s, err := SunAt(at, *place); err == nil && s.Elevation <= 0 && s.Elevation >= civil {
		return orient.Dusk
	}
	return orient.Day
}

// refraction is how much the air lifts the sun, in radians, by NOAA's formulas.
func refraction(elevation float64) float64 {
	deg := elevation * 180 / math.Pi
	tan := math.Tan(elevation)
	var sec float64
	switch {
	case deg > 85:
		return 0
	case deg > 5:
		sec = 58.1/tan - 0.07/math.Pow(tan, 3) + 0.000086/math.Pow(tan, 5)
	case deg > -0.575:
		sec = 1735 + deg*(-518.2+deg*(103.4+deg*(-12.79+deg*0.711)))
	default:
		sec = -20.774 / tan
	}
	return sec / 3600 * math.Pi / 180
}

// GlareWithin is how near to the sun the craft may stand in the eye before it is
// lost in the glare: disability glare is felt to some 30° and is strong within 20°
// (CIE 146:2002, equations for disability glare).
var GlareWithin = field.Degrees(20)

// highest is the elevation over which the sun is above any craft that is flown
// in front of a pilot.
var highest = field.Degrees(50)

// Glare is where and when the sun blinds in a session: the sector of bearings
// from the pilot's station, turned clockwise from From to To.
type Glare struct {
	Any        bool
	From, To   field.Angle
	Begins     time.Time
	Ends       time.Time
	Low, High  field.Angle // elevations of the sun meanwhile
	First      Sun         // as the session begins, in field bearings
	Last       Sun
	NeverSets  bool // over the whole day
	NeverRises bool
}

// grain is the step in which a session is walked through.
const grain = 5 * time.Minute

// GlareOver returns the glare over a session for a course that is tied to the
// earth.
func (c *Course) GlareOver(from, to time.Time) (Glare, error) {
	if c.Plane == nil {
		return Glare{}, fmt.Errorf("the course is tied to no place on the earth; expected origin and away_deg")
	}
	if to.Before(from) || to.Sub(from) > 24*time.Hour {
		return Glare{}, fmt.Errorf("the session runs from %s to %s; expected a day at most, its end after its start",
			from.Format(time.RFC3339), to.Format(time.RFC3339))
	}
	place := c.Plane.Origin()
	var g Glare
	var reach field.Angle // of the sector beyond From, clockwise
	for at := from; ; at = at.Add(grain) {
		if at.After(to) {
			at = to
		}
		s, err := SunAt(at, place)
		if err != nil {
			return Glare{}, err
		}
		s.Azimuth = c.Plane.ToFieldHeading(s.Azimuth)
		if at.Equal(from) {
			g.First = s
		}
		g.Last = s
		if s.Elevation > 0 && s.Elevation < highest {
			if !g.Any {
				g.Any, g.From, reach = true, s.Azimuth-GlareWithin, 2*GlareWithin
				g.Begins, g.Low, g.High = at, s.Elevation, s.Elevation
			}
			g.Ends, g.Low, g.High = at, min(g.Low, s.Elevation), max(g.High, s.Elevation)
			// The sun walks one way, so the sector is widened at the nearer end.
			if ahead := s.Azimuth + GlareWithin - (g.From + reach); ahead.Wrap() > 0 {
				reach += ahead.Wrap()
			}
			if back := g.From - (s.Azimuth - GlareWithin); back.Wrap() > 0 {
				g.From -= back.Wrap()
				reach += back.Wrap()
			}
		}
		if !at.Before(to) {
			break
		}
	}
	g.To = (g.From + reach).Wrap()
	g.From = g.From.Wrap()
	if reach >= 2*math.Pi {
		g.From, g.To = -math.Pi, math.Pi
	}
	g.NeverSets, g.NeverRises = dayLong(from, place)
	return g, nil
}

// dayLong tells whether the sun stays over or under the horizon the day long.
func dayLong(day time.Time, place field.Geo) (up, down bool) {
	up, down = true, true
	for h := range 48 {
		s, err := SunAt(day.Add(time.Duration(h-24)*30*time.Minute), place)
		if err != nil {
			return false, false
		}
		up, down = up && s.Elevation > 0, down && s.Elevation <= 0
	}
	return up, down
}

// Blinds tells whether a craft at a place and height stands in the sun's glare
// for an eye at the station.
func (c *Course) Blinds(s Sun, at field.Point, heightM, eyeM float64) bool {
	if s.Elevation <= 0 {
		return false
	}
	d := at.Sub(c.Station)
	look := math.Atan2(heightM-eyeM, math.Hypot(d.X, d.Y))
	b := float64(field.Bearing(d) - s.Azimuth)
	cos := math.Sin(look)*math.Sin(float64(s.Elevation)) + math.Cos(look)*math.Cos(float64(s.Elevation))*math.Cos(b)
	return math.Acos(math.Max(-1, math.Min(1, cos))) < float64(GlareWithin)
}
