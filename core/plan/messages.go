package plan

// What calls say. Each is read aloud as it stands.
const (
	msgOverdue   = "%[1]s should have landed %[2]s %[3]s ago."
	msgLandsSoon = "%[1]s lands %[2]s in %[3]s."
	msgWindOver  = "The wind is over the limit of %[1]s: %.1[2]f of %.1[3]f m/s. %[4]s must land now."
	msgGustsOver = "Gusts are over the limit of %[1]s: %.1[2]f of %.1[3]f m/s. %[4]s must land now."
	msgWindNear  = "The wind is near the limit of %[1]s, which %[4]s flies: %.1[2]f of %.1[3]f m/s."
	msgGustsNear = "Gusts are near the limit of %[1]s, which %[4]s flies: %.1[2]f of %.1[3]f m/s."

	msgLate     = "%[1]s should have taken off %[2]s ago with %[3]s. Plan the rest of the day again."
	msgManyLate = "%[1]d flights are late. The first, by %[2]s, should have begun %[3]s ago. " +
		"Plan the rest of the day again."
	msgNextWind = "%[1]s flies next, and the wind is over the limit: %.1[2]f of %.1[3]f m/s. " +
		"Plan the rest of the day again."
	msgNextPack  = "%[1]s flies %[2]s next, and pack %[3]s is not full. Plan the rest of the day again."
	msgFliesSoon = "%[1]s flies in %[2]s: %[3]s with pack %[4]s."
)

// What a plan breaks. Names stand as ids, which a screen replaces.
const (
	msgBoxTaken = "Box %[1]d is not free at %[2]s: %[3]s flies there from %[4]s to %[5]s, and changing over takes " +
		"%.0[6]f min"
)
