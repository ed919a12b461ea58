package score

// What an attempt is talked about first. The arguments of msgTightest are the
// step from 1, the words of the figure, its value and its limit; those of
// msgUnjudged the step, its kind, the limit and the reason.
const (
	msgTightest = "Everything stayed within its limits. In step %[1]d the %[2]s came nearest to its limit: " +
		"%[3]s of %[4]s."
	msgTighten  = "Fly it again and leave more room there."
	msgUnjudged = "In step %[1]d, %[2]s, the limit of the %[3]s was not judged: %[4]s."
)

// stepWords are the kinds of steps as a person says them, by drill.Kind.
var stepWords = map[string]string{"takeoff": "take-off", "hold": "hold", "turn": "turn", "land": "landing",
	"goto": "flight to a place", "path": "path", "stop": "stop", "return": "return home", "regain": "recovery",
	"motors": "motors"}

// advice is what to do about a fault, by its kind: one thing to try at the next
// attempt. Every code has a line here, and a test looks for it.
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

// adviceToward is what to do about a fault by the direction in which the craft
// was lost. Where a code or a direction has no line, advice is said.
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

// viewOf is the drawing on which a fault is seen. A fault without a line, such
// as a lean at the touch, is seen on none.
var viewOf = map[Code]Picture{LeftBox: PlanView, Height: HeightView, Nose: NoseView, CrossTrack: PlanView,
	Speed: TimeView, Rest: TimeView, Overshoot: PlanView, WrongWay: PlanView, Uneven: PlanView, Crossing: PlanView,
	AngleOff: HeightView, Order: PlanView, Offset: PlanView, Sink: HeightView, Late: TimeView, Lost: PlanView,
	Crash: PlanView, TimeOut: TimeView, Fence: PlanView}

// What a step waits for that is to happen in it; the argument names it.
const (
	msgWaitsForCall  = "a call, and its answer"
	msgWaitsForEvent = "what is to happen in it (%s), and its answer"
)

// What stands under the ring of the pad while a tap is asked for. Where the
// text begins with "s", the ring shows seconds above it.
const (
	msgTapFinish       = "tap to finish"
	msgTapWhenAnswered = "s, tap when answered"
	msgTapYouCall      = "tap as you call"
)

// Faults that an eye marked, without a figure. The words of a direction and the
// moment follow.
const (
	msgLeftBox            = "left the box"
	msgLostHeight         = "lost the height"
	msgNoseWrongDirection = "nose in the wrong direction"
	msgOffLine            = "off the line"
	msgWrongSpeed         = "too fast or too slow"
	msgRestedTooShort     = "rested too short a time"
	msgTurnedTooFar       = "turned too far"
	msgTurnedWrongWay     = "turned the wrong way"
	msgUnequalHalves      = "lobes or ends of different size"
	msgCrossedOffCentre   = "crossed off the centre"
	msgWrongAngle         = "wrong slope or angle"
	msgFlownBackwards     = "flown in the wrong direction"
	msgLandedOffPad       = "landed off the pad"
	msgTouchedDownHard    = "touched down hard"
	msgTouchedDownLeaning = "touched down leaning"
	msgTookTooLong        = "took too long"
	msgCrossedFence       = "crossed the fence"
	// In which direction, after one of the faults above.
	msgDirectionLeft  = " to the left"
	msgDirectionRight = " to the right"
	msgDirectionAway  = " away from you"
)

// Why a limit cannot be judged.
const (
	msgLogNoAttitude = "the log has no roll and pitch"
)

// What a log cannot tell: the noise and the limit, each with its unit, and the
// noise that would be good enough, with its unit.
const (
	msgLogTooCoarse = "too fine for this log (noise %.2f %s, limit %.2f %s); an accuracy of %.2g %s would be enough"
)

// A way to a place. The value, the place, the moment and the limit are the
// arguments of a fault; the seconds asked for those of msgSecondsAtRest.
const (
	msgWaitsForRestThere = "the craft at rest in the next place"
	msgWentPastPlace     = "went %s m past %s %s; the limit is %s m"
	msgOnItsWay          = "on its way"
	msgTapThere          = "tap when it is there"
	msgSecondsAtRest     = "of %g s at rest"
)

// A hold, and the answers to what happens in it. The arguments of a fault are
// its value, then the moment and the direction where they are said, then the
// limit.
const (
	msgWaitsForStay     = "an unbroken stay inside"
	msgFarthestOut      = ", %.1f m out at most"
	msgTapIn            = "tap when it is in"
	msgCallWhenReady    = "call when you like"
	msgAnsweredWrongWay = "went %s m the wrong way first %s; the call asked for %s"
	msgAnsweredLate     = "answered after %s s; the limit is %s s"
	msgCarriedTooFar    = "carried %s m before it stood; the limit is %s m"
)

// A landing; the argument is the height.
const (
	msgWaitsForTouch         = "a touch on the ground"
	msgWaitsForStandingStill = "a second standing still on the ground"
	msgOverPad               = "land: %.1f m up, over the place"
	msgTapTouch              = "tap at the touch"
)

