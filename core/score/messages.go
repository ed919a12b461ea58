package score

// What an attempt is talked about first.
const (
	msgTightest = "Everything stayed within its limits. In step %[1]d the %[2]s came nearest to its limit: " +
		"%[3]s of %[4]s."
	msgTighten  = "Fly it again and leave more room there."
	msgUnjudged = "In step %[1]d, %[2]s, the limit of the %[3]s was not judged: %[4]s."
)

// stepWords are the kinds of steps as a person says them.
var stepWords = map[string]string{"takeoff": "take-off", "hold": "hold", "turn": "turn", "land": "landing",
	"goto": "flight to a place", "path": "path", "stop": "stop", "return": "return home", "regain": "recovery",
	"motors": "motors"}

// advice is what to do about a fault, by its kind.
var advice = map[Code]string{
	LeftBox:    "Look at the craft and the marker together, and correct early with small movements.",
	Height:     "Glance at the height more often, and hold the throttle steady.",
	Nose:       "Check where the nose points before each correction, and turn it with small movements.",
	CrossTrack: "Choose a point beyond the next marker and fly toward it; correct before the line is lost.",
	Speed:      "Keep the speed even: a little forward stick, held still.",
	Rest:       "Stop fully and count the seconds before you fly on.",
	Overshoot:  "Begin to slow down earlier, and stop with a gentle opposite movement.",
	WrongWay:   "Say aloud which way the nose points before you move a stick.",
	Uneven:     "Fly both halves with the same bank, and look at the far side before you turn.",
	Crossing:   "Aim for the centre each time, and look at it before the turn ends.",
	AngleOff:   "Climb and fly forward at a constant rate; look at both ends of the slope first.",
	Order:      "Walk the path once with a finger before you fly it.",
	Offset:     "Stop over the pad before you descend, and descend straight down.",
	Sink:       "Slow the descent over the last metre.",
	Tilt:       "Level the craft and let it settle before it touches.",
	Bounce:     "Close the throttle fully as it touches.",
	Late:       "Keep the fingers on the sticks and expect the call.",
	Lost:       "Stop and hold height first; then find out where the nose points.",
	Crash:      "Talk through what happened before anybody flies again.",
	TimeOut:    "Fly each step as soon as the one before it is done.",
	Fence:      "Turn back well before the fence.",
}

// adviceToward is what to do about a fault by where the craft was lost to.
var adviceToward = map[Code]map[string]string{
	LeftBox: {
		"left":   "It drifts to the left: correct to the right early, with small movements.",
		"right":  "It drifts to the right: correct to the left early, with small movements.",
		"away":   "It drifts away from you: pull it back early, with small movements.",
		"toward": "It drifts toward you: push it away early, with small movements.",
	},
	Height: {
		"up":   "It climbs: ease the throttle and glance at the height more often.",
		"down": "It sinks: add a little throttle and glance at the height more often.",
	},
}

// viewOf is the drawing on which a fault is seen.
var viewOf = map[Code]Picture{LeftBox: PlanView, Height: HeightView, Nose: NoseView, CrossTrack: PlanView,
	Speed: TimeView, Rest: TimeView, Overshoot: PlanView, WrongWay: PlanView, Uneven: PlanView, Crossing: PlanView,
	AngleOff: HeightView, Order: PlanView, Offset: PlanView, Sink: HeightView, Late: TimeView, Lost: PlanView,
	Crash: PlanView, TimeOut: TimeView, Fence: PlanView}

// What answers.go says.
const (
	msgCallAnswer       = "a call, and its answer"
	msgWhatHappenAnswer = "what is to happen in it (%s), and its answer"
)

// What ask.go says.
const (
	msgTapFinish       = "tap to finish"
	msgTapWhenAnswered = "s, tap when answered"
	msgTapYouCall      = "tap as you call"
)

