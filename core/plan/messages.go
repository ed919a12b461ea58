package plan

// What calls say. Each is read aloud as it stands. The first names are the
// student and the craft or its pack; then come minutes, or the wind and its
// limit.
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

// What a plan breaks. Names stand as ids, which a screen replaces by names.
const (
	msgBoxTaken = "Box %[1]d is not free at %[2]s: %[3]s flies there from %[4]s to %[5]s, and changing over " +
		"takes %.0[6]f min"
)

// Why a drill is in a lesson, in sentences. The arguments are what is still
// needed, how many drills of the gate are open, and the gate.
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

// A time as it is spoken.
const (
	msgUnderAMinute = "less than a minute"
)

// What a plan that was moved by hand breaks. The arguments are ids and times of
// day; minutes where something is made ready or rests.
const (
	msgNotThereToday   = "%s, %s or %s is not there today"
	msgDoesNotFly      = "%s does not fly %s"
	msgDoesNotFit      = "%s does not fit %s"
	msgTooEarly        = "%s or %s is there from %s"
	msgLandsTooLate    = "%s lands at %s, after %s"
	msgTooWindy        = "%.0f m/s are expected, over the limit of %.0f for %s on %s"
	msgNoBox           = "there is no box %d"
	msgNobodyForFlight = "no %s is there for %s at %s"
	msgPersonNotToday  = "the %s %s is not there today"
	msgPersonNotThere  = "%s is not there from %s to %s"
	msgCraftTaken      = "%s is with %s from %s to %s, and is made ready for %.0f min"
	msgPersonTaken     = "%s is with %s from %s to %s"
	msgStudentFlies    = "%s is on %s at that time"
	msgStudentRests    = "%s rests %.0f min between own flights"
	msgWrongOrder      = "%s comes after the %s flight that ends at %s"
	msgChargedTooSoon  = "%s has not cooled, or is not charged for long enough, at %s"
	msgPackEmpty       = "%s is empty at %s"
	msgPackNotFull     = "%s is full from %s"
	msgSlotTaken       = "slot %d of %s charges %s and %s at once"
)

// What is wrong with the file of a day. Names that begin with msgWant say what
// was expected.
const (
	msgWantNeeds          = "instructor or spotter"
	msgWantKind           = "lesson, proving or demonstration"
	msgWantEndAfterStart  = "an end after the start; one past midnight carries the next date"
	msgEndBeforeStart     = "the day ends at %s and starts at %s"
	msgWantOneDay         = "24 hours at most"
	msgDayTooLong         = "the day lasts from %s to %s"
	msgWantAfterStart     = "a moment after the start"
	msgDaylightUntil      = "daylight_until is %s"
	msgWantWithinDay      = "a moment of the day"
	msgWantCraftType      = "the type of a craft of this day"
	msgWantCharger        = "a charger of this day"
	msgWantSomeCraft      = "at least one craft"
	msgWantCraft          = "craft of this day"
	msgWantAfterFrom      = "a moment after from"
	msgWantInstructor     = "an instructor of this day"
	msgWantStudent        = "a student of this day"
	msgWantOneCraft       = "a craft of this day"
	msgWantPack           = "a pack of this day"
	msgWantAfterItsStart  = "a moment after its start"
	msgEndsBeforeItsStart = "is %s, and its start is %s"
	msgWantBeforeNow      = "a moment before now"
	msgWantStudentOnce    = "a student on one craft at a time"
	msgStudentTwice       = "has %s, who flies %s in flown[%d] at the same time"
	msgWantCraftOnce      = "a craft in one flight at a time"
	msgThingTwice         = "has %s, which is in flown[%d] at the same time"
	msgWantPackOnce       = "a pack in one flight at a time"
	msgWantIdOnce         = "each id once"
	msgSameID             = "is that of %s[%d]"
)

// What is short (msgShort), why a student is left out, and what would make
// everything fit (msgFit). The arguments are times of day, minutes, numbers of
// a thing, and the thing.
const (
	msgShortCalm        = "the wind passes the limit; in calm air there would be time"
	msgShortPairing     = "the instructor with whom the student is paired has no more time"
	msgShortPacks       = "there are too few charged packs"
	msgShortCraft       = "there are too few craft"
	msgShortInstructors = "there are too few instructors"
	msgShortSpotters    = "there are too few spotters"
	msgShortBoxes       = "there are too few flying boxes"
	msgShortSlots       = "there are too few charger slots"
	msgShortPresence    = "the student is not there for longer"
	msgShortDay         = "the day is too short"
	msgNoInstructor     = "no instructor is there"
	msgNoSpotter        = "no spotter is there"
	msgWindyAllDay      = "the wind is over the limit of the student or of %s all day"
	msgTooLongForHours  = "%d flights with their rests take %s, and there are %s from %s to %s"
	msgTooLongForWind   = "%d flights with their rests take %s, and the wind passes the limit at %s"
	msgNoTimeLeft       = "no time is left before %s; %s"
	msgNoTimeLeftAmong  = "no time is left before %s; %s, among other things"
	msgNoTimeLeftAtAll  = "no time is left before %s; more of one thing alone would not do"
	msgFitLongerDay     = "%d min more of day"
	msgBeyondDaylight   = ", which daylight does not give"
	msgFitMorePacks     = "%d more charged %s of the type %s"
	msgFitMoreCraft     = "%d more craft of the type %s"
)

// A gate toward which nothing can be flown today; the argument is its title.
const (
	msgGateHasToWait = "nothing that %s still needs can be flown with these aids in this wind, so the lesson " +
		"goes on along the ladder"
)

// A lesson without a block.
const (
	msgNothingOpen = "there is nothing that may be flown with these aids in this wind"
)

// A craft without packs.
const (
	msgNoPackType = "there is no pack of a type that %s flies on"
)