// Motors on the ground. The arguments of the fault are its value and the limit.
const (
	msgLogNoMotors          = "the log does not say when the motors run"
	msgWaitsForMotors       = "the motors to start"
	msgWaitsForMotorsToStop = "the motors to stop"
	msgLeftGroundIdling     = "left the ground by %s m while the motors should idle; the limit is %s m"
	msgMotorsOnGround       = "the motors start, idle and stop on the ground"
	msgTapMotorsRun         = "tap when they run"
	msgTapMotorsStopped     = "tap when they have stopped"
)

// A figure. The arguments of a fault are its value and the limit; those of
// msgSecondsAtCorner the seconds, which corner and of how many.
const (
	msgWaitsForFigureStart = "the craft at the start of the figure"
	msgWaitsForFigureEnd   = "the end of the figure"
	msgFlownTooSlowly      = "flown at %s m/s; the slowest is %s m/s"
	msgFlownTooFast        = "flown at %s m/s; the fastest is %s m/s"
	msgTapSettingOff       = "tap as it sets off"
	msgSecondsAtCorner     = "of %g s, corner %d of %d"
	msgTapAtCorner         = "tap when it rests"
	msgTapAtEnd            = "tap at the end"
)

// A lost orientation. The arguments of a fault are its value, the moment where
// it is said, and the limit.
const (
	msgLogNoSticks       = "the log has no sticks and heading"
	msgWaitsForCraftHome = "the craft to come home"
	msgWrongPushes       = "%.0f pushes the wrong way after it could be known, the first %s; %.0f at most"
	msgNotComingHome     = "not on its way home after %s s; the limit is %s s"
	msgTapAsYouSay       = "tap as you say so"
	msgTapComingHome     = "s, tap as it comes home"
)

// A flight home. The arguments of a fault are its value, the direction where it
// is said, and the limit.
const (
	msgWaitsForTrigger      = "what sets off the flight home"
	msgWaitsForTakeOver     = "the pilot to take over and stand"
	msgWaitsForStandingHome = "a second standing at home"
	msgLandedOffHome        = "landed %s m %s home; the limit is %s m"
	msgTakenOverEarly       = "taken over after %s s; the step asks to watch it for %s s"
	msgTapFlightHome        = "tap as it sets off home"
	msgTapTakenOver         = "tap when it stands in hand"
)

// A stop. The arguments of a fault are its value and the limit.
const (
	msgWaitsForTurnOver     = "a turn over, and a second at rest"
	msgWaitsForSecondAtRest = "a second at rest"
	msgCameTooSlowly        = "came in at %s m/s; at least %s m/s is asked"
	msgStoodTooFar          = "stood %s m from the call; the limit is %s m"
	msgSecondToBeSure       = "a second, to be sure"
	msgTapStands            = "tap when it stands"
)

// A take-off.
const (
	msgWaitsOnGround = "a moment on the ground (feet under 0.05 m)"
	msgAlreadyUp     = "up already: the drill begins on the ground"
	msgTapInPosition = "tap when in position"
)

// A turn of the nose.
const (
	msgWaitsForNose        = "the nose to turn by 5°"
	msgWaitsForAngleCalled = "a call that says the angle"
	msgWaitsAtAngle        = "a second at the asked angle"
	msgTapTurns            = "tap when it turns"
)

// Why a limit cannot be judged, for every kind of step.
const (
	msgLogNoHeading     = "the log has no heading"
	msgLogNoSticksAlone = "the log has no sticks"
	msgNotByEye         = "not judged by eye"
)

// How sure a verdict is; the argument is the probability in per cent.
const (
	msgCloseVerdict = "Close: the log is not fine enough to be sure. The true flight would get the same verdict " +
		"with a probability of %.0f %%."
)

// Where a flight stands that goes on. to the left, to the right and too far
// away follow a distance.
const (
	msgAllStepsDone  = "all steps done"
	msgToTheLeft     = "to the left"
	msgToTheRight    = "to the right"
	msgTooFarAway    = "too far away"
	msgMetresOffLine = "%.1f m off the line"
	msgOnTheWay      = "on the way"
)

// What a step waits for that comes after one that is not done.
const (
	msgWaitsForStepsBefore = "the steps before it"
)

// A key of a mark that is not read: the index of the mark and the key.
const (
	msgKeyNotRead = "marks[%d].%s is not read"
)

