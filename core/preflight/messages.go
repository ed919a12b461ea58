package preflight

// What cautions.go says.
const (
	msgIndoorsNoHold = "Indoors it has no satellites: it drifts with height hold only, and a compass " +
		"near steel turns it. First flights of a craft that holds its place belong outdoors."
	msgGogglesNeedSpotter = "On goggles the pilot sees nothing around: never without a spotter who can take over " +
		"or say land."
	msgSunLow            = "The sun stands %.0f° high"
	msgSunDown           = "The sun is down"
	msgWindNearCraft     = "The wind is near this craft's limit of %.1f m/s, and it is stronger higher up."
	msgFirstFlightsShort = "First flights tire: ten minutes, then a rest in the shade and water in the heat. " +
		"Tense hands are a reason to stop."
	msgLowLight = "%s: in low light nose and tail are hard to tell. Lights on, near, and stop early."
)

// What compass.go says.
const (
	msgEveryFieldDay         = "every field day"
	msgWhenCraftAsks         = "when the craft asks"
	msgWhenMovedOrOld        = "when moved more than %.0f km, or after %d days"
	msgCraftAsks             = "the craft asks for it"
	msgNoCleanCalibration    = "no clean calibration of it is recorded"
	msgCraftDoesNotAsk       = "the craft does not ask for it"
	msgNotCalibratedToday    = "not calibrated today; the school calibrates every field day"
	msgCalibratedTooLongAgo  = "last calibrated %.0f days ago, over %d"
	msgMovedTooFar           = "moved %.0f km since it was calibrated, over %.0f"
	msgCalibratedNear        = "calibrated on %s, %.1f km from here"
	msgCalibratedAnotherSite = "it was calibrated at another site, and how far that is is not known"
	msgTurnCraft             = "turn with the craft"
	msgWalkRound             = "walk round with it"
	msgAwayFromMetal         = "Away from metal"
	msgAwayFromMetalHow      = "Ten metres from cars, fences, manhole covers and reinforced floors. Phone, " +
		"keys and watch stay behind."
	msgCraftOnMotorsOff    = "Craft on, motors off"
	msgCraftOnMotorsOffHow = "Propellers off if it is to be held by hand. Start the calibration from the ground " +
		"screen or the radio."
	msgTurnLevel    = "Level, one turn"
	msgTurnLevelHow = "Hold it level at arm's length and turn on the spot with it, once round in ten seconds, " +
		"until it says so."
	msgTurnNoseDown    = "Nose down, one turn"
	msgTurnNoseDownHow = "Nose to the ground, the same turn once more."
	msgWalkLevel       = "Level, walk round"
	msgWalkLevelHow    = "One person holds it level, facing outward, and walks a circle of three metres " +
		"once, slowly."
	msgWalkNoseDown    = "Nose down, walk round"
	msgWalkNoseDownHow = "Nose to the ground, the same circle once more. For a craft too big to turn with."
	msgReadResult      = "Read the result"
	msgReadResultHow   = "Clean: note it. Not clean: ten metres farther from metal, and repeat. Not clean " +
		"twice: the craft stays on the ground."
	msgCalibratedToday = "calibrated today at %s"
	msgCalibratedHere  = "calibrated on %s at this site"
)

// What judge.go says.
const (
	msgSwitchedOnTooSoon   = "came on before what has to come first"
	msgSwitchEverythingOff = "Switch everything off and begin with the radio."
	msgPropellersRight     = "as they should be"
	msgReturnHeightWanted  = "return height wanted"
	msgReturnHeightSet     = "return height set"
)

