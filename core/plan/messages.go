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

// Why a drill is in a lesson, in sentences.
const (
	msgBuilds    = "It builds up to %[1]s and has not been flown yet."
	msgRenews    = "It was held before, and one pass renews it."
	msgOneOfOpen = "It needs %[1]s. %[2]d drills of the gate “%[3]s” are still open."
	msgLastOpen  = "It needs %[1]s. It is the last open drill of the gate “%[2]s”."
	msgNeeds     = "It needs %[1]s."
	msgKeeps     = "It keeps the drill current."
	msgWeakSide  = "This is the weaker side."
	msgInWind    = "A pass in %.1[1]f m/s also meets what the gate asks about wind."
	msgAnswering = "The gate “%[1]s” still needs a pass flown while answering questions."
	msgChance    = "A pass is about %.0[1]f %% likely."
	msgEndsWell  = "It goes well, and ends the lesson."
	msgPassed    = "%[1]d of %[2]d attempts passed."
	msgBack      = "%[1]s did not pass three times today. Go back to what builds it. It comes again in two lessons."
	msgChosen    = "The instructor chose it."
)
