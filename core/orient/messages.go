package orient

// What decide.go says.
const (
	msgLookFirst     = "look first: %s for %g s"
	msgHomePushAhead = "home: push ahead"
	msgHomeTurnPush  = "home: turn %.0f° to the %s and push ahead"
)

// What levels.go says.
const (
	msgNoWindNose       = "No wind, and the nose somewhere across: the first push shows a side."
	msgAcrossWhichMoves = "3 m/s across, which moves the dot by itself: what counts is what a push changes."
	msgAlongLine        = "Along the line"
	msgNosePointsYou    = "The nose points at you or away: a push shows nothing, and only a turn tells which."
	msgHalfFarAgain     = "Half as far again, wind across, the nose anywhere, and other dots that do not obey."
)

// What quarters.go says.
const (
	msgTailTowardYou  = "tail toward you"
	msgNoseTowardYou  = "nose toward you"
	msgNoseYourRight  = "nose to your right"
	msgNoseYourLeft   = "nose to your left"
	msgAwayFromYou    = "away from you"
	msgYourRight      = "to your right"
	msgYourLeft       = "to your left"
	msgNosePushToward = "Nose in: push toward the side that it drifts to. It drifts to your left: stick to " +
		"the left stops it."
	msgTailPushAway = "Tail in: push away from the side that it drifts to. It drifts to your left: stick to " +
		"the right stops it."
	msgSideDriftYour = "Side on: a drift to your left is stopped by the stick pushed %s, along the nose or " +
		"the tail."
)

// What reflex.go says.
const (
	msgTurnTailYou       = "Turn the tail to you"
	msgBringYourLeft     = "Bring it to your left"
	msgBringYourRight    = "Bring it to your right"
	msgBringCloser       = "Bring it closer"
	msgSendAway          = "Send it away"
	msgTwoMinutesDay     = "Two minutes a day, at a table: too few answers yet to say where it is weak."
	msgNoAspectWeaker    = "No aspect is weaker than the others: two minutes keep it."
	msgFasterComesItself = "Faster comes by itself; a wrong first movement does not."
	msgAskedMoreOften    = "It is asked there more often until it is not."
)

// What rows.go says.
const (
	msgColumnNotRead = "the column %q is not read"
)

// What schools.go says.
const (
	msgWhatExpectedWorth = "What is expected to be worth most"
	msgReadLineSight     = "Read the line of sight"
	msgTurnUntilHangs    = "Turn until it hangs still"
	msgFinishSquare      = "Finish the square"
	msgInputWhoseSight   = "The input whose sight is expected to bring it nearest within 16 s, and the way home " +
		"as soon as a look is worth no more."
	msgAheadTwoSeconds = "Ahead for two seconds; gone fast to a side, a quarter turn toward it, slowly an " +
		"eighth; nothing seen, a quarter and look again."
	msgLittleAheadBrief = "A little ahead, brief pulses of yaw toward the side it moves to, until it hangs " +
		"still; then home."
	msgAheadQuarterTurns = "Ahead, and quarter turns always to the right: after the leg that goes right one " +
		"more turn leads home, after the leg that goes left three."
	msgTeachFirstHome    = "In %s teach “%s” first: it is home %s before “%s”."
	msgFinishSquareTakes = "“Finish the square” takes %s: keep it for close in, where the legs can be seen."
	msgKnowBestInput     = "To know the best input at each moment saves %s more."
)

// What tonight.go says.
const (
	msgNotFlownYet    = "It was not flown yet: read its grade first."
	msgPassedSoFar    = "Passed %d of %d so far; three in a row without the coach open the next."
	msgThreeLostCraft = "Three lost craft tonight, about %d minutes: %s."
)

// What watch.go says.
const (
	msgToItsRight = "to its right"
	msgToItsLeft  = "to its left"
)
