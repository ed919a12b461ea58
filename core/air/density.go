// Package air holds what the air does to a craft: its density, and the wind as
// a meter tells it.
package air

import (
	"fmt"
	"math"
)

// The International Standard Atmosphere below 11 km (ISO 2533:1975; ICAO Doc
// 7488, 3rd ed., 1993): pressure at sea level in Pa, temperature in K, lapse
// rate in K/m, gas constant of dry air in J/(kg K), gravity in m/s².
const (
	seaLevelPa = 101325.0
	seaLevelK  = 288.15
	lapse      = 0.0065
	gasDry     = 287.05287
	Gravity    = 9.80665
	zeroC      = 273.15
)

// SeaLevelDensity is the density of the standard atmosphere at sea level in
// kg/m³.
const SeaLevelDensity = 1.225

// StandardTempC returns the temperature of the standard atmosphere in °C at a
// height above sea level in metres.
func StandardTempC(altM float64) float64 { return seaLevelK - lapse*altM - zeroC }

// Density returns the density of dry air in kg/m³ at a height above sea level
// in metres and a temperature in °C: the standard atmosphere's pressure at that
// height (ISO 2533:1975; the height is taken as geopotential, at 3 km 0.05 % from
// the geometric) and the gas law. Moist air is up to 1 % lighter
// on a warm day. Heights outside −1000 to 9000 m and temperatures outside −60 to
// 60 °C are errors.
func Density(altM, tempC float64) (float64, error) {
	if !(altM >= -1000 && altM <= 9000) {
		return 0, fmt.Errorf("elevation %v m; expected -1000 to 9000", altM)
	}
	if !(tempC >= -60 && tempC <= 60) {
		return 0, fmt.Errorf("temperature %v °C; expected -60 to 60", tempC)
	}
	p := seaLevelPa * math.Pow(1-lapse*altM/seaLevelK, Gravity/(gasDry*lapse))
	return p / (gasDry * (tempC + zeroC)), nil
}
