package draw

// What course.go says.
const (
	msgSunEyes               = "sun in the eyes"
	msgEveryDrillStays       = "every drill stays %s m from the pilot"
	msgEveryDrillStaysFrom   = "every drill stays %s m from %s"
	msgEveryDrillStaysFromOr = "every drill stays %s m from %s, or farther"
	msgPilotStation          = "the pilot's station"
	msgNoseTailTold          = "nose and tail told apart to %.0f m"
	msgNoWindFresh           = "no recent wind measurement"
)

// What fleet.go says.
const (
	msgChargeNotKnown = "charge not known"
	msgCraftFromAbove = "the craft from above, nose up, with the direction in which each rotor turns"
)

// What flight.go says.
const (
	msgPlanLimitsScale = "Plan: the limits to scale, what was flown over them, and the faults; the table says " +
		"the same"
	msgYouOffNot = "you, %s m off; not to scale"
)

// What overtime.go says.
const (
	msgHeightOverTime = "Height over time, with the limits to scale; the table says the same"
	msgNoseOffRule    = "Nose error over time: to the right above the middle, to the left below; the table " +
		"says the same"
	msgTimeLineSteps = "Time line of steps and faults; the table says the same"
)

// What progress.go says.
const (
	msgItemsHeldOver       = "Items held over attempts flown, with the gates as lines; the table says the same"
	msgMoreAttempts        = "%d to %d more attempts"
	msgAttemptsTheirMargin = "Attempts by their margin over time, with the chance of a pass; the table says the same"
)

// What reflexes.go says.
const (
	msgReflexesWhereNose = "Reflexes by where the nose points; the table beside says the same"
)

// What ring.go says.
const (
	msgAspectRingStanding = "Aspect ring: standing by where the nose points as the pilot sees it; the table " +
		"under it says the same"
	msgPositionHold        = "with position hold"
	msgWithoutPositionHold = "without position hold"
	msgNoDrillProgramme    = "no drill of the programme"
	msgNoseTowardYou       = "nose-in, toward you"
)

// What share.go says.
const (
	msgCellsHeld = "%d of %d items held"
)

// What strip.go says.
const (
	msgDayBoxesPacks = "The day: boxes and packs over time"
)

// What teach.go says.
const (
	msgDrillFromAbove = "The drill from above, with the craft and its nose at each step; the list below says the same"
)

// What tells.go says.
const (
	msgChanceRightCall = "The chance of a right call by distance; the table says the same"
	msgIntervalHalfWay = "80 %% interval of the half-way distance: %.0f to %.0f m"
)

// What yaw.go says.
const (
	msgFromAboveWay   = "From above: the way past the subject, and the nose along it"
	msgFliesRight     = "it flies to the right"
	msgYawRateOver    = "The yaw rate over time: %.0f degrees a second at most"
	msgCraftFastest   = "the craft's maximum, %.0f °/s"
	msgYawRateSubject = "The yaw rate that the subject asked for, and the one that was flown"
)

// What ladder.go says of the whole ladder.
const msgLadderOf = "Ladder of %s: rungs from the ground up, left and right, with a line where each gate " +
	"is; the table under it says the same"

// What course.go says.
const (
	msgEndCrowdLine = "end of the crowd line, %s"
)

// What known.go says.
const (
	msgAndItWas = ", and it was %s"
)
