package units

// What units.go says.
const (
	msgMetresPerSecond   = "metres per second"
	msgKilometresPerHour = "kilometres per hour"
	msgMilesPerHour      = "miles per hour"
)
