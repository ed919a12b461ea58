package marking

// What calls.go says.
const (
	msgGoesFromEyes = "It goes %.0f m from the eyes; %s can tell nose from tail to %.0f m"
)

// What desk.go says.
const (
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
	msgOtherWayRound      = "The other way round"
	msgLobesOrEnds        = "Lobes or ends of different size"
	msgCrossedOffCentre   = "Crossed off the centre"
	msgNotAngle           = "Not at its angle"
	msgTooFastOr          = "Too fast or too slow"
	msgTouchedDownHard    = "Touched down hard"
	msgTouchedDownLeaning = "Touched down leaning"
)

// What state.go says.
const (
	msgIntruderField      = "an intruder on the field"
	msgSomebodyCameOnto   = "Somebody came onto the field"
	msgCraftFailed        = "the craft failed"
	msgCraftFailed2       = "The craft failed"
	msgInstructorStopped  = "the instructor stopped it"
	msgInstructorStopped2 = "The instructor stopped it"
	msgVoidAlready        = "It is void already."
	msgDoesNotCount       = "It does not count now; as void it would not count either, and nothing else changes."
	msgVoidDoesNot        = "As void it does not count: the standing goes from %s back to %s."
	msgVoidDoesNotCount   = "As void it does not count; the standing stays %s."
)
