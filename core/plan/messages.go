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
	msgManyLate = "%[1]d flights are late. The first, by %[2]s, should have begun %[3]s ago. Plan the rest of " +
		"the day again."
	msgNextWind = "%[1]s flies next, and the wind is over the limit: %.1[2]f of %.1[3]f m/s. Plan the rest of " +
		"the day again."
	msgNextPack  = "%[1]s flies %[2]s next, and pack %[3]s is not full. Plan the rest of the day again."
	msgFliesSoon = "%[1]s flies in %[2]s: %[3]s with pack %[4]s."
)

// What a plan breaks. Names stand as ids, which a screen replaces.
const (
	msgBoxTaken = "Box %[1]d is not free at %[2]s: %[3]s flies there from %[4]s to %[5]s, and changing over " +
		"takes %.0[6]f min"
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

// What calls.go says.
const (
	msgLessMinute = "less than a minute"
)

// What check.go says.
const (
	msgOrNotToday        = "%s, %s or %s is not there today"
	msgDoesNotFly        = "%s does not fly %s"
	msgDoesNotFit        = "%s does not fit %s"
	msgOrFrom            = "%s or %s is there from %s"
	msgLandsAfter        = "%s lands at %s, after %s"
	msgExpectedOverLimit = "%.0f m/s are expected, over the limit of %.0f for %s on %s"
	msgNoBox             = "there is no box %d"
	msgNoIsThere         = "no %s is there for %s at %s"
	msgNotToday          = "the %s %s is not there today"
	msgNotFrom           = "%s is not there from %s to %s"
	msgFromMadeReady     = "%s is with %s from %s to %s, and is made ready for %.0f min"
	msgIsWithFrom        = "%s is with %s from %s to %s"
	msgIsOnAt            = "%s is on %s at that time"
	msgRestsMinBetween   = "%s rests %.0f min between own flights"
	msgComesAfterFlight  = "%s comes after the %s flight that ends at %s"
	msgNotCooledOr       = "%s has not cooled, or is not charged for long enough, at %s"
	msgIsEmptyAt         = "%s is empty at %s"
	msgFullFrom          = "%s is full from %s"
	msgSlotChargesOnce   = "slot %d of %s charges %s and %s at once"
)

// What day.go says.
const (
	msgInstructorOrSpotter = "instructor or spotter"
	msgLessonProvingOr     = "lesson, proving or demonstration"
	msgEndAfterStart       = "an end after the start; one past midnight carries the next date"
	msgDayEndsStarts       = "the day ends at %s and starts at %s"
	msgHoursMost           = "24 hours at most"
	msgDayLastsFrom        = "the day lasts from %s to %s"
	msgMomentAfterStart    = "a moment after the start"
	msgDaylightUntil       = "daylight_until is %s"
	msgMomentDay           = "a moment of the day"
	msgTypeCraftDay        = "the type of a craft of this day"
	msgChargerDay          = "a charger of this day"
	msgLeastOneCraft       = "at least one craft"
	msgCraftDay            = "craft of this day"
	msgMomentAfterFrom     = "a moment after from"
	msgInstructorDay       = "an instructor of this day"
	msgStudentDay          = "a student of this day"
	msgOneCraftOfDay       = "a craft of this day"
	msgPackDay             = "a pack of this day"
	msgMomentAfterItsStart = "a moment after its start"
	msgIsAndIts            = "is %s, and its start is %s"
	msgMomentBeforeNow     = "a moment before now"
	msgStudentOneCraft     = "a student on one craft at a time"
	msgWhoFliesFlown       = "has %s, who flies %s in flown[%d] at the same time"
	msgCraftOneFlight      = "a craft in one flight at a time"
	msgWhichFlownSame      = "has %s, which is in flown[%d] at the same time"
	msgPackOneFlight       = "a pack in one flight at a time"
	msgEachIdOnce          = "each id once"
	msgIsThatOf            = "is that of %s[%d]"
)

// What explain.go says.
const (
	msgWindPassesLimit       = "the wind passes the limit; in calm air there would be time"
	msgInstructorWhomStudent = "the instructor with whom the student is paired has no more time"
	msgWhatShortCharged      = "there are too few charged packs"
	msgWhatShortCraft        = "there are too few craft"
	msgWhatShortInstructors  = "there are too few instructors"
	msgWhatShortSpotters     = "there are too few spotters"
	msgWhatShortFlying       = "there are too few flying boxes"
	msgWhatShortCharger      = "there are too few charger slots"
	msgStudentNotLonger      = "the student is not there for longer"
	msgWhatShortHours        = "the day is too short"
	msgNoInstructor          = "no instructor is there"
	msgNoSpotter             = "no spotter is there"
	msgWindOverLimit         = "the wind is over the limit of the student or of %s all day"
	msgFlightsTheirRests     = "%d flights with their rests take %s, and there are %s from %s to %s"
	msgFlightsTheirRestsTake = "%d flights with their rests take %s, and the wind passes the limit at %s"
	msgNoTimeLeft            = "no time is left before %s; %s"
	msgNoTimeLeftBefore      = "no time is left before %s; %s, among other things"
	msgNoTimeLeftBeforeMore  = "no time is left before %s; more of one thing alone would not do"
	msgMinMoreDay            = "%d min more of day"
	msgWhichDaylightDoes     = ", which daylight does not give"
	msgMoreChargedType       = "%d more charged %s of the type %s"
	msgMoreCraftType         = "%d more craft of the type %s"
)

// What lessonaim.go says.
const (
	msgNothingCanFlown = "nothing that %s still needs can be flown with these aids in this wind, so the lesson " +
		"goes on along the ladder"
)

// What lessonfill.go says.
const (
	msgNothingMayFlownThese = "there is nothing that may be flown with these aids in this wind"
)

// What explain.go says.
const (
	msgNoPackType = "there is no pack of a type that %s flies on"
)