// What rules.go says.
const (
	msgNothingToProve  = "nothing to prove"
	msgNoWindLimit     = "the type sets no wind limit"
	msgNoWindRead      = "no wind was read today"
	msgReadWind        = "Read the wind, by the meter or by hand, and note it."
	msgWindTooOld      = "the wind was last measured %.0f min ago"
	msgReadWindAnew    = "Measure the wind again."
	msgWindOfLimit     = "%.1f of %.1f m/s%s for the %s"
	msgWindOverPilots  = "%.1f m/s; %s has flown in up to %.1f m/s so far"
	msgWaitForLessWind = "Wait for less wind, fly a drill with the instructor's hands near, or train " +
		"in the simulator."
	msgPilotLimit          = "; the pilot's limit is %.1f"
	msgCellTooLow          = "cell %d rests at %.2f V, %.0f %% charged; expected %.2f V (%.0f %%) at least"
	msgCellsTooFarApart    = "cells stand %.2f V apart, cell %d lowest; expected %.2f V at most"
	msgBalanceCells        = "Balance it on the charger and measure again; retire it if it comes back."
	msgCellsGood           = "%.2f V a cell, %.0f %% charged, %.2f V apart"
	msgMinutesOfHover      = "; about %.0f min of hover above the reserve"
	msgTooFewMinutes       = "about %.0f min above the reserve, and %.0f are to be flown"
	msgTakeFullerPack      = "Take a fuller pack, or plan a shorter flight."
	msgNoPackNamed         = "no pack is named"
	msgNameThePack         = "Name the pack that goes in, so that its log is kept."
	msgNoPropellersNoted   = "no set is noted for this craft"
	msgPropellersAsNoted   = "%d propellers as noted"
	msgFirstFirmware       = "the first version noted for this craft"
	msgOtherFirmware       = "it shows %s; noted is %s"
	msgCalibrationNotClean = "its last calibration was not clean"
	msgCalibrateFarther    = "Ten metres farther from metal, and repeat; twice not clean, and it stays on " +
		"the ground."
	msgInertialNeverCalibrated = "no calibration of them is recorded"
	msgInertialCalibrated      = "%.0f days ago, of %d"
	msgPerhapsInFeet           = "Is that the %s in feet? %.0f m is %.0f ft, and %.0f m is %s. Read it again and " +
		"note it with its unit; where %.0f m is right, an instructor overrides this with a reason."
	msgFromLastCheck        = "what was set at the last check"
	msgNothingTall          = "nothing tall on the way"
	msgReturnHeightOfWanted = "%s; wanted %.0f m (%.0f ft) over %s"
	msgFromCourse           = "what the course asks for"
	msgSwitchFenceOn        = "Switch it on: in the first flights it stays on."
	msgFenceTooNear         = "%.0f m; the drills reach %.0f m from home and want %.0f m to spare"
	msgSetFenceWider        = "Set it wider, or the fence will stop the craft during the drill."
	msgPeopleWithin         = "%s; the people stand at %.0f m"
	msgFromDrillsAndPeople  = "between the drills and the people"
	msgFenceBeyondPeople    = "%s; it reaches beyond the people, who stand at %.0f m: it does not keep the " +
		"craft from them"
	msgHomeIsTakeOff = "it lands where it took off; the return height of the course is worked out for that"
	msgHomeIsPilot   = "it lands where the pilot stands; the return height and the way home of the course " +
		"are not worked out for that"
	msgSetHomeToTakeOff = "Set home to the take-off place: in the first flights nothing comes down on the pilot."
	msgDrifted          = "drifted %.1f m in 10 s, of %.1f"
	msgOutOfService     = "%s is out of service: %s"
	msgIsProvingFlight  = "this is the proving flight (%s)"
	msgHasToBeProven    = "to be proven: %s"
	msgNoCourse         = "%s; no course is laid here, so nothing is held against it"
)

// What template.go says.
const (
	msgStageGround       = "On the ground"
	msgStagePower        = "Switching on, in this order"
	msgStageReady        = "Ready to fly"
	msgStageAir          = "In the air, before the lesson"
	msgItemOutOfOrder    = "the item %q belongs to an earlier stage"
	msgWantStagesInOrder = "the stages in order"
	msgItemTwice         = "the item %q stands here twice"
	msgWantItemOnce      = "each item once"
	msgItemWithoutRule   = "the item %q is computed by no rule"
	msgItemTooFewChoices = "the item %q has %d choices"
	msgWantTwoChoices    = "two or more"
	msgItemBoundsWrong   = "the item %q runs from %v to %v"
	msgWantLowUnderHigh  = "low under high"
)
