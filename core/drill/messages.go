package drill

// What a course lacks.
const (
	msgNeedsTemplate = "%[1]s needs a course that is laid out as “%[2]s”: this course has no marker “%[3]s”"
)

// What catalogue.go says.
const (
	msgVersionWhichNot   = "a version of %q, which is not another drill that is known"
	msgKeyDrill          = "the key of a drill"
	msgBuildsWhichNot    = "builds on %q, which is not known"
	msgBuildsWhichBuilds = "builds on %q, which builds on %q"
	msgDrillsLeadUp      = "drills that lead up to it"
)

// What closed.go says.
const (
	msgOpensWhenWhole    = "it opens when the whole ladder of the programme is held"
	msgSwitchedOffSchool = "it is switched off at this school; the chief switches it on among the sites' " +
		"settings, with its cautions"
)

// What counts.go says.
const (
	msgFlownStickFrame          = "flown with the stick frame %s"
	msgFlownZoomInset           = "flown with the zoom inset, or with the nose shown from above"
	msgEyesLineSight            = "eyes on the %s in a line-of-sight drill"
	msgAutomaticTakeOff         = "automatic take-off where the drill wants it by hand"
	msgAutomaticLandingWhere    = "automatic landing where the drill wants it by hand"
	msgFlownHomeOr              = "flown home or landed by itself where the orientation is to be regained"
	msgFigureFlownAutomatically = "the figure was flown automatically"
	msgWindOverDrill            = "wind %.1f m/s, over the drill's %.1f m/s"
	msgWindFromDrill            = "wind from %.0f°; the drill wants it from %s the pilot"
	msgTheLeftOf                = "the left of"
	msgTheRightOf               = "the right of"
	msgSomebodyElseMarked       = "somebody else marked the same flight; a person decides which stands"
	msgCoachAsked               = "the coach was asked"
)

// What drill.go says.
const (
	msgAnAlternativeTo = "an alternative to"
	msgCameraVersion   = "the camera version of"
	msgVersionGoggles  = "the version by goggles of"
)

// What during.go says.
const (
	msgCallDodgeLeft         = "call, dodge-left, dodge-right or an event of the simulator"
	msgAnswerAskedDuring     = "an answer is asked for during a %s"
	msgHoldOrPath            = "a hold or a path"
	msgWayGoWithout          = "a way to go without how far"
	msgDistanceWithin        = "distance_m in within"
	msgStepEndsAnswer        = "the step ends with an answer that nothing is asked of"
	msgSecondsOrDistance     = "seconds or distance_m in within"
	msgSomethingHappensAfter = "something happens after the step has ended"
	msgThenEndLast           = "then: end with the last event alone"
	msgToTheLeft             = "to the left"
	msgToTheRight            = "to the right"
)

// What family.go says.
const (
	msgListOfTo       = "a list of 1 to %d"
	msgEveryBlankFile = "every blank of the file"
	msgNoBlankFile    = "%q has no blank in the file"
)

// What gate.go says.
const (
	msgGateAsksNothing        = "the gate asks for nothing"
	msgCellsOrWitnessed       = "cells or witnessed acts"
	msgDrillNotKnown          = "drill %q is not known"
	msgDrillNoneGate          = "drill %q is in none of the gate's cells"
	msgDrillCells             = "a drill of its cells"
	msgNotCountedMore         = "%s is not counted in more than %v m/s"
	msgDrillMayFlown          = "a drill that may be flown in that wind"
	msgPlaceNoHarder          = "%s in the place of %s is no harder"
	msgAidsFlyLess            = "aids that fly less by themselves"
	msgWitnessedLongerDays    = "witnessed for longer than %d days: %s"
	msgWitnessedInstructorNot = "witnessed by an instructor, and not by the chief: %s"
	msgNotAskedWind           = "not asked in wind: %s"
	msgWindInstead            = "in %g m/s of wind instead of %g: %s"
	msgPassesPlacesInstead    = "passes at %d places instead of %d"
	msgNothingWhileAnswering  = "nothing while answering questions"
	msgNotFlownAgain          = "not flown again on a bigger class: %s"
	msgNotFlownNew            = "not flown on a new type: %s"
	msgSignedDaysInstead      = "signed for %d days instead of %d"
)

