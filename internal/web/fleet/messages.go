package fleet

import "maestrale/internal/words"

// say speaks what this package says.
var say = words.Table{
	"counts": "%[1]d of %[2]d craft can fly, and %[3]d of %[4]d packs are fit",
}.Speaker()

// What check.go says.
const (
	msgGiveMinutesFlown  = "Give the minutes that are to be flown."
	msgChooseAidsFrom    = "Choose the aids from the list."
	msgFromAnswerAnswer  = "from answer to answer"
	msgAmongFirstFlights = "among the first flights"
	msgGoBackCheck       = "Go back to the check; what was answered before is kept."
)

// What craft.go says.
const (
	msgTakenOutService      = "taken out of service"
	msgBackService          = "back in service"
	msgCheckBeforeFlight    = "Check before a flight"
	msgKeyCheckBeforeFlight = "check before a flight"
	msgNotClean             = "not clean, at %s"
	msgPlaceNotNoted        = "a place not noted"
	msgWhatHappenedNot      = "What happened is not known."
	msgChooseOnePage        = "Choose one of the page's own entries."
	msgPutRightNote         = "Correct it and note it again."
)

// What fleet.go says.
const (
	msgWalkThroughCraft      = "walk through the craft and open one"
	msgOutService            = "out of service"
	msgToBeProven            = "to be proven"
	msgCrashesHundredFlights = "%.1f crashes in a hundred flights"
	msgWhatBroughtDay        = "with these spares, a missing part does not end a day of %d flights in %.0f %% " +
		"of cases; with what is on the shelf, in %.0f %%"
	msgCrashesFlights    = "%.1f crashes in %.0f flights"
	msgCrashesComeChance = "Crashes are taken as random, at a rate estimated from those recorded and from what " +
		"is usual for beginners. Each uses a random number of each part, as earlier ones did. Parts are added, " +
		"the most useful first, until a missing part ends at most one day in ten."
	msgGammaPoissonGelman = "Gamma–Poisson: Gelman et al., Bayesian Data Analysis, 3rd ed., 2013, section 2.6. " +
		"The prior is our own estimate."
	msgUsedCrashBring   = "%d used, %.2g a crash; bring %d, %d on the shelf"
	msgWhyTheseSpares   = "Why these spares"
	msgCraftNoName      = "The craft has no name or no known type."
	msgWriteNameArm     = "Write the name on its arm and choose its type."
	msgTypePackNot      = "The type of the pack is not known."
	msgChooseOneList    = "Choose one of the list."
	msgDayCouldNot      = "The day %.20q could not be read."
	msgWriteItAs        = "Write it as 2026-03-02."
	msgPutRightAdd      = "Correct it and add it again."
	msgCountCouldNot    = "The count could not be read."
	msgWriteWholeNumber = "Write a whole number: 4 for four more, −2 for two fewer."
	msgChooseFilePage   = "Choose a file as this page exports it."
	msgPutLineRight     = "Correct that line and import the file again."
)

// What own.go says.
const (
	msgGoBackPut        = "Go back, correct it and save it again."
	msgTypePacksNot     = "The type of the packs is not known."
	msgWriteThemMah     = "Write them as 6 × 4S 3300 mAh, P1 to P6."
	msgNamesStandLabels = "Names stand on the labels. Choose others, or leave that one out."
)

// What packs.go says.
const (
	msgHoversNow           = "hovers now for"
	msgInOfWind            = "in %.1f m/s of wind"
	msgLandUnderLoad       = "land at, under load"
	msgHourLesson          = "for an hour's lesson"
	msgCoolsBefore         = "cools before that"
	msgWhyUnderlinedFigure = "why, on an underlined figure"
	msgOnTheCharger        = "on the charger"
	msgTakenOutUse         = "taken out of use"
	msgDensityAirStandard  = "density of the air (standard)"
	msgMeritDriveIncluded  = "merit, drive included"
	msgOfForThe            = "%.2f of %.2f for the type; %s"
	msgChargePackNot       = "The charge of this pack is not known, so neither a time nor a range is given."
	msgNoteRestedVolts     = "Note the resting voltage of each cell, or a full charge, and both are computed."
	msgMomentumTheoryGives = "Momentum theory gives the least power that holds the weight, P = T √(T / 2ρA). " +
		"It is divided by the figure of merit, and the power of the electronics is added. The pack is then " +
		"discharged step by step, with the current that this power needs at the sagging voltage, until the " +
		"reserve is left."
	msgLeishmanPrinciplesHelicopter = "Leishman, Principles of Helicopter Aerodynamics, 2nd ed., 2006, chapter " +
		"2; density ISO 2533:1975. The type's merit counts as one measurement with 15 % error, each measured " +
		"hover as one with 10 %."
	msgMinLeaning    = "%.1f min at %.0f W, leaning %.0f°"
	msgKeepPlaceWind = "To hold its place in wind the craft flies against it: the rotors meet more air and " +
		"need less power to hold the weight, and more power goes into drag."
	msgGlauertLeishmanChapter = "Glauert 1926; Leishman 2006, chapter 2, forward flight."
	msgCellUnderLoad          = "%.2f V a cell under load; it then rests at %.2f V"
	msgWhatCellRests          = "The resting voltage of a cell with the reserve left, less the drop of the " +
		"hover current over its resistance, and never below the voltage that damages a cell."
	msgRestVoltsCharge = "rest volts of %s by charge (docs/formats.md); V = E − I R"
	msgMinFromReserve  = "%.0f min from the reserve to full, of which the current is held up to %.0f %%; %.0f " +
		"°C after a flight, %.0f min to cool"
	msgChargeBelow      = "charge it below"
	msgCurrentHeldUntil = "The charger holds the current until the voltage is reached, then holds the voltage " +
		"until the current has fallen to a twentieth. A flight heats the pack by I²R; it cools by Newton's law of " +
		"cooling."
	msgHeatCellsMaleki = "heat of cells: Maleki et al., J. Electrochem. Soc. 146 (1999) 947"
	msgFlyGetsHome     = "Fly %s. It gets home from %s in the worst direction, and a keen eye tells its nose " +
		"by day up to %s; the fence that is set on the craft may be nearer than both."
	msgAboveReserve  = "above the reserve"
	msgDownLand      = "descent and landing"
	msgAirSpeedBest  = "most economical airspeed against it"
	msgWhatPackHolds = "The energy above the reserve, less that of the climb, the descent and the landing, " +
		"divided by the energy that one metre toward home takes against the wind at the most economical airspeed."
	msgEnergyBalanceDocs = "energy balance, docs/formats.md; power as for hover and wind; sight by the spacing " +
		"of what tells the nose from the tail and an eye of normal acuity"
)

// What check.go says.
const (
	msgCheckNotBegun = "The check was not begun: %s."
	msgNotNoted      = "It was not noted: %s."
)

// What fleet.go says.
const (
	msgPackNotAdded = "The pack was not added: %s."
)

// What own.go says.
const (
	msgTypeNotKept     = "The type was not saved: %s."
	msgNoPackAdded     = "No pack was added: %s."
	msgNoPackAddedPack = "No pack was added: there is a pack %s already."
)
