package field

import (
	"fmt"
	"math"
)

// WGS 84 ellipsoid (NIMA TR8350.2, 3rd ed., table 3.1).
const (
	semiMajor  = 6378137.0
	flattening = 1 / 298.257223563
	ecc2       = flattening * (2 - flattening)
)

// Geo is a place on the WGS 84 ellipsoid: degrees, and metres of height.
type Geo struct{ LatDeg, LonDeg, AltM float64 }

// Valid reports what is wrong with the place, or nil.
func (g Geo) Valid() error {
	switch {
	case !(g.LatDeg >= -90 && g.LatDeg <= 90):
		return fmt.Errorf("latitude %v, expected -90 to 90 degrees", g.LatDeg)
	case !(g.LonDeg >= -180 && g.LonDeg <= 180):
		return fmt.Errorf("longitude %v, expected -180 to 180 degrees", g.LonDeg)
	case !(g.AltM >= -1000 && g.AltM <= 20000):
		return fmt.Errorf("altitude %v, expected -1000 to 20000 metres", g.AltM)
	}
	return nil
}

// Plane ties the field frame to the earth: the place of its origin and the
// true direction of its y axis.
//
// Places are carried through earth-centred coordinates into the plane that
// touches the ellipsoid at the origin (east, north, up; Torge and Müller,
// Geodesy, 4th ed., 2012, section 4.1). Height is the difference of the
// altitudes and not the distance from that plane, so that level flight stays
// level: at 1 km the two differ by 8 cm.
type Plane struct {
	origin     Geo
	away       Angle
	ox, oy, oz float64
	sinLat     float64
	cosLat     float64
	sinLon     float64
	cosLon     float64
	sinAway    float64
	cosAway    float64
}

// NewPlane lays the field frame at origin with its y axis away degrees
// clockwise from true north.
func NewPlane(origin Geo, awayDeg float64) (*Plane, error) {
	if err := origin.Valid(); err != nil {
		return nil, fmt.Errorf("origin: %w", err)
	}
	if math.IsNaN(awayDeg) || math.Abs(awayDeg) > 360 {
		return nil, fmt.Errorf("away %v, expected a true direction from 0 to 360 degrees", awayDeg)
	}
	p := &Plane{origin: origin, away: Degrees(awayDeg)}
	p.sinLat, p.cosLat = math.Sincos(float64(Degrees(origin.LatDeg)))
	p.sinLon, p.cosLon = math.Sincos(float64(Degrees(origin.LonDeg)))
	p.sinAway, p.cosAway = math.Sincos(float64(p.away))
	p.ox, p.oy, p.oz = earthCentred(origin)
	return p, nil
}

// Origin returns where the plane touches the ellipsoid.
func (p *Plane) Origin() Geo { return p.origin }

// AwayDeg returns the true direction of the y axis in degrees.
func (p *Plane) AwayDeg() float64 { return p.away.Deg() }

// earthCentred is a place in earth-centred, earth-fixed coordinates, in metres,
// on the ellipsoid of WGS 84.
func earthCentred(g Geo) (x, y, z float64) {
	sinLat, cosLat := math.Sincos(float64(Degrees(g.LatDeg)))
	sinLon, cosLon := math.Sincos(float64(Degrees(g.LonDeg)))
	n := semiMajor / math.Sqrt(1-ecc2*sinLat*sinLat)
	return (n + g.AltM) * cosLat * cosLon, (n + g.AltM) * cosLat * sinLon, (n*(1-ecc2) + g.AltM) * sinLat
}

// fromEarthCentred inverts earthCentred by the fixed-point iteration on the
// latitude (Torge and Müller 2012, eq. 4.10); near the surface a handful of
// rounds reach the last bit.
func fromEarthCentred(x, y, z float64) Geo {
	r := math.Hypot(x, y)
	lat, h := math.Atan2(z, r*(1-ecc2)), 0.0
	for range 8 {
		s, c := math.Sincos(lat)
		n := semiMajor / math.Sqrt(1-ecc2*s*s)
		h = r*c + z*s - n*(1-ecc2*s*s)
		lat = math.Atan2(z, r*(1-ecc2*n/(n+h)))
	}
	return Geo{Angle(lat).Deg(), Angle(math.Atan2(y, x)).Deg(), h}
}

// ToField carries a place on the earth into the field frame.
func (p *Plane) ToField(g Geo) (at Point, z float64) {
	// The altitude is taken out first, so that height does not spread places.
	x, y, zz := earthCentred(Geo{g.LatDeg, g.LonDeg, p.origin.AltM})
	dx, dy, dz := x-p.ox, y-p.oy, zz-p.oz
	east := -p.sinLon*dx + p.cosLon*dy
	north := -p.sinLat*p.cosLon*dx - p.sinLat*p.sinLon*dy + p.cosLat*dz
	return Point{east*p.cosAway - north*p.sinAway, east*p.sinAway + north*p.cosAway}, g.AltM - p.origin.AltM
}

// ToGeo carries a place of the field frame back to the earth.
func (p *Plane) ToGeo(at Point, z float64) Geo {
	east := at.X*p.cosAway + at.Y*p.sinAway
	north := -at.X*p.sinAway + at.Y*p.cosAway
	// The surface lies under the plane by about d²/2R; two rounds find it.
	up := 0.0
	var g Geo
	for range 4 {
		g = fromEarthCentred(
			p.ox-p.sinLon*east-p.sinLat*p.cosLon*north+p.cosLat*p.cosLon*up,
			p.oy+p.cosLon*east-p.sinLat*p.sinLon*north+p.cosLat*p.sinLon*up,
			p.oz+p.cosLat*north+p.sinLat*up)
		up += p.origin.AltM - g.AltM
	}
	g.AltM = p.origin.AltM + z
	return g
}

// ToFieldHeading turns a true heading into a field heading.
func (p *Plane) ToFieldHeading(trueHeading Angle) Angle { return (trueHeading - p.away).Wrap() }

// ToTrueHeading turns a field heading into a true heading.
func (p *Plane) ToTrueHeading(h Angle) Angle { return (h + p.away).Wrap() }
