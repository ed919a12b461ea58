package preflight

// What cautions.go says.
const (
	msgIndoorsNoSatellites = "Indoors it has no satellites: it drifts with height hold only, and a compass " +
		"near steel turns it. First flights of a craft that holds its place belong outdoors."
	msgGogglesPilotSees = "On goggles the pilot sees nothing around: never without a spotter who can take over " +
		"or say land."
	msgSunStandsHigh    = "The sun stands %.0f° high"
	msgSunDown          = "The sun is down"
	msgWindNearCraft    = "The wind is near this craft's limit of %.1f m/s, and it is stronger higher up."
	msgFirstFlightsTire = "First flights tire: ten minutes, then a rest in the shade and water in the heat. " +
		"Tense hands are a reason to stop."
)

// What compass.go says.
const (
	msgEveryFieldDay         = "every field day"
	msgWhenCraftAsks         = "when the craft asks"
	msgWhenMovedMore         = "when moved more than %.0f km, or after %d days"
	msgCraftAsks             = "the craft asks for it"
	msgNoCleanCalibration    = "no clean calibration of it is recorded"
	msgCraftDoesNot          = "the craft does not ask for it"
	msgNotCalibratedToday    = "not calibrated today; the school calibrates every field day"
	msgLastCalibratedDays    = "last calibrated %.0f days ago, over %d"
	msgMovedKmSince          = "moved %.0f km since it was calibrated, over %.0f"
	msgCalibratedKmFrom      = "calibrated on %s, %.1f km from here"
	msgCalibratedAnotherSite = "it was calibrated at another site, and how far that is is not known"
	msgTurnCraft             = "turn with the craft"
	msgWalkRound             = "walk round with it"
	msgAwayFromMetal         = "Away from metal"
	msgTenMetresFrom         = "Ten metres from cars, fences, manhole covers and reinforced floors. Phone, " +
		"keys and watch stay behind."
	msgCraftMotorsOff  = "Craft on, motors off"
	msgPropellersOffIf = "Propellers off if it is to be held by hand. Start the calibration from the ground " +
		"screen or the radio."
	msgLevelOneTurn = "Level, one turn"
	msgHoldLevelArm = "Hold it level at arm's length and turn on the spot with it, once round in ten seconds, " +
		"until it says so."
	msgNoseDownOne    = "Nose down, one turn"
	msgNoseGroundSame = "Nose to the ground, the same turn once more."
	msgLevelWalkRound = "Level, walk round"
	msgOnePersonHolds = "One person holds it level, facing outward, and walks a circle of three metres " +
		"once, slowly."
	msgNoseDownWalk         = "Nose down, walk round"
	msgNoseGroundSameCircle = "Nose to the ground, the same circle once more. For a craft too big to turn with."
	msgReadResult           = "Read the result"
	msgCleanNoteNot         = "Clean: note it. Not clean: ten metres farther from metal, and repeat. Not clean " +
		"twice: the craft stays on the ground."
)

// What judge.go says.
const (
	msgCameBeforeWhat      = "came on before what has to come first"
	msgSwitchEverythingOff = "Switch everything off and begin with the radio."
	msgTheyShould          = "as they should be"
	msgReturnHeightWanted  = "return height wanted"
	msgReturnHeightSet     = "return height set"
)