// What heading.go says.
const (
	msgNoseStraightAway    = "nose straight away from you"
	msgNoseTowardYou       = "nose toward you"
	msgNoseYourLeft        = "nose to your left"
	msgNoseYourRight       = "nose to your right"
	msgNoseAnyDirection    = "nose in any direction"
	msgNoseHeldWhere       = "nose held where it points"
	msgNoseDirectionFlight = "nose in the direction of flight"
	msgNoseSubject         = "nose on the subject"
	msgNoseOffStraightAway = "nose %s° %s of straight away"
	msgNoseTail            = "nose %s° %s of tail-in"
)

// What kind_goto.go says.
const (
	msgFlyToAt            = "Fly to %s at %s m"
	msgNextPlace          = "the next place"
	msgStopWithin         = "stop within %s m of it"
	msgStayWithinStraight = "stay within %s m of the straight line"
	msgRestThereFor       = "rest there for %s s"
)

// What kind_hold.go says.
const (
	msgWithinHeightNo = "within.height_m has no height to hold"
	msgHeightStep     = "height_m in the step"
	msgHoldNoLimit    = "the hold has no limit"
	msgRadiusHeightOr = "radius_m, height_m or nose_deg"
	msgHoldOver       = "Hold for %s s over %s"
)

// What kind_land.go says.
const (
	msgWithinMiddle = "within %s m of its middle"
	msgSinkingLess  = "sinking at less than %s m/s"
)

// What kind_motors.go says.
const (
	msgStartMotorsLet   = "Start the motors, let them idle for %s s, and stop them"
	msgStayWithinGround = "stay within %s m of the ground"
)

// What kind_path.go says.
const (
	msgRestNoCorner      = "rest_s has no corner to rest at"
	msgLineInnerPoints   = "a line with inner points"
	msgNoseNoSubject     = "the nose has no subject"
	msgSubjectStep       = "subject in the step"
	msgStayWithin        = "stay within %s m of it"
	msgKeepHeightWithin  = "keep the height within %s m"
	msgRestEachCorner    = "rest for %s s at each corner"
	msgBothLobesSame     = "both lobes the same size within %s %%"
	msgCrossWithinCentre = "cross within %s m of the centre"
	msgKeepSlopeWithin   = "keep the slope within %s"
	msgKeepNoseSubject   = "keep the nose on the subject within %s"
	msgKeepLegsParallel  = "keep the legs parallel within %s"
	msgBothEndsSame      = "both ends the same size within %s %%"
	msgFlySpiral         = "Fly the spiral"
	msgFlyOverCorners    = "Fly over %d corners, between %s and %s m up"
	msgFlyRoundCorners   = "Fly round %d corners, %s m in all"
)

// What kind_regain.go says.
const (
	msgRegainNoLimit = "the regain has no limit"
	msgSecondsLostOr = "seconds, lost_m or wrong_inputs"
	msgWorkOutWhere  = "Work out where the nose points from %s m away and fly home"
	msgNoMoreFarther = "no more than %s m farther away"
	msgNoMoreWrong   = "no more than %d wrong stick movements"
)

// What kind_return.go says.
const (
	msgReturnTakenOver    = "a return that is taken over does not land by itself"
	msgHomeOffsetOr       = "home_offset_m or take_over_after_s, not both"
	msgNothingAskedReturn = "nothing is asked of the return"
	msgHomeOffsetWithin   = "home_offset_m in within, or take_over_after_s"
	msgStartReturnHome    = "Start the return home"
	msgRadioLinkLost      = "The radio link is lost and the craft returns home"
	msgPackRunsLow        = "The pack runs low and the craft returns home"
	msgWatchThenTake      = "watch it for %s s, then take over and stop"
	msgWatchLandWithin    = "watch it land within %s m of home"
)

