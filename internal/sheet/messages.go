package sheet

// What logbook.go says.
const (
	msgWhereNose         = "Where the nose has been"
	msgInnerPositionHold = "inner: with position hold, outer: without. Dark: held; light: building; grey: " +
		"lapsed; white: untried or no drill."
	msgLadderFromGround = "Ladder, from the ground up"
	msgNoAttemptYet     = "No attempt yet."
	msgTrainingRecordNo = "A training record. It is not a licence; local rules and the instructor's judgement " +
		"come first."
)

// What sheet.go says.
const (
	msgToLayIt            = "To lay it"
	msgFromPilotPace      = "from the pilot; a pace is %.2f m"
	msgMoreMarkers        = "and %d more markers"
	msgTurnAwayFrom       = "Turn away from people"
	msgCouldFallFrom      = "%.1f m; if power fails it may land up to %.1f m away (dashed)"
	msgMoreWarningsScreen = "and %d more warnings on the screen"
	msgNeverFlyOver       = "Never fly over anyone. A training aid: local rules, the craft's manual and the " +
		"instructor's judgement come first."
)