// What rules.go says.
const (
	msgNothingProve  = "nothing to prove"
	msgTypeSetsNo    = "the type sets no wind limit"
	msgNoWindRead    = "no wind was read today"
	msgReadWindMeter = "Read the wind, by the meter or by hand, and note it."
	msgWindLastHeard = "the wind was last measured %.0f min ago"
	msgReadWindAnew  = "Measure the wind again."
	msgOfForThe      = "%.1f of %.1f m/s%s for the %s"
	msgFliesUpSo     = "%.1f m/s; %s has flown in up to %.1f m/s so far"
	msgWaitLessWind  = "Wait for less wind, fly a drill with the instructor's hands near, or train " +
		"in the simulator."
	msgPilotLimit            = "; the pilot's limit is %.1f"
	msgCellRestsCharged      = "cell %d rests at %.2f V, %.0f %% charged; expected %.2f V (%.0f %%) at least"
	msgCellsStandApart       = "cells stand %.2f V apart, cell %d lowest; expected %.2f V at most"
	msgBalanceChargerMeasure = "Balance it on the charger and measure again; retire it if it comes back."
	msgCellChargedApart      = "%.2f V a cell, %.0f %% charged, %.2f V apart"
	msgAboutMinHover         = "; about %.0f min of hover above the reserve"
	msgAboutMinAbove         = "about %.0f min above the reserve, and %.0f are to be flown"
	msgTakeFullerPack        = "Take a fuller pack, or plan a shorter flight."
	msgNoPackNamed           = "no pack is named"
	msgNamePackGoes          = "Name the pack that goes in, so that its log is kept."
	msgNoSetNoted            = "no set is noted for this craft"
	msgPropellersNoted       = "%d propellers as noted"
	msgFirstVersionNoted     = "the first version noted for this craft"
	msgShowsNoted            = "it shows %s; noted is %s"
	msgLastCalibrationNot    = "its last calibration was not clean"
	msgTenMetresFarther      = "Ten metres farther from metal, and repeat; twice not clean, and it stays on " +
		"the ground."
	msgNoCalibrationThem = "no calibration of them is recorded"
	msgDaysAgo           = "%.0f days ago, of %d"
	msgFeetFtRead        = "Is that the %s in feet? %.0f m is %.0f ft, and %.0f m is %s. Read it again and " +
		"note it with its unit; where %.0f m is right, an instructor overrides this with a reason."
	msgWhatSetLast         = "what was set at the last check"
	msgNothingTallWay      = "nothing tall on the way"
	msgWantedFtOver        = "%s; wanted %.0f m (%.0f ft) over %s"
	msgWhatCourseAsks      = "what the course asks for"
	msgSwitchFirstFlights  = "Switch it on: in the first flights it stays on."
	msgDrillsReachFrom     = "%.0f m; the drills reach %.0f m from home and want %.0f m to spare"
	msgSetWiderOr          = "Set it wider, or the fence will stop the craft during the drill."
	msgPeopleStand         = "%s; the people stand at %.0f m"
	msgBetweenDrillsPeople = "between the drills and the people"
	msgReachesBeyondPeople = "%s; it reaches beyond the people, who stand at %.0f m: it does not keep the " +
		"craft from them"
	msgLandsWhereTook  = "it lands where it took off; the return height of the course is worked out for that"
	msgLandsWherePilot = "it lands where the pilot stands; the return height and the way home of the course " +
		"are not worked out for that"
	msgSetHomeTake = "Set home to the take-off place: in the first flights nothing comes down on the pilot."
	msgDriftedInOf = "drifted %.1f m in 10 s, of %.1f"
)

// What template.go says.
const (
	msgOnTheGround        = "On the ground"
	msgSwitchingOrder     = "Switching on, in this order"
	msgReadyFly           = "Ready to fly"
	msgAirBeforeLesson    = "In the air, before the lesson"
	msgItemBelongsEarlier = "the item %q belongs to an earlier stage"
	msgStagesOrder        = "the stages in order"
	msgItemStandsHere     = "the item %q stands here twice"
	msgEachItemOnce       = "each item once"
	msgItemComputedNo     = "the item %q is computed by no rule"
	msgItemChoices        = "the item %q has %d choices"
	msgTwoOrMore          = "two or more"
	msgItemRunsFrom       = "the item %q runs from %v to %v"
	msgLowUnderHigh       = "low under high"
)

// What cautions.go says.
const (
	msgLowLightNose = "%s: in low light nose and tail are hard to tell. Lights on, near, and stop early."
)

// What compass.go says.
const (
	msgCalibratedToday = "calibrated today at %s"
	msgCalibratedSite  = "calibrated on %s at this site"
)

// What rules.go says.
const (
	msgOutService    = "%s is out of service: %s"
	msgProvingFlight = "this is the proving flight (%s)"
	msgToBeProven    = "to be proven: %s"
	msgNoCourseLaid  = "%s; no course is laid here, so nothing is held against it"
)
