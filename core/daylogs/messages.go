package daylogs

// What agree.go says.
const (
	msgFewerAttemptsJudged = "Fewer than %d attempts were judged by both with a distance in the log."
	msgMoreLenientDrill    = "More lenient than the drill: passes what is up to %.2f m outside its limit."
	msgStricterDrillAsks   = "Stricter than the drill: asks for %.2f m more than its limit."
	msgNeitherStrictNor    = "Neither strict nor lenient, as far as these attempts show."
)

// What daylogs.go says.
const (
	msgFileHoldsNo       = "the file holds no position"
	msgAttemptMadeBefore = "An attempt was made of it before."
	msgNotRead           = "It was not read."
	msgNothingFlies      = "Nothing flies in it."
	msgDoesNotSay        = "It does not say when it was recorded. Score it from the page of the student who flew it."
)

// What items.go says.
const (
	msgAnotherDayDays     = "It is of another day, %d days away by its own clock."
	msgNoFlightDay        = "No flight of the day was noted at this time."
	msgMoreOneFlight      = "More than one flight of the day fits this time."
	msgClockRecorderOff   = "The clock of the recorder was off, and its logs fit the day in more than one way."
	msgNoneThese          = "none of these"
	msgWithFromTo         = "%s with %s, from %s to %s"
	msgMarkedLogSays      = "%s marked it %s, and the log says the same."
	msgMarkedLogDoes      = "%s marked it %s. The log does not hold the whole drill, so the mark stands."
	msgMarkedLogDiffers   = "%s marked it %s, and the log says %s: %s."
	msgLeaveLogOut        = "leave the log out"
	msgNoneDrillsPlanned  = "None of the drills that were planned or likely was flown to its end in it."
	msgDrillPlannedFlight = "It is the drill that was planned for this flight, flown to its end."
	msgNotDrillPlanned    = "It is not the drill that was planned for this flight. Which one was meant?"
	msgLogSaysNot         = " The log says %s, and is not fine enough to be sure."
)

// What read.go says.
const (
	msgTimeAfterStarts  = "a time after starts"
	msgListFlightsFlown = "a list of the flights that were flown"
	msgPassFailOr       = "pass, fail or incomplete"
	msgTimeAfterFrom    = "a time after from"
)

// What daylogs.go says.
const (
	msgCannotRead      = "It cannot be read: %s."
	msgSameFile        = "It is the same file as %s."
	msgSameFlightWhich = "It is the same flight as %s, which has more in it."
)

// What items.go says.
const (
	msgLogCannotScored = "The log cannot be scored as the drill that was marked: %s."
	msgMarkStands      = "the mark stands: %s"
	msgLogStands       = "the log stands: %s"
	msgCannotScored    = "It cannot be scored: %s."
	msgKeepItAs        = "keep it as %s"
)
