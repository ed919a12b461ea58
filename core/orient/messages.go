package orient

// What decide.go says.
const (
	msgLookFirst  = "look first: %s for %g s"
	msgHomeAhead  = "home: push ahead"
	msgHomeTurned = "home: turn %.0f° to the %s and push ahead"
)

// What levels.go says.
const (
	msgLevelNoWind     = "No wind, and the nose somewhere across: the first push shows a side."
	msgLevelWindAcross = "3 m/s across, which moves the dot by itself: what counts is what a push changes."
	msgLevelAlongName  = "Along the line"
	msgLevelAlong      = "The nose points at you or away: a push shows nothing, and only a turn tells which."
	msgLevelFarther    = "Half as far again, wind across, the nose anywhere, and other dots that do not obey."
)

// What quarters.go says.
const (
	msgTailTowardYou   = "tail toward you"
	msgNoseTowardYou   = "nose toward you"
	msgNoseToYourRight = "nose to your right"
	msgNoseToYourLeft  = "nose to your left"
	msgAwayFromYou     = "away from you"
	msgToYourRight     = "to your right"
	msgToYourLeft      = "to your left"
	msgStopDriftNoseIn = "Nose in: push toward the side that it drifts to. It drifts to your left: stick to the " +
		"left stops it."
	msgStopDriftTailIn = "Tail in: push away from the side that it drifts to. It drifts to your left: stick to " +
		"the right stops it."
	msgStopDriftSideOn = "Side on: a drift to your left is stopped by the stick pushed %s, along the nose or the tail."
)

// What reflex.go says.
const (
	msgTaskTailToYou   = "Turn the tail to you"
	msgTaskToYourLeft  = "Bring it to your left"
	msgTaskToYourRight = "Bring it to your right"
	msgTaskCloser      = "Bring it closer"
	msgTaskAway        = "Send it away"
	msgTooFewAnswers   = "Two minutes a day, at a table: too few answers yet to say where it is weak."
	msgNoneWeaker      = "No aspect is weaker than the others: two minutes keep it."
	msgSpeedComes      = "Speed comes by itself. A wrong first movement does not mend itself."
	msgWeakAskedMore   = "These aspects are asked more often until they are no longer weaker."
	msgWeakAtTonight   = "Five minutes tonight: weak at %s."
)

// What rows.go says.
const (
	msgColumnNotRead = "the column %q is not read"
)

// What schools.go says.
const (
	msgSchoolBestInput    = "The most informative input"
	msgSchoolReadLine     = "Read the line of sight"
	msgSchoolTurn         = "Turn until it hangs still"
	msgSchoolSquare       = "Finish the square"
	msgSchoolBestInputHow = "At each moment the stick movement that is expected to bring it nearest within 16 " +
		"s, judged by what the pilot would see; then home, as soon as another look gains nothing."
	msgSchoolReadLineHow = "Push ahead for two seconds. If it moves fast to a side, turn a quarter toward that " +
		"side; if slowly, an eighth. If nothing is seen, turn a quarter and look again."
	msgSchoolTurnHow = "Push a little ahead and yaw in brief pulses toward the side it moves to, until it " +
		"hangs still. Then bring it home."
	msgSchoolSquareHow = "Push ahead, and turn in quarters, always to the right. After the leg that goes " +
		"right, one more turn leads home; after the leg that goes left, three."
	msgTeachFirst     = "In %s teach “%s” first: it is home %s before “%s”."
	msgSquareTakes    = "“Finish the square” takes %s: keep it for close in, where the legs can be seen."
	msgBestInputSaves = "Knowing the best input at each moment would save %s more."
)

// What tonight.go says.
const (
	msgNotFlownYet = "It has not been flown yet. Read first how it is graded."
	msgPassedSoFar = "Passed %d of %d so far. Three passes in a row without the coach open the next level."
	msgTonight     = "Three lost craft tonight, about %d minutes: %s."
)

// What watch.go says.
const (
	msgToItsRight = "to its right"
	msgToItsLeft  = "to its left"
)