// What codes.go says.
const (
	msgLeftBox             = "left the box"
	msgLostHeight          = "lost the height"
	msgNoseWrongDirection  = "nose in the wrong direction"
	msgOffLine             = "off the line"
	msgTooFastOr           = "too fast or too slow"
	msgRestedTooShort      = "rested too short a time"
	msgTurnedTooFar        = "turned too far"
	msgTurnedWrongWay      = "turned the wrong way"
	msgLobesOrEnds         = "lobes or ends of different size"
	msgCrossedOffCentre    = "crossed off the centre"
	msgWrongSlopeOr        = "wrong slope or angle"
	msgFlownWrongDirection = "flown in the wrong direction"
	msgLandedOffPad        = "landed off the pad"
	msgTouchedDownHard     = "touched down hard"
	msgTouchedDownLeaning  = "touched down leaning"
	msgTookTooLong         = "took too long"
	msgCrossedFence        = "crossed the fence"
	msgThenToTheLeft       = " to the left"
	msgThenToTheRight      = " to the right"
	msgThenAwayFromYou     = " away from you"
)

// What goto.go says.
const (
	msgLogNoRoll = "the log has no roll and pitch"
)

// What judged.go says.
const (
	msgTooFineLog = "too fine for this log (noise %.2f %s, limit %.2f %s); an accuracy of %.2g %s would be enough"
)

// What kind_goto.go says.
const (
	msgCraftRestNext = "the craft at rest in the next place"
	msgWentPastLimit = "went %s m past %s %s; the limit is %s m"
	msgOnItsWay      = "on its way"
	msgTapWhenThere  = "tap when it is there"
	msgOfAtRest      = "of %g s at rest"
)

// What kind_hold.go says.
const (
	msgUnbrokenStayInside = "an unbroken stay inside"
	msgOutMost            = ", %.1f m out at most"
	msgTapWhenIn          = "tap when it is in"
	msgCallWhenYou        = "call when you like"
	msgWentWrongWay       = "went %s m the wrong way first %s; the call asked for %s"
	msgAnsweredAfterLimit = "answered after %s s; the limit is %s s"
	msgCarriedBeforeStood = "carried %s m before it stood; the limit is %s m"
)

// What kind_land.go says.
const (
	msgTouchGround         = "a touch on the ground"
	msgSecondStandingStill = "a second standing still on the ground"
	msgLandUpOver          = "land: %.1f m up, over the place"
	msgTapTouch            = "tap at the touch"
)

// What kind_motors.go says.
const (
	msgLogDoesNot         = "the log does not say when the motors run"
	msgMotorsStart        = "the motors to start"
	msgMotorsStop         = "the motors to stop"
	msgLeftGroundWhile    = "left the ground by %s m while the motors should idle; the limit is %s m"
	msgMotorsStartIdle    = "the motors start, idle and stop on the ground"
	msgTapWhenThey        = "tap when they run"
	msgTapWhenTheyStopped = "tap when they have stopped"
)

// What kind_path.go says.
const (
	msgCraftStartFigure = "the craft at the start of the figure"
	msgEndFigure        = "the end of the figure"
	msgFlownSlowest     = "flown at %s m/s; the slowest is %s m/s"
	msgFlownFastest     = "flown at %s m/s; the fastest is %s m/s"
	msgTapSetsOff       = "tap as it sets off"
	msgOfCornerOf       = "of %g s, corner %d of %d"
	msgTapWhenRests     = "tap when it rests"
	msgTapEnd           = "tap at the end"
)

// What kind_regain.go says.
const (
	msgLogNoSticks    = "the log has no sticks and heading"
	msgCraftComeHome  = "the craft to come home"
	msgPushesWrongWay = "%.0f pushes the wrong way after it could be known, the first %s; %.0f at most"
	msgNotWayHome     = "not on its way home after %s s; the limit is %s s"
	msgTapYouSay      = "tap as you say so"
	msgTapComesHome   = "s, tap as it comes home"
)

