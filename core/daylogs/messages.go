package daylogs

// What agree.go says.
const (
	msgTooFewToAgree           = "Fewer than %d attempts were judged by both with a distance in the log."
	msgLenient                 = "More lenient than the drill: passes what is up to %.2f m outside its limit."
	msgStrict                  = "Stricter than the drill: asks for %.2f m more than its limit."
	msgNeitherStrictNorLenient = "Neither strict nor lenient, as far as these attempts show."
)

// What daylogs.go says.
const (
	msgNoPosition   = "the file holds no position"
	msgMadeBefore   = "An attempt was made of it before."
	msgNotRead      = "It was not read."
	msgNothingFlies = "Nothing flies in it."
	msgNoTimeTold   = "It does not say when it was recorded. Score it from the page of the student who flew it."
	msgCannotRead   = "It cannot be read: %s."
	msgSameFile     = "It is the same file as %s."
	msgSameFlight   = "It is the same flight as %s, which has more in it."
)

// What items.go says.
const (
	msgAnotherDay         = "It is of another day, %d days away by its own clock."
	msgNoFlightThen       = "No flight of the day was noted at this time."
	msgSeveralFlightsThen = "More than one flight of the day fits this time."
	msgClockFitsSeveral   = "The clock of the recorder was off, and its logs fit the day in more than one way."
	msgNoneOfThese        = "none of these"
	msgFlightWithTimes    = "%s with %s, from %s to %s"
	msgMarkAndLogAgree    = "%s marked it %s, and the log says the same."
	msgLogTooShort        = "%s marked it %s. The log does not hold the whole drill, so the mark stands."
	msgMarkAndLogDiffer   = "%s marked it %s, and the log says %s: %s."
	msgLeaveLogOut        = "leave the log out"
	msgNoDrillToItsEnd    = "None of the drills that were planned or likely was flown to its end in it."
	msgPlannedDrillFlown  = "It is the drill that was planned for this flight, flown to its end."
	msgOtherDrillFlown    = "It is not the drill that was planned for this flight. Which one was meant?"
	msgLogNotSure         = " The log says %s, and is not fine enough to be sure."
	msgNotScoredAsMarked  = "The log cannot be scored as the drill that was marked: %s."
	msgMarkStands         = "the mark stands: %s"
	msgLogStands          = "the log stands: %s"
	msgNotScored          = "It cannot be scored: %s."
	msgKeepAs             = "keep it as %s"
)

// What read.go says.
const (
	msgWantAfterStarts = "a time after starts"
	msgWantFlights     = "a list of the flights that were flown"
	msgWantVerdict     = "pass, fail or incomplete"
	msgWantAfterFrom   = "a time after from"
)
