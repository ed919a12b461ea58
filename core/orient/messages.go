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
	msgNosePushToward = "Nose in: push toward the side that it drifts to. It drifts to your left: stick to the " +
		"left stops it."
	msgTailPushAway = "Tail in: push away from the side that it drifts to. It drifts to your left: stick to " +
		"the right stops it."
	msgSideDriftYour = "Side on: a drift to your left is stopped by the stick pushed %s, along the nose or the tail."
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
	msgFasterComesItself = "Speed comes by itself. A wrong first movement does not mend itself."
	msgAskedMoreOften    = "These aspects are asked more often until they are no longer weaker."
)

// What rows.go says.
const (
	msgColumnNotRead = "the column %q is not read"
)

// What schools.go says.
const (
	msgWhatExpectedWorth = "The most informative input"
	msgReadLineSight     = "Read the line of sight"
	msgTurnUntilHangs    = "Turn until it hangs still"
	msgFinishSquare      = "Finish the square"
	msgInputWhoseSight   = "At each moment the stick movement that is expected to bring it nearest within 16 " +
		"s, judged by what the pilot would see; then home, as soon as another look gains nothing."
	msgAheadTwoSeconds = "Push ahead for two seconds. If it moves fast to a side, turn a quarter toward that " +
		"side; if slowly, an eighth. If nothing is seen, turn a quarter and look again."
	msgLittleAheadBrief = "Push a little ahead and yaw in brief pulses toward the side it moves to, until it " +
		"hangs still. Then bring it home."
	msgAheadQuarterTurns = "Push ahead, and turn in quarters, always to the right. After the leg that goes " +
		"right, one more turn leads home; after the leg that goes left, three."
	msgTeachFirstHome    = "In %s teach “%s” first: it is home %s before “%s”."
	msgFinishSquareTakes = "“Finish the square” takes %s: keep it for close in, where the legs can be seen."
	msgKnowBestInput     = "Knowing the best input at each moment would save %s more."
)

// What tonight.go says.
const (
	msgNotFlownYet    = "It has not been flown yet. Read first how it is graded."
	msgPassedSoFar    = "Passed %d of %d so far. Three passes in a row without the coach open the next level."
	msgThreeLostCraft = "Three lost craft tonight, about %d minutes: %s."
)

// What watch.go says.
const (
	msgToItsRight = "to its right"
	msgToItsLeft  = "to its left"
)

// What reflex.go says.
const (
	msgFiveMinutesTonight = "Five minutes tonight: weak at %s."
)