// What kind_return.go says.
const (
	msgWhatSetsOff        = "what sets off the flight home"
	msgPilotTakeOver      = "the pilot to take over and stand"
	msgSecondStandingHome = "a second standing at home"
	msgLandedHomeLimit    = "landed %s m %s home; the limit is %s m"
	msgTakenOverAfter     = "taken over after %s s; the step asks to watch it for %s s"
	msgTapSetsOffHome     = "tap as it sets off home"
	msgTapWhenStands      = "tap when it stands in hand"
)

// What kind_stop.go says.
const (
	msgTurnOverSecond  = "a turn over, and a second at rest"
	msgSecondRest      = "a second at rest"
	msgCameLeastAsked  = "came in at %s m/s; at least %s m/s is asked"
	msgStoodFromCall   = "stood %s m from the call; the limit is %s m"
	msgSecondSure      = "a second, to be sure"
	msgTapWhenItStands = "tap when it stands"
)

// What kind_takeoff.go says.
const (
	msgMomentGroundFeet = "a moment on the ground (feet under 0.05 m)"
	msgUpAlreadyDrill   = "up already: the drill begins on the ground"
	msgTapWhenPosition  = "tap when in position"
)

// What kind_turn.go says.
const (
	msgNoseTurn         = "the nose to turn by 5°"
	msgCallSaysAngle    = "a call that says the angle"
	msgSecondAskedAngle = "a second at the asked angle"
	msgTapWhenTurns     = "tap when it turns"
)

// What kinds.go says.
const (
	msgLogNoHeading     = "the log has no heading"
	msgLogWithoutSticks = "the log has no sticks"
	msgNotMeasuredEye   = "not judged by eye"
)

// What likelihood.go says.
const (
	msgCloseLogNot = "Close: the log is not fine enough to be sure. The true flight would get the same verdict " +
		"with a probability of %.0f %%."
)

// What live.go says.
const (
	msgAllStepsDone  = "all steps done"
	msgToTheLeft     = "to the left"
	msgToTheRight    = "to the right"
	msgTooFarAway    = "too far away"
	msgMetresOffLine = "%.1f m off the line"
	msgOnTheWay      = "on the way"
)

// What machine.go says.
const (
	msgStepsBefore = "the steps before it"
)

// What marks.go says.
const (
	msgMarksNotRead = "marks[%d].%s is not read"
)

// What metrics.go says.
const (
	msgDistanceFromMarker      = "distance from the marker, rms"
	msgDistanceFromMarker95    = "distance from the marker, 95 %"
	msgDistanceFromMarkerMost  = "distance from the marker, most"
	msgHeightErrorMost         = "height error, most"
	msgNoseErrorMost           = "nose error, most"
	msgTimeHeight              = "time to the height"
	msgDriftWhileTurning       = "drift while turning, most"
	msgTurnedTooFarBy          = "turned too far by"
	msgRateTurn                = "rate of turn"
	msgDistanceFromPad         = "distance from the pad"
	msgSidewaysSpeedTouch      = "sideways speed at the touch"
	msgLeanTouch               = "lean at the touch"
	msgNoseErrorTouch          = "nose error at the touch"
	msgDistanceOffPath         = "distance off the path, rms"
	msgDistanceOffPathMost     = "distance off the path, most"
	msgUnevennessSpeed         = "unevenness of the speed"
	msgLargerLobeOver          = "larger lobe over the other"
	msgLargerEndOver           = "larger end over the other"
	msgCrossingOffCentre       = "crossing off the centre"
	msgRadiusFirstLobe         = "radius of the first lobe"
	msgRadiusSecondLobe        = "radius of the second lobe"
	msgGapBetweenLobes         = "gap between the lobes"
	msgCentreOff               = "centre off by"
	msgAngleBetweenLegs        = "angle between the legs"
	msgErrorAngle              = "error of the angle"
	msgAimErrorMost            = "aim error, most"
	msgAimErrorUp              = "aim error up or down, most"
	msgDistancePastMarker      = "distance past the marker"
	msgTimeSettle              = "time to settle"
	msgShareTimeWhich          = "share of the time in which the camera moved"
	msgSpeedBeganStop          = "speed as it began to stop"
	msgTimeStop                = "time to stop"
	msgTimeAnswer              = "time to answer"
	msgCarriedBeforeAnswer     = "carried before the answer"
	msgClimbBeforeFlew         = "climb before it flew home"
	msgDistanceFromHome        = "distance from home"
	msgTimeBeforeTaking        = "time before taking over"
	msgTimeUntilFlew           = "time until it flew home"
	msgNoseErrorWay            = "nose error on the way home"
	msgDistanceLostMost        = "distance lost, most"
	msgWrongStickInputs        = "wrong stick inputs"
	msgThrottleReversalsMinute = "throttle reversals a minute"
	msgFullStickSlams          = "full stick slams"
	msgShareTimeFull           = "share of the time at full stick"
	msgThrottleMovedWhile      = "throttle moved while yawing"
	msgTimeInputWrong          = "time of input the wrong way"
	msgLongestDriftWithout     = "longest drift without an answer"
)

