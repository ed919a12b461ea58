package marking

// What calls.go says.
const (
	msgGoesFromEyes = "It reaches %.0f m from the pilot; %s can tell nose from tail to %.0f m"
)

// What desk.go says.
const (
	msgRecordAway = "the record of %s is not on this device: open the pad on them once where the school is reached, or " +
		"plan them into the field day"
	msgAtOfIts = ", at %.0f %% of its size"
)

// What sheet.go says.
const (
	msgTurnedWrongWay     = "Turned the wrong way"
	msgWentWrongWay       = "Went the wrong way first"
	msgCarriedTooFar      = "Carried too far"
	msgTakenOverToo       = "Taken over too soon"
	msgTurnedTooFar       = "Turned too far"
	msgWentPastPlace      = "Went past the place"
	msgOtherWayRound      = "Flown the other way round"
	msgLobesOrEnds        = "Lobes or ends of different size"
	msgCrossedOffCentre   = "Crossed off the centre"
	msgNotAngle           = "Not at the required angle"
	msgTooFastOr          = "Too fast or too slow"
	msgTouchedDownHard    = "Touched down hard"
	msgTouchedDownLeaning = "Touched down leaning"
)

// What state.go says.
const (
	msgIntruderField       = "an intruder on the field"
	msgSomebodyCameOnto    = "Somebody came onto the field"
	msgCraftFailed         = "the craft failed"
	msgCraftFailedIt       = "The craft failed"
	msgInstructorStopped   = "the instructor stopped it"
	msgInstructorStoppedIt = "The instructor stopped it"
	msgVoidAlready         = "It is void already."
	msgDoesNotCount        = "It does not count now, so voiding it changes nothing else."
	msgVoidDoesNot         = "Once voided it no longer counts: the standing goes from %s back to %s."
	msgVoidDoesNotCount    = "Once voided it no longer counts; the standing stays %s."
)

// What desk.go says.
const (
	msgNotMarkedOwn = "not on %s: %s; it is marked as on its own course"
)

// What state.go says.
const (
	msgSimulatorWhatCounts = "%s in the simulator; what counts at the field is flown at the field"
	msgStillFly            = "; still to fly: %s"
)
