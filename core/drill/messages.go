package drill

// What people read of drills. Names that begin with msgWant say what was
// expected of a file, after what was wrong with it. The arguments are given
// where they are not plain.
//
// What a course lacks: the drill, the layout and the marker.
const (
	msgNeedsTemplate = "%[1]s needs a course that is laid out as “%[2]s”: this course has no marker “%[3]s”"
)

// Drills that refer to others.
const (
	msgVersionOfUnknown  = "a version of %q, which is not another drill that is known"
	msgWantDrillKey      = "the key of a drill"
	msgBuildsOnUnknown   = "builds on %q, which is not known"
	msgBuildsInCircle    = "builds on %q, which builds on %q"
	msgWantLeadingDrills = "drills that lead up to it"
)

// Why a drill is closed.
const (
	msgOpensWithLadder = "it opens when the whole ladder of the programme is held"
	msgSwitchedOff     = "it is switched off at this school; the chief switches it on among the sites' " +
		"settings, with its cautions"
)

// Why an attempt does not count. The arguments of the winds are the wind and
// what the drill wants.
const (
	msgOtherStickFrame   = "flown with the stick frame %s"
	msgWithZoom          = "flown with the zoom inset, or with the nose shown from above"
	msgEyesElsewhere     = "eyes on the %s in a line-of-sight drill"
	msgAutomaticTakeOff  = "automatic take-off where the drill wants it by hand"
	msgAutomaticLanding  = "automatic landing where the drill wants it by hand"
	msgFlownHomeItself   = "flown home or landed by itself where the orientation is to be regained"
	msgAutomaticFigure   = "the figure was flown automatically"
	msgTooMuchWind       = "wind %.1f m/s, over the drill's %.1f m/s"
	msgWindFromElsewhere = "wind from %.0f°; the drill wants it from %s the pilot"
	msgLeftOf            = "the left of"
	msgRightOf           = "the right of"
	msgMarkedByTwo       = "somebody else marked the same flight; a person decides which stands"
	msgCoachAsked        = "the coach was asked"
)

// What a drill is a version of; the title follows.
const (
	msgAlternativeTo    = "an alternative to"
	msgCameraVersionOf  = "the camera version of"
	msgGogglesVersionOf = "the version by goggles of"
)

// What happens during a step, and what is wrong with it.
const (
	msgWantEvent                = "call, dodge-left, dodge-right or an event of the simulator"
	msgNoAnswerInKind           = "an answer is asked for during a %s"
	msgWantHoldOrPath           = "a hold or a path"
	msgDirectionWithoutDistance = "a way to go without how far"
	msgWantDistance             = "distance_m in within"
	msgEndsWithoutAnswer        = "the step ends with an answer that nothing is asked of"
	msgWantSecondsOrDistance    = "seconds or distance_m in within"
	msgEventAfterEnd            = "something happens after the step has ended"
	msgWantEndLast              = "then: end with the last event alone"
	msgToTheLeft                = "to the left"
	msgToTheRight               = "to the right"
)

// Families of drills.
const (
	msgWantMembers    = "a list of 1 to %d"
	msgWantEveryBlank = "every blank of the file"
	msgNoSuchBlank    = "%q has no blank in the file"
)

// Gates that are wrong, and what a school's own gate asks less strictly
// (msgLooser): its own figure first, then the shipped one's, then what it is
// about.
const (
	msgGateAsksNothing    = "the gate asks for nothing"
	msgWantCellsOrActs    = "cells or witnessed acts"
	msgUnknownDrill       = "drill %q is not known"
	msgDrillNotInGate     = "drill %q is in none of the gate's cells"
	msgWantGateDrill      = "a drill of its cells"
	msgWindNotCounted     = "%s is not counted in more than %v m/s"
	msgWantWindyDrill     = "a drill that may be flown in that wind"
	msgSubstituteEasier   = "%s in the place of %s is no harder"
	msgWantFewerAids      = "aids that fly less by themselves"
	msgLooserWitnessDays  = "witnessed for longer than %d days: %s"
	msgLooserWitness      = "witnessed by an instructor, and not by the chief: %s"
	msgLooserNoWind       = "not asked in wind: %s"
	msgLooserLessWind     = "in %g m/s of wind instead of %g: %s"
	msgLooserFewerPlaces  = "passes at %d places instead of %d"
	msgLooserNoQuestions  = "nothing while answering questions"
	msgLooserNoTransition = "not flown again on a bigger class: %s"
	msgLooserNoFamiliar   = "not flown on a new type: %s"
	msgLooserSignedDays   = "signed for %d days instead of %d"
)

