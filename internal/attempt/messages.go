package attempt

// What correct.go says.
const (
	msgAttemptNotFlown  = "An attempt is not flown later than now."
	msgMarkedTwiceOther = "marked twice; the other one stands"
)

// What course.go says.
const (
	msgOnAtOf = "on %s, at %.0f %% of its size"
)

// What marks.go says.
const (
	msgAttemptNoId           = "The attempt has no id."
	msgDeviceNoId            = "The device has no id that is a UUID, or noted its clocks too often."
	msgDeviceCounterExpected = "The device's counter is %d; expected 1 or more."
	msgMarksSentAttempt      = "%d marks were sent; an attempt has %d at most."
	msgMarkNoId              = "Mark %d has no id that is a UUID."
	msgSpotterMarksPosition  = "A spotter marks in position, out and calls, and not %q."
	msgTheseMarksMade        = "These marks were made under another sign-in than the one that sends them."
	msgCraftNotKnown         = "The craft %q with %q is not known."
	msgCourseAttemptNot      = "The course of this attempt is not known."
)

// What paper.go says.
const (
	msgEverythingBroughtFrom = "everything: it was brought from paper"
	msgOnlyPassesBrought     = "Only passes that were brought from paper are decided on."
)

// What sightings.go says.
const (
	msgSpotterSeesPosition = "A spotter sees in position, out, a call, traffic and stop."
	msgLeftLeftRight       = "Say where it left: left, right, away, toward, up or down."
	msgNoIdUuid            = "It has no id that is a UUID, or does not say when it was."
)

// What tracks.go says.
const (
	msgAnotherRunId = "another run has this id"
)

// What attempt.go says.
const (
	msgDrillNotKnown    = "the drill %s is not known here"
	msgBroughtFromPaper = "brought from paper, where %s vouches for it; the chief instructor has not let it count"
	msgRecordedNotTaken = "recorded at %s, and not taken over by the chief instructor"
)

// What marks.go says.
const (
	msgThatDrillNotKnown = "That drill is not known: %s."
)
