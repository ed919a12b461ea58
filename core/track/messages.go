package track

// What csv.go says.
const (
	msgFileTooLarge  = "the file is larger than 64 MB"
	msgWantOneFlight = "one flight; split longer logs"
	msgColumnNotRead = "column %q is not read"
)

// What geo.go says.
const (
	msgNotTied = "the file is in degrees, and nothing ties it to the field"
	msgWantTie = "the field's origin and the direction of its y axis (--origin and --away, or a " +
		"course that lies on the earth)"
	msgWantAYear           = "a log of a year at most; split longer ones"
	msgPointsTwice         = "repeated points were read once"
	msgPointsWithoutHeight = "%d of %d points have no height; that of the pad is used"
	msgHeightsFrom         = "heights count from the %s; the lowest point lies %.1f m above the pad"
	msgNoDateWritten       = "the track has no date; it is written as of 2000-01-01"
	msgLostButPlace        = "only time, place and height are kept"
)

// What geojson.go says.
const (
	msgLostButHeading = "only time, place, height and heading are kept"
)

// What gpx.go says.
const (
	msgWantKMLTrack = "KML 2.2 with a gx:Track"
)

// What igc.go says.
const (
	msgBarometerHeights = "%d fixes have no height by satellite; that of the barometer is used"
	msgTooFewCharacters = "too few characters"
	msgNoTimeOfDay      = "no time of day"
	msgNoDecimalSeconds = "no decimal seconds"
	msgLostAndRounded   = "only time, place and height are kept; IGC rounds heights to 1 m and places to 2 cm"
)

// What nmea.go says.
const (
	msgLinesLeftOut = "%d of %d lines are no sound sentences and were left out"
)