// Where the nose points. The arguments are degrees and the side.
const (
	msgNoseAway      = "nose straight away from you"
	msgNoseToward    = "nose toward you"
	msgNoseLeft      = "nose to your left"
	msgNoseRight     = "nose to your right"
	msgNoseFree      = "nose in any direction"
	msgNoseKept      = "nose held where it points"
	msgNoseAlong     = "nose in the direction of flight"
	msgNoseOnSubject = "nose on the subject"
	msgNoseOffAway   = "nose %s° %s of straight away"
	msgNoseOffTailIn = "nose %s° %s of tail-in"
)

// A step to a place: the place and the height, then limits.
const (
	msgFlyTo      = "Fly to %s at %s m"
	msgNextPlace  = "the next place"
	msgStopWithin = "stop within %s m of it"
	msgStayOnLine = "stay within %s m of the straight line"
	msgRestThere  = "rest there for %s s"
)

// A hold: seconds and the place.
const (
	msgNoHeightToHold   = "within.height_m has no height to hold"
	msgWantHeight       = "height_m in the step"
	msgHoldWithoutLimit = "the hold has no limit"
	msgWantHoldLimit    = "radius_m, height_m or nose_deg"
	msgHoldOver         = "Hold for %s s over %s"
)

// A landing.
const (
	msgWithinOfMiddle = "within %s m of its middle"
	msgSinkingLess    = "sinking at less than %s m/s"
)

// Motors on the ground.
const (
	msgIdleMotors   = "Start the motors, let them idle for %s s, and stop them"
	msgStayOnGround = "stay within %s m of the ground"
)

// A path: what is wrong, and what it asks.
const (
	msgRestWithoutCorner = "rest_s has no corner to rest at"
	msgWantCorners       = "a line with inner points"
	msgNoSubject         = "the nose has no subject"
	msgWantSubject       = "subject in the step"
	msgStayWithin        = "stay within %s m of it"
	msgKeepHeightWithin  = "keep the height within %s m"
	msgRestAtCorners     = "rest for %s s at each corner"
	msgLobesEqual        = "both lobes the same size within %s %%"
	msgCrossNearCentre   = "cross within %s m of the centre"
	msgKeepSlope         = "keep the slope within %s"
	msgKeepNoseOnSubject = "keep the nose on the subject within %s"
	msgKeepParallel      = "keep the legs parallel within %s"
	msgEndsEqual         = "both ends the same size within %s %%"
	msgFlySpiral         = "Fly the spiral"
	msgFlyOverCorners    = "Fly over %d corners, between %s and %s m up"
	msgFlyRoundCorners   = "Fly round %d corners, %s m in all"
)

// A lost orientation.
const (
	msgRegainWithoutLimit = "the regain has no limit"
	msgWantRegainLimit    = "seconds, lost_m or wrong_inputs"
	msgFindNose           = "Work out where the nose points from %s m away and fly home"
	msgNoFarther          = "no more than %s m farther away"
	msgFewWrongInputs     = "no more than %d wrong stick movements"
)

