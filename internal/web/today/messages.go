package today

import "maestrale/internal/words"

// say speaks what this package says.
var say = words.Table{
	"more calls": words.Count(1, "%d more call", "%d more calls"),
	"abandoned": words.Count(2, "Nobody has flown since %[1]s, and one flight is still planned.",
		"Nobody has flown since %[1]s, and %[2]d flights are still planned."),
	"finished": words.Count(1, "The day is over. %d flight was flown.",
		"The day is over. %d flights were flown."),
	"not flown":         words.Count(1, "%d planned flight was not flown.", "%d planned flights were not flown."),
	"later and more":    "%[1]s and %[2]d more",
	"all craft checked": words.Count(1, "Craft: %d, checked today", "Craft: %d, all checked today"),
	"craft unchecked":   words.Count(2, "Craft: %[1]d, one not ready", "Craft: %[1]d, %[2]d not ready"),
	"closed":            "The day was closed",
	"still flying":      "%s is still in the air. Close the day after the landing.",
}.Speaker()

// What acts.go says.
const (
	msgFlightWantsBox     = "A flight needs a box, a craft, a pack, and for a lesson a student."
	msgWhatNotedFlight    = "Note the end of a flight, an incident, how the student feels, or that it is void."
	msgStudentCalmTense   = "A student is calm, tense or shaken."
	msgSayWordWhat        = "Say briefly what it was."
	msgCountedLanding     = "counted by the landing"
	msgNoFieldDay         = "There is no field day to hold."
	msgPackNotUse         = "That pack is not in use today."
	msgPackPutCharger     = "A pack is put on a charger, is full, or is out."
	msgEverySlotTaken     = "Every slot of %s is taken."
	msgChargerNotField    = "That charger is not at the field."
	msgMinutesWindNumbers = "Minutes and wind are numbers."
	msgWindExpectedFrom   = "wind expected at %.1f m/s from now on, until it is changed"
	msgChangeNotKnown     = "That change is not known."
	msgAtInBox            = "%s at %s in box %d"
	msgPlanStays          = "The plan stays as it was."
	msgMoveElsewhereOr    = "Move it elsewhere, or change who and what is there and plan again."
	msgGoBackKeep         = "Go back to keep it or to move it elsewhere."
	msgMoveCouldNot       = "The move could not be read."
	msgBreaksNothing      = "That breaks nothing."
	msgSayWhichFlight     = "Say which flight, and how many minutes later."
)

// What calendar.go says.
const (
	msgNothingPlannedYet = "Nothing is planned yet"
)

// What cost.go says.
const (
	msgWouldLeftOut      = "%s would be left out with %s: %s."
	msgWouldAnotherTime  = "%s would be at another time or on another craft."
	msgLastLandingWould  = "The last landing would be %.0f min %s."
	msgCostsNothingEvery = "It costs nothing: every flight stays where it is."
)

// What craft.go says.
const (
	msgGroundedToday = "grounded for today"
	msgLookAtIt      = "Look at it"
	msgPutRight      = "Correct it"
	msgCheckNotOver  = "its check is not over"
	msgGoOnWith      = "Go on with it"
)

// What logs.go says.
const (
	msgLogsDay          = "Logs of the day"
	msgChooseDayLogs    = "Choose the day's logs again: CSV, GPX, IGC, KML, GeoJSON or NMEA, each up to 64 MB."
	msgFolderHoldsLogs  = "A folder holds %d logs and %d MB at most."
	msgGiveRestSecond   = "Give the rest in a second folder."
	msgLogsFolderSorted = "The logs of this folder were sorted already."
	msgGiveTheseFolder  = "Give these in a folder of their own."
	msgChooseOneAnswers = "Choose one of the answers that are offered."
	msgRecorderClock    = "The recorder's clock"
	msgMayWouldThen     = "%s may have been %s %s: %s would then fit the day, and other shifts fit nearly as well."
	msgThenFitDay       = "%s was %s %s: then %s fit the day. The times were put right by that."
)

// What phase.go says.
const (
	msgLaterMore        = "later and more"
	msgAllCraftChecked  = "all craft checked"
	msgNoFieldDayClose  = "There is no field day to close."
	msgCountedDayClosed = "counted as the day was closed"
)

// What setup.go says.
const (
	msgNobodyFlies = "nobody flies; give at least one student a flight"
)

// What strip.go says.
const (
	msgInTheAir         = "in the air"
	msgOnFullAt         = "on %s, %.0f %%, full at %s"
	msgChargesMin       = "charges in %.0f min"
	msgFlightOnWithWhat = "%s to %s: %s on %s with %s, %s"
	msgFlightOnWith     = "%s to %s: %s on %s with %s"
)

// What today.go says.
const (
	msgPlannedFlightMinute = "a planned flight a minute earlier, later"
	msgBoxAboveBelow       = "to the box above, below"
	msgWhatBreaks          = "what that breaks"
	msgLastLandingPlanned  = "The last landing is planned for %s; it cannot be before %s, for the %s."
	msgNoDrillWithin       = "no drill on their list is within the limits of the wind and the light now"
	msgOnAndLand           = "%s on %s: %s, and land"
	msgWhatCosts           = "What it costs"
)

// What acts.go says.
const (
	msgTakenOut  = "%s is taken out"
	msgMovedHand = "moved by hand: %s"
)

// What cost.go says.
const (
	msgFlightsPlannedWould = "Of the flights that are planned, %s would not be flown."
)

// What logs.go says.
const (
	msgTheClockOf = "The clock of %s"
)

// What strip.go says.
const (
	msgCanCharged = "can be charged at %s"
)
