package marking

// What calls.go says.
const (
	msgTooFarForEyes = "It reaches %.0f m from the pilot; %s can tell nose from tail to %.0f m"
)

// What desk.go says.
const (
	msgRecordNotHere = "the record of %s is not on this device: open the pad on them once where the school is " +
		"reached, or plan them into the field day"
	msgAtSize      = ", at %.0f %% of its size"
	msgNotOnCourse = "not on %s: %s; it is marked as on its own course"
)

// What sheet.go says.
const (
	msgTurnedWrongWay     = "Turned the wrong way"
	msgWentWrongWay       = "Went the wrong way first"
	msgCarriedTooFar      = "Carried too far"
	msgTakenOverTooSoon   = "Taken over too soon"
	msgTurnedTooFar       = "Turned too far"
	msgWentPast           = "Went past the place"
	msgOtherWayRound      = "Flown the other way round"
	msgLobesUnequal       = "Lobes or ends of different size"
	msgOffCentre          = "Crossed off the centre"
	msgWrongAngle         = "Not at the required angle"
	msgWrongSpeed         = "Too fast or too slow"
	msgTouchedDownHard    = "Touched down hard"
	msgTouchedDownLeaning = "Touched down leaning"
)

// What state.go says.
const (
	msgIntruder                = "an intruder on the field"
	msgIntruderChoice          = "Somebody came onto the field"
	msgCraftFailed             = "the craft failed"
	msgCraftFailedChoice       = "The craft failed"
	msgInstructorStopped       = "the instructor stopped it"
	msgInstructorStoppedChoice = "The instructor stopped it"
	msgVoidAlready             = "It is void already."
	msgVoidChangesNothing      = "It does not count now, so voiding it changes nothing else."
	msgVoidTakesStanding       = "Once voided it no longer counts: the standing goes from %s back to %s."
	msgVoidKeepsStanding       = "Once voided it no longer counts; the standing stays %s."
	msgStandingInSimulator     = "%s in the simulator; what counts at the field is flown at the field"
	msgStillToFly              = "; still to fly: %s"
)