// A flight home.
const (
	msgTakenOverNoLanding = "a return that is taken over does not land by itself"
	msgWantOneEnd         = "home_offset_m or take_over_after_s, not both"
	msgReturnWithoutEnd   = "nothing is asked of the return"
	msgWantEnd            = "home_offset_m in within, or take_over_after_s"
	msgStartReturnHome    = "Start the return home"
	msgRadioLinkLost      = "The radio link is lost and the craft returns home"
	msgPackRunsLow        = "The pack runs low and the craft returns home"
	msgWatchTakeOver      = "watch it for %s s, then take over and stop"
	msgWatchLanding       = "watch it land within %s m of home"
)

// A stop: seconds after which it begins, and the speed from which.
const (
	msgStopWithoutLimit = "the stop has no limit"
	msgWantStopLimit    = "seconds or distance_m"
	msgFlipAndStop      = "When it is called, flip once and stop"
	msgStopCalledFrom   = "When it is called, stop from %s m/s or more"
	msgStopCalled       = "When it is called, stop"
	msgStopAfterFrom    = "After %s s, stop from %s m/s or more"
)

// A take-off.
const (
	msgTakeOff = "Take off to %s m"
)

// A turn.
const (
	msgTurnTooSmall     = "the turn is too small to see"
	msgWantTenDegrees   = "by_deg of 10 degrees or more either way"
	msgTurnByThenCalled = "Turn by %s and on to the angle that is called"
	msgTurnCalled       = "Turn to the angle that is called"
	msgTurnLeft         = "Turn left by %s"
	msgTurnRight        = "Turn right by %s"
)

// Every step that has a longest time.
const (
	msgInSeconds = "in no more than %s s"
)

// Gates that a programme draws.
const (
	msgNoRung       = "there is no rung %q"
	msgWantRungKey  = "the key of a rung"
	msgGateTwice    = "the gate %q has a second line"
	msgWantGateOnce = "each gate once"
)

// Files that are wrong.
const (
	msgWantKey            = "lower-case letters, digits and single hyphens"
	msgNoSteps            = "there are no steps"
	msgWantStep           = "one at least"
	msgNoPathForNose      = "a %s has no path for the nose to follow"
	msgWantFieldRule      = "a heading rule of the field or of sight"
	msgNoseWithoutRule    = "nose_deg has no heading to be measured from"
	msgWantRule           = "a heading rule in the step"
	msgTakeOffInAir       = "a take-off while the craft is in the air"
	msgWantLandingBefore  = "a landing before it"
	msgMotorsInAir        = "motors while the craft is in the air"
	msgOnGround           = "%s while the craft is on the ground"
	msgWantTakeOffBefore  = "a takeoff before it"
	msgRegainNotFirst     = "a regain after other steps"
	msgWantRegainFirst    = "it first: it begins in the air, out of orientation"
	msgBandLength         = "a band of another length"
	msgEmptyBand          = "an empty band"
	msgWantBand           = "[min, max] with min under max"
	msgNoClass            = "no craft class is given"
	msgWantClass          = "micro, light, medium or heavy"
	msgPlaceLength        = "a place of another length"
	msgWantPlace          = "a marker's name, [x, y] or [x, y, z] in metres"
	msgNoHeight           = "the %s is flown at no height"
	msgTooFewPoints       = "the line has too few points"
	msgWantPoints         = "two at least, three for a closed one"
	msgSlantWithoutHeight = "an end of the slant has no height"
)

// Programmes that are wrong.
const (
	msgWantKeyOnce    = "each key once"
	msgSideDoesNotFit = "side %q does not fit the drill"
	msgWantSide       = "left, right or both for a sided drill, none for another"
)

// An answer to a call; the argument is the call.
const (
	msgOnCall = "On the call “%s”"
)

// Figures by their sizes in metres; the last argument of a round one is the
// side to which it turns.
const (
	msgFlyCircle = "Fly a circle of %s m%s"
	msgFlyOrbit  = "Fly an orbit of %s m round the subject%s"
	msgFlyOval   = "Fly an oval of %s by %s m%s"
	msgFlyEight  = "Fly an eight of %s m, %s lobe first"
	msgFlySlant  = "Fly the slant from %s m %s to %s m"
	msgFlyLine   = "Fly a line of %s m"
)