// The words of the figures, in the order of Metrics. "most" is the largest over
// the step, "rms" the root mean square over its time.
const (
	msgDistanceFromMarker      = "distance from the marker, rms"
	msgDistanceFromMarker95    = "distance from the marker, 95 %"
	msgDistanceFromMarkerMost  = "distance from the marker, most"
	msgHeightErrorMost         = "height error, most"
	msgNoseErrorMost           = "nose error, most"
	msgTimeToHeight            = "time to the height"
	msgDriftWhileTurning       = "drift while turning, most"
	msgTurnedTooFarBy          = "turned too far by"
	msgRateOfTurn              = "rate of turn"
	msgDistanceFromPad         = "distance from the pad"
	msgSidewaysAtTouch         = "sideways speed at the touch"
	msgLeanTouch               = "lean at the touch"
	msgNoseErrorTouch          = "nose error at the touch"
	msgDistanceOffPath         = "distance off the path, rms"
	msgDistanceOffPathMost     = "distance off the path, most"
	msgSpeedUnevenness         = "unevenness of the speed"
	msgLobeRatio               = "larger lobe over the other"
	msgEndRatio                = "larger end over the other"
	msgCrossingOffCentre       = "crossing off the centre"
	msgRadiusFirstLobe         = "radius of the first lobe"
	msgRadiusSecondLobe        = "radius of the second lobe"
	msgGapBetweenLobes         = "gap between the lobes"
	msgCentreOff               = "centre off by"
	msgAngleBetweenLegs        = "angle between the legs"
	msgAngleError              = "error of the angle"
	msgAimErrorMost            = "aim error, most"
	msgAimErrorUp              = "aim error up or down, most"
	msgDistancePastMarker      = "distance past the marker"
	msgTimeToSettle            = "time to settle"
	msgCameraMovingShare       = "share of the time in which the camera moved"
	msgSpeedBeforeStop         = "speed as it began to stop"
	msgTimeToStop              = "time to stop"
	msgTimeToAnswer            = "time to answer"
	msgCarriedBeforeAnswer     = "carried before the answer"
	msgClimbBeforeHome         = "climb before it flew home"
	msgDistanceFromHome        = "distance from home"
	msgTimeToTakeOver          = "time before taking over"
	msgTimeUntilHome           = "time until it flew home"
	msgNoseErrorHome           = "nose error on the way home"
	msgDistanceLostMost        = "distance lost, most"
	msgWrongStickInputs        = "wrong stick inputs"
	msgThrottleReversalsMinute = "throttle reversals a minute"
	msgFullStickSlams          = "full stick slams"
	msgFullStickShare          = "share of the time at full stick"
	msgThrottleMovedWhile      = "throttle moved while yawing"
	msgTimeWrongWay            = "time of input the wrong way"
	msgLongestUnanswered       = "longest drift without an answer"
)

// A log with a gap: the moment, how long the gap is, and how long a gap may be.
const (
	msgCutAtGap = "what comes after %.1f s: the log has a gap of %.1f s there, and up to %.1f s are bridged"
)

// What in the sticks is likely to have led to a fault; the argument is for how
// many seconds.
const (
	msgCauseWrongWay     = "the stick went the wrong way for %.1f s"
	msgCauseNoAnswer     = "no answer for %.1f s while it drifted"
	msgCauseSlam         = "a stick was slammed from end to end"
	msgCauseYawHand      = "the yaw hand let the height go"
	msgCauseThrottleHand = "the throttle hand chased the height"
)

// Faults with a figure. The arguments are the value, then the direction, the
// place and the moment where they are said, then the limit. %s takes figures
// that were written so that their difference shows, %.0f whole degrees or
// seconds.
const (
	msgToTheLeftOf          = "to the left of"
	msgToTheRightOf         = "to the right of"
	msgTowardYouFrom        = "toward you from"
	msgWhereTurnBegan       = "where the turn began"
	msgOutsideBox           = "%s m %s %s %s; the box is %s m"
	msgTooHighOrLow         = "%s m too %s %s; the limit is %s m"
	msgNoseOff              = "nose %.0f° off to the %s %s; the limit is %.0f°"
	msgTurnedTooSlowly      = "turned at %.0f° a second; the slowest is %.0f°"
	msgTurnedTooQuickly     = "turned at %.0f° a second; the quickest is %.0f°"
	msgTurnedPast           = "turned %.0f° too far %s; the limit is %.0f°"
	msgNoseWrongWay         = "the nose went %.0f° the wrong way %s"
	msgTouchedDownOff       = "touched down %s m %s the pad; the limit is %s m"
	msgTouchedDownFast      = "touched down at %s m/s; the limit is %s m/s"
	msgTouchedDownLeaningBy = "touched down leaning %.0f°; the limit is %.0f°"
	msgTookTooLongBy        = "the %s took %.0f s; the limit is %.0f s"
	msgOffLineBy            = "%s m off the line, %s %s; the limit is %s m"
	msgAwayFromYou          = "away from you"
	msgAtCornerUp           = " at the corner %.1f m up"
	msgRestedTooShortBy     = "rested %s s%s; %s s are needed"
	msgHalfLarger           = "the larger of the %s is %.0f %% larger than the other; the limit is %.0f %%"
	msgCrossedOffBy         = "crossed %s m off the centre; the limit is %s m"
	msgSlantOffBy           = "the slant was %.1f° off its angle; the limit is %.0f°"
	msgLegsClose            = "the legs close by %.1f°; the limit is %.0f°"
	msgFartherOff           = "%s m farther off than it was, %s; the limit is %s m"
	msgStoodLate            = "stood after %s s; the limit is %s s"
)

// A figure that is flown the wrong way round, and the moment.
const (
	msgFlownBackwardsAt = "flown in the wrong direction %s"
)