// What samples.go says.
const (
	msgWhatComesAfter = "what comes after %.1f s: the log has a gap of %.1f s there, and up to %.1f s are bridged"
)

// What sticks.go says.
const (
	msgStickWentWrong     = "the stick went the wrong way for %.1f s"
	msgNoAnswerWhile      = "no answer for %.1f s while it drifted"
	msgStickSlammedFrom   = "a stick was slammed from end to end"
	msgYawHandLet         = "the yaw hand let the height go"
	msgThrottleHandChased = "the throttle hand chased the height"
)

// What text.go says.
const (
	msgToTheLeftOf             = "to the left of"
	msgToTheRightOf            = "to the right of"
	msgTowardYouFrom           = "toward you from"
	msgWhereTurnBegan          = "where the turn began"
	msgTheBoxIs                = "%s m %s %s %s; the box is %s m"
	msgTooLimit                = "%s m too %s %s; the limit is %s m"
	msgNoseOffLimit            = "nose %.0f° off to the %s %s; the limit is %.0f°"
	msgTurnedSecondSlowest     = "turned at %.0f° a second; the slowest is %.0f°"
	msgTurnedSecondQuickest    = "turned at %.0f° a second; the quickest is %.0f°"
	msgTurnedTooFarLimit       = "turned %.0f° too far %s; the limit is %.0f°"
	msgNoseWentWrong           = "the nose went %.0f° the wrong way %s"
	msgTouchedDownPad          = "touched down %s m %s the pad; the limit is %s m"
	msgTouchedDownLimit        = "touched down at %s m/s; the limit is %s m/s"
	msgTouchedDownLeaningLimit = "touched down leaning %.0f°; the limit is %.0f°"
	msgTookLimit               = "the %s took %.0f s; the limit is %.0f s"
	msgOffLineLimit            = "%s m off the line, %s %s; the limit is %s m"
	msgAwayFromYou             = "away from you"
	msgCornerUp                = " at the corner %.1f m up"
	msgRestedNeeded            = "rested %s s%s; %s s are needed"
	msgLargerLargerOther       = "the larger of the %s is %.0f %% larger than the other; the limit is %.0f %%"
	msgCrossedOffCentreLimit   = "crossed %s m off the centre; the limit is %s m"
	msgSlantOffAngle           = "the slant was %.1f° off its angle; the limit is %.0f°"
	msgLegsCloseLimit          = "the legs close by %.1f°; the limit is %.0f°"
	msgFartherOffLimit         = "%s m farther off than it was, %s; the limit is %s m"
	msgStoodAfterLimit         = "stood after %s s; the limit is %s s"
)

// What text.go says.
const (
	msgFlownWrongDirectionAt = "flown in the wrong direction %s"
)