// What kind_stop.go says.
const (
	msgStopNoLimit        = "the stop has no limit"
	msgSecondsOrDistanceM = "seconds or distance_m"
	msgWhenCalledFlip     = "When it is called, flip once and stop"
	msgWhenCalledStopFrom = "When it is called, stop from %s m/s or more"
	msgWhenCalledStop     = "When it is called, stop"
	msgAfterStopFrom      = "After %s s, stop from %s m/s or more"
)

// What kind_takeoff.go says.
const (
	msgTakeOff = "Take off to %s m"
)

// What kind_turn.go says.
const (
	msgTurnTooSmall = "the turn is too small to see"
	msgDegDegreesOr = "by_deg of 10 degrees or more either way"
	msgTurnByAndOn  = "Turn by %s and on to the angle that is called"
	msgTurnToCalled = "Turn to the angle that is called"
	msgTurnLeft     = "Turn left by %s"
	msgTurnRight    = "Turn right by %s"
)

// What kinds.go says.
const (
	msgNoMore = "in no more than %s s"
)

// What leads.go says.
const (
	msgNoRung         = "there is no rung %q"
	msgKeyRung        = "the key of a rung"
	msgGateSecondLine = "the gate %q has a second line"
	msgEachGateOnce   = "each gate once"
)

// What parse.go says.
const (
	msgLowerCaseLetters   = "lower-case letters, digits and single hyphens"
	msgNoSteps            = "there are no steps"
	msgOneLeast           = "one at least"
	msgNoPathNose         = "a %s has no path for the nose to follow"
	msgHeadingRuleField   = "a heading rule of the field or of sight"
	msgNoseDegNo          = "nose_deg has no heading to be measured from"
	msgHeadingRuleStep    = "a heading rule in the step"
	msgTakeOffWhile       = "a take-off while the craft is in the air"
	msgLandingBefore      = "a landing before it"
	msgMotorsWhileCraft   = "motors while the craft is in the air"
	msgWhileCraftGround   = "%s while the craft is on the ground"
	msgTakeoffBefore      = "a takeoff before it"
	msgRegainAfterOther   = "a regain after other steps"
	msgFirstBeginsAir     = "it first: it begins in the air, out of orientation"
	msgBandAnotherLength  = "a band of another length"
	msgEmptyBand          = "an empty band"
	msgMinMaxMin          = "[min, max] with min under max"
	msgNoCraftClass       = "no craft class is given"
	msgMicroLightMedium   = "micro, light, medium or heavy"
	msgPlaceAnotherLength = "a place of another length"
	msgMarkerNameOr       = "a marker's name, [x, y] or [x, y, z] in metres"
	msgFlownNoHeight      = "the %s is flown at no height"
	msgLineTooFew         = "the line has too few points"
	msgTwoLeastThree      = "two at least, three for a closed one"
	msgEndSlantNo         = "an end of the slant has no height"
)

// What programme.go says.
const (
	msgEachKeyOnce = "each key once"
	msgSideDoesNot = "side %q does not fit the drill"
	msgLeftRightOr = "left, right or both for a sided drill, none for another"
)

// What during.go says.
const (
	msgOnTheCall = "On the call “%s”"
)

// What kind_path.go says.
const (
	msgFlyCircle     = "Fly a circle of %s m%s"
	msgFlyOrbitRound = "Fly an orbit of %s m round the subject%s"
	msgFlyOval       = "Fly an oval of %s by %s m%s"
	msgFlyEightLobe  = "Fly an eight of %s m, %s lobe first"
	msgFlySlantFrom  = "Fly the slant from %s m %s to %s m"
	msgFlyLine       = "Fly a line of %s m"
)
